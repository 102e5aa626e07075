"""Picking parts on the stage: under the pointer, the next one behind, and with a rectangle."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF

from anatome.app.base.work import Progress, Work
from anatome.app.document.session import Session
from anatome.app.stage.overlay import Overlay
from anatome.app.stage.pointing import Canvas
from anatome.cuts.dissection import CutFace
from anatome.cuts.pieces import all_placed, pick_placed
from anatome.model.raycast import Hit
from anatome.view.enclosing import enclosed, touched
from anatome.words import plain_type

Met = tuple[Hit, CutFace | None, int]
SAME_PLACE = 4.0
"""Pixels within which a click counts as at the same place."""


class Picking:
    """What a click, Alt with the wheel and a rectangle pick. Ghosts are met behind all that is solid."""

    def __init__(self, session: Session, stage: Canvas, overlay: Overlay) -> None:
        self._session, self._stage, self._overlay = session, stage, overlay
        self._work = Work(overlay, lambda: session.building)
        self._at: tuple[float, float] | None = None
        self._seen: object = None
        self._met: list[Met] = []
        self._number = 0

    # One behind the other --------------------------------------------------------------------------------------

    def click(self, at: QPointF, add: bool) -> None:
        """Pick what is under the pointer; a further click at the same place the next one behind it."""
        self.step(at, 1, add)

    def step(self, at: QPointF, step: int, add: bool = False) -> None:
        """Go on by so many of the parts that lie behind one another under the pointer."""
        session = self._session
        if session.building is None:
            return
        seen = session.stage.camera, session.stage.cuts, session.stage.hidden, session.stage.apart_key
        near = self._at is not None and np.hypot(at.x() - self._at[0], at.y() - self._at[1]) <= SAME_PLACE
        again = near and seen == self._seen and self._met and self._is_picked(self._met[self._number]) and not add
        if again:
            self._number = (self._number + step) % len(self._met)
        else:
            ray = self._stage.viewport.ray(at.x(), at.y())
            shown = session.on_stage()
            self._met = [*all_placed(shown.parts, *ray), *all_placed(shown.ghosts, *ray)]
            self._at, self._seen, self._number = (at.x(), at.y()), seen, 0
        if not self._met:
            if not add:
                session.pick()
            return
        self._pick(self._met[self._number], add)
        if not session.picked.elements:  # serial sections, or nothing any more
            return
        which = f"  ·  {self._number + 1} of {len(self._met)} under the pointer" if len(self._met) > 1 else ""
        session.said.emit(f"{'Behind' if again and self._number else 'Picked'}: {self._words(self._met[self._number])}{which}")

    def words_at(self, at: QPointF) -> str:
        """Return what a click here would pick: what is under the pointer, or where that is picked what lies behind it."""
        session = self._session
        if session.building is None:
            return ""
        near = self._at is not None and np.hypot(at.x() - self._at[0], at.y() - self._at[1]) <= SAME_PLACE
        if near and self._met and self._is_picked(self._met[self._number]):
            if len(self._met) < 2:
                return ""
            return f"Behind: {self._words(self._met[(self._number + 1) % len(self._met)])}"
        ray, shown = self._stage.viewport.ray(at.x(), at.y()), session.on_stage()
        met = pick_placed(shown.parts, *ray) or pick_placed(shown.ghosts, *ray)
        return "" if met is None else self._words(met)

    def _id(self, met: Met) -> str:
        assert self._session.building is not None
        return self._session.building.elements[met[0].element].id

    def _words(self, met: Met) -> str:
        """What one picks: its name, and what and where it is."""
        building = self._session.building
        assert building is not None
        element = building.elements[met[0].element]
        kind, storey = plain_type(element.type), "" if element.storey is None else building.storeys[element.storey].name
        about = ", ".join(word for word in (kind if element.name else "", storey) if word)
        return f"{element.name or kind} ({about})" if about else element.name or kind

    def _is_picked(self, met: Met) -> bool:
        return self._session.picked.elements == frozenset({self._id(met)}) or self._session.series is not None

    def _pick(self, met: Met, add: bool) -> None:
        session = self._session
        face = met[1]
        series = session.stage.serial(face.cut.id) if face is not None and face.free else None
        if series is not None and face is not None:
            member = next((i for i in range(len(series.offsets)) if series.label(i) == face.name), None)
            session.pick(cut=series.id, member=member)
            return
        ids = frozenset({self._id(met)})
        session.pick(elements=session.picked.elements ^ ids if add else ids, at_cut=face is not None)

    # With a rectangle ------------------------------------------------------------------------------------------

    def draw(self, start: tuple[float, float], now: tuple[float, float], notes: bool = False) -> None:
        """Show the rectangle that is being drawn, for parts or ``notes``. Drawn downwards it takes what it encloses, upwards
        what it touches."""
        self._overlay.rectangle_of = " notes" if notes else ""
        self._overlay.rectangle = QRectF(QPointF(*start), QPointF(*now)).normalized()
        self._overlay.rectangle_encloses = now[1] >= start[1]
        self._overlay.update()

    def stop(self) -> None:
        """No rectangle any more."""
        self._overlay.rectangle = None
        self._overlay.update()

    def take_notes(self, start: tuple[float, float], now: tuple[float, float], subtract: bool) -> None:
        """Pick the notes the rectangle takes in addition to those that are picked, or take them out of that."""
        self.stop()
        session = self._session
        box = (min(start[0], now[0]), min(start[1], now[1]), max(start[0], now[0]), max(start[1], now[1]))
        found = self._stage.noted.within(box, now[1] >= start[1])
        kept = [i for i in session.picked.notes if i not in found]
        session.pick(notes=kept if subtract else [*kept, *found])
        session.said.emit(f"{len(session.picked.notes)} note{'s' * (len(session.picked.notes) != 1)} picked")

    def take(self, start: tuple[float, float], now: tuple[float, float], subtract: bool) -> None:
        """Pick what the rectangle takes in addition to what is picked, or take it out of that."""
        self.stop()
        session, viewport = self._session, self._stage.viewport
        building = session.building
        if building is None:
            return
        rectangle = (min(start[0], now[0]), min(start[1], now[1]), max(start[0], now[0]), max(start[1], now[1]))
        shown, encloses, before = session.on_stage(), now[1] >= start[1], session.picked.elements

        def find(progress: Progress) -> NDArray[np.bool_]:
            takes = enclosed if encloses else touched
            found = [takes(part, viewport, rectangle) for part in (*shown.parts, *shown.ghosts)]
            if encloses:
                # What lies in several pieces is enclosed when all of them are.
                there = np.sum([part.cut_open.shown for part in (*shown.parts, *shown.ghosts)], axis=0)
                return np.asarray((np.sum(found, axis=0) == there) & (there > 0))
            return np.asarray(np.logical_or.reduce(found))

        def done(found: NDArray[np.bool_]) -> None:
            ids = frozenset(building.elements[i].id for i in np.flatnonzero(found).tolist())
            session.pick(elements=before - ids if subtract else before | ids)
            words = "enclosed" if encloses else "touched"
            session.said.emit(f"{len(ids):,} part{'s' * (len(ids) != 1)} {words}, {len(session.picked.elements):,} picked")

        self._work.run(find, done, session.failed.emit)
