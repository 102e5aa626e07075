"""The drawing of a view: its lines with the hidden ones removed, and what is cut as areas, in millimetres on paper."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from anatome.linework.by_hand import by_hand
from anatome.linework.cut_areas import CutAreas, faded, layers_of
from anatome.linework.divided import Side, put_together, sides
from anatome.linework.drawing import Drawing
from anatome.linework.feature_lines import both, feature_lines
from anatome.linework.flat_tones import tone_layer
from anatome.linework.hidden import seen_stretches
from anatome.linework.line_kinds import hidden_strokes, strokes
from anatome.linework.on_paper import OnPaper
from anatome.linework.one_plane import left_of_stretches
from anatome.linework.sorting import Sorting
from anatome.linework.touched_up import TouchedLines, masked, pens_of
from anatome.look.line_layers import LineLayers
from anatome.problems import Problem
from anatome.scenes.scene_view import View

Array = NDArray[np.float64]
Progress = Callable[[float], bool]

LINES_TAKE = 0.3
"""Share of the time that goes to the lines where flat tones are wanted too."""


class NothingToDraw(Problem):
    """A view shows nothing."""


NOTHING = "There is nothing to draw in this picture. Show something, or move the camera."


def view_drawing(
    view: View,
    title: str,
    scale: float = 0.0,
    beyond: bool = True,
    hidden: bool = False,
    progress: Progress | None = None,
    tones: bool = False,
    layers: LineLayers | None = None,
) -> Drawing:
    """Return the linework of a view: with what lies ``beyond`` the cut, with ``hidden`` lines dashed, with flat ``tones``, if
    wanted; on ``layers`` by kind, if nothing else is said.

    ``progress`` is told the share done and may return False to stop, which raises Problem; so does a view that shows nothing.
    """
    divide = view.divide
    pair = None if divide is None else sides(divide, view.on_paper(), view.opened.cut_open.building)
    if divide is None or pair is None:
        return _drawn(view, title, scale, beyond, hidden, progress, tones, layers)
    made = []
    for number, (look, side) in enumerate(zip((view.look, divide.other), pair)):
        share = None if progress is None else _half(progress, number)
        made.append(_drawn(replace(view, look=look), title, scale, beyond, hidden, share, tones, layers, side))
    if not any(drawing.strokes or drawing.layers for drawing in made):
        raise NothingToDraw(NOTHING)
    return put_together(made[0], made[1], divide, view.on_paper(), (view.look.paper, divide.other.paper))


def _half(progress: Progress, number: int) -> Progress:
    """The progress of one of two drawings."""
    return lambda share: progress((number + share) / 2)


def _drawn(
    view: View,
    title: str,
    scale: float,
    beyond: bool,
    hidden: bool,
    progress: Progress | None,
    tones: bool,
    sorted_as: LineLayers | None,
    side: Side | None = None,
) -> Drawing:
    """The drawing in one look, or what of it lies on a side of a divide."""
    work = OnPaper(view, side)
    sorting = Sorting(sorted_as, view.opened.cut_open.building, pens_of(view.touched))
    owned = sorting.by_model or bool(view.touched)
    lines = feature_lines(view.opened, view.look, work.styles, work.viewport, beyond, owned)
    lines_take = LINES_TAKE if tones and beyond else 1.0

    def went_on(share: float) -> None:
        if progress is not None and not progress(lines_take * share):
            raise Problem("The linework was cancelled; nothing was written.")

    def told(share: float) -> bool:
        return progress is None or progress(lines_take * (0.35 + 0.5 * share))

    went_on(0.15)
    figures = work.figure_lines() if beyond else lines.some(np.empty(0, np.int64))
    whole = both(lines, figures)
    drawn = work.clipped(whole)
    touched = TouchedLines(drawn, whole, view.touched)
    if not len(drawn.ends) and not tones and side is None:
        raise NothingToDraw(NOTHING)
    went_on(0.2)
    hiding = work.hiding()
    went_on(0.35)
    flat = work.flat(drawn)
    of, stretch = seen_stretches(flat, hiding, told)
    shown = ~touched.hidden[of]
    lines_seen = strokes(work, drawn, flat, of[shown], stretch[shown], sorting, touched.number)
    if hidden or view.look.hidden_lines:
        rest, gaps = left_of_stretches(len(flat), of, stretch)
        rest, gaps = rest[~touched.hidden[rest]], gaps[~touched.hidden[rest]]
        lines_seen = (*hidden_strokes(work, drawn, flat, rest, gaps, sorting), *lines_seen)
    went_on(0.9)
    cut = CutAreas(work, hiding, sorting)
    areas, hatches = cut.drawn()
    layers = layers_of(view.opened.cut_open.building, areas, sorting=sorting)
    if tones and beyond:
        seen = work.pieces(flat, of, stretch) if view.look.edges and side is None else _all_edges(view)
        blank = faded(areas, work.viewport.width)
        own = tone_layer(seen, work, hiding, blank, lambda share: went_on(1.0 + (1.0 / LINES_TAKE - 1.0) * share))
        layers = (own, *layers)
    made = masked((*hatches, *lines_seen), view.touched, work)
    size, look = work.viewport, view.look
    paper = look.paper if sum(look.paper) < sum(look.ink) else None
    found = Drawing(title, size.width, size.height, scale, 0.0, look.ink, layers, made, paper, lost=touched.lost)
    return by_hand(found, look)


def _all_edges(view: View) -> Array:
    """(m, 2, 2) mm, what is seen of the lines of a view whose look draws none beyond the cut: faces end there all the same."""
    work = OnPaper(replace(view, look=view.look.model_copy(update={"edges": True})))
    lines = feature_lines(view.opened, work.view.look, work.styles, work.viewport)
    drawn = work.clipped(both(lines, work.figure_lines()))
    flat = work.flat(drawn)
    return work.pieces(flat, *seen_stretches(flat, work.hiding()))
