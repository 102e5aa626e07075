"""Linework as far as it is drawn: what a hand would have done by then, the heaviest lines first."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from anatome.linework.drawing import Drawing, Strokes

Line = NDArray[np.float64]


def so_far(drawing: Drawing, share: float) -> Drawing:
    """Return a drawing with a share of the length of its lines, from 0 to 1: the strokes with the widest pens first, each from
    left to right; its areas are left out, for they are filled when all lines are there."""
    if share >= 1.0:
        return replace(drawing, layers=())
    strokes_of = drawing.strokes
    lengths = [[_length(line) for line in strokes.lines] for strokes in strokes_of]
    left = share * sum(map(sum, lengths))
    found: dict[int, Strokes] = {}
    for place in sorted(range(len(strokes_of)), key=lambda n: -strokes_of[n].pen.weight):
        strokes, own = strokes_of[place], lengths[place]
        lines: list[Line] = []
        for number in sorted(range(len(own)), key=lambda n: float(strokes.lines[n][:, 0].min())):
            if left <= 0:
                break
            lines.append(strokes.lines[number] if own[number] <= left else _begun(strokes.lines[number], left))
            left -= own[number]
        if lines:
            found[place] = replace(strokes, lines=tuple(lines))
    # They lie over one another as they do in the whole drawing.
    return replace(drawing, layers=(), strokes=tuple(found[place] for place in sorted(found)))


def _length(line: Line) -> float:
    return float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum())


def _begun(line: Line, length: float) -> Line:
    """The beginning of a line, so many mm of it."""
    steps = np.linalg.norm(np.diff(line, axis=0), axis=1)
    reached = np.concatenate([[0.0], np.cumsum(steps)])
    last = int(np.searchsorted(reached, length, side="right")) - 1
    if last >= len(steps):
        return line
    end = line[last] + (line[last + 1] - line[last]) * (length - reached[last]) / max(float(steps[last]), 1e-12)
    return np.vstack([line[: last + 1], end])
