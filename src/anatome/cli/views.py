"""Reading the name of a view as it is typed after ``--view``."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from pydantic import ValidationError

from anatome.model.bounds import bounds_round
from anatome.problems import Problem
from anatome.view.camera import FACES, Camera, standard_view
from anatome.view.projections import DRAWN, Corner, ParallelProjection

SIDES = {name.lower(): name for name in FACES}
CORNERS: dict[str, Corner] = {"front-left": (-1, -1), "front-right": (1, -1), "back-right": (1, 1), "back-left": (-1, 1)}
KINDS = {
    "isometric": "Isometric",
    "dimetric": "Dimetric",
    "trimetric": "Trimetric",
    "plan-oblique": "Plan oblique, 45°",
    "cavalier": "Cavalier",
    "cabinet": "Cabinet",
    "elevation-oblique": "Cavalier",
}
FIELD = 30.0
"""Degrees; what a perspective from the same side is given, and how far off a parallel camera stands."""


@dataclass(frozen=True)
class NamedView:
    """``square-on``, a side of the building, or a projection of one of its corners."""

    name: str
    projection: ParallelProjection | None = None

    @property
    def has_corner(self) -> bool:
        return self.projection is not None

    def camera(self, corners: NDArray[np.float64], aspect: float, below: bool = False) -> Camera:
        """Fitted to (n, 3) points."""
        bounds = bounds_round(corners)
        if self.projection is None:
            return standard_view(SIDES[self.name], bounds, aspect, FIELD).fitted_round(corners, aspect)
        drawn = self.projection.model_copy(update={"below": below})
        return drawn.camera(bounds.mean(axis=0), 1.0, FIELD).fitted_round(corners, aspect)


def parse_view(text: str) -> NamedView:
    """``isometric-back-left``, ``plan-oblique:30``, ``elevation-oblique-front-right:30:0.7``. Raises Problem."""
    name, *values = text.strip().lower().split(":")
    if (name == "square-on" or name in SIDES) and not values:
        return NamedView(name)
    corner = next((c for c in CORNERS if name.endswith(f"-{c}")), None)
    kind = name.removesuffix(f"-{corner}") if corner else name
    try:
        numbers = [float(v) for v in values]
    except ValueError:
        numbers = [np.nan]
    most = {"plan-oblique": 1, "elevation-oblique": 2}.get(kind, 0)
    if kind not in KINDS or len(numbers) > most or not np.isfinite(numbers).all():
        raise Problem(
            f"“{text}” is not a view. There is square-on, {', '.join(SIDES)}; {', '.join(KINDS)}, with a corner such as "
            "isometric-back-left; plan-oblique:ANGLE and elevation-oblique:ANGLE:RATIO."
        )
    drawn, angles, ratio = DRAWN[KINDS[kind]]
    if numbers:
        angles = (numbers[0], 90.0 - numbers[0] if kind == "plan-oblique" else 0.0)
    if len(numbers) == 2:
        ratio = numbers[1]
    try:
        made = ParallelProjection(kind=drawn, corner=CORNERS[corner or "front-left"], angles=angles, ratio=ratio)
    except ValidationError as error:
        raise Problem(f"“{text}” cannot be drawn: angles are from 0° to 90° and a ratio is above 0.01 and at most 3.") from error
    return NamedView(name, made)
