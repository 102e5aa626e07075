"""A cut that parts the building instead of taking anything away: what lay before it is moved aside, and perhaps turned."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from anatome.cuts.moves import Move, followed_by, mirrored, shifted, turned_over
from anatome.cuts.plane import Plane, Vector
from anatome.values import FARTHEST, Value

Way = Literal["apart", "sideways", "up", "along"]
"""``apart``: straight off the cut. ``sideways`` and ``up``: along the cut. ``along``: the way that was said."""

Turned = Literal["as it is", "mirrored", "turned over"]


class Parting(Value):
    """How the part before a cut is shown. ``distance`` in metres; ``direction`` is asked for the way ``along`` only."""

    way: Way = "apart"
    distance: float = Field(default=4.0, ge=-FARTHEST, le=FARTHEST)
    turned: Turned = "as it is"
    direction: Vector = (1.0, 0.0, 0.0)

    def scaled(self, factor: float) -> Parting:
        """Apart so many times as far."""
        return self.model_copy(update={"distance": self.distance * factor})

    def shift(self, axis: Plane) -> NDArray[np.float64]:
        """Return (3,) metres by which the part is moved, wide open."""
        right, up = axis.axes
        given = np.array(self.direction)
        ways = {"apart": axis.n, "sideways": right, "up": up, "along": given / max(float(np.linalg.norm(given)), 1e-12)}
        return np.asarray(ways[self.way] * self.distance)

    def move(self, axis: Plane, middle: NDArray[np.float64], opening: float) -> Move:
        """Return where the part is shown when it is opened by a share from 0 to 1.

        ``axis`` is the plane of the cut, ``middle`` (3,) the point whose foot on it the turn goes through. Turned over is
        about the upright line in an upright cut, as a page is, and about the line to the right in a level one.
        """
        aside = shifted(opening * self.shift(axis))
        if opening == 0.0 or self.turned == "as it is":
            return aside
        if self.turned == "mirrored":
            return followed_by(mirrored(axis), aside)
        right, up = axis.axes
        foot = middle - axis.n * float(axis.distance(middle))
        return followed_by(turned_over(foot, right if axis.is_level else up, 180.0 * opening), aside)
