"""Puts the picture in another look over the one that is drawn, on the other side of a divide."""

from __future__ import annotations

from collections.abc import Callable, Generator, Iterator
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.look.divide import Divide
from anatome.model.building import Building
from anatome.render.model_buffers import table_of
from anatome.render.programs import Programs
from anatome.render.screen_passes import ScreenPass, strips
from anatome.render.targets import SampleTarget
from anatome.render.window import Window
from anatome.view.viewport import Viewport

STEP = 400_000
WAYS = {"line": 0, "depth": 1, "parts": 2}
Numbers = Callable[[SampleTarget], Generator[float, None, tuple[float, float]]]


class Divided:
    """Of one renderer: keeps what it draws on, as long as the size is the same."""

    def __init__(self, ctx: moderngl.Context, programs: Programs) -> None:
        self._ctx, self._programs = ctx, programs
        self._targets: list[SampleTarget] = []
        self._marks: tuple[object, moderngl.Texture] | None = None

    def other(self, size: tuple[int, int]) -> SampleTarget:
        """Return where the other look is to be drawn."""
        return self._made(size, 0)

    def mix(self, sample: SampleTarget, first: SampleTarget, other: SampleTarget, share: float) -> Iterator[None]:
        """Write one picture on its way to another, by a share from 0 to 1. In steps."""
        textures = {1: first.colour, 2: other.colour}
        one = ScreenPass("dissolve.frag", sample.colour_only, textures, STEP, {"first": 1, "other": 2, "share": share})
        for strip in strips(self._ctx, self._programs, sample, (one,), {}):
            strip()
            yield

    def both(self, size: tuple[int, int]) -> tuple[SampleTarget, SampleTarget]:
        """Return where two whole pictures are to be drawn."""
        return self._made(size, 0), self._made(size, 1)

    def _made(self, size: tuple[int, int], which: int) -> SampleTarget:
        if self._targets and self._targets[0].size != size:
            self._targets = []
        while len(self._targets) <= which:
            self._targets.append(SampleTarget(self._ctx, size))
        return self._targets[which]

    def join(
        self,
        sample: SampleTarget,
        divide: Divide,
        viewport: Viewport,
        window: Window,
        jitter: tuple[float, float],
        depth_range: tuple[float, float],
        papered: bool,
        building: Building,
        numbers: Numbers,
    ) -> Iterator[None]:
        """Put the other look over the sample where it belongs; ``numbers`` draws those of the elements. In steps."""
        look = divide.other
        textures = {1: self.other(sample.size).colour}
        uniforms: dict[str, Any] = {
            "other": 1,
            "depth": 0,
            "way": WAYS[divide.by],
            "beyond": divide.depth,
            "divisor": viewport.divisor,
            "clip_depth": viewport.clip_depth(*depth_range),
            "paper": (*look.paper, 1.0) if papered else (0.0, 0.0, 0.0, 0.0),
            "sky": (*(look.sky or look.paper), 1.0) if papered else (0.0, 0.0, 0.0, 0.0),
            "rows": (float(window.part[1]), float(window.height)),
        }
        if divide.by == "line":
            line = _line(divide, viewport, window, jitter)
            if line is None:
                return
            uniforms["line"] = line
        elif divide.by == "parts":
            third = self._made(sample.size, 1)
            yield from (None for _ in numbers(third))
            textures |= {2: third.colour, 3: self._marked(divide, building)}
            uniforms |= {"numbers": 2, "marks": 3}
        one = ScreenPass("divide.frag", sample.colour_only, textures, STEP, uniforms)
        for strip in strips(self._ctx, self._programs, sample, (one,), {}):
            strip()
            yield

    def _marked(self, divide: Divide, building: Building) -> moderngl.Texture:
        key = divide.parts, id(building)
        if self._marks is None or self._marks[0] != key:
            rows = np.zeros((len(building.elements), 4), np.uint8)
            rows[divide.parts.mask(building), 0] = 255
            self._marks = key, table_of(self._ctx, rows)
        return self._marks[1]


def _line(divide: Divide, viewport: Viewport, window: Window, jitter: tuple[float, float]) -> tuple[float, float, float] | None:
    """What tells how far right of the line a pixel of the target lies; None where there is no line to be seen."""
    if divide.line is None:
        return None
    ends: NDArray[np.float64] = viewport.pixels(np.array(divide.line))
    if not np.isfinite(ends).all() or np.allclose(*ends):
        return None
    x, y, _, _ = window.part
    ends[:, 1] = window.height - ends[:, 1]
    (ax, ay), (bx, by) = ends - (x, y) + jitter
    along = np.array([bx - ax, by - ay]) / np.hypot(bx - ax, by - ay)
    right = along[1], -along[0]
    return float(right[0]), float(right[1]), float(-(right[0] * ax + right[1] * ay))
