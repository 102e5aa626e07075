"""Scenes that keep their linework have it made anew, behind one's back, whenever it is out of date."""

from __future__ import annotations

from PySide6.QtCore import QObject, QTimer, Signal

from anatome.app.base.pictures import Pictures
from anatome.app.base.work import in_words
from anatome.app.document.session import Session
from anatome.app.sheets.frame_drawer import FrameDrawer
from anatome.printing.kept_lines import own_lines
from anatome.printing.pages import FrameResult
from anatome.printing.wanted import FrameRequest
from anatome.scenes.project import Scene

REST = 700
"""Milliseconds after the last change until lines are drawn anew."""


class LineKeeper(QObject):
    """``news``: the linework of a scene was made."""

    news = Signal()

    def __init__(self, session: Session, pictures: Pictures) -> None:
        super().__init__(session)
        self._session = session
        self._drawer = FrameDrawer(session, pictures, self)
        self._drawing: FrameRequest | None = None
        self._failed: list[FrameRequest] = []
        self._rest = QTimer(self, singleShot=True, interval=REST)
        self._rest.timeout.connect(self._go_on)
        for signal in (session.opened, session.closed, session.rebuilt):
            signal.connect(self._forget)
        session.changed.connect(self._rest.start)

    @property
    def busy(self) -> bool:
        """Whether some linework is still to be made."""
        return self._drawing is not None or self._rest.isActive()

    def _forget(self) -> None:
        self._drawer.forget()
        self._drawing, self._failed = None, []

    def _out_of_date(self) -> list[Scene]:
        s = self._session
        if not s.is_open or not s.is_built or s.linework is None:
            return []
        return [scene for scene in s.project.scenes if s.linework.freshness(scene, s.project.site) == "out of date"]

    def _go_on(self) -> None:
        """Draw the next one; what is drawn that no scene shows any more is given up."""
        site = self._session.project.site if self._session.is_open else None
        due = [] if site is None else [own_lines(scene, site) for scene in self._out_of_date()]
        due = [what for what in due if what not in self._failed]
        if self._drawing is not None:
            if self._drawing in due:
                return
            self._drawer.cancel()
            self._drawing = None
        if not due:
            return
        if self._session.is_learning:  # lines where parts cross are not known yet
            self._rest.start()
            return
        what = self._drawing = due[0]

        def done(made: FrameResult) -> None:
            self._drawing = None
            self.news.emit()
            self._go_on()

        def failed(error: Exception) -> None:
            self._drawing = None
            self._failed.append(what)
            self._session.said.emit(f"The linework of “{what.scene.name}” could not be made. {in_words(error)}")
            self._go_on()

        self._drawer.draw(what, 0.0, done, failed)
