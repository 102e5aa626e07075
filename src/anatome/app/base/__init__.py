"""What all of the window is made with: theme, units, typed numbers, small widgets, entries of commands, work and pictures."""
