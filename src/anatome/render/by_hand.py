"""Lines of a picture in the manner of a hand: those of its linework, drawn on a thread while its surfaces are drawn."""

from __future__ import annotations

import threading
from collections.abc import Callable, Generator
from concurrent.futures import ThreadPoolExecutor, wait
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from anatome.linework.drawing import Drawing
from anatome.linework.view_drawing import NothingToDraw, view_drawing
from anatome.look.look import Rgb
from anatome.look.pens import LineKind
from anatome.problems import Problem
from anatome.render.drawings import LEAST_SCALE, lines_image, over_picture
from anatome.scenes.scene_view import View

HANDS = ThreadPoolExecutor(1, "lines by hand")
PATIENCE = 0.01
"""Seconds of a step in which lines are waited for."""
WASH_EDGES, HATCHES, BEYOND, CUT = "wash-edges", "hatches", "lines", "cut-lines"
"""What lies on an image, the lowest first."""
Images = dict[str, NDArray[np.uint8]]


def drawn_by_hand(view: View, size: tuple[int, int], progress: Callable[[float], bool] | None = None) -> Drawing | None:
    """Return the lines of a picture, without fills; None where there are none. Raises Problem when it is stopped."""
    on_paper = replace(view, frame=view.frame.sized(*size), notes=None)
    try:
        return view_drawing(on_paper, "", progress=progress, tones=view.has_wash_edges).lines_alone()
    except NothingToDraw:
        return None


class HandLines:
    """Of one picture of ``size`` pixels."""

    def __init__(self, view: View, size: tuple[int, int]) -> None:
        self._view, self._size = view, size
        self._stopped = threading.Event()
        self._made = HANDS.submit(self._draw)

    @classmethod
    def of(cls, view: View, size: tuple[int, int]) -> HandLines | None:
        """Return those of a picture; None where its lines are ruled, or could not be told from ruled ones, so small is it."""
        return cls(view, size) if view.by_hand and size[1] >= LEAST_SCALE * view.paper else None

    def steps(self) -> Generator[None, None, Images]:
        """Wait for them in steps, and return (height, width, 4) RGBA, not premultiplied, by what lies on them; nothing where
        there are no lines."""
        while not self._made.done():
            wait((self._made,), PATIENCE)
            yield
        return self._made.result()

    def stop(self) -> None:
        """Give them up, if they are under way."""
        self._stopped.set()

    def _draw(self) -> Images:
        def went_on(share: float) -> bool:
            return not self._stopped.is_set()

        try:
            drawing = drawn_by_hand(self._view, self._size, went_on)
        except Problem:
            if self._stopped.is_set():
                return {}  # nobody waits for them
            raise
        return {} if drawing is None else images_of(drawing, self._size, self._view.look.paper)


def images_of(drawing: Drawing, size: tuple[int, int], paper: Rgb) -> Images:
    """Return (height, width, 4) RGBA, not premultiplied, of lines over nothing, by what lies on them."""
    parts = ((name, part) for name, part in _apart(drawing).items() if part.layers or part.strokes)
    return {name: lines_image(part, size, paper) for name, part in parts}


def laid_over(images: Images) -> NDArray[np.uint8] | None:
    """Return all of them as one image, the lowest first; None where there is none."""
    found = None
    for image in images.values():
        found = image if found is None else over_picture(found, image)
    return found


def _apart(drawing: Drawing) -> dict[str, Drawing]:
    strokes = {
        HATCHES: tuple(s for s in drawing.strokes if s.kind == LineKind.HATCH),
        BEYOND: tuple(s for s in drawing.strokes if s.kind is None or LineKind.HATCH < s.kind < LineKind.BETWEEN),
        CUT: tuple(s for s in drawing.strokes if s.kind is not None and s.kind.is_of_cut),
    }
    plain = replace(drawing, layers=())
    return {WASH_EDGES: replace(drawing, strokes=()), **{name: replace(plain, strokes=own) for name, own in strokes.items()}}
