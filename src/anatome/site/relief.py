"""The relief of ground that is not level: heights on a grid, as a value."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from anatome.values import FARTHEST, Value

Array = NDArray[np.float64]
MOST_HEIGHTS = 40_000
HEIGHT_SUFFIXES = (".xyz", ".txt", ".csv", ".las", ".laz", ".asc", ".tif", ".tiff")
"""Of files that heights are read from."""


class Relief(Value):
    """Heights in metres from south to north, in each row from west to east, ``step`` metres apart; the first lies ``west`` and
    ``south`` of the model's origin by so many metres, moved ``east``, ``north`` and ``up`` besides."""

    name: str = Field(default="", max_length=500, description="the file it was read from")
    west: float = Field(ge=-FARTHEST, le=FARTHEST)
    south: float = Field(ge=-FARTHEST, le=FARTHEST)
    step: float = Field(gt=0, le=10_000)
    columns: int = Field(ge=2, le=MOST_HEIGHTS // 2)
    heights: tuple[float, ...] = Field(max_length=MOST_HEIGHTS)
    east: float = Field(default=0.0, ge=-FARTHEST, le=FARTHEST)
    north: float = Field(default=0.0, ge=-FARTHEST, le=FARTHEST)
    up: float = Field(default=0.0, ge=-FARTHEST, le=FARTHEST)

    @model_validator(mode="after")
    def _is_a_grid(self) -> Relief:
        if len(self.heights) % self.columns or len(self.heights) < 2 * self.columns:
            raise ValueError("heights stand in whole rows, two at least")
        if not np.isfinite(self.heights).all():
            raise ValueError("heights are numbers")
        return self

    @property
    def grid(self) -> Array:
        """(rows, columns) metres, as it stands. Not kept: a copy of a value takes along what is."""
        return np.array(self.heights).reshape(-1, self.columns) + self.up

    @property
    def corner(self) -> Array:
        """(2,) metres, where its first height stands."""
        return np.array([self.west + self.east, self.south + self.north])

    @property
    def far_corner(self) -> Array:
        """(2,) metres, where its last height stands."""
        rows, columns = self.grid.shape
        return np.asarray(self.corner + self.step * np.array([columns - 1, rows - 1]))

    def heights_at(self, places: Array) -> Array:
        """Return (n,) metres at (n, 2) places, between heights in proportion; beyond its borders those of the border."""
        grid = self.grid
        most = np.array([grid.shape[1] - 1, grid.shape[0] - 1], float)
        at = np.clip((places - self.corner) / self.step, 0.0, most)
        column, row = np.minimum(np.floor(at), most - 1).astype(int).T
        across, upward = (at - np.stack([column, row], axis=1)).T
        lower = grid[row, column] * (1 - across) + grid[row, column + 1] * across
        upper = grid[row + 1, column] * (1 - across) + grid[row + 1, column + 1] * across
        return np.asarray(lower * (1 - upward) + upper * upward)

    def highest_in(self, low: Array, high: Array) -> float:
        """Return the greatest height between two corners (2,)."""
        xs, ys = (np.linspace(low[i], high[i], 25) for i in range(2))
        return float(self.heights_at(np.stack(np.meshgrid(xs, ys), axis=-1).reshape(-1, 2)).max())
