"""Cutting: section planes, and the exact polygons they make of a building. No interface code."""
