"""A cut as one flat section: a box by one of its faces, a stepped section by all of its steps together."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.contours import GRID
from anatome.cuts.cut import AnyCut, SteppedSection
from anatome.cuts.dissection import CutFace, joined
from anatome.cuts.plane import Plane
from anatome.cuts.polygons import polygon_parts
from anatome.cuts.section import Section


def flat_section(cut: AnyCut, faces: Sequence[CutFace]) -> Section:
    """What a cut shows face on, of the faces it has; empty when it cuts nothing.

    The steps of a stepped section read as one plane, without a line where they meet: that is how a drawing shows an
    offset section line (common practice). Jogs are seen end on and left out.
    """
    axis = cut.axis
    if isinstance(cut, SteppedSection):
        steps = [f.poche for f in faces if f.plane in cut.line.planes]
        return _one_plane(steps, axis) if steps else _nothing(axis)
    found = next((f for f in faces if f.plane == axis), None)
    return found.poche if found is not None else _nothing(axis)


def main_face(cut: AnyCut, faces: Sequence[CutFace]) -> CutFace | None:
    """The face a cut is known by: its axis if that cuts something, else the one that cuts most."""
    return next((f for f in faces if f.plane == cut.axis), None) or max(faces, key=lambda f: f.section.areas.sum(), default=None)


def at_jogs(face: CutFace, segments: NDArray[np.float64]) -> NDArray[np.bool_]:
    """(n,) which lines (n, 2, 3) of a face lie where the steps of a stepped section meet, or are seen end on in a flat view; none
    of other cuts."""
    if not isinstance(face.cut, SteppedSection):
        return np.zeros(len(segments), bool)
    line = face.cut.line
    if face.plane not in line.planes:
        return np.ones(len(segments), bool)
    places = segments @ line.along
    away = np.abs(places[:, :, None] - np.array(line.jogs)).max(axis=1)
    # Lines of contours lie on a grid, and so perhaps beside the jog.
    return np.asarray((away < max(2 * GRID, 10 * face.building.tolerance)).any(axis=1))


def _nothing(plane: Plane) -> Section:
    return Section(plane, np.empty(0, object), np.empty(0, np.int64), ())


def _one_plane(steps: Sequence[Section], plane: Plane) -> Section:
    """Sections of parallel planes laid over one another, each element in one piece."""
    together = joined(steps)
    polygons, owners = [], []
    for e in np.unique(together.element):
        own = together.polygons[together.element == e]
        # Where steps meet, their outlines differ by rounding only.
        parts = polygon_parts(shapely.union_all(own, grid_size=1e-7) if len(own) > 1 else own[0])
        polygons.append(parts)
        owners.append(np.full(len(parts), e))
    if not polygons:
        return Section(plane, together.polygons, together.element, together.open_outlines, together.gaps)
    return Section(
        plane, np.concatenate(polygons), np.concatenate(owners).astype(np.int64), together.open_outlines, together.gaps
    )
