"""The edges worth drawing: creases, open borders, and the smooth edges that may turn into silhouettes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import Building

CREASE_ANGLE = 28.0
"""Degrees between two faces from which the edge between them is drawn (common practice: 20 to 35)."""


@dataclass(frozen=True, eq=False)
class FeatureEdges:
    """``sharp`` (S, 2) and ``smooth`` (M, 2) hold vertex numbers; ``*_element`` the element of each edge.

    ``smooth_normals`` (M, 2, 3) are the unit normals of the two faces beside each smooth edge: it is a silhouette
    where one of them faces the eye and the other does not.
    """

    sharp: NDArray[np.int64]
    sharp_element: NDArray[np.int64]
    smooth: NDArray[np.int64]
    smooth_element: NDArray[np.int64]
    smooth_normals: NDArray[np.float32]


def feature_edges(building: Building) -> FeatureEdges:
    """Sort every edge of the building into sharp (drawn always), smooth (drawn as silhouette) and flat (never)."""
    triangles = building.triangles
    corners = building.vertices[triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    lengths = np.linalg.norm(normals, axis=1, keepdims=True)
    normals = normals / np.where(lengths > 0, lengths, 1.0)

    pairs = triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    face = np.repeat(np.arange(len(triangles)), 3)
    low, high = pairs.min(axis=1), pairs.max(axis=1)
    key = low * len(building.vertices) + high
    order = np.argsort(key, kind="stable")
    key, face = key[order], face[order]
    first = np.flatnonzero(np.concatenate([[True], key[1:] != key[:-1]]))
    count = np.diff(np.append(first, len(key)))
    edge = np.column_stack([low[order][first], high[order][first]])
    element = building.element_of_triangle[face[first]]

    second = np.minimum(first + 1, len(face) - 1)
    n0, n1 = normals[face[first]], normals[face[second]]
    cosine = np.einsum("ij,ij->i", n0, n1)
    # An edge with one face is a border, one with more than two a junction: both are always drawn.
    sharp = (count != 2) | (cosine < np.cos(np.radians(CREASE_ANGLE)))
    smooth = ~sharp & (cosine < np.cos(np.radians(0.5)))
    return FeatureEdges(
        sharp=edge[sharp],
        sharp_element=element[sharp],
        smooth=edge[smooth],
        smooth_element=element[smooth],
        smooth_normals=np.stack([n0[smooth], n1[smooth]], axis=1).astype(np.float32),
    )
