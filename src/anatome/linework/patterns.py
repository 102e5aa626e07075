"""Hatches as patterns on paper."""

from __future__ import annotations

import math

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.linework.drawing import PatternLines
from anatome.look.hatch_lines import hatch_rows, level_on_paper
from anatome.look.hatches import Hatch

Array = NDArray[np.float64]
TRUE = 1e-6
"""By how much, of their length, the axes of a plane may differ on paper for it to be seen true."""


def seen_true(corners: Array) -> bool:
    """Return whether a plane is seen true whose 0,0 and 1,0 and 0,1 and 1,1 lie at (4, 2) mm: at right angles, in one scale all
    over."""
    u, v = corners[1] - corners[0], corners[2] - corners[0]
    size = float(np.hypot(*u))
    if not np.isfinite(corners).all() or size <= 0:
        return False
    square = abs(float(u @ v)) < TRUE * size**2 and abs(float(np.hypot(*v)) - size) < TRUE * size
    return square and float(np.abs(corners[3] - corners[1] - v).max()) < TRUE * size


def pattern_on_paper(
    hatch: Hatch, polygon: shapely.Geometry, unit: float, base: Array, corners: Array | None = None, millimetre: float = 1.0
) -> tuple[PatternLines, ...]:
    """Return the pattern of an area in a plane that is seen true, whose 0,0 and 1,0 and 0,1 lie at ``corners`` mm; without them
    the area is on paper already. ``unit`` is one unit of the hatch in the area's measure, ``millimetre`` one on paper."""
    start = np.zeros(2) if corners is None else corners[0]
    axes = np.eye(2) if corners is None else np.stack([corners[1] - corners[0], corners[2] - corners[0]])
    scale = float(np.hypot(*axes[0]))
    found = []
    level = 0.0 if corners is None else level_on_paper(corners)
    for at, along, step, dashes in hatch_rows(hatch, polygon, unit, base, level, millimetre):
        x, y = (start + at @ axes).tolist()
        way, (dx, dy) = along @ axes, (step @ axes).tolist()
        own = None if dashes is None else tuple(d * scale for d in dashes)
        found.append(PatternLines((x, y), math.degrees(math.atan2(way[1], way[0])), (dx, dy), own))
    return tuple(found)
