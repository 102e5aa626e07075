"""The building as opened: elements with their triangles, storeys, spaces and units. No interface code."""
