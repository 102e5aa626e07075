"""The list of every key."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QFrame, QGridLayout, QHBoxLayout, QLabel, QLayout, QScrollArea, QVBoxLayout, QWidget

from anatome.app.base.actions import Actions, key_words
from anatome.app.base.entry import Entry

COLUMNS = 4
HIGHEST = 560
"""Pixels of the list, over which it scrolls."""
MOUSE = (
    "On the stage: drag to turn the view about what is under the pointer, right drag or Shift drag to shift it, wheel to move "
    "towards the pointer. Click picks a part; a double click on a cut face picks its cut; Ctrl and a number recall a scene. With "
    "a cut picked, type a number to place it; arrows move it by 10 cm, with Ctrl by 1 cm, with Shift by 1 m, with Alt up and "
    "down. A dragged cut stops at storeys, faces and the middle of openings; Ctrl lets it go on. Shift turns in steps of 15° and "
    "to the building's directions. Ctrl and a drag pick parts with a rectangle, Ctrl, Shift and a drag notes. Notes are picked "
    "by a click, more with Ctrl, and dragged; arrows move them by a millimetre of paper, a double click types their words. On a "
    "sheet: drag to move, corners and sides to size and crop, wheel to go nearer."
)


class KeysDialog(QDialog):
    """Keys by what they are for, in columns."""

    def __init__(self, parent: QWidget, actions: Actions) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Keys")
        outer = QVBoxLayout(self)
        outer.setContentsMargins(28, 22, 28, 22)
        outer.setSpacing(16)
        outer.setSizeConstraint(QLayout.SizeConstraint.SetFixedSize)
        held = QWidget()
        columns = QHBoxLayout(held)
        columns.setContentsMargins(0, 0, 12, 0)
        columns.setSpacing(36)
        for groups in _columns(actions):
            column = QVBoxLayout()
            column.setSpacing(4)
            for title, entries in groups:
                column.addWidget(_words(title, "section"))
                grid = QGridLayout()
                grid.setHorizontalSpacing(24)
                grid.setVerticalSpacing(2)
                for row, entry in enumerate(entries):
                    text = entry.text.removeprefix("Axonometric, ")
                    grid.addWidget(_words(text[0].upper() + text[1:]), row, 0)
                    grid.addWidget(_words(key_words(actions[entry.name]), "soft"), row, 1, Qt.AlignmentFlag.AlignRight)
                column.addLayout(grid)
                column.addSpacing(6)
            column.addStretch()
            columns.addLayout(column)
        scrolled = QScrollArea()
        scrolled.setFrameShape(QFrame.Shape.NoFrame)
        scrolled.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scrolled.setWidgetResizable(True)
        scrolled.setWidget(held)
        # Small screens see all of it too.
        size = held.sizeHint()
        scrolled.setFixedSize(size.width() + scrolled.verticalScrollBar().sizeHint().width(), min(size.height(), HIGHEST))
        outer.addWidget(scrolled)
        mouse = _words(MOUSE, "soft")
        mouse.setWordWrap(True)
        mouse.setFixedWidth(980)
        outer.addWidget(mouse)


def _columns(actions: Actions) -> list[list[tuple[str, list[Entry]]]]:
    """The commands that have a key, by group, in columns of about the same length."""
    groups: dict[str, list[Entry]] = {}
    for entry in actions.entries():
        if entry.key and entry.group:
            groups.setdefault(entry.group, []).append(entry)
    rows = sum(len(entries) + 2 for entries in groups.values())
    columns: list[list[tuple[str, list[Entry]]]] = [[]]
    filled = 0
    for title, entries in groups.items():
        if filled and filled + len(entries) / 2 > rows / COLUMNS and len(columns) < COLUMNS:
            columns.append([])
            filled = 0
        columns[-1].append((title, entries))
        filled += len(entries) + 2
    return columns


def _words(text: str, role: str = "") -> QLabel:
    label = QLabel(text)
    if role:
        label.setProperty("role", role)
    return label
