"""Cast shadows: a picture of depth as the sun sees it, made once for all samples, and what is read from it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.pieces import Placed
from anatome.render.light import Light
from anatome.render.picture import Picture
from anatome.render.screen_passes import ScreenPass, Strip, strips
from anatome.render.shared import SeenBefore, Shared, shown_bare
from anatome.render.targets import SampleTarget
from anatome.render.window import Window
from anatome.view.sun import seen_from_sun, towards_sun

SIZE = 3072
"""Pixels of the sun's picture on a side."""
STEP = 150_000
"""Pixels darkened at a time."""


class Sun:
    """Of one picture. ``cast`` darkens samples of it; before the first it draws what the sun sees."""

    def __init__(self, shared: Shared, parts: Sequence[Placed], bounds: NDArray[np.float64]) -> None:
        look = shared.look
        self._shared = shared
        self._towards = towards_sun(shared.viewport, look.sun_with_view, look.sun_turn, look.sun_height)
        # What lies far round the building casts no shadow on it: its neighbourhood is enough, and is seen more finely.
        viewport = seen_from_sun(self._towards, bounds, SIZE)
        plain = shown_bare(look)
        own = replace(shared, viewport=viewport, look=plain, window=Window(SIZE, SIZE), moving=False, numbered=False)
        self._pictures = [Picture(own, part, bounds, SeenBefore()) for part in parts]
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
            "strength": look.shadows,
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
        self._target = target

    def cast(
        self, picture: Picture, sample: SampleTarget, jitter: tuple[float, float], number: int, light: Light
    ) -> Iterator[None]:
        """Darken what a sample of the picture shows so far where the sun does not see it."""
        yield from self._prepare()
        assert self._target is not None
        depth, shared, uniforms = self._target.depth, self._shared, picture.screen_uniforms(jitter, number)

        def work(target: moderngl.Framebuffer, before: moderngl.Texture, count: int) -> Iterator[Strip]:
            one = ScreenPass("sun.frag", target, {1: depth, 2: before}, STEP, {**self._uniforms, "before": 2, "count": count})
            return strips(shared.ctx, shared.programs, sample, (one,), uniforms)

        yield from picture.over(sample, light.darken(sample, number, work))
