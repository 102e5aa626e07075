"""What can be seen in a picture, pixel by pixel."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, eq=False)
class Seen:
    """``element`` (h, w) numbers, −1 where nothing is; ``cut`` (h, w) where it is a cut face; ``place`` (h, w, 3) metres, where
    it is shown, NaN where nothing is. Cut faces are drawn a little forward, so their places are. What is clear hides nothing."""

    element: NDArray[np.int64]
    cut: NDArray[np.bool_]
    place: NDArray[np.float64]
