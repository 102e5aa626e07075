"""What is left of the building as one closed solid in mm of the model, thin parts as thick as can be printed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import manifold3d
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.dissection import CutBuilding
from anatome.cuts.solid import kept_part
from anatome.maquette.settings import MaquetteSettings
from anatome.maquette.thickness import NEXT_TO_NOTHING, closed, thick_enough
from anatome.problems import Problem

Array = NDArray[np.float64]
MOST_PLATES = 4000
"""Triangles of an open part that are made plates of; one with more is left out."""
JOINS = 0.1
"""Mm by which every part is about larger than it is: less than a printer shows."""
GOLDEN = 0.618034


@dataclass(frozen=True, eq=False)
class Whole:
    """A ``solid`` in mm with its lowest place at 0; by their names parts made of open surfaces, those that were ``thickened``,
    those that are ``thin`` all the same and those ``left_out``."""

    solid: manifold3d.Manifold
    plated: tuple[str, ...]
    thickened: tuple[str, ...]
    thin: tuple[str, ...]
    left_out: tuple[str, ...]


def whole_of(cut_open: CutBuilding, how: MaquetteSettings, progress: Callable[[float], bool] | None = None) -> Whole:
    """Return all that is left of a building in one solid. Raises Problem where that is nothing, or it is cancelled."""
    building = cut_open.building
    kept = kept_part(cut_open, None if progress is None else lambda share: progress(0.5 * share))
    corners = np.concatenate([part.vertices for part in kept])
    low, high = corners.min(axis=0), corners.max(axis=0)
    origin = np.array([(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2]])
    factor = 1000.0 / how.scale
    solids: list[manifold3d.Manifold] = []
    plated: list[str] = []
    thickened: list[str] = []
    thin: list[str] = []
    left_out: list[str] = []
    for number, part in enumerate(kept):
        if progress is not None and number % 32 == 0 and not progress(0.5 + 0.3 * number / len(kept)):
            raise Problem("The model to print was cancelled; nothing was written.")
        name = building.elements[part.element].name or building.elements[part.element].id
        places = (part.vertices - origin) * factor
        bodies = _bodies(places, part.triangles)
        if bodies:
            made = [_printable(body, how.thinnest, len(solids) + one) for one, body in enumerate(bodies)]
            if any(was for _, was, _ in made):
                thickened.append(name)
            if any(still for _, _, still in made):
                thin.append(name)
            solids += [body for body, _, _ in made]
            continue
        solid = _plates(places, part.triangles, how.thinnest)
        (plated if solid is not None else left_out).append(name)
        if solid is not None:
            solids.append(solid)
    if not solids:
        raise Problem("Nothing of what is shown is solid, so there is nothing to print. Show walls, floors or roofs.")
    made = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Add)
    if progress is not None and not progress(0.9):
        raise Problem("The model to print was cancelled; nothing was written.")
    bottom = float(made.bounding_box()[2])
    return Whole(made.translate((0.0, 0.0, -bottom)), tuple(plated), tuple(thickened), tuple(thin), tuple(left_out))


def _bodies(places: Array, triangles: NDArray[np.int64]) -> list[manifold3d.Manifold]:
    """The closed bodies of a part, each by itself: leaf and frame of a door; none where it is not closed."""
    solid = closed(places, triangles)
    return [] if solid is None else [body for body in solid.decompose() if body.volume() > NEXT_TO_NOTHING] or [solid]


def _printable(body: manifold3d.Manifold, thinnest: float, number: int) -> tuple[manifold3d.Manifold, bool, bool]:
    """(a body a little larger all round and thick enough, whether it was too thin, whether it still is).

    Larger, so that neighbours that only touch, or almost do, become one body; each by a little more or less, or edges of several
    of them would lie in one another, which is no longer closed.
    """
    low, high = np.array(body.bounding_box()).reshape(2, 3)
    size, middle = np.maximum(high - low, NEXT_TO_NOTHING), (low + high) / 2
    joins = JOINS * (0.5 + number * GOLDEN % 1.0)
    times = 1.0 + joins / size
    body = body.translate(tuple(-middle)).scale(tuple(times)).translate(tuple(middle))
    return thick_enough(body, thinnest, joins)


def _plates(places: Array, triangles: NDArray[np.int64], thick: float) -> manifold3d.Manifold | None:
    """An open surface as plates so thick; None where it has too many faces, or none with an area."""
    corners = places[triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    size = np.linalg.norm(normals, axis=1)
    there = size > NEXT_TO_NOTHING
    if not there.any() or there.sum() > MOST_PLATES:
        return None
    off = normals[there] / size[there, None] * thick / 2
    made = [manifold3d.Manifold.hull_points(np.concatenate([own + by, own - by])) for own, by in zip(corners[there], off)]
    return manifold3d.Manifold.batch_boolean([one for one in made if not one.is_empty()], manifold3d.OpType.Add)
