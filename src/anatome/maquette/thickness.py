"""How thick a body is, and a body of the same shape as thick as can be printed."""

from __future__ import annotations

import manifold3d
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
NEXT_TO_NOTHING = 1e-6
MOST_GROWN = 1500
"""Triangles of a body that is grown all round; one with more stays as it is."""
FINEST = 1e-3
"""Mm; corners nearer to one another than that become one."""
OPPOSITE = -0.7
"""Cosine from which the far side of a plate lies across from the near one; what comes to an edge is no plate."""
STEP = 1e-5
"""Mm to which corners are put before a body is grown."""
SQUARE = 0.02
"""Cosine between faces under which they are at right angles."""
THIN_SHARE = 0.05
"""Share of the surface behind which a body is too thin for it to be."""


def mesh_of(solid: manifold3d.Manifold) -> tuple[Array, NDArray[np.int64]]:
    """Return (n, 3) mm and (m, 3) triangles of a solid."""
    mesh = solid.to_mesh64()
    return np.asarray(mesh.vert_properties)[:, :3], np.asarray(mesh.tri_verts, np.int64)


def closed(places: Array, triangles: NDArray[np.int64]) -> manifold3d.Manifold | None:
    """Return a solid of a mesh, or None where that is not closed."""
    solid = manifold3d.Manifold(manifold3d.Mesh64(places, triangles.astype(np.uint64)))
    sound = solid.status() == manifold3d.Error.NoError and not solid.is_empty() and solid.volume() > NEXT_TO_NOTHING
    return solid if sound else None


def tidy(solid: manifold3d.Manifold) -> manifold3d.Manifold:
    """Return a solid without the tiny faces that joining and cutting leave: programs that open it make one of corners so near."""
    return solid.as_original().simplify(FINEST)


def thickness(body: manifold3d.Manifold, least: float) -> float | None:
    """Return mm a body is thick where it is thinner than ``least``, by rays from its faces inwards; None where it is nowhere, or
    where only little of its surface is."""
    places, triangles = mesh_of(body)
    corners = places[triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    areas = np.linalg.norm(normals, axis=1)
    there = areas > NEXT_TO_NOTHING
    corners, areas, normals = corners[there], areas[there], normals[there] / areas[there, None]
    found = np.full(len(areas), np.inf)
    for number, (middle, normal) in enumerate(zip(corners.mean(axis=1), normals)):
        hits = body.ray_cast(tuple(middle - 1e-4 * normal), tuple(middle - least * (1 - 1e-3) * normal))
        if hits and float(np.array(hits[0].normal) @ normal) < OPPOSITE:
            found[number] = float((middle - np.array(hits[0].position)) @ normal)
    thin = np.isfinite(found)
    if areas[thin].sum() <= THIN_SHARE * areas.sum():
        return None
    order = np.argsort(found[thin])
    shares = np.cumsum(areas[thin][order])
    return float(found[thin][order][np.searchsorted(shares, THIN_SHARE * shares[-1])])


def _grown(body: manifold3d.Manifold, by: float) -> manifold3d.Manifold:
    """A body grown all round by a box that lies as its faces do, reckoned in the axes of these: there faces that run alike do
    so to the last digit, and leave no slivers between them."""
    places, triangles = mesh_of(body)
    axes = _axes_of_faces(places, triangles)
    flat = np.round(places @ axes.T / STEP) * STEP
    level = closed(flat, triangles)
    if level is None:
        return body
    box = manifold3d.Manifold.cube((2 * by, 2 * by, 2 * by), True)
    grown = _one(tidy(level.minkowski_sum(box)))
    if grown.status() != manifold3d.Error.NoError or grown.is_empty():
        return grown
    there, sides = mesh_of(grown)
    return closed(there @ axes, sides) or body


def _axes_of_faces(places: Array, triangles: NDArray[np.int64]) -> Array:
    """(3, 3) unit vectors as rows: across the largest faces, across the largest at right angles to them, and across both."""
    corners = places[triangles]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(normal, axis=1)
    unit = normal / np.maximum(area, 1e-12)[:, None]
    first = unit[int(np.argmax(np.abs(unit @ unit.T) @ area if len(unit) < 2000 else area))]
    across = np.where(np.abs(unit @ first) < SQUARE, area, 0.0)
    if across.max() <= 0:
        second = np.linalg.svd(first[None])[2][1]
    else:
        second = unit[int(np.argmax(across))]
        second = second - (second @ first) * first
        second = second / np.linalg.norm(second)
    return np.stack([first, second, np.cross(first, second)])


def _one(grown: manifold3d.Manifold) -> manifold3d.Manifold:
    """A sum of two connected bodies, which is connected, without the slivers that rounding leaves beside it."""
    parts = grown.decompose()
    most = max((part.volume() for part in parts), default=0.0)
    kept = [part for part in parts if part.volume() < 0 or part.volume() == most]  # those of less than nothing are hollows
    return grown if len(kept) == len(parts) else manifold3d.Manifold.compose(kept)


def thick_enough(body: manifold3d.Manifold, least: float, more: float) -> tuple[manifold3d.Manifold, bool, bool]:
    """Return (a body at least so thick, whether it was made so, whether it is too thin still).

    A plate or a bar is stretched along those of its own principal axes in which it is too thin, to ``more`` than the least; a
    frame or a bent sheet grows all round (Minkowski sum with a box along those axes).
    """
    places, triangles = mesh_of(body)
    middle = places.mean(axis=0)
    axes = np.linalg.svd(places - middle, full_matrices=False)[2]
    flat = (places - middle) @ axes.T
    size = np.ptp(flat, axis=0)
    if (size <= NEXT_TO_NOTHING).any():
        return body, False, True
    made = body
    if (size < least * (1 - 1e-9)).any():
        centre = (flat.max(axis=0) + flat.min(axis=0)) / 2
        times = np.maximum((least + more) / size, 1.0)
        stretched = closed(((flat - centre) * times + centre) @ axes + middle, triangles)
        made = body if stretched is None else stretched
    thin = thickness(made, least)
    if thin is not None and made.num_tri() <= MOST_GROWN:
        half = (least - thin + more) / 2
        grown = _grown(made, half)
        if grown.status() == manifold3d.Error.NoError and not grown.is_empty():
            made, thin = grown, thickness(grown, least)
    return made, made is not body, thin is not None
