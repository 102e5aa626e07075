"""Points of the building that a pointer means: corners, middles and edges of the part under it, and corners of cut faces."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.dissection import CutBuilding, CutFace
from anatome.model.raycast import Hit
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]

HALVINGS = 45
"""After which the end of a cut edge is known to less than a nanometre."""


@dataclass(frozen=True, eq=False)
class SnapPoint:
    """A ``place`` (3,) in metres, and what it is: "corner", "middle", "edge", or "surface" where nothing is near."""

    place: Array
    what: str


def snap_point(
    left: CutBuilding, hit: Hit, face: CutFace | None, viewport: Viewport, at: tuple[float, float], within: float
) -> SnapPoint:
    """Return what a pointer means that met ``hit``: within so many pixels a corner goes before a middle, and that before an
    edge."""
    segments = _edges(left, hit, face)
    pointer = np.array(at)
    if len(segments):
        flat = viewport.pixels(segments)
        seen = np.isfinite(flat).all(axis=(1, 2))
        segments, flat = segments[seen], flat[seen]
    if len(segments):
        corners, places = flat.reshape(-1, 2), segments.reshape(-1, 3)
        for what, points, spots in (("corner", corners, places), ("middle", None, segments.mean(axis=1))):
            away = np.linalg.norm((viewport.pixels(spots) if points is None else points) - pointer, axis=1)
            if away.min() <= within:
                return SnapPoint(spots[int(np.argmin(away))], what)
        arm = flat[:, 1] - flat[:, 0]
        share = np.einsum("ij,ij->i", pointer - flat[:, 0], arm) / np.maximum(np.einsum("ij,ij->i", arm, arm), 1e-12)
        share = share.clip(0.0, 1.0)
        away = np.linalg.norm(flat[:, 0] + share[:, None] * arm - pointer, axis=1)
        best = int(np.argmin(away))
        if away[best] <= within / 2:
            return SnapPoint(_on_line(segments[best], *viewport.ray(*at)), "edge")
    return SnapPoint(np.array(hit.point), "surface")


def _edges(left: CutBuilding, hit: Hit, face: CutFace | None) -> Array:
    """(n, 2, 3) the sharp edges of a part as far as they are left, and the outlines of its cut faces; of one face only those."""
    building, made = left.building, []
    for own in left.faces if face is None else (face,):
        polygons = own.section.polygons[own.section.element == hit.element]
        rings = [shapely.get_coordinates(r) for polygon in polygons for r in (polygon.exterior, *polygon.interiors)]
        made += [own.plane.raised(np.stack([ring[:-1], ring[1:]], axis=1)) for ring in rings]
    if face is None:
        edges = building.feature_edges
        numbers = edges.clusters.triangles_in(edges.clusters.element == hit.element)
        numbers = numbers[edges.sharp[numbers]]
        made.append(_trimmed(left, building.vertices[edges.ends[numbers]], hit.element))
    return np.concatenate(made) if made else np.empty((0, 2, 3))


def _trimmed(left: CutBuilding, segments: Array, element: int) -> Array:
    """Segments (n, 2, 3) of an element without what is cut away of them at one end, found by halving."""

    def gone(points: Array) -> NDArray[np.bool_]:
        return left.removed(points.reshape(-1, 3), np.full(points.size // 3, element)).reshape(points.shape[:-1])

    ends = gone(segments)
    whole, crossed = segments[~ends.any(axis=1)], segments[ends.sum(axis=1) == 1]
    if not len(crossed):
        return whole
    first = ends[ends.sum(axis=1) == 1][:, 0]
    kept = np.where(first[:, None], crossed[:, 1], crossed[:, 0])
    inner, outer = kept.copy(), np.where(first[:, None], crossed[:, 0], crossed[:, 1])
    for _ in range(HALVINGS):
        middle = (inner + outer) / 2
        out = gone(middle)[:, None]
        inner, outer = np.where(out, inner, middle), np.where(out, middle, outer)
    return np.concatenate([whole, np.stack([kept, inner], axis=1)])


def _on_line(segment: Array, origin: Array, direction: Array) -> Array:
    """(3,) the place on a segment (2, 3) that comes nearest to a line of sight."""
    along = segment[1] - segment[0]
    b, d, e = along @ direction, along @ (segment[0] - origin), direction @ (segment[0] - origin)
    length = float(along @ along)
    denominator = length - b * b
    share = (b * e - d) / denominator if abs(denominator) > 1e-12 else 0.0
    return np.asarray(segment[0] + min(max(float(share), 0.0), 1.0) * along)


def face_area(left: CutBuilding, hit: Hit, face: CutFace | None) -> float:
    """Square metres of the flat face of a part, or of the cut face, that was met; of the part as it is, uncut."""
    if face is not None:
        return float(shapely.area(face.section.polygons[face.section.element == hit.element]).sum())
    building = left.building
    start, end = building.triangle_start[hit.element : hit.element + 2]
    corners = building.vertices[building.triangles[start:end]]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    areas = np.linalg.norm(normals, axis=1)
    normal, point = np.array(hit.normal), np.array(hit.point)
    flat = np.abs((corners - point) @ normal).max(axis=1) < max(1e-6 * building.size, 1e-4)
    along = np.abs(normals @ normal) > (1 - 1e-6) * np.maximum(areas, 1e-300)
    return float(areas[flat & along].sum() / 2)


def angle_between(a: Array, b: Array, c: Array) -> float:
    """Degrees at ``b`` (3,) between the ways to ``a`` and to ``c``."""
    first, second = a - b, c - b
    size = float(np.linalg.norm(first) * np.linalg.norm(second))
    return float(np.degrees(np.arccos(np.clip(first @ second / size, -1.0, 1.0)))) if size > 0 else 0.0
