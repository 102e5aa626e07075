"""Where on the paper there is still room: words keep clear of words and of lines, and of the edge of the picture."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.notes.marks import ROOM, NoteMarks

MARGIN = 2.0
"""Mm that words stay inside the picture."""


Box = tuple[float, float, float, float]
"""Left, bottom, right and top, in mm."""


class FreeRoom:
    """Of a picture, or what of it is seen, on paper."""

    def __init__(self, seen: Box) -> None:
        left, bottom, right, top = seen
        self._paper = shapely.box(left + MARGIN, bottom + MARGIN, right - MARGIN, top - MARGIN)
        self._words: list[shapely.Geometry] = []
        self._lines: list[shapely.Geometry] = []

    @property
    def words(self) -> NDArray[np.object_]:
        """(n,) where words stand."""
        return np.array(self._words, object)

    def has(self, marks: NoteMarks, own_edge: bool = True) -> bool:
        """Return whether a note can be drawn without covering anything, and if wanted all of it within the picture."""
        words, lines = _shapes(marks)
        if own_edge and not all(shapely.contains(self._paper, shape) for shape in words):
            return False
        for shape in words:
            if any(shapely.intersects(shape, other) for other in (*self._words, *self._lines)):
                return False
        return not any(shapely.intersects(line, other) for line in lines for other in self._words)

    def take(self, marks: NoteMarks) -> None:
        """It stands there now."""
        words, lines = _shapes(marks)
        self._words += words
        self._lines += lines


def _shapes(marks: NoteMarks) -> tuple[list[shapely.Geometry], list[shapely.Geometry]]:
    words = [shapely.Polygon(w.corners(ROOM)) for w in marks.words]
    lines = [shapely.LineString(s.points) for s in marks.strokes if len(s.points) > 1]
    return words, lines


def overlaps(marks: NoteMarks, other: NoteMarks) -> bool:
    """Return whether the words of two notes cover one another."""
    first, second = ([shapely.Polygon(w.corners()) for w in one.words] for one in (marks, other))
    return any(shapely.intersects(a, b) for a in first for b in second)
