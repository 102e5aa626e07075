"""Reading the name of a view as it is typed after ``--view``."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from pydantic import ValidationError

from anatome.cuts.cut import AnyCut
from anatome.cuts.directions import element_axis
from anatome.cuts.kinds.box import FACE_NAMES
from anatome.cuts.plane import Plane
from anatome.model.bounds import bounds_round
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.view.camera import FACES, Camera, standard_view
from anatome.view.projections import DRAWN, Corner, ParallelProjection, facing

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
    """``square-on``, a side of the building, or a projection of one of its corners; true to or along what it is ``of``: a cut by
    its mark, perhaps with a face, or a part by its id."""

    name: str
    projection: ParallelProjection | None = None
    of: str = ""

    @property
    def has_corner(self) -> bool:
        return self.projection is not None

    def along(self, cuts: Sequence[AnyCut], building: Building) -> NamedView:
        """Return the view with the axes of what it is of. Raises Problem for what is not there, or level."""
        if not self.of or self.projection is None:
            return self
        mark, _, face = self.of.partition(".")
        cut = next((cut for cut in cuts if mark.lower() in (cut.mark.lower(), cut.name.lower())), None)
        if cut is not None:
            turn, lean = self._facing_of(cut, face)
        elif self.of in building.index_of:
            way = element_axis(building, building.index_of[self.of]).along
            turn, lean = facing(np.array([way[1], -way[0], 0.0])) or (0.0, 0.0)
        else:
            known = ", ".join(cut.mark for cut in cuts) or "there is none"
            raise Problem(f"There is no cut “{mark}” ({known}), and no part with this id, for a view to be true to.")
        return replace(self, projection=self.projection.true_to(turn, lean))

    def _facing_of(self, cut: AnyCut, face: str) -> tuple[float, float]:
        """The turn and lean of a cut's own axes: of one of its faces, or of the first that is not level."""
        planes = {name: ways for name, plane in _faces(cut).items() if (ways := facing(plane.n)) is not None}
        if not planes or (face and face not in planes):
            known = ", ".join(name for name in planes if name) or "none"
            raise Problem(f"{cut.name} has no such face, or a level one; a view may be true to: {known}.")
        return planes[face] if face else next(iter(planes.values()))

    def camera(self, corners: NDArray[np.float64], aspect: float, below: bool = False) -> Camera:
        """Fitted to (n, 3) points."""
        bounds = bounds_round(corners)
        if self.projection is None:
            return standard_view(SIDES[self.name], bounds, aspect, FIELD).fitted_round(corners, aspect)
        drawn = self.projection.model_copy(update={"below": below})
        return drawn.camera(bounds.mean(axis=0), 1.0, FIELD).fitted_round(corners, aspect)


def _faces(cut: AnyCut) -> dict[str, Plane]:
    """The planes of a cut by the names of its faces; nothing for that of a plane."""
    planes = [plane for cell in cut.cells() for plane in cell.planes]
    names = FACE_NAMES if len(planes) == len(FACE_NAMES) else ("",) + tuple(f"{n}" for n in range(2, len(planes) + 1))
    return dict(zip(names, planes))


def parse_view(text: str) -> NamedView:
    """``isometric-back-left``, ``plan-oblique:30``, ``elevation-oblique-front-right:30:0.7``; true to a cut or along a part with
    ``@`` and its mark or id: ``cabinet@A``, ``elevation-oblique:45:0.5@B.front``. Raises Problem."""
    typed, _, of = text.strip().partition("@")
    name, *values = typed.lower().split(":")
    if (name == "square-on" or name in SIDES) and not values and not of:
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
            "isometric-back-left; plan-oblique:ANGLE and elevation-oblique:ANGLE:RATIO; then @MARK of a cut or @ID of a part."
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
    return NamedView(name, made, of)
