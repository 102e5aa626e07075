"""What is seen of lines as strokes, each kind on a layer of its own: how heavy, how dark, dashed or whole."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.linework.drawing import Strokes
from anatome.linework.feature_lines import BETWEEN, EDGE, GHOST, ROUND, SILHOUETTE, TRAVEL, Lines
from anatome.linework.joining import joined
from anatome.linework.on_paper import FIGURE, WITHIN, OnPaper
from anatome.look.look import Rgb
from anatome.look.styles import LineStyle
from anatome.site.drawing import OUTLINE_INK, STROKE_INK

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]

BANDS = 5
"""Steps in which lines get thinner and lighter with depth."""
HIDDEN_INK, DASH, GAP = 0.42, 1.6, 1.0
"""Of hidden lines: how strong, and millimetres of a dash and of the gap after it."""
INKS = {FIGURE: OUTLINE_INK, WITHIN: STROKE_INK, TRAVEL: 0.6, GHOST: 0.45}
DASHES = {GHOST: (0.5, 0.9)}
"""Of what is hidden and faintly drawn, mm: dotted, as it is in pictures."""
BEYOND = {
    TRAVEL: "Travel lines",
    GHOST: "Ghosts",
    WITHIN: "Within figures",
    FIGURE: "People and trees",
    EDGE: "Edges",
    SILHOUETTE: "Silhouettes",
}


def strokes(on: OnPaper, lines: Lines, flat: Array, of: Numbers, stretch: Array) -> tuple[Strokes, ...]:
    """What is seen, by kind: far lines first, the heavy ones of the cut last."""
    look, styles = on.view.look, on.styles
    ends = on.pieces(flat, of, stretch)
    kind = lines.kind[of]
    depth = on.viewport.flat(lines.ends.mean(axis=1))[1][of]
    away = np.clip((depth - on.near) / max(on.far - on.near, 1e-9), 0.0, 1.0)
    band = np.minimum((away * BANDS).astype(np.int64), BANDS - 1) if look.recede > 0 else np.zeros(len(of), np.int64)
    element = lines.element[of]
    style = np.where(element >= 0, styles.line[element], 0)
    found = []
    for b in range(BANDS - 1, -1, -1):
        for which, name in BEYOND.items():
            for s, own in enumerate(styles.line_styles):
                chosen = (kind == which) & (band == b) & (style == s)
                if chosen.any():
                    shown = f"{name}, {_far(b)}" if look.recede > 0 else name
                    shown += f", {s}" if s else ""
                    found.append(_beyond(on, shown, which, b, own, ends[chosen]))
    for which, name, weight in ((BETWEEN, "Between parts", look.part_weight), (ROUND, "Round the cut", look.cut_weight)):
        whole, _ = joined(ends[kind == which], np.zeros(int((kind == which).sum()), np.int64))
        found.append(Strokes(name, weight, look.ink, tuple(whole)))
    return tuple(kind for kind in found if len(kind.lines))


def _beyond(on: OnPaper, name: str, kind: int, band: int, style: LineStyle, ends: Array) -> Strokes:
    look = on.view.look
    away = (band + 0.5) / BANDS if look.recede > 0 else 0.0
    weight = style.weight or look.edge_weight
    weight *= look.silhouette_weight / look.edge_weight if kind == SILHOUETTE else 1.0
    weight *= 1 - 0.5 * look.recede * away
    strength = (1 - 0.4 * look.recede * away) * (1 - min(look.haze * away, 0.92))
    whole, _ = joined(ends, np.zeros(len(ends), np.int64))
    strength *= INKS.get(kind, 1.0)
    return Strokes(
        name, round(weight, 3), _mixed(look.paper, style.colour or look.line_ink, strength), tuple(whole), DASHES.get(kind)
    )


def hidden_strokes(on: OnPaper, lines: Lines, flat: Array, of: Numbers, stretch: Array) -> tuple[Strokes, ...]:
    """What is not seen of edges, dashed."""
    look = on.view.look
    chosen = lines.kind[of] == EDGE
    whole, _ = joined(on.pieces(flat, of[chosen], stretch[chosen]), np.zeros(int(chosen.sum()), np.int64))
    ink = _mixed(look.paper, look.line_ink, HIDDEN_INK)
    return (Strokes("Hidden lines", round(0.7 * look.edge_weight, 3), ink, tuple(whole), (DASH, GAP)),) if len(whole) else ()


def _far(band: int) -> str:
    return ("near", "less near", "middle", "far", "farthest")[band]


def _mixed(paper: Rgb, ink: Rgb, strength: float) -> Rgb:
    r, g, b = (p + (i - p) * strength for p, i in zip(paper, ink))
    return r, g, b
