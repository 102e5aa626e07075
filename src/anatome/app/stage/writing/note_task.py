"""What all tasks have in common that write a note: finding its anchors, showing it before it is written."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from anatome.app.stage.noted import StageNotes
from anatome.app.stage.tasks import NOTHING_HERE, Pointer, Preview, StageTask
from anatome.notes.anchors import anchored
from anatome.notes.drawn import marks_of
from anatome.notes.marks import NoteMarks
from anatome.notes.note import AnyNote
from anatome.notes.setting import Spot, spot_under
from anatome.problems import Problem
from anatome.scenes.edits import new_id

Array = NDArray[np.float64]
NEAR = 11.0
"""Pixels within which a corner is meant."""
Z = np.array([0.0, 0.0, 1.0])
NO_WAY = np.zeros(3)


@dataclass
class NoteTask(StageTask):
    """Something is written; ``noted`` has what is written already."""

    noted: StageNotes = field(kw_only=True)
    spots: list[Spot] = field(default_factory=list)
    next_id: str = ""
    edit: Callable[[str], None] = field(default=lambda note: None, kw_only=True)
    """Have the words of a new note typed."""

    def be_in(self, pointer: Pointer) -> None:
        super().be_in(pointer)
        self.noted = pointer.noted

    def __post_init__(self) -> None:
        self.next_id = self.next_id or new_id()
        self.say()

    def say(self) -> None:
        """What a click would do now."""

    def spot(self, pointer: Pointer) -> Spot | None:
        """Return what the pointer means: a corner of a cut face, of the part under it, or a place on it."""
        session = self.session
        number = None if pointer.found is None else pointer.found[0].element
        parts = [part for part in session.on_stage().parts if part.detail == pointer.detail]
        left = next((p.cut_open for p in parts if number is not None and p.cut_open.shown[number]), parts[0].cut_open)
        spot = spot_under(left, pointer.found, pointer.viewport, pointer.at, NEAR)
        if spot is None or not pointer.detail:
            return spot
        return replace(spot, anchor=spot.anchor.model_copy(update={"detail": pointer.detail}))

    def spot_anywhere(self, pointer: Pointer) -> Spot | None:
        """Return what the pointer means also over nothing: a corner or a cut face there, else the plane of the cut one looks
        square on to, else what is under the pointer, else the air where one looks."""
        found = NoteTask.spot(self, pointer)
        if found is not None and (found.sure or found.anchor.cut):
            return found
        session, building = self.session, self.session.building
        assert building is not None
        viewport = pointer.viewport
        origin, direction = viewport.ray(*pointer.at)
        plane = self.noted.state().true_plane(session.picked.cut)
        cut = None
        if plane is not None:
            cut = next((c for c in session.stage.active_cuts if any(plane in cell.planes for cell in c.cells())), None)
        if plane is not None and cut is not None:
            place = origin - direction * (float(plane.distance(origin)) / float(direction @ plane.n))
            anchor = anchored(building, place, "", cut=cut.id, face=cut.face_name(plane), along=plane.normal)
            return Spot(anchor, "surface", plane.n)
        if found is not None:
            return found
        target = np.array(session.stage.camera.target)
        away = float((target - origin) @ direction) / max(float(direction @ direction), 1e-12)
        return Spot(anchored(building, origin + direction * away), "surface", NO_WAY)

    def needed(self, pointer: Pointer) -> Spot:
        """Return the same; raises Problem where there is nothing."""
        found = self.spot(pointer)
        if found is None:
            raise Problem("There is nothing under the pointer. Click on the building.")
        return found

    def ghost(self, note: AnyNote | None) -> tuple[NoteMarks, ...]:
        """Return a note as it would be drawn."""
        marks = None if note is None else marks_of(note, self.noted.view())
        return () if marks is None or marks.gone else (marks,)

    def show(self, note: AnyNote | None, spot: Spot | None, why: str = NOTHING_HERE) -> None:
        """Preview a note with dots at its anchors; ``why`` there is none, where there is neither it nor a place to go on."""
        here = () if spot is None else (spot.place,)
        ghost = self.ghost(note)
        self.preview = Preview(dots=(*(s.place for s in self.spots), *here), notes=ghost)
        if not ghost and spot is None:
            self.why = why

    def written(self, note: AnyNote, said: str) -> None:
        """It stands there; the next one may be begun."""
        self.noted.put([note], said)
        self.next_id, self.spots = new_id(), []
        self.say()
