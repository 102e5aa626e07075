"""What hides lines: triangles as they lie in the picture, binned over a grid."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.compiled import INTEGERS, REAL_ROWS, REALS, compiled
from anatome.cuts.moves import STAYS, places_through
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.surface import kept_surface, split
from anatome.look.styles import Styles
from anatome.model.building import CLEAR_BELOW
from anatome.site.figure_drawing import TONES
from anatome.site.standing import Standing
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]

FAT = 1e-9
"""By how much of half the picture's size triangles are wider than they are, so that nothing shows between neighbours."""
CELLS = 0.8
"""Cells of the grid on a side, for the root of the number of triangles."""
FEWEST, MOST = 24, 1024


def hiding_corners(opened: ShownBuilding, styles: Styles, standing: tuple[Standing, ...]) -> Array:
    """Return (n, 3, 3) metres of the triangles that hide what is behind them, where they are shown: what is solid, the fill of
    what is cut, people and the wood of trees."""
    building = opened.cut_open.building
    found = [np.empty((0, 3, 3))]
    for part in opened.parts:
        corners, of = kept_surface(part.cut_open)
        element = building.element_of_triangle[of]
        clear = (building.styles[building.triangle_style[of], 3] < CLEAR_BELOW) | styles.clear[element]
        caps = [f.poche.caps for f in part.cut_open.faces if f.cut.poche or not f.free]
        own = np.concatenate([corners[~clear], *(c.vertices[c.triangles] for c in caps)])
        found.append(own if part.move == STAYS else places_through(np.array(part.move), own))
    for figure in standing:
        triangles, tone = figure.drawing.triangles
        found.append(figure.raised(triangles[tone != TONES.index("crown")]))
    return np.concatenate(found)


@dataclass(frozen=True, eq=False)
class Occluders:
    """``corners`` (n, 3, 3) in the picture. ``sides`` (n, 9): three times A, B, C with A x + B y + C at least 0 inside;
    ``plane`` (n, 3): their z is P x + Q y + R; ``nearest`` (n,) the least z, in whose order they stand. ``start`` (cells + 1,)
    and ``members`` list them by cells of a grid of ``size`` on a side over the picture; in each the nearest come first."""

    corners: Array
    sides: Array
    plane: Array
    nearest: Array
    size: int
    start: Numbers
    members: Numbers


def in_picture(viewport: Viewport, points: Array, depths: tuple[float, float], nearer: float = 0.0) -> Array:
    """Return (..., 3) places −1..1 across and up the picture, and z that grows with depth and is even along lines; ``nearer``
    by so many metres of depth."""
    matrix = viewport.clip_matrix(*depths)
    a, _ = viewport.clip_depth(*depths)
    rows = points @ matrix[:, :3].T + matrix[:, 3]
    slope = viewport.divisor[1]
    found = rows[..., :3] / rows[..., 3:]
    # z if depth were less, at the same place of the picture.
    found[..., 2] = (rows[..., 2] - a * nearer) / (rows[..., 3] - slope * nearer)
    return np.asarray(found)


def occluders(viewport: Viewport, corners: Array, depths: tuple[float, float]) -> Occluders:
    """Triangles (n, 3, 3) in metres as they lie in the picture, those outside it left out."""
    axis = viewport.matrix[2]
    if viewport.divisor[1]:  # what lies beside or behind the eye has no place in the picture
        corners = split(corners, axis[:3], depths[0] - axis[3])[0][0]
    flat = in_picture(viewport, corners, depths)
    low, high = flat.min(axis=1), flat.max(axis=1)
    first, second = flat[:, 1, :2] - flat[:, 0, :2], flat[:, 2, :2] - flat[:, 0, :2]
    area = first[:, 0] * second[:, 1] - first[:, 1] * second[:, 0]
    seen = (low[:, :2] < 1).all(axis=1) & (high[:, :2] > -1).all(axis=1) & (np.abs(area) > 1e-14)
    flat, area = flat[seen], area[seen]
    flat = np.where(area[:, None, None] < 0, flat[:, ::-1], flat)
    order = np.argsort(flat[..., 2].min(axis=1), kind="stable")
    flat = flat[order]
    sides = np.empty((len(flat), 9))
    for i in range(3):
        p, q = flat[:, i], flat[:, (i + 1) % 3]
        arm = q[:, :2] - p[:, :2]
        arm = arm / np.maximum(np.linalg.norm(arm, axis=1, keepdims=True), 1e-300)
        sides[:, 3 * i], sides[:, 3 * i + 1] = -arm[:, 1], arm[:, 0]
        sides[:, 3 * i + 2] = arm[:, 1] * p[:, 0] - arm[:, 0] * p[:, 1] + FAT
    normal = np.cross(flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0])
    plane = np.empty((len(flat), 3))
    plane[:, 0], plane[:, 1] = -normal[:, 0] / normal[:, 2], -normal[:, 1] / normal[:, 2]
    plane[:, 2] = flat[:, 0, 2] - plane[:, 0] * flat[:, 0, 0] - plane[:, 1] * flat[:, 0, 1]
    size = int(np.clip(CELLS * np.sqrt(len(flat)), FEWEST, MOST))
    boxes = np.concatenate([flat.min(axis=1)[:, :2], flat.max(axis=1)[:, :2]], axis=1)
    nearest, farthest = flat[..., 2].min(axis=1), flat[..., 2].max(axis=1)
    start, members = _binned(boxes, sides, plane, nearest, farthest, np.array([size]))
    return Occluders(flat, sides, plane, nearest, size, start, members)


@compiled(REAL_ROWS, REAL_ROWS, REAL_ROWS, REALS, REALS, INTEGERS)
def _binned(boxes: Array, sides: Array, plane: Array, nearest: Array, farthest: Array, sizes: Numbers) -> tuple[Numbers, Numbers]:
    """The triangles of every cell, those left out that lie behind one that covers all of it."""
    size = sizes[0]
    cell = 2.0 / size
    covered = np.full(size * size, np.inf)
    count = np.zeros(size * size + 1, np.int64)
    members = np.empty(0, np.int64)
    for turn in range(2):
        if turn == 1:
            for k in range(size * size):
                count[k + 1] += count[k]
            members = np.empty(count[size * size], np.int64)
            covered[:] = np.inf
        filled = np.zeros(size * size, np.int64)
        for t in range(len(boxes)):
            left, right = max(int((boxes[t, 0] + 1) / cell), 0), min(int((boxes[t, 2] + 1) / cell), size - 1)
            low, high = max(int((boxes[t, 1] + 1) / cell), 0), min(int((boxes[t, 3] + 1) / cell), size - 1)
            for j in range(low, high + 1):
                for i in range(left, right + 1):
                    k = j * size + i
                    if nearest[t] > covered[k]:
                        continue
                    x0, y0 = i * cell - 1, j * cell - 1
                    touches, covers = True, True
                    for s in range(3):
                        a, b, c = sides[t, 3 * s], sides[t, 3 * s + 1], sides[t, 3 * s + 2]
                        most = a * (x0 + cell if a > 0 else x0) + b * (y0 + cell if b > 0 else y0) + c
                        least = a * (x0 if a > 0 else x0 + cell) + b * (y0 if b > 0 else y0 + cell) + c
                        touches = touches and most >= 0
                        covers = covers and least >= 0
                    if not touches:
                        continue
                    if turn == 0:
                        count[k + 1] += 1
                    else:
                        members[count[k] + filled[k]] = t
                        filled[k] += 1
                    if covers:
                        p, q, r = plane[t, 0], plane[t, 1], plane[t, 2]
                        deepest = p * (x0 + cell if p > 0 else x0) + q * (y0 + cell if q > 0 else y0) + r
                        covered[k] = min(covered[k], deepest)
    return count, members
