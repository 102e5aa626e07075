"""Words as lines: the outlines of letters as polylines, for what engraves and knows no font."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.notes.lettering import glyph

Array = NDArray[np.float64]
STEPS = 6
"""Pieces a curve of a letter is made of."""


def letter_lines(text: str, at: Array, height: float) -> list[Array]:
    """Return (n, 2) closed lines each, in mm: a line of text from the left end of its base line, capitals ``height`` mm
    high."""
    found: list[Array] = []
    x = 0.0
    for letter in text:
        shape = glyph(letter)
        line: list[Array] = []
        for what, points in shape.outline:
            spots = [np.array(p) + [x, 0.0] for p in points]
            if what == "move":
                line = [spots[0]]
            elif what == "line":
                line.append(spots[0])
            elif what == "curve":
                line += _curve(line[-1], spots)
            elif line:
                found.append(at + height * np.array([*line, line[0]]))
        x += shape.advance
    return found


def _curve(start: Array, points: list[Array]) -> list[Array]:
    """The places along a Bézier curve of the second or third degree, by de Casteljau."""
    found = []
    for t in np.linspace(0, 1, STEPS + 1)[1:]:
        level = [start, *points]
        while len(level) > 1:
            level = [a + t * (b - a) for a, b in zip(level, level[1:])]
        found.append(level[0])
    return found
