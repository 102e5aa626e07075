"""Small groups of neighbouring triangles, or edges, with their boxes.

A cut only has to look at triangles near its plane, a pick only at triangles near its ray, and a picture only at what
lies in it. Testing every triangle would make the cost follow the size of the model; testing boxes of up to 128
neighbours first makes it follow what is actually met.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.model.ranges import laid_end_to_end

CLUSTER_SIZE = 128


@dataclass(frozen=True, eq=False)
class Clusters:
    """``order`` (T,) lists member numbers cluster by cluster; cluster ``i`` is ``order[start[i]:start[i + 1]]``.

    ``centre`` and ``half`` (C, 3) give each cluster's box in metres, ``element`` (C,) the one element it lies in. ``kind``
    (C,) is what its members were told apart by: of triangles, 1 for clear surfaces.
    """

    order: NDArray[np.int64]
    start: NDArray[np.int64]
    centre: NDArray[np.float64]
    half: NDArray[np.float64]
    element: NDArray[np.int64]
    kind: NDArray[np.uint8]

    def triangles_in(self, chosen: NDArray[np.bool_]) -> NDArray[np.int64]:
        """Numbers of all members in the clusters of a (C,) mask."""
        picked = np.flatnonzero(chosen)
        return self.order[laid_end_to_end(self.start[picked], self.start[picked + 1])]

    def near_plane(self, normal: NDArray[np.float64], offset: float, margin: float) -> NDArray[np.bool_]:
        """Return (C,) True where the box comes within ``margin`` metres of the plane ``normal · x = offset``."""
        reach = self.half @ np.abs(normal) + margin
        return np.asarray(np.abs(self.centre @ normal - offset) <= reach)

    def near_ray(self, origin: NDArray[np.float64], direction: NDArray[np.float64]) -> NDArray[np.bool_]:
        """Return (C,) True where the ray from ``origin`` along ``direction`` meets the box (slab test)."""
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


def build_clusters(
    vertices: NDArray[np.float64],
    members: NDArray[np.integer],
    element: NDArray[np.int64],
    elements: int,
    kind: NDArray[np.bool_] | None = None,
) -> Clusters:
    """Group the members of every element along a Morton curve into clusters of at most ``CLUSTER_SIZE``.

    ``members`` (T, k) are numbers of ``vertices`` (V, 3) in metres, ``element`` (T,) where each belongs. Members of different
    ``kind`` (T,) never share a cluster.
    """
    # One corner after the other: all of them at once take three times as much memory.
    low, high = vertices[members[:, 0]], vertices[members[:, 0]]
    for corner in range(1, members.shape[1]):
        there = vertices[members[:, corner]]
        np.minimum(low, there, out=low)
        np.maximum(high, there, out=high)
    code = element.astype(np.uint64) << np.uint64(31)
    if kind is not None:
        code |= kind.astype(np.uint64) << np.uint64(30)
    # Only elements that need more than one cluster gain from being sorted by place.
    counts = np.bincount(element, minlength=elements)
    many = np.flatnonzero(counts[element] > CLUSTER_SIZE)
    if len(many):
        code[many] |= _morton(low[many], high[many], element[many], elements)
    order = np.argsort(code, kind="stable")

    group = code[order] >> np.uint64(30)
    begins = np.concatenate([[True], group[1:] != group[:-1]]) if len(order) else np.empty(0, bool)
    first = np.flatnonzero(begins)
    within = np.arange(len(order)) - np.repeat(first, np.diff(np.append(first, len(order))))
    start = np.flatnonzero(within % CLUSTER_SIZE == 0)
    if not len(start):
        none = np.empty((0, 3))
        return Clusters(order, np.zeros(1, np.int64), none, none, np.empty(0, np.int64), np.empty(0, np.uint8))
    lower = np.minimum.reduceat(low[order], start)
    upper = np.maximum.reduceat(high[order], start)
    return Clusters(
        order=order,
        start=np.append(start, len(order)),
        centre=(lower + upper) * 0.5,
        half=(upper - lower) * 0.5,
        element=(group[start] >> np.uint64(1)).astype(np.int64),
        kind=(group[start] & np.uint64(1)).astype(np.uint8),
    )


def _morton(low: NDArray[np.float64], high: NDArray[np.float64], element: NDArray[np.int64], elements: int) -> NDArray[np.uint64]:
    """(n,) place of the middles of boxes (n, 3) along a Morton curve through each element, 30 bits."""
    base, top = np.full((elements, 3), np.inf), np.full((elements, 3), -np.inf)
    np.minimum.at(base, element, low)
    np.maximum.at(top, element, high)
    extent = (top - base)[element]
    cell = ((low + high) * 0.5 - base[element]) / np.where(extent > 0, extent, 1.0) * 1023
    bits = [_spread_bits(cell[:, axis].astype(np.uint64)) << np.uint64(axis) for axis in range(3)]
    return bits[0] | bits[1] | bits[2]
