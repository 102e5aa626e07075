"""Boxes along the axes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def corners_of(bounds: NDArray[np.float64]) -> NDArray[np.float64]:
    """(8, 3) corners of (2, 3) bounds."""
    return np.array([[bounds[i][0], bounds[j][1], bounds[k][2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)])
