"""The outlines of cast shadows, exactly: a drawing is made as the sun sees all, and what it sees is put back where it lies.

What the sun sees is parted into faces by the lines it sees; each face is of one plane, and what of that plane it covers lies in
the light. Its outline is where light ends: at an edge of the plane's own, or where a shadow begins.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.pieces import ShownBuilding
from anatome.linework.feature_lines import NOBODY, Lines, shadow_edges
from anatome.linework.hidden import seen_stretches
from anatome.linework.on_paper import OnPaper
from anatome.look.look import Look
from anatome.look.pens import LineKind
from anatome.look.shadow import GRAZED
from anatome.look.styles import Styles
from anatome.raytracing.scene import TracedScene
from anatome.scenes.scene_view import View
from anatome.site.figure_drawing import borders_of
from anatome.site.standing import Standing, bounds_with
from anatome.view.sun import seen_from_sun
from anatome.view.viewport import Frame

Array = NDArray[np.float64]

PAPER = 2000.0
"""Mm of the sun's drawing; the finer, the nearer to one another its lines may lie."""
SQUARE = Frame(width=1000.0, height=1000.0)
GRID, LEAST = 0.004, 0.01
"""Mm to which its lines are put so that they meet, and square mm under which a face says nothing."""


def outlines_of_light(
    casting: ShownBuilding,
    scene: TracedScene,
    styles: Styles,
    look: Look,
    towards: Array,
    figures: Sequence[Standing],
    progress: Callable[[float], bool],
) -> Array:
    """Return (n, 2, 3) metres, on the surfaces of a ``scene`` of what is ``casting``, round what the sun sees, which stands
    ``towards`` (3,) a unit direction; ``figures`` are people and trees as it sees them. ``progress`` is told the share done, and
    says whether to go on."""
    camera = seen_from_sun(towards, bounds_with([one.figure for one in figures], casting.bounds), 1024).camera
    on = OnPaper(View(camera, casting, look, SQUARE, paper=PAPER))
    round_figures = [one.raised(borders_of(one.drawing.outline)) for one in figures]
    ends = np.concatenate([np.empty((0, 2, 3)), *round_figures, *(shadow_edges(part, styles) for part in casting.parts)])
    lines = on.clipped(Lines(ends, np.full(len(ends), LineKind.EDGE), np.full(len(ends), NOBODY)))
    flat = on.flat(lines)
    pieces = on.pieces(flat, *seen_stretches(flat, on.hiding(), lambda share: progress(0.6 * share)))
    faces = parted(pieces, on.viewport.width, on.viewport.height, GRID, LEAST)
    if not len(faces):
        return np.empty((0, 2, 3))
    size = np.array([on.viewport.width, on.viewport.height])
    spots = shapely.get_coordinates(shapely.point_on_surface(faces))
    origins, directions = on.viewport.rays(spots / size * 2 - 1, on.depths[0])
    met, away = scene.nearest((origins - scene.centre).astype(np.float32), directions.astype(np.float32))
    normal = scene.solid.normal[met].astype(float)
    there = (met >= 0) & (np.abs(normal @ towards) > GRAZED)
    faces, place, normal = faces[there], origins[there] + directions[there] * away[there, None], normal[there]
    # The corner of the triangle that is met lies in its plane exactly; the place a ray comes to does not quite.
    foot = scene.solid.corners[met[there], 0].astype(float) + scene.centre
    place = place - normal * np.einsum("ij,ij->i", place - foot, normal)[:, None]
    rings, of_face = shapely.get_rings(faces, return_index=True)
    corners, of_ring = shapely.get_coordinates(rings, return_index=True)
    face = of_face[of_ring]
    starts, ways = on.viewport.rays(corners / size * 2 - 1, on.depths[0])
    reach = np.einsum("ij,ij->i", place[face] - starts, normal[face]) / np.einsum("ij,ij->i", ways, normal[face])
    raised = starts + ways * reach[:, None]
    same = of_ring[1:] == of_ring[:-1]
    return np.stack([raised[:-1][same], raised[1:][same]], axis=1)


def parted(pieces: Array, wide: float, high: float, grid: float, least: float) -> NDArray[np.object_]:
    """Return the faces that (m, 2, 2) lines in mm part a paper into, each of them more than ``least`` square mm."""
    border = shapely.boundary(shapely.box(0.0, 0.0, wide, high))
    lines = shapely.union_all(np.append(shapely.linestrings(pieces), border), grid_size=grid)
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(lines)))
    return np.asarray(faces[shapely.area(faces) > least])
