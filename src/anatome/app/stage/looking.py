"""Tasks that only move the camera: walking through the building, and looking square at a face."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent

from anatome.app.document.session import RUN
from anatome.app.stage.tasks import NOTHING_HERE, Pointer, StageTask
from anatome.problems import Problem
from anatome.view.camera import vec
from anatome.view.walking import Met, in_the_way, set_down, turned, walked

PACE, LONG_PACE, TURN = 0.5, 2.0, 7.5
"""Metres of a step, with Shift, and degrees of a turn."""
KEYS = {
    Qt.Key.Key_Up: (1.0, 0.0),
    Qt.Key.Key_Down: (-1.0, 0.0),
    Qt.Key.Key_Left: (0.0, 1.0),
    Qt.Key.Key_Right: (0.0, -1.0),
}


@dataclass
class Walk(StageTask):
    """A click sets one down, arrows walk and turn, a drag looks around. It goes by the building as its cuts leave it."""

    name: str = "walk"
    _met: Met | None = None
    _of: object = None

    def __post_init__(self) -> None:
        self.hint = "Click a floor to stand there"
        self.also = "Arrows walk and turn, Shift far, Ctrl aside  ·  a drag looks round  ·  Esc ends"

    def _way(self) -> Met:
        left = self.session.kept()
        if self._met is None or self._of is not left:
            self._met, self._of = in_the_way(left), left
        return self._met

    def click(self, pointer: Pointer) -> bool:
        if pointer.found is None:
            raise Problem("There is no floor under the pointer. Click a floor, a stair or the ground.")
        hit = pointer.found[0]
        if abs(hit.normal[2]) < 0.5:
            raise Problem("One cannot stand on that. Click a floor, a stair or the ground.")
        camera = set_down(self.session.stage.camera, self._way(), np.array(hit.point) + [0.0, 0.0, 0.3])
        if camera is None:
            raise Problem("There is no floor here. Click a floor, a stair or the ground.")
        self.session.look_from(camera, "Stood there")
        return False

    def key(self, event: QKeyEvent) -> bool:
        """Walk or turn by an arrow key."""
        found = KEYS.get(Qt.Key(event.key()))
        camera = self.session.stage.camera
        if found is None or not camera.is_perspective:
            return False
        ahead, left = found
        pace = LONG_PACE if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else PACE
        if left and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.session.look_from(turned(camera, left * TURN), "Walked", RUN)
            return True
        camera, stopped = walked(camera, self._way(), ahead * pace, -left * pace)
        self.session.look_from(camera, "Walked", RUN)
        if stopped:
            self.session.said.emit({"a wall": "There is a wall", "no floor": "There is no floor to step on"}[stopped])
        return True


@dataclass
class FaceSquare(StageTask):
    """A click looks square at a face, in parallel projection: so a turned wing has a front."""

    needs = NOTHING_HERE
    name: str = "look_square"
    aspect: float = 1.5

    def __post_init__(self) -> None:
        self.hint = "Click a face to look square at it"

    def click(self, pointer: Pointer) -> bool:
        if pointer.found is None:
            raise Problem("There is nothing under the pointer. Click a face of the building.")
        session, normal = self.session, np.array(pointer.found[0].normal)
        level = abs(normal[2]) < 0.7
        normal = normal * [1.0, 1.0, 0.0] if level else np.array([0.0, 0.0, np.sign(normal[2])])
        normal = normal / np.linalg.norm(normal)
        camera, place = session.stage.camera, np.array(pointer.found[0].point)
        plain = {"projection": "parallel", "shear": (0.0, 0.0), "shift": (0.0, 0.0)}
        up = (0.0, 0.0, 1.0) if level else vec(camera.axes[1] * [1.0, 1.0, 0.0] + [0.0, 1e-9, 0.0])
        facing = camera.model_copy(update=plain).placed(place + normal * 10.0, place, up)
        session.look_from(facing.fitted_round(session.left_corners(), self.aspect), "Looked square at a face")
        session.said.emit("Looking square at the face")
        return True
