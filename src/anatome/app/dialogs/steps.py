"""What was done, as a list one can jump in: each step with its name and a small picture of the stage after it."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QIcon, QImage, QPixmap
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from anatome.app.base import theme
from anatome.app.document.session import Session
from anatome.app.stage.step_pictures import StepPictures

STEPS = Qt.ItemDataRole.UserRole
SIZE = QSize(84, 56)
BEGINNING = "As it was opened"


class StepsDialog(QDialog):
    """Stays while one works; a click goes to a step, back or forth. What was not done yet is pale."""

    def __init__(self, parent: QWidget, session: Session, pictures: StepPictures) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("What was done")
        self.resize(360, 520)
        self._session, self._pictures = session, pictures
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.setSpacing(10)
        heading = QLabel("What was done")
        heading.setProperty("role", "title")
        column.addWidget(heading)
        words = QLabel("A click goes back to a step, or forth again. Nothing is lost until you go on from an earlier one.")
        words.setProperty("role", "soft")
        words.setWordWrap(True)
        column.addWidget(words)
        self.list = QListWidget()
        self.list.setIconSize(SIZE)
        self.list.setSpacing(1)
        self.list.setSelectionMode(QListWidget.SelectionMode.NoSelection)
        self.list.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.list.itemClicked.connect(self._go)
        self.list.itemActivated.connect(self._go)
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        row.addStretch()
        close = QPushButton("Close")
        close.setAutoDefault(False)
        close.clicked.connect(self.close)
        row.addWidget(close)
        column.addLayout(row)
        session.changed.connect(self.fill)
        pictures.taken.connect(self.fill)
        session.opened.connect(self.fill)
        session.closed.connect(self.close)
        self.fill()

    def fill(self) -> None:
        """List the steps as they are now, the last one at the top."""
        if not self._session.is_open:
            return
        steps, now = self._session.history.steps()
        at = self.list.verticalScrollBar().value()
        colours = theme.current()
        self.list.blockSignals(True)
        self.list.clear()
        for number in reversed(range(len(steps))):
            label, state = steps[number]
            item = QListWidgetItem(label or BEGINNING)
            item.setData(STEPS, number - now)
            item.setIcon(_icon(self._pictures.get(state)))
            item.setSizeHint(QSize(0, SIZE.height() + 8))
            item.setToolTip(label or BEGINNING)
            if number > now:
                item.setForeground(QColor(colours.ink_faint))
            self.list.addItem(item)
            if number == now:
                font = item.font()
                font.setBold(True)
                item.setFont(font)
                item.setForeground(QColor(colours.accent))
                self.list.setCurrentItem(item)
        self.list.blockSignals(False)
        self.list.verticalScrollBar().setValue(at)

    def _go(self, item: QListWidgetItem) -> None:
        by = int(item.data(STEPS))
        if by:
            self._session.go_by(by)


def _icon(image: QImage | None) -> QIcon:
    """A picture in the middle of its room; an empty one where there is none."""
    made = QPixmap(SIZE)
    made.fill(Qt.GlobalColor.transparent)
    if image is not None:
        made = QPixmap.fromImage(image)
    return QIcon(made)
