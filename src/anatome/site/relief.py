"""The relief of ground that is not level: heights on a grid, as a value, and the body of earth under them."""

from __future__ import annotations

import manifold3d
import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator
from scipy.ndimage import map_coordinates

from anatome.values import FARTHEST, Value

Array = NDArray[np.float64]
MOST_HEIGHTS = 40_000


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
        at = (places - self.corner) / self.step
        return np.asarray(map_coordinates(self.grid, [at[:, 1], at[:, 0]], order=1, mode="nearest"))

    def highest_in(self, low: Array, high: Array) -> float:
        """Return the greatest height between two corners (2,)."""
        xs, ys = (np.linspace(low[i], high[i], 25) for i in range(2))
        return float(self.heights_at(np.stack(np.meshgrid(xs, ys), axis=-1).reshape(-1, 2)).max())

    def body(self, bottom: float) -> manifold3d.Manifold:
        """Return the earth under it, down to a level."""
        rows, columns = self.grid.shape
        y, x = np.mgrid[:rows, :columns]
        flat = self.corner + self.step * np.stack([x.ravel(), y.ravel()], axis=1)
        top = np.column_stack([flat, np.maximum(self.grid.ravel(), bottom + 1e-3)])
        vertices = np.concatenate([top, np.column_stack([flat, np.full(len(flat), bottom)])])
        number = np.arange(rows * columns).reshape(rows, columns)
        a, b, c, d = number[:-1, :-1].ravel(), number[:-1, 1:].ravel(), number[1:, 1:].ravel(), number[1:, :-1].ravel()
        upper = np.concatenate([np.stack([a, b, c], 1), np.stack([a, c, d], 1)])
        rim = np.concatenate([number[0], number[1:, -1], number[-1, -2::-1], number[-2:0:-1, 0]])
        after, under = np.roll(rim, -1), rows * columns
        sides = np.concatenate([np.stack([rim, rim + under, after + under], 1), np.stack([rim, after + under, after], 1)])
        faces = np.concatenate([upper, upper[:, ::-1] + under, sides])
        return manifold3d.Manifold(manifold3d.Mesh64(vertices, faces.astype(np.uint64)))
