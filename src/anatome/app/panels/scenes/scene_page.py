"""All scenes as a page of large pictures over the stage: in sets, searched, several picked, put in order."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, Qt, Signal
from PySide6.QtGui import QKeyEvent, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QListView, QPushButton, QSlider, QVBoxLayout

from anatome.app.base import theme
from anatome.app.document.preferences import preferences
from anatome.app.document.session import Session
from anatome.app.panels.scenes.scene_frames import PageFrames, height_that_fills
from anatome.app.panels.scenes.scene_list import SceneList
from anatome.app.panels.scenes.scene_model import SceneModel
from anatome.app.stage.over_stage import OverStage
from anatome.app.stage.stage import Stage

SIZES = (90, 260)
"""Pixels pictures are high, at the least and at the most."""
USUAL = 150
SIZE_KEPT = "scene page size"


class _Pictures(SceneList):
    """A click picks; a double click recalls, on a name it renames."""

    def __init__(self, session: Session, frames: PageFrames) -> None:
        super().__init__(session, SceneModel(session, loose=True), frames)
        self._page = frames
        self.wanted = USUAL
        """Pixels one would have pictures high; as high as makes them share the width, near that, they are."""
        for signal in (self.scenes.modelReset, self.scenes.dataChanged):
            signal.connect(self.fill)
        self.setWrapping(True)
        self.setResizeMode(QListView.ResizeMode.Adjust)
        self.setSelectionRectVisible(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)

    def _picks(self, count: int) -> bool:
        return count > 0

    def clicked_on(self, index: QModelIndex) -> None:
        row = self.scenes.row(index.row())
        if row.scene is None:
            self.fold(row.set)

    def double_clicked_on(self, index: QModelIndex, name: bool) -> None:
        row = self.scenes.row(index.row())
        if row.scene is not None and not name:
            self.recalled.emit(row.scene)
        elif index.flags() & Qt.ItemFlag.ItemIsEditable:
            self.edit(index)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._page.page_width = self.viewport().width() - 2
        super().resizeEvent(event)
        self.fill()
        self.scheduleDelayedItemsLayout()

    def fill(self, *_: object) -> None:
        """Make pictures as high as lets their rows fill the page."""
        high = height_that_fills(self.scenes.proportions(), self.viewport().width() - 2, self.wanted)
        if high != self._page.high:
            self._page.high = high
            self.scheduleDelayedItemsLayout()


class ScenePage(OverStage):
    """Lies over the stage while it is open."""

    recalled = Signal(str)

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__(stage)
        self._session = session
        self._frames = PageFrames()
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 4, 6)
        column.setSpacing(8)
        bar = QHBoxLayout()
        bar.setSpacing(10)
        title = QLabel("Scenes")
        title.setProperty("role", "title")
        bar.addWidget(title)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search scenes and sets")
        self.search.addAction(theme.icon("magnifying-glass"), QLineEdit.ActionPosition.LeadingPosition)
        self.search.setClearButtonEnabled(True)
        bar.addWidget(self.search, 1)
        self.size_slider = QSlider(Qt.Orientation.Horizontal)
        self.size_slider.setRange(*SIZES)
        self.size_slider.setFixedWidth(110)
        self.size_slider.setToolTip("How large the pictures are")
        bar.addWidget(self.size_slider)
        self.close_button = QPushButton()
        theme.wear(self.close_button, "x")
        self.close_button.setProperty("role", "quiet")
        self.close_button.setToolTip("Back to the stage (Esc)")
        bar.addWidget(self.close_button)
        column.addLayout(bar)
        self.list = _Pictures(session, self._frames)
        column.addWidget(self.list, 1)
        self.nothing = QLabel("No scene has these letters.")
        self.nothing.setProperty("role", "soft")
        self.nothing.hide()
        column.addWidget(self.nothing)
        self.search.textChanged.connect(self._narrow)
        self.size_slider.setValue(int(preferences().value(SIZE_KEPT, USUAL)))  # type: ignore[call-overload]
        self._resize_pictures(self.size_slider.value())
        self.size_slider.valueChanged.connect(self._resize_pictures)
        self.close_button.clicked.connect(self.leave)
        self.list.recalled.connect(self._recall)
        session.closed.connect(self.leave)
        session.opened.connect(self.leave)

    def open(self) -> None:
        """Lie over the stage, with the current scene in sight."""
        self.lie_over()
        self.list.refresh()
        self.list.show_current()
        self.list.setFocus()

    def leave(self) -> None:
        """Let the stage be seen again; what was picked is let go of."""
        if not self.isVisible():
            return
        self.hide()
        self.search.clear()
        if self._session.picked.scenes:
            self._session.pick()
        self.let_be_seen()

    def step_back(self) -> bool:
        """Escape: let go of the search, then of what is picked, then of the page. Return False when it is not open."""
        if not self.isVisible():
            return False
        if self.search.text():
            self.search.clear()
        elif self._session.picked.scenes:
            self._session.pick()
        else:
            self.leave()
        return True

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Nothing typed here is the stage's."""
        event.accept()

    def _recall(self, scene_id: str) -> None:
        self.leave()
        self.recalled.emit(scene_id)

    def _narrow(self, text: str) -> None:
        self.list.scenes.narrow(text)
        self.nothing.setVisible(bool(text.strip()) and not self.list.scenes.rowCount())

    def _resize_pictures(self, high: int) -> None:
        self.list.wanted = high
        preferences().setValue(SIZE_KEPT, high)
        self.list.fill()
