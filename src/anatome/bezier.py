"""Curves as short straight lines."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray


def bezier(control: ArrayLike, steps: int) -> NDArray[np.float64]:
    """Return (steps, 2) places along a Bézier curve with (n, 2) control points, after the first of them (de Casteljau)."""
    share = np.linspace(0.0, 1.0, steps + 1)[1:, None, None]
    level = np.asarray(control, float)[None]
    while level.shape[1] > 1:
        level = level[:, :-1] + share * (level[:, 1:] - level[:, :-1])
    return level[:, 0]
