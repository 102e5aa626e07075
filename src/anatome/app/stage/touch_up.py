"""Touching up the lines of the stage: one that is pointed at, or all of its part, is hidden, dashed, heavier or lighter; a shape
that is drawn masks what lines lie in it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from anatome.app.base.trouble import TROUBLE
from anatome.app.base.work import Work
from anatome.app.stage.noted import StageNotes
from anatome.app.stage.tasks import Pointer, Preview, StageTask
from anatome.app.stage.writing.note_task import NoteTask
from anatome.linework.seen_lines import SeenLines, seen_lines
from anatome.look.line_layers import Dashes
from anatome.look.look import WEIGHTS
from anatome.look.pens import LineKind, name_of, wash_of
from anatome.notes.anchors import Anchor, anchored
from anatome.notes.marks import NoteMarks, Stroke
from anatome.notes.setting import Spot
from anatome.notes.touching_up import LineTouchUp, Mask, anchor_of_line
from anatome.problems import Problem
from anatome.scenes.edits import new_id
from anatome.scenes.scene_view import View
from anatome.scenes.touch_edits import put_touch_up, take_touch_ups

Array = NDArray[np.float64]
REACH = 9.0
"""Pixels within which a line is meant."""
SHOWN = 0.7
"""Mm, of a line that is pointed at."""
WAYS = ("hide", "dash", "heavier", "lighter")
DONE = {"hide": "hidden", "dash": "dashed", "heavier": "heavier", "lighter": "lighter"}


@dataclass
class TouchLines(StageTask):
    """Acts on the line under the pointer, again and again. ``view`` gives what the lines are of, seen as on the stage's own paper
    and in its size; it is asked again when its key changes. ``found`` is called when lines are known."""

    view: Callable[[], tuple[object, View]] = field(kw_only=True)
    noted: StageNotes = field(kw_only=True)
    found: Callable[[], None] = field(kw_only=True)
    way: str = "hide"

    def __post_init__(self) -> None:
        self._work = Work(self.session, lambda: self.session.opened_as)
        self._seen: tuple[object, SeenLines | None] | None = None
        self._asked: object = None
        self._say()

    def _say(self) -> None:
        words = {"hide": "hide it", "dash": "dash it", "heavier": "make it heavier", "lighter": "make it lighter"}[self.way]
        self.hint = f"Click a line to {words}"
        self.also = "Again: as it was  ·  Shift: all lines of its part  ·  Tab: something else  ·  Return or Esc ends"

    def next_choice(self) -> None:
        self.way = WAYS[(WAYS.index(self.way) + 1) % len(WAYS)]
        self._say()

    def stop(self) -> None:
        self._work.cancel()

    # What is there ---------------------------------------------------------------------------------------------

    def lines(self) -> SeenLines | None:
        """Return the lines of the stage as it is now; None while they are being found."""
        key, view = self.view()
        if self._seen is not None and self._seen[0] == key:
            return self._seen[1]
        if self._asked != key:
            self._asked = key

            def done(found: SeenLines) -> None:
                self._seen = key, found
                self.found()

            def failed(error: Exception) -> None:
                self._seen = key, None
                TROUBLE.report(error)

            self._work.run(lambda told: seen_lines(view, told), done, failed)
        return None

    def _met(self, pointer: Pointer) -> tuple[SeenLines, int] | None:
        """The line that is pointed at."""
        seen = self.lines()
        if seen is None:
            return None
        paper = self.noted.paper_height() / max(pointer.viewport.height, 1)
        number = seen.nearest(self.noted.paper(pointer.at), REACH * paper)
        return None if number is None or seen.drawn.element[number] < 0 else (seen, number)

    def see(self, pointer: Pointer) -> None:
        super().see(pointer)
        self.hover(pointer)

    def hover(self, pointer: Pointer) -> None:
        self.preview, self.why = None, ""
        met = self._met(pointer)
        if met is None:
            busy = self._seen is None or self._work.busy
            self.why = "Finding the lines…" if busy else ""
            return
        seen, number = met
        element = int(seen.drawn.element[number])
        ends = seen.ends(number)[: 1 if pointer.shift else 2]
        strokes = tuple(Stroke(piece, SHOWN) for piece in seen.shown(ends, element))
        self.preview = Preview(notes=(NoteMarks("", strokes),))

    def shown(self) -> Preview | None:
        return self.preview

    # Doing -----------------------------------------------------------------------------------------------------

    def click(self, pointer: Pointer) -> bool:
        met = self._met(pointer)
        if met is None:
            if self._work.busy:
                raise Problem("The lines are still being found. Click again in a moment.")
            raise Problem("There is no line of a part under the pointer. Click on a line.")
        seen, number = met
        element, kind = int(seen.drawn.element[number]), LineKind(int(seen.drawn.kind[number]))
        building = self.session.building
        assert building is not None
        named = building.elements[element]
        if pointer.shift:
            anchors: tuple[Anchor, ...] = (anchored(building, building.element_bounds[element].mean(axis=0), named.id),)
        else:
            opened, cut = self.session.on_stage(), kind.is_of_cut
            anchors = tuple(anchor_of_line(opened, place, element, cut) for place in seen.ends(number))
        what = f"All lines of {named.name or named.id}" if pointer.shift else f"{name_of(kind)} of {named.name or named.id}"
        there = next((own for own in self.session.stage.touched_up if _same(own, anchors)), None)
        touch = self._touch(anchors, kind, there)
        if there is not None and touch is None:
            self.session.apply(take_touch_ups(self.session.project, (there.id,)), f"{what}: as it was")
        elif touch is not None:
            self.session.apply(put_touch_up(self.session.project, touch), f"{what}: {DONE[self.way]}")
        return False

    def _touch(self, anchors: tuple[Anchor, ...], kind: LineKind, there: LineTouchUp | Mask | None) -> LineTouchUp | None:
        """What a click makes of a line, or of what is touched up already; None to take that away."""
        before = there if isinstance(there, LineTouchUp) else LineTouchUp(id=new_id(), anchors=anchors)
        own = before.weight or wash_of(self.session.drawn_look(), kind).weight
        if self.way == "hide":
            return None if before.hidden else before.model_copy(update={"hidden": True})
        dashed: Dashes = "dashed"
        if self.way == "dash":
            return None if before.dashes == dashed else before.model_copy(update={"dashes": dashed, "hidden": False})
        row = [weight for weight in WEIGHTS if (weight > own + 0.005 if self.way == "heavier" else weight < own - 0.005)]
        if not row:
            raise Problem("There is no heavier line." if self.way == "heavier" else "There is no lighter line.")
        weight = row[0] if self.way == "heavier" else row[-1]
        return before.model_copy(update={"weight": weight, "hidden": False})


def _same(own: LineTouchUp | Mask, anchors: tuple[Anchor, ...]) -> bool:
    """Whether a touching up is of the line between anchors, or of the lines of the part one is on."""
    if not isinstance(own, LineTouchUp) or len(own.anchors) != len(anchors) or own.anchors[0].on != anchors[0].on:
        return False
    if len(anchors) == 1:
        return True
    a, b = (np.array([anchor.place for anchor in some]) for some in (own.anchors, anchors))
    return bool(min(np.abs(a - b).max(), np.abs(a - b[::-1]).max()) < 1e-3)


@dataclass
class MaskLines(NoteTask):
    """A shape, corner by corner; the first one again, or Return, closes it."""

    name: str = "touch_mask"

    def say(self) -> None:
        count = len(self.spots)
        self.hint = "Click the corners of a shape in which no lines are drawn" if not count else "Click its next corner"
        self.also = "Return or the first corner closes it  ·  Esc stops" if count > 2 else "Esc stops"

    def spot(self, pointer: Pointer) -> Spot | None:
        return self.spot_anywhere(pointer)

    def hover(self, pointer: Pointer) -> None:
        spot = self.spot(pointer)
        places = [*(own.place for own in self.spots), *([] if spot is None else [spot.place])]
        self.preview = Preview(dots=tuple(places), outlines=(np.array(places),) if len(places) > 1 else ())

    def click(self, pointer: Pointer) -> bool:
        spot = self.needed(pointer)
        if len(self.spots) > 2 and float(np.hypot(*(pointer.viewport.pixels(self.spots[0].place) - pointer.at))) < REACH:
            self.finish()
            return True
        self.spots.append(spot)
        self.say()
        self.hover(pointer)
        return False

    def finish(self) -> None:
        if len(self.spots) > 2:
            mask = Mask(id=new_id(), anchors=tuple(spot.anchor for spot in self.spots))
            self.session.apply(put_touch_up(self.session.project, mask), "Masked lines")
            self.spots = []
