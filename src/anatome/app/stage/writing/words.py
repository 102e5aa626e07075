"""Levels, labels, plain words and names of rooms."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.app.stage.tasks import Pointer
from anatome.app.stage.writing.note_task import NoteTask
from anatome.cuts.plane import Vector, vector
from anatome.notes.anchors import anchored
from anatome.notes.labels import label_lie
from anatome.notes.note import Label, Level
from anatome.notes.setting import Spot, space_at
from anatome.problems import Problem

Array = NDArray[np.float64]


@dataclass
class WriteLevel(NoteTask):
    """A height mark at every click."""

    name: str = "note_level"
    to_left: bool = False

    def say(self) -> None:
        self.hint = "Click a point to write its height"
        self.also = "Tab: to the other side  ·  Return or Esc ends"

    def next_choice(self) -> None:
        self.to_left = not self.to_left

    def _level(self, spot: Spot) -> Level:
        plane = vector(spot.normal) if abs(spot.normal[2]) < 0.3 else None
        return Level(id=self.next_id, anchors=(spot.anchor,), plane=plane, shift=-6.0 if self.to_left else 6.0)

    def hover(self, pointer: Pointer) -> None:
        spot = self.spot(pointer)
        self.show(None if spot is None else self._level(spot), spot)

    def click(self, pointer: Pointer) -> bool:
        self.written(self._level(self.needed(pointer)), "Wrote a level")
        self.preview = None
        return False


@dataclass
class WriteLabel(NoteTask):
    """A part, then where its words stand."""

    name: str = "note_label"
    text: str = "{name}"
    plain: bool = False
    """Words without a leader, typed at once."""

    def say(self) -> None:
        self.also = (
            "Then type, and click where the next one stands  ·  Esc stops" if self.plain else "Tab: what it says  ·  Esc stops"
        )
        if self.plain:
            self.hint = "Click where the text should stand"
        elif not self.spots:
            self.hint = "Click the part the label speaks of"
        else:
            self.hint = "Click where its words should stand"
            self.also = "Shift and a click: it points at another part too  ·  Tab: what it says  ·  Esc stops"

    def next_choice(self) -> None:
        self.text = SAYS[(SAYS.index(self.text) + 1) % len(SAYS)] if self.text in SAYS else SAYS[0]

    def _label(self, spots: list[Spot], offset: tuple[float, float]) -> Label:
        anchors = tuple(s.anchor for s in spots)
        return Label(id=self.next_id, anchors=anchors, text=self.text, each=len(anchors) > 1, offset=offset)

    def _offset(self, pointer: Pointer) -> tuple[float, float]:
        view = self.noted.view()
        met = view.met(self.spots[0].anchor)
        here = self.noted.paper(pointer.at)
        there = here if met is None else view.flat(met).on_paper(met.place)
        x, y = here - there
        return float(x), float(y)

    def hover(self, pointer: Pointer) -> None:
        if self.spots:
            self.show(self._label(self.spots, self._offset(pointer)), None)
            return
        spot = self.spot(pointer)
        if spot is None:
            self.show(None, None)
            return
        note = self._label([spot], (0.0, 0.0) if self.plain else (10.0, 8.0))
        self.show(note.model_copy(update={"leader": False, "text": "Text"}) if self.plain else note, spot)

    def click(self, pointer: Pointer) -> bool:
        if self.plain:
            spot = self.needed(pointer)
            note = self._label([spot], (0.0, 0.0)).model_copy(update={"leader": False, "text": "Text"})
            self.written(note, "Wrote text")
            self.session.pick(notes=[note.id])
            self.edit(note.id)
            self.preview = None
            return False
        if not self.spots or pointer.shift:
            self.spots.append(self.needed(pointer))
            self.say()
            self.hover(pointer)
            return False
        note = self._label(self.spots, self._offset(pointer))
        self.written(note, "Wrote a label")
        self.session.pick(notes=[note.id])
        self.preview = None
        return False


@dataclass
class BendLeader(NoteTask):
    """Bends of a label's leader, from its words on."""

    name: str = "note_bend"
    label: str = ""

    def say(self) -> None:
        self.hint = "Click where the leader bends, from the words on"
        self.also = "Return or Esc ends"

    def _bent(self, pointer: Pointer) -> Label | None:
        note = self.session.stage.note(self.label)
        if not isinstance(note, Label):
            return None
        view = self.noted.view()
        met = view.met(note.anchors[0])
        if met is None:
            return None
        lie = label_lie(note, met, view)
        right, up = lie.axes(np.array(note.offset))
        by = self.noted.paper(pointer.at) - lie.spread(np.zeros(2))
        flat = np.linalg.lstsq(np.stack([right, up], axis=1), by, rcond=None)[0]
        return note.model_copy(update={"bends": (*note.bends, (float(flat[0]), float(flat[1])))})

    def hover(self, pointer: Pointer) -> None:
        self.show(self._bent(pointer), None, "")

    def click(self, pointer: Pointer) -> bool:
        note = self._bent(pointer)
        if note is None:
            raise Problem("The label is no longer there.")
        self.noted.put([note], "Bent the leader")
        return False


SAYS = ("{name}", "{material}", "{material} {thickness}", "{type}", "{name}\n{area}")
"""What a label says, one after the other with Tab; anything else is typed."""


@dataclass
class NameRoom(NoteTask):
    """The name and area of the room one points into."""

    name: str = "note_room"

    def say(self) -> None:
        self.hint = "Click into a room to write its name and area there"
        self.also = "Return or Esc ends"

    def _room(self, pointer: Pointer) -> Label | None:
        building = self.session.building
        assert building is not None
        place, plane = self._place(pointer)
        space = None if place is None else space_at(building, place)
        if space is None or place is None:
            return None
        anchor = anchored(building, place, space.id, **self._cut)
        return Label(id=self.next_id, anchors=(anchor,), text="{name}\n{area}", leader=False, plane=plane)

    def _place(self, pointer: Pointer) -> tuple[Array | None, Vector | None]:
        """On the cut one looks square on to, where that is in a room; else on the floor or the wall one points at."""
        self._cut: dict[str, object] = {}
        session, building = self.session, self.session.building
        assert building is not None
        plane = self.noted.state().true_plane(session.picked.cut)
        origin, direction = pointer.viewport.ray(*pointer.at)
        if plane is not None:
            place = origin - direction * (float(plane.distance(origin)) / float(direction @ plane.n))
            if space_at(building, place) is not None:
                cut = next((c for c in session.stage.active_cuts if any(plane in cell.planes for cell in c.cells())), None)
                if cut is not None:
                    self._cut = {"cut": cut.id, "face": cut.face_name(plane), "along": plane.normal}
                return place, plane.normal
        if pointer.found is None or pointer.found[1] is not None:
            return None, None
        hit = pointer.found[0]
        return np.array(hit.point) + 0.02 * np.array(hit.normal), hit.normal

    def hover(self, pointer: Pointer) -> None:
        self.show(self._room(pointer), None, "No room here: point into one, or at its floor")

    def click(self, pointer: Pointer) -> bool:
        note = self._room(pointer)
        if note is None:
            raise Problem("There is no room there. Click into the air of one, or on its floor; the model has to have spaces.")
        self.written(note, "Wrote the name of a room")
        self.preview = None
        return False
