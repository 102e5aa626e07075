"""Units of length."""

UNITS = {"metre": 1.0, "centimetre": 0.01, "millimetre": 0.001, "foot": 0.3048, "inch": 0.0254}
"""Metres in one of each unit."""


def plural(unit: str) -> str:
    """Return the name of several of a unit."""
    return {"foot": "feet", "inch": "inches"}.get(unit, f"{unit}s")
