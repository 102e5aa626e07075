"""Small groups of neighbouring triangles with their boxes.

A cut only has to look at triangles near its plane and a pick only at triangles near its ray. Testing every triangle
would make the cost follow the size of the model; testing boxes of up to 128 neighbouring triangles first makes it
follow what is actually cut.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

CLUSTER_SIZE = 128


@dataclass(frozen=True, eq=False)
class Clusters:
    """``order`` (T,) lists triangle numbers cluster by cluster; cluster ``i`` is ``order[start[i]:start[i + 1]]``.

    ``centre`` and ``half`` (C, 3) give each cluster's box in metres, ``element`` (C,) the one element it lies in.
    """

    order: NDArray[np.int64]
    start: NDArray[np.int64]
    centre: NDArray[np.float64]
    half: NDArray[np.float64]
    element: NDArray[np.int64]

    def triangles_in(self, chosen: NDArray[np.bool_]) -> NDArray[np.int64]:
        """Numbers of all triangles in the clusters of a (C,) mask."""
        picked = np.flatnonzero(chosen)
        counts = self.start[picked + 1] - self.start[picked]
        if not len(picked):
            return np.empty(0, np.int64)
        # All positions start..end of every picked cluster, laid end to end without a loop.
        ends = np.cumsum(counts)
        steps = np.arange(ends[-1]) - np.repeat(ends - counts, counts)
        return self.order[np.repeat(self.start[picked], counts) + steps]

    def near_plane(self, normal: NDArray[np.float64], offset: float, margin: float) -> NDArray[np.bool_]:
        """(C,) True where the box comes within ``margin`` metres of the plane ``normal · x = offset``."""
        reach = self.half @ np.abs(normal) + margin
        return np.asarray(np.abs(self.centre @ normal - offset) <= reach)

    def near_ray(self, origin: NDArray[np.float64], direction: NDArray[np.float64]) -> NDArray[np.bool_]:
        """(C,) True where the ray from ``origin`` along ``direction`` meets the box (slab test)."""
        with np.errstate(divide="ignore", invalid="ignore"):
            inverse = 1.0 / np.where(np.abs(direction) < 1e-300, 1e-300, direction)
            first = (self.centre - self.half - origin) * inverse
            second = (self.centre + self.half - origin) * inverse
        enter = np.minimum(first, second).max(axis=1)
        leave = np.maximum(first, second).min(axis=1)
        return np.asarray(leave >= np.maximum(enter, 0.0))


def _spread_bits(values: NDArray[np.uint64]) -> NDArray[np.uint64]:
    """Insert two zero bits between the lowest ten bits (the Morton code of one axis)."""
    v = values & np.uint64(0x3FF)
    for shift, mask in ((16, 0x30000FF), (8, 0x300F00F), (4, 0x30C30C3), (2, 0x9249249)):
        v = (v | (v << np.uint64(shift))) & np.uint64(mask)
    return v


def build_clusters(vertices: NDArray[np.float64], triangles: NDArray[np.int64], triangle_start: NDArray[np.int64]) -> Clusters:
    """Group the triangles of every element along a Morton curve into clusters of at most ``CLUSTER_SIZE``."""
    corners = vertices[triangles]
    low, high = corners.min(axis=1), corners.max(axis=1)
    counts = np.diff(triangle_start)
    element = np.repeat(np.arange(len(counts)), counts)
    # Only elements that need more than one cluster gain from being sorted by place.
    starts = triangle_start[:-1]
    base = np.repeat(np.minimum.reduceat(low, starts), counts, axis=0)
    extent = np.repeat(np.maximum.reduceat(high, starts), counts, axis=0) - base
    cell = ((low + high) * 0.5 - base) / np.where(extent > 0, extent, 1.0) * 1023
    bits = [_spread_bits(cell[:, axis].astype(np.uint64)) << np.uint64(axis) for axis in range(3)]
    code = bits[0] | bits[1] | bits[2] | (element.astype(np.uint64) << np.uint64(30))
    order = np.argsort(code, kind="stable")

    within = np.arange(len(order)) - np.repeat(starts, counts)
    start = np.flatnonzero(within % CLUSTER_SIZE == 0)
    lower = np.minimum.reduceat(low[order], start)
    upper = np.maximum.reduceat(high[order], start)
    return Clusters(
        order=order,
        start=np.append(start, len(order)),
        centre=(lower + upper) * 0.5,
        half=(upper - lower) * 0.5,
        element=element[order[start]],
    )
