"""What kind of thing an element is, as far as its IFC type and its name tell."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import Building

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


@lru_cache(maxsize=2)
def earth_mask(building: Building) -> NDArray[np.bool_]:
    """(E,) True for ground and water and what grows there rather than building. Asked for at every movement."""
    mask = np.array([e.type in EARTH_TYPES for e in building.elements], bool)
    mask.flags.writeable = False
    return mask
