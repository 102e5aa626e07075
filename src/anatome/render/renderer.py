"""Draws one sample of the picture of a building into a framebuffer, a few milliseconds of work at a time.

The renderer is given a context, in a window or without one, and knows nothing of either. What it draws is
premultiplied by its alpha over nothing, so that the same samples serve a picture on paper and one with clear ground.
"""

from __future__ import annotations

from collections.abc import Generator, Iterator, Sequence
from dataclasses import dataclass, replace

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.pieces import Opened, Placed
from anatome.look.look import UNSAID_PAPER, Look
from anatome.model.building import Building
from anatome.render.cut_buffers import CutBuffers
from anatome.render.figure_buffers import FigureBuffers
from anatome.render.model_buffers import ModelBuffers
from anatome.render.picture import Picture, SeenBefore, Shared
from anatome.render.programs import Programs
from anatome.render.sun import Sun
from anatome.render.targets import SampleTarget
from anatome.render.window import Window
from anatome.site.site import Figure
from anatome.site.standing import standing
from anatome.view.camera import Camera
from anatome.view.viewport import Frame, Viewport

WHOLE = Frame()


@dataclass(frozen=True, eq=False)
class View:
    """All that decides the picture. ``picked`` is an (E,) mask; ``frame`` gives crop and shift, its size is the picture's;
    ``figures`` are the people and trees that are seen; ``paper`` is how many millimetres of paper the picture is high."""

    camera: Camera
    opened: Opened
    look: Look
    picked: NDArray[np.bool_] | None = None
    frame: Frame = WHOLE
    figures: tuple[Figure, ...] = ()
    paper: float = UNSAID_PAPER


@dataclass(frozen=True, eq=False)
class _Drawn:
    """A picture for each piece, or one, and for the ghosts of each; and the figures."""

    pictures: list[Picture]
    ghosts: list[Picture]
    figures: FigureBuffers
    sun: Sun | None


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
        self._last: tuple[object, _Drawn, View] | None = None
        self._sun: tuple[object, Sun, View] | None = None
        self._seen_before = SeenBefore()

    def set_building(self, building: Building | None) -> None:
        """Draw this building from now on."""
        for _ in self.load(building):
            pass

    def load(self, building: Building | None) -> Iterator[float]:
        """Draw this building from now on; hands its data over little by little and yields the share done."""
        self._model = self._cuts = self._last = self._sun = None
        self._seen_before = SeenBefore()
        self.ctx.gc()
        if building is not None:
            model = ModelBuffers(self.ctx, building)
            yield from model.upload()
            self._model = model
            self._cuts = CutBuffers(self.ctx, building, model.centre)

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
        drawn = self._drawn(view, window, moving)
        pictures, ghosts = drawn.pictures, drawn.ghosts
        for picture in pictures:
            yield from picture.surfaces(sample, jitter, view.picked)
        if number is not None:
            yield from pictures[0].shade(sample, jitter, number)
            if drawn.sun is not None:
                yield from drawn.sun.prepare()
                yield from drawn.sun.cast(pictures[0], sample, jitter, number)
        for picture in pictures:
            yield from picture.cut_faces(sample, jitter)
        for picture in pictures:
            yield from picture.lines(sample, jitter)
        yield from pictures[0].travel_lines(sample, jitter, view.opened.lines)
        for picture in pictures:
            yield from picture.soft_ground(sample, jitter)
        yield from pictures[0].figures(sample, jitter, drawn.figures)
        for picture in pictures:
            yield from picture.glass(sample, jitter, view.picked)
        for ghost in ghosts:
            yield from ghost.veil(sample, jitter, view.picked)
        for ghost in ghosts:
            yield from ghost.dotted(sample, jitter)

    def numbers(self, sample: SampleTarget, view: View, window: Window) -> Generator[float, None, tuple[float, float]]:
        """Draw the number of each element plus one into red, green and blue, that of cut faces with the highest bit of blue
        set; nothing is 0. Gives the near and far depth of the picture."""
        self.ctx.gc()
        sample.framebuffer.use()
        sample.framebuffer.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        if self._model is None or self._cuts is None:
            return 0.0, 1.0
        plain = view.look.model_copy(update={"edges": False, "shade": False, "ground": False})
        pictures = self._drawn(replace(view, look=plain, picked=None), window, moving=False, numbered=True).pictures
        for picture in pictures:
            for _ in picture.surfaces(sample, (0.0, 0.0), None):
                yield 0.3
        for picture in pictures:
            for _ in picture.cut_faces(sample, (0.0, 0.0)):
                yield 0.6
        return pictures[0].depth_range

    def _drawn(self, view: View, window: Window, moving: bool, numbered: bool = False) -> _Drawn:
        """What is to be drawn, worked out once for all samples."""
        assert self._model is not None and self._cuts is not None
        key = (id(view.opened), view.camera, view.look, view.frame, view.figures, view.paper, window, moving, numbered)
        if self._last is None or self._last[0] != key:
            viewport = Viewport(view.camera, view.frame.sized(window.width, window.height))
            on, model, cuts = self.ctx, self._model, self._cuts
            stage = Shared(on, self.programs, model, cuts, viewport, view.look, window, moving, numbered, view.paper)
            parts, bounds = view.opened.parts, view.opened.bounds
            pictures = [Picture(stage, part, bounds, self._seen_before if len(parts) == 1 else SeenBefore()) for part in parts]
            ghosts = [Picture(stage, ghost, bounds, SeenBefore()) for ghost in view.opened.ghosts]
            figures = FigureBuffers(self.ctx, standing(view.figures, viewport), view.look, self._model.centre)
            casts = view.look.shadows > 0 and not moving and not numbered
            sun = self._sun_of(view, stage, parts, bounds) if casts else None
            self._last = key, _Drawn(pictures, ghosts, figures, sun), view  # the view holds what the key names by id
        return self._last[1]

    def _sun_of(self, view: View, shared: Shared, parts: Sequence[Placed], bounds: NDArray[np.float64]) -> Sun:
        """The sun of a view, the same for all tiles of its picture, and as long as it does not move."""
        look = view.look
        place = (look.sun_turn, look.sun_height, look.sun_size, look.shadows, look.sun_with_view)
        key = (id(view.opened), view.camera if look.sun_with_view else None, place)
        if self._sun is None or self._sun[0] != key:
            self._sun = key, Sun(shared, parts, bounds), view
        return self._sun[1]
