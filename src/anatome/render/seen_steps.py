"""What can be seen in a view, pixel by pixel: which element, whether it is a cut face, and where the place lies."""

from __future__ import annotations

from collections.abc import Generator

import numpy as np

from anatome.render.renderer import Renderer
from anatome.render.targets import SampleTarget
from anatome.render.window import Window
from anatome.scenes.scene_view import View
from anatome.view.seen import Seen
from anatome.view.viewport import Viewport


def seen_steps(renderer: Renderer, view: View, size: tuple[int, int]) -> Generator[float, None, Seen]:
    """Draw the numbers of elements instead of their colours, in steps of a few milliseconds."""
    width, height = size
    sample = SampleTarget(renderer.ctx, size)
    depth_range = yield from renderer.numbers(sample, view, Window(width, height))
    raw = np.frombuffer(sample.colour.read(alignment=1), np.uint8).reshape(height, width, 4)[::-1].astype(np.int64)
    depth = np.frombuffer(sample.depth.read(alignment=1), np.float32).reshape(height, width)[::-1].astype(float)
    yield 0.9
    number = raw[..., 0] | raw[..., 1] << 8 | (raw[..., 2] & 127) << 16
    viewport = Viewport(view.camera, view.frame.sized(width, height))
    x, y = np.meshgrid((np.arange(width) + 0.5) / width * 2 - 1, 1 - (np.arange(height) + 0.5) / height * 2)
    clip = np.stack([x, y, 2 * depth - 1, np.ones_like(x)], axis=-1)
    place = clip @ np.linalg.inv(viewport.clip_matrix(*depth_range)).T
    place = place[..., :3] / place[..., 3:]
    place[number == 0] = np.nan
    return Seen(number - 1, raw[..., 2] > 127, place)


def seen(renderer: Renderer, view: View, size: tuple[int, int]) -> Seen:
    """Return the same all at once."""
    steps = seen_steps(renderer, view, size)
    while True:
        try:
            next(steps)
        except StopIteration as end:
            return end.value
