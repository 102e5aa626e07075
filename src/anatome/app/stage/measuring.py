"""Measuring on the stage: from point to point, in chains, with the angle between, and the area of a face."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from PySide6.QtWidgets import QApplication

from anatome.app.base import units
from anatome.app.document.session import Session
from anatome.app.stage.tasks import NOTHING_HERE, Measure, Pointer, Preview, StageTask
from anatome.problems import Problem
from anatome.view.snap_points import SnapPoint, angle_between, face_area, snap_point

Array = NDArray[np.float64]
NEAR = 11.0
"""Pixels within which a corner or a middle is meant."""
HINT = "Click from point to point"


def point_under(session: Session, pointer: Pointer) -> SnapPoint | None:
    """Return the corner, middle or place on a face that a pointer means, at home; None over nothing."""
    if pointer.found is None:
        return None
    hit, face = pointer.found
    left = next((p.cut_open for p in session.on_stage().parts if p.cut_open.shown[hit.element]), session.kept())
    return snap_point(left, hit, face, pointer.viewport, pointer.at, NEAR)


@dataclass
class MeasurePoints(StageTask):
    """A chain of points. What is measured is the building as it stands, also where parts of it are drawn elsewhere."""

    needs = NOTHING_HERE
    name: str = "measure_points"
    points: list[Array] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.hint = HINT
        self.also = "Shift: along an axis  ·  Return ends and copies  ·  Esc stops"

    def _snapped(self, pointer: Pointer) -> SnapPoint | None:
        found = point_under(self.session, pointer)
        if found is not None and pointer.shift and self.points:
            return SnapPoint(self._along_axis(found.place), "along an axis")
        return found

    def _along_axis(self, place: Array) -> Array:
        """The place as far as it lies along the axis, of the building or upright, that the way to it is nearest to."""
        angle = np.radians(self.session.lookups.directions()[0])
        c, s = np.cos(angle), np.sin(angle)
        axes = np.array([[1, 0, 0], [0, 1, 0], [0, 0, 1], [c, s, 0], [-s, c, 0]])
        way = place - self.points[-1]
        best = axes[int(np.argmax(np.abs(axes @ way)))]
        return np.asarray(self.points[-1] + best * float(best @ way))

    def hover(self, pointer: Pointer) -> None:
        here = self._snapped(pointer)
        if here is None:
            self.preview, self.hint = self._shown([]), HINT
            return
        self.preview = self._shown([here.place])
        if pointer.found is not None and not self.points:
            area = face_area(self.session.kept(), *pointer.found)
            self.hint = f"{here.what.capitalize()}  ·  this face has {units.area(area)}"
        else:
            self.hint = f"{here.what.capitalize()}  ·  {self.words([*self.points, here.place])}"

    def _shown(self, more: list[Array]) -> Preview:
        chain = [*self.points, *more]
        lines = [Measure(a, b, units.length(float(np.linalg.norm(b - a)))) for a, b in zip(chain, chain[1:])]
        return Preview(dots=tuple(chain), measures=tuple(lines))

    def words(self, chain: list[Array]) -> str:
        """Return the last length with its parts along the axes, the angle before it, and the whole."""
        if len(chain) < 2:
            return HINT
        way = chain[-1] - chain[-2]
        along = "  ".join(f"{axis} {units.bare_length(x, signed=True)}" for axis, x in zip("XYZ", way.tolist()))
        said = [units.length(float(np.linalg.norm(way))), along]
        if len(chain) > 2:
            said.append(f"{angle_between(*chain[-3:]):.1f}°")
            total = sum(float(np.linalg.norm(b - a)) for a, b in zip(chain, chain[1:]))
            said.append(f"{units.length(total)} in all")
        return "  ·  ".join(said)

    def click(self, pointer: Pointer) -> bool:
        here = self._snapped(pointer)
        if here is None:
            raise Problem("There is nothing under the pointer. Click on the building.")
        if not self.points or float(np.linalg.norm(here.place - self.points[-1])) > 1e-9:
            self.points.append(here.place)
        self.preview = self._shown([])
        if len(self.points) > 1:
            self.session.said.emit(self.words(self.points))
        return False

    def stop(self) -> None:
        """What was measured is told, and can be pasted: a line for each length, and their sum."""
        if len(self.points) < 2:
            return
        lengths = [float(np.linalg.norm(b - a)) for a, b in zip(self.points, self.points[1:])]
        QApplication.clipboard().setText("\n".join([*map(units.length, lengths), f"{units.length(sum(lengths))} in all"]))
        self.session.said.emit(f"{units.length(sum(lengths))}, copied")
