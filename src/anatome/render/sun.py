"""Cast shadows: a picture of depth as the sun sees it, made once for all samples, and what is read from it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.pieces import Placed
from anatome.look.shadow import shadow_strength
from anatome.render.figure_buffers import FigureBuffers
from anatome.render.light import Light
from anatome.render.picture import Picture
from anatome.render.screen_passes import ScreenPass, Strip, strips
from anatome.render.shared import SeenBefore, Shared, shown_bare
from anatome.render.targets import SampleTarget
from anatome.render.window import Window
from anatome.site.site import Figure
from anatome.site.standing import bounds_with, standing
from anatome.view.sun import seen_from_sun, towards_sun

SIZE = 3072
"""Pixels of the sun's picture on a side."""
STEP = 150_000
"""Pixels darkened at a time."""


GLIMPSE = 96
"""Pixels across of the small picture that tells how much lies in the sun."""


class Glimpse:
    """The ``pictures`` of a view in few pixels, and how much of what they show is ``lit``, once that is known."""

    def __init__(self, shared: Shared, parts: Sequence[Placed], bounds: NDArray[np.float64]) -> None:
        aspect = shared.viewport.width / shared.viewport.height
        self.size = GLIMPSE, max(1, round(GLIMPSE / aspect))
        own = replace(shared, look=shown_bare(shared.look), window=Window(*self.size), moving=False, numbered=False)
        own = replace(own, viewport=replace(shared.viewport, frame=shared.viewport.frame.sized(*self.size)))
        self.pictures = [Picture(own, part, bounds, SeenBefore()) for part in parts]
        self.lit: float | None = None

    def strength(self, whole: float) -> float:
        """Return how dark shadows are drawn that would take ``whole``."""
        return shadow_strength(whole, 1.0 if self.lit is None else self.lit)


class Sun:
    """Of one picture. ``cast`` darkens samples of it; before the first it draws what the sun sees."""

    def __init__(
        self, shared: Shared, parts: Sequence[Placed], bounds: NDArray[np.float64], figures: Sequence[Figure] = ()
    ) -> None:
        look = shared.look
        bounds = bounds_with(figures, bounds)
        self._shared = shared
        self._strength = look.shadows
        self._towards = towards_sun(shared.viewport, look.sun_with_view, look.sun_turn, look.sun_height)
        # What lies far round the building casts no shadow on it: its neighbourhood is enough, and is seen more finely.
        viewport = seen_from_sun(self._towards, bounds, SIZE)
        plain = shown_bare(look)
        own = replace(shared, viewport=viewport, look=plain, window=Window(SIZE, SIZE), moving=False, numbered=False)
        self._pictures = [Picture(own, part, bounds, SeenBefore()) for part in parts]
        # They face whoever looks at them, the sun too, so their shadows are as broad as they are.
        self._figures = FigureBuffers(shared.ctx, standing(figures, viewport), plain, shared.model.centre)
        self._target: SampleTarget | None = None
        self._viewport = viewport
        near, far = self._pictures[0].depth_range
        matrix = viewport.clip_matrix(near, far)
        matrix[:, 3] += matrix[:, :3] @ shared.model.centre
        self._uniforms: dict[str, Any] = {
            "sun_matrix": matrix.T.astype("f4").tobytes(),
            "sun": tuple(self._towards),
            "texel": viewport.pixel,
            "sun_range": far - near,
            "spread": float(np.tan(np.radians(look.sun_size) / 2)),
            "sun_depth": 1,
        }

    def _prepare(self) -> Iterator[None]:
        """Draw what the sun sees, in steps, once."""
        if self._target is not None:
            return
        target = SampleTarget(self._shared.ctx, (SIZE, SIZE))
        target.framebuffer.use()
        target.framebuffer.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        for picture in self._pictures:
            yield from picture.surfaces(target, (0.0, 0.0), None)
        yield from self._pictures[0].figures(target, (0.0, 0.0), self._figures)
        self._target = target

    def cast(
        self,
        picture: Picture,
        sample: SampleTarget,
        jitter: tuple[float, float],
        number: int,
        light: Light,
        glimpse: Glimpse,
    ) -> Iterator[None]:
        """Darken what a sample of the picture shows so far where the sun does not see it."""
        yield from self._prepare()
        if glimpse.lit is None:
            yield from self._look(glimpse)
        strength = glimpse.strength(self._strength)

        def work(target: moderngl.Framebuffer, before: moderngl.Texture, count: int) -> Iterator[Strip]:
            return self._pass(picture, sample, jitter, number, target, before, count, strength)

        yield from picture.over(sample, light.darken(sample, number, work))

    def _pass(
        self,
        picture: Picture,
        sample: SampleTarget,
        jitter: tuple[float, float],
        number: int,
        target: moderngl.Framebuffer,
        before: moderngl.Texture,
        count: int,
        strength: float,
    ) -> Iterator[Strip]:
        assert self._target is not None
        own = {**self._uniforms, "before": 2, "count": count, "strength": strength}
        one = ScreenPass("sun.frag", target, {1: self._target.depth, 2: before}, STEP, own)
        shared = self._shared
        return strips(shared.ctx, shared.programs, sample, (one,), picture.screen_uniforms(jitter, number))

    def _look(self, glimpse: Glimpse) -> Iterator[None]:
        """Find out how much of what is seen lies in the sun."""
        ctx = self._shared.ctx
        sample = SampleTarget(ctx, glimpse.size)
        sample.framebuffer.use()
        sample.framebuffer.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        for picture in glimpse.pictures:
            yield from picture.surfaces(sample, (0.0, 0.0), None)
        light = ctx.texture(glimpse.size, 1)
        target = ctx.framebuffer([light])
        whole = glimpse.pictures[0]
        yield from whole.over(sample, self._pass(whole, sample, (0.0, 0.0), 0, target, light, 0, 1.0))
        width, height = glimpse.size
        lit = np.frombuffer(light.read(alignment=1), np.uint8).reshape(height, width) / 255.0
        seen = np.frombuffer(sample.depth.read(alignment=1), np.float32).reshape(height, width) < 1.0
        glimpse.lit = float(lit[seen].mean()) if seen.any() else 1.0
