"""The rules and the computation: pure Python and NumPy. Imports nothing of store, web or demo."""
