"""Scenes shown to others: full screen, one after the other."""
