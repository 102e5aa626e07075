"""Anatome cuts open a building model and makes pictures of what the cut shows."""

__version__ = "0.1.0"
