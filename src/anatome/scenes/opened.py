"""A stage state put to work: the building as its cuts and serial sections leave it, and its pieces as they are shown."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut, SectionPlane
from anatome.cuts.dissection import CutBuilding, CutFace, Cutter, shown_elements
from anatome.cuts.exploding import travel_lines
from anatome.cuts.fitting import left_points
from anatome.cuts.moves import STAYS
from anatome.cuts.pieces import Piece, Placed, ShownBuilding, details_of, parts, pieces_of, placed
from anatome.cuts.series import SerialSections
from anatome.scenes.project import StageState


def left_of(cutter: Cutter, state: StageState) -> CutBuilding:
    """Return the building as the cuts of a state leave it, those that part it too, serial sections passed over."""
    shown = shown_elements(cutter.building, state.hidden)
    return cutter.dissect(state.cuts, shown, state.treatments, state.poche)


def kept_of(cutter: Cutter, state: StageState) -> CutBuilding:
    """Return the same without the cuts that only part it: nothing of the building is lost."""
    shown = shown_elements(cutter.building, state.hidden)
    return cutter.dissect([c for c in state.cuts if not parts(c)], shown, state.treatments, state.poche)


def opened(cutter: Cutter, state: StageState) -> ShownBuilding:
    """Return what the stage shows of a state. Serial sections that stand alone set the building aside, and have no pieces."""
    found = kept_of(cutter, state)
    series = [s for s in state.series if s.on]
    if series:
        faces = tuple(face for one in series for face in series_faces(cutter, state, one))
        if any(s.alone for s in series):
            nothing = np.zeros_like(found.shown)
            return ShownBuilding(CutBuilding(cutter.building, faces, nothing, (), np.zeros((len(nothing), 0), bool)))
        return ShownBuilding(replace(found, faces=(*found.faces, *faces)))
    shown = shown_elements(cutter.building, state.hidden)
    ghostly = ~shown_elements(cutter.building, state.ghostly)
    # Ghosts of what is drawn apart go with the rest of their group.
    pieces = pieces_of(cutter, shown | ghostly, state.cuts, state.exploded, state.opening, state.treatments)
    cuts = [c for c in state.cuts if not parts(c)]
    at_home, displaced = [c for c in cuts if not c.on_displaced], [c for c in cuts if c.on_displaced]
    cutter.keeps = 2 * (len(pieces) + len(state.details)) + 3
    details, pointing = details_of(cutter, state.details, state.cuts, shown, state.treatments, state.poche)
    if not pieces:
        ghosts = _ghosts(cutter, [Piece(STAYS)], cuts, ghostly, ())
        return ShownBuilding(found, (Placed(found, STAYS), *details) if details else (), ghosts, pointing)
    apart = placed(cutter, pieces, at_home, shown, displaced, state.treatments, state.poche)
    ghosts = _ghosts(cutter, pieces, at_home, ghostly, displaced)
    if state.exploded is None or not state.exploded.lines or any(parts(c) for c in state.cuts):
        return ShownBuilding(found, (*apart, *details), ghosts, pointing)
    built = cutter.building.subject(shown)

    def corners(left: CutBuilding) -> NDArray[np.float64]:
        return cutter.remember(("corners", id(left)), lambda: (left, left_points(left, built)))[1]

    points = {piece.group: corners(p.cut_open) for piece, p in zip(pieces, apart) if piece.group >= 0}
    lines = np.concatenate([travel_lines(state.exploded, points, state.opening), pointing])
    return ShownBuilding(found, (*apart, *details), ghosts, lines)


def _ghosts(
    cutter: Cutter,
    pieces: Sequence[Piece],
    cuts: Sequence[AnyCut],
    ghostly: NDArray[np.bool_],
    displaced: Sequence[AnyCut],
) -> tuple[Placed, ...]:
    """What is faintly drawn of the elements of an (E,) mask, cut like the rest."""
    if not ghostly.any():
        return ()
    found = placed(cutter, pieces, cuts, ghostly, displaced, faces=False)
    return tuple(ghost for ghost in found if ghost.cut_open.shown.any())


def series_faces(cutter: Cutter, state: StageState, series: SerialSections) -> list[CutFace]:
    """Return the sections of a series as faces that cut nothing away, named by their labels."""
    elements = shown_elements(cutter.building, state.hidden) & series.reach.mask(cutter.building)
    faces = []
    for number, plane in enumerate(series.planes()):
        own = SectionPlane(id=series.id, name=series.name, mark=series.mark, plane=plane, poche=series.fills)
        found = cutter.free_section(plane, elements, state.poche)
        faces.append(cutter.face(own, plane, series.label(number), found, state.poche, free=True, outlined=series.curves))
    return faces
