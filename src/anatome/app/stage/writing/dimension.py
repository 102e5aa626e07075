"""Dimensions and chains: corner after corner, then a click beside."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.app.stage.tasks import Pointer
from anatome.app.stage.writing.note_task import NoteTask, Z
from anatome.cuts.plane import Plane, vector
from anatome.notes.note import Dimension
from anatome.notes.setting import Spot
from anatome.problems import Problem

Array = NDArray[np.float64]
SQUARE = 0.02
"""Share of a length by which it may lie off a direction and still count as running along it."""


@dataclass(frozen=True, eq=False)
class NotePlane:
    """In which plane a dimension could lie: its name and normal, nothing for square to the view."""

    name: str
    normal: Array | None


@dataclass
class WriteDimension(NoteTask):
    """A dimension, or a chain of them: corners one after another, then a click beside."""

    name: str = "note_dimension"
    choice: int = 0
    chain: str = ""
    """The id of a dimension that takes further corners."""

    def say(self) -> None:
        self.also = "Esc stops"
        if self.chain:
            self.hint, self.also = "Click further corners for the chain", "Return or Esc ends"
        elif len(self.spots) < 2:
            self.hint = f"Click the {'first' if not self.spots else 'second'} corner"
        else:
            self.hint = "Click where the line should sit"
            self.also = f"It lies {self.plane().name}  ·  Tab: otherwise  ·  a further corner: a chain  ·  Shift: not at a corner"

    def next_choice(self) -> None:
        self.choice += 1
        self.say()

    # Where it would lie ------------------------------------------------------------------------------------------

    def planes(self) -> list[NotePlane]:
        """Return the planes the corners could be measured in, the likeliest first."""
        first, last = self.spots[0], self.spots[-1]
        way = last.place - first.place
        size = max(float(np.linalg.norm(way)), 1e-9)
        found: list[NotePlane] = []

        def offer(name: str, normal: Array) -> None:
            normal = normal / max(float(np.linalg.norm(normal)), 1e-9)
            if abs(float(normal @ way)) > SQUARE * size:
                return
            if not any(p.normal is not None and abs(float(p.normal @ normal)) > 1 - 1e-6 for p in found):
                found.append(NotePlane(name, normal))

        cuts = {spot.anchor.cut for spot in self.spots}
        if "" not in cuts and len(cuts) == 1:
            offer("in the cut face", first.normal)
        for spot in (first, last):
            offer("in the floor" if abs(spot.normal[2]) > 0.9 else "in the wall's face", spot.normal)
        level = float(np.hypot(way[0], way[1]))
        if level > SQUARE * size:
            offer("upright", np.array([-way[1], way[0], 0.0]))
        offer("level", Z)
        return [*found, NotePlane("square to the view", None)]

    def plane(self) -> NotePlane:
        """Return the one that is chosen."""
        planes = self.planes()
        return planes[self.choice % len(planes)]

    def dimension(self, pointer: Pointer) -> Dimension | None:
        """Return what a click here would place."""
        chosen, places = self.plane(), np.array([s.place for s in self.spots])
        normal = pointer.viewport.towards(places[0]) if chosen.normal is None else chosen.normal
        origin, direction = pointer.viewport.ray(*pointer.at)
        slope = float(direction @ normal)
        if abs(slope) < 1e-6:
            return None
        spot = origin + direction * (float((places[0] - origin) @ normal) / slope)
        along = self._along(places, spot, normal, chosen.normal is None)
        offset = spot - places[0]
        offset = offset - (offset @ along) * along
        offset = offset - (offset @ normal) * normal if chosen.normal is not None else offset
        plane = None if chosen.normal is None else vector(chosen.normal)
        anchors = tuple(s.anchor for s in self.spots)
        return Dimension(
            id=self.next_id,
            anchors=anchors,
            along=vector(along),
            plane=plane,
            offset=vector(offset),
            overall=len(anchors) > 2,
        )

    @staticmethod
    def _along(places: Array, spot: Array, normal: Array, free: bool) -> Array:
        """Along the corners where they lie in a row; else level or upright, as the pointer lies over or beside them."""
        way = places[-1] - places[0]
        size = max(float(np.linalg.norm(way)), 1e-12)
        aligned = way / size
        if free:
            return np.asarray(aligned)
        right, up = Plane(vector(places[0]), vector(normal)).axes
        for axis in (right, up):
            if float(np.linalg.norm(way - (way @ axis) * axis)) < SQUARE * size:
                return np.asarray(axis)
        x, y = places @ right, places @ up
        here_x, here_y = float(spot @ right), float(spot @ up)
        out_x = max(float(x.min()) - here_x, here_x - float(x.max()))
        out_y = max(float(y.min()) - here_y, here_y - float(y.max()))
        if max(out_x, out_y) <= 0:
            return np.asarray(aligned)
        return np.asarray(right if out_y >= out_x else up)

    # Mouse and keys -------------------------------------------------------------------------------------------------------

    def _goes_on(self, spot: Spot | None, pointer: Pointer) -> bool:
        """Whether a click here adds a corner."""
        if spot is None or pointer.shift:
            return False
        if len(self.spots) < 2:
            return True
        return spot.sure and all(float(np.linalg.norm(spot.place - s.place)) > 1e-6 for s in self.spots)

    def hover(self, pointer: Pointer) -> None:
        spot = self.spot(pointer)
        self.say()
        if self.chain:
            self.show(self._longer(spot) if spot is not None else None, spot)
        elif len(self.spots) < 2:
            ghost = None
            if spot is not None and self.spots:
                self.spots.append(spot)
                ghost = self.dimension(pointer) if self._apart() else None
                self.spots.pop()
            self.show(ghost, spot)
        elif self._goes_on(spot, pointer):
            assert spot is not None
            self.hint = f"Click the {spot.what} to go on there"
            self.also = "Shift: the line sits here  ·  Esc stops"
            self.show(self.dimension(pointer), spot)
        else:
            self.show(self.dimension(pointer), None, f"Seen like this it cannot lie {self.plane().name}: press Tab")

    def _apart(self) -> bool:
        return float(np.linalg.norm(self.spots[-1].place - self.spots[0].place)) > 1e-6

    def _longer(self, spot: Spot) -> Dimension | None:
        note = self.session.stage.note(self.chain)
        if not isinstance(note, Dimension):
            return None
        return note.model_copy(update={"anchors": (*note.anchors, spot.anchor), "overall": True})

    def click(self, pointer: Pointer) -> bool:
        spot = self.spot(pointer)
        if self.chain:
            longer = self._longer(self.needed(pointer))
            if longer is None:
                return True
            self.noted.put([longer], "The chain goes on")
            return False
        if self._goes_on(spot, pointer):
            assert spot is not None
            if self.spots and float(np.linalg.norm(spot.place - self.spots[-1].place)) < 1e-6:
                raise Problem("That is the same corner. Click another one.")
            self.spots.append(spot)
            self.hover(pointer)
            return False
        if len(self.spots) < 2:
            raise Problem("There is nothing under the pointer. Click a corner of the building.")
        note = self.dimension(pointer)
        if note is None:
            raise Problem("Seen like this the dimension has no place there. Press Tab to lay it into another plane.")
        self.written(note, "Wrote a chain of dimensions" if len(note.anchors) > 2 else "Wrote a dimension")
        self.preview = None
        return False
