"""Moves that keep shapes: shifts, turns, mirrorings and enlargements as (4, 4) matrices, and the way back."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.plane import Plane
from anatome.problems import Problem

Array = NDArray[np.float64]
Move = tuple[tuple[float, float, float, float], ...]
"""A (4, 4) matrix by rows that shifts, turns, mirrors or enlarges alike in all directions (a similarity)."""

STAYS: Move = ((1.0, 0.0, 0.0, 0.0), (0.0, 1.0, 0.0, 0.0), (0.0, 0.0, 1.0, 0.0), (0.0, 0.0, 0.0, 1.0))


def move_of(matrix: Array) -> Move:
    """Return a move from a (4, 4) array. Raises Problem for one that does not keep shapes."""
    matrix = np.asarray(matrix, float)
    turn = matrix[:3, :3]
    square = float(np.sum(turn[0] ** 2))
    if (
        matrix.shape != (4, 4)
        or not np.isfinite(matrix).all()
        or square < 1e-12
        or np.abs(turn @ turn.T - square * np.eye(3)).max() > 1e-9 * square
        or (matrix[3] != [0, 0, 0, 1]).any()
    ):
        raise Problem("A piece of the building can be shifted, turned, mirrored and enlarged, but not stretched.")
    return tuple((float(a), float(b), float(c), float(d)) for a, b, c, d in matrix)


def shifted(by: Sequence[float] | Array) -> Move:
    """Return a shift by (3,) metres."""
    matrix = np.eye(4)
    matrix[:3, 3] = by
    return move_of(matrix)


def mirrored(plane: Plane) -> Move:
    """Return a reflection in a plane."""
    n = plane.n
    matrix = np.eye(4)
    matrix[:3, :3] -= 2 * np.outer(n, n)
    matrix[:3, 3] = 2 * plane.offset * n
    return move_of(matrix)


def rotation(axis: Array, degrees: float) -> Array:
    """Return (3, 3) a turn about (3,) a unit axis (Rodrigues' formula)."""
    a = math.radians(degrees)
    x, y, z = axis
    cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    return np.asarray(np.eye(3) + math.sin(a) * cross + (1 - math.cos(a)) * cross @ cross)


def turned_over(point: Array, axis: Array, degrees: float) -> Move:
    """Return a turn about the line through (3,) ``point`` along (3,) a unit ``axis``."""
    turn = rotation(axis, degrees)
    matrix = np.eye(4)
    matrix[:3, :3] = turn
    matrix[:3, 3] = point - turn @ point
    return move_of(matrix)


def followed_by(first: Move, second: Move) -> Move:
    """Return one move and then another."""
    return move_of(np.array(second) @ np.array(first))


def home(move: Move) -> Array:
    """Return (4, 4) the way back: the inverse of a similarity."""
    matrix = np.array(move)
    back = np.eye(4)
    back[:3, :3] = matrix[:3, :3].T / times_of(matrix) ** 2
    back[:3, 3] = -back[:3, :3] @ matrix[:3, 3]
    return back


def times_of(move: Move | Array) -> float:
    """Return how many times as large something is once moved."""
    return math.sqrt(sum(float(number) ** 2 for number in move[0][:3]))


def plane_through(matrix: Array, plane: Plane) -> Plane:
    """Return a plane moved by a (4, 4) matrix of a move."""
    origin = matrix[:3, :3] @ np.array(plane.origin) + matrix[:3, 3]
    normal = matrix[:3, :3] @ plane.n / times_of(matrix)
    return Plane((float(origin[0]), float(origin[1]), float(origin[2])), (float(normal[0]), float(normal[1]), float(normal[2])))


def places_through(matrix: Array, points: Array) -> Array:
    """Return (..., 3) points moved by a (4, 4) matrix of a move."""
    return np.asarray(points @ matrix[:3, :3].T + matrix[:3, 3])
