"""Films in the window: the strip of shots, and any moment of them on the stage."""
