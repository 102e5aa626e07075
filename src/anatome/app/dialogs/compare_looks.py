"""Looks side by side, as large pictures of the stage; and the project's own looks renamed and dropped."""

from __future__ import annotations

from functools import partial

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from anatome.app.base.ask import Ask
from anatome.app.base.images import image_of
from anatome.app.base.pictures import PictureJob
from anatome.app.base.ticks import Ticks
from anatome.app.base.trouble import TROUBLE
from anatome.app.document.session import Session
from anatome.app.stage.stage import Stage
from anatome.look.look import Look
from anatome.look.shipped import shipped_looks
from anatome.scenes import edits, look_edits
from anatome.scenes.scene_view import View

MOST = 4
ROOM = (980, 640)
"""Pixels for all pictures together."""
SAMPLES = 6


class CompareLooks(QDialog):
    """Ticked looks as pictures; a click on one puts it on the stage."""

    def __init__(self, parent: QWidget, session: Session, stage: Stage) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Compare looks")
        self._session, self._stage = session, stage
        self._job: PictureJob | None = None
        self._looks: list[Look] = []
        self.list = Ticks([], 0)
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.list.setFixedWidth(240)
        note = QLabel(f"Tick up to {MOST} looks. A click on a picture puts its look on the stage.")
        note.setProperty("role", "soft")
        note.setWordWrap(True)
        self.rename, self.drop = QPushButton("Rename…"), QPushButton("Drop")
        self.rename.setToolTip("One of the project's own looks, wherever it is used")
        self.drop.setToolTip("Take one of the project's own looks out of the row; scenes that use it keep it")
        for button in (self.rename, self.drop):
            button.setAutoDefault(False)
        self.rename.clicked.connect(self._rename)
        self.drop.clicked.connect(self._drop)
        own = QHBoxLayout()
        own.addWidget(self.rename)
        own.addWidget(self.drop)
        side = QVBoxLayout()
        side.addWidget(note)
        side.addWidget(self.list)
        side.addLayout(own)
        self._holder = QWidget()
        self._row = row = QHBoxLayout(self)
        row.setContentsMargins(20, 20, 20, 20)
        row.setSpacing(20)
        row.addLayout(side)
        row.addWidget(self._holder, 1)
        self.pictures: list[QToolButton] = []
        self.list.itemChanged.connect(self._ticked)
        self.list.currentRowChanged.connect(lambda _: self._show_own())
        session.changed.connect(self._fill)
        self._fill()

    # The list --------------------------------------------------------------------------------------------------

    def _fill(self) -> None:
        """List the looks there are now; those that were ticked stay so."""
        if not self._session.is_open:
            self.reject()
            return
        project, ticked = self._session.project, {self._looks[i].name for i in self.list.ticked()}
        looks = [*project.looks, *shipped_looks().values()]
        now = project.stage.look
        if all(look.name != now.name for look in looks):
            looks.insert(0, now)
        if looks == self._looks:
            return
        row = self.list.currentRow()
        self._looks = looks
        self.list.blockSignals(True)
        self.list.set_names([look.name or "Own look" for look in looks], ticked or {now.name, self._beside(now)})
        self.list.setCurrentRow(min(max(row, 0), len(looks) - 1))
        self.list.blockSignals(False)
        self._show_own()
        self._draw()

    def _beside(self, now: Look) -> str:
        """Another look than that of the stage, to begin with."""
        return next(look.name for look in self._looks if look.name != now.name)

    def _ticked(self) -> None:
        ticked = self.list.ticked()
        if len(ticked) > MOST:
            self._session.said.emit(f"Only {MOST} looks fit side by side: the first {MOST} that are ticked are shown.")
        self._draw()

    @property
    def _own(self) -> Look | None:
        """The look that is marked in the list, if it is one of the project's own."""
        row = self.list.currentRow()
        look = self._looks[row] if 0 <= row < len(self._looks) else None
        return look if look in self._session.project.looks else None

    def _show_own(self) -> None:
        self.rename.setEnabled(self._own is not None)
        self.drop.setEnabled(self._own is not None)

    def _rename(self) -> None:
        look, session = self._own, self._session
        if look is None:
            return

        def do(ask: Ask) -> None:
            new = ask.text("Name")
            project = look_edits.rename_look(session.project, look.name, new, frozenset(shipped_looks()))
            session.apply(project, f"“{look.name}” is called “{new}” now")

        Ask(self, "Rename the look", "Scenes that use it follow.", "Rename", do).words("Name", look.name).open()

    def _drop(self) -> None:
        look, session = self._own, self._session
        if look is not None:
            session.apply(look_edits.drop_look(session.project, look.name), f"Dropped the look “{look.name}”")

    # The pictures ----------------------------------------------------------------------------------------------

    def _draw(self) -> None:
        """Make room for the ticked ones, and draw them one after the other."""
        if self._job is not None:
            self._job.cancel()
        self._row.removeWidget(self._holder)
        self._holder.hide()
        self._holder.deleteLater()
        self._holder = QWidget()
        self._holder.setMinimumSize(*ROOM)
        self._row.addWidget(self._holder, 1)
        grid = QGridLayout(self._holder)
        grid.setSpacing(12)
        self.pictures = []
        looks = [self._looks[i] for i in self.list.ticked()][:MOST]
        if not looks:
            grid.addWidget(QLabel("Tick a look to see it."), 0, 0, Qt.AlignmentFlag.AlignCenter)
            return
        columns, rows = (1, 1) if len(looks) == 1 else (1, 2) if len(looks) == 2 and self._stage.aspect > 1.4 else (2, 2)
        width = min(ROOM[0] // columns, int((ROOM[1] / rows - 40) * self._stage.aspect)) - 12
        size = width, max(1, round(width / self._stage.aspect))
        for number, look in enumerate(looks):
            made = QToolButton()
            made.setProperty("role", "picture")
            made.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
            made.setIconSize(QSize(*size))
            made.setText(look.name or "Own look")
            made.setToolTip("Put this look on the stage")
            made.clicked.connect(partial(self._choose, look))
            grid.addWidget(made, number // columns, number % columns, Qt.AlignmentFlag.AlignCenter)
            self.pictures.append(made)
        self._draw_one(0, looks, size)

    def _draw_one(self, number: int, looks: list[Look], size: tuple[int, int]) -> None:
        if number == len(looks):
            self._job = None
            return
        session, buttons = self._session, self.pictures

        def done(pixels: NDArray[np.uint8]) -> None:
            buttons[number].setIcon(QIcon(QPixmap.fromImage(image_of(pixels))))
            self._draw_one(number + 1, looks, size)

        look = session.drawn_look(looks[number])
        camera = session.stage.camera
        view = View(camera, session.on_stage(), look, figures=session.figures(), paper=session.paper_height())
        self._job = self._stage.pictures.picture(view, size, "paper", done, TROUBLE.report, SAMPLES)

    def _choose(self, look: Look) -> None:
        self._session.apply(edits.set_look(self._session.project, look), f"Look: {look.name or 'own look'}")
        self.accept()

    def done(self, result: int) -> None:
        """Nothing is drawn for what is closed."""
        if self._job is not None:
            self._job.cancel()
            self._job = None
        self._session.changed.disconnect(self._fill)
        super().done(result)
