"""Ranges of whole numbers, many at once."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def laid_end_to_end(start: NDArray[np.int64], end: NDArray[np.int64]) -> NDArray[np.int64]:
    """Return all numbers of the ranges ``start[i]:end[i]``, one range after the other."""
    counts = end - start
    if not len(counts):
        return np.empty(0, np.int64)
    ends = np.cumsum(counts)
    return np.asarray(np.arange(ends[-1]) + np.repeat(start - ends + counts, counts))
