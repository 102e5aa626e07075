"""What is seen in a picture at evenly spaced places of it, for which light is looked for."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.raytracing.rays import facing
from anatome.raytracing.scene import Floats, TracedScene
from anatome.view.viewport import Viewport

AT_A_TIME = 65_536


@dataclass(frozen=True, eq=False)
class SeenPlaces:
    """(h, w) evenly spaced over a picture, its lowest row first. ``there`` (h, w) where light is wanted: something solid is
    seen, from outside. ``place`` (h, w, 3) metres from the scene's centre and ``normal`` (h, w, 3) towards the eye; ``shines``
    (h, w) where it is a lamp. ``spacing`` (h, w) is how many metres apart neighbours are on a surface seen straight."""

    there: NDArray[np.bool_]
    place: Floats
    normal: Floats
    shines: NDArray[np.bool_]
    spacing: Floats


def seen_places(scene: TracedScene, viewport: Viewport, size: tuple[int, int], near: float) -> SeenPlaces:
    """Of a picture from ``near`` metres of depth on, in so many columns and rows."""
    width, height = size
    x, y = (np.arange(width) + 0.5) / width * 2 - 1, (np.arange(height) + 0.5) / height * 2 - 1
    flat = np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)
    count = len(flat)
    there, shines = np.zeros(count, bool), np.zeros(count, bool)
    place, normal, depth = np.zeros((count, 3), np.float32), np.zeros((count, 3), np.float32), np.zeros(count)
    for start in range(0, count, AT_A_TIME):
        some = slice(start, start + AT_A_TIME)
        origins, along = viewport.rays(flat[some], near)
        o, d = (origins - scene.centre).astype(np.float32), along.astype(np.float32)
        met, far = scene.nearest(o, d)
        # The inside of a closed body is seen where it is cut open, and the fill of the cut lies over it.
        inside = scene.solid.closed[met] & (np.einsum("ij,ij->i", d, scene.solid.normal[met]) > 0)
        there[some] = (met >= 0) & ~inside
        place[some] = o + d * np.where(met >= 0, far, 0.0)[:, None].astype(np.float32)
        normal[some] = facing(scene.solid.normal[met], d)
        shines[some] = there[some] & (scene.solid.lamp[met] >= 0)
        depth[some] = near + np.where(met >= 0, far, 0.0) * (along @ viewport.matrix[2, :3])
    start_, slope = viewport.divisor
    spacing = viewport.pixel * viewport.height / height * np.maximum(start_ + slope * depth, 1e-4)
    shape = height, width
    return SeenPlaces(
        there.reshape(shape),
        place.reshape(*shape, 3),
        normal.reshape(*shape, 3),
        shines.reshape(shape),
        spacing.astype(np.float32).reshape(shape),
    )
