"""The soft shadow a building leaves on the ground under it, as a flat mesh that grows fainter outwards."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cells import Cell, held_by_any
from anatome.model.building import Building

SIZE = 96
DARKEST = 0.26
FAINTEST = 1 / 600
"""A shadow fainter than this share of ink cannot be told from paper."""


def footprint(
    building: Building, shown: NDArray[np.bool_], cells: Sequence[Cell] = ()
) -> tuple[NDArray[np.float32], NDArray[np.float64]]:
    """Return ((SIZE, SIZE) shadow 0..1 with rows along Y, (4,) lower and upper corner it covers in metres).

    Not a cast shadow but the darkness under things: how much stands over each spot, blurred. What the
    cells cut away half-way up the building casts nothing.
    """
    low, high = building.bounds_of(shown)
    margin = 0.4 * float(max(high[:2] - low[:2])) + 1e-6
    corner, extent = low[:2] - margin, high[:2] - low[:2] + 2 * margin
    boxes = building.element_bounds[shown]
    spans = np.floor((boxes[:, :, :2] - corner) / extent * SIZE).astype(int).clip(0, SIZE - 1)
    # A rectangle is four signs at its corners, summed up both ways (Crow, 1984).
    picture = np.zeros((SIZE + 1, SIZE + 1), np.int64)
    (x0, y0), (x1, y1) = spans[:, 0].T, spans[:, 1].T + 1
    for x, y, sign in ((x0, y0, 1), (x1, y0, -1), (x0, y1, -1), (x1, y1, 1)):
        np.add.at(picture, (y, x), sign)
    covered = picture.cumsum(axis=0).cumsum(axis=1)[:SIZE, :SIZE] > 0
    upright = [c for c in cells if not any(p.is_level for p in c.planes) or len(c.planes) > 1]
    if upright:
        x, y = (corner[i] + (np.arange(SIZE) + 0.5) / SIZE * extent[i] for i in (0, 1))
        spots = np.stack([*np.meshgrid(x, y), np.full((SIZE, SIZE), (low[2] + high[2]) / 2)], axis=-1)
        covered &= ~held_by_any(upright, spots)
    from scipy.ndimage import gaussian_filter  # slow to load; the window does so beforehand

    dark = covered.astype(float)
    soft = 0.5 * gaussian_filter(dark, SIZE * 0.02) + 0.5 * gaussian_filter(dark, SIZE * 0.07)
    # Nothing at the border, so that the picture of the shadow ends without an edge.
    fade = np.minimum(np.arange(SIZE), np.arange(SIZE)[::-1]) / (SIZE * 0.1)
    soft *= np.minimum(fade, 1.0)[:, None] * np.minimum(fade, 1.0)
    return soft.clip(0, 1).astype(np.float32), np.concatenate([corner, corner + extent])


def ground_mesh(
    building: Building, shown: NDArray[np.bool_], cells: Sequence[Cell], level: float
) -> tuple[NDArray[np.float64], NDArray[np.float32], NDArray[np.uint32]]:
    """Return ((n, 3) places in metres at a level, (n,) how dark they are, (m, 3) triangles): only where there is any shadow."""
    shadow, box = footprint(building, shown, cells)
    low, high = building.bounds_of(shown)
    x, y = (box[i] + (np.arange(SIZE) + 0.5) / SIZE * (box[i + 2] - box[i]) for i in (0, 1))
    places = np.stack([*np.meshgrid(x, y), np.full((SIZE, SIZE), level)], axis=-1)
    radius = 0.75 * float(np.linalg.norm((high - low)[:2])) + 0.5
    away = np.linalg.norm(places[..., :2] - (low + high)[:2] / 2, axis=-1) / radius
    t = np.clip((away - 0.55) / 0.45, 0.0, 1.0)
    dark = (DARKEST * shadow * (1 - t * t * (3 - 2 * t))).astype(np.float32)
    corner = np.arange(SIZE * SIZE).reshape(SIZE, SIZE)
    quads = np.stack([corner[:-1, :-1], corner[:-1, 1:], corner[1:, :-1], corner[1:, 1:]], axis=-1).reshape(-1, 4)
    quads = quads[dark.ravel()[quads].max(axis=1) > FAINTEST]
    triangles = quads[:, [0, 1, 2, 2, 1, 3]].reshape(-1, 3)
    used, numbered = np.unique(triangles, return_inverse=True)
    return places.reshape(-1, 3)[used], dark.ravel()[used], numbered.reshape(-1, 3).astype(np.uint32)
