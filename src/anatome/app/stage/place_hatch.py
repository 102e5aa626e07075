"""Moving, turning and sizing a hatch by dragging it on the cut face it lies on."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from PySide6.QtCore import Qt

from anatome.app.base import units
from anatome.app.base.drag import Drag, Spot
from anatome.app.document.session import Session
from anatome.app.stage.tasks import Measure, Pointer, Preview, StageTask
from anatome.cuts.dissection import CutFace
from anatome.cuts.pieces import Placed
from anatome.look.hatch_lines import frame_of, level_on_paper, place_in, roomiest, with_place
from anatome.look.hatches import Hatch
from anatome.look.look import Rule
from anatome.look.styles import resolve
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]
NEAR, ARM = 12.0, 84.0
"""Pixels within which a handle is taken hold of, and from the one that moves to the one that turns and sizes."""
STEP = 15.0
"""Degrees a turn goes in with Ctrl."""
MERGE = "place hatch"


@dataclass(frozen=True, eq=False)
class HatchOnFace:
    """A hatch where it lies: on the area of an element, in the plane of a face of a piece, as a viewport sees it."""

    hatch: Hatch
    polygon: shapely.Geometry
    face: CutFace
    viewport: Viewport
    millimetre: float
    level: float

    @property
    def _frame(self) -> tuple[float, Array, float, float]:
        base = self.face.plane.flat(self.face.building.centre)
        return (self.millimetre if self.hatch.unit == "mm" else 1.0), base, self.millimetre, self.level

    @property
    def middle(self) -> Array:
        """(2,) a place of the area, in the plane."""
        return roomiest(self.polygon)

    @property
    def turned(self) -> float:
        """Radians by which its own axes are turned in the plane."""
        return frame_of(self.hatch, self.polygon, self._frame[1], self.level)[0]

    def under(self, at: Spot) -> Array:
        """Return (2,) the place of the plane under a pixel."""
        origin, ray = self.viewport.ray(*at)
        plane = self.face.plane
        return np.asarray(plane.flat(origin - ray * float(plane.distance(origin)) / float(ray @ plane.n)))

    def place_of(self, at: Array) -> Array:
        """Return where a place of the plane lies in the hatch."""
        return place_in(self.hatch, self.polygon, at, *self._frame)

    def other(self, hatch: Hatch, at: Array, wanted: Array) -> Hatch:
        """Return another hatch, shifted so that a place of the plane lies in it as is wanted."""
        return with_place(hatch, self.polygon, at, wanted, *self._frame)


def hatch_on_stage(session: Session, viewport: Viewport, element: int, paper_height: float) -> HatchOnFace | None:
    """Return the hatch of an element on the largest area the stage shows of it that is cut; None where there is none."""
    building = session.building
    hatch = None if building is None else resolve(session.drawn_look(), building).hatch_of(element)
    if hatch is None:
        return None
    best: tuple[float, shapely.Geometry, CutFace, Placed] | None = None
    for part in session.on_stage().parts:
        seen = viewport.at_home_of(part.move)
        for face in part.cut_open.faces:
            if not face.cut.poche or not seen.faces(face.plane):
                continue
            for polygon in face.poche.polygons[face.poche.element == element]:
                if best is None or polygon.area > best[0]:
                    best = polygon.area, polygon, face, part
    if best is None:
        return None
    _, polygon, face, part = best
    seen = viewport.at_home_of(part.move)
    plane = face.plane
    middle = plane.raised(roomiest(polygon))
    millimetre = seen.metres_per_pixel(middle) * viewport.height / paper_height
    square = seen.pixels(np.stack([middle, middle + plane.axes[0], middle + plane.axes[1]])) * [1.0, -1.0]
    return HatchOnFace(hatch, polygon, face, seen, millimetre, level_on_paper(square))


@dataclass
class PlaceHatch(StageTask):
    """The disc, or the area itself, moves the hatch; the far end of the line turns and sizes it. ``change`` is told what a rule
    says of it then, ``rule`` gives what it says now."""

    name: str = "place_hatch"
    element: int = 0
    change: Callable[[dict[str, object], str], None] = lambda said, merge: None
    rule: Callable[[], Rule | None] = lambda: None
    look_at: Callable[[], tuple[Viewport, float]] | None = None
    """The viewport of the stage, and how many mm of paper it is high."""

    def __post_init__(self) -> None:
        self.hint = "Drag the hatch to move it, the end of its line to turn and size it"
        self.also = "Shift: turns alone  ·  Ctrl: sizes alone  ·  Return or Esc ends"

    def lies(self) -> HatchOnFace | None:
        """Return where it lies now."""
        assert self.look_at is not None
        viewport, paper = self.look_at()
        return hatch_on_stage(self.session, viewport, self.element, paper)

    def shown(self) -> Preview | None:
        found = self.lies()
        if found is None:
            return None
        ends = self.ends(found)
        hatch = found.hatch
        apart = f"{hatch.finest:.2g} mm" if hatch.unit == "mm" else units.length(hatch.finest, 3)
        words = f"{hatch.turn:.0f}°, {apart}"
        line = Measure(found.face.plane.raised(ends[0]), found.face.plane.raised(ends[1]), words)
        return Preview(dots=(line.a, line.b), measures=(line,), move=found.viewport.move)

    @staticmethod
    def ends(found: HatchOnFace) -> Array:
        """(2, 2) the places in the plane it is moved by, and turned and sized by."""
        middle = found.middle
        long = ARM * found.viewport.metres_per_pixel(found.face.plane.raised(middle))
        return np.stack([middle, middle + long * np.array([math.cos(found.turned), math.sin(found.turned)])])

    def hold(self, at: Spot, viewport: Viewport) -> Drag | None:
        """What a press there takes hold of."""
        found = self.lies()
        if found is None:
            return None
        ends = found.viewport.pixels(found.face.plane.raised(self.ends(found)))
        here = np.array(at)
        if float(np.hypot(*(here - ends[1]))) <= NEAR:
            return HatchPull(at, self, found, turns=True)
        inside = shapely.covers(found.polygon, shapely.Point(found.under(at)))
        if float(np.hypot(*(here - ends[0]))) <= NEAR or inside:
            return HatchPull(at, self, found, turns=False)
        return None

    def click(self, pointer: Pointer) -> bool:
        return False


class HatchPull(Drag):
    """The hatch as it was when it was taken hold of."""

    clicks = False

    def __init__(self, start: Spot, task: PlaceHatch, found: HatchOnFace, turns: bool) -> None:
        super().__init__(start)
        self._task, self._found, self._turns = task, found, turns
        self._grip = found.middle if turns else found.under(start)
        self._wanted = found.place_of(self._grip)
        rule = task.rule()
        self._angle = (rule.hatch_angle if rule is not None else None) or 0.0
        self._scale = (rule.hatch_scale if rule is not None else None) or 1.0

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        found, hatch = self._found, self._found.hatch
        said: dict[str, object] = {}
        if not self._turns:
            moved = found.other(hatch, found.under(now), self._wanted)
        else:
            turn, times = self._turn(now, modifiers)
            said = {"hatch_angle": (self._angle + turn + 180.0) % 360.0 - 180.0, "hatch_scale": self._scale * times}
            changed = hatch.scaled(times).model_copy(update={"turn": hatch.turn + turn})
            moved = found.other(changed, self._grip, self._wanted * times)
        self._task.change({**said, "hatch_shift": moved.shift}, MERGE)

    def _turn(self, now: Spot, modifiers: Qt.KeyboardModifier) -> tuple[float, float]:
        """(degrees, how many times as large)."""
        first, second = (self._found.under(at) - self._grip for at in (self.start, now))
        lengths = float(np.hypot(*first)), float(np.hypot(*second))
        turn = math.degrees(math.atan2(second[1], second[0]) - math.atan2(first[1], first[0]))
        times = min(max(lengths[1] / max(lengths[0], 1e-9), 0.02), 50.0)
        if modifiers & Qt.KeyboardModifier.ControlModifier:
            turn = 0.0
        elif abs((self._angle + turn) / STEP - round((self._angle + turn) / STEP)) < 0.1:
            turn = STEP * round((self._angle + turn) / STEP) - self._angle
        return turn, 1.0 if modifiers & Qt.KeyboardModifier.ShiftModifier else times

    def end(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._task.session.end_step()

    def cancel(self) -> bool:
        self._task.session.cancel_step(MERGE)
        return True
