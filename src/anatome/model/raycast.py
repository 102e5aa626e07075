"""Where a ray meets the building, leaving out what is hidden or cut away."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import Building


@dataclass(frozen=True)
class Hit:
    """A point on a surface: ``point`` and unit ``normal`` (facing the ray) in model coordinates, metres."""

    distance: float
    point: tuple[float, float, float]
    normal: tuple[float, float, float]
    element: int


def _meet(
    building: Building, numbers: NDArray[np.int64], origin: NDArray[np.float64], direction: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.bool_], NDArray[np.float64], NDArray[np.float64]]:
    """Where a ray meets each of the triangles (n,): distances, whether it does, and two edges (n, 3)."""
    p0, p1, p2 = np.moveaxis(building.vertices[building.triangles[numbers]], 1, 0)
    edge1, edge2 = p1 - p0, p2 - p0
    h = np.cross(direction, edge2)
    det = np.einsum("ij,ij->i", edge1, h)
    with np.errstate(divide="ignore", invalid="ignore"):
        s = (origin - p0) / det[:, None]
        u = np.einsum("ij,ij->i", s, h)
        q = np.cross(s, edge1)
        v = q @ direction
        distance = np.einsum("ij,ij->i", edge2, q)
        met = (u >= -1e-9) & (v >= -1e-9) & (u + v <= 1 + 1e-9) & (distance > 1e-9) & (np.abs(det) > 1e-300)
    met &= np.isfinite(distance)
    return distance, met, edge1, edge2


def elements_along(
    building: Building,
    origin: NDArray[np.float64],
    direction: NDArray[np.float64],
    visible: NDArray[np.bool_],
    reach: float,
) -> dict[int, float]:
    """Return the elements a ray enters within ``reach`` metres, each with the distance to its nearest surface."""
    clusters = building.clusters
    near = clusters.near_ray(origin, direction) & visible[clusters.element]
    numbers = clusters.triangles_in(near)
    if not len(numbers):
        return {}
    distance, met, _, _ = _meet(building, numbers, origin, direction)
    met &= distance <= reach
    found: dict[int, float] = {}
    for element, away in zip(building.element_of_triangle[numbers[met]].tolist(), distance[met].tolist()):
        found[element] = min(found.get(element, reach), away)
    return found


Removed = Callable[[NDArray[np.float64], NDArray[np.int64]], NDArray[np.bool_]]
"""Tells for (n, 3) points on elements (n,) which are cut away and let a ray through."""


def first_hit(
    building: Building,
    origin: NDArray[np.float64],
    direction: NDArray[np.float64],
    visible: NDArray[np.bool_] | None = None,
    removed: Removed | None = None,
) -> Hit | None:
    """Return the nearest triangle a ray meets, or None.

    ``direction`` need not be unit; distances are along its unit vector, metres. ``visible`` is an (E,) mask.
    Method: Möller and Trumbore (1997), on the clusters whose boxes the ray meets.
    """
    return next(iter(_hits(building, origin, direction, visible, removed, 1)), None)


def hits_along(
    building: Building,
    origin: NDArray[np.float64],
    direction: NDArray[np.float64],
    visible: NDArray[np.bool_] | None = None,
    removed: Removed | None = None,
) -> list[Hit]:
    """Return every element a ray meets, each where it is met first, the nearest in front."""
    return _hits(building, origin, direction, visible, removed, len(building.elements))


def _hits(
    building: Building,
    origin: NDArray[np.float64],
    direction: NDArray[np.float64],
    visible: NDArray[np.bool_] | None,
    removed: Removed | None,
    most: int,
) -> list[Hit]:
    direction = direction / np.linalg.norm(direction)
    clusters = building.clusters
    near = clusters.near_ray(origin, direction)
    if visible is not None:
        near &= visible[clusters.element]
    numbers = clusters.triangles_in(near)
    if not len(numbers):
        return []
    distance, met, edge1, edge2 = _meet(building, numbers, origin, direction)
    points = origin + np.where(met, distance, 0.0)[:, None] * direction
    candidates = np.flatnonzero(met)
    if removed is not None and len(candidates):
        met[candidates] &= ~removed(points[candidates], building.element_of_triangle[numbers[candidates]])
    candidates = np.flatnonzero(met)
    element = building.element_of_triangle[numbers]
    order = candidates[np.argsort(distance[candidates], kind="stable")]
    _, first = np.unique(element[order], return_index=True)
    found = []
    for best in order[np.sort(first)[:most]].tolist():
        normal = np.cross(edge1[best], edge2[best])
        normal /= np.linalg.norm(normal)
        if normal @ direction > 0:
            normal = -normal
        x, y, z = points[best].tolist()
        found.append(Hit(float(distance[best]), (x, y, z), (normal[0], normal[1], normal[2]), int(element[best])))
    return found
