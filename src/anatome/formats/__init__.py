"""Reading models and writing results in open formats."""
