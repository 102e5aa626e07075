"""Exploded pictures: groups of elements drawn apart along a direction, with thin travel lines from one to the next."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import Field

from anatome.cuts.plane import Plane, Vector
from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.values import FARTHEST, Value

Array = NDArray[np.float64]

HEADROOM = 1.9
"""Metres over a floor from which a ceiling, a slab or a roof lies overhead."""
LEAST_GAP, LEAST_STOREY = 2.5, 1.5
"""Metres between storeys that are drawn apart, at least; and that floors lie apart which are of two storeys."""
OVERHEAD = ("Roof", "Slab", "Covering")
MANY_CORNERS = 8
"""Corners from which a travel line each would be a fence; then the smallest rectangle round the group has them."""


class ApartGroup(Value):
    """Elements drawn apart together, ``distance`` metres when wide open."""

    name: str = Field(max_length=500)
    what: Selection
    distance: float = Field(ge=-FARTHEST, le=FARTHEST)


class Exploded(Value):
    """Groups drawn apart along one ``direction``. What is in no group stays; what is in several goes with the first."""

    groups: tuple[ApartGroup, ...] = Field(default=(), max_length=200)
    direction: Vector = (0.0, 0.0, 1.0)
    lines: bool = Field(default=True, description="travel lines are drawn")

    @property
    def way(self) -> Array:
        """(3,) the unit direction."""
        given = np.array(self.direction)
        length = float(np.linalg.norm(given))
        return given / length if length > 0 else np.array([0.0, 0.0, 1.0])

    def group_of(self, building: Building) -> NDArray[np.int64]:
        """Return (E,) the number of the group of each element, −1 for what stays."""
        found = np.full(len(building.elements), -1)
        for number in range(len(self.groups) - 1, -1, -1):
            found[self.groups[number].what.mask(building)] = number
        return found


def storey_gap(building: Building) -> float:
    """Return metres between one storey and the next at which they are first drawn apart: a little more than they are high."""
    steps = np.diff(sorted(storey.elevation for storey in building.storeys))
    storeys = steps[steps > LEAST_STOREY]
    return round(max(LEAST_GAP, 1.1 * float(np.median(storeys))), 1) if len(storeys) else LEAST_GAP


def by_storeys(building: Building, shown: NDArray[np.bool_], gap: float) -> tuple[ApartGroup, ...]:
    """Return a group for each storey above the lowest that has walls, ``gap`` metres between one and the next; the rest
    stays."""
    built = building.subject(shown)
    there = [e for e, is_in in zip(building.elements, built) if is_in and e.storey is not None]
    heights = {e.storey: building.storeys[e.storey].elevation for e in there if e.storey is not None}
    used = sorted(heights, key=heights.__getitem__)
    walled = {e.storey for e in there if e.type.startswith("IfcWall")}
    while len(used) > 1 and walled and used[0] not in walled:
        used.pop(0)  # foundations alone are no storey to look into
    return tuple(
        ApartGroup(
            name=building.storeys[storey].name,
            what=Selection(storeys=frozenset({building.storeys[storey].id})),
            distance=gap * step,
        )
        for step, storey in enumerate(used)
        if step > 0
    )


def above(building: Building, storey: int) -> Selection:
    """Return what lies above a storey, for raising or fading it: the storeys over it, and its own roof, ceilings and slabs
    overhead."""
    floor = building.storeys[storey].elevation
    higher = {s.id for s in building.storeys if s.elevation > floor}
    over = building.element_bounds[:, 0, 2] > floor + HEADROOM
    own = {
        e.id
        for e, is_over in zip(building.elements, over)
        if is_over and e.storey == storey and any(word in e.type for word in OVERHEAD)
    }
    return Selection(storeys=frozenset(higher), elements=frozenset(own))


def travel_lines(exploded: Exploded, points: Mapping[int, Array], opening: float) -> Array:
    """Return (S, 2, 3) lines between the corners of each group and where they lay on the group before it, opened by a share.

    ``points`` are the (n, 3) corners of what is left of each group, by its number, where it stands; without them it has no lines.
    """
    way = exploded.way
    across = Plane((0.0, 0.0, 0.0), (float(way[0]), float(way[1]), float(way[2])))
    lines = [np.empty((0, 2, 3))]
    for sign in (1.0, -1.0):
        before = 0.0
        for number in sorted(points, key=lambda i: abs(exploded.groups[i].distance)):
            distance = exploded.groups[number].distance
            if distance * sign > 0 and len(points[number]):
                corners = _corners(points[number], across, way, trailing=sign > 0)
                lines.append(corners[:, None] + opening * np.array([before, distance])[:, None] * way)
                before = distance
    return np.concatenate(lines)


def _corners(points: Array, across: Plane, way: Array, trailing: bool) -> Array:
    """(n, 3) the corners of points seen along a direction, at the end that trails or leads."""
    along, flat = points @ way, across.flat(points)
    end = float(along.min() if trailing else along.max())
    hull = shapely.simplify(shapely.convex_hull(shapely.multipoints(flat)), 0.02 * float(np.hypot(*np.ptp(flat, axis=0))))
    ring = shapely.get_coordinates(hull)
    if shapely.get_type_id(hull) == 3 and len(ring) > MANY_CORNERS + 1:
        ring = shapely.get_coordinates(shapely.minimum_rotated_rectangle(hull))
    ring = ring[:-1] if len(ring) > 2 else ring
    return np.asarray(across.raised(ring) + (end - across.offset) * way)
