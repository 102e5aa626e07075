"""How cuts show in a key drawing: lines and handles in its own metres. Geometry only."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.plane import Plane
from anatome.model.bounds import corners_of

Array = NDArray[np.float64]

IN_LINE = 0.999
"""Cosine from which a direction counts as lying in that of a drawing."""
FACING = 1 - 1e-6


@dataclass(frozen=True, eq=False)
class DrawingPlane:
    """The plane of a drawing: unit vectors to the ``right``, ``up`` and ``towards`` the eye; its ``level`` is along the last."""

    right: Array
    up: Array
    towards: Array
    level: float

    @property
    def is_plan(self) -> bool:
        """Whether it looks down."""
        return bool(self.towards[2] > 0.5)

    def flat(self, points: Array) -> Array:
        """Return (..., 2) metres in the drawing of (..., 3) points."""
        return np.stack([points @ self.right, points @ self.up], axis=-1)

    def raised(self, flat: Array) -> Array:
        """Return (..., 3) points on the drawing's plane."""
        return np.asarray(flat[..., :1] * self.right + flat[..., 1:] * self.up + self.towards * self.level)

    def lifted(self, by: Array) -> Array:
        """Return (3,) the movement that a (2,) movement in the drawing stands for."""
        return np.asarray(by[0] * self.right + by[1] * self.up)

    @classmethod
    def plan(cls, level: float) -> DrawingPlane:
        """Look down, X to the right."""
        return cls(np.array([1.0, 0, 0]), np.array([0, 1.0, 0]), np.array([0, 0, 1.0]), level)

    @classmethod
    def elevation(cls, towards: Array, level: float) -> DrawingPlane:
        """Look at the side that faces (3,) ``towards``, Z up."""
        up = np.array([0.0, 0, 1])
        return cls(np.cross(up, towards), up, towards, level)


@dataclass(frozen=True, eq=False)
class MarkStroke:
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

    strokes: tuple[MarkStroke, ...] = ()
    knobs: tuple[KeyKnob, ...] = ()
    note: str = ""

    @property
    def middle(self) -> Array:
        """(2,) what it is turned about in a plan."""
        return np.concatenate([s.points for s in self.strokes]).mean(axis=0)


def line_of(plane: Plane, view: DrawingPlane, bounds: Array, grow: float) -> Array | None:
    """Return (2, 2) ends of a plane's line in a drawing; None when it lies in the drawing's plane."""
    normal = view.flat(plane.n)
    slope = float(np.hypot(*normal))
    if slope < np.sqrt(1 - FACING**2):
        return None
    across = normal / slope
    along = np.array([-across[1], across[0]])
    offset = (plane.offset - float(plane.n @ view.towards) * view.level) / slope
    reach = view.flat(corners_of(bounds)) @ along
    foot = across * offset
    return np.stack([foot + along * (reach.min() - grow), foot + along * (reach.max() + grow)])
