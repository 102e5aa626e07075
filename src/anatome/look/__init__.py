"""How a picture looks: fills, lines, light. No interface code."""
