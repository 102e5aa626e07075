"""Touching up put to work: which lines of a drawing are meant, and what is left of strokes beside masks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.linework.drawing import Strokes
from anatome.linework.feature_lines import Lines
from anatome.linework.on_paper import OnPaper
from anatome.notes.touching_up import HeldTouchUp, LineTouchUp, Mask

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]

SAME = 0.005
"""Metres by which a line may lie elsewhere and still be the same."""
FARTHEST = 0.15
"""Metres to which the nearest line of the part is taken for the one that was meant: where a cut was moved."""
PARALLEL = 0.995
"""Cosine between their directions from which lines run alike."""


class TouchedLines:
    """Of ``lines`` (n) in the picture, out of the ``whole`` of all lines: ``number`` is which of ``pens`` each has, −1 for its
    own; ``hidden`` (n,) which are not drawn; ``lost`` the ids of what finds nothing to hold on to: its part is gone, or has
    lines, and none is the one that was meant."""

    def __init__(self, lines: Lines, whole: Lines, touched: Sequence[HeldTouchUp]) -> None:
        self.pens = pens_of(touched)
        self.number: Numbers = np.full(len(lines.ends), -1)
        self.hidden: NDArray[np.bool_] = np.zeros(len(lines.ends), bool)
        lost = [one.of.id for one in touched if one.places is None]
        for one in touched:
            if not isinstance(one.of, LineTouchUp) or one.places is None:
                continue
            meant = lines_meant(lines, one)
            if not meant.any() and (whole.element == one.element).any() and not lines_meant(whole, one).any():
                lost.append(one.of.id)
            elif one.of.hidden:
                self.hidden |= meant
            else:
                self.number[meant] = self.pens.index(one.of)
        self.lost = tuple(lost)


def pens_of(touched: Sequence[HeldTouchUp]) -> list[LineTouchUp]:
    """Return what gives lines another pen."""
    return [one.of for one in touched if isinstance(one.of, LineTouchUp) and not one.of.hidden]


def lines_meant(lines: Lines, one: HeldTouchUp) -> NDArray[np.bool_]:
    """Return (n,) which lines a touching up is of: all of its part; or those of it that run along its line, on it, or where none
    does on the nearest such line."""
    own = lines.element == one.element
    if one.places is None or not own.any():
        return np.zeros(len(own), bool)
    if len(one.places) == 1:
        return np.asarray(own)
    start, arm = one.places[0], one.places[1] - one.places[0]
    long = float(np.linalg.norm(arm))
    if long < 1e-9:
        return np.zeros(len(own), bool)
    way = arm / long
    from_start = lines.ends[own] - start
    along = from_start @ way
    away = np.linalg.norm(from_start - along[..., None] * way, axis=-1).max(axis=1)
    runs = lines.ends[own, 1] - lines.ends[own, 0]
    size = np.linalg.norm(runs, axis=1)
    alike = np.abs(runs @ way) > PARALLEL * size
    beside = (along.max(axis=1) > SAME) & (along.min(axis=1) < long - SAME) & (size > 0)
    near = np.where(alike & beside, away, np.inf)
    best = float(near.min())
    found = np.zeros(len(own), bool)
    if best <= FARTHEST:
        found[own] = near <= best + SAME
    return found


def masked(strokes: tuple[Strokes, ...], touched: Sequence[HeldTouchUp], on: OnPaper) -> tuple[Strokes, ...]:
    """Return what is left of strokes outside of masks."""
    shapes = [on_paper for one in touched if isinstance(one.of, Mask) and (on_paper := _shape(one, on)) is not None]
    if not shapes:
        return strokes
    mask = shapely.union_all(shapes)
    shapely.prepare(mask)
    found = []
    for own in strokes:
        lines = np.array([shapely.LineString(line) for line in own.lines], object)
        meets = shapely.intersects(mask, lines)
        left: list[Array] = [line for line, meet in zip(own.lines, meets.tolist()) if not meet]
        for part in shapely.get_parts(shapely.difference(lines[meets], mask)).tolist():
            if part.geom_type == "LineString" and not part.is_empty:
                left.append(shapely.get_coordinates(part))
        found.append(replace(own, lines=tuple(left)))
    return tuple(own for own in found if own.lines)


def _shape(one: HeldTouchUp, on: OnPaper) -> shapely.Geometry | None:
    """A mask on paper, mm; None where it lies behind the eye."""
    if one.places is None:
        return None
    flat = on.viewport.pixels(one.places) * [1, -1] + [0, on.viewport.height]
    return shapely.make_valid(shapely.Polygon(flat)) if np.isfinite(flat).all() else None
