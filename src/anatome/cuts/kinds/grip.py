"""Where cuts are held and what of them is typed: grips, fields, and the rectangles planes are shown by. Geometry only."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, Protocol

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.plane import Plane
from anatome.model.bounds import corners_of

Array = NDArray[np.float64]

LEAST = 0.01
"""Metres below which neither a depth nor a side can be pulled."""
CLEAR = 0.01
"""Share of what it takes nothing of by which a cut stands clear of it."""
MARGIN = 0.04
"""Share of the building by which the frame of a plane is larger than it."""


class Lengths(Protocol):
    """Writes lengths in the units that are set."""

    def length(self, metres: float, decimals: int = 3, signed: bool = False) -> str:
        """Write one length."""

    def sizes(self, metres: Sequence[float], decimals: int) -> str:
        """Write lengths along several directions."""


@dataclass(frozen=True, eq=False)
class Grip:
    """``at`` (3,) metres; ``along`` (3,) the unit direction it travels in and its stem points to, None: moved anywhere.

    ``frame`` (4, 3) is the rectangle within which ``at`` may be put elsewhere to be within reach, or None.
    """

    name: str
    at: Array
    along: Array | None
    frame: Array | None = None

    @property
    def travels(self) -> bool:
        """Whether it keeps to a line."""
        return self.along is not None


@dataclass(frozen=True)
class CutField:
    """A number of a cut that is typed: its ``name``, as the cut knows it, and the ``words`` of the row it stands in.

    Fields of the same row stand side by side. An ``optional`` one may be switched off, and then its number is None.
    """

    name: str
    words: str
    tip: str
    unit: Literal["m", "°"] = "m"
    step: float = 0.05
    optional: bool = False
    below_zero: bool = True
    """Whether numbers below 0 mean something: they do of places, and not of sizes."""


def name_parts(name: str) -> tuple[str, int]:
    """Split a name such as ``face 3`` into what it is and its number; 0 without one."""
    kind, _, number = name.partition(" ")
    return kind, int(number) if number else 0


def plane_frame(plane: Plane, bounds: Array, margin: float = MARGIN) -> Array:
    """Return (4, 3) corners of the rectangle on the plane that spans the (2, 3) bounds and a little more."""
    flat = plane.flat(corners_of(bounds))
    low, high = flat.min(axis=0), flat.max(axis=0)
    grow = margin * float((high - low).max())
    low, high = low - grow, high + grow
    return plane.raised(np.array([[low[0], low[1]], [high[0], low[1]], [high[0], high[1]], [low[0], high[1]]]))


def far_end(plane: Plane, depth: float) -> Plane:
    """Return the plane where a depth of metres beyond a plane ends, looking back."""
    return plane.moved(-depth).turned_round()


def clearance(bounds: Array) -> float:
    """Return the metres by which a cut stands clear of (2, 3) bounds it takes nothing of."""
    return CLEAR * float(np.linalg.norm(bounds[1] - bounds[0]))


def depth_clear_of(plane: Plane, depth: float | None, bounds: Array, margin: float) -> float | None:
    """Return the depth beyond a plane that ends behind (2, 3) bounds; None without one."""
    if depth is None:
        return None
    end = float((corners_of(bounds) @ plane.n).min()) - margin
    return max(depth, plane.offset - end)


def times(length: float | None, factor: float) -> float | None:
    """Return a length so many times as large, nothing where there is none."""
    return None if length is None else length * factor


def part_way(first: float | None, last: float | None, share: float) -> float | None:
    """Return a number at a share of the way to another; where one is missing, the nearer of both."""
    if first is None or last is None:
        return first if share < 0.5 else last
    return first + (last - first) * share


def numbers_part_way(first: Sequence[float], last: Sequence[float], share: float) -> tuple[float, ...]:
    """Return numbers at a share of the way to as many others."""
    return tuple(a + (b - a) * share for a, b in zip(first, last, strict=True))


def far_grips(plane: Plane, depth: float | None, bounds: Array) -> list[Grip]:
    """Return the grip at the end of a depth, if there is one."""
    if depth is None:
        return []
    frame = plane_frame(plane.moved(-depth), bounds)
    return [Grip("far", frame.mean(axis=0), -plane.n, frame)]
