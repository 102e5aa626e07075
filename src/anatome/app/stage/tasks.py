"""What can be picked on the stage to make or change a cut: each task previews under the pointer and acts on a click."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QKeyEvent

from anatome.app.base import units
from anatome.app.base.drag import Drag, Spot
from anatome.app.document.placing import place
from anatome.app.document.session import Session
from anatome.app.stage.noted import StageNotes
from anatome.cuts.clearance import clearance_at, snapped_corner
from anatome.cuts.cut import AnyCut
from anatome.cuts.directions import element_axis, plane_along, plane_through_points
from anatome.cuts.dissection import CutFace
from anatome.cuts.flat_view import flat_section
from anatome.cuts.moves import Move
from anatome.cuts.peel import build_up, peel_plane
from anatome.cuts.plane import Plane, Vector, vector
from anatome.cuts.reach import Reach
from anatome.cuts.section import Section
from anatome.model.raycast import Hit
from anatome.notes.marks import NoteMarks
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.scenes.edits import new_id
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]
Found = tuple[Hit, CutFace | None] | None

PEEL_SPACING = 0.6
NOTHING_HERE = "Nothing here: point at the building"
CORNER_PIXELS = 12.0


@dataclass(frozen=True, eq=False)
class Measure:
    """A dimension between two points on the picture, with its words."""

    a: Array
    b: Array
    text: str


@dataclass(frozen=True, eq=False)
class Preview:
    """What a task shows on the stage before anything is done: a plane at a point, dots, outlines, dimensions and notes."""

    plane: Plane | None = None
    point: Array | None = None
    dots: tuple[Array, ...] = ()
    measures: tuple[Measure, ...] = ()
    outlines: tuple[Array, ...] = ()
    notes: tuple[NoteMarks, ...] = ()
    move: Move | None = None
    """Where the piece is shown that it is about."""


@dataclass
class Pointer:
    """Where the pointer is in a picture of the building: at which pixels, on what, and whether Shift is held; over a detail its
    id. ``noted`` is what is written on that picture, ``move`` where its piece is shown; all else is as it stands at home."""

    at: tuple[float, float]
    found: Found
    shift: bool
    viewport: Viewport
    noted: StageNotes
    detail: str = ""
    move: Move | None = None


@dataclass
class StageTask:
    """Acts on clicks until it is done. ``hint`` is the one instruction of this step, ``also`` in small print what else can be
    done; ``preview`` is drawn over the picture, and ``why`` says beside the pointer why nothing can be done there."""

    session: Session
    hint: str = ""
    preview: Preview | None = None
    name: str = ""
    also: str = "Esc stops"
    why: str = ""
    _move: Move | None = None
    needs: ClassVar[str] = ""
    """Why nothing can be done where the pointer is over no part; nothing: it need not be over one."""

    def see(self, pointer: Pointer) -> None:
        """Show what a click here would do, or say why there is nothing it could do."""
        self.be_in(pointer)
        self.why = self.needs if pointer.found is None else ""
        self.hover(pointer)

    def be_in(self, pointer: Pointer) -> None:
        """The pointer is in this picture of the building, on this piece."""
        self._move = pointer.move

    def shown(self) -> Preview | None:
        """Return what is previewed, where the piece it is about is shown."""
        return None if self.preview is None else replace(self.preview, move=self._move)

    def hover(self, pointer: Pointer) -> None:
        """The pointer is here now."""

    def click(self, pointer: Pointer) -> bool:
        """Act; True when the task is done. Raises Problem when nothing can be done here."""
        raise NotImplementedError

    def key(self, event: QKeyEvent) -> bool:
        """Do what a key is for. Return True when it was for the task."""
        return False

    def hold(self, at: Spot, viewport: Viewport) -> Drag | None:
        """Return what a press there takes hold of, if that is for the task."""
        return None

    def next_choice(self) -> None:
        """Tab: the next of the task's choices, if it has any."""

    def finish(self) -> None:
        """Return: do what is done with what was clicked so far, before the task is over."""

    def stop(self) -> None:
        """The task is over, done or not."""


@dataclass
class PlaneTask(StageTask):
    """Tasks that end in a new section plane."""

    needs = NOTHING_HERE

    def plane_for(self, pointer: Pointer, hit: Hit) -> Plane:
        """Return the plane a click here would make. Raises Problem."""
        raise NotImplementedError

    def hover(self, pointer: Pointer) -> None:
        self.preview = None
        if pointer.found is not None:
            hit = pointer.found[0]
            try:
                self.preview = Preview(self.plane_for(pointer, hit), np.array(hit.point))
            except Problem as problem:
                self.why = str(problem)

    def click(self, pointer: Pointer) -> bool:
        if pointer.found is None:
            raise Problem("There is nothing under the pointer. Click on the building.")
        add_plane(self.session, self.plane_for(pointer, pointer.found[0]))
        return True


def add_plane(session: Session, plane: Plane) -> None:
    """A new section plane, picked."""
    cut_id = new_id()
    project = edits.add_plane(session.project, plane, cut_id)
    place(session, project, cut_id)


@dataclass
class OnFace(PlaneTask):
    """Parallel to the face under the pointer, in it."""

    hint: str = "Click a face to cut parallel to it"
    also: str = "Shift keeps the direction  ·  Esc stops"
    name: str = "place"
    kept: Vector | None = None

    def plane_for(self, pointer: Pointer, hit: Hit) -> Plane:
        if not pointer.shift or self.kept is None:
            self.kept = hit.normal
        return Plane(hit.point, self.kept)


AXES = (("X", (1.0, 0.0, 0.0)), ("Y", (0.0, 1.0, 0.0)), ("Z", (0.0, 0.0, 1.0)))


@dataclass
class AcrossAxis(PlaneTask):
    """At right angles to an axis of the model, through the point under the pointer."""

    name: str = "plane_axis"
    axis: int = 0

    def __post_init__(self) -> None:
        self._say()

    def _say(self) -> None:
        self.hint = f"Click a point to cut across {AXES[self.axis][0]} there"
        self.also = "Tab: another axis  ·  Esc stops"

    def next_choice(self) -> None:
        self.axis = (self.axis + 1) % 3
        self._say()

    def plane_for(self, pointer: Pointer, hit: Hit) -> Plane:
        normal = np.array(AXES[self.axis][1])
        towards = pointer.viewport.towards(np.array(hit.point))
        return Plane(hit.point, vector(normal if normal @ towards >= 0 else -normal))


@dataclass
class AlongPart(PlaneTask):
    """Upright along the length of the part under the pointer."""

    hint: str = "Click a wall to cut along its axis"
    also: str = "Shift: in its face  ·  Esc stops"
    name: str = "plane_along"

    def plane_for(self, pointer: Pointer, hit: Hit) -> Plane:
        assert self.session.building is not None
        axis = element_axis(self.session.building, hit.element)
        return plane_along(axis, pointer.viewport.towards(np.array(hit.point)), face=pointer.shift)


@dataclass
class ThroughPoints(StageTask):
    """Through three points clicked on the building."""

    needs = NOTHING_HERE
    name: str = "plane_points"
    points: list[Array] = field(default_factory=list)

    def __post_init__(self) -> None:
        self._say()

    def _say(self) -> None:
        count = ("first", "second", "third")[len(self.points)]
        self.hint = f"Click the {count} of three points"

    def _plane(self, pointer: Pointer) -> Plane:
        assert pointer.found is not None
        third = np.array(pointer.found[0].point)
        return plane_through_points(np.array([*self.points, third]), pointer.viewport.towards(third))

    def hover(self, pointer: Pointer) -> None:
        here = () if pointer.found is None else (np.array(pointer.found[0].point),)
        self.preview = Preview(dots=(*self.points, *here))
        if len(self.points) == 2 and here:
            try:
                self.preview = Preview(self._plane(pointer), here[0], (*self.points, *here))
            except Problem as problem:
                self.why = str(problem)

    def click(self, pointer: Pointer) -> bool:
        if pointer.found is None:
            raise Problem("There is nothing under the pointer. Click a point of the building.")
        if len(self.points) == 2:
            add_plane(self.session, self._plane(pointer))
            return True
        self.points.append(np.array(pointer.found[0].point))
        self._say()
        self.hover(pointer)
        return False


@dataclass
class MatchDirection(StageTask):
    """Turn a cut to the direction of the part under the pointer."""

    needs = NOTHING_HERE
    hint: str = "Click a wall to turn the cut to its direction"
    name: str = "match"

    def click(self, pointer: Pointer) -> bool:
        session, cut = self.session, self.session.cut
        if pointer.found is None or cut is None or session.building is None:
            raise Problem("There is nothing under the pointer. Click a wall.")
        if cut.locked:
            raise Problem(f"{cut.name} is locked. Unlock it in the inspector to turn it.")
        degrees = element_axis(session.building, pointer.found[0].element).degrees
        changed = matched(cut, degrees, np.array(pointer.found[0].point))
        session.apply(edits.put_cut(session.project, changed), f"{cut.name} now lies like that wall")
        return True


def matched(cut: AnyCut, degrees: float, about: Array) -> AnyCut:
    """Turned by the least angle after which the cut lies along a direction or across it."""
    swing = (degrees - cut.heading + 45.0) % 90.0 - 45.0
    return cut.turned(about, swing)


@dataclass
class PeelPart(StageTask):
    """Peel the build-up that the part under the pointer belongs to."""

    needs = NOTHING_HERE
    hint: str = "Click a part of the roof or wall to peel its layers"
    name: str = "peel"

    def click(self, pointer: Pointer) -> bool:
        session = self.session
        if pointer.found is None or session.building is None:
            raise Problem("There is nothing under the pointer. Click a part of a roof or a wall.")
        index = pointer.found[0].element
        layers = build_up(session.building, index, session.shown(), np.array(pointer.found[0].point))
        peel = new_id()
        project = edits.add_peel(session.project, layers, peel_plane(session.building, index), PEEL_SPACING, peel)
        place(session, project, edits.peel_of(project, peel)[0].id, f"Peeled {len(layers)} layers")
        return True


@dataclass
class ReachPart(StageTask):
    """Put parts into the reach of the picked cut, or take them out, one click each."""

    needs = NOTHING_HERE
    hint: str = "Click parts the cut is to affect, or no longer"
    also: str = "Return or Esc ends"
    name: str = "reach_pick"

    def click(self, pointer: Pointer) -> bool:
        session, cut = self.session, self.session.cut
        if cut is None or session.building is None:
            return True
        if pointer.found is None:
            raise Problem("There is nothing under the pointer. Click a part, or press Return to end.")
        element = session.building.elements[pointer.found[0].element]
        what = cut.reach.what
        inside = bool(what.mask(session.building)[pointer.found[0].element])
        if inside and element.id not in what.elements:
            raise Problem(
                f"{element.name or 'This part'} is meant by its type, layer, material or storey. Change that in the list."
            )
        # A part clicked in a picture that is cut open is one that should not have been cut.
        mode = "all but" if cut.reach.mode == "everything" else cut.reach.mode
        what = what.with_changed("elements", frozenset({element.id}), not inside)
        reach = Reach(mode=mode, what=what)
        verb = "out of" if inside else "into"
        session.apply(
            edits.change_cut(session.project, cut.id, reach=reach), f"{element.name or 'The part'} {verb} the reach of {cut.name}"
        )
        return False

    def stop(self) -> None:
        self.session.mark(frozenset())


@dataclass
class PickRectangle(StageTask):
    """The next drag draws a rectangle that picks; what it does lies with the hands."""

    name: str = "pick_rectangle"

    def __post_init__(self) -> None:
        self.hint = "Drag a rectangle"
        self.also = "Down: what it encloses  ·  up: what it touches  ·  with Alt: take out  ·  Esc stops"

    def click(self, pointer: Pointer) -> bool:
        return False


@dataclass
class PickNotes(PickRectangle):
    """The same for notes."""

    name: str = "pick_notes_in"


@dataclass
class MeasureFace(StageTask):
    """Clear height and width about the pointer on a cut face; two clicks give the distance between them."""

    name: str = "measure"
    first: Array | None = None
    pinned: bool = False

    def __post_init__(self) -> None:
        self.hint = "Click twice for the distance between"
        self.also = "At the pointer: clear height and width  ·  Esc stops"

    def _section(self) -> Section | None:
        session = self.session
        faces = session.left().faces
        cut = session.cut or next((f.cut for f in faces), None)
        return None if cut is None else flat_section(cut, faces)

    def _place(self, pointer: Pointer, found: Section) -> Array | None:
        origin, direction = pointer.viewport.ray(*pointer.at)
        slope = float(direction @ found.plane.n)
        if abs(slope) < 1e-6:
            return None
        point = origin - direction * float(found.plane.distance(origin)) / slope
        reach = CORNER_PIXELS * pointer.viewport.metres_per_pixel(point)
        return snapped_corner(found, found.plane.flat(point), reach)

    def hover(self, pointer: Pointer) -> None:
        found = self._section()
        place = None if found is None else self._place(pointer, found)
        if found is None or place is None:
            self.why = "There is no cut face here"
        if found is None or place is None or self.pinned:
            return
        raised = found.plane.raised
        if self.first is not None:
            length = float(np.hypot(*(place - self.first)))
            across, upward = np.abs(place - self.first)
            parts = f"  ({units.bare_length(across)} across, {units.bare_length(upward)} up)"
            text = units.length(length) + (parts if min(across, upward) > 1e-3 else "")
            ends = raised(self.first), raised(place)
            self.preview = Preview(dots=ends, measures=(Measure(*ends, text),))
            return
        clear = clearance_at(found, place)
        lines = []
        if clear is not None and clear.height is not None:
            assert clear.up is not None and clear.down is not None
            a, b = place - [0, clear.down], place + [0, clear.up]
            lines.append(Measure(raised(a), raised(b), f"{units.length(clear.height)} clear"))
        if clear is not None and clear.width is not None:
            assert clear.left is not None and clear.right is not None
            a, b = place - [clear.left, 0], place + [clear.right, 0]
            lines.append(Measure(raised(a), raised(b), f"{units.length(clear.width)} clear"))
        self.preview = Preview(dots=(raised(place),), measures=tuple(lines))

    def click(self, pointer: Pointer) -> bool:
        found = self._section()
        if found is None:
            raise Problem("There is no cut to measure on. Place one first.")
        if self.pinned:
            self.first, self.pinned = None, False
            self.hover(pointer)
        elif self.first is None:
            self.first = self._place(pointer, found)
        else:
            self.hover(pointer)
            self.pinned = True
            if self.preview is not None and self.preview.measures:
                self.session.said.emit(f"Distance on the cut face: {self.preview.measures[0].text}")
        return False
