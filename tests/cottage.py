"""A small invented house of two storeys with a stair, the keeper's at the boathouse: a third model to try things on."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import shapely

from tools.boathouse.ifc_writer import IfcWriter, Kind
from tools.boathouse.shapes import box, join, prism

GREY = (0.7, 0.7, 0.7, 1.0)
WALL = Kind("IfcWall", "Brick", "A-WALL", (0.7, 0.45, 0.4, 1.0))
SLAB = Kind("IfcSlab", "Concrete", "A-SLAB", GREY)
ROOF = Kind("IfcRoof", "Slate", "A-ROOF", (0.3, 0.3, 0.35, 1.0))
STAIR = Kind("IfcStairFlight", "Oak", "A-STAIR", (0.8, 0.7, 0.5, 1.0))
LONG, DEEP, HIGH = 9.0, 6.0, 2.8


def write_cottage(path: Path) -> Path:
    """Write it as IFC4 and return the path."""
    ifc = IfcWriter("Keeper's house")
    site = ifc.spatial("IfcSite", "Meadow", ifc.root)
    building = ifc.spatial("IfcBuilding", "Keeper's house", site)
    levels = {"Ground floor": 0.0, "Upper floor": HIGH}
    storeys = {name: ifc.spatial("IfcBuildingStorey", name, building, Elevation=level) for name, level in levels.items()}
    for name, level in levels.items():
        into = storeys[name]
        whole, well = shapely.box(0, 0, LONG, DEEP), shapely.box(5.2, 1.2, 8.2, 2.3)
        floor = whole.difference(well) if level else whole
        ifc.mesh(SLAB, "Floor", into, prism(floor, level - 0.25, level))
        for x0, y0, x1, y1 in (
            (0, 0, LONG, 0.3),
            (0, DEEP - 0.3, LONG, DEEP),
            (0, 0.3, 0.3, DEEP - 0.3),
            (LONG - 0.3, 0.3, LONG, DEEP - 0.3),
        ):
            ifc.mesh(WALL, "Outer wall", into, box((x0, y0, level), (x1, y1, level + HIGH - 0.25)))
        ifc.mesh(WALL, "Partition", into, box((4.6, 0.3, level), (4.72, DEEP - 0.3, level + HIGH - 0.25)))
        for room, (x0, x1) in (("Parlour", (0.3, 4.6)), ("Hall" if not level else "Bedroom", (4.72, LONG - 0.3))):
            profile = [(x0, 0.3), (x1, 0.3), (x1, DEEP - 0.3), (x0, DEEP - 0.3)]
            _, shape = ifc._shape([ifc.extrusion(profile, level, HIGH - 0.3)], "SweptSolid")
            ifc.spatial("IfcSpace", f"{room} {name}", into, LongName=room, Representation=shape)
    treads = [box((5.2 + 0.25 * i, 1.25, 0.0), (5.45 + 0.25 * i, 2.25, 0.2333 * (i + 1))) for i in range(12)]
    ifc.mesh(STAIR, "Stair", storeys["Ground floor"], join(*treads))

    def slope(points: np.ndarray) -> np.ndarray:
        return 2 * HIGH + 0.8 * (DEEP / 2 - np.abs(points[:, 1] - DEEP / 2))

    for y0, y1 in ((-0.4, DEEP / 2), (DEEP / 2, DEEP + 0.4)):
        half = shapely.box(-0.3, y0, LONG + 0.3, y1)
        ifc.mesh(ROOF, "Roof side", storeys["Upper floor"], prism(half, slope, lambda p: slope(p) + 0.2))
    ifc.finish().write(str(path))
    return path
