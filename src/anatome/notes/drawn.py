"""All notes of a picture as marks on its paper."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from anatome.cuts.details import Detail
from anatome.notes.captions import caption_marks
from anatome.notes.dimensions import angle_marks, dimension_marks, radius_marks
from anatome.notes.furniture import north_point_marks, scale_bar_marks, section_mark_marks
from anatome.notes.labels import label_marks, level_marks
from anatome.notes.marks import NoteMarks, NotesDrawn
from anatome.notes.note import AnyNote
from anatome.notes.shapes import shape_marks
from anatome.notes.view import NoteView

Rgb = tuple[float, float, float]
DRAWERS: dict[str, Callable[[Any, NoteView], NoteMarks | None]] = {
    "dimension": dimension_marks,
    "angle": angle_marks,
    "radius": radius_marks,
    "level": level_marks,
    "label": label_marks,
    "scale bar": scale_bar_marks,
    "north point": north_point_marks,
    "section mark": section_mark_marks,
    "shape": shape_marks,
}


def marks_of(note: AnyNote, view: NoteView) -> NoteMarks | None:
    """Return one note as it is drawn; None where nothing of it is in sight."""
    own = view.styled(note)
    marks = DRAWERS[note.kind](note, own)
    return marks if marks is None or own.style.colour is None else replace(marks, ink=own.style.colour)


def notes_drawn(
    notes: Sequence[AnyNote], view: NoteView, ink: Rgb, paper: Rgb = (1.0, 1.0, 1.0), details: Sequence[Detail] = ()
) -> NotesDrawn:
    """Return all that are in sight, in their order, and what is written under details."""
    found = [marks for note in notes if (marks := marks_of(note, view)) is not None]
    found += caption_marks(details, view)
    size = np.array([view.viewport.width, view.viewport.height])
    return NotesDrawn(float(size[0]), float(size[1]), tuple(found), ink, paper)
