"""Angles, radii and diameters."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.app.stage.tasks import Pointer
from anatome.app.stage.writing.note_task import NoteTask, Z
from anatome.notes.note import Angle, Radius
from anatome.notes.setting import Spot
from anatome.problems import Problem

Array = NDArray[np.float64]


@dataclass
class WriteAngle(NoteTask):
    """The corner, a point each way, and how far out."""

    name: str = "note_angle"

    def say(self) -> None:
        what = ("the corner of the angle", "a point on its first side", "a point on its second side", "how far out its arc is")
        self.hint = f"Click {what[len(self.spots)]}"

    def _angle(self, spots: list[Spot], place: Array) -> Angle | None:
        corner, a, b = spots
        radius = float(np.linalg.norm(place - corner.place))
        if radius < 1e-3:
            return None
        return Angle(id=self.next_id, anchors=(corner.anchor, a.anchor, b.anchor), radius=radius)

    def _on_plane(self, pointer: Pointer) -> Array | None:
        corner, a, b = (s.place for s in self.spots)
        normal = np.cross(a - corner, b - corner)
        origin, direction = pointer.viewport.ray(*pointer.at)
        slope = float(direction @ normal)
        return None if abs(slope) < 1e-9 else origin + direction * (float((corner - origin) @ normal) / slope)

    def hover(self, pointer: Pointer) -> None:
        if len(self.spots) == 3:
            place = self._on_plane(pointer)
            self.show(None if place is None else self._angle(self.spots, place), None, "These three points make no angle")
            return
        spot = self.spot(pointer)
        ghost = None
        if spot is not None and len(self.spots) == 2:
            away = np.linalg.norm(spot.place - self.spots[0].place) / 2
            ghost = self._angle([*self.spots, spot], self.spots[0].place + Z * away)
        self.show(ghost, spot)

    def click(self, pointer: Pointer) -> bool:
        if len(self.spots) < 3:
            self.spots.append(self.needed(pointer))
            self.say()
            self.hover(pointer)
            return False
        place = self._on_plane(pointer)
        note = None if place is None else self._angle(self.spots, place)
        if note is None or not self.ghost(note):
            self.spots = []
            self.say()
            raise Problem("Those three points make no angle. Click its corner anew.")
        self.written(note, "Wrote an angle")
        self.preview = None
        return False


@dataclass
class WriteRadius(NoteTask):
    """Three points of a circle."""

    name: str = "note_radius"
    diameter: bool = False

    def say(self) -> None:
        what = "diameter" if self.diameter else "radius"
        count = ("first", "second", "third")[len(self.spots)]
        self.hint = f"Click the {count} of three points on the round, for its {what}"
        self.also = "Tab: radius or diameter  ·  Esc stops"

    def next_choice(self) -> None:
        self.diameter = not self.diameter
        self.say()

    def _radius(self, spots: list[Spot]) -> Radius:
        first, second, third = (s.anchor for s in spots)
        return Radius(id=self.next_id, anchors=(first, second, third), diameter=self.diameter)

    def hover(self, pointer: Pointer) -> None:
        spot = self.spot(pointer)
        ready = spot is not None and len(self.spots) == 2
        self.show(self._radius([*self.spots, spot]) if ready and spot is not None else None, spot)

    def click(self, pointer: Pointer) -> bool:
        spots = [*self.spots, self.needed(pointer)]
        if len(spots) < 3:
            self.spots = spots
            self.say()
            self.hover(pointer)
            return False
        note = self._radius(spots)
        if not self.ghost(note):
            self.spots = []
            self.say()
            raise Problem("Those three points lie on a line. Click three points of the round.")
        self.written(note, f"Wrote a {'diameter' if self.diameter else 'radius'}")
        self.preview = None
        return False
