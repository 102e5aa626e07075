"""Notes on the picture: dimensions, levels, labels, room names and marks, anchored to the building and drawn in mm on paper."""
