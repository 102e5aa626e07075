"""The lines of what is shown, in space: edges of the building in a view, and the outlines of what is cut."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import reduce

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.contours import GRID
from anatome.cuts.dissection import CutFace
from anatome.cuts.flat_view import at_seams
from anatome.cuts.kept_lines import kept_crossings, lines_outside
from anatome.cuts.moves import STAYS, places_through
from anatome.cuts.pieces import Placed, ShownBuilding
from anatome.linework.one_plane import left_of_stretches, shared_stretches
from anatome.look.look import Look
from anatome.look.pens import LineKind
from anatome.look.styles import Styles
from anatome.model.building import Building
from anatome.model.edges import CREASE_ANGLE, FLAT_ANGLE
from anatome.view.viewport import Viewport

Segments = NDArray[np.float64]
Numbers = NDArray[np.int64]

ONE_PLANE = 1 - 5e-9
"""Cosine between the normals of faces from which on they lie in one plane: a ten-thousandth of a radian."""
NOBODY = -1
"""The element of lines that belong to none alone."""


@dataclass(frozen=True, eq=False)
class Lines:
    """``ends`` (n, 2, 3) metres, where it is shown; ``kind`` (n,) as LineKind has them, and ``element`` (n,)."""

    ends: Segments
    kind: Numbers
    element: Numbers

    def some(self, chosen: NDArray[np.bool_] | Numbers) -> Lines:
        """Return those of a mask or by their numbers."""
        return Lines(self.ends[chosen], self.kind[chosen], self.element[chosen])


def feature_lines(
    opened: ShownBuilding, look: Look, styles: Styles, viewport: Viewport, beyond: bool = True, owned: bool = False
) -> Lines:
    """Return all lines a picture of what is opened draws, hidden or not; with what lies ``beyond`` the cut or only what is
    cut. If they are to be ``owned``, lines round what is cut have the element they lie round too."""
    found = []
    for part in opened.parts:
        edges = _edges(part, look, styles, viewport) if beyond else None
        own = [lines for lines in (edges, _outlines(part, look, viewport, owned)) if lines is not None]
        found += [_shown(lines, part) for lines in own]
    for part in opened.ghosts if beyond else ():
        lines = _shown(_edges(part, look, styles, viewport), part)
        found.append(replace(lines, kind=np.full(len(lines.kind), LineKind.GHOST)))
    travel = opened.lines if beyond else opened.lines[:0]
    return reduce(both, found, Lines(travel, np.full(len(travel), LineKind.TRAVEL), np.full(len(travel), NOBODY)))


def _shown(lines: Lines, part: Placed) -> Lines:
    """Lines of a part where it is shown."""
    return lines if part.move == STAYS else replace(lines, ends=places_through(np.array(part.move), lines.ends))


def _outlines(part: Placed, look: Look, viewport: Viewport, owned: bool = False) -> Lines:
    """Round what is cut and between its parts, at home. Of faces that turn away only what lies round them: where a surface ends
    at a cut, it has an edge, from behind too."""
    ends, kinds = [np.empty((0, 2, 3))], [np.empty(0, np.int64)]
    owners = [np.empty(0, np.int64)]
    at_home = viewport.at_home_of(part.move if part.move != STAYS else None)
    for face in part.cut_open.faces:
        if not face.outlined:
            continue
        lines = face.contours
        normal = face.cut.flat_normal
        flat = normal is not None and at_home.is_flat_on(normal)
        thin = lines.thin if look.earth_fades or look.earth_to_frame else np.concatenate([lines.thin, lines.ends])
        if not (face.free or at_home.faces(face.plane)):
            thin = thin[:0]
        for kind, segments in ((LineKind.BETWEEN, thin), (LineKind.ROUND, lines.heavy)):
            if flat:  # it reads as one plane
                segments = segments[~at_seams(face, segments)]
            ends.append(segments)
            kinds.append(np.full(len(segments), kind))
            owners.append(_owners(face, segments) if owned else np.full(len(segments), NOBODY))
    return Lines(np.concatenate(ends), np.concatenate(kinds), np.concatenate(owners))


def _owners(face: CutFace, segments: Segments) -> Numbers:
    """(n,) the element whose area each line (n, 2, 3) lies round; of several what is built before what lies round it, and the
    smaller before the larger: as hands draw round a wall, not round the air beside it."""
    owners = np.full(len(segments), NOBODY)
    polygons, element = face.poche.polygons, face.poche.element
    if not len(segments) or not len(polygons):
        return owners
    middles = shapely.points(face.plane.flat(segments.mean(axis=1)))
    tree = shapely.STRtree(shapely.boundary(polygons))
    line, polygon = tree.query(middles, predicate="dwithin", distance=4 * GRID)
    rank = np.lexsort((shapely.area(polygons)[polygon], face.building.context[element[polygon]], line))
    first = rank[np.concatenate([[True], np.diff(line[rank]) > 0])] if len(rank) else rank
    owners[line[first]] = element[polygon[first]]
    left = owners == NOBODY
    if left.any():
        which, nearest = shapely.STRtree(polygons).query_nearest(middles[left], all_matches=False)
        owners[np.flatnonzero(left)[which]] = element[nearest]
    return owners


def _edges(part: Placed, look: Look, styles: Styles, viewport: Viewport) -> Lines:
    """Edges at home, less what cuts take away."""
    cut_open = part.cut_open
    building = cut_open.building
    edges = _edges_of(building, cut_open.shown & styles.lined)
    eye = viewport.at_home_of(part.move if part.move != STAYS else None).eye
    arm = eye[:3] - eye[3] * edges.ends.mean(axis=1)
    turns = np.einsum("ij,ij->i", edges.normals[:, 0], arm) * np.einsum("ij,ij->i", edges.normals[:, 1], arm) <= 0
    kept = edges.sharp | (edges.smooth & turns)
    found = Lines(edges.ends[kept], np.where(edges.sharp, LineKind.EDGE, LineKind.SILHOUETTE)[kept], edges.element[kept])
    lines, of = left_of_cuts(part, found)
    if look.join_planes:  # of what cuts leave: a part that is taken away leaves a line
        beside = np.flatnonzero(kept)[of]
        normals = edges.normals[beside]
        inwards = np.cross(normals, edges.ways[beside])
        inwards /= np.maximum(np.linalg.norm(inwards, axis=2, keepdims=True), 1e-300)
        of, stretch = shared_stretches(lines.ends, lines.element, normals, inwards, building)
        of, rest = left_of_stretches(len(lines.ends), of, stretch)
        arm = lines.ends[of, 1] - lines.ends[of, 0]
        lines = replace(lines.some(of), ends=lines.ends[of, :1] + arm[:, None] * rest[:, :, None])
    crossing, element = kept_crossings(cut_open, styles.lined)
    return both(lines, Lines(crossing, np.full(len(crossing), LineKind.EDGE), element))


def left_of_cuts(part: Placed, lines: Lines) -> tuple[Lines, Numbers]:
    """Return (what cuts leave of lines of elements, at home, (m,) which of them each is part of)."""
    of = np.arange(len(lines.ends))
    for number, cell in enumerate(part.cut_open.cells):
        acts = part.cut_open.acting[lines.element, number]
        left, cut = lines_outside(cell, lines.ends[acts])
        cut = np.flatnonzero(acts)[cut]
        lines = both(lines.some(~acts), replace(lines.some(cut), ends=left))
        of = np.concatenate([of[~acts], of[cut]])
    return lines, of


def shadow_edges(part: Placed, styles: Styles) -> Segments:
    """Return (n, 2, 3) metres, where it is shown: every line in which two faces of what is solid meet, however flat they lie,
    and the outlines of all that is cut. What the sun sees of a part is bounded by them."""
    cut_open = part.cut_open
    building = cut_open.building
    edges = _edges_of(building, cut_open.shown & ~styles.clear)
    kept = edges.sharp | edges.bent
    lines, _ = left_of_cuts(part, Lines(edges.ends[kept], np.full(int(kept.sum()), LineKind.EDGE), edges.element[kept]))
    outlines = [part for face in cut_open.faces for part in (face.contours.heavy, face.contours.thin, face.contours.ends)]
    crossing, _ = kept_crossings(cut_open, ~styles.clear)
    ends = np.concatenate([lines.ends, crossing, *outlines])
    return ends if part.move == STAYS else places_through(np.array(part.move), ends)


def both(first: Lines, second: Lines) -> Lines:
    """Return all lines of two."""
    return Lines(
        np.concatenate([first.ends, second.ends]),
        np.concatenate([first.kind, second.kind]),
        np.concatenate([first.element, second.element]),
    )


@dataclass(frozen=True, eq=False)
class _Edges:
    """``ends`` (n, 2, 3); of two faces beside each, ``normals`` (n, 2, 3) and the ``ways`` (n, 2, 3) they run along it; whether
    it is ``sharp`` (n,), or just ``smooth`` (n,), or its faces are ``bent`` (n,) at all and do not lie in one plane; its
    ``element`` (n,)."""

    ends: Segments
    normals: Segments
    ways: Segments
    sharp: NDArray[np.bool_]
    smooth: NDArray[np.bool_]
    bent: NDArray[np.bool_]
    element: Numbers


def _edges_of(building: Building, wanted: NDArray[np.bool_]) -> _Edges:
    """All edges of some elements. The normals are in double precision, so that silhouettes lie where they are."""
    of = wanted[building.element_of_triangle]
    triangles = building.triangles[of]
    corners = building.vertices[triangles]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.linalg.norm(normal, axis=1, keepdims=True)
    normal = np.divide(normal, length, out=np.zeros_like(normal), where=length > 0)
    pairs = triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    face = np.repeat(np.arange(len(triangles)), 3)
    key = pairs.min(axis=1) * np.int64(len(building.vertices)) + pairs.max(axis=1)
    order = np.argsort(key, kind="stable")
    key, face, pairs = key[order], face[order], pairs[order]
    first = np.flatnonzero(np.concatenate([[True], key[1:] != key[:-1]])) if len(key) else np.empty(0, np.int64)
    count = np.diff(np.append(first, len(key)))
    second = np.minimum(first + 1, max(len(face) - 1, 0))
    beside = np.stack([normal[face[first]], normal[face[second]]], axis=1)
    ends, others = building.vertices[pairs[first]], building.vertices[pairs[second]]
    cosine = np.einsum("ij,ij->i", beside[:, 0], beside[:, 1])
    sharp = (count != 2) | (cosine < np.cos(np.radians(CREASE_ANGLE)))
    smooth = ~sharp & (cosine < np.cos(np.radians(FLAT_ANGLE)))
    element = building.element_of_triangle[of][face[first]]
    ways = np.stack([ends[:, 1] - ends[:, 0], others[:, 1] - others[:, 0]], axis=1)
    return _Edges(ends, beside, ways, sharp, smooth, cosine < ONE_PLANE, element)
