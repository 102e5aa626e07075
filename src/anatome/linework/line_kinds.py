"""What is seen of lines as strokes, each kind on a layer of its own."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.linework.drawing import Strokes
from anatome.linework.feature_lines import Lines
from anatome.linework.joining import joined
from anatome.linework.on_paper import OnPaper
from anatome.look.pens import BEYOND, OWN, LineKind, LineStyle, name_of, wash_of

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]

BANDS = ("near", "less near", "middle", "far", "farthest")
"""Steps in which lines get thinner and lighter with depth, as their layers are called."""


def strokes(on: OnPaper, lines: Lines, flat: Array, of: Numbers, stretch: Array) -> tuple[Strokes, ...]:
    """Return what is seen, by kind: far lines first, the heavy ones of the cut last."""
    look, styles = on.view.look, on.styles
    ends = on.pieces(flat, of, stretch)
    kind = lines.kind[of]
    bands = len(BANDS) if look.recede > 0 or look.haze > 0 else 1
    band = np.minimum((on.away(lines.ends.mean(axis=1))[of] * bands).astype(np.int64), bands - 1)
    element = lines.element[of]
    style = np.where(element >= 0, styles.line[element], 0)
    found = []
    for b in reversed(range(bands)):
        for which in BEYOND:
            for number, own in enumerate(styles.line_styles):
                chosen = (kind == which) & (band == b) & (style == number)
                if chosen.any():
                    shown = [name_of(which), *([BANDS[b]] if bands > 1 else []), *([str(number)] if number else [])]
                    away = (b + 0.5) / bands if bands > 1 else 0.0
                    found.append(_strokes(on, ", ".join(shown), which, ends[chosen], own, away))
    found += [_strokes(on, name_of(which), which, ends[kind == which]) for which in LineKind if which.is_of_cut]
    return tuple(one for one in found if len(one.lines))


def hidden_strokes(on: OnPaper, lines: Lines, flat: Array, of: Numbers, stretch: Array) -> tuple[Strokes, ...]:
    """Return what is not seen of edges, dashed."""
    chosen = lines.kind[of] == LineKind.EDGE
    found = _strokes(on, name_of(LineKind.HIDDEN), LineKind.HIDDEN, on.pieces(flat, of[chosen], stretch[chosen]))
    return (found,) if found.lines else ()


def _strokes(on: OnPaper, name: str, kind: LineKind, ends: Array, style: LineStyle = OWN, away: float = 0.0) -> Strokes:
    whole, _ = joined(ends, np.zeros(len(ends), np.int64))
    look = on.view.look
    return Strokes(name, wash_of(look, kind, style, away).on(look.paper), tuple(whole), kind)
