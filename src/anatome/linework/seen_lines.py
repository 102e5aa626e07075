"""The lines of a view as far as they are seen: what a drawing is made of, and what a pointer on it means."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.linework.feature_lines import Lines, both, feature_lines
from anatome.linework.hidden import seen_stretches
from anatome.linework.on_paper import OnPaper
from anatome.look.pens import LineKind
from anatome.scenes.scene_view import View

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]
SAME = 0.1
"""Mm on paper within which lines lie over one another."""
MEETS = 1e-4
"""Metres within which the pieces of one line go on from one another."""
STRAIGHT = 1 - 1e-6
"""Cosine between the directions of pieces of one line."""


@dataclass(frozen=True, eq=False)
class SeenLines:
    """``pieces`` (m, 2, 2) mm on paper, each a stretch that is seen of the line ``of`` (m,) among ``drawn``, which are the lines
    of the view as far as they lie in the picture; ``whole`` are the same and all others as long as they are."""

    pieces: Array
    of: Numbers
    drawn: Lines
    whole: Lines

    def nearest(self, at: Array, within: float) -> int | None:
        """Return the number of the line that is seen nearest to (2,) a place on paper, at most ``within`` mm from it."""
        if not len(self.pieces):
            return None
        start, arm = self.pieces[:, 0], self.pieces[:, 1] - self.pieces[:, 0]
        share = np.einsum("ij,ij->i", at - start, arm) / np.maximum(np.einsum("ij,ij->i", arm, arm), 1e-12)
        away = np.linalg.norm(start + share.clip(0, 1)[:, None] * arm - at, axis=1)
        # Of lines that lie over one another the one on top is meant.
        best = int(np.lexsort((-self.drawn.kind[self.of], np.round(away / SAME)))[0])
        return int(self.of[best]) if away[best] <= within else None

    def ends(self, number: int) -> Array:
        """Return (2, 3) metres, the ends of the straight line that a line is a piece of, of one part and beyond or round what is
        cut."""
        start, end = self.drawn.ends[number]
        way = (end - start) / max(float(np.linalg.norm(end - start)), 1e-12)
        lines, cut = self.whole, self.drawn.kind[number] >= LineKind.BETWEEN
        runs = lines.ends[:, 1] - lines.ends[:, 0]
        size = np.linalg.norm(runs, axis=1)
        alike = (lines.element == self.drawn.element[number]) & ((lines.kind >= LineKind.BETWEEN) == cut)
        alike &= (np.abs(runs @ way) > STRAIGHT * size) & (size > 0)
        from_start = lines.ends[alike] - start
        along = from_start @ way
        on_it = np.linalg.norm(from_start - along[..., None] * way, axis=-1).max(axis=1) < MEETS
        low, high = along[on_it].min(axis=1), along[on_it].max(axis=1)
        reach = np.array([0.0, float((end - start) @ way)])
        while True:  # as far as pieces go on from one another
            touches = (low <= reach[1] + MEETS) & (high >= reach[0] - MEETS)
            further = np.array([low[touches].min(initial=reach[0]), high[touches].max(initial=reach[1])])
            if (further == reach).all():
                return np.asarray(start + further[:, None] * way)
            reach = further

    def shown(self, ends: Array, element: int) -> Array:
        """Return (k, 2, 2) mm, the pieces that are seen of the straight line of a part between (2, 3) ends, or with one end, (1,
        3), of all lines of the part."""
        own = self.drawn.element == element
        if len(ends) > 1:
            way = ends[1] - ends[0]
            long = float(np.linalg.norm(way))
            away = self.drawn.ends - ends[0]
            along = away @ (way / max(long, 1e-12))
            off = np.linalg.norm(away - along[..., None] * (way / max(long, 1e-12)), axis=-1).max(axis=1)
            own &= (off < 2 * MEETS) & (along.min(axis=1) > -MEETS) & (along.max(axis=1) < long + MEETS)
        return self.pieces[own[self.of]]


def seen_lines(view: View, progress: Callable[[float], bool] | None = None) -> SeenLines:
    """Return what is seen of the lines of a view, those round what is cut with the elements they lie round.

    ``progress`` is told the share done and may return False to stop, which raises Problem.
    """
    work = OnPaper(view)
    whole = both(feature_lines(view.opened, view.look, work.styles, work.viewport, owned=True), work.figure_lines())
    drawn = work.clipped(whole)
    flat = work.flat(drawn)
    of, stretch = seen_stretches(flat, work.hiding(), progress)
    return SeenLines(work.pieces(flat, of, stretch), of, drawn, whole)
