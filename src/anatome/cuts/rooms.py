"""Rooms of a model that has none: what walls close round on a floor, cut over the doors, so that lintels close them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.plane import Plane
from anatome.cuts.section import section
from anatome.model.building import Building
from anatome.model.raycast import first_hit

OVER_DOORS = 2.2
"""Metres over a floor at which doors are under their lintels (common practice: doors are 2.0 to 2.1 m high)."""
LOW = 0.75
"""Share of the height to the next floor, where that is lower."""
HEADROOM = 2.0
"""Metres over a floor under which nothing is taken for a ceiling."""
UNDER = 0.03
"""Metres under a level at which one is in the floor."""
JOINT = 0.03
"""Half the width in metres of joints that are closed between parts."""
LEAST, NARROWEST = 1.2, 0.5
"""m² a room has at least, and metres it is wide somewhere: what is less is a shaft or the inside of a wall."""
FLOORED = 0.5
"""Share of a room that has a floor under it; else it is the upper part of a room below."""


@dataclass(frozen=True)
class ClosedRoom:
    """The box of a room in metres, ``lower`` and ``upper`` corner, and the m² of its ``floor``."""

    lower: tuple[float, float, float]
    upper: tuple[float, float, float]
    floor: float


def closed_rooms(building: Building, levels: Sequence[float]) -> list[ClosedRoom]:
    """Return the rooms on floors at some levels, metres, the lowest first; on one floor from the front to the back."""
    found = []
    built = ~(building.earth | building.context)
    top = float(building.bounds_of(built if built.any() else None)[1, 2])
    for level in sorted(levels):
        over = min((other for other in levels if other > level + 1.0), default=top)
        if over - level < 1.0:
            continue
        cut = level + min(OVER_DOORS, LOW * (over - level))
        walls = shapely.unary_union([p.buffer(JOINT, join_style="mitre") for p in _areas(building, cut, built)])
        floor = shapely.unary_union(_areas(building, level - UNDER, built))
        inside = [shapely.Polygon(ring) for part in shapely.get_parts(walls) for ring in getattr(part, "interiors", ())]
        rooms = [hole.buffer(JOINT, join_style="mitre") for hole in inside]
        rooms = [room for room in rooms if _is_room(room, floor)]
        found += [_room(building, room, level, over) for room in sorted(rooms, key=lambda room: room.bounds[1::-1])]
    return found


def _areas(building: Building, level: float, elements: NDArray[np.bool_]) -> list[shapely.Geometry]:
    return list(section(building, Plane((0.0, 0.0, level), (0.0, 0.0, 1.0)), elements).polygons)


def _is_room(room: shapely.Geometry, floor: shapely.Geometry) -> bool:
    if room.area < LEAST or room.buffer(-NARROWEST / 2).is_empty:
        return False
    return bool(room.intersection(floor).area >= FLOORED * room.area)


def _room(building: Building, room: shapely.Geometry, level: float, over: float) -> ClosedRoom:
    """Up to what is over its middle, unless that is a stair."""
    at = room.representative_point()
    hit = first_hit(building, np.array([at.x, at.y, level + 1.0]), np.array([0.0, 0.0, 1.0]))
    clear = over - level if hit is None else 1.0 + hit.distance
    high = min(over, level + clear) if clear > HEADROOM else over
    x0, y0, x1, y1 = room.bounds
    return ClosedRoom((x0, y0, level), (x1, y1, high), float(room.area))
