"""What darkens a picture is worked out for its first samples; those after have their mean.

Shade and shadows are soft, and cost more than all the rest of a sample: once they are free of grain, more of them add nothing
but time. Edges go on being sampled.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

import moderngl

from anatome.render.programs import Programs
from anatome.render.screen_passes import ScreenPass, Strip, strips
from anatome.render.targets import SampleTarget

ENOUGH, ENOUGH_LARGE, LARGE = 6, 4, 1600
"""Samples of ambient occlusion after which the mean is used; fewer do in pictures of more rows than ``LARGE``, whose pixels are
small."""
ENOUGH_SUN, ENOUGH_SUN_LARGE = 14, 5
"""Of cast shadows: after the first few only where some of the sun is seen, and there every one makes less grain."""
STEP = 400_000
"""Pixels multiplied at a time."""


def enough_shade(height: int) -> int:
    """Samples of ambient occlusion in a picture so many pixels high."""
    return ENOUGH_LARGE if height > LARGE else ENOUGH


def enough_sun(height: int) -> int:
    """Samples of cast shadows in a picture so many pixels high."""
    return ENOUGH_SUN_LARGE if height > LARGE else ENOUGH_SUN


Work = Callable[[moderngl.Framebuffer, moderngl.Texture, int], Iterator[Strip]]
"""Writes the light of one sample into a target, given the sum of those before and how many those were."""


class Light:
    """Of one darkening layer of one picture, worked out for so many samples."""

    def __init__(self, ctx: moderngl.Context, programs: Programs, enough: int) -> None:
        self._ctx, self._programs = ctx, programs
        self._enough = enough
        self._count = 0
        self._targets: list[tuple[moderngl.Texture, moderngl.Framebuffer]] = []

    def darken(self, sample: SampleTarget, number: int, work: Work) -> Iterator[Strip]:
        """Multiply a sample with its light; ``work`` writes the light of this one sample into a target."""
        if number == 0:
            self._count = 0
        (own, own_target), (total, total_target) = self._made(sample.size)
        light, share = total, 1.0 / max(self._count, 1)
        if self._count < self._enough:
            yield from work(own_target, total, self._count)
            if self._count == 0:
                total_target.clear(0.0)
            yield from self._put(sample, total_target, own, 1.0, "add")
            self._count += 1
            light, share = own, 1.0
        yield from self._put(sample, sample.colour_only, light, share, "multiply")

    def _put(
        self, sample: SampleTarget, target: moderngl.Framebuffer, light: moderngl.Texture, share: float, blend: str
    ) -> Iterator[Strip]:
        one = ScreenPass("light.frag", target, {1: light}, STEP, {"light": 1, "share": share}, blend)
        return strips(self._ctx, self._programs, sample, (one,), {})

    def _made(self, size: tuple[int, int]) -> list[tuple[moderngl.Texture, moderngl.Framebuffer]]:
        if not self._targets or self._targets[0][0].size != size:
            self._targets = []
            for dtype in ("f1", "f4"):
                texture = self._ctx.texture(size, 1, dtype=dtype)
                self._targets.append((texture, self._ctx.framebuffer([texture])))
        return self._targets
