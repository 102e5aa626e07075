"""Films put to work: their frames are drawn, kept, and become a file."""
