"""Draws one sample of the picture of a building into a framebuffer, a few milliseconds of work at a time.

The renderer is given a context, in a window or without one, and knows nothing of either. What it draws is
premultiplied by its alpha over nothing, so that the same samples serve a picture on paper and one with clear ground.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.dissection import Dissection
from anatome.look.look import Look
from anatome.model.building import Building
from anatome.render.cut_buffers import CutBuffers
from anatome.render.model_buffers import ModelBuffers
from anatome.render.picture import Picture, SeenBefore
from anatome.render.programs import Programs
from anatome.render.targets import SampleTarget
from anatome.view.camera import Camera
from anatome.view.viewport import Frame, Viewport

WHOLE = Frame()


@dataclass(frozen=True, eq=False)
class View:
    """All that decides the picture. ``picked`` is an (E,) mask; ``frame`` gives crop and shift, its size is the picture's."""

    camera: Camera
    cut_open: Dissection
    look: Look
    picked: NDArray[np.bool_] | None = None
    frame: Frame = WHOLE


@dataclass(frozen=True)
class Window:
    """The part of a picture to draw: pixels of the whole, and the tile in it (x, y from the lower left)."""

    width: int
    height: int
    tile: tuple[int, int, int, int] | None = None

    @property
    def part(self) -> tuple[int, int, int, int]:
        """The tile, or all of it."""
        return self.tile or (0, 0, self.width, self.height)

    def clip(self, jitter: tuple[float, float]) -> tuple[float, float, float, float]:
        """Scale and shift of clip coordinates that fit the tile to the target, moved by ``jitter`` pixels."""
        x, y, w, h = self.part
        sx, sy = self.width / w, self.height / h
        return (
            sx,
            sy,
            sx - 1 - 2 * x / w + 2 * jitter[0] / w,
            sy - 1 - 2 * y / h + 2 * jitter[1] / h,
        )


class Renderer:
    """Holds a building's buffers on a context and draws views of it.

    Buffers nobody holds any more are given back before the next picture, when the context is sure to be current.
    """

    def __init__(self, ctx: moderngl.Context) -> None:
        ctx.gc_mode = "context_gc"
        self.ctx = ctx
        self.programs = Programs(ctx)
        self._model: ModelBuffers | None = None
        self._cuts: CutBuffers | None = None
        self._last: tuple[object, Picture] | None = None
        self._seen_before = SeenBefore()

    def set_building(self, building: Building | None) -> None:
        """Draw this building from now on."""
        for _ in self.load(building):
            pass

    def load(self, building: Building | None) -> Iterator[float]:
        """Draw this building from now on; hands its data over little by little and yields the share done."""
        self._model = self._cuts = self._last = None
        self._seen_before = SeenBefore()
        self.ctx.gc()
        if building is not None:
            model = ModelBuffers(self.ctx, building)
            yield from model.upload()
            self._model = model
            self._cuts = CutBuffers(self.ctx, building, model.centre)

    def draw(
        self,
        sample: SampleTarget,
        view: View,
        window: Window,
        jitter: tuple[float, float],
        number: int | None = None,
        moving: bool = False,
    ) -> None:
        """Clear the target and draw one sample of the view into it, all at once."""
        for _ in self.steps(sample, view, window, jitter, number, moving):
            pass

    def steps(
        self,
        sample: SampleTarget,
        view: View,
        window: Window,
        jitter: tuple[float, float],
        number: int | None = None,
        moving: bool = False,
    ) -> Iterator[None]:
        """Draw one sample in steps of a few milliseconds; between them others may use the context.

        With the ``number`` of the sample, soft shade is drawn too if the look has it. A ``moving`` picture is a sketch: fine
        detail is left out and lines are a pixel wide.
        """
        self.ctx.gc()
        sample.framebuffer.use()
        sample.framebuffer.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        if self._model is None or self._cuts is None:
            return
        picture = self._picture(view, window, moving)
        yield from picture.steps(sample, window, jitter, number)

    def _picture(self, view: View, window: Window, moving: bool) -> Picture:
        """What is to be drawn, worked out once for all samples of a picture."""
        assert self._model is not None and self._cuts is not None
        key = (id(view.cut_open), view.camera, view.look, view.frame, window, moving, _bytes(view.picked))
        if self._last is None or self._last[0] != key:
            viewport = Viewport(view.camera, view.frame.sized(window.width, window.height))
            picture = Picture(
                *(self.ctx, self.programs, self._model, self._cuts, viewport, view.cut_open, view.look, window, moving),
                self._seen_before,
            )
            self._last = key, picture
        # Another picture may have marked others in the table meanwhile.
        self._model.mark(view.picked)
        return self._last[1]


def _bytes(mask: NDArray[np.bool_] | None) -> bytes | None:
    return None if mask is None else mask.tobytes()
