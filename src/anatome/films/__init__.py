"""Moving pictures as values: shots, and what is seen at a time."""
