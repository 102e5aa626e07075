"""Trees for scale, drawn by us: a crown one can look through, branches in it, a trunk; each a little different. One unit high."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from anatome.site.figure_drawing import FINEST, Array, FigureDrawing, flowing, limb


@dataclass(frozen=True)
class Habit:
    """How a kind of tree grows, in shares of its height: the crown from ``low`` up is so ``wide`` (half), fullest at the share
    ``full`` of its own height; branches leave the trunk at ``spread`` degrees and ``droop``; the ``trunk`` is so thick (half)."""

    low: float
    wide: float
    full: float = 0.45
    spread: float = 42.0
    droop: float = 0.0
    trunk: float = 0.018
    boughs: int = 9


HABITS = {
    "broad tree": Habit(low=0.20, wide=0.40),
    "slender tree": Habit(low=0.10, wide=0.125, full=0.40, spread=20.0, trunk=0.012, boughs=15),
    "wide tree": Habit(low=0.14, wide=0.48, full=0.56, spread=50.0, droop=0.30, trunk=0.024, boughs=11),
    "young tree": Habit(low=0.40, wide=0.19, trunk=0.008, boughs=7),
    "shrub": Habit(low=0.02, wide=0.62, full=0.40, spread=52.0, trunk=0.008, boughs=7),
}
ALONG = np.linspace(0.0, 1.0, 5)[:, None]
"""Shares of a branch at which it has a point."""
WAVES = (2, 3, 5, 9, 14)
WAVE = 0.050
"""How far the edge of a crown wanders, in shares of its size; less for each finer wave."""


def _wavy(turn: Array, random: np.random.Generator) -> Array:
    """About 1 all round, by a few waves of chance phases."""
    found = np.ones_like(turn)
    for waves in WAVES:
        found += WAVE * (2.0 / waves) ** 0.6 * np.sin(waves * turn + random.uniform(0, 2 * np.pi))
    return found


def _crown(habit: Habit, random: np.random.Generator) -> shapely.Geometry:
    """An egg with a loose edge, of the measure of its habit."""
    height = 1.0 - habit.low
    middle = habit.low + habit.full * height
    turn = np.linspace(0, 2 * np.pi, 180, endpoint=False)
    up = np.where(np.sin(turn) > 0, 1.0 - middle, middle - habit.low)
    wavy = _wavy(turn, random)
    points = np.column_stack([habit.wide * wavy * np.cos(turn), up * wavy * np.sin(turn)])
    low, high = points.min(axis=0), points.max(axis=0)
    measure = np.array([2 * habit.wide, height]) / (high - low)
    return shapely.polygons((points - [(low[0] + high[0]) / 2, low[1]]) * measure + [0.0, habit.low])


def _branches(habit: Habit, crown: shapely.Geometry, random: np.random.Generator) -> list[Array]:
    """Strokes that fork and stay in the crown."""
    height = 1.0 - habit.low
    top = habit.low + 0.72 * height
    found = [np.column_stack([np.zeros(5), np.linspace(habit.low, top, 5)])]
    for i, share in enumerate(np.linspace(0.0, 1.0, habit.boughs)):
        side = 1.0 if i % 2 == 0 else -1.0
        start = np.array([0.0, habit.low + (0.04 + 0.66 * share) * height])
        # Boughs rise more steeply the higher they leave the trunk.
        degrees = side * habit.spread * (1.25 - 0.75 * share) * random.uniform(0.85, 1.15)
        reach = 1.15 * np.hypot(habit.wide * np.sin(np.radians(degrees)), 0.42 * height * np.cos(np.radians(degrees)))
        found += _fork(start, degrees, reach, habit.droop, 3, random)
    kept = shapely.get_parts(shapely.intersection(shapely.linestrings(np.round(found, 6)), _inside(crown)))
    lines = [shapely.get_coordinates(part) for part in kept if part.geom_type == "LineString"]
    return [line for line in lines if len(line) > 1]


def _inside(crown: shapely.Geometry) -> shapely.Geometry:
    return shapely.buffer(crown, -0.03 * float(np.sqrt(shapely.area(crown))))


def _fork(start: Array, degrees: float, length: float, droop: float, times: int, random: np.random.Generator) -> list[Array]:
    angle = np.radians(degrees)
    way = np.array([np.sin(angle), np.cos(angle)])
    bend = length * np.array([0.10 * np.sign(way[0]), -droop])
    found = [start + ALONG * length * way + ALONG**2 * bend]
    if times:
        for at, swing in ((1, -22.0), (2, 24.0), (3, -20.0)):
            own = degrees + swing * random.uniform(0.7, 1.3)
            found += _fork(found[0][at], own, 0.46 * length * random.uniform(0.8, 1.1), droop, times - 1, random)
    return found


def upright(kind: str, seed: int) -> FigureDrawing:
    """Return a tree as one stands before it."""
    habit, random = HABITS[kind], np.random.default_rng(seed)
    crown = shapely.simplify(_crown(habit, random), FINEST)
    r, low = habit.trunk, habit.low
    trunk = flowing([limb((0.0, 0.004, r * 1.35), (0.0, low, r)), limb((0.0, low, r), (0.0, low + 0.6 * (1 - low), r * 0.3))])
    trunk = shapely.intersection(trunk, shapely.box(-1, 0, 1, 2))
    return FigureDrawing((("wood", trunk), ("crown", crown)), tuple(_branches(habit, crown, random)))


def from_above(kind: str, seed: int) -> FigureDrawing:
    """Return the same tree in plan: the edge of its crown, branches from the trunk outwards."""
    habit, random = HABITS[kind], np.random.default_rng(seed)
    turn = np.linspace(0, 2 * np.pi, 180, endpoint=False)
    edge = habit.wide * _wavy(turn, random)[:, None] * np.column_stack([np.cos(turn), np.sin(turn)])
    crown = shapely.simplify(shapely.polygons(edge), FINEST)
    strokes: list[Array] = []
    for degrees in np.linspace(0, 360, 9, endpoint=False) + random.uniform(0, 40):
        strokes += _fork(np.zeros(2), degrees, 0.92 * habit.wide, 0.0, 2, random)
    kept = shapely.get_parts(shapely.intersection(shapely.linestrings(np.round(strokes, 6)), _inside(crown)))
    trunk = shapely.Point(0, 0).buffer(habit.trunk * 1.3, quad_segs=8)
    return FigureDrawing((("crown", crown), ("wood", trunk)), tuple(shapely.get_coordinates(p) for p in kept if not p.is_empty))
