"""Triangles as a graphics card wants them: few vertices, in single precision, relative to a point near the building.

Surfaces are shaded flat, so a triangle's normal and colour are those of one of its corners, the last one named (the
provoking vertex of OpenGL). A corner can lend itself to all the triangles of one plane and colour around it; so a box
needs 8 vertices instead of 36.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, eq=False)
class DisplayMesh:
    """``vertices`` (N,) records: ``position`` in metres from the centre, ``normal`` in 127ths and 128 more, and the numbers of
    ``element`` and ``style``.

    ``triangles`` (T, 3) index them, in the order of the building's clusters, the provoking corner last.
    """

    vertices: NDArray[np.void]
    triangles: NDArray[np.uint32]


VERTEX = np.dtype([("position", "<f4", 3), ("normal", "u1", 4), ("element", "<u4"), ("style", "<u4")])


def display_mesh(
    vertices: NDArray[np.float64],
    triangles: NDArray[np.int64],
    normals: NDArray[np.float64],
    element: NDArray[np.int64],
    style: NDArray[np.int64],
    order: NDArray[np.int64],
    centre: NDArray[np.float64],
) -> DisplayMesh:
    """Triangles (T, 3) over vertices (V, 3) with unit normals (T, 3), taken in an ``order`` (T,)."""
    byte = np.round(normals * 127).astype(np.int64) + 128
    look = (((byte[:, 0] << 8 | byte[:, 1]) << 8 | byte[:, 2]) << 32) | style
    corner, lent = _lend_corners(triangles, look, len(vertices))
    rest = np.flatnonzero(corner < 0)
    # What found no free corner gets a copy of its first one, shared by all that look the same there.
    extra, which = np.unique(np.column_stack([triangles[rest, 0], look[rest]]), axis=0, return_inverse=True)
    corner[rest] = 0
    turned = np.take_along_axis(triangles, (corner[:, None] + np.array([1, 2, 3])) % 3, axis=1)
    turned[rest, 2] = len(vertices) + which.ravel()

    source = np.concatenate([np.arange(len(vertices)), extra[:, 0]])
    looks = np.concatenate([lent, extra[:, 1]])
    of_vertex = np.zeros(len(vertices), np.int64)
    of_vertex[triangles.ravel()] = np.repeat(element, 3)
    made = np.zeros(len(source), VERTEX)
    made["position"] = (vertices - centre)[source]
    for axis in range(3):
        made["normal"][:, axis] = (looks >> (48 - 8 * axis)) & 255
    made["element"] = of_vertex[source]
    made["style"] = looks & 0xFFFFFFFF
    return DisplayMesh(made, turned[order].astype(np.uint32))


def _lend_corners(
    triangles: NDArray[np.int64], look: NDArray[np.int64], count: int
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """(T,) the corner of each triangle that has its look, −1 where none was free; (count,) the look of every vertex.

    In rounds: every triangle without a corner asks for one of its three; of those that ask for the same the first is heard.
    """
    corner = np.full(len(triangles), -1, np.int64)
    lent = np.full(count, -1, np.int64)
    for turn in (0, 1, 2, 0, 1, 2):
        asking = np.flatnonzero(corner < 0)
        if not len(asking):
            break
        wanted = triangles[asking, turn]
        free = lent[wanted] < 0
        # Written backwards, so that the first of those that ask is what stays.
        lent[wanted[free][::-1]] = look[asking[free]][::-1]
        heard = lent[wanted] == look[asking]
        corner[asking[heard]] = turn
    lent[lent < 0] = 0
    return corner, lent
