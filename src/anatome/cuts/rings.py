"""Rings of points in a plane, many at once: ring ``i`` is ``points[first[i]:first[i + 1]]`` and does not repeat its first."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.compiled import INTEGERS, REAL, REAL_ROWS, REALS, compiled

PASSES = 8
"""How often points are dropped from rings; each pass halves a straight run."""


@compiled(REAL_ROWS, INTEGERS, REAL)
def simplify_rings(
    points: NDArray[np.float64], first: NDArray[np.int64], tolerance: float
) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Drop points that repeat their neighbour or lie on the line between their neighbours, within ``tolerance`` m.

    ``points`` (n, 2). Returns the points left and the new ``first``; rings may end with fewer than three points.
    """
    kept = np.empty((len(points), 2))
    ends = np.zeros(len(first), np.int64)
    count = 0
    dropped = np.empty(0, np.bool_)
    for ring in range(len(first) - 1):
        begin = count
        size = first[ring + 1] - first[ring]
        for i in range(size):
            a, b = first[ring] + i, first[ring] + (i + 1) % size
            dx, dy = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1]
            if dx * dx + dy * dy > tolerance * tolerance:
                kept[count] = points[a]
                count += 1
        if size > len(dropped):
            dropped = np.empty(size, np.bool_)
        for _ in range(PASSES):
            size = count - begin
            # Two points close together at a corner are each on a line with their neighbours; dropping both would cut the
            # corner off. So of a run of idle points only every other one goes at a time.
            run = 0
            gone = 0
            for i in range(size):
                p, q, r = kept[begin + (i + size - 1) % size], kept[begin + i], kept[begin + (i + 1) % size]
                ax, ay, bx, by = q[0] - p[0], q[1] - p[1], r[0] - q[0], r[1] - q[1]
                cx, cy = ax + bx, ay + by
                off = cx * ay - cy * ax
                idle = off * off <= tolerance * tolerance * (cx * cx + cy * cy) and ax * bx + ay * by > 0
                run = run + 1 if idle else 0
                dropped[i] = run % 2 == 1
                if i == size - 1 and dropped[0]:
                    dropped[i] = False
                gone += dropped[i]
            if not gone:
                break
            count = begin
            for i in range(size):
                if not dropped[i]:
                    kept[count] = kept[begin + i]
                    count += 1
        ends[ring + 1] = count
    return kept[:count].copy(), ends


@compiled(REAL_ROWS, INTEGERS)
def ring_areas(points: NDArray[np.float64], first: NDArray[np.int64]) -> NDArray[np.float64]:
    """Return (R,) signed areas of rings of ``points`` (n, 2), m²; anticlockwise is positive.

    Shoelace formula, taken about each ring's own first point so that far-away coordinates lose nothing.
    """
    areas = np.zeros(len(first) - 1)
    for ring in range(len(first) - 1):
        begin = first[ring]
        total = 0.0
        for i in range(begin + 1, first[ring + 1] - 1):
            ax, ay = points[i, 0] - points[begin, 0], points[i, 1] - points[begin, 1]
            total += ax * (points[i + 1, 1] - points[begin, 1]) - ay * (points[i + 1, 0] - points[begin, 0])
        areas[ring] = 0.5 * total
    return areas


@compiled(REAL_ROWS, INTEGERS)
def convex_rings(points: NDArray[np.float64], first: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Return (R,) whether a ring of ``points`` (n, 2) only ever turns to one side, and only once round."""
    convex = np.zeros(len(first) - 1, np.bool_)
    for ring in range(len(first) - 1):
        begin, size = first[ring], first[ring + 1] - first[ring]
        left = right = False
        changes = 0
        for i in range(size):
            p, q, r = points[begin + i], points[begin + (i + 1) % size], points[begin + (i + 2) % size]
            ax, ay, bx, by = q[0] - p[0], q[1] - p[1], r[0] - q[0], r[1] - q[1]
            turn = ax * by - bx * ay
            left |= turn > 0
            right |= turn < 0
            changes += (ax > 0) != (bx > 0)
        # Once round: the direction in x changes its sign twice at the most.
        convex[ring] = size >= 3 and not (left and right) and changes <= 2
    return convex


@compiled(REAL_ROWS, INTEGERS, INTEGERS)
def fans(
    points: NDArray[np.float64], first: NDArray[np.int64], chosen: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Return (m, 3) triangles that fill the ``chosen`` convex rings, anticlockwise, and (m,) the ring each is of."""
    count = 0
    for ring in chosen:
        count += first[ring + 1] - first[ring] - 2
    triangles, owner = np.empty((count, 3), np.int64), np.empty(count, np.int64)
    row = 0
    for ring in chosen:
        begin = first[ring]
        for i in range(begin + 1, first[ring + 1] - 1):
            ax, ay = points[i, 0] - points[begin, 0], points[i, 1] - points[begin, 1]
            bx, by = points[i + 1, 0] - points[begin, 0], points[i + 1, 1] - points[begin, 1]
            clockwise = ax * by < ay * bx
            triangles[row, 0] = begin
            triangles[row, 1] = i + 1 if clockwise else i
            triangles[row, 2] = i if clockwise else i + 1
            owner[row] = ring
            row += 1
    return triangles, owner


@compiled(REAL_ROWS, INTEGERS, INTEGERS, INTEGERS)
def nested_rings(
    points: NDArray[np.float64], first: NDArray[np.int64], outer: NDArray[np.int64], inner: NDArray[np.int64]
) -> NDArray[np.bool_]:
    """Return (n,) whether each convex ring ``outer[i]`` has all points of the ring ``inner[i]`` strictly within it."""
    within = np.ones(len(outer), np.bool_)
    for pair in range(len(outer)):
        begin, size = first[outer[pair]], first[outer[pair] + 1] - first[outer[pair]]
        left = right = False
        for i in range(size):
            p, q = points[begin + i], points[begin + (i + 1) % size]
            for k in range(first[inner[pair]], first[inner[pair] + 1]):
                side = (q[0] - p[0]) * (points[k, 1] - p[1]) - (q[1] - p[1]) * (points[k, 0] - p[0])
                left |= side >= 0
                right |= side <= 0
        within[pair] = left != right
    return within


@compiled(REAL_ROWS, INTEGERS, REALS, INTEGERS, INTEGERS)
def strips(
    points: NDArray[np.float64],
    first: NDArray[np.int64],
    areas: NDArray[np.float64],
    outer: NDArray[np.int64],
    inner: NDArray[np.int64],
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Return (m, 3) anticlockwise triangles between convex rings ``outer`` (n,) and convex rings ``inner`` (n,) within them,
    and (m,) the outer ring each is of. ``areas`` (R,) are the rings' signed areas.

    Going round, a corner outside is joined to every edge inside that it sees, and then gives way to the next one: what
    lies between it and that one is beyond the line that just touches the inner ring, so nothing is crossed.
    """
    count = 0
    for pair in range(len(outer)):
        count += first[outer[pair] + 1] - first[outer[pair]] + first[inner[pair] + 1] - first[inner[pair]]
    triangles, owner = np.empty((count, 3), np.int64), np.empty(count, np.int64)
    row = 0
    for pair in range(len(outer)):
        a, n = first[outer[pair]], first[outer[pair] + 1] - first[outer[pair]]
        b, m = first[inner[pair]], first[inner[pair] + 1] - first[inner[pair]]
        step_a = 1 if areas[outer[pair]] > 0 else n - 1
        step_b = 1 if areas[inner[pair]] > 0 else m - 1
        sees = np.empty(m, np.bool_)
        for j in range(m):
            p, q = points[b + j * step_b % m], points[b + (j + 1) * step_b % m]
            sees[j] = (q[0] - p[0]) * (points[a, 1] - p[1]) - (q[1] - p[1]) * (points[a, 0] - p[0]) < 0
        start = 0
        while start < m - 1 and not (sees[start] and not sees[start - 1]):
            start += 1
        i = j = 0
        while i < n or j < m:
            outside = a + i * step_a % n
            here, there = b + (start + j) * step_b % m, b + (start + j + 1) * step_b % m
            p, q, x = points[here], points[there], points[outside]
            seen = (q[0] - p[0]) * (x[1] - p[1]) - (q[1] - p[1]) * (x[0] - p[0]) < 0
            triangles[row, 0] = outside
            if i == n or (j < m and seen):
                triangles[row, 1], triangles[row, 2] = there, here
                j += 1
            else:
                triangles[row, 1], triangles[row, 2] = a + (i + 1) * step_a % n, here
                i += 1
            owner[row] = outer[pair]
            row += 1
    return triangles, owner
