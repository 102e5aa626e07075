"""Lines and areas drawn by hand: corner by corner, on what is pointed at or on the paper."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from anatome.app.stage.tasks import Pointer, Preview
from anatome.app.stage.writing.note_task import NEAR, NoteTask
from anatome.notes.anchors import Anchor
from anatome.notes.marks import NoteMarks
from anatome.notes.note import Shape
from anatome.notes.setting import Spot
from anatome.scenes.edits import new_id

Array = NDArray[np.float64]


@dataclass
class DrawShape(NoteTask):
    """A click at every corner; the last or the first one again, or Return, ends it. On the building its corners go along with
    what they lie on, in the plane of a cut that is seen true wherever they are; on the paper it keeps its size there."""

    name: str = "draw_line"
    closed: bool = False
    on_paper: bool = False
    points: list[Array] = field(default_factory=list)
    """Mm on the paper of the stage, of the corners so far."""

    def say(self) -> None:
        what = "area" if self.closed else "line"
        if not self.spots:
            self.hint = f"Click where the {what} begins"
        else:
            self.hint = "Click its next corner"
        ends = "  ·  Return or the first corner ends it" if self.closed else "  ·  Return or the last corner again ends it"
        other = "Tab: on the building" if self.on_paper else "Tab: on the paper"
        self.also = f"{other}{ends if self.spots else ''}  ·  Shift: straight  ·  Esc stops"

    def next_choice(self) -> None:
        if not self.spots:
            self.on_paper = not self.on_paper
        self.say()

    def spot(self, pointer: Pointer) -> Spot | None:
        return self.spot_anywhere(pointer)

    def _straight(self, pointer: Pointer) -> Pointer:
        """With Shift level, upright or along a diagonal from the corner before, on the screen."""
        if not pointer.shift or not self.spots:
            return pointer
        last = pointer.viewport.pixels(self.spots[-1].place)
        arm = np.array(pointer.at) - last
        turn = np.round(np.arctan2(arm[1], arm[0]) / (np.pi / 4)) * (np.pi / 4)
        way = np.array([np.cos(turn), np.sin(turn)])
        at = last + way * float(arm @ way)
        return replace(pointer, at=(float(at[0]), float(at[1])), found=None)

    def _shape(self, spots: list[Spot], points: list[Array]) -> Shape | None:
        if len(spots) < 2:
            return None
        closed = self.closed and len(spots) > 2
        if not self.on_paper:
            return Shape(id=self.next_id, anchors=tuple(spot.anchor for spot in spots), closed=closed)
        first: Anchor = spots[0].anchor
        view = self.noted.view()
        met = view.met(first)
        here = points[0] if met is None else view.flat(met).on_paper(met.place)
        flat = tuple((float(x), float(y)) for x, y in (np.array(points) - here).tolist())
        return Shape(id=self.next_id, anchors=(first,), points=flat, closed=closed)

    def hover(self, pointer: Pointer) -> None:
        pointer = self._straight(pointer)
        spot = self.spot(pointer)
        spots = self.spots if spot is None else [*self.spots, spot]
        note = self._shape(spots, [*self.points, self.noted.paper(pointer.at)])
        ghosts: tuple[NoteMarks, ...] = self.ghost(note)
        self.preview = Preview(dots=() if self.on_paper else tuple(own.place for own in spots), notes=ghosts)

    def click(self, pointer: Pointer) -> bool:
        pointer = self._straight(pointer)
        again = self.spots[0 if self.closed else -1] if len(self.spots) > (2 if self.closed else 1) else None
        if again is not None and float(np.hypot(*(pointer.viewport.pixels(again.place) - pointer.at))) < NEAR:
            self.finish()
            return False
        self.spots.append(self.needed(pointer))
        self.points.append(self.noted.paper(pointer.at))
        self.say()
        self.hover(pointer)
        return False

    def finish(self) -> None:
        """What was drawn stands there, and is picked; another one may be begun."""
        note = self._shape(self.spots, self.points)
        self.points = []
        if note is None or (self.closed and not note.closed):
            self.spots = []
            return
        if note.closed:
            note = note.model_copy(update={"hatch": "diagonal"})
        self.written(note, "Drew an area" if note.closed else "Drew a line")
        self.session.pick(notes=[note.id])
        self.preview = None
        self.next_id = new_id()
