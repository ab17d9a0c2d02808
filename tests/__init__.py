"""The tests, laid out as the package; support/ holds what several of them share."""
