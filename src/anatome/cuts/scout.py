"""Scout: what every position along a cut's axis would slice, without cutting at each of them.

The area of a section of a closed mesh follows from its triangles one by one: each contributes half the cross product
of the ends of its segment (Green's theorem), whatever the order. So the areas at all positions are sums over crossed
triangles, done for the whole strip at once. Elements for which that does not hold, because they are not closed or
consist of bodies that overlap, are really cut.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.plane import Plane
from anatome.cuts.section import section
from anatome.cuts.snapping import face_planes
from anatome.model.building import Building
from anatome.model.kinds import FURNITURE_TYPES, RAILING_TYPES

KINDS: dict[str, tuple[str, ...]] = {
    "Stairs": ("IfcStair", "IfcStairFlight", "IfcRamp", "IfcRampFlight"),
    "Doors": ("IfcDoor",),
    "Windows": ("IfcWindow",),
    "Columns": ("IfcColumn", "IfcPile"),
    "Railings": RAILING_TYPES,
    "Furniture": FURNITURE_TYPES,
}
WORTH_CUTTING = ("Stairs", "Doors", "Windows")
LENGTHWISE_SHARE = 0.3
"""An element is cut lengthwise where it is this much thinner along the axis than it is long."""
LENGTHWISE_TYPES = (
    "IfcWall", "IfcWallStandardCase", "IfcCurtainWall", "IfcBeam", "IfcMember", "IfcColumn", "IfcDoor", "IfcWindow",
    "IfcFurniture", "IfcFurnishingElement", *RAILING_TYPES,
)  # fmt: skip
"""Not layers that go on and on, such as slabs and coverings: every cut along them slices one of their strips."""
UPRIGHT_TYPES = ("IfcWall", "IfcWallStandardCase", "IfcCurtainWall", "IfcColumn", "IfcDoor", "IfcWindow")
"""What a plan always slices the way a level cut does."""
LEAST_LENGTHWISE = 0.07
"""Metres; what is thinner along the axis, a batten say, does no harm."""
GRAZE = 0.015
"""Metres from a large face within which a cut shaves along it."""
POSITIONS = 160
"""Along the axis, at which is counted what a cut would slice."""


@dataclass(frozen=True)
class Mark:
    """Where along the axis something lies: from ``low`` to ``high``, offsets in metres."""

    kind: str
    low: float
    high: float
    element: int


@dataclass(frozen=True, eq=False)
class Scouting:
    """``offsets`` (n,) along the plane's normal, ascending, metres; ``areas`` (n,) m² that a cut there would slice, and
    how much of it is ``earth``.

    ``marks``: stairs, doors and so on; ``lengthwise``: what would be sliced along its length; ``grazes``: offsets of
    faces a cut would shave; ``suggestions``: offsets of clean positions, the best first.
    """

    plane: Plane
    offsets: NDArray[np.float64]
    areas: NDArray[np.float64]
    earth: NDArray[np.float64]
    marks: tuple[Mark, ...]
    lengthwise: tuple[Mark, ...]
    grazes: tuple[float, ...]
    suggestions: tuple[float, ...]

    def at(self, offset: float) -> dict[str, list[Mark]]:
        """Return what a cut at an offset slices of the kinds that are marked, and what it slices lengthwise."""
        found: dict[str, list[Mark]] = {}
        for mark in (*self.marks, *self.lengthwise):
            if mark.low <= offset <= mark.high:
                found.setdefault(mark.kind, []).append(mark)
        return found


def scout(
    building: Building,
    plane: Plane,
    elements: NDArray[np.bool_],
    sliced: NDArray[np.bool_] | None = None,
    samples: int = POSITIONS,
) -> Scouting:
    """Look along a plane's normal through the elements of an (E,) mask: those the cut reaches.

    Areas are of those that are ``sliced`` (E,) and not kept whole or left out; None means all. The strip is as long
    as what is built; ground is looked at as far as that reaches.
    """
    low, high = extents(building, plane.n)
    if not elements.any():
        return Scouting(plane, np.zeros(0), np.zeros(0), np.zeros(0), (), (), (), ())
    ground = building.context
    standing = elements & ~ground if (elements & ~ground).any() else elements
    first, last = float(low[standing].min()), float(high[standing].max())
    step = (last - first) / samples
    # Positions in the middle of equal steps, so that the ends are inside.
    offsets = np.asarray(first + step * (np.arange(samples) + 0.5), np.float64)
    cut = elements if sliced is None else elements & sliced
    built, earth = (areas_along(building, plane, offsets, cut & part) for part in (~ground, ground))
    marks = tuple(
        Mark(kind, float(low[i]), float(high[i]), int(i))
        for kind, types in KINDS.items()
        for i in np.flatnonzero(standing)
        if building.elements[i].type in types
    )
    lengthwise = _lengthwise(building, cut & ~ground, low, high, UPRIGHT_TYPES if plane.is_level else ())
    grazes = tuple(stop.offset for stop in face_planes(building, plane.n, cut & ~ground, 80))
    suggestions = _suggest(offsets, built, [m for m in marks if cut[m.element]], lengthwise, grazes)
    return Scouting(plane, offsets, built + earth, earth, marks, lengthwise, grazes, suggestions)


def extents(building: Building, normal: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return (E,) least and largest offset of every element's vertices along a (3,) direction, metres."""
    along = (building.vertices @ normal)[building.triangles.ravel()]
    starts = 3 * building.triangle_start[:-1]
    return np.minimum.reduceat(along, starts), np.maximum.reduceat(along, starts)


def areas_along(
    building: Building, plane: Plane, offsets: NDArray[np.float64], elements: NDArray[np.bool_]
) -> NDArray[np.float64]:
    """Return (n,) the summed area of the elements' sections at ascending offsets along a plane's normal, m²."""
    plain = elements & building.plain_solids
    numbers = np.flatnonzero(plain[building.element_of_triangle])
    total = _areas_by_green(building, plane, offsets, numbers) if len(numbers) else np.zeros(len(offsets))
    others = elements & ~plain
    if others.any():
        low, high = extents(building, plane.n)
        for k, offset in enumerate(offsets):
            crossing = others & (low <= offset) & (high >= offset)
            if crossing.any():
                total[k] += float(section(building, plane.at_offset(float(offset)), crossing).areas.sum())
    return total


def _areas_by_green(
    building: Building, plane: Plane, offsets: NDArray[np.float64], numbers: NDArray[np.int64]
) -> NDArray[np.float64]:
    """Sums of signed areas, element by element, made positive."""
    u, v = plane.axes
    foot = building.bounds.mean(axis=0)  # near the model, so that far-away coordinates lose nothing
    frame = (building.vertices - foot) @ np.stack([u, v, plane.n]).T
    corners = frame[building.triangles[numbers]]
    heights = corners[..., 2]
    wanted = offsets - float(foot @ plane.n)
    # A vertex exactly at a position counts as before the cut, as in the cutter itself.
    below = np.searchsorted(wanted, heights, side="right")
    first, last = below.min(axis=1), below.max(axis=1)
    count = last - first
    triangle = np.repeat(np.arange(len(numbers)), count)
    within = np.arange(len(triangle)) - np.repeat(np.cumsum(count) - count, count)
    sample = first[triangle] + within
    level = wanted[sample]
    h = heights[triangle]
    above = h >= level[:, None]
    lone_above = above.sum(axis=1) == 1
    lone = np.argmax(above == lone_above[:, None], axis=1)
    row = np.arange(len(triangle))
    ends = []
    for other in ((lone + 1) % 3, (lone + 2) % 3):
        a, b = h[row, lone], h[row, other]
        t = ((level - a) / np.where(b == a, 1.0, b - a))[:, None]
        p, q = corners[triangle, lone, :2], corners[triangle, other, :2]
        ends.append(p + t * (q - p))
    cross = ends[0][:, 0] * ends[1][:, 1] - ends[0][:, 1] * ends[1][:, 0]
    signed = np.where(lone_above, cross, -cross) / 2
    element = building.element_of_triangle[numbers][triangle]
    key = element * len(offsets) + sample
    places, which = np.unique(key, return_inverse=True)
    sums = np.abs(np.bincount(which.ravel(), weights=signed))
    return np.asarray(np.bincount(places % len(offsets), weights=sums, minlength=len(offsets)), np.float64)


def _lengthwise(
    building: Building,
    elements: NDArray[np.bool_],
    low: NDArray[np.float64],
    high: NDArray[np.float64],
    fine: Sequence[str],
) -> tuple[Mark, ...]:
    """What would be sliced along its length, but for types with which that is ``fine``."""
    sizes = np.ptp(building.element_bounds, axis=1).max(axis=1)
    deep = high - low
    thin = elements & (deep < LENGTHWISE_SHARE * sizes) & (deep > LEAST_LENGTHWISE) & (sizes > 0.5)
    return tuple(
        Mark("Lengthwise", float(low[i]), float(high[i]), int(i))
        for i in np.flatnonzero(thin)
        if building.elements[i].type in LENGTHWISE_TYPES and building.elements[i].type not in fine
    )


def lengthwise_slices(building: Building, plane: Plane, elements: NDArray[np.bool_]) -> list[int]:
    """Return the elements of an (E,) mask that a cut along this plane slices along their length."""
    low, high = extents(building, plane.n)
    fine = UPRIGHT_TYPES if plane.is_level else ()
    marks = _lengthwise(building, elements, low, high, fine)
    return [m.element for m in marks if m.low <= plane.offset <= m.high]


def _suggest(
    offsets: NDArray[np.float64],
    areas: NDArray[np.float64],
    marks: Sequence[Mark],
    lengthwise: Sequence[Mark],
    grazes: Sequence[float],
    most: int = 5,
) -> tuple[float, ...]:
    """Positions that open what is worth showing and slice nothing lengthwise (common practice), apart from one another."""
    if not len(offsets):
        return ()

    def covered(among: Sequence[Mark]) -> NDArray[np.float64]:
        hits = np.zeros(len(offsets))
        for mark in among:
            hits += (offsets >= mark.low) & (offsets <= mark.high)
        return hits

    along = {mark.element for mark in lengthwise}
    worth = [m for m in marks if m.kind in WORTH_CUTTING and m.element not in along]
    opens = covered(worth) + covered([m for m in worth if m.kind == "Stairs"])
    # Furniture and railings in the way are a pity, but no reason to miss the stair.
    harm = 4 * covered(lengthwise) + np.minimum(0.5 * covered([m for m in marks if m.kind not in WORTH_CUTTING]), 2.0)
    step = offsets[1] - offsets[0] if len(offsets) > 1 else 1.0
    for place in grazes:
        harm += np.abs(offsets - place) <= max(GRAZE, step / 2)
    usual = areas[areas > 0]
    real = areas > 0.4 * (float(np.median(usual)) if len(usual) else np.inf)
    score = np.where(real, np.minimum(opens, 8) - harm, -np.inf)
    found: list[float] = []
    apart = 0.06 * (offsets[-1] - offsets[0])
    for i in np.argsort(-score, kind="stable"):
        if not np.isfinite(score[i]) or len(found) == most:
            break
        if all(abs(offsets[i] - other) > apart for other in found):
            found.append(float(offsets[i]))
    return tuple(found)
