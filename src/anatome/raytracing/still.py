"""A still under way: samples of the light in one view, added up as long as one likes, and what has come of them so far."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial

import numpy as np

from anatome.cuts.pieces import ShownBuilding
from anatome.look.look import Look
from anatome.look.styles import resolve
from anatome.raytracing.denoise import smoothed
from anatome.raytracing.lights import lights_of
from anatome.raytracing.paths import light_at
from anatome.raytracing.scene import Floats, scene_of
from anatome.raytracing.seen_places import SeenPlaces, seen_places
from anatome.raytracing.tone_mapping import tone_mapped
from anatome.view.viewport import Viewport

AT_A_TIME = 32_768
"""Places whose paths are followed together: a tenth of a second or so, after which a cancel is heard."""
ROWS = 1100
"""Of places for which light is looked for, at most; larger pictures have it between them."""
FINEST = 1.5
"""Pixels between places for which light is looked for, at least."""
USUAL_SAMPLES = 48
THREADS = os.cpu_count() or 1
_STEPS = np.array([0.8566748839, 0.7338918566, 0.6287067210, 0.5385972572], np.float32)
"""Of the additive recurrence in four dimensions (Roberts, 2018)."""


@dataclass(frozen=True, eq=False)
class TracedLight:
    """``factor`` (h, w, 3) is what light leaves of surfaces' colours at the places ``seen``, which are metres from ``centre``
    (3,). From so many ``samples``."""

    factor: Floats
    seen: SeenPlaces
    centre: np.ndarray
    samples: int


def places_in(size: tuple[int, int]) -> tuple[int, int]:
    """Columns and rows of places for which light is looked for in a picture of so many pixels."""
    width, height = size
    apart = max(FINEST, height / ROWS)
    return max(1, round(width / apart)), max(1, round(height / apart))


class Still:
    """The light in a view of what is opened, in a look. It is made and added to off the window's thread."""

    def __init__(
        self,
        opened: ShownBuilding,
        look: Look,
        viewport: Viewport,
        shading: ShownBuilding | None = None,
        threads: int = THREADS,
        seed: int = 1,
    ) -> None:
        """``shading`` is what keeps light away if that is not what is seen."""
        styles = resolve(look, opened.cut_open.building)
        seen = scene_of(opened, styles)
        self.scene = seen if shading is None else scene_of(shading, styles)
        near = viewport.depth_range(opened.bounds)[0]
        size = places_in((round(viewport.width), round(viewport.height)))
        self.seen = seen_places(seen, viewport, size, near)
        self.lights = lights_of(look, viewport, opened.cut_open.building, self.scene)
        self._begin(look.brightness, threads, seed)

    def _begin(self, stops: float, threads: int, seed: int) -> None:
        self.samples = 0
        self._stops, self._threads, self._seed = stops, threads, seed
        self._wanted = np.flatnonzero(self.seen.there)
        count = len(self._wanted)
        self._places = self.seen.place.reshape(-1, 3)[self._wanted]
        self._normals = self.seen.normal.reshape(-1, 3)[self._wanted]
        self._shift = np.random.default_rng(seed).random((count, 4), np.float32)
        self._sums = [np.zeros((count, 3), np.float32) for _ in range(2)]
        self._squares = [np.zeros(count, np.float32) for _ in range(2)]

    @property
    def rays(self) -> int:
        """Followed so far."""
        return self.scene.rays[0]

    def add(self, go_on: Callable[[float], bool] | None = None) -> bool:
        """Add one more sample everywhere; ``go_on`` is told the share done of it. False when it says to stop: then this
        sample is as if it had not been begun."""
        count = len(self._places)
        sums, squares = [s.copy() for s in self._sums], [s.copy() for s in self._squares]
        starts = list(range(0, count, AT_A_TIME))
        with ThreadPoolExecutor(self._threads) as pool:
            for done, _ in enumerate(pool.map(partial(self._some, self.samples), starts)):
                if go_on is not None and not go_on((done + 1) / len(starts)):
                    pool.shutdown(cancel_futures=True)
                    self._sums, self._squares = sums, squares
                    return False
        self.samples += 1
        return True

    def _some(self, sample: int, start: int) -> None:
        some = slice(start, start + AT_A_TIME)
        generator = np.random.default_rng((self._seed, sample, start))
        first = (self._shift[some] + np.float32(sample) * _STEPS) % np.float32(1)
        found = light_at(self.scene, self.lights, self._places[some], self._normals[some], first, generator)
        for light, total, squares in zip(found, self._sums, self._squares):
            total[some] += light
            squares[some] += light.mean(axis=1) ** 2

    # What has come of it ---------------------------------------------------------------------------------------

    def light(self, smooth: bool = True) -> Floats:
        """Return (h, w, 3) the light so far, against that on level ground in the open; 0 where nothing is."""
        whole = np.zeros((*self.seen.there.shape, 3), np.float32)
        for total, squares in zip(self._sums, self._squares):
            mean = total / np.float32(max(self.samples, 1))
            spread = np.maximum(squares / max(self.samples, 1) - mean.mean(axis=1) ** 2, 0)
            # What one sample is off cannot be known; nor is a single one's spread nothing.
            variance = spread / max(self.samples - 1, 1) if self.samples > 1 else (mean.mean(axis=1) * 0.7) ** 2
            filled = self._filled(mean)
            whole += smoothed(filled, self._filled(variance[:, None])[..., 0], self.seen) if smooth else filled
        return whole

    def _filled(self, values: Floats) -> Floats:
        shape = self.seen.there.shape
        found = np.zeros((shape[0] * shape[1], values.shape[1]), np.float32)
        found[self._wanted] = values
        return found.reshape(*shape, -1)

    def traced(self) -> TracedLight:
        """Return what the renderer lays over surfaces."""
        return TracedLight(tone_mapped(self.light(), self.seen, self._stops), self.seen, self.scene.centre, self.samples)
