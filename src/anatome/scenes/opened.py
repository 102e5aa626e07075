"""A stage state put to work: the building as its cuts and serial sections leave it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import CutFace, Cutter, Dissection, shown_elements
from anatome.cuts.series import SerialSections
from anatome.scenes.project import StageState


def left_of(cutter: Cutter, state: StageState) -> Dissection:
    """The building as the cuts of a state leave it, serial sections passed over."""
    shown = shown_elements(cutter.building, state.hidden)
    return cutter.dissect(state.cuts, shown, state.treatments, state.poche)


def cut_open(cutter: Cutter, state: StageState) -> Dissection:
    """What the stage shows of a state. Serial sections that stand alone set the building aside."""
    found = left_of(cutter, state)
    series = [s for s in state.series if s.on]
    if not series:
        return found
    faces = tuple(face for one in series for face in series_faces(cutter, state, one))
    if any(s.alone for s in series):
        nothing = np.zeros_like(found.shown)
        return Dissection(cutter.building, faces, nothing, (), np.zeros((len(nothing), 0), bool))
    return replace(found, faces=(*found.faces, *faces))


def series_faces(cutter: Cutter, state: StageState, series: SerialSections) -> list[CutFace]:
    """The sections of a series as faces that cut nothing away, named by their labels."""
    elements = shown_elements(cutter.building, state.hidden) & series.reach.mask(cutter.building)
    faces = []
    for number, plane in enumerate(series.planes()):
        own = SectionPlane(id=series.id, name=series.name, mark=series.mark, plane=plane, poche=series.fills)
        found = cutter.free_section(plane, elements, state.poche)
        faces.append(cutter.face(own, plane, series.label(number), found, state.poche, free=True, outlined=series.curves))
    return faces
