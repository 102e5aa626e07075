"""What a drawing of a person or a tree is made of: flat tones and strokes, one unit high, its foot at the origin."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.triangulation import triangulated

Tone = Literal["body", "crown", "wood"]
TONES: tuple[Tone, ...] = ("body", "crown", "wood")
"""What a look gives a colour to: people, leaves, and what carries them."""
Array = NDArray[np.float64]
FINEST = 0.0015
"""Share of the height under which a bend is not drawn."""


@dataclass(frozen=True, eq=False)
class FigureDrawing:
    """``areas`` with their tones, the hindmost first, and open ``strokes`` (n, 2). The borders of areas are drawn too."""

    areas: tuple[tuple[Tone, shapely.Geometry], ...]
    strokes: tuple[Array, ...] = ()

    @cached_property
    def outline(self) -> shapely.Geometry:
        """All it covers."""
        return shapely.union_all([area for _, area in self.areas])

    @cached_property
    def triangles(self) -> tuple[Array, NDArray[np.uint8]]:
        """((n, 3, 2) of all areas, (n,) the place of their tone in TONES)."""
        found, tones = [np.empty((0, 3, 2))], [np.empty(0, np.uint8)]
        for tone, area in self.areas:
            parts = shapely.get_parts(area)
            rings, polygon = shapely.get_rings(parts, return_index=True)
            points, corners, _ = triangulated(rings, polygon)
            found.append(points[corners])
            tones.append(np.full(len(corners), TONES.index(tone), np.uint8))
        return np.concatenate(found), np.concatenate(tones)

    @cached_property
    def borders(self) -> Array:
        """(s, 2, 2) the borders of areas."""
        return borders_of([area for _, area in self.areas])

    @cached_property
    def inner(self) -> Array:
        """(s, 2, 2) the strokes."""
        return _segments(self.strokes)


def borders_of(areas: shapely.Geometry | list[shapely.Geometry]) -> Array:
    """Return (s, 2, 2) the borders of areas."""
    rings = shapely.get_rings(shapely.get_parts(areas))
    return _segments([shapely.get_coordinates(ring) for ring in rings])


def _segments(lines: Sequence[Array]) -> Array:
    return np.concatenate([np.empty((0, 2, 2)), *(np.stack([line[:-1], line[1:]], axis=1) for line in lines)])


def limb(*places: tuple[float, float, float]) -> shapely.Geometry:
    """Return a tapering limb through (x, y, radius) places: the hulls of circles one after the other."""
    circles = [shapely.Point(x, y).buffer(radius, quad_segs=12) for x, y, radius in places]
    hulls = [shapely.convex_hull(shapely.union(a, b)) for a, b in zip(circles[:-1], circles[1:])]
    return shapely.union_all(hulls or circles)


def oval(x: float, y: float, across: float, upward: float) -> shapely.Geometry:
    """Return an upright ellipse by its middle and half axes."""
    turn = np.linspace(0, 2 * np.pi, 40, endpoint=False)
    return shapely.polygons(np.column_stack([x + across * np.cos(turn), y + upward * np.sin(turn)]))


def outline_through(points: Sequence[tuple[float, float]], between: int = 8) -> shapely.Geometry:
    """Return the area inside a smooth closed line through points (centripetal Catmull–Rom spline: Yuksel et al., 2011)."""
    p = np.array(points, float)
    count = len(p)
    found = []
    for i in range(count):
        a, b, c, d = (p[(i + k - 1) % count] for k in range(4))
        ta = 0.0
        tb, tc, td = np.cumsum([max(float(np.linalg.norm(v)), 1e-9) ** 0.5 for v in (b - a, c - b, d - c)])
        t = np.linspace(tb, tc, between, endpoint=False)[:, None]
        ab = (tb - t) / (tb - ta) * a + (t - ta) / (tb - ta) * b
        bc = (tc - t) / (tc - tb) * b + (t - tb) / (tc - tb) * c
        cd = (td - t) / (td - tc) * c + (t - tc) / (td - tc) * d
        abc = (tc - t) / (tc - ta) * ab + (t - ta) / (tc - ta) * bc
        bcd = (td - t) / (td - tb) * bc + (t - tb) / (td - tb) * cd
        found.append((tc - t) / (tc - tb) * abc + (t - tb) / (tc - tb) * bcd)
    return shapely.make_valid(shapely.polygons(np.concatenate(found)))


def flowing(parts: Iterable[shapely.Geometry], hollow: float = 0.008, tip: float = 0.004) -> shapely.Geometry:
    """Parts as one shape: sharp hollows filled up to a radius and sharp tips rounded off, as a pen would."""
    whole = shapely.union_all(list(parts))
    whole = shapely.buffer(shapely.buffer(whole, hollow), -hollow - tip)
    return shapely.simplify(shapely.buffer(whole, tip), FINEST / 2)
