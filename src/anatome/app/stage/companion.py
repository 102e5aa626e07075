"""A second picture of the building that follows what moves: the stage draws its own first, then this one."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from typing import Protocol

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.render.accumulation import Accumulation, Paper
from anatome.render.renderer import Renderer
from anatome.render.window import Window
from anatome.scenes.scene_view import View

FRAME = 0.060
"""Seconds a moving picture may take; what takes longer is drawn in fewer pixels, what takes much less in more."""
COARSEST = 3
"""Pixels of the screen that a pixel of a moving picture spans at most."""


def next_share(share: int, taken: float) -> int:
    """Return how many pixels of the screen a pixel of the next sketch spans, after one of ``share`` took so many seconds."""
    if taken > 1.2 * FRAME:
        return min(share + 1, COARSEST)
    # Half of the time goes by with the pixels, the rest stays however many there are.
    return share - 1 if share > 1 and taken * share / (share - 1) < 0.8 * FRAME else share


class Companion(Protocol):
    """Somebody whose picture follows what moves on the stage."""

    def sketch(self, on: Renderer) -> Iterator[None] | None:
        """Return the steps of drawing it anew; None while what there is is good."""


class Sketcher:
    """Draws sketches for a companion, one after the other, with buffers of its own."""

    def __init__(self) -> None:
        self._share = 1
        self._drawn_on: tuple[object, Accumulation, moderngl.Framebuffer] | None = None

    def steps(self, on: Renderer, view: View, full: tuple[int, int], done: Callable[[NDArray[np.uint8]], None]) -> Iterator[None]:
        """Draw one of a view, as large as ``full`` pixels of the screen or coarser; ``done`` gets (height, width, 4) uint8."""
        began = time.perf_counter()
        width, height = (max(pixels // self._share, 1) for pixels in full)
        if self._drawn_on is None or self._drawn_on[0] is not on.ctx or self._drawn_on[1].size != (width, height):
            sums = Accumulation(on.ctx, on.programs, (width, height))
            self._drawn_on = on.ctx, sums, on.ctx.simple_framebuffer((width, height))
        _, sums, target = self._drawn_on
        sums.restart()
        yield from sums.steps(on, view, Window(width, height), moving=True)
        sums.show(target, Paper.of(view.look))
        pixels = np.frombuffer(target.read(components=4, alignment=1), np.uint8).reshape(height, width, 4)
        self._share = next_share(self._share, time.perf_counter() - began)
        done(np.ascontiguousarray(pixels[::-1]))
