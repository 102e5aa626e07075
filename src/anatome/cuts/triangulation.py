"""Polygons with holes into triangles: convex ones as fans, all at once, and convex ones with a convex hole as strips round it;
the others one by one by ear cutting.
"""

from __future__ import annotations

import mapbox_earcut
import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.rings import convex_rings, fans, nested_rings, ring_areas, strips


def triangulated(
    rings: NDArray[np.object_], polygon: NDArray[np.int64]
) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.int64]]:
    """Return (n, 2) points, (m, 3) triangles of them, anticlockwise, and (m,) the outer ring each lies in.

    ``rings`` (R,) are shapely rings and ``polygon`` (R,) says which polygon each is of, ascending, the outer ring first.
    """
    points = shapely.get_coordinates(rings)
    sizes = shapely.get_num_coordinates(rings).astype(np.int64)
    ends = np.cumsum(sizes)
    opened = np.ones(len(points), bool)
    opened[ends - 1] = False  # a ring of shapely's repeats its first point
    points = points[opened]
    first = np.concatenate([[0], ends - np.arange(1, len(rings) + 1)])
    outer = np.flatnonzero(np.diff(polygon, prepend=-1))
    beyond = np.append(outer[1:], len(rings))
    convex = convex_rings(points, first)
    plain = (beyond - outer == 1) & convex[outer]
    hollow = (beyond - outer == 2) & convex[outer] & convex[beyond - 1]
    hollow[hollow] = nested_rings(points, first, outer[hollow], outer[hollow] + 1)
    made = [fans(points, first, outer[plain]), strips(points, first, ring_areas(points, first), outer[hollow], outer[hollow] + 1)]
    others = ~(plain | hollow)
    if others.any():
        made.append(_by_ears(points, first, outer[others], beyond[others]))
    return points, np.concatenate([m[0] for m in made]), np.concatenate([m[1] for m in made])


def _by_ears(
    points: NDArray[np.float64], first: NDArray[np.int64], outer: NDArray[np.int64], beyond: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Triangles of the polygons made of the rings ``outer[i]:beyond[i]``, and the outer ring of each."""
    cut_ears = mapbox_earcut.triangulate_float64
    ends = first.astype(np.uint32)
    ears = [
        cut_ears(points[first[begin] : first[end]], ends[begin + 1 : end + 1] - ends[begin])
        for begin, end in zip(outer.tolist(), beyond.tolist())
    ]
    sizes = np.array([len(e) for e in ears])
    triangles = (np.concatenate(ears).astype(np.int64) + np.repeat(first[outer], sizes)).reshape(-1, 3)
    a, b, c = points[triangles[:, 0]], points[triangles[:, 1]], points[triangles[:, 2]]
    clockwise = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) < (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    triangles[clockwise] = triangles[clockwise][:, ::-1]
    return triangles, np.repeat(outer, sizes // 3)
