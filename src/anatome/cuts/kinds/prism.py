"""An upright prism on a closed outline: where it lies, its sides, and how it is parted into convex pieces."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.cells import Cell
from anatome.cuts.kinds.grip import numbers_part_way, part_way, times
from anatome.cuts.plane import Plane
from anatome.problems import Problem
from anatome.values import FARTHEST

Array = NDArray[np.float64]
Place = tuple[float, float]

SIDES = 48
"""Of the prism that stands for a round one: a chord lies within 0.22 % of the radius of its arc."""
ROUND_REACH = 1.005
"""A round prism with so many times the radius holds what lies within the circle."""
MOST_CORNERS = 200
SHORTEST = 1e-3
"""Metres a side is long at least."""
FLAT = 1e-9
"""Share of its hull by which a convex outline may fall short of it."""
UP = (0.0, 0.0, 1.0)


@dataclass(frozen=True)
class Prism:
    """``corners`` (n, 2) of the outline, metres, made anticlockwise seen from above, between the levels ``low`` and ``high``.

    With a ``radius`` there is one corner, the centre of a circle. Raises Problem when the outline crosses itself, has no size or
    a side under a millimetre, or the numbers are not finite.
    """

    corners: tuple[Place, ...]
    low: float
    high: float
    radius: float | None = None

    def __post_init__(self) -> None:
        numbers = np.array([*np.ravel(self.corners), self.low, self.high, self.radius or 0.0], float)
        if not np.isfinite(numbers).all() or np.abs(numbers).max() > FARTHEST:
            raise Problem("The outline of a prism needs finite numbers, none farther off than a model can reach.")
        if self.high - self.low < SHORTEST:
            raise Problem("A prism reaches from one level up to a higher one.")
        if self.radius is not None:
            if len(self.corners) != 1 or self.radius < SHORTEST:
                raise Problem("A round prism has one centre and a radius above 0.")
            return
        if not 3 <= len(self.corners) <= MOST_CORNERS:
            raise Problem(f"The outline of a prism has three corners at least and {MOST_CORNERS} at most.")
        ring = shapely.Polygon(self.corners)
        if np.hypot(*np.diff([*self.corners, self.corners[0]], axis=0).T).min() < SHORTEST:
            raise Problem("Two corners of the outline of a prism lie on one another.")
        if not ring.is_valid or ring.area < SHORTEST**2:
            raise Problem("The outline of a prism must not cross itself, and encloses something.")
        turned = self.corners if ring.exterior.is_ccw else self.corners[::-1]
        object.__setattr__(self, "corners", tuple((float(x), float(y)) for x, y in turned))

    @cached_property
    def ring(self) -> Array:
        """(n, 2) corners of the outline, anticlockwise, metres; of a circle, those of a polygon of as large an area."""
        if self.radius is None:
            return np.array(self.corners)
        turn = (np.arange(SIDES) + 0.5) * 2 * math.pi / SIDES
        # As much area as the circle: n/2 R² sin(2π/n) = π r².
        reach = self.radius * math.sqrt(2 * math.pi / (SIDES * math.sin(2 * math.pi / SIDES)))
        return np.array(self.corners[0]) + reach * np.column_stack([np.cos(turn), np.sin(turn)])

    @property
    def centre(self) -> Array:
        """(3,) the middle of the corners, half way up."""
        return np.array([*self.ring.mean(axis=0), (self.low + self.high) / 2])

    @property
    def solid_corners(self) -> Array:
        """(2 n, 3) corners of the solid, those below first."""
        return np.concatenate([np.column_stack([self.ring, np.full(len(self.ring), z)]) for z in (self.low, self.high)])

    @cached_property
    def sides(self) -> tuple[Plane, ...]:
        """The upright planes of the sides, from each corner to the next, normals outwards."""
        return tuple(_upright(a, b) for a, b in zip(self.ring, np.roll(self.ring, -1, axis=0)))

    @cached_property
    def ends(self) -> tuple[Plane, Plane]:
        """The level planes at the top and at the bottom, normals outwards."""
        return Plane((0.0, 0.0, self.high), UP), Plane((0.0, 0.0, self.low), (0.0, 0.0, -1.0))

    @cached_property
    def inside(self) -> tuple[Cell, ...]:
        """The inside as convex cells."""
        ends = tuple(plane.turned_round() for plane in self.ends)
        return tuple(Cell((*_walls(piece), *ends)) for piece in convex_pieces(_key(self.ring)))

    @cached_property
    def outside(self) -> tuple[Cell, ...]:
        """All that lies outside as convex cells: beyond the hull of the outline, and what the outline leaves of that hull."""
        outline = shapely.Polygon(self.ring)
        hull = _open_ring(shapely.convex_hull(outline))
        beyond = [Cell((_upright(a, b),)) for a, b in zip(hull, np.roll(hull, -1, axis=0))]
        pockets = shapely.get_parts(shapely.difference(shapely.Polygon(hull), outline)).tolist()
        found = [
            Cell(_walls(piece))
            for pocket in pockets
            if pocket.geom_type == "Polygon" and pocket.area > FLAT * outline.area
            for piece in convex_pieces(_key(_open_ring(pocket)))
        ]
        return (*beyond, *found, *(Cell((plane,)) for plane in self.ends))

    # Changing it -----------------------------------------------------------------------------------------------

    def moved(self, by: Array) -> Prism:
        """Move it by (3,) metres."""
        corners = tuple((x + float(by[0]), y + float(by[1])) for x, y in self.corners)
        return replace(self, corners=corners, low=self.low + float(by[2]), high=self.high + float(by[2]))

    def scaled(self, factor: float) -> Prism:
        """So many times as large about the origin."""
        corners = tuple((x * factor, y * factor) for x, y in self.corners)
        return replace(self, corners=corners, low=self.low * factor, high=self.high * factor, radius=times(self.radius, factor))

    def part_way(self, to: Prism, share: float) -> Prism | None:
        """Return the prism at a share from 0 to 1 of the way to another of as many corners; None where there is none."""
        if len(self.corners) != len(to.corners) or (self.radius is None) != (to.radius is None):
            return None
        low, high = numbers_part_way((self.low, self.high), (to.low, to.high), share)
        corners = np.array(self.corners) * (1.0 - share) + np.array(to.corners) * share
        try:
            return Prism(_key(corners), low, high, part_way(self.radius, to.radius, share))
        except Problem:
            return None  # on the way its sides would cross one another

    def holding(self, bounds: Array, margin: float) -> Prism:
        """Return it made larger about its middle until it holds (2, 3) bounds with a margin in metres. An outline that goes in
        becomes a regular one, which does not."""
        low, high = min(self.low, float(bounds[0][2]) - margin), max(self.high, float(bounds[1][2]) + margin)
        reach = np.array([[bounds[i][0], bounds[j][1]] for i in (0, 1) for j in (0, 1)])
        middle, ring = self.centre[:2], self.ring
        farthest = float(np.linalg.norm(np.concatenate([reach, ring]) - middle, axis=1).max()) + margin
        if self.radius is not None:
            return replace(self, low=low, high=high, radius=farthest * ROUND_REACH)
        if _is_convex(shapely.Polygon(ring)):
            factor = 1.0
            for wall in self.sides:
                near, far = float(wall.n[:2] @ middle), float((reach @ wall.n[:2]).max()) + margin
                factor = max(factor, (far - near) / (wall.offset - near))
            return replace(self, corners=_key(middle + (ring - middle) * factor), low=low, high=high)
        first = ring[0] - middle
        turn = math.atan2(first[1], first[0]) + np.arange(len(ring)) * 2 * math.pi / len(ring)
        out = farthest / math.cos(math.pi / len(ring))
        return replace(self, corners=_key(middle + out * np.column_stack([np.cos(turn), np.sin(turn)])), low=low, high=high)

    def turned(self, degrees: float) -> Prism:
        """Turn it about the vertical through its centre, anticlockwise seen from above."""
        a, middle = math.radians(degrees), self.centre[:2]
        spin = np.array([[math.cos(a), math.sin(a)], [-math.sin(a), math.cos(a)]])
        return self.with_corners(middle + (np.array(self.corners) - middle) @ spin)

    def with_corners(self, corners: Array) -> Prism:
        """Give it other corners (n, 2)."""
        return replace(self, corners=tuple((float(x), float(y)) for x, y in corners))

    def with_corner_moved(self, number: int, by: Array) -> Prism:
        """Move one corner by (2,) metres."""
        corners = np.array(self.corners)
        corners[number] += by
        return self.with_corners(corners)

    def with_side_moved(self, number: int, by: float) -> Prism:
        """Move one side outwards by metres; its ends slide along the sides next to it."""
        corners = np.array(self.corners)
        count = len(corners)
        normal = self.sides[number].n[:2]
        for end, beside in ((number, number - 1), ((number + 1) % count, (number + 2) % count)):
            arm = corners[end] - corners[beside % count]
            slope = float(arm @ normal)
            # Next to a side that runs on in the same line, it steps aside.
            corners[end] += normal * by if abs(slope) < 1e-9 * float(np.hypot(*arm)) else arm * (by / slope)
        return self.with_corners(corners)


def _upright(a: Array, b: Array) -> Plane:
    """The plane on the line from a to b, its normal to the right. To and fro it has the same origin, so both are one plane."""
    arm = (b - a) / float(np.hypot(*(b - a)))
    x, y = min(a.tolist(), b.tolist())
    return Plane((x, y, 0.0), (float(arm[1]), float(-arm[0]), 0.0))


def _walls(piece: tuple[Place, ...]) -> tuple[Plane, ...]:
    """The upright planes round a convex piece, normals inwards."""
    ring = np.array(piece)
    return tuple(_upright(b, a) for a, b in zip(ring, np.roll(ring, -1, axis=0)))


def _open_ring(polygon: shapely.Geometry) -> Array:
    """(n, 2) corners of a polygon without holes, anticlockwise, none of them repeated."""
    return np.asarray(shapely.get_coordinates(shapely.orient_polygons(polygon))[:-1])


def _key(ring: Array) -> tuple[Place, ...]:
    return tuple((float(x), float(y)) for x, y in ring)


@lru_cache(maxsize=256)
def convex_pieces(ring: tuple[Place, ...]) -> tuple[tuple[Place, ...], ...]:
    """Part an outline, (n, 2) metres and anticlockwise, into few convex pieces (Hertel and Mehlhorn, 1983).

    Triangles are united as long as what they make is convex. Corners of pieces are corners of the outline.
    """
    outline = shapely.Polygon(ring)
    if _is_convex(outline):
        return (ring,)
    pieces = shapely.get_parts(shapely.constrained_delaunay_triangles(outline)).tolist()
    united = True
    while united:
        united = False
        for i in range(len(pieces)):
            for j in range(i + 1, len(pieces)):
                together = shapely.union(pieces[i], pieces[j])
                if together.geom_type == "Polygon" and _is_convex(together):
                    pieces[i] = together
                    del pieces[j]
                    united = True
                    break
            if united:
                break
    return tuple(_key(_open_ring(piece)) for piece in pieces)


def _is_convex(polygon: shapely.Geometry) -> bool:
    hull = shapely.area(shapely.convex_hull(polygon))
    return bool(hull - shapely.area(polygon) <= FLAT * hull and not len(polygon.interiors))
