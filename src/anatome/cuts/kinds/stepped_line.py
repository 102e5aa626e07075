"""The line of a stepped section: parallel steps joined by jogs at right angles, as a section line is drawn in plan."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cells import Cell
from anatome.cuts.kinds.grip import numbers_part_way
from anatome.cuts.plane import Plane, Vector, vector
from anatome.problems import Problem
from anatome.values import FARTHEST

MOST_STEPS = 100


@dataclass(frozen=True, slots=True)
class SteppedLine:
    """Upright steps with one horizontal ``normal``, which points to what is cut away.

    ``offsets`` (k) are the steps' distances from the model's origin along the normal; ``jogs`` (k − 1), ascending, are
    where one goes over into the next, measured along :attr:`along`. The first and the last step run on without end.
    All metres. Raises Problem when the numbers do not make such a line.
    """

    normal: Vector
    offsets: tuple[float, ...]
    jogs: tuple[float, ...]

    def __post_init__(self) -> None:
        numbers = np.array([*self.normal, *self.offsets, *self.jogs], float)
        length = math.hypot(*self.normal[:2])
        if not np.isfinite(numbers).all() or length < 1e-9 or abs(self.normal[2]) > 1e-9:
            raise Problem("A stepped section needs finite numbers and a level direction to look in.")
        if len(self.offsets) > MOST_STEPS or np.abs(numbers).max() > FARTHEST:
            raise Problem(f"A stepped section has at most {MOST_STEPS} steps, none of them farther off than the model can reach.")
        if len(self.offsets) != len(self.jogs) + 1 or (np.diff(self.jogs) <= 0).any():
            raise Problem("A stepped section needs one jog between every two steps, in order along the line.")
        object.__setattr__(self, "normal", (self.normal[0] / length, self.normal[1] / length, 0.0))
        object.__setattr__(self, "offsets", tuple(map(float, self.offsets)))
        object.__setattr__(self, "jogs", tuple(map(float, self.jogs)))

    @property
    def along(self) -> NDArray[np.float64]:
        """(3,) unit vector along the steps, to the right as seen from the side that is cut away."""
        return np.array([-self.normal[1], self.normal[0], 0.0])

    @property
    def planes(self) -> tuple[Plane, ...]:
        """The plane of each step."""
        n = np.array(self.normal)
        return tuple(Plane(vector(n * offset), self.normal) for offset in self.offsets)

    def cells(self) -> tuple[Cell, ...]:
        """Return what is cut away: before each step, between its jogs."""
        u = self.along
        made = []
        for i, plane in enumerate(self.planes):
            walls = [plane]
            if i > 0:
                walls.append(Plane(vector(u * self.jogs[i - 1]), vector(u)))
            if i < len(self.jogs):
                walls.append(Plane(vector(u * self.jogs[i]), vector(-u)))
            made.append(Cell(tuple(walls)))
        return tuple(made)

    def points(self, low: float, high: float) -> NDArray[np.float64]:
        """Return (2 k, 2) corners of the line in plan, X and Y, its ends at ``low`` and ``high`` along the steps."""
        u, n = self.along[:2], np.array(self.normal[:2])
        low, high = min([low, *self.jogs]), max([high, *self.jogs])
        ends = [low, *[j for j in self.jogs for _ in (0, 1)], high]
        return np.array([u * t + n * self.offsets[i // 2] for i, t in enumerate(ends)])

    def scaled(self, factor: float) -> SteppedLine:
        """So many times as large about the origin."""
        return replace(self, offsets=tuple(o * factor for o in self.offsets), jogs=tuple(j * factor for j in self.jogs))

    def moved(self, by: float) -> SteppedLine:
        """Moved by metres along its normal."""
        return replace(self, offsets=tuple(o + by for o in self.offsets))

    def part_way(self, to: SteppedLine, share: float) -> SteppedLine | None:
        """Return the line at a share from 0 to 1 of the way to another of as many steps; None where there is none, or it would
        have to turn right round."""
        normal = Plane((0.0, 0.0, 0.0), self.normal).part_way(Plane((0.0, 0.0, 0.0), to.normal), share)
        if normal is None or len(self.offsets) != len(to.offsets):
            return None
        offsets = numbers_part_way(self.offsets, to.offsets, share)
        return SteppedLine(normal.normal, offsets, numbers_part_way(self.jogs, to.jogs, share))

    def with_step_moved(self, step: int, by: float) -> SteppedLine:
        """Return one step moved along the normal."""
        return replace(self, offsets=tuple(o + by * (i == step) for i, o in enumerate(self.offsets)))

    def with_jog_at(self, jog: int, place: float, least: float = 0.01) -> SteppedLine:
        """Return one jog put at another place along the steps, never past its neighbours."""
        low = self.jogs[jog - 1] + least if jog > 0 else -math.inf
        high = self.jogs[jog + 1] - least if jog + 1 < len(self.jogs) else math.inf
        return replace(self, jogs=tuple(min(max(place, low), high) if i == jog else j for i, j in enumerate(self.jogs)))

    def turned_round(self) -> SteppedLine:
        """Return the same line looking the other way."""
        return SteppedLine(
            vector(-np.array(self.normal)), tuple(-o for o in self.offsets[::-1]), tuple(-j for j in self.jogs[::-1])
        )

    def turned_about(self, point: NDArray[np.float64], degrees: float) -> SteppedLine:
        """Turned about the vertical through (3,) a point, anticlockwise seen from above."""
        turned = replace(self, normal=Plane((0.0, 0.0, 0.0), self.normal).turned(degrees).normal)
        along = float(point @ self.along - point @ turned.along)
        across = float(point @ np.array(self.normal) - point @ np.array(turned.normal))
        return replace(turned, offsets=tuple(o - across for o in self.offsets), jogs=tuple(j - along for j in self.jogs))

    @classmethod
    def through(cls, points: NDArray[np.float64], side: NDArray[np.float64]) -> SteppedLine:
        """From (n, 2) points clicked in plan and a (2,) point on the side to look at.

        The first stretch gives the direction of the steps. Every further point begins a new step at its own distance;
        where a stretch runs more across than along it is a jog, at the middle of its ends. Raises Problem when the
        points lie too close to make a line or the line runs back.
        """
        points = np.asarray(points, float)
        if len(points) < 2 or np.hypot(*(points[1] - points[0])) < 1e-6:
            raise Problem("A section line needs two points apart from one another.")
        along = (points[1] - points[0]) / np.hypot(*(points[1] - points[0]))
        across = np.array([along[1], -along[0]])
        t, s = points @ along, points @ across
        offsets, jogs = [s[0]], []
        for i in range(1, len(points)):
            if abs(s[i] - s[i - 1]) > abs(t[i] - t[i - 1]):
                jogs.append((t[i] + t[i - 1]) / 2)
                offsets.append(s[i])
        if (np.diff(jogs) <= 0).any():
            raise Problem("The section line runs back over itself. Draw its steps one after the other.")
        # The look goes towards the side clicked; the normal points the other way, and with it the steps run.
        nearest = int(np.searchsorted(jogs, side @ along)) if jogs else 0
        normal = across if side @ across < offsets[nearest] else -across
        own = np.array([-normal[1], normal[0]])
        offsets = [o * float(normal @ across) for o in offsets]
        if own @ along < 0:
            offsets, jogs = offsets[::-1], [-j for j in jogs[::-1]]
        return cls((float(normal[0]), float(normal[1]), 0.0), tuple(map(float, offsets)), tuple(map(float, jogs)))
