"""The light of a still, laid over the surfaces of a sample."""

from __future__ import annotations

from collections.abc import Iterator

import moderngl
import numpy as np

from anatome.raytracing.still import TracedLight
from anatome.render.picture import Picture
from anatome.render.programs import Programs
from anatome.render.screen_passes import ScreenPass, strips
from anatome.render.targets import SampleTarget

STEP = 150_000
"""Pixels at a time."""


class TracedPass:
    """Of one still, on a context. ``darken`` multiplies what a sample shows so far."""

    def __init__(self, ctx: moderngl.Context, programs: Programs, light: TracedLight, centre: np.ndarray) -> None:
        self._ctx, self._programs = ctx, programs
        seen = light.seen
        height, width = seen.there.shape
        self._textures: dict[int, moderngl.Texture] = {}
        there = seen.there[..., None].astype(np.float32)
        place = seen.place + (light.centre - centre).astype(np.float32)
        given = np.concatenate([light.factor, there], axis=-1), place, seen.normal
        for number, values in enumerate(given, start=1):
            texture = ctx.texture((width, height), values.shape[-1], values.astype("f4").tobytes(), dtype="f4")
            texture.filter = moderngl.NEAREST, moderngl.NEAREST
            self._textures[number] = texture

    def darken(self, picture: Picture, sample: SampleTarget, jitter: tuple[float, float], number: int) -> Iterator[None]:
        """In steps."""
        own = {"factor": 1, "place": 2, "facing": 3}
        one = ScreenPass("traced.frag", sample.colour_only, self._textures, STEP, own, "multiply")
        work = strips(self._ctx, self._programs, sample, (one,), picture.screen_uniforms(jitter, number))
        yield from picture.over(sample, work)
