"""How cuts show in a key drawing: lines and handles in its own metres. Geometry only, no Qt."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.app import units
from anatome.cuts.cut import AnyCut, SectionBox, SectionPlane, SteppedSection
from anatome.cuts.grips import corners_of
from anatome.cuts.plane import Plane

Array = NDArray[np.float64]

IN_LINE = 0.999
"""Cosine from which a direction counts as lying in that of a drawing."""
FACING = 1 - 1e-6


@dataclass(frozen=True, eq=False)
class Sheet:
    """A drawing's plane: unit vectors to the ``right``, ``up`` and ``towards`` the eye, and how far along the last it lies."""

    right: Array
    up: Array
    towards: Array
    level: float

    @property
    def is_plan(self) -> bool:
        return bool(self.towards[2] > 0.5)

    def flat(self, points: Array) -> Array:
        """(..., 2) metres in the drawing of (..., 3) points."""
        return np.stack([points @ self.right, points @ self.up], axis=-1)

    def raised(self, flat: Array) -> Array:
        """(..., 3) points on the drawing's plane."""
        return np.asarray(flat[..., :1] * self.right + flat[..., 1:] * self.up + self.towards * self.level)

    def lifted(self, by: Array) -> Array:
        """(3,) the movement that a (2,) movement in the drawing stands for."""
        return np.asarray(by[0] * self.right + by[1] * self.up)

    @classmethod
    def plan(cls, level: float) -> Sheet:
        """Looking down, X to the right."""
        return cls(np.array([1.0, 0, 0]), np.array([0, 1.0, 0]), np.array([0, 0, 1.0]), level)

    @classmethod
    def elevation(cls, towards: Array, level: float) -> Sheet:
        """Looking at the side that faces (3,) ``towards``, Z up."""
        up = np.array([0.0, 0, 1])
        return cls(np.cross(up, towards), up, towards, level)


@dataclass(frozen=True, eq=False)
class Stroke:
    """A line of a cut, (n, 2) metres: ``hold`` is the grip that dragging it pulls; ``faint`` ones are dashed."""

    points: Array
    hold: str
    faint: bool = False


@dataclass(frozen=True, eq=False)
class KeyKnob:
    """A handle at (2,) metres, pointing (2,) somewhere or round; ``out`` pixels away from there."""

    hold: str
    at: Array
    points_to: Array | None = None
    out: float = 0.0


@dataclass(frozen=True, eq=False)
class KeyMark:
    """A cut as a drawing shows it; ``note`` in words where it lies in the drawing's own plane and has no line."""

    cut: AnyCut
    strokes: tuple[Stroke, ...] = ()
    knobs: tuple[KeyKnob, ...] = ()
    note: str = ""

    @property
    def middle(self) -> Array:
        """(2,) what it is turned about in a plan."""
        return np.concatenate([s.points for s in self.strokes]).mean(axis=0)


def key_mark(cut: AnyCut, sheet: Sheet, bounds: Array, grow: float) -> KeyMark:
    """How a cut shows; lines of planes run ``grow`` metres past the (2, 3) bounds."""
    if isinstance(cut, SectionBox):
        return _box(cut, sheet)
    if isinstance(cut, SteppedSection):
        return _stepped(cut, sheet, bounds, grow)
    return _plane(cut, sheet, bounds, grow)


def trace_of(plane: Plane, sheet: Sheet, bounds: Array, grow: float) -> Array | None:
    """(2, 2) ends of a plane's line in a drawing; None when it lies in the drawing's plane."""
    normal = sheet.flat(plane.n)
    slope = float(np.hypot(*normal))
    if slope < np.sqrt(1 - FACING**2):
        return None
    across = normal / slope
    along = np.array([-across[1], across[0]])
    offset = (plane.offset - float(plane.n @ sheet.towards) * sheet.level) / slope
    reach = sheet.flat(corners_of(bounds)) @ along
    foot = across * offset
    return np.stack([foot + along * (reach.min() - grow), foot + along * (reach.max() + grow)])


def _plane(cut: SectionPlane, sheet: Sheet, bounds: Array, grow: float) -> KeyMark:
    line = trace_of(cut.plane, sheet, bounds, grow)
    if line is None:
        kind = "level" if sheet.is_plan else "faces this side"
        return KeyMark(cut, note=f"{cut.mark}  {kind}, at {units.length(cut.plane.position, 2, signed=True)}")
    looks = -sheet.flat(cut.plane.n)
    looks = looks / np.hypot(*looks)
    hold = "turn" if sheet.is_plan else "move"
    strokes = [Stroke(line, "move")]
    if cut.depth is not None:
        far = trace_of(cut.plane.moved(-cut.depth), sheet, bounds, grow)
        if far is not None:
            strokes.append(Stroke(far, "far", faint=True))
    return KeyMark(cut, tuple(strokes), tuple(KeyKnob(hold, end, looks, 13.0) for end in line))


def _box(cut: SectionBox, sheet: Sheet) -> KeyMark:
    corners = sheet.flat(cut.box.corners)
    middle = KeyKnob("whole", sheet.flat(np.array(cut.box.centre)))
    strokes, knobs = [], []
    for face, plane in enumerate(cut.box.planes):
        outwards = sheet.flat(plane.n)
        if np.hypot(*outwards) < IN_LINE:
            continue
        own = corners[[i for i in range(8) if bool(i >> (face // 2) & 1) == (face % 2 == 0)]]
        along = np.array([-outwards[1], outwards[0]])
        ends = own[[int(np.argmin(own @ along)), int(np.argmax(own @ along))]]
        strokes.append(Stroke(ends, f"face {face}"))
        knobs.append(KeyKnob(f"face {face}", ends.mean(axis=0), outwards, 9.0))
    if len(strokes) < 4:
        # A turned box in an elevation: its silhouette, and only top and bottom can be pulled there.
        hull = shapely.get_coordinates(shapely.MultiPoint(corners).convex_hull)
        strokes.insert(0, Stroke(hull, "whole"))
    if sheet.is_plan:
        corner = corners[7]
        arm = corner - middle.at
        knobs.append(KeyKnob("turn", corner, arm / max(float(np.hypot(*arm)), 1e-9), 14.0))
    return KeyMark(cut, tuple(strokes), (*knobs, middle))


def _stepped(cut: SteppedSection, sheet: Sheet, bounds: Array, grow: float) -> KeyMark:
    line = cut.line
    looks = -sheet.flat(np.array(line.normal))
    strokes, knobs = [], []
    if sheet.is_plan:
        along = corners_of(bounds) @ line.along
        points = line.points(float(along.min()) - grow, float(along.max()) + grow)
        for i in range(len(points) - 1):
            strokes.append(Stroke(points[i : i + 2], f"step {i // 2}" if i % 2 == 0 else f"jog {i // 2}"))
        knobs = [KeyKnob("turn", points[i], looks, 13.0) for i in (0, -1)]
    else:
        low, high = bounds[0][2] - grow, bounds[1][2] + grow
        # Steps show as lines where they are seen end on; from the front one sees the jogs instead.
        places: list[tuple[float, str, Array | None]] = []
        if abs(float(np.array(line.normal) @ sheet.right)) > IN_LINE:
            places = [(sheet.flat(p.n * p.offset)[0], f"step {i}", looks) for i, p in enumerate(line.planes)]
        elif abs(float(line.along @ sheet.right)) > IN_LINE:
            places = [(sheet.flat(line.along * j)[0], f"jog {i}", None) for i, j in enumerate(line.jogs)]
        for x, hold, points_to in places:
            ends = np.array([[x, low], [x, high]])
            strokes.append(Stroke(ends, hold, faint=points_to is None))
            if points_to is not None:
                knobs += [KeyKnob(hold, end, points_to / max(float(np.hypot(*points_to)), 1e-9), 13.0) for end in ends]
    if not strokes:
        return KeyMark(cut, note=f"{cut.mark}  stepped, see the plan")
    return KeyMark(cut, tuple(strokes), tuple(knobs))
