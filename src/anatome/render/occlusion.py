"""What is hidden behind what is drawn already: boxes against the depth of a picture.

The depth is kept in ever coarser pyramids of its farthest values, so that a box of any size on the picture is compared
with four numbers at most (hierarchical depth: Greene, Kass and Miller, 1993). A box counts as hidden only when all of it is.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

BLOCK = 4
"""Pixels a side of the finest level: fewer comparisons than pixels, and still fine enough for slender parts."""
PLAY = 1e-5
"""Of the range of depth: what single precision may be off."""
_HALVINGS = np.ceil(np.log2(np.maximum(np.arange(4096), 1))).astype(np.int32)
"""How often each number of blocks has to be halved to be one at most."""


class DepthPyramid:
    """Made of a depth buffer (height, width) float32 0..1, lowest row first."""

    def __init__(self, depth: NDArray[np.float32]) -> None:
        height, width = depth.shape
        self.width, self.height = width, height
        padded = np.ones((-(-height // BLOCK) * BLOCK, -(-width // BLOCK) * BLOCK), np.float32)
        padded[:height, :width] = depth
        level = padded.reshape(padded.shape[0] // BLOCK, BLOCK, padded.shape[1] // BLOCK, BLOCK).max(axis=(1, 3))
        levels = [level]
        while max(level.shape) > 1:
            even = np.ones((-(-level.shape[0] // 2) * 2, -(-level.shape[1] // 2) * 2), np.float32)
            even[: level.shape[0], : level.shape[1]] = level
            level = even.reshape(even.shape[0] // 2, 2, even.shape[1] // 2, 2).max(axis=(1, 3))
            levels.append(level)
        self._flat = np.concatenate([level.ravel() for level in levels])
        self._start = np.cumsum([0, *(level.size for level in levels[:-1])]).astype(np.int32)
        self._shape = np.array([level.shape for level in levels], np.int32)

    def hides(self, matrix: NDArray[np.float64], centre: NDArray[np.float32], half: NDArray[np.float32]) -> NDArray[np.bool_]:
        """Return (n,) True for boxes of which nothing can be seen. ``matrix`` (4, 4) leads to the clip coordinates of the
        target."""
        rows = matrix.astype(np.float32)
        middle = centre @ rows[:, :3].T + rows[:, 3]
        if np.abs(rows[3, :3]).max() == 0:  # a parallel projection: a box reaches as far to either side
            reach = half @ np.abs(rows[:, :3]).T
            lower, upper = middle - reach, middle + reach
            ahead = np.ones(len(centre), bool)
        else:
            lower, upper, ahead = _spans(rows, middle, half)
        left, right = self._blocks(lower[:, 0], self.width), self._blocks(upper[:, 0], self.width)
        low, high = self._blocks(lower[:, 1], self.height), self._blocks(upper[:, 1], self.height)
        # At a level where it spans two blocks at most, whichever way it lies.
        span = np.maximum(right - left, high - low)
        level = np.minimum(_HALVINGS[np.minimum(span, len(_HALVINGS) - 1)], len(self._start) - 1)
        farthest = np.zeros(len(centre), np.float32)
        width, start = self._shape[level, 1], self._start[level]
        for row in (low >> level, high >> level):
            for column in (left >> level, right >> level):
                np.maximum(farthest, self._flat[start + row * width + column], out=farthest)
        return np.asarray(ahead & (lower[:, 2] * 0.5 + 0.5 > farthest + PLAY))

    @staticmethod
    def _blocks(flat: NDArray[np.float32], size: int) -> NDArray[np.int32]:
        """Numbers of the finest blocks at places −1..1; what lies outside counts to the border."""
        return np.asarray(np.clip((flat * 0.5 + 0.5) * size, 0, size - 1).astype(np.int32) // BLOCK)


def _spans(
    rows: NDArray[np.float32], middle: NDArray[np.float32], half: NDArray[np.float32]
) -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.bool_]]:
    """Lower and upper corner (n, 3) of boxes in a perspective picture, and which (n,) lie wholly before the eye."""
    arms = half[:, :, None] * rows[:, :3].T[None]  # (n, axis, row)
    ahead = middle[:, 3] - np.abs(arms[:, :, 3]).sum(axis=1) > 1e-6
    lower = np.full((len(middle), 3), np.inf, np.float32)
    upper = np.full((len(middle), 3), -np.inf, np.float32)
    pairs = (arms[:, 0] + arms[:, 1], arms[:, 0] - arms[:, 1])
    with np.errstate(divide="ignore", invalid="ignore"):
        for pair in pairs:
            for first in (middle + pair, middle - pair):
                for corner in (first + arms[:, 2], first - arms[:, 2]):
                    place = corner[:, :3] / corner[:, 3:]
                    np.minimum(lower, place, out=lower)
                    np.maximum(upper, place, out=upper)
    lower[~ahead], upper[~ahead] = 0.0, 0.0
    return lower, upper, ahead
