"""The journal of what is open: begun with a project, written at each change, taken away when all of it is saved or let go of."""

from __future__ import annotations

import threading
from pathlib import Path

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from anatome.app.base.work import begin_thread
from anatome.app.document.documents import Documents
from anatome.app.document.recent import state_folder
from anatome.app.document.session import Session
from anatome.app.stage.stage import Stage
from anatome.scenes.journal import NO_BASE, Journal, LeftBehind
from anatome.scenes.project import Project

PICTURED = 3000
"""Milliseconds after a change until a small picture of the stage is put beside the journal."""
WIDE = 320
"""Pixels of that picture."""


def journal_folder() -> Path:
    """Return where journals lie."""
    return state_folder() / "journals"


class Journaling(QObject):
    """Writes nothing before something is changed. ``failed``: why it cannot be written, once for a project."""

    failed = Signal(str)
    _broke = Signal(str)

    def __init__(self, session: Session, documents: Documents, stage: Stage) -> None:
        super().__init__(stage)
        self._session, self._documents, self._stage = session, documents, stage
        self._journal: Journal | None = None
        self._ending: list[threading.Thread] = []
        self._base = NO_BASE
        self._changes = 0
        self._noted: Project | None = None
        self._recovered: LeftBehind | None = None
        self._picture = QTimer(self, singleShot=True, interval=PICTURED)
        self._picture.timeout.connect(self._put_picture)
        self._broke.connect(self.failed, Qt.ConnectionType.QueuedConnection)
        session.opened.connect(self._begin)
        session.closed.connect(self._let_go)
        session.changed.connect(self._changed)
        session.camera_moved.connect(self._note)
        documents.saved.connect(self._saved)
        documents.recovered.connect(self._take_over)

    def _take_over(self, left: LeftBehind) -> None:
        """What is open is what was left behind; that goes when the new journal has all of it."""
        self._recovered = left

    def _begin(self) -> None:
        self._end()
        self._base = self._documents.base
        self._journal = Journal(journal_folder(), self._base, self._cannot_write)
        self._changes, self._noted = 0, self._session.project
        if self._session.unsaved:
            self._note()

    def _cannot_write(self, error: OSError) -> None:
        """On the journal's own thread."""
        self._broke.emit(f"What you do cannot be written down as you go ({error.strerror or error}). Save often.")

    def _changed(self) -> None:
        """One change more, unless the project is as it was noted."""
        if self._session.is_open and self._session.project is not self._noted:
            self._changes += 1
        self._note()

    def _note(self) -> None:
        session, journal = self._session, self._journal
        if journal is None or not session.is_open:
            return
        self._noted = session.project
        # What is as it was saved is only worth a line where something else was written before.
        if session.unsaved or journal.is_begun:
            journal.note(session.project, self._changes, session.unsaved)
            self._picture.start()

    def _saved(self) -> None:
        """From here on what lies on the disk is what changes are counted from."""
        session = self._session
        if session.is_open and not (session.unsaved and self._documents.base == self._base):
            self._begin()

    def _put_picture(self) -> None:
        """A small picture of the stage, and the end of the journal this one took over."""
        session, journal = self._session, self._journal
        if journal is None or not session.is_open:
            return
        if not self._stage.settled:
            self._picture.start()
            return
        if self._recovered is not None and journal.is_written(session.project):
            self._recovered.discard()
            self._recovered = None
        if session.unsaved and journal.is_begun:
            image = self._stage.grabFramebuffer().scaledToWidth(WIDE, Qt.TransformationMode.SmoothTransformation)
            image.save(str(journal.picture))

    def _let_go(self) -> None:
        """Nothing is open any more, and whoever closed it was asked."""
        if self._recovered is not None and self._journal is not None:
            self._recovered.discard()
            self._recovered = None
        self._end()

    def _end(self) -> None:
        self._picture.stop()
        journal, self._journal = self._journal, None
        if journal is not None:
            # A disk may take its time; the window does not wait for it.
            thread = begin_thread("ending a journal", journal.close)
            self._ending = [t for t in self._ending if t.is_alive()] + [thread]

    def stop(self) -> None:
        """The window closes, and what there was to ask was asked: leave nothing behind."""
        self._let_go()
        for thread in self._ending:
            thread.join()
