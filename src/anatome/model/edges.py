"""The edges worth drawing: creases, open borders, and the smooth edges that may turn into silhouettes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.model.clusters import Clusters, build_clusters

CREASE_ANGLE = 28.0
"""Degrees between two faces from which the edge between them is drawn (common practice: 20 to 35)."""
FLAT_ANGLE = 0.5
"""Degrees under which two faces count as one plane: the edge between them is never drawn."""

AT_ONCE = 250_000
"""Triangles whose edges are sorted at a time, about."""
SHORT = 0.25
"""Share of the longest edge of an element under which an edge is short for it: the first to go when it is seen from afar."""


@dataclass(frozen=True, eq=False)
class FeatureEdges:
    """``ends`` (S, 2) vertex numbers; ``element`` (S,); ``sharp`` (S,) True where an edge is always drawn.

    ``normals`` (S, 2, 3) int8, in 127ths: the unit normals of the two faces beside a smooth edge, which is a silhouette where
    one of them faces the eye and the other does not; zero beside sharp ones. Edges stand in the order of their clusters.
    """

    ends: NDArray[np.uint32]
    element: NDArray[np.int32]
    sharp: NDArray[np.bool_]
    normals: NDArray[np.int8]
    clusters: Clusters
    longest: NDArray[np.float32]


def feature_edges(
    vertices: NDArray[np.float64],
    triangles: NDArray[np.int64],
    normals: NDArray[np.float64],
    element: NDArray[np.int64],
    elements: int,
) -> FeatureEdges:
    """Sort the edges of triangles (T, 3) into sharp (drawn always), smooth (drawn as silhouettes) and flat (left out).

    ``normals`` (T, 3) are their unit normals, ``element`` (T,) where they belong.
    """
    # Elements share no vertices, so some at a time give the same as all at once, in less memory.
    found = [
        _edges(triangles[first:last], normals[first:last], element[first:last], len(vertices))
        for first, last in _stretches(element)
    ]
    ends, owner, sharp, beside = (np.concatenate([part[i] for part in found]) for i in range(4))
    lengths = np.linalg.norm(vertices[ends[:, 1]] - vertices[ends[:, 0]], axis=1)
    whole = np.zeros(elements)
    np.maximum.at(whole, owner, lengths)
    clusters = build_clusters(vertices, ends, owner, elements, lengths < SHORT * whole[owner])
    by_cluster = clusters.order
    longest = np.maximum.reduceat(lengths[by_cluster], clusters.start[:-1]) if len(by_cluster) else np.empty(0)
    return FeatureEdges(
        ends=ends[by_cluster].astype(np.uint32),
        element=owner[by_cluster].astype(np.int32),
        sharp=sharp[by_cluster],
        normals=beside[by_cluster],
        clusters=clusters,
        longest=longest.astype(np.float32),
    )


def _stretches(element: NDArray[np.int64]) -> list[tuple[int, int]]:
    """Ranges of triangles in an ``element`` (T,) each, of whole elements."""
    begins = np.flatnonzero(np.diff(element, prepend=-1))
    cuts = begins[np.searchsorted(begins, np.arange(0, len(element), AT_ONCE))[1:].clip(max=len(begins) - 1)]
    edges = np.unique([0, *cuts.tolist(), len(element)])
    return list(zip(edges[:-1].tolist(), edges[1:].tolist()))


def _edges(
    triangles: NDArray[np.int64], normals: NDArray[np.float64], element: NDArray[np.int64], vertices: int
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.bool_], NDArray[np.int8]]:
    """The edges of some triangles that are not flat: their ends (n, 2), elements (n,), whether they are sharp (n,), the normals
    beside them (n, 2, 3) in 127ths."""
    pairs = triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    face = np.repeat(np.arange(len(triangles)), 3)
    low, high = pairs.min(axis=1), pairs.max(axis=1)
    key = low * vertices + high
    order = np.argsort(key, kind="stable")
    key, face = key[order], face[order]
    first = np.flatnonzero(np.concatenate([[True], key[1:] != key[:-1]]))
    count = np.diff(np.append(first, len(key)))
    n0, n1 = normals[face[first]], normals[face[np.minimum(first + 1, len(face) - 1)]]
    cosine = np.einsum("ij,ij->i", n0, n1)
    # An edge with one face is a border, one with more than two a junction: both are always drawn.
    sharp = (count != 2) | (cosine < np.cos(np.radians(CREASE_ANGLE)))
    kept = np.flatnonzero(sharp | (cosine < np.cos(np.radians(FLAT_ANGLE))))

    sharp = sharp[kept]
    ends = np.column_stack([low[order][first[kept]], high[order][first[kept]]])
    beside = np.round(np.stack([n0[kept], n1[kept]], axis=1) * 127).astype(np.int8)
    beside[sharp] = 0
    return ends, element[face[first[kept]]], sharp, beside
