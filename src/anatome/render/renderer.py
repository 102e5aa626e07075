"""Draws one sample of the picture of a building into a framebuffer, a few milliseconds of work at a time.

The renderer is given a context, in a window or without one, and knows nothing of either. What it draws is
premultiplied by its alpha over nothing, so that the same samples serve a picture on paper and one with clear ground.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Generator, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.pieces import Placed, ShownBuilding, uncut
from anatome.look.divide import Dissolve, Divide
from anatome.look.unlined import unlined
from anatome.model.building import Building
from anatome.raytracing.still import TracedLight
from anatome.render.cut_buffers import CutBuffers
from anatome.render.divided import Divided
from anatome.render.figure_buffers import FigureBuffers
from anatome.render.light import Light, enough_shade, enough_sun
from anatome.render.model_buffers import ModelBuffers
from anatome.render.picture import Picture
from anatome.render.programs import Programs, set_uniforms
from anatome.render.shared import SeenBefore, Shared, shown_bare, shown_evenly
from anatome.render.sun import Glimpse, Sun
from anatome.render.targets import SampleTarget
from anatome.render.traced import TracedPass
from anatome.render.window import Window
from anatome.scenes.scene_view import View
from anatome.site.standing import standing
from anatome.view.viewport import Viewport

KEPT, KEPT_SUNS = 3, 2
"""Pictures in the making, and suns, that are kept at a time: a divided picture needs two of each."""


@dataclass(frozen=True, eq=False)
class SampleLayer:
    """A part of a sample: ``draw`` puts it over what a target holds so far, in steps; it ``darkens`` that, or covers it."""

    name: str
    draw: Callable[[SampleTarget], Iterator[None]]
    darkens: bool = False

    @property
    def is_of_lines(self) -> bool:
        """Whether there are lines on it and nothing else."""
        return self.name.endswith("lines")


def _all(parts: Iterable[Iterator[None]]) -> Iterator[None]:
    for part in parts:
        yield from part


@dataclass(frozen=True, eq=False)
class _Drawn:
    """A picture for each piece, or one, and for the ghosts of each; and the figures."""

    pictures: list[Picture]
    ghosts: list[Picture]
    figures: FigureBuffers
    sun: Sun | None
    glimpse: Glimpse | None
    ambient: Light
    shadow: Light


class Renderer:
    """Holds a building's buffers on a context and draws views of it.

    Buffers nobody holds any more are given back before the next picture, when the context is sure to be current.
    """

    def __init__(self, ctx: moderngl.Context, programs: Programs | None = None) -> None:
        """With the ``programs`` of another on the same context nothing is compiled twice."""
        ctx.gc_mode = "context_gc"
        self.ctx = ctx
        self.programs = programs or Programs(ctx)
        self._model: ModelBuffers | None = None
        self._cuts: CutBuffers | None = None
        self._divided = Divided(ctx, self.programs)
        self._traced: tuple[TracedLight, TracedPass] | None = None
        # By what decides them; the view is held for what the key names by id.
        self._kept: OrderedDict[object, tuple[_Drawn, View]] = OrderedDict()
        self._suns: OrderedDict[object, tuple[Sun, View]] = OrderedDict()
        self._seen_before = SeenBefore()

    @property
    def building(self) -> Building | None:
        """What is drawn."""
        return self._model.building if self._model else None

    @cached_property
    def _uncut(self) -> ShownBuilding:
        """All of the building as it stands."""
        assert self._model is not None
        return uncut(self._model.building)

    def set_building(self, building: Building | None) -> None:
        """Draw this building from now on."""
        for _ in self.load(building):
            pass

    def load(self, building: Building | None) -> Iterator[float]:
        """Draw this building from now on; hands its data over little by little and yields the share done."""
        self._model = self._cuts = self._traced = None
        self._kept.clear()
        self._suns.clear()
        self.__dict__.pop("_uncut", None)
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

        With the ``number`` of the sample, ambient occlusion is drawn too if the look has it. A ``moving`` picture is a sketch:
        fine detail is left out and lines are a pixel wide.
        """
        self.ctx.gc()
        sample.framebuffer.use()
        sample.framebuffer.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        if self._model is None or self._cuts is None:
            return
        if view.dissolve is not None:
            yield from self._dissolve(sample, view, view.dissolve, window, jitter, number, moving)
            return
        for layer in self.layers(view, window, jitter, number, moving):
            yield from layer.draw(sample)
        if view.divide is not None:
            yield from self._divide(sample, view, view.divide, window, jitter, number, moving)

    def sketch(
        self, sample: SampleTarget, lines: SampleTarget, view: View, window: Window, jitter: tuple[float, float]
    ) -> Iterator[None]:
        """Draw a sketch of a moving picture in steps: all but its lines into a sample, and these into a target of their own that
        has more pixels, where what the sample shows hides them."""
        self.ctx.gc()
        for target in (sample, lines):
            target.framebuffer.use()
            target.framebuffer.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        fine = Window(*lines.size)
        if self._model is not None:
            for picture in self._drawn(view, window, True).pictures:
                picture.has_finer_lines(fine.height / window.height)
        for layer in self.layers(view, window, jitter, None, True):
            if not layer.is_of_lines:
                yield from layer.draw(sample)
        self._take_depth(sample, lines)
        yield
        if self._model is not None:
            coarse, finer = (self._drawn(view, size, True) for size in (window, fine))
            for own, other in zip((*finer.pictures, *finer.ghosts), (*coarse.pictures, *coarse.ghosts)):
                own.see_lines_of(other)
        for layer in self.layers(view, fine, jitter, None, True):
            if layer.is_of_lines:
                yield from layer.draw(lines)

    def _take_depth(self, sample: SampleTarget, into: SampleTarget) -> None:
        """Have the depth of a sample in another target."""
        into.framebuffer.use()
        into.framebuffer.depth_mask = True
        self.ctx.enable_only(moderngl.DEPTH_TEST)
        self.ctx.depth_func = "1"
        program = self.programs.get("screen.vert", "depth.frag")
        sample.depth.use(0)
        set_uniforms(program, depth=0)
        self.programs.screen(program).render(moderngl.TRIANGLES, vertices=3)
        self.ctx.depth_func = "<="
        self.ctx.enable_only(moderngl.NOTHING)

    def _dissolve(
        self,
        sample: SampleTarget,
        view: View,
        dissolve: Dissolve,
        window: Window,
        jitter: tuple[float, float],
        number: int | None,
        moving: bool,
    ) -> Iterator[None]:
        """The picture in its own look on its way to another look."""
        targets = self._divided.both(sample.size)
        for target, look in zip(targets, (view.look, dissolve.other)):
            yield from self.steps(target, replace(view, look=look, dissolve=None), window, jitter, number, moving)
        yield from self._divided.mix(sample, *targets, dissolve.share)

    def _divide(
        self,
        sample: SampleTarget,
        view: View,
        divide: Divide,
        window: Window,
        jitter: tuple[float, float],
        number: int | None,
        moving: bool,
    ) -> Iterator[None]:
        """The other look, over what is drawn of the first."""
        other, building = self._divided.other(sample.size), self.building
        assert building is not None
        depth_range = self._drawn(view, window, moving).pictures[0].depth_range
        yield from self.steps(other, replace(view, look=divide.other, divide=None, traced=None), window, jitter, number, moving)
        viewport = Viewport(view.camera, view.frame.sized(window.width, window.height))

        def numbers(target: SampleTarget) -> Generator[float, None, tuple[float, float]]:
            return self.numbers(target, view, window, jitter)

        yield from self._divided.join(sample, divide, viewport, window, jitter, depth_range, view.papered, building, numbers)

    def layers(
        self,
        view: View,
        window: Window,
        jitter: tuple[float, float],
        number: int | None = None,
        moving: bool = False,
    ) -> list[SampleLayer]:
        """Return what a sample is drawn of, one over the other in this order. Nothing without a building."""
        if self._model is None or self._cuts is None:
            return []
        drawn, picked, lines = self._drawn(view, window, moving), view.picked, view.opened.lines
        pictures, ghosts, sun = drawn.pictures, drawn.ghosts, drawn.sun
        whole = pictures[0]
        found = [SampleLayer("surfaces", lambda on: _all(p.surfaces(on, jitter, picked) for p in pictures))]
        if number is not None and view.traced is not None:
            light = self._traced_pass(view.traced)
            found.append(SampleLayer("light", lambda on: light.darken(whole, on, jitter, number), darkens=True))
        elif number is not None:
            found.append(SampleLayer("ambient", lambda on: whole.shade(on, jitter, number, drawn.ambient), darkens=True))
            glimpse = drawn.glimpse
            if sun is not None and glimpse is not None:
                found.append(
                    SampleLayer("shadow", lambda on: sun.cast(whole, on, jitter, number, drawn.shadow, glimpse), darkens=True)
                )
        found = [
            *found,
            SampleLayer("cut-fill", lambda on: _all(p.cut_faces(on, jitter) for p in pictures)),
            SampleLayer("hidden-lines", lambda on: _all(p.hidden_lines(on, jitter) for p in pictures)),
            SampleLayer(
                "lines", lambda on: _all((*(p.edges(on, jitter) for p in pictures), whole.travel_lines(on, jitter, lines)))
            ),
            SampleLayer("cut-lines", lambda on: _all(p.outlines(on, jitter) for p in pictures)),
            SampleLayer("ground", lambda on: _all(p.soft_ground(on, jitter) for p in pictures)),
            *self._figures(whole, drawn.figures, jitter, moving),
            SampleLayer("glass", lambda on: _all(p.glass(on, jitter, picked) for p in pictures)),
            SampleLayer("ghosts", lambda on: _all(g.veil(on, jitter, picked) for g in ghosts)),
            SampleLayer("ghost-lines", lambda on: _all(g.dotted(on, jitter) for g in ghosts)),
        ]
        return [layer for layer in found if not layer.is_of_lines] if view.unlined else found

    @staticmethod
    def _figures(whole: Picture, figures: FigureBuffers, jitter: tuple[float, float], moving: bool) -> list[SampleLayer]:
        """People and trees; of a moving picture their lines apart, which may have more pixels."""

        def fills(on: SampleTarget) -> Iterator[None]:
            return whole.figures(on, jitter, figures)

        def lines(on: SampleTarget) -> Iterator[None]:
            return whole.figure_lines(on, jitter, figures)

        if moving:
            return [SampleLayer("figures", fills), SampleLayer("figure-lines", lines)]
        return [SampleLayer("figures", lambda on: _all((fills(on), lines(on))))]

    def _traced_pass(self, light: TracedLight) -> TracedPass:
        assert self._model is not None
        if self._traced is None or self._traced[0] is not light:
            self._traced = light, TracedPass(self.ctx, self.programs, light, self._model.centre)
        return self._traced[1]

    def numbers(
        self, sample: SampleTarget, view: View, window: Window, jitter: tuple[float, float] = (0.0, 0.0)
    ) -> Generator[float, None, tuple[float, float]]:
        """Draw the number of each element plus one into red, green and blue, that of cut faces with the highest bit of blue
        set; nothing is 0. Gives the near and far depth of the picture."""
        self.ctx.gc()
        sample.framebuffer.use()
        sample.framebuffer.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        if self._model is None or self._cuts is None:
            return 0.0, 1.0
        plain = shown_bare(view.look)
        pictures = self._drawn(replace(view, look=plain, picked=None, traced=None), window, moving=False, numbered=True).pictures
        for picture in pictures:
            for _ in picture.surfaces(sample, jitter, None):
                yield 0.3
        for picture in pictures:
            for _ in picture.cut_faces(sample, jitter):
                yield 0.6
        return pictures[0].depth_range

    def _drawn(self, view: View, window: Window, moving: bool, numbered: bool = False) -> _Drawn:
        """What is to be drawn, worked out once for all samples."""
        assert self._model is not None and self._cuts is not None
        # In a still, light is all that is light or dark of surfaces.
        look = view.look if view.traced is None else shown_evenly(view.look)
        look = unlined(look) if view.unlined else look
        key = (id(view.opened), view.camera, look, view.unlined, view.frame, view.figures, view.paper, window, moving, numbered)
        if key not in self._kept:
            viewport = Viewport(view.camera, view.frame.sized(window.width, window.height))
            on, model, cuts = self.ctx, self._model, self._cuts
            stage = Shared(on, self.programs, model, cuts, viewport, look, window, moving, numbered, view.paper)
            parts, bounds = view.opened.parts, view.opened.bounds
            pictures = [Picture(stage, part, bounds, self._seen_before if len(parts) == 1 else SeenBefore()) for part in parts]
            ghosts = [Picture(stage, ghost, bounds, SeenBefore()) for ghost in view.opened.ghosts]
            figures = FigureBuffers(
                self.ctx,
                standing(view.figures, viewport),
                look,
                self._model.centre,
                shaded=look.shade and not numbered,
                lined=not view.unlined,
            )
            casts = look.shadows > 0 and not moving and not numbered
            sun = self._sun_of(view, stage, parts, bounds) if casts else None
            glimpse = Glimpse(stage, parts, bounds) if casts else None
            lights = (
                Light(self.ctx, self.programs, enough) for enough in (enough_shade(window.height), enough_sun(window.height))
            )
            self._kept[key] = _Drawn(pictures, ghosts, figures, sun, glimpse, *lights), view
            while len(self._kept) > KEPT:
                self._kept.popitem(last=False)
        self._kept.move_to_end(key)
        return self._kept[key][0]

    def _sun_of(self, view: View, shared: Shared, parts: Sequence[Placed], bounds: NDArray[np.float64]) -> Sun:
        """The sun of a view, the same for all tiles of its picture, and as long as it does not move."""
        look = view.look
        place = (look.sun_turn, look.sun_height, look.sun_size, look.shadows, look.sun_with_view, look.unseen_shade)
        key = (id(view.opened), view.camera if look.sun_with_view else None, place, view.figures)
        if key not in self._suns:
            if look.unseen_shade and view.opened.at_home:
                parts, bounds = self._uncut.parts, self._uncut.bounds
            self._suns[key] = Sun(shared, parts, bounds, view.figures), view
            while len(self._suns) > KEPT_SUNS:
                self._suns.popitem(last=False)
        return self._suns[key][0]
