"""Where people and trees are seen in a picture, and how: upright and facing the eye, from above as symbols, never cut."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.cells import held_by_any
from anatome.cuts.dissection import CutBuilding
from anatome.cuts.moves import places_through
from anatome.cuts.pieces import ShownBuilding
from anatome.model.bounds import bounds_round
from anatome.site.figure_drawing import FigureDrawing
from anatome.site.kinds import drawn, is_known, symbol
from anatome.site.site import Figure
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]
FROM_ABOVE = np.cos(np.radians(20.0))
"""Cosine of the angle between sight and the vertical from which a figure is drawn in plan."""
FOOT = 0.02
"""Metres over its foot that decide whether a figure is cut away: the floor it stands on may be cut in its own face."""
OFF_THE_FLOOR = 0.01


def seen_figures(figures: Iterable[Figure], hidden: frozenset[str], opened: ShownBuilding) -> tuple[Figure, ...]:
    """Return the figures a picture shows, each where the piece it stands on is shown.

    Left out are those that are hidden, whose floor is, or whose foot lies where a cut that reaches their floor takes away. What
    stands on nothing that is known is shown unless its foot is cut away from everything.
    """
    found = []
    for figure in figures:
        place = None if figure.id in hidden or not is_known(figure.kind) else _place(figure, opened)
        if place is not None:
            found.append(figure.model_copy(update={"place": place}))
    return tuple(found)


def _place(figure: Figure, opened: ShownBuilding) -> tuple[float, float, float] | None:
    foot = np.array(figure.place)
    number = opened.cut_open.building.index_of.get(figure.on or "")
    for part in opened.parts:
        if part.detail or not part.cut_open.shown.any() or (number is not None and not part.cut_open.shown[number]):
            continue
        if _taken(part.cut_open, foot + [0.0, 0.0, FOOT], number):
            continue
        x, y, z = places_through(np.array(part.move), foot)
        return float(x), float(y), float(z)
    return None


def _taken(cut_open: CutBuilding, point: Array, number: int | None) -> bool:
    if number is None:
        return bool(held_by_any(cut_open.cells, point))
    return bool(cut_open.removed(point[None], np.array([number]))[0])


@dataclass(frozen=True, eq=False)
class Standing:
    """A figure as a picture shows it: its flat ``drawing`` of one unit, laid into space from its ``foot`` along ``across`` and
    ``upward`` (3,), both as long as the figure is tall."""

    figure: Figure
    drawing: FigureDrawing
    foot: Array
    across: Array
    upward: Array

    def raised(self, flat: Array) -> Array:
        """Return (..., 3) metres of (..., 2) places of the drawing."""
        return np.asarray(self.foot + flat[..., :1] * self.across + flat[..., 1:] * self.upward)

    def covers(self, places: Array, towards: Array) -> NDArray[np.bool_]:
        """Return (n,) whether it stands between (n, 3) places in metres and what lies ``towards`` (3,) a unit direction."""
        normal = np.cross(self.across, self.upward)
        slope = float(towards @ normal)
        if abs(slope) < 1e-9 * float(np.linalg.norm(normal)):
            return np.zeros(len(places), bool)
        away = (self.foot - places) @ normal / slope
        arm = places + away[:, None] * towards - self.foot
        size = float(self.upward @ self.upward)
        shapely.prepare(self.drawing.outline)
        return (away > 1e-6) & shapely.contains_xy(self.drawing.outline, arm @ self.across / size, arm @ self.upward / size)

    @property
    def half_width(self) -> float:
        """Half of its breadth, in shares of its height."""
        left, _, right, _ = shapely.bounds(self.drawing.outline).tolist()
        return float(right - left) / 2

    def met(self, origin: Array, direction: Array, margin: float) -> float | None:
        """Return the distance at which a ray meets the drawing, grown by a margin in metres, or None."""
        normal = np.cross(self.across, self.upward)
        slope = float(direction @ normal)
        if abs(slope) < 1e-12 * float(np.linalg.norm(normal)):
            return None
        distance = float((self.foot - origin) @ normal) / slope
        place = origin + distance * direction - self.foot
        size = float(self.upward @ self.upward)
        flat = shapely.Point(float(place @ self.across) / size, float(place @ self.upward) / size)
        near = shapely.dwithin(self.drawing.outline, flat, margin / np.sqrt(size))
        return distance if distance > 0 and near else None


def bounds_with(figures: Iterable[Figure], bounds: Array) -> Array:
    """Return (2, 3) bounds in metres that hold figures too."""
    reach = [np.array(f.place) + [[-f.height / 2, -f.height / 2, 0.0], [f.height / 2, f.height / 2, f.height]] for f in figures]
    return bounds_round(np.concatenate([bounds, *reach]))


def standing(figures: Sequence[Figure], viewport: Viewport) -> tuple[Standing, ...]:
    """Return the figures as a viewport shows them, the farthest first."""
    found = []
    for figure in figures:
        foot = np.array(figure.place)
        towards = viewport.towards(foot)
        sideways = np.array([-towards[1], towards[0], 0.0])  # to the right of who looks along −towards
        length = float(np.linalg.norm(sideways))
        mirrored = -1.0 if figure.mirrored else 1.0
        if abs(towards[2]) > FROM_ABOVE or length < 1e-9:
            own, across, upward = symbol(figure.kind, figure.id), np.array([1.0, 0, 0]), np.array([0, 1.0, 0])
            foot = foot + [0.0, 0.0, OFF_THE_FLOOR if towards[2] > 0 else 0.0]
        else:
            own, across, upward = drawn(figure.kind, figure.id), sideways / length, np.array([0, 0, 1.0])
        found.append(Standing(figure, own, foot, mirrored * figure.height * across, figure.height * upward))
    _, depth = viewport.flat(np.array([s.foot for s in found]).reshape(-1, 3))
    return tuple(found[i] for i in np.argsort(-depth))
