"""Dialogs that are no way of sending out."""
