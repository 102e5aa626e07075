"""What kind of thing an element is, as far as its IFC type and its name tell."""

from __future__ import annotations

import re

EARTH_TYPES = ("IfcGeographicElement", "IfcSite")
NEIGHBOUR_TYPE = "IfcBuilding"
"""What stands round the building as a block; a model's own building is in parts."""
CONTEXT_TYPES = (*EARTH_TYPES, NEIGHBOUR_TYPE)
"""Drawn first where cut, so that what is built lies over it."""
FURNITURE_TYPES = (
    "IfcFurnishingElement",
    "IfcFurniture",
    "IfcSystemFurnitureElement",
    "IfcSanitaryTerminal",
    "IfcFlowTerminal",
    "IfcElectricAppliance",
    "IfcLightFixture",
)
RAILING_TYPES = ("IfcRailing",)
PLANTING_WORDS = ("tree", "shrub", "hedge", "plant", "bush")
LAMP_TYPES = ("IfcLightFixture", "IfcLamp")
LAMP_WORDS = ("lamp", "luminaire", "light fixture", "leuchte", "lampe", "luminária")


def is_lamp(element_type: str, name: str) -> bool:
    """Return whether an element gives light: by its type, or its name where the type says only that it is a terminal or
    furniture."""
    if element_type in LAMP_TYPES:
        return True
    return element_type in FURNITURE_TYPES and any(word in name.lower() for word in LAMP_WORDS)


def use_told_by(name: str) -> str:
    """Return what a space is used for, as far as its name tells: “Bedroom 2” and “Bedroom 2b” are bedrooms."""
    return re.sub(r"[\s,._-]*\b[A-Za-z]?\d+[A-Za-z]?\b[\s,._-]*", " ", name).strip() or name
