"""What changes with a newer model, in pictures: before and after, side by side or wiped."""
