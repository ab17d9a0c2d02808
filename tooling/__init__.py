"""Set-up, start, test and check of the application. Standard library only; imports nothing of velvet_moth."""
