"""The part of a building that the cuts leave, as closed meshes.

Elements that are closed solids are cut as solids by manifold3d, so what is left of them is closed as well. What is not
a solid to begin with is cut triangle by triangle and gets the poché's caps.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import manifold3d
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cells import Cell
from anatome.cuts.dissection import CutBuilding
from anatome.cuts.surface import outside
from anatome.model.building import Building
from anatome.problems import Problem

ROOM = 1.0


@dataclass(frozen=True, eq=False)
class KeptElement:
    """``element`` number, ``vertices`` (n, 3) metres, ``triangles`` (m, 3), and whether the mesh is ``closed``."""

    element: int
    vertices: NDArray[np.float64]
    triangles: NDArray[np.int64]
    closed: bool


def kept_part(cut_open: CutBuilding, progress: Callable[[float], bool] | None = None) -> list[KeptElement]:
    """Return what is left of every element, capped. ``progress`` may return False to stop, which raises Problem."""
    kept = []
    numbers = np.flatnonzero(cut_open.shown)
    for done, e in enumerate(numbers.tolist()):
        found = _kept_element(cut_open, e)
        if found is not None:
            kept.append(found)
        if progress and done % 16 == 0 and not progress(done / len(numbers)):
            raise Problem("Sending out the model was cancelled; nothing was written.")
    if not kept:
        raise Problem("The cuts leave nothing of the model, so there is nothing to write.")
    return kept


def own_mesh(building: Building, element: int) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Return (n, 3) vertices and (m, 3) triangles of one element."""
    start, end = building.triangle_start[element : element + 2]
    used, corners = np.unique(building.triangles[start:end], return_inverse=True)
    return building.vertices[used], corners.reshape(-1, 3)


def _kept_element(cut_open: CutBuilding, element: int) -> KeptElement | None:
    vertices, triangles = own_mesh(cut_open.building, element)
    low, high = vertices.min(axis=0), vertices.max(axis=0)
    touching = cut_open.touching(element)
    solid = _solid(vertices, triangles)
    if not touching:
        return KeptElement(element, vertices, triangles, solid is not None)
    if solid is None:
        return _kept_surface(cut_open, element, vertices[triangles], touching)
    shift = (low + high) / 2  # near the origin, so that far-away coordinates keep their digits
    for cell in touching:
        # Nothing is trimmed any further once it is empty: manifold3d takes that for an error.
        if solid.is_empty():
            return None
        if len(cell.planes) == 1:
            plane = cell.planes[0]
            solid = solid.trim_by_plane(tuple(-plane.n), -plane.offset + float(plane.n @ shift))
        else:
            taken = manifold3d.Manifold.cube(tuple(high - low + 2 * ROOM), True)
            for plane in cell.planes:
                taken = taken.trim_by_plane(plane.normal, plane.offset - float(plane.n @ shift))
                if taken.is_empty():
                    break
            else:
                solid = solid - taken
    mesh = solid.to_mesh64()
    if not len(mesh.tri_verts):
        return None
    return KeptElement(element, np.asarray(mesh.vert_properties)[:, :3] + shift, np.asarray(mesh.tri_verts, np.int64), True)


def _solid(vertices: NDArray[np.float64], triangles: NDArray[np.int64]) -> manifold3d.Manifold | None:
    """The mesh as a solid about the middle of its bounds, or None when it is not closed."""
    shift = (vertices.min(axis=0) + vertices.max(axis=0)) / 2
    solid = manifold3d.Manifold(manifold3d.Mesh64(vertices - shift, triangles.astype(np.uint64)))
    if solid.status() != manifold3d.Error.NoError or solid.is_empty() or solid.volume() <= 0:
        return None
    return solid


def _kept_surface(
    cut_open: CutBuilding, element: int, corners: NDArray[np.float64], cells: tuple[Cell, ...]
) -> KeptElement | None:
    """Triangles (n, 3, 3) less what the cells hold, and the caps of the cut faces."""
    for cell in cells:
        corners = outside(cell, corners)[0]
    caps = [f.poche.caps for f in cut_open.faces]
    pieces = [corners, *(c.vertices[c.triangles[c.element == element]] for c in caps)]
    whole = np.concatenate(pieces)
    if not len(whole):
        return None
    vertices, triangles = np.unique(whole.reshape(-1, 3), axis=0, return_inverse=True)
    return KeptElement(element, vertices, triangles.reshape(-1, 3), False)
