"""Looking at the building: cameras, projections and standard views. No interface code."""
