"""What the window shows before anything is open: three ways in, and what was open lately.

For a project that has no model yet it asks for one.
"""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt, Signal, SignalInstance
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from anatome.app.base import theme
from anatome.app.document.recent import Recent
from anatome.scenes.storage import SUFFIX


class Welcome(QWidget):
    """Emits what was chosen."""

    open_model = Signal()
    open_project = Signal()
    open_demo = Signal()
    open_recent = Signal(str)
    leave_empty = Signal()

    def __init__(self, recent: Recent) -> None:
        super().__init__()
        self._recent = recent
        column = QVBoxLayout(self)
        column.setContentsMargins(80, 72, 80, 40)
        column.setSpacing(8)
        self.hero, self._under = QLabel(), QLabel()
        self.hero.setProperty("role", "hero")
        self._under.setProperty("role", "soft")
        column.addWidget(self.hero)
        column.addWidget(self._under)
        column.addSpacing(24)
        row = QHBoxLayout()
        row.setSpacing(16)
        for icon, title, words, signal in (
            ("buildings", "Open a model", "IFC, glTF, OBJ, STL, PLY or DAE", self.open_model),
            ("folder-open", "Open a project", "Go on where you stopped", self.open_project),
            ("house-line", "Try the boathouse", "A model with scenes to look at", self.open_demo),
        ):
            row.addWidget(self._card(icon, title, words, signal))
        column.addLayout(row)
        self.leave = QPushButton("Leave it empty for now")
        self.leave.setToolTip("The project stays where it is and can be opened again at any time")
        self.leave.clicked.connect(self.leave_empty)
        column.addSpacing(8)
        column.addWidget(self.leave, 0, Qt.AlignmentFlag.AlignLeft)
        self._drop = QLabel("Or drop a file anywhere in this window.")
        self._drop.setProperty("role", "soft")
        column.addWidget(self._drop)
        column.addSpacing(28)
        self._title = QLabel("Recent")
        self._title.setProperty("role", "section")
        column.addWidget(self._title)
        self._grid = QGridLayout()
        self._grid.setSpacing(16)
        column.addLayout(self._grid)
        column.addStretch()
        self.wait_for(None)
        self.refresh()

    def wait_for(self, project: str | None) -> None:
        """Ask for a model for the project of this name; None: for anything."""
        self.hero.setText(f"“{project}” has no model yet" if project else "Cut a building open")
        self._under.setText(
            "Open a model, or drop it here, and it becomes the project’s own."
            if project
            else "Open a model, place a cut, frame it, save the scene, send the picture out."
        )
        self.leave.setVisible(project is not None)
        self._drop.setVisible(project is None)

    def _card(self, icon: str, title: str, words: str, signal: SignalInstance) -> QPushButton:
        card = QPushButton()
        card.setProperty("role", "card")
        card.setMinimumHeight(104)
        card.setCursor(Qt.CursorShape.PointingHandCursor)
        inside = QVBoxLayout(card)
        inside.setContentsMargins(20, 16, 20, 16)
        picture = QLabel()
        picture.setPixmap(theme.icon(icon, theme.current().accent, 24).pixmap(QSize(24, 24)))
        name = QLabel(title)
        name.setProperty("role", "title")
        note = QLabel(words)
        note.setProperty("role", "soft")
        for label in (picture, name, note):
            label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            inside.addWidget(label)
        card.setAccessibleName(title)
        card.clicked.connect(signal)
        return card

    def refresh(self) -> None:
        """Show the recent projects and models, those with a picture as pictures."""
        while (item := self._grid.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.deleteLater()
        entries = self._recent.entries()[:4]
        self._title.setVisible(bool(entries))
        for i, path in enumerate(entries):
            button = QPushButton(f"   {path.stem}" if path.suffix == SUFFIX else path.name)
            button.setProperty("role", "card")
            button.setToolTip(str(path))
            data = self._recent.picture(path)
            picture = QPixmap()
            if data and picture.loadFromData(data):
                button.setIcon(QIcon(picture))
                button.setIconSize(QSize(112, 72))
            button.setFixedHeight(104)
            button.clicked.connect(lambda _=False, path=path: self.open_recent.emit(str(path)))
            self._grid.addWidget(button, i // 2, i % 2)
