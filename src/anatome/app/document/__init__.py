"""What is open: the session with its history and what is picked, cutting it open, opening and saving."""
