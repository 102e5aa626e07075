"""Sheets in the window: the one that is open, what its frames show, hands on it, the row of all of them."""
