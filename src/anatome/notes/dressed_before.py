"""What dressing wrote before: what of it is written anew, and what stays because a hand was on it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from anatome.cuts.plane import Plane
from anatome.notes.cut_rooms import WAYS, CutRoom
from anatome.notes.note import AnyNote, Dimension, Label, SectionMark, anchors_of

PARALLEL = 0.99


def kept_by_hand(notes: Sequence[AnyNote], cut: str) -> tuple[AnyNote, ...]:
    """Return the notes that stay when the section of a cut is dressed anew: those dressing did not write, those that were moved
    or changed since, and those of other cuts."""
    return tuple(n for n in notes if n.dressed is None or not {a.cut for a in anchors_of(n) if a.cut} <= {cut})


def dressed_for(notes: Sequence[AnyNote]) -> float | None:
    """Return the height of the picture in mm that notes were placed for by dressing; None where there are none such."""
    return next((n.dressed for n in notes if n.dressed is not None), None)


class SaidBefore:
    """Notes that stay, asked whether they say what is about to be written, so that nothing is said twice."""

    def __init__(self, notes: Sequence[AnyNote]) -> None:
        self._notes = tuple(notes)
        self._said = {key for note in notes if (key := _key(note)) is not None}

    def has(self, note: AnyNote) -> bool:
        """Return whether a note says of the same parts what one of them says."""
        return _key(note) in self._said

    def has_clear(self, room: CutRoom, way: str, plane: Plane) -> bool:
        """Return whether one of them measures a room in a plane of a cut, right across or up."""
        u, v = plane.axes
        along = WAYS[way][0] * u + WAYS[way][1] * v
        for note in self._notes:
            if not isinstance(note, Dimension) or len(note.anchors) != 2 or abs(np.array(note.along) @ along) < PARALLEL:
                continue
            middle = plane.flat(np.mean([a.place for a in note.anchors], axis=0))
            if (middle > room.low).all() and (middle < room.high).all():
                return True
        return False


def _key(note: AnyNote) -> tuple[object, ...] | None:
    """What a note says of what; None of a clear length, which is known by its room."""
    on = tuple(sorted({a.on for a in anchors_of(note)}))
    if isinstance(note, Dimension):
        return None if len(note.anchors) == 2 else (note.kind, tuple(np.abs(np.round(note.along, 2)).tolist()), on)
    if isinstance(note, SectionMark):
        return note.kind, note.cut
    if isinstance(note, Label):
        return note.kind, note.leader, on
    return note.kind, on
