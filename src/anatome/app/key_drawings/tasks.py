"""What can be drawn in the key plan: a section line with or without jogs, and the rectangle of a section box."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from anatome.app.document.placing import place
from anatome.app.document.session import Session
from anatome.cuts.fitting import box_on_plan
from anatome.cuts.grips import drawn_direction
from anatome.cuts.kinds.box import Box
from anatome.cuts.kinds.stepped_line import SteppedLine
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.scenes.edits import new_id

Array = NDArray[np.float64]


@dataclass
class PlanTask:
    """Points are (2,) metres in plan. ``lines`` is what to show of it, (n, 2) each."""

    session: Session
    name: str = ""
    hint: str = ""
    points: list[Array] = field(default_factory=list)
    here: Array | None = None
    snapped: str = ""

    @property
    def snaps(self) -> bool:
        """Whether the next click means a point of the building, and not just a side."""
        return True

    def press(self, at: Array, shift: bool) -> bool:
        """Begin at a place where the mouse goes down. Return True when the task is done. Raises Problem."""
        return False

    def move(self, at: Array, shift: bool) -> None:
        self.here = self._kept(at, shift)

    def release(self, at: Array, shift: bool) -> bool:
        """Go on where the mouse comes up. Return True when the task is done. Raises Problem."""
        return False

    def finish(self) -> bool:
        """End by Return or a double click: no more points. Return True when the task is done. Raises Problem."""
        return False

    def lines(self) -> list[Array]:
        """Polylines to draw."""
        return []

    def _kept(self, at: Array, shift: bool) -> Array:
        if shift and self.points:
            return drawn_direction(self.points[-1], at, self.session.lookups.directions())
        return at


@dataclass
class SectionLine(PlanTask):
    """Two clicks, then the side to look at. With ``stepped`` any number of clicks before that."""

    name: str = "plane_line"
    stepped: bool = False
    drawn: bool = False

    def __post_init__(self) -> None:
        self._say()

    @property
    def snaps(self) -> bool:
        return not self.drawn

    def _say(self) -> None:
        if not self.points:
            self.hint = "Click where the section line begins  ·  Ctrl: not at corners and axes"
        elif self.drawn:
            self.hint = "Click on the side to look at"
        elif self.stepped:
            self.hint = "Click the corners of its steps; Return or a double click ends the line (Shift: 15°)"
        else:
            self.hint = "Click where it ends (Shift: 15° and the building's own directions)"

    def press(self, at: Array, shift: bool) -> bool:
        if self.drawn:
            self._make(at)
            return True
        at = self._kept(at, shift)
        if self.points and np.hypot(*(at - self.points[-1])) < 1e-3:
            return False
        self.points.append(at)
        self.drawn = not self.stepped and len(self.points) == 2
        self._say()
        return False

    def finish(self) -> bool:
        self.drawn = self.drawn or len(self.points) >= 2
        self._say()
        return False

    def _make(self, side: Array) -> None:
        line = SteppedLine.through(np.array(self.points), side)
        cut_id = new_id()
        project = edits.add_stepped(self.session.project, line, cut_id)
        place(self.session, project, cut_id)

    def _kept(self, at: Array, shift: bool) -> Array:
        return at if self.drawn else super()._kept(at, shift)

    def lines(self) -> list[Array]:
        if not self.points:
            return []
        if not self.drawn:
            return [np.array([*self.points, *([] if self.here is None else [self.here])])]
        shown = [np.array(self.points)]
        if self.here is not None:
            # An arrow from the middle of the first stretch to the side that would be looked at.
            a, b = self.points[0], self.points[1]
            middle, along = (a + b) / 2, (b - a) / max(float(np.hypot(*(b - a))), 1e-9)
            across = np.array([-along[1], along[0]])
            across = across if (self.here - middle) @ across >= 0 else -across
            length = 0.12 * float(np.hypot(*(b - a))) + 0.5
            tip = middle + across * length
            wing = 0.3 * length
            head = np.array([tip - across * wing - along * wing, tip, tip - across * wing + along * wing])
            shown += [np.array([middle, tip]), head]
        return shown


@dataclass
class BoxRectangle(PlanTask):
    """A rectangle dragged in plan becomes a section box as high as what is shown."""

    name: str = "box_plan"
    hint: str = "Drag the rectangle of the box"

    def press(self, at: Array, shift: bool) -> bool:
        self.points = [at]
        self.here = at
        return False

    def move(self, at: Array, shift: bool) -> None:
        self.here = at

    def release(self, at: Array, shift: bool) -> bool:
        if not self.points:
            return False
        start, self.points = self.points[0], []
        if min(np.abs(at - start)) < 0.05:
            raise Problem("That rectangle has no size. Press, drag to the opposite corner, let go.")
        session = self.session
        assert session.building is not None
        low, high = session.subject_bounds()[:, 2]
        add_box(session, box_on_plan(start, at, float(low) - 0.1, float(high) + 0.1))
        return True

    def lines(self) -> list[Array]:
        if not self.points or self.here is None:
            return []
        (x0, y0), (x1, y1) = self.points[0], self.here
        return [np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1], [x0, y0]])]


def add_box(session: Session, box: Box, carve: bool = False) -> None:
    """A new section box, picked."""
    cut_id = new_id()
    project = edits.add_box(session.project, box, cut_id, carve)
    place(session, project, cut_id)
