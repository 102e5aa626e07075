"""Setting anchors: what a pointer means to a note, on cut faces the edge a corner goes along when the cut moves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut
from anatome.cuts.dissection import CutBuilding, CutFace
from anatome.cuts.plane import Vector, vector
from anatome.model.building import Building, Space
from anatome.model.raycast import Hit
from anatome.notes.anchors import Anchor, anchored, face_plane, place_of
from anatome.view.snap_points import snap_point
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Spot:
    """An anchor under the pointer, what it is ("corner", "cut corner", "middle", "edge" or "surface"), and (3,) the normal of the
    face it was found on."""

    anchor: Anchor
    what: str
    normal: Array

    @property
    def place(self) -> Array:
        """(3,) metres."""
        return np.array(self.anchor.place)

    @property
    def sure(self) -> bool:
        """Whether it is a point of its own, and not just anywhere on a face."""
        return self.what in ("corner", "cut corner", "middle")


def spot_under(
    left: CutBuilding, found: tuple[Hit, CutFace | None] | None, viewport: Viewport, at: tuple[float, float], within: float
) -> Spot | None:
    """Return what a pointer means: corners of cut faces, wherever they are near, go before what lies under it. None over
    nothing."""
    building = left.building
    corner = _cut_corner(left, viewport, np.array(at), within)
    if corner is not None:
        place, face, element = corner
        return Spot(on_face(building, face, place, element), "cut corner", face.plane.n)
    if found is None:
        return None
    hit, own = found
    snapped = snap_point(left, hit, own, viewport, at, within)
    if own is not None:
        return Spot(on_face(building, own, snapped.place, hit.element), snapped.what, own.plane.n)
    name = building.elements[hit.element].id
    return Spot(anchored(building, snapped.place, name), snapped.what, np.array(hit.normal))


def on_face(building: Building, face: CutFace, place: Array, element: int) -> Anchor:
    """Return an anchor in a cut face, which goes along the edge of the part that the cut meets there."""
    along = edge_through(building, element, place, face.plane.n)
    name = building.elements[element].id
    return anchored(
        building, place, name, cut=face.cut.id, face=face.name, along=vector(face.plane.n if along is None else along)
    )


def edge_through(building: Building, element: int, place: Array, normal: Array) -> Array | None:
    """Return (3,) unit direction of the edge of a part through a place, that leads out of a plane with a normal; None where
    there is none."""
    edges = building.feature_edges
    numbers = edges.clusters.triangles_in(edges.clusters.element == element)
    ends = building.vertices[edges.ends[numbers]]
    if not len(ends):
        return None
    arm = ends[:, 1] - ends[:, 0]
    size = np.einsum("ij,ij->i", arm, arm)
    share = (np.einsum("ij,ij->i", place - ends[:, 0], arm) / np.maximum(size, 1e-18)).clip(0, 1)
    away = np.linalg.norm(ends[:, 0] + share[:, None] * arm - place, axis=1)
    slope = np.abs(arm @ normal) / np.sqrt(np.maximum(size, 1e-18))
    near = (away < max(20 * building.tolerance, 1e-5)) & (slope > 0.05)
    if not near.any():
        return None
    best = int(np.flatnonzero(near)[np.argmax(slope[near])])
    return np.asarray(arm[best] / np.sqrt(size[best]))


def face_normal(building: Building, anchor: Anchor, cuts: Sequence[AnyCut]) -> Vector | None:
    """Return the normal of the face an anchor lies in: of its cut, else of the nearest triangle of its part; None in the
    air."""
    plane = face_plane(anchor, cuts)
    if plane is not None:
        return plane.normal
    number = building.index_of.get(anchor.on)
    place = place_of(anchor, building, cuts)
    if number is None or place is None:
        return None
    start, end = building.triangle_start[number : number + 2]
    corners, normals = building.vertices[building.triangles[start:end]], building.normals[start:end]
    off = np.abs(np.einsum("ij,ij->i", place - corners[:, 0], normals))
    off += np.linalg.norm(np.maximum(np.maximum(corners.min(axis=1) - place, place - corners.max(axis=1)), 0), axis=1)
    off[np.linalg.norm(normals, axis=1) < 0.5] = np.inf
    return vector(normals[int(np.argmin(off))])


def _cut_corner(left: CutBuilding, viewport: Viewport, at: Array, within: float) -> tuple[Array, CutFace, int] | None:
    """The corner of a cut face the eye sees from before, that lies nearest to a place in pixels."""
    best: tuple[float, Array, CutFace, int] | None = None
    for face in left.faces:
        if not len(face.section.polygons) or not viewport.faces(face.plane):
            continue
        points, number = shapely.get_coordinates(face.section.polygons, return_index=True)
        places = face.plane.raised(points)
        away = np.linalg.norm(viewport.pixels(places) - at, axis=1)
        if not np.isfinite(away).any():
            continue
        nearest = int(np.nanargmin(away))
        if away[nearest] <= within and (best is None or away[nearest] < best[0]):
            best = float(away[nearest]), places[nearest], face, int(face.section.element[number[nearest]])
    return None if best is None else best[1:]


def space_at(building: Building, place: Array) -> Space | None:
    """Return the smallest space that holds (3,) a place."""
    held = [s for s in building.spaces if (place >= np.array(s.lower) - 0.05).all() and (place <= np.array(s.upper) + 0.05).all()]
    return min(held, key=lambda s: float(np.prod(np.subtract(s.upper, s.lower))), default=None)
