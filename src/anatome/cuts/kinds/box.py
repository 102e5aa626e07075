"""A box that may be turned about the vertical: where it lies, its faces, and how it is fitted and changed."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cells import Cell
from anatome.cuts.kinds.grip import numbers_part_way
from anatome.cuts.plane import Plane, Vector, vector
from anatome.problems import Problem
from anatome.values import FARTHEST

FACE_NAMES = ("right", "left", "back", "front", "top", "bottom")
"""In the box's own directions: +x, −x, +y, −y, +z, −z."""


@dataclass(frozen=True, slots=True)
class Box:
    """``centre`` and ``size`` (along its own x, y and z) in metres; ``turn`` in degrees anticlockwise seen from above.

    Raises Problem when a number is not finite or a size is not above 0.
    """

    centre: Vector
    size: Vector
    turn: float = 0.0

    def __post_init__(self) -> None:
        numbers = np.array([*self.centre, *self.size, self.turn], float)
        if not np.isfinite(numbers).all() or (numbers[3:6] <= 0).any():
            raise Problem("A section box needs a centre, three sizes above 0 and an angle, all finite numbers.")
        if np.abs(numbers).max() > FARTHEST:
            raise Problem("A section box lies within a hundred thousand kilometres of the model's origin.")

    @property
    def axes(self) -> NDArray[np.float64]:
        """(3, 3) unit vectors of the box, one a row."""
        a = math.radians(self.turn)
        return np.array([[math.cos(a), math.sin(a), 0.0], [-math.sin(a), math.cos(a), 0.0], [0.0, 0.0, 1.0]])

    @property
    def corners(self) -> NDArray[np.float64]:
        """(8, 3) metres; bit 0, 1, 2 of the row's number: upper end along x, y, z."""
        signs = np.array([[(i >> k & 1) * 2 - 1 for k in range(3)] for i in range(8)], float)
        return np.array(self.centre) + (signs * np.array(self.size) / 2) @ self.axes

    @property
    def planes(self) -> tuple[Plane, ...]:
        """The six faces with normals outwards, in the order of :data:`FACE_NAMES`."""
        made = []
        for axis, half in zip(self.axes, np.array(self.size) / 2):
            for sign in (1.0, -1.0):
                made.append(Plane(vector(np.array(self.centre) + sign * half * axis), vector(sign * axis)))
        return tuple(made)

    def cells(self, carve: bool) -> tuple[Cell, ...]:
        """Return what is cut away: all outside the box, or with ``carve`` its inside."""
        if carve:
            return (Cell(tuple(plane.turned_round() for plane in self.planes)),)
        return tuple(Cell((plane,)) for plane in self.planes)

    def moved(self, by: NDArray[np.float64]) -> Box:
        """Moved by (3,) metres."""
        return replace(self, centre=vector(np.array(self.centre) + by))

    def scaled(self, factor: float) -> Box:
        """So many times as large about the origin."""
        x, y, z = (length * factor for length in self.size)
        return replace(self, centre=vector(np.array(self.centre) * factor), size=(x, y, z))

    def part_way(self, to: Box, share: float) -> Box:
        """Return the box at a share from 0 to 1 of the way to another: moved, resized and turned the shorter way."""
        x, y, z = numbers_part_way(self.centre, to.centre, share)
        a, b, c = numbers_part_way(self.size, to.size, share)
        by = (to.turn - self.turn + 180.0) % 360.0 - 180.0
        return Box((x, y, z), (a, b, c)).turned_to(self.turn + by * share)

    def with_face_moved(self, face: int, by: float, least: float = 0.01) -> Box:
        """Return one face moved outwards by metres, the others staying; the box never gets thinner than ``least``."""
        axis = face // 2
        size = list(self.size)
        by = max(by, least - size[axis])
        size[axis] += by
        centre = np.array(self.centre) + self.planes[face].n * by / 2
        return Box(vector(centre), (size[0], size[1], size[2]), self.turn)

    def turned_to(self, degrees: float) -> Box:
        """Return the same box about its own vertical at another angle, kept within ±180°."""
        return replace(self, turn=(degrees + 180.0) % 360.0 - 180.0)

    def resized(self, axis: int, length: float) -> Box:
        """Another size along one of its axes, about the same centre."""
        size = list(self.size)
        size[axis] = length
        return replace(self, size=(size[0], size[1], size[2]))

    @classmethod
    def round_points(cls, points: NDArray[np.float64], turn: float = 0.0, margin: float = 0.0) -> Box:
        """Return the smallest box at an angle that holds (n, 3) points, and ``margin`` metres more on every side."""
        axes = cls((0.0, 0.0, 0.0), (1.0, 1.0, 1.0), turn).axes
        own = points @ axes.T
        low, high = own.min(axis=0) - margin, own.max(axis=0) + margin
        size = np.maximum(high - low, 1e-3)
        return cls(vector((low + high) / 2 @ axes), vector(size), turn)

    @classmethod
    def before_plane(cls, plane: Plane, bounds: NDArray[np.float64], depth: float) -> Box:
        """Return the slice ``depth`` metres deep behind an upright plane, as wide and high as the (2, 3) bounds.

        A level plane gives the slice under it. Raises Problem for a plane that is neither.
        """
        corners = np.array([[bounds[i][0], bounds[j][1], bounds[k][2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)])
        if plane.is_level:
            held = cls.round_points(corners)
            sign = 1.0 if plane.normal[2] > 0 else -1.0
            middle = plane.offset * sign - sign * depth / 2
            return cls((held.centre[0], held.centre[1], middle), (held.size[0], held.size[1], depth))
        if abs(plane.normal[2]) > 1e-6:
            raise Problem("A box is made from an upright or a level section plane. This one leans.")
        # Its own +y points to what is cut away, so that the front of the slice is the plane.
        turn = math.degrees(math.atan2(plane.normal[1], plane.normal[0])) - 90.0
        held = cls.round_points(corners, turn)
        front = np.array(held.centre) - plane.n * (float(plane.distance(np.array(held.centre))) + depth / 2)
        return cls(vector(front), (held.size[0], depth, held.size[2]), turn).turned_to(turn)
