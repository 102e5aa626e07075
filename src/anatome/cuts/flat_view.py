"""A cut as one flat section: a box by one of its faces, a stepped section by all of its steps together."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.contours import GRID
from anatome.cuts.cut import AnyCut
from anatome.cuts.dissection import CutFace, as_one_plane
from anatome.cuts.plane import Plane
from anatome.cuts.section import Section


def flat_section(cut: AnyCut, faces: Sequence[CutFace]) -> Section:
    """Return what a cut shows face on, of the faces it has; empty when it cuts nothing.

    The steps of a stepped section read as one plane, without a line where they meet: that is how a drawing shows an
    offset section line (common practice). Jogs are seen end on and left out.
    """
    found = [f.poche for f in faces if f.plane in cut.flat_planes]
    if not found:
        return _nothing(cut.axis)
    return as_one_plane(found, cut.axis) if len(cut.flat_planes) > 1 else found[0]


def main_face(cut: AnyCut, faces: Sequence[CutFace]) -> CutFace | None:
    """Return the face a cut is known by: its axis if that cuts something, else the flat one that cuts most."""
    flat = [face for face in faces if cut.is_flat(face.plane)] or faces
    return next((f for f in flat if f.plane == cut.axis), None) or max(flat, key=lambda f: f.section.areas.sum(), default=None)


def at_seams(face: CutFace, segments: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Return (n,) which lines (n, 2, 3) of a face lie where flat planes of its cut meet, or are seen end on in a flat view."""
    # Lines of contours lie on a grid, and so perhaps beside the place.
    return face.cut.at_seams(face.plane, segments, max(2 * GRID, 10 * face.building.tolerance))


def _nothing(plane: Plane) -> Section:
    return Section(plane, np.empty(0, object), np.empty(0, np.int64), ())
