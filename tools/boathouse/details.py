"""What makes the boathouse a place: lamps, curtains, a workshop, bottles on the bar, reeds on the bank."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import shapely

from tools.boathouse import shapes
from tools.boathouse.ifc_writer import IfcWriter, Kind
from tools.boathouse.shapes import Point

LAMP = Kind("IfcLightFixture", "Glass, opal", "E-LAMP", (0.99, 0.95, 0.84, 1), "POINTSOURCE", "Pendant lamp")
TUBE = Kind("IfcLightFixture", "Glass, opal", "E-LAMP", (0.97, 0.96, 0.92, 1), "DIRECTIONSOURCE", "Hall lamp")
CORD = (0.22, 0.22, 0.22, 1.0)
CURTAIN = Kind("IfcFurniture", "Linen", "I-CURTAIN", (0.89, 0.86, 0.79, 1), None, "Curtain")
WORKBENCH = Kind("IfcFurniture", "Beech", "I-WORKSHOP", (0.76, 0.63, 0.47, 1), "TABLE", "Workbench")
TOOLS = Kind("IfcFurniture", "Steel", "I-WORKSHOP", (0.42, 0.45, 0.47, 1), None, "Tools")
GLASSWARE = Kind("IfcFurniture", "Stoneware", "I-BAR", (0.52, 0.60, 0.56, 1), None, "Bottles")
SILVER = Kind("IfcFurniture", "Pewter", "I-BAR", (0.74, 0.74, 0.73, 1), None, "Cups")
REEDS = Kind("IfcBuildingElementProxy", "Reeds", "L-PLANTS", (0.66, 0.70, 0.50, 1), None)
EAST = (1.0, 0.0, 0.0)


def add_details(ifc: IfcWriter, storeys: dict[str, Any], site: Any, ground: Any, wing: Point, wing_angle: float) -> None:
    """All of it; ``ground`` gives the height of the bank at (n, 2) points."""
    _lamps(ifc, storeys, wing, wing_angle)
    _curtains(ifc, storeys["Upper floor"])
    _workshop(ifc, storeys["Ground floor"])
    _bar(ifc, storeys["Upper floor"])
    _reeds(ifc, site, ground)


def _lamps(ifc: IfcWriter, storeys: dict[str, Any], wing: Point, wing_angle: float) -> None:
    """Over the club tables, along the hall, in the training room."""
    shade = shapes.lathe([(0.02, 0.20), (0.05, 0.20), (0.21, 0.02), (0.21, 0.0), (0.195, 0.0), (0.04, 0.18), (0.02, 0.18)], 20)
    bulb = shapes.lathe([(0.0, 0.03), (0.045, 0.05), (0.06, 0.09), (0.045, 0.13), (0.0, 0.15)], 12)
    for x, y in ((21.6, 2.2), (24.6, 2.2), (27.6, 2.2), (22.0, 9.9), (25.0, 9.9)):
        cord = shapes.rod((0, 0, 0.2), (0, 0, 1.3), 0.006, 5)
        ifc.copy(LAMP, "Pendant lamp", storeys["Upper floor"], "lamp", [(shade, CORD), bulb, (cord, CORD)], ((x, y, 5.15), EAST))
    body, wires = shapes.box((-1.2, -0.07, 0.0), (1.2, 0.07, 0.06)), []
    for x in (-0.9, 0.9):
        wires.append((shapes.rod((x, 0, 0.06), (x, 0, 0.9), 0.005, 4), CORD))
    for x in (3.9, 7.8, 11.7, 15.6):
        for y in (3.4, 8.4):
            ifc.copy(TUBE, "Hall lamp", storeys["Ground floor"], "tube", [body, *wires], ((x, y, 5.3), EAST))
    a = math.radians(wing_angle)
    along, right = np.array([math.cos(a), math.sin(a)]), np.array([math.sin(a), -math.cos(a)])
    for i in range(4):
        x, y = np.asarray(wing) + along * (1.6 + 2.9 * i) + right * 3.5
        cord = shapes.rod((0, 0, 0.2), (0, 0, 0.9), 0.006, 5)
        parts = [(shade, CORD), bulb, (cord, CORD)]
        ifc.copy(LAMP, "Training lamp", storeys["Ground floor"], "training lamp", parts, ((float(x), float(y), 2.7), EAST))


def _curtains(ifc: IfcWriter, storey: Any) -> None:
    """At the glazed doors of the clubroom, drawn back to the sides."""
    for start, end in ((20.4, 24.0), (25.2, 28.8)):
        for x0 in (start - 0.25, end - 0.45):
            x = np.linspace(x0, x0 + 0.7, 57)
            folds = shapely.LineString(np.column_stack([x, 0.30 + 0.035 * np.sin((x - x0) * 2 * math.pi / 0.1)]))
            cloth = folds.buffer(0.008, cap_style="flat", join_style="mitre")
            ifc.mesh(CURTAIN, "Curtain", storey, shapes.prism(cloth, 3.43, 5.92))
        rail = shapes.rod((start - 0.35, 0.30, 5.95), (end + 0.35, 0.30, 5.95), 0.014, 8)
        ifc.mesh(CURTAIN, "Curtain rail", storey, (rail, CORD))


def _workshop(ifc: IfcWriter, storey: Any) -> None:
    """A bench against the west wall of the hall, tools over it, a shelf with boxes."""
    parts: list[Any] = [shapes.box((0.16, 6.95, 0.84), (0.86, 9.05, 0.90)), shapes.box((0.20, 7.1, 0.22), (0.80, 8.9, 0.25))]
    parts += [shapes.box((x, y, 0), (x + 0.08, y + 0.08, 0.84)) for x in (0.20, 0.74) for y in (7.05, 7.96, 8.87)]
    for i, (wide, tall) in enumerate(((0.36, 0.22), (0.28, 0.30), (0.42, 0.18), (0.24, 0.26))):
        y = 7.2 + 0.44 * i
        parts.append((shapes.box((0.28, y, 0.25), (0.70, y + wide, 0.25 + tall)), (0.52, 0.58, 0.55, 1.0)))
    ifc.mesh(WORKBENCH, "Workbench", storey, *parts)
    board = shapes.box((0.145, 7.1, 1.25), (0.165, 8.9, 2.05))
    tools: list[Any] = [(board, WORKBENCH.colour)]
    for i in range(9):
        y, long = 7.22 + 0.19 * i, 0.22 + 0.07 * ((i * 5) % 4)
        tools.append(shapes.box((0.165, y, 1.92 - long), (0.185, y + 0.03, 1.92)))
        tools.append(shapes.box((0.165, y - 0.035, 1.92), (0.195, y + 0.065, 1.97)))
    vice = shapes.join(
        shapes.box((0.62, 7.15, 0.90), (0.78, 7.31, 1.02)), shapes.rod((0.66, 7.06, 0.94), (0.66, 7.4, 0.94), 0.012, 6)
    )
    ifc.mesh(TOOLS, "Tools", storey, *tools, vice)


def _bar(ifc: IfcWriter, storey: Any) -> None:
    """Bottles and cups on the shelves behind the bar."""
    bottle = shapes.lathe([(0.0, 0.0), (0.036, 0.0), (0.036, 0.17), (0.014, 0.22), (0.014, 0.29), (0.0, 0.29)], 10)
    cup = shapes.lathe([(0.0, 0.0), (0.05, 0.0), (0.015, 0.03), (0.015, 0.08), (0.06, 0.14), (0.07, 0.22), (0.0, 0.20)], 12)
    colours = ((0.36, 0.46, 0.41, 1.0), (0.60, 0.53, 0.40, 1.0), (0.52, 0.60, 0.56, 1.0))
    for z in (4.33, 4.73):
        bottles = [(shapes.moved(bottle, (29.68, 8.15 + 0.17 * i, z)), colours[(i * 2 + i // 3) % 3]) for i in range(18)]
        ifc.mesh(GLASSWARE, "Bottles", storey, *bottles)
    ifc.mesh(SILVER, "Cups", storey, *(shapes.moved(cup, (29.68, 8.3 + 0.42 * i, 5.13)) for i in range(7)))


def _reeds(ifc: IfcWriter, site: Any, ground: Any) -> None:
    """Clumps of reeds where the bank meets the water, beside the slipway and the pontoon."""
    chance = np.random.default_rng(7)
    for number, x in enumerate((17.4, 18.3, 19.6, 25.2, 26.3, 27.9, 29.2, 30.6, 31.5)):
        blades = []
        for _ in range(16):
            place = np.array([x + chance.normal(0, 0.32), -7.6 + chance.normal(0, 0.28)])
            foot = float(ground(place[None])[0]) - 0.1
            tall, lean, way = chance.uniform(1.1, 1.9), chance.uniform(0.02, 0.22), chance.uniform(0, 2 * math.pi)
            tip = (place[0] + lean * math.cos(way), place[1] + lean * math.sin(way), foot + tall)
            blades.append(shapes.rod((place[0], place[1], foot), tip, 0.013, 4))
        ifc.mesh(REEDS, f"Reeds {number + 1}", site, shapes.join(*blades))
