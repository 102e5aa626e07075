"""Notes taken along by a drag, nudged by keys, and their words typed where they stand."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtGui import QFontMetrics, QKeyEvent
from PySide6.QtWidgets import QPlainTextEdit, QWidget

from anatome.app.document.session import Session
from anatome.app.stage.noted import StageNotes
from anatome.notes.moving import moved
from anatome.notes.note import MOST_WORDS, AnyNote, WithWords

STEP = 1.0
"""Mm on paper an arrow key moves a note by; with Ctrl a fifth of it, with Shift five times as much."""


class NoteDrag:
    """The picked notes, going along with the pointer as far as each of them can."""

    def __init__(self, session: Session, noted: StageNotes, start: tuple[float, float]) -> None:
        self._session, self._noted = session, noted
        self._start = noted.paper(start)
        self._notes, self._view = session.notes, noted.view()

    def move(self, at: tuple[float, float]) -> None:
        """The pointer is there now."""
        self.shift(self._noted.paper(at) - self._start)

    def shift(self, by: np.ndarray, merge: str = "note") -> None:
        """Move them by (2,) mm from where they were taken."""
        self._noted.put([moved(note, self._view, by) for note in self._notes], said_of(self._notes, "Moved"), merge=merge)

    def end(self) -> None:
        """They stand there now."""
        self._session.end_step()

    def cancel(self) -> None:
        """They stand where they stood."""
        self._session.cancel_step("note")


class NoteInput:
    """Which notes a click picks, and what arrow keys do to them."""

    def __init__(self, session: Session, noted: StageNotes) -> None:
        self._session, self._noted = session, noted

    def on_picked(self, at: tuple[float, float]) -> bool:
        """Return whether a place in pixels is on a note that is picked."""
        return bool(self._session.picked.notes) and self._noted.under(at) in self._session.picked.notes

    def pick(self, note: str, more: bool, left: bool) -> None:
        """One, or with Ctrl one more or one less; the menu is for all that are picked."""
        picked = self._session.picked.notes
        if more:
            rest = tuple(n for n in picked if n != note)
            self._session.pick(notes=rest if note in picked else (*picked, note))
        elif left or note not in picked:
            self._session.pick(notes=(note,))

    def nudge(self, way: tuple[int, int], modifiers: Qt.KeyboardModifier) -> bool:
        """Move what is picked a little way on the paper."""
        held = modifiers & ~Qt.KeyboardModifier.KeypadModifier
        factor = {Qt.KeyboardModifier.ControlModifier: 0.2, Qt.KeyboardModifier.ShiftModifier: 5.0}.get(held, 1.0)
        NoteDrag(self._session, self._noted, (0.0, 0.0)).shift(STEP * factor * np.array(way), merge="nudge notes")
        return True


def said_of(notes: tuple[AnyNote, ...], verb: str) -> str:
    """Return what was done to how many."""
    return f"{verb} the {notes[0].kind}" if len(notes) == 1 else f"{verb} {len(notes)} notes"


class WordsInPlace(QPlainTextEdit):
    """A field over the words of a label or a level. Return or a click elsewhere keeps what is typed, Escape the old words."""

    def __init__(self, stage: QWidget, session: Session, noted: StageNotes, left: Callable[[], None]) -> None:
        super().__init__(stage)
        self._stage, self._session, self._noted, self._left = stage, session, noted, left
        self._note: str | None = None
        self.setToolTip(
            "Return or a click elsewhere keeps the words, Shift+Return begins a new line, Escape leaves them as they were"
        )
        self.hide()
        self.installEventFilter(self)

    def open_for(self, note_id: str) -> bool:
        """Have the words of a note typed; False for notes that have none."""
        note = self._session.stage.note(note_id)
        marks = None if note is None else self._noted.marks(note)
        if not isinstance(note, WithWords) or marks is None or not marks.words:
            return False
        self._note = note_id
        corners = np.concatenate([w.corners() for w in marks.words])
        drawn = self._noted.drawn()
        stage = self._stage
        scale = stage.height() / drawn.height
        metrics = QFontMetrics(self.font())
        lines = note.text.split("\n")
        wide = max(max(metrics.horizontalAdvance(line) for line in lines) + 40, 150)
        high = metrics.lineSpacing() * max(len(lines), 1) + 22
        x = int(np.clip(corners[:, 0].min() * scale - 6, 8, stage.width() - wide - 8))
        y = int(np.clip((drawn.height - corners[:, 1].max()) * scale - 6, 8, stage.height() - high - 8))
        self.resize(wide, high)
        self.move(QPoint(x, y))
        self.setPlainText(note.text)
        self.selectAll()
        self.show()
        self.raise_()
        self.setFocus()
        return True

    def keep(self) -> None:
        """What is typed is what the note says."""
        note = self._session.stage.note(self._note) if self._session.is_open else None
        text = self.toPlainText().strip()
        self._close()
        if isinstance(note, WithWords) and text and text != note.text:
            self._noted.put([note.model_copy(update={"text": text[:MOST_WORDS]})], "Changed the text")

    def _close(self) -> None:
        self._note = None
        self.hide()
        self._left()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if self._note is None:
            return False
        if event.type() == QEvent.Type.FocusOut:
            self.keep()
        elif event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            if event.key() == Qt.Key.Key_Escape:
                self._close()
                return True
            shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not shift:
                self.keep()
                return True
        return False
