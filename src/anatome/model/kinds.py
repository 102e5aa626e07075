"""What kind of thing an element is, as far as its IFC type and its name tell."""

from __future__ import annotations

EARTH_TYPES = ("IfcGeographicElement", "IfcSite")
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
