"""Details: parts drawn once more beside the building, larger, turned and cut in a way of their own. The building keeps them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, field_serializer

from anatome.cuts.moves import Move, move_of, rotation
from anatome.cuts.plane import Vector
from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.values import Value

Array = NDArray[np.float64]
UPWARDS = np.array([0.0, 0.0, 1.0])
MOST_TIMES = 1000.0


class Detail(Value):
    """``what`` is drawn once more with the middle of its box at ``place`` in metres, so many ``times`` as large as the building.

    ``cuts`` are ids of the cuts that act on it, whether they are on for the building or not.
    """

    id: str = Field(min_length=1, max_length=64)
    name: str = Field(min_length=1, max_length=200)
    what: Selection
    place: Vector
    times: float = Field(default=1.0, ge=1 / MOST_TIMES, le=MOST_TIMES)
    turn: float = Field(default=0.0, ge=-360, le=360, description="degrees anticlockwise, seen from above")
    cuts: frozenset[str] = Field(default=frozenset(), description="ids of the cuts that act on it")
    line: bool = Field(default=True, description="a line is drawn to where it stands in the building")
    caption: bool = Field(default=True, description="its name and scale are written under it")

    @field_serializer("cuts")
    def _in_order(self, ids: frozenset[str]) -> list[str]:
        """The same detail gives the same bytes."""
        return sorted(ids)

    def move(self, middle: Array) -> Move:
        """Return how what has its middle at (3,) metres at home is shown."""
        matrix = np.eye(4)
        matrix[:3, :3] = self.times * rotation(UPWARDS, self.turn)
        matrix[:3, 3] = np.array(self.place) - matrix[:3, :3] @ middle
        return move_of(matrix)

    def members(self, building: Building) -> NDArray[np.bool_]:
        """Return (E,) mask of what is drawn once more."""
        return self.what.mask(building)


def line_between(start: Array, end: Array) -> Array:
    """Return (2, 3) metres, from one (2, 3) box to another along the line between their middles; both ends the same where the
    boxes meet."""
    first, last = start.mean(axis=0), end.mean(axis=0)
    arm = last - first
    away = np.abs(arm)

    def out_of(box: Array) -> float:
        """The share of the way at which it leaves a box from its middle."""
        half = (box[1] - box[0]) / 2
        return float(np.min(np.divide(half, away, out=np.full(3, np.inf), where=away > 1e-12)))

    leaves, reaches = out_of(start), 1.0 - out_of(end)
    if leaves >= reaches:
        return np.array([first, first])
    return np.array([first + leaves * arm, first + reaches * arm])
