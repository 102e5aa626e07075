"""The soft shadow a building leaves on the ground under it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter

from anatome.cuts.cells import Cell, held_by_any
from anatome.model.building import Building

SIZE = 96


def footprint(
    building: Building, shown: NDArray[np.bool_], cells: Sequence[Cell] = ()
) -> tuple[NDArray[np.float32], NDArray[np.float64]]:
    """((SIZE, SIZE) shadow 0..1 with rows along Y, (4,) lower and upper corner it covers in metres).

    Not a cast shadow but the darkness under things: how much stands over each spot, blurred. What the
    cells cut away half-way up the building casts nothing.
    """
    low, high = building.bounds_of(shown)
    margin = 0.4 * float(max(high[:2] - low[:2])) + 1e-6
    corner, extent = low[:2] - margin, high[:2] - low[:2] + 2 * margin
    picture = np.zeros((SIZE, SIZE))
    boxes = building.element_bounds[shown]
    spans = np.floor((boxes[:, :, :2] - corner) / extent * SIZE).astype(int).clip(0, SIZE - 1)
    for (x0, y0), (x1, y1) in spans:
        picture[y0 : y1 + 1, x0 : x1 + 1] = 1.0
    upright = [c for c in cells if not any(p.is_level for p in c.planes) or len(c.planes) > 1]
    if upright:
        x, y = (corner[i] + (np.arange(SIZE) + 0.5) / SIZE * extent[i] for i in (0, 1))
        spots = np.stack([*np.meshgrid(x, y), np.full((SIZE, SIZE), (low[2] + high[2]) / 2)], axis=-1)
        picture[held_by_any(upright, spots)] = 0.0
    soft = 0.5 * gaussian_filter(picture, SIZE * 0.02) + 0.5 * gaussian_filter(picture, SIZE * 0.07)
    # Nothing at the border, so that the picture of the shadow ends without an edge.
    fade = np.minimum(np.arange(SIZE), np.arange(SIZE)[::-1]) / (SIZE * 0.1)
    soft *= np.minimum(fade, 1.0)[:, None] * np.minimum(fade, 1.0)
    return soft.clip(0, 1).astype(np.float32), np.concatenate([corner, corner + extent])
