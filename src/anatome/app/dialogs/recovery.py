"""What to do with work that was not saved when the program last ended: gone on with, kept beside what was saved, or left."""

from __future__ import annotations

import time
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QDialog, QFrame, QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from anatome.app.document.recent import Recent
from anatome.scenes.journal import LeftBehind

PICTURE = (208, 132)
MOST = 3
"""Shown at a time; the others are offered at the next start."""


class Recovery(QDialog):
    """Each piece of work left behind, beside what was saved of it. Its signals say what was chosen."""

    go_on = Signal(object)
    keep_both = Signal(object)
    as_saved = Signal(object)

    def __init__(self, parent: QWidget, left: list[LeftBehind]) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Work that was not saved")
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 20, 24, 20)
        column.setSpacing(14)
        heading = QLabel("Anatome ended before this was saved")
        heading.setProperty("role", "title")
        column.addWidget(heading)
        words = QLabel("Every change up to about a second before the end was written down. The saved files were not touched.")
        words.setProperty("role", "soft")
        column.addWidget(words)
        self.buttons: list[dict[str, QPushButton]] = []
        for one in left[:MOST]:
            column.addWidget(self._card(one), 0, Qt.AlignmentFlag.AlignLeft)
        later = QPushButton("Decide later")
        later.setToolTip("It is kept, and offered again at the next start")
        later.clicked.connect(self.reject)
        column.addWidget(later, 0, Qt.AlignmentFlag.AlignRight)

    def _card(self, left: LeftBehind) -> QWidget:
        """One of them: what was saved on the left, what was not on the right, and under them what can be done."""
        card = QFrame()
        grid = QGridLayout(card)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(20)
        grid.setVerticalSpacing(4)
        name = QLabel(left.last.project.name)
        name.setProperty("role", "title")
        grid.addWidget(name, 0, 0, 1, 2)
        saved = saved_file(left)
        grid.addWidget(_picture(None if saved is None else Recent.picture(saved), "Never saved"), 1, 0)
        grid.addWidget(_picture(_content(left.picture), "No picture"), 1, 1)
        for number, (title, note) in enumerate((_saved_words(saved), _left_words(left))):
            for row, (text, role) in enumerate(((title, "section"), (note, "soft"))):
                label = QLabel(text)
                label.setProperty("role", role)
                grid.addWidget(label, 2 + row, number)
        choices = QHBoxLayout()
        choices.setSpacing(8)
        go_on = QPushButton("Go on with the changes")
        go_on.setToolTip("Open it as it was at the end; nothing is written before you save")
        go_on.setDefault(True)
        both = QPushButton("Keep both")
        both.setToolTip("Open the changes as a project of their own, beside the saved one")
        other = QPushButton("Open as it was saved" if saved is not None else "Throw it away")
        other.setToolTip("What was not saved is thrown away")
        both.setVisible(saved is not None)
        for button, chosen in ((go_on, self.go_on), (both, self.keep_both), (other, self.as_saved)):
            button.clicked.connect(lambda _=False, chosen=chosen: self._choose(chosen, left))
            choices.addWidget(button)
        choices.addStretch()
        self.buttons.append({"go on": go_on, "both": both, "saved": other})
        grid.setRowMinimumHeight(4, 6)
        grid.addLayout(choices, 5, 0, 1, 2)
        return card

    def _choose(self, chosen: object, left: LeftBehind) -> None:
        self.accept()
        chosen.emit(left)  # type: ignore[attr-defined]


def saved_file(left: LeftBehind) -> Path | None:
    """Return the project file the work was begun from, if there is one."""
    path = Path(left.base.project) if left.base.project else None
    return path if path is not None and path.is_file() else None


def _content(path: Path) -> bytes | None:
    try:
        return path.read_bytes()
    except OSError:
        return None


def _picture(data: bytes | None, otherwise: str) -> QLabel:
    label = QLabel(otherwise, alignment=Qt.AlignmentFlag.AlignCenter)
    label.setFixedSize(*PICTURE)
    label.setProperty("role", "soft")
    picture = QPixmap()
    if data and picture.loadFromData(data):
        label.setPixmap(
            picture.scaled(
                *PICTURE, Qt.AspectRatioMode.KeepAspectRatioByExpanding, Qt.TransformationMode.SmoothTransformation
            ).copy(0, 0, *PICTURE)
        )
    return label


def _saved_words(path: Path | None) -> tuple[str, str]:
    if path is None:
        return "As it was saved", "It was never saved"
    return "As it was saved", f"{ago(time.time() - path.stat().st_mtime)}, {path.name}"


def _left_words(left: LeftBehind) -> tuple[str, str]:
    changes = left.last.changes
    more = f"{changes:,} change{'s' * (changes != 1)} later" if saved_file(left) else f"{changes:,} change{'s' * (changes != 1)}"
    return "As it was at the end", f"{ago(time.time() - left.last.at)}, {more}"


def ago(seconds: float) -> str:
    """“just now”, “4 minutes ago”, “3 hours ago”, “2 days ago”."""
    for size, name in ((86400.0, "day"), (3600.0, "hour"), (60.0, "minute")):
        if seconds >= size:
            count = int(seconds // size)
            return f"{count} {name}{'s' * (count != 1)} ago"
    return "just now"
