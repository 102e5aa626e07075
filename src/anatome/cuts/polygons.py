"""From outlines to polygons with holes, element by element.

Rule for which side is filled: a loop that runs anticlockwise bounds material, a clockwise one bounds a hollow (the
non-zero winding rule for outlines with a direction). Where the faces of an element disagree about their outside the
even-odd rule is used instead. Overlapping shells of one element are united.
"""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.rings import convex_rings, nested_rings, ring_areas, simplify_rings
from anatome.cuts.slicing import Outlines


def polygons_of(outlines: Outlines, flat: NDArray[np.float64], tolerance: float) -> tuple[NDArray[np.object_], NDArray[np.int64]]:
    """Valid shapely polygons (P,) and the element (P,) each belongs to, sorted by element.

    ``flat`` (N, 2) holds the nodes of the outlines in the plane, metres.
    """
    numbers = np.flatnonzero(outlines.closed)
    counts = np.diff(outlines.first)[numbers]
    if not len(numbers):
        return np.empty(0, object), np.empty(0, np.int64)
    inside = np.repeat(outlines.closed, np.diff(outlines.first))
    points = flat[outlines.path[inside]]
    first = np.concatenate([[0], np.cumsum(counts)])
    # Points on a straight run differ from it by rounding only; a wider tolerance would shave corners off.
    points, first = simplify_rings(points, first, 0.01 * tolerance)
    areas = ring_areas(points, first)
    # A sliver thinner than the tolerance is the trace of a face the plane grazes, not a piece of material.
    real = (np.diff(first) >= 3) & (np.abs(areas) > tolerance * tolerance)
    kept = np.repeat(real, np.diff(first))
    points, areas = points[kept], areas[real]
    first = np.concatenate([[0], np.cumsum(np.diff(first)[real])]).astype(np.int64)
    element, directed = outlines.element[numbers][real], outlines.directed[numbers][real]
    if not len(element):
        return np.empty(0, object), np.empty(0, np.int64)

    # A mesh turned inside out as a whole still bounds material: what counts is the sign of the sum.
    total = np.bincount(element, weights=areas)
    areas = np.where(total[element] < 0, -areas, areas)
    even_odd = np.bincount(element, weights=~directed) > 0

    rings = shapely.linearrings(points, indices=np.repeat(np.arange(len(element)), np.diff(first)))
    polygons, owners, doubtful = [], [], []
    order, plain = _plain_rings(element, areas, even_odd[element], points, first)
    if len(order):
        outer = np.flatnonzero(areas[order] > 0)
        polygons.append(shapely.polygons(rings[order], indices=np.cumsum(areas[order] > 0) - 1))
        owners.append(element[order[outer]])
        doubtful.append(~_surely_valid(points, first, order, outer))
    solid = ~plain & ~even_odd[element] & (np.bincount(element, weights=areas <= 0) == 0)[element]
    if solid.any():
        made, of = _united(rings[solid], element[solid])
        polygons.append(made)
        owners.append(of)
        doubtful.append(np.ones(len(made), bool))
    order = np.flatnonzero(~plain & ~solid)
    order = order[np.argsort(element[order], kind="stable")]
    groups = np.split(order, np.flatnonzero(np.diff(element[order])) + 1) if len(order) else []
    for group in groups:
        e = element[group[0]]
        made = _even_odd(rings[group]) if even_odd[e] else _by_winding(rings[group], areas[group])
        polygons.append(made)
        owners.append(np.full(len(made), e))
        doubtful.append(np.ones(len(made), bool))
    all_polygons, all_owners, broken = np.concatenate(polygons), np.concatenate(owners), np.concatenate(doubtful)

    broken[broken] = ~shapely.is_valid(all_polygons[broken])
    if broken.any():
        mended = [polygon_parts(shapely.make_valid(p)) for p in all_polygons[broken]]
        all_owners = np.concatenate(
            [all_owners[~broken], np.repeat(all_owners[broken], [len(m) for m in mended]).astype(np.int64)]
        )
        all_polygons = np.concatenate([all_polygons[~broken], *mended])
    by_element = np.argsort(all_owners, kind="stable")
    return all_polygons[by_element], all_owners[by_element]


def _plain_rings(
    element: NDArray[np.int64],
    areas: NDArray[np.float64],
    even_odd: NDArray[np.bool_],
    points: NDArray[np.float64],
    first: NDArray[np.int64],
) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
    """The rings of elements that need no look at which lies in which, and the (R,) mask of them.

    These are elements with one outer ring, which all their holes must lie in, and elements with outer rings only whose
    boxes do not meet. The rings come element by element, every outer ring before its holes.
    """
    outer = np.bincount(element, weights=areas > 0)
    holes = np.bincount(element, weights=areas <= 0)
    apart = (holes == 0) & (outer > 1)
    if apart.any():
        low, high = np.minimum.reduceat(points, first[:-1], axis=0), np.maximum.reduceat(points, first[:-1], axis=0)
        several = np.flatnonzero(apart[element])
        several = several[np.argsort(element[several], kind="stable")]
        for group in np.split(several, np.flatnonzero(np.diff(element[several])) + 1):
            if _any_boxes_meet(np.hstack([low[group], high[group]])):
                apart[element[group[0]]] = False
    plain = ((outer == 1) | apart)[element] & ~even_odd
    order = np.flatnonzero(plain)
    return order[np.lexsort((areas[order] <= 0, element[order]))], plain


def _surely_valid(
    points: NDArray[np.float64], first: NDArray[np.int64], order: NDArray[np.int64], outer: NDArray[np.int64]
) -> NDArray[np.bool_]:
    """(P,) True for polygons that cannot cross themselves: a convex ring, alone or round one convex hole.

    ``order`` (n,) numbers the rings, polygon by polygon; ``outer`` (P,) are the places of outer rings in it.
    """
    convex = convex_rings(points, first)
    holes = np.diff(np.append(outer, len(order))) - 1
    sure = convex[order[outer]] & (holes == 0)
    one = np.flatnonzero(convex[order[outer]] & (holes == 1))
    inner = order[outer[one] + 1]
    sure[one] = convex[inner] & nested_rings(points, first, order[outer[one]], inner)
    return np.asarray(sure)


def polygon_parts(geometry: shapely.Geometry) -> NDArray[np.object_]:
    """Return the polygons (P,) within any geometry; points and lines in it are left out."""
    parts = shapely.get_parts(shapely.get_parts(geometry))
    return np.asarray(parts[(shapely.get_type_id(parts) == 3) & ~shapely.is_empty(parts)], dtype=object)


def _united(rings: NDArray[np.object_], element: NDArray[np.int64]) -> tuple[NDArray[np.object_], NDArray[np.int64]]:
    """The union of the outer rings (R,) of each element, for elements without holes; polygons and (P,) their elements.

    All at once: a row for each element, filled up with nothing.
    """
    shells = shapely.polygons(rings)
    broken = ~shapely.is_valid(shells)
    if broken.any():
        shells[broken] = shapely.make_valid(shells[broken])
    order = np.argsort(element, kind="stable")
    names, start, count = np.unique(element[order], return_index=True, return_counts=True)
    table = np.full((len(names), int(count.max())), None, object)
    row = np.repeat(np.arange(len(names)), count)
    table[row, np.arange(len(row)) - np.repeat(start, count)] = shells[order]
    parts, origin = shapely.get_parts(shapely.union_all(table, axis=1), return_index=True)
    # Mending may leave collections, which come apart once more; lines and points in them are no material.
    inner, within = shapely.get_parts(parts, return_index=True)
    flat = (shapely.get_type_id(inner) == 3) & ~shapely.is_empty(inner)
    return inner[flat], names[origin[within[flat]]]


def _by_winding(rings: NDArray[np.object_], areas: NDArray[np.float64]) -> NDArray[np.object_]:
    """Give every clockwise ring as a hole to the smallest anticlockwise ring around it.

    Where anticlockwise rings may overlap, a hole in one of them need not be one in the other, so there it is counted.
    """
    if _any_boxes_meet(shapely.bounds(rings[areas > 0])):
        return _by_count(rings, areas)
    outer = np.flatnonzero(areas > 0)
    outer = outer[np.argsort(areas[outer], kind="stable")]
    shells = shapely.polygons(rings[outer])
    holes: list[list[shapely.Geometry]] = [[] for _ in outer]
    boxes = shapely.bounds(shells)
    for hole in np.flatnonzero(areas < 0):
        box = shapely.bounds(rings[hole])
        around = np.flatnonzero(
            (boxes[:, 0] <= box[0])
            & (boxes[:, 1] <= box[1])
            & (boxes[:, 2] >= box[2])
            & (boxes[:, 3] >= box[3])
            & (areas[outer] >= -areas[hole])
        )
        if len(around) > 1:
            probe = shapely.point_on_surface(shapely.polygons(rings[hole]))
            around = around[shapely.contains(shells[around], probe)]
        if len(around):
            holes[around[0]].append(rings[hole])
    return np.array([shapely.polygons(rings[o], holes=h) if h else shell for o, h, shell in zip(outer, holes, shells)], object)


def _by_count(rings: NDArray[np.object_], areas: NDArray[np.float64]) -> NDArray[np.object_]:
    """Fill where more anticlockwise rings lie around a point than clockwise ones: the winding number, face by face.

    All rings together divide the plane into faces; one point of each tells for the whole of it.
    """
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(shapely.union_all(rings))))
    if not len(faces):
        return np.empty(0, object)
    x, y = shapely.get_coordinates(shapely.point_on_surface(faces)).T
    winding = np.zeros(len(faces), np.int64)
    shapes = shapely.polygons(rings)
    shapely.prepare(shapes)
    for shape, area in zip(shapes, areas):
        winding += np.where(shapely.contains_xy(shape, x, y), 1 if area > 0 else -1, 0)
    return polygon_parts(shapely.union_all(faces[winding > 0]))


def _even_odd(rings: NDArray[np.object_]) -> NDArray[np.object_]:
    """Fill points inside an odd number of rings."""
    shapes = shapely.make_valid(shapely.polygons(rings))
    filled = shapes[0]
    for shape in shapes[1:]:
        filled = shapely.symmetric_difference(filled, shape)
    return polygon_parts(filled)


def _any_boxes_meet(boxes: NDArray[np.float64]) -> bool:
    low, high = boxes[:, :2], boxes[:, 2:]
    meet = (low[:, None] <= high[None]).all(axis=2) & (low[None] <= high[:, None]).all(axis=2)
    return bool(np.count_nonzero(meet) > len(boxes))
