"""Following a plane through closed elements, from each triangle to the one across its edge."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.compiled import FLAGS, INTEGER_ROWS, INTEGERS, REAL, REAL_ROWS, REALS, compiled


@compiled(REAL_ROWS, INTEGER_ROWS, INTEGERS, INTEGERS, INTEGERS, INTEGERS, FLAGS, REALS, REAL, REAL)
def follow(
    vertices: NDArray[np.float64],
    triangles: NDArray[np.int64],
    twin: NDArray[np.int64],
    order: NDArray[np.int64],
    start: NDArray[np.int64],
    near: NDArray[np.int64],
    closed: NDArray[np.bool_],
    normal: NDArray[np.float64],
    offset: float,
    tolerance: float,
) -> tuple[NDArray[np.int64], NDArray[np.bool_], NDArray[np.int64]]:
    """Return the loops in which the plane ``normal · x = offset`` crosses closed elements.

    ``order`` and ``start`` are those of :class:`Clusters`, ``near`` (C,) the clusters to look into, and ``closed`` (C,) whether
    the elements of those are closed; ``twin`` is that of :class:`Links`. Returns the triangles (N,) loop by loop, whether (N,)
    one is the first of its loop, and the triangles (M,) that are crossed in elements that are not closed.

    A vertex is on one side for all its triangles, as its distance is always worked out the same way. So each crossed
    triangle has one edge that goes up through the plane and one that comes down; over the first lies the next triangle, and
    going on from there always leads back to where one set out.
    """
    # As long as they can get: what is not written to costs no memory.
    visited = np.zeros(len(triangles), np.bool_)
    path, first = np.empty(len(triangles), np.int64), np.zeros(len(triangles), np.bool_)
    others = np.empty(len(triangles), np.int64)
    count = left = 0
    up = np.empty(3, np.bool_)
    for number in range(len(near)):
        for place in range(start[near[number]], start[near[number] + 1]):
            t = order[place]
            begun = False
            while not visited[t]:
                for k in range(3):
                    v = triangles[t, k]
                    distance = vertices[v, 0] * normal[0] + vertices[v, 1] * normal[1] + vertices[v, 2] * normal[2] - offset
                    up[k] = distance >= -tolerance
                if up[0] == up[1] and up[1] == up[2]:
                    break
                if not closed[number]:
                    others[left] = t
                    left += 1
                    break
                visited[t] = True
                path[count] = t
                first[count] = not begun
                begun = True
                count += 1
                k = 0
                while up[k] or not up[(k + 1) % 3]:
                    k += 1
                t = twin[3 * t + k] // 3
    return path[:count].copy(), first[:count].copy(), others[:left].copy()


@compiled(REAL_ROWS, INTEGER_ROWS, INTEGERS, REALS, REAL, REAL)
def points_along(
    vertices: NDArray[np.float64],
    triangles: NDArray[np.int64],
    path: NDArray[np.int64],
    normal: NDArray[np.float64],
    offset: float,
    tolerance: float,
) -> NDArray[np.float64]:
    """Return (N, 3) where the plane comes down through an edge of each crossed triangle of a ``path`` (N,).

    Each point is the same whichever end of its edge is named first.
    """
    points = np.empty((len(path), 3))
    distance = np.empty(3)
    for row in range(len(path)):
        corners = triangles[path[row]]
        for k in range(3):
            v = corners[k]
            distance[k] = vertices[v, 0] * normal[0] + vertices[v, 1] * normal[1] + vertices[v, 2] * normal[2] - offset
        low = 0
        while low < 2 and (not distance[low] >= -tolerance or distance[(low + 1) % 3] >= -tolerance):
            low += 1
        high = (low + 1) % 3
        if corners[low] > corners[high]:
            low, high = high, low
        share = distance[low] / (distance[low] - distance[high])
        if not share > 0.0:  # also where both lie in the plane, which gives no number
            share = 0.0
        elif share > 1.0:
            share = 1.0
        for axis in range(3):
            p = vertices[corners[low], axis]
            points[row, axis] = p + share * (vertices[corners[high], axis] - p)
    return points
