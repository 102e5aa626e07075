"""Words as lines: the outlines of letters as polylines, for what engraves or prints and knows no font."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.bezier import bezier
from anatome.notes.lettering import glyph

Array = NDArray[np.float64]
STEPS = 6
"""Pieces a curve of a letter is made of."""


def letter_lines(text: str, at: Array, height: float, strong: bool = False) -> list[Array]:
    """Return (n, 2) closed lines each, in mm: a line of text from the left end of its base line, capitals ``height`` mm
    high."""
    found: list[Array] = []
    x = 0.0
    for letter in text:
        shape = glyph(letter, strong)
        line: list[Array] = []
        for what, points in shape.outline:
            spots = [np.array(p) + [x, 0.0] for p in points]
            if what == "move":
                line = [spots[0]]
            elif what == "line":
                line.append(spots[0])
            elif what == "curve":
                line += list(bezier([line[-1], *spots], STEPS))
            elif line:
                found.append(at + height * np.array([*line, line[0]]))
        x += shape.advance
    return found
