"""What kind of thing an element is, as far as its IFC type and its name tell."""

from __future__ import annotations

EARTH_TYPES = ("IfcGeographicElement", "IfcSite")
NEIGHBOUR_TYPE = "IfcBuilding"
"""What stands round the building as a block; a model's own building is in parts."""
CONTEXT_TYPES = (*EARTH_TYPES, NEIGHBOUR_TYPE)
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
