"""The suggestions as a row of pictures in the foot: a click tries one on, a second one keeps it, Escape takes it back."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QListWidgetItem, QProgressBar, QPushButton, QVBoxLayout, QWidget

from anatome.app.panels.inspector.page import label
from anatome.app.panels.picture_row import ASPECT, ID, PICTURE, PictureRow
from anatome.app.suggesting import Suggester
from anatome.suggestions.ranking import WEIGHTS, Suggestion

HINT = "A click tries one on, a second click or Return keeps it, Escape takes it back."
PARTS = {"seen": "seen", "clean": "cut cleanly", "full": "frame filled"}


def why(suggestion: Suggestion) -> str:
    """How its score comes about."""
    rows = [f"{PARTS[name]}: {value:.2f} × {WEIGHTS[name]:g}" for name, value in suggestion.parts.items()]
    return "\n".join([f"{suggestion.title}. {suggestion.words}", f"Score {suggestion.score:.2f}", *rows])


class _Row(PictureRow):
    """Return keeps, arrows go from one to the next."""

    def __init__(self, suggester: Suggester) -> None:
        super().__init__()
        self._suggester = suggester

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            item = self.currentItem()
            if self._suggester.number is not None and (item is None or int(item.data(ID)) == self._suggester.number):
                self._suggester.keep()
            elif item is not None:
                self._suggester.try_on(int(item.data(ID)))
            return
        super().keyPressEvent(event)


class SuggestionStrip(QWidget):
    """Shows a round of suggestions."""

    def __init__(self, suggester: Suggester) -> None:
        super().__init__()
        self._suggester = suggester
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
        self.keep.clicked.connect(suggester.keep)
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
        self.row = _Row(suggester)
        self.row.itemClicked.connect(lambda item: suggester.try_on(int(item.data(ID))))
        row.addWidget(self.row, 1)
        self.setFixedHeight(self.row.height())
        suggester.progressed.connect(self._show_progress)
        suggester.ranked.connect(self._fill)
        suggester.pictured.connect(self._show_picture)
        suggester.tried_on.connect(self._show_tried)

    def begin(self) -> None:
        """A round begins."""
        subject = self._suggester.subject
        self.row.clear()
        self.row.current_id = None
        self.title.setText(f"Suggestions for {subject.name}" if subject is not None else "Suggestions")
        self.words.setText("Trying cuts and views…")
        self.progress.setValue(0)
        self.progress.show()
        self.keep.setEnabled(False)

    def _close(self) -> None:
        self._suggester.take_back()
        self._suggester.end()

    def _show_progress(self, share: float) -> None:
        if abs(100 * share - self.progress.value()) >= 5:  # each step is painted at once
            self.progress.setValue(round(100 * share))

    def _fill(self) -> None:
        self.progress.hide()
        found = self._suggester.found
        self.words.setText(HINT if found else "No cut shows it. Bring back what is set aside, or pick something else.")
        width, height = self._suggester.size
        for number, suggestion in enumerate(found):
            item = QListWidgetItem(suggestion.short)
            item.setData(ID, str(number))
            item.setData(ASPECT, width / height)
            item.setToolTip(why(suggestion))
            self.row.addItem(item)

    def _show_picture(self, number: int) -> None:
        item = self.row.item(number)
        if item is not None:
            item.setData(PICTURE, QPixmap.fromImage(self._suggester.images[number]))

    def _show_tried(self) -> None:
        number = self._suggester.number
        self.row.current_id = None if number is None else str(number)
        self.words.setText(HINT if number is None else self._suggester.found[number].words)
        self.keep.setEnabled(number is not None)
        self.row.viewport().update()
        if number is not None:
            self.row.setCurrentRow(number)
            self.row.setFocus()
