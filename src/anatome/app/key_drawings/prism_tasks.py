"""What is drawn in the key plan to make a section prism: its outline corner by corner, or a circle."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.app.base import units
from anatome.app.document.placing import place
from anatome.app.document.session import Session
from anatome.app.key_drawings.tasks import PlanTask
from anatome.cuts.cut import SectionPrism
from anatome.cuts.kinds.prism import SIDES, Prism
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.scenes.edits import new_id

Array = NDArray[np.float64]

OVER = 0.1
"""Metres over what is shown to which a new one reaches."""
CLOSES = 0.02
"""Share of the outline within which a click on its first corner closes it."""


@dataclass
class PrismOutline(PlanTask):
    """Any number of corners; a click on the first one, Return or a double click closes it."""

    name: str = "prism_plan"
    hint: str = "Click the corners of the outline; on the first one, or by Return, it closes  ·  Shift: 15°, Ctrl: free"

    def press(self, at: Array, shift: bool) -> bool:
        at = self._kept(at, shift)
        if len(self.points) >= 3 and np.hypot(*(at - self.points[0])) <= CLOSES * float(np.ptp(self.points, axis=0).max()):
            return self._close()
        if not self.points or np.hypot(*(at - self.points[-1])) > 1e-3:
            self.points.append(at)
        return False

    def finish(self) -> bool:
        return self._close()

    def _close(self) -> bool:
        if len(self.points) < 3:
            raise Problem("An outline has three corners at least. Click one more.")
        corners, self.points = self.points, []
        place_prism(self.session, tuple((float(x), float(y)) for x, y in corners))
        return True

    def lines(self) -> list[Array]:
        if not self.points:
            return []
        here = [] if self.here is None else [self.here]
        return [np.array([*self.points, *here, *([self.points[0]] if len(self.points) > 1 else [])])]


@dataclass
class PrismCircle(PlanTask):
    """Pressed at the centre and dragged to the rim."""

    name: str = "round_plan"
    hint: str = "Press at the centre of the circle and drag to its rim"

    def press(self, at: Array, shift: bool) -> bool:
        self.points, self.here = [at], at
        return False

    def move(self, at: Array, shift: bool) -> None:
        self.here = at
        if self.points:
            self.hint = f"Radius {units.length(self._radius(at), 2)}"

    def _radius(self, at: Array) -> float:
        return float(np.hypot(*(at - self.points[0])))

    def release(self, at: Array, shift: bool) -> bool:
        if not self.points:
            return False
        radius, (x, y) = self._radius(at), self.points.pop()
        if radius < 0.05:
            raise Problem("That circle has no size. Press at its centre, drag to its rim, let go.")
        place_prism(self.session, ((float(x), float(y)),), radius)
        return True

    def lines(self) -> list[Array]:
        if not self.points or self.here is None:
            return []
        turn = np.linspace(0, 2 * np.pi, SIDES + 1)
        ring = self.points[0] + self._radius(self.here) * np.column_stack([np.cos(turn), np.sin(turn)])
        return [ring, np.array([self.points[0], self.here])]


def place_prism(session: Session, corners: tuple[tuple[float, float], ...], radius: float | None = None) -> None:
    """Place a new prism that carves from the floor of the key plan's storey up through all that is shown, and pick it."""
    assert session.building is not None
    low, high = session.subject_bounds()[:, 2].tolist()
    storeys = session.building.storeys
    if session.plan_storey is not None and session.plan_storey < len(storeys):
        low = min(storeys[session.plan_storey].elevation, high - 0.5)
    cut_id = new_id()
    prism = Prism(corners, low, high + OVER, radius)
    project = edits.add_cut(session.project, SectionPrism(id=cut_id, name="", mark="", prism=prism, carve=True))
    name, reach = project.stage.cuts[-1].name, f"{units.length(low, 2, signed=True)} up"
    place(session, project, cut_id, f"Placed {name}: it takes what lies inside away, from {reach}")
