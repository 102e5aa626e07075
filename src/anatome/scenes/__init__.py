"""The project as a value: what the stage shows, the saved scenes, edits, history and storage. No interface code."""
