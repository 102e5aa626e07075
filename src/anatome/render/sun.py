"""Cast shadows: a picture of depth as the sun sees it, made once for all samples, and what is read from it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.pieces import Placed
from anatome.render.picture import Picture, SeenBefore, Shared
from anatome.render.screen_passes import ScreenPass, strips
from anatome.render.targets import SampleTarget
from anatome.render.window import Window
from anatome.view.sun import seen_from_sun, towards_sun

SIZE = 3072
"""Pixels of the sun's picture on a side."""
STEP = 150_000
"""Pixels darkened at a time."""


class Sun:
    """Of one picture. ``prepare`` draws what the sun sees; then ``cast`` darkens samples of the picture."""

    def __init__(self, shared: Shared, parts: Sequence[Placed], bounds: NDArray[np.float64]) -> None:
        look = shared.look
        self._shared = shared
        self._towards = towards_sun(shared.viewport, look.sun_with_view, look.sun_turn, look.sun_height)
        # What lies far round the building casts no shadow on it: its neighbourhood is enough, and is seen more finely.
        viewport = seen_from_sun(self._towards, bounds, SIZE)
        plain = look.model_copy(update={"edges": False, "shade": False, "ground": False})
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

    def prepare(self) -> Iterator[None]:
        """Draw what the sun sees, in steps, once."""
        if self._target is not None:
            return
        target = SampleTarget(self._shared.ctx, (SIZE, SIZE))
        target.framebuffer.use()
        target.framebuffer.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        for picture in self._pictures:
            yield from picture.surfaces(target, (0.0, 0.0), None)
        self._target = target

    def cast(self, picture: Picture, sample: SampleTarget, jitter: tuple[float, float], number: int) -> Iterator[None]:
        """Darken what a sample of the picture shows so far where the sun does not see it."""
        assert self._target is not None
        one = ScreenPass("sun.frag", sample.colour_only, {1: self._target.depth}, STEP, self._uniforms)
        uniforms = picture.screen_uniforms(jitter, number)
        yield from picture.over(sample, strips(self._shared.ctx, self._shared.programs, sample, (one,), uniforms))
