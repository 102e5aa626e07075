"""What stands in and around the boathouse: boats and racks, furniture, the bank, the river."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from tools.boathouse import shapes
from tools.boathouse.ifc_writer import IfcWriter, Kind
from tools.boathouse.shapes import Point

BOAT = Kind("IfcFurniture", "Carbon and cedar", "I-BOAT", (0.90, 0.87, 0.78, 1), None, "Racing shell")
RACK = Kind("IfcFurniture", "Steel", "I-RACK", (0.33, 0.36, 0.37, 1), "SHELF", "Boat rack")
OAR = Kind("IfcFurniture", "Carbon", "I-OAR", (0.20, 0.21, 0.22, 1), None, "Oar")
LOCKER = Kind("IfcFurniture", "Birch ply", "I-FURN", (0.83, 0.76, 0.62, 1), "FILECABINET", "Locker")
BENCH = Kind("IfcFurniture", "Oak", "I-FURN", (0.70, 0.57, 0.42, 1), "CHAIR", "Bench")
TABLE = Kind("IfcFurniture", "Oak", "I-FURN", (0.72, 0.60, 0.45, 1), "TABLE", "Table")
CHAIR = Kind("IfcFurniture", "Ash", "I-FURN", (0.62, 0.52, 0.41, 1), "CHAIR", "Chair")
BAR = Kind("IfcFurniture", "Oak", "I-FURN", (0.45, 0.36, 0.29, 1), None, "Bar")
TRAINER = Kind("IfcFurniture", "Steel", "I-TRAINER", (0.30, 0.33, 0.35, 1), None, "Rowing trainer")
EARTH = Kind("IfcGeographicElement", "Earth", "L-TERRAIN", (0.72, 0.74, 0.62, 1), "TERRAIN")
WATER = Kind("IfcGeographicElement", "Water", "L-WATER", (0.66, 0.76, 0.78, 1), "USERDEFINED")
SLIP = Kind("IfcSlab", "Concrete", "L-SLIPWAY", (0.74, 0.73, 0.70, 1), "USERDEFINED", "Slipway")
PONTOON = Kind("IfcSlab", "Larch", "L-PONTOON", (0.66, 0.57, 0.46, 1), "USERDEFINED", "Pontoon")
PILE = Kind("IfcPile", "Steel", "L-PONTOON", (0.35, 0.37, 0.38, 1), "DRIVEN", "Mooring pile")
EAST = (1.0, 0.0, 0.0)
WATER_LEVEL = -2.1


def furnish(ifc: IfcWriter, storeys: dict[str, Any], wing: Point, wing_angle: float) -> None:
    """Everything loose inside."""
    ground, upper = storeys["Ground floor"], storeys["Upper floor"]
    _boats(ifc, ground)
    for i in range(14):
        for y, room in ((0.45, "river"), (11.55, "bank")):
            block = shapes.box((-0.2, -0.25, 0), (0.2, 0.25, 1.8))
            ifc.copy(LOCKER, f"Locker, {room} changing room", ground, "locker", [block], ((21.6 + 0.42 * i, y, 0), EAST))
    slats = [shapes.box((-1.0, -0.2 + 0.14 * k, 0.42), (1.0, -0.08 + 0.14 * k, 0.46)) for k in range(3)]
    legs = [shapes.box((x - 0.03, -0.18, 0), (x + 0.03, 0.18, 0.42)) for x in (-0.8, 0.8)]
    for x in (22.4, 24.8, 27.2):
        for y in (2.4, 9.4):
            ifc.copy(BENCH, "Changing bench", ground, "bench", [*slats, *legs], ((x, y, 0), EAST))
    _clubroom(ifc, upper)
    _trainers(ifc, ground, wing, wing_angle)


def _boats(ifc: IfcWriter, storey: Any) -> None:
    """Racks along the bank wall and in the middle of the hall, boats on every level."""
    sizes = {"Eight": (17.4, 0.60, 0.34), "Four": (12.6, 0.52, 0.30), "Pair": (9.8, 0.44, 0.26), "Single": (8.0, 0.32, 0.22)}
    hulls = {name: shapes.hull(*size) for name, size in sizes.items()}
    rows = [
        (10.9, ["Eight", "Eight", "Four", "Pair"]),
        (9.6, ["Eight", "Four", "Four", "Pair"]),
        (6.6, ["Four", "Four", "Pair", "Single"]),
        (5.6, ["Four", "Pair", "Pair", "Single"]),
    ]
    rigger = (0.32, 0.34, 0.35, 1.0)
    for y, boats in rows:
        for level, name in enumerate(boats):
            z = 0.55 + 0.95 * level
            _, width, depth = sizes[name]
            seats = {"Eight": 8, "Four": 4, "Pair": 2, "Single": 1}[name]
            arms = [
                shapes.beam((x, s * width * 0.4, depth), (x + 0.2, s * 0.42, depth + 0.1), 0.025, 0.025)
                for i in range(seats)
                for s in (-1, 1)
                for x in [(i - (seats - 1) / 2) * 1.3]
            ]
            thwarts = [
                shapes.box((x - 0.12, -width * 0.36, depth * 0.62), (x + 0.12, width * 0.36, depth * 0.68))
                for i in range(seats)
                for x in [(i - (seats - 1) / 2) * 1.3]
            ]
            parts = [hulls[name], *((a, rigger) for a in arms), *((t, BENCH.colour) for t in thwarts)]
            ifc.copy(BOAT, f"{name}", storey, f"boat {name}", parts, ((9.8, y, z), EAST))
        for x in (4.4, 7.4, 12.2, 15.2):
            ifc.mesh(RACK, "Rack post", storey, shapes.box((x - 0.05, y + 0.50, 0), (x + 0.05, y + 0.60, 4.0)))
            for level in range(4):
                z = 0.50 + 0.95 * level
                ifc.mesh(RACK, "Rack arm", storey, shapes.box((x - 0.03, y - 0.42, z), (x + 0.03, y + 0.50, z + 0.05)))
    for i in range(16):
        x = 14.4 + 0.26 * i
        shaft = shapes.rod((x, 0.42, 0.05), (x, 0.26, 3.1), 0.022, 8)
        blade = shapes.box((x - 0.10, 0.24, 3.1), (x + 0.10, 0.27, 3.6))
        colour = (0.18, 0.50, 0.45, 1.0) if i % 2 else (0.90, 0.88, 0.82, 1.0)
        ifc.mesh(OAR, "Oar", storey, shaft, (blade, colour))
    for x in (3.0, 8.5):
        for end in (-1.6, 1.6):
            legs = [
                shapes.beam((x + end - 0.3, 2.8, 0), (x + end + 0.3, 2.8, 0.8), 0.05, 0.05),
                shapes.beam((x + end + 0.3, 2.8, 0), (x + end - 0.3, 2.8, 0.8), 0.05, 0.05),
            ]
            ifc.mesh(RACK, "Trestle", storey, shapes.join(*legs))


def _clubroom(ifc: IfcWriter, storey: Any) -> None:
    """Tables with chairs, and a bar with stools."""
    floor = 3.4
    top = [shapes.box((-0.9, -0.4, 0.71), (0.9, 0.4, 0.75))]
    top += [shapes.box((x - 0.035, y - 0.035, 0), (x + 0.035, y + 0.035, 0.71)) for x in (-0.8, 0.8) for y in (-0.32, 0.32)]
    seat = [shapes.box((-0.21, -0.21, 0.43), (0.21, 0.21, 0.46)), shapes.box((-0.21, 0.18, 0.60), (0.21, 0.21, 0.86))]
    seat += [
        shapes.box((x - 0.018, y - 0.018, 0), (x + 0.018, y + 0.018, 0.86 if y > 0 else 0.43))
        for x in (-0.19, 0.19)
        for y in (-0.19, 0.19)
    ]
    for tx, ty in ((21.6, 2.2), (24.6, 2.2), (27.6, 2.2), (22.0, 9.9), (25.0, 9.9)):
        ifc.copy(TABLE, "Club table", storey, "table", top, ((tx, ty, floor), EAST))
        for x in (-0.45, 0.45):
            ifc.copy(CHAIR, "Club chair", storey, "chair", seat, ((tx + x, ty + 0.62, floor), EAST))
            ifc.copy(CHAIR, "Club chair", storey, "chair", seat, ((tx + x, ty - 0.62, floor), (-1.0, 0.0, 0.0)))
    counter = [
        shapes.box((28.0, 8.0, floor), (28.5, 11.4, floor + 1.02)),
        shapes.box((27.9, 7.9, floor + 1.02), (28.6, 11.5, floor + 1.08)),
    ]
    ifc.mesh(BAR, "Bar counter", storey, *counter)
    shelves = [shapes.box((29.55, 8.0, floor + z), (29.84, 11.4, floor + z + 0.03)) for z in (0.9, 1.3, 1.7)]
    ifc.mesh(BAR, "Bar shelves", storey, *shelves)
    stool = [
        shapes.rod((0, 0, 0.70), (0, 0, 0.74), 0.18, 14),
        shapes.rod((0, 0, 0.02), (0, 0, 0.70), 0.025, 8),
        shapes.rod((0, 0, 0), (0, 0, 0.02), 0.17, 14),
    ]
    for i in range(5):
        ifc.copy(CHAIR, "Bar stool", storey, "stool", stool, ((27.5, 8.3 + 0.7 * i, floor), EAST))


def _trainers(ifc: IfcWriter, storey: Any, wing: Point, wing_angle: float) -> None:
    """Rowing trainers in a row, turned with the wing."""
    parts = [
        shapes.beam((-1.1, 0, 0.25), (0.9, 0, 0.32), 0.08, 0.06),
        shapes.rod((1.0, -0.12, 0.45), (1.0, 0.12, 0.45), 0.26, 18),
        shapes.box((-0.45, -0.16, 0.34), (-0.15, 0.16, 0.40)),
        shapes.box((-1.1, -0.3, 0), (-1.02, 0.3, 0.22)),
        shapes.box((0.85, -0.3, 0), (0.95, 0.3, 0.2)),
        shapes.rod((0.55, -0.22, 0.6), (0.55, 0.22, 0.6), 0.016, 6),
    ]
    a = math.radians(wing_angle)
    along, right = np.array([math.cos(a), math.sin(a)]), np.array([math.sin(a), -math.cos(a)])
    for i in range(8):
        x, y = np.asarray(wing) + along * (1.6 + 1.25 * i) + right * 4.4
        ifc.copy(
            TRAINER,
            "Rowing trainer",
            storey,
            "trainer",
            parts,
            ((float(x), float(y), 0.0), (float(right[0]), float(right[1]), 0.0)),
        )


def ground_height(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """Height of the bank, (n, 2) → (n,): a level bench for the house, falling to the river, rising behind."""
    x, y = points[:, 0], points[:, 1]
    fall = np.clip((-2.0 - y) / 9.0, 0, 1)
    rise = np.clip((y - 14.0) / 24.0, 0, 1)
    beside = np.clip((np.abs(x - 16) - 19) / 14, 0, 1)
    wave = 0.12 * np.sin(x * 0.33) * np.cos(y * 0.27)
    clear_of_house = np.clip((np.abs(x - 16) - 18) / 6, 0, 1) + fall + np.clip((y - 28) / 6, 0, 1)
    smooth = fall * fall * (3 - 2 * fall)
    return np.asarray(
        -0.30 - 3.2 * smooth + 1.5 * rise * beside + 0.5 * np.clip((y - 28) / 10, 0, 1) + wave * np.clip(clear_of_house, 0, 1)
    )


def park(ifc: IfcWriter, site: Any) -> None:
    """The bank as a solid, the river, the slipway and the pontoon."""
    xs, ys = np.linspace(-14, 46, 41), np.linspace(-22, 38, 41)
    gx, gy = np.meshgrid(xs, ys, indexing="ij")
    plan = np.column_stack([gx.ravel(), gy.ravel()])
    top = np.column_stack([plan, ground_height(plan)])
    bottom = np.column_stack([plan, np.full(len(plan), -4.6)])
    n, w = len(plan), len(ys)
    i, j = (g.ravel() for g in np.meshgrid(np.arange(len(xs) - 1), np.arange(w - 1), indexing="ij"))
    a, b = i * w + j, (i + 1) * w + j
    upper = np.concatenate([np.column_stack([a, b, b + 1]), np.column_stack([a, b + 1, a + 1])])
    border = [
        *(k * w for k in range(len(xs))),
        *((len(xs) - 1) * w + k for k in range(1, w)),
        *(k * w + w - 1 for k in range(len(xs) - 2, -1, -1)),
        *(k for k in range(w - 2, 0, -1)),
    ]
    ring = np.array(border)
    nxt = np.roll(ring, -1)
    sides = np.concatenate([np.column_stack([ring + n, nxt + n, nxt]), np.column_stack([ring + n, nxt, ring])])
    ifc.mesh(
        EARTH,
        "River bank",
        site,
        shapes.outward((np.concatenate([top, bottom]), np.concatenate([upper, upper[:, ::-1] + n, sides]))),
    )

    river = shapely.box(-14, -22, 46, -7.2)
    ifc.mesh(WATER, "River", site, shapes.prism(river, WATER_LEVEL - 0.12, WATER_LEVEL))
    slip = shapely.box(2.0, -12.0, 16.0, -0.6)
    ifc.mesh(
        SLIP,
        "Slipway",
        site,
        shapes.prism(slip, lambda p: -0.32 + 0.21 * (p[:, 1] + 0.6) - 0.2, lambda p: -0.06 + 0.21 * (p[:, 1] + 0.6)),
    )
    deck = WATER_LEVEL + 0.35
    ifc.mesh(PONTOON, "Pontoon float", site, shapes.box((17.5, -18.6, deck - 0.5), (33.5, -15.9, deck - 0.06)))
    for board in np.arange(64) * 0.25 + 17.5:
        low, high = (float(board), -18.7, deck - 0.06), (float(board) + 0.235, -15.8, deck)
        ifc.mesh(PONTOON, "Pontoon board", site, shapes.box(low, high))
    for pile in (17.2, 25.5, 33.8):
        ifc.mesh(PILE, "Mooring pile", site, shapes.rod((pile, -18.9, -4.2), (pile, -18.9, deck + 1.3), 0.14, 16))
    gang = shapes.beam((22.0, -8.6, -1.35), (22.0, -15.9, deck + 0.02), 1.4, 0.12)
    ifc.mesh(PONTOON, "Gangway", site, gang)
