"""What is seen of lines as strokes, each kind on a layer of its own."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.linework.drawing import Strokes
from anatome.linework.feature_lines import Lines
from anatome.linework.joining import joined
from anatome.linework.on_paper import OnPaper
from anatome.linework.sorting import Sorting
from anatome.look.pens import BEYOND, OWN, LineKind, LineStyle, name_of, wash_of

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]

BANDS = ("near", "less near", "middle", "far", "farthest")
"""Steps in which lines get thinner and lighter with depth, as their layers are called."""


def strokes(
    on: OnPaper, lines: Lines, flat: Array, of: Numbers, stretch: Array, sorting: Sorting, touched: Numbers | None = None
) -> tuple[Strokes, ...]:
    """Return what is seen, by kind: far lines first, the heavy ones of the cut last; ``touched`` (n,) is which touching up each
    line has, −1 for none."""
    look, styles = on.view.look, on.styles
    ends = on.pieces(flat, of, stretch)
    kind = lines.kind[of]
    bands = len(BANDS) if look.recede > 0 or look.haze > 0 else 1
    band = np.minimum((on.away(lines.ends.mean(axis=1))[of] * bands).astype(np.int64), bands - 1)
    element = lines.element[of]
    style = np.where(element >= 0, styles.line[element], 0)
    number = sorting.numbers(element, kind, None if touched is None else touched[of])
    found: list[Strokes | None] = []
    for b in reversed(range(bands)):
        for which in BEYOND:
            for own_style, own in enumerate(styles.line_styles):
                chosen = (kind == which) & (band == b) & (style == own_style)
                away = (b + 0.5) / bands if bands > 1 else 0.0
                depth = ", ".join([*([BANDS[b]] if bands > 1 else []), *([str(own_style)] if own_style else [])])
                found += _sorted(on, sorting, name_of(which), which, ends[chosen], number[chosen], own, away, depth)
    for which in LineKind:
        if which.is_of_cut:
            chosen = kind == which
            found += _sorted(on, sorting, name_of(which), which, ends[chosen], number[chosen])
    return tuple(one for one in found if one is not None and len(one.lines))


def hidden_strokes(on: OnPaper, lines: Lines, flat: Array, of: Numbers, stretch: Array, sorting: Sorting) -> tuple[Strokes, ...]:
    """Return what is not seen of edges, dashed."""
    chosen = lines.kind[of] == LineKind.EDGE
    ends, number = on.pieces(flat, of[chosen], stretch[chosen]), sorting.numbers(lines.element[of[chosen]])
    found = _sorted(on, sorting, name_of(LineKind.HIDDEN), LineKind.HIDDEN, ends, number)
    return tuple(one for one in found if one is not None and one.lines)


def _sorted(
    on: OnPaper,
    sorting: Sorting,
    words: str,
    kind: LineKind,
    ends: Array,
    number: Numbers,
    style: LineStyle = OWN,
    away: float = 0.0,
    depth: str = "",
) -> list[Strokes | None]:
    """Lines of one pen, on as many layers as they are told apart by."""
    whole, first = joined(ends, np.zeros(len(ends), np.int64) if not sorting.tells_apart else number)
    of = number[first] if len(first) else np.empty(0, np.int64)
    pen = wash_of(on.view.look, kind, style, away).on(on.view.look.paper)
    return [sorting.strokes(words, one, pen, tuple(whole[of == one]), kind, depth) for one in np.unique(of).tolist()]
