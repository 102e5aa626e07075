"""The notes of the stage as they are drawn on it: made anew when something is different, found under the pointer."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np
import shapely
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from anatome.app.base.units import UNITS
from anatome.app.base.work import Work
from anatome.app.document.session import Session
from anatome.formats.properties import PropertyReader, PropertySets
from anatome.notes.captions import CAPTION
from anatome.notes.facts import Facts
from anatome.notes.marks import NoteMarks, NotesDrawn
from anatome.notes.note import AnyNote, SectionMark
from anatome.notes.view import NoteView
from anatome.problems import Problem
from anatome.scenes import note_edits
from anatome.scenes.noted import drawn_notes, note_view
from anatome.scenes.project import Project, StageState
from anatome.scenes.sheet_frames import section_places
from anatome.view.viewport import Frame

NEAR = 12.0
"""Pixels round a note that are still the note."""
LEGIBLE = 9.0
"""Pixels capitals are high at the least while one works."""


class StageNotes(QObject):
    """``news``: something labels say was looked up, and they read otherwise now."""

    news = Signal()

    def __init__(self, session: Session, stage: QWidget) -> None:
        super().__init__(stage)
        self._session, self._stage = session, stage
        self._facts: Facts | None = None
        self._drawn: tuple[object, NotesDrawn] | None = None
        self._reader: PropertyReader | None = None
        self._work = Work(self, lambda: self._reader)
        self._properties: dict[str, PropertySets] = {}
        self._asked: set[str] = set()
        self.true_size = False
        """Whether letters are as large on the stage as on the paper, even where they cannot be read."""
        for signal in (session.opened, session.closed):
            signal.connect(self._forget)

    def _forget(self) -> None:
        if self._reader is not None:
            self._reader.close()
        self._reader = self._facts = self._drawn = None
        self._properties, self._asked = {}, set()

    # What is drawn ---------------------------------------------------------------------------------------------

    def facts(self) -> Facts:
        """Of the building that is open, and of where its sections are drawn."""
        building, project = self._session.building, self._session.project
        assert building is not None
        if self._facts is None or self._facts.building is not building:
            self._facts = Facts(building, self._look_up)
        marked = any(isinstance(note, SectionMark) for note in project.stage.notes)
        self._facts = self._facts.with_sections(section_places(project) if marked else {})
        return self._facts

    def paper_height(self) -> float:
        """Mm of paper the stage is high: as much more than the scene's own picture as a narrower stage shows more, so that its
        notes stand to it as they do in the picture."""
        s = self._session
        own, scene = s.paper_height(), s.scene
        if s.stage.crop is not None or scene is None or scene.state.crop is not None:
            return own
        return own * max(scene.aspect * self._stage.height() / max(self._stage.width(), 1), 1.0)

    def show_true_size(self, on: bool) -> None:
        """Have letters as large as on the paper, or large enough to be read; no part of the project."""
        self.true_size = on
        self.news.emit()

    def view(self) -> NoteView:
        """Return what the notes of the stage are drawn on: on the screen letters are large enough to be read, on paper and in
        what is sent out as large as is said."""
        return self._view(0.0 if self.true_size else self.legible)

    @property
    def legible(self) -> float:
        """Mm of the stage's paper that capitals have to be high to be read."""
        return LEGIBLE * self.paper_height() / max(self._stage.height(), 1)

    def true_view(self) -> NoteView:
        """Return the same with letters as large as on the paper."""
        return self._view(0.0)

    def state(self) -> StageState:
        """Return the state whose notes they are, seen as the picture they lie on sees it."""
        return self._session.stage

    def _view(self, least: float) -> NoteView:
        s = self._session
        frame = Frame(width=max(self._stage.width(), 1), height=max(self._stage.height(), 1))
        state, paper = self.state(), self.paper_height()
        within = None
        if state.crop is not None:
            left, bottom, right, top = (paper * share for share in state.crop.sides(frame.aspect))
            within = left, bottom, right, top
        return note_view(state, s.on_stage(), self.facts(), frame, paper, s.project.site, least, within)

    def drawn(self) -> NotesDrawn:
        """Return the notes of the stage; those whose anchors are gone say so."""
        s = self._session
        stage = self.state()
        key = (
            *(stage.notes, stage.details, stage.note_style, stage.notes_shown),
            *(stage.camera, stage.cuts, stage.look.ink, stage.look.paper),
            *(id(s.on_stage()), self.paper_height(), self._stage.size().toTuple(), len(self._properties), self.true_size),
            self.facts().sections,
        )
        if self._drawn is None or self._drawn[0] != key:
            self._drawn = key, drawn_notes(stage, self.view())
        return self._drawn[1]

    def marks(self, note: AnyNote) -> NoteMarks | None:
        """Return one as it is drawn."""
        return next((m for m in self.drawn().notes if m.note == note.id), None)

    def gone(self) -> tuple[NoteMarks, ...]:
        """Return those that hold on to something that is no longer there."""
        return tuple(note for note in self.drawn().notes if note.gone)

    def paper(self, at: Iterable[float]) -> NDArray[np.float64]:
        """Return (2,) mm on the paper of a place in pixels."""
        x, y = at
        scale = self.paper_height() / max(self._stage.height(), 1)
        return np.array([x * scale, (self._stage.height() - y) * scale])

    def under(self, at: tuple[float, float], reach: float = NEAR) -> str | None:
        """Return the id of the note a place in pixels is on or within reach of; of several near ones the one drawn last."""
        if not self._session.stage.is_written_on:
            return None
        drawn = self.drawn()
        spot, within = self.paper(at), reach * drawn.height / max(self._stage.height(), 1)
        met = [(note.distance(spot), -number) for number, note in enumerate(drawn.notes) if not note.gone]
        near = [(distance > within / 6, number) for distance, number in met if distance <= within]
        return drawn.notes[-min(near)[1]].note if near else None

    def within(self, box: tuple[float, float, float, float], encloses: bool) -> list[str]:
        """Return the ids of the notes that a rectangle (left, top, right, bottom, pixels) holds all of, or touches any of."""
        if not self._session.stage.notes_shown:
            return []
        low, high = self.paper((box[0], box[3])), self.paper((box[2], box[1]))
        room = shapely.box(*low, *high)
        found = []
        for note in self.drawn().sound:
            if len(note.points) and not note.note.startswith(CAPTION):
                inside = bool((note.points >= low).all() and (note.points <= high).all())
                drawn = [shapely.LineString(s.points) for s in note.strokes if len(s.points) > 1]
                drawn += [shapely.Polygon(w.corners()) for w in note.words]
                if inside or (not encloses and shapely.intersects(room, np.array(drawn)).any()):
                    found.append(note.note)
        return found

    # What is written -------------------------------------------------------------------------------------------

    def put(self, notes: Iterable[AnyNote], said: str, merge: str | None = None) -> None:
        """Write notes, or change them."""
        self._session.apply(note_edits.put_notes(self.in_own_units(self._session.project), tuple(notes)), said, merge=merge)

    @staticmethod
    def in_own_units(project: Project) -> Project:
        """Return the project so that its first notes are in the units the window speaks."""
        if project.stage.notes or not UNITS.feet:
            return project
        return note_edits.set_note_style(project, project.stage.note_style.model_copy(update={"unit": "ft"}))

    # Properties ------------------------------------------------------------------------------------------------

    def _look_up(self, element_id: str) -> Mapping[str, Mapping[str, object]]:
        """What is known of a part's properties; what is not is asked for, and told when it is there."""
        path = self._session.model_path
        if element_id not in self._asked and path is not None:
            self._asked.add(element_id)
            reader = self._reader = self._reader or PropertyReader(path)

            def done(found: PropertySets) -> None:
                self._properties[element_id] = found
                self.news.emit()

            def failed(error: Exception) -> None:
                self._properties[element_id] = {}
                self._session.said.emit(str(error) if isinstance(error, Problem) else "A property could not be read.")

            self._work.run(lambda told: reader.sets_of(element_id), done, failed, beside=True)
        return self._properties.get(element_id, {})
