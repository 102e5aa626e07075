"""What stands round the building and belongs to the project, not to the model: ground, neighbours, people and trees."""
