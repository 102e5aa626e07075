"""What a cut face says of rooms and build-ups: the clear room about a place, and what lies behind its bounds in order."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.section import Section
from anatome.model.building import Building, Space

Array = NDArray[np.float64]
WAYS = {"right": (1.0, 0.0), "left": (-1.0, 0.0), "up": (0.0, 1.0), "down": (0.0, -1.0)}
TOUCH = 0.06
"""Metres of air within which layers of one build-up follow one another: that of battens is part of it."""
TRIES = 9
"""Places looked at along the width, and along the depth, of a room."""
LEAST = 0.6
"""Metres that a room is clear at least, both ways."""


MOVABLE = frozenset(
    {
        *("IfcStair", "IfcStairFlight", "IfcRailing", "IfcFurniture", "IfcFurnishingElement", "IfcSystemFurnitureElement"),
        *("IfcBuildingElementProxy", "IfcLightFixture", "IfcTransportElement"),
    }
)
"""What does not bound a room one measures: what stands in it."""
OPENED = frozenset({"IfcDoor", "IfcWindow"})
"""What bounds it worse than walls do."""


@dataclass(frozen=True, eq=False)
class BuildUpLayer:
    """A part a line goes through: its number, and from where to where on the line, metres from its start."""

    element: int
    start: float
    end: float


@dataclass(frozen=True, eq=False)
class CutRoom:
    """A space as a cut face shows it: a clear ``place`` (2,) in the plane's own metres, what lies behind it each way, and (2,)
    the lower and the upper corner of its box there."""

    space: Space
    place: Array
    behind: dict[str, tuple[BuildUpLayer, ...]]
    low: Array
    high: Array

    def clear(self, way: str) -> float:
        """Metres from the place to the first part."""
        return self.behind[way][0].start

    def bound(self, way: str) -> Array:
        """Return (2,) where that part begins, or the space ends."""
        found = self.place + self.clear(way) * np.array(WAYS[way])
        return np.clip(found, self.low, self.high)


class CutFaceRooms:
    """A section, asked from places in its air."""

    def __init__(self, building: Building, found: Section) -> None:
        self.building = building
        built = np.array([building.elements[e].type not in MOVABLE for e in found.element.tolist()], bool)
        self.found = Section(found.plane, found.polygons[built], found.element[built], ())
        self._tree = shapely.STRtree(self.found.polygons)
        self._far = float(2 * building.size)

    def behind(self, place: Array, way: str) -> tuple[BuildUpLayer, ...]:
        """Return the parts a line from a place goes through one after another, up to the first air; nothing where there are
        none."""
        ray = shapely.LineString([place, place + self._far * np.array(WAYS[way])])
        stretches = []
        for number in self._tree.query(ray, predicate="intersects"):
            met = shapely.intersection(self.found.polygons[number], ray)
            for piece in shapely.get_parts(met):
                away = np.linalg.norm(shapely.get_coordinates(piece) - place, axis=1)
                if len(away) > 1 and np.ptp(away) > 1e-4:
                    stretches.append(BuildUpLayer(int(self.found.element[number]), float(away.min()), float(away.max())))
        stretches.sort(key=lambda layer: layer.start)
        found: list[BuildUpLayer] = []
        for layer in stretches:
            if found and layer.start > found[-1].end + TOUCH:
                break
            found.append(layer)
        return tuple(found)

    def rooms(self) -> list[CutRoom]:
        """Return the spaces the plane goes through, each with the clearest place that was found in it."""
        return [room for space in self.building.spaces if (room := self.room(space)) is not None]

    def room(self, space: Space) -> CutRoom | None:
        """Return one space, or None where the plane passes it by or nothing bounds it."""
        plane = self.found.plane
        corners = np.array([[x, y, z] for x in _ends(space, 0) for y in _ends(space, 1) for z in _ends(space, 2)])
        away = plane.distance(corners)
        if away.min() > -1e-6 or away.max() < 1e-6:
            return None
        flat = plane.flat(corners)
        low, high = flat.min(axis=0), flat.max(axis=0)
        shares = (np.arange(TRIES) + 0.5) / TRIES
        best: tuple[float, CutRoom] | None = None
        for x in low[0] + shares * (high[0] - low[0]):
            for y in (low[1] + shares * (high[1] - low[1])) if plane.is_level else (low[1] + 0.45 * (high[1] - low[1]),):
                place = np.array([x, y])
                spot = plane.raised(place)
                if not ((spot >= np.array(space.lower) - 1e-6) & (spot <= np.array(space.upper) + 1e-6)).all():
                    continue
                if len(self._tree.query(shapely.Point(place), predicate="intersects")):
                    continue
                behind = {way: self.behind(place, way) for way in WAYS}
                if not all(behind.values()):
                    continue
                room = CutRoom(space, place, behind, low, high)
                across, upward = room.clear("left") + room.clear("right"), room.clear("up") + room.clear("down")
                if min(across, upward) < LEAST:
                    continue
                # A place in the middle of a wide and high piece of air is the best to write in.
                even = min(room.clear("left"), room.clear("right")) + min(room.clear("up"), room.clear("down"))
                score = min(across, upward) + 0.5 * even
                if best is None or score > best[0]:
                    best = score, room
        return None if best is None else best[1]


def through_another(building: Building, space: Space, places: Array) -> bool:
    """Return whether one of (n, 3) places lies in another space, and not in this one."""
    inside = (places > np.array(space.lower) + 0.05).all(axis=1) & (places < np.array(space.upper) - 0.05).all(axis=1)
    for other in building.spaces:
        held = (places > np.array(other.lower) + 0.05).all(axis=1) & (places < np.array(other.upper) - 0.05).all(axis=1)
        if other.id != space.id and (held & ~inside).any():
            return True
    return False


def _ends(space: Space, axis: int) -> tuple[float, float]:
    return space.lower[axis], space.upper[axis]
