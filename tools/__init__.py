"""What is used to make Anatome and does not ship with it."""
