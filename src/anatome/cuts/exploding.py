"""Exploded pictures: groups of elements drawn apart, each along its own way, with thin travel lines from one to the next."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated

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


Path = Annotated[tuple[Vector, ...], Field(max_length=60)]
"""Where a way leads, (3,) metres from where it sets out, bend after bend; a single place gives a direction."""


class ApartGroup(Value):
    """Elements drawn apart together, ``distance`` metres along their way when wide open."""

    name: str = Field(max_length=500)
    what: Selection
    distance: float = Field(ge=-FARTHEST, le=FARTHEST)
    path: Path = Field(default=(), description="a way of its own; empty: that of all")


class Exploded(Value):
    """Groups drawn apart, in one ``direction`` or along one ``path``, or each along its own. What is in no group stays; what is
    in several goes with the first."""

    groups: tuple[ApartGroup, ...] = Field(default=(), max_length=200)
    direction: Vector = (0.0, 0.0, 1.0)
    path: Path = Field(default=(), description="the way of all groups that have none of their own; empty: the direction")
    order: tuple[str, ...] = Field(
        default=(), max_length=200, description="names of groups from neighbour to neighbour; empty: as they lie along their way"
    )
    lines: bool = Field(default=True, description="travel lines are drawn")

    @property
    def way(self) -> Array:
        """(3,) the unit direction of groups that have no way of their own."""
        return _unit(np.array(self.direction))

    def path_of(self, number: int) -> tuple[Vector, ...]:
        """Return the way of a group."""
        return self.groups[number].path or self.path or (self.direction,)

    def moved(self, number: int, opening: float) -> Array:
        """Return (3,) metres by which a group is moved, opened by a share."""
        return along(self.path_of(number), opening * self.groups[number].distance)

    def in_order(self) -> tuple[str, ...]:
        """Return the names of the groups from neighbour to neighbour: as is said, then as far as they are moved."""
        far = sorted(self.groups, key=lambda group: abs(group.distance))
        known = {group.name for group in far}
        said = tuple(name for name in self.order if name in known)
        return said + tuple(group.name for group in far if group.name not in said)

    def before(self, number: int) -> int | None:
        """Return the neighbour from which the travel lines of a group come; None: they come from where it lay.

        In the order that is said; without one the next nearer of those that are moved along the same way.
        """
        one = self.groups[number]
        if self.order:
            names = self.in_order()
            place = names.index(one.name)
            return None if place == 0 else next(i for i, g in enumerate(self.groups) if g.name == names[place - 1])
        own = self.path_of(number)
        nearer = [
            i
            for i, other in enumerate(self.groups)
            if abs(other.distance) < abs(one.distance) and other.distance * one.distance > 0 and self.path_of(i) == own
        ]
        return max(nearer, key=lambda i: abs(self.groups[i].distance), default=None)

    def group_of(self, building: Building) -> NDArray[np.int64]:
        """Return (E,) the number of the group of each element, −1 for what stays."""
        found = np.full(len(building.elements), -1)
        for number in range(len(self.groups) - 1, -1, -1):
            found[self.groups[number].what.mask(building)] = number
        return found


def _unit(way: Array) -> Array:
    length = float(np.linalg.norm(way))
    return way / length if length > 0 else np.array([0.0, 0.0, 1.0])


def along(path: tuple[Vector, ...], length: float) -> Array:
    """Return (3,) metres from its beginning to the place so many metres along a path; it goes on straight beyond its ends."""
    places = np.concatenate([np.zeros((1, 3)), np.array(path, float)])
    steps = np.diff(places, axis=0)
    keeps = np.linalg.norm(steps, axis=1) > 0
    if not keeps.any():
        return _unit(np.zeros(3)) * length
    steps, starts = steps[keeps], places[:-1][keeps]
    lengths = np.linalg.norm(steps, axis=1)
    begins = np.concatenate([[0.0], np.cumsum(lengths)[:-1]])
    which = max(int(np.searchsorted(begins, length, side="right")) - 1, 0)
    return np.asarray(starts[which] + steps[which] / lengths[which] * (length - begins[which]))


def path_length(path: tuple[Vector, ...]) -> float:
    """Return how long a path is, metres."""
    return float(np.linalg.norm(np.diff(np.array([(0.0, 0.0, 0.0), *path]), axis=0), axis=1).sum())


def bends(path: tuple[Vector, ...], start: float, end: float) -> Array:
    """Return (n, 3) the places of a path from one length along it to another, with its bends between them."""
    places = np.concatenate([np.zeros((1, 3)), np.array(path, float)])
    at = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(places, axis=0), axis=1))])
    between = (at > min(start, end)) & (at < max(start, end))
    between[[0, -1]] = False  # beyond its ends it is straight
    inner = places[between] if end >= start else places[between][::-1]
    return np.concatenate([along(path, start)[None], inner, along(path, end)[None]])


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
    """Return (S, 2, 3) lines between the corners of each group and where they lay on its neighbour before it, opened by a share.

    ``points`` are the (n, 3) corners of what is left of each group, by its number, where it stands; without them it has no lines,
    and is nobody's neighbour.
    """
    lines = [np.empty((0, 2, 3))]
    for number, corners in points.items():
        group = exploded.groups[number]
        if not len(corners) or not group.distance:
            continue
        before = exploded.before(number)
        while before is not None and not len(points.get(before, ())):
            before = exploded.before(before)
        path, start = exploded.path_of(number), 0.0
        course = bends(path, 0.0, opening * group.distance)
        if before is not None:
            start = opening * exploded.groups[before].distance
            same = exploded.path_of(before) == path
            ends = exploded.moved(before, opening), exploded.moved(number, opening)
            course = bends(path, start, opening * group.distance) if same else np.stack(ends)
        way = _unit(course[-1] - course[0])
        across = Plane((0.0, 0.0, 0.0), (float(way[0]), float(way[1]), float(way[2])))
        places = _corners(corners, across, way)[:, None] + course
        lines.append(np.stack([places[:, :-1], places[:, 1:]], axis=2).reshape(-1, 2, 3))
    return np.concatenate(lines)


def _corners(points: Array, across: Plane, way: Array) -> Array:
    """(n, 3) the corners of points seen along a direction, at the end that trails."""
    along, flat = points @ way, across.flat(points)
    end = float(along.min())
    hull = shapely.simplify(shapely.convex_hull(shapely.multipoints(flat)), 0.02 * float(np.hypot(*np.ptp(flat, axis=0))))
    ring = shapely.get_coordinates(hull)
    if shapely.get_type_id(hull) == 3 and len(ring) > MANY_CORNERS + 1:
        ring = shapely.get_coordinates(shapely.minimum_rotated_rectangle(hull))
    ring = ring[:-1] if len(ring) > 2 else ring
    return np.asarray(across.raised(ring) + (end - across.offset) * way)
