"""What is written on the picture by clicks on the stage."""
