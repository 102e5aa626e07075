"""Boxes along the axes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def corners_of(bounds: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return (..., 8, 3) corners of (..., 2, 3) bounds."""
    choice = np.array(list(np.ndindex(2, 2, 2)))
    return np.stack([bounds[..., choice[:, axis], axis] for axis in range(3)], axis=-1)


def bounds_round(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return (2, 3) bounds of (n, 3) points."""
    return np.stack([points.min(axis=0), points.max(axis=0)])
