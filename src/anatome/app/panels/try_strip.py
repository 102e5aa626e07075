"""What can be tried on as a row of pictures in the foot: a click tries one on, a second one keeps it, Escape takes it back."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QListWidgetItem, QProgressBar, QPushButton, QVBoxLayout, QWidget

from anatome.app.base.picture_row import ASPECT, ID, PICTURE, PictureRow
from anatome.app.panels.inspector.page import label
from anatome.app.trying.round import Round

HINT = "A click tries one on, a second click or Return keeps it, Escape takes it back."


class _Row(PictureRow):
    """Return keeps, arrows go from one to the next."""

    def __init__(self, tried: Round) -> None:
        super().__init__()
        self._round = tried

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            item = self.currentItem()
            if self._round.number is not None and (item is None or int(item.data(ID)) == self._round.number):
                self._round.keep()
            elif item is not None:
                self._round.try_on(int(item.data(ID)))
            return
        super().keyPressEvent(event)


class TryStrip(QWidget):
    """Shows a round of something. ``waiting`` is said until it is listed, ``nothing`` where there is nothing to list."""

    def __init__(self, tried: Round, waiting: str = "", nothing: str = "") -> None:
        super().__init__()
        self._round, self._waiting, self._nothing = tried, waiting, nothing
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(14)
        head = QVBoxLayout()
        head.setContentsMargins(4, 6, 0, 4)
        head.setSpacing(3)
        self.title = label("", "section")
        self.words = label("", "soft")
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.progress = QProgressBar(textVisible=False)
        self.progress.setRange(0, 100)
        buttons = QHBoxLayout()
        buttons.setSpacing(4)
        self.keep = QPushButton("Keep")
        self.keep.setToolTip("What is tried on becomes the stage's own (Return)")
        self.keep.clicked.connect(tried.keep)
        self.close_button = QPushButton("Close")
        self.close_button.setToolTip("Back to the scenes; what is tried on is taken back")
        self.close_button.clicked.connect(self._close)
        buttons.addWidget(self.keep)
        buttons.addWidget(self.close_button)
        head.addWidget(self.title)
        head.addWidget(self.words, 1)
        head.addWidget(self.progress)
        head.addLayout(buttons)
        holder = QWidget()
        holder.setLayout(head)
        holder.setFixedWidth(252)
        row.addWidget(holder)
        self.row = _Row(tried)
        self.row.itemClicked.connect(lambda item: tried.try_on(int(item.data(ID))))
        row.addWidget(self.row, 1)
        self.setFixedHeight(self.row.height())
        tried.listed.connect(self._fill)
        tried.pictured.connect(self._show_picture)
        tried.tried_on.connect(self._show_tried)

    def begin(self) -> None:
        """A round begins."""
        self.row.clear()
        self.row.frames.current_id = None
        self.title.setText(self._round.title)
        self.words.setText(self._waiting)
        self.progress.setValue(0)
        self.progress.setVisible(bool(self._waiting))
        self.keep.setEnabled(False)
        self.row.setFocus()

    def _close(self) -> None:
        self._round.take_back()
        self._round.end()

    def show_progress(self, share: float) -> None:
        """How much is done until it is listed."""
        if abs(100 * share - self.progress.value()) >= 5:  # each step is painted at once
            self.progress.setValue(round(100 * share))

    def _fill(self) -> None:
        self.progress.hide()
        self.words.setText(HINT if self._round.count else self._nothing)
        width, height = self._round.size
        for number in range(self._round.count):
            item = QListWidgetItem(self._round.short(number))
            item.setData(ID, str(number))
            item.setData(ASPECT, width / height)
            item.setToolTip(self._round.tip(number))
            self.row.addItem(item)
        # The keyboard is in the list from the beginning: arrows go through it, Return tries on and keeps.
        self.row.setCurrentRow(0)
        self.row.setFocus()

    def _show_picture(self, number: int) -> None:
        item = self.row.item(number)
        if item is not None:
            item.setData(PICTURE, QPixmap.fromImage(self._round.images[number]))

    def _show_tried(self) -> None:
        number = self._round.number
        self.row.frames.current_id = None if number is None else str(number)
        self.words.setText(HINT if number is None else self._round.words(number))
        self.keep.setEnabled(number is not None)
        self.row.viewport().update()
        if number is not None:
            self.row.setCurrentRow(number)
            self.row.setFocus()
