"""The list of every key, which a few letters narrow."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QFrame, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from anatome.app.base.actions import Actions, key_words
from anatome.app.base.entry import Entry

COLUMNS = 3
SIZE = (1000, 660)
"""Pixels of the dialog: a screen of 1280 × 800 shows all of it."""
MOUSE = (
    ("Drag", "turns the view about what is under the pointer; in a square view it shifts it, and Shift turns"),
    ("Right drag, Shift drag", "shifts the view"),
    ("Wheel", "goes towards the pointer"),
    ("Click", "picks a part; again: what lies behind it; on a cut face a double click picks its cut"),
    ("Ctrl and a drag", "picks parts with a rectangle, with Shift notes"),
    ("Type a number", "places the picked cut; arrows move it by 10 cm, with Ctrl 1 cm, with Shift 1 m, with Alt up and down"),
    ("Drag a cut", "it stops at storeys, faces and the middle of openings; Ctrl lets it go on. Shift turns by 15°"),
    ("On a sheet", "drag moves, corners and sides size and crop; Ctrl: not drawn to lines"),
)
"""What the mouse does."""


class KeysDialog(QDialog):
    """Keys by what they are for, in columns; what the mouse does under them."""

    def __init__(self, parent: QWidget, actions: Actions) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Keys")
        self.setFixedSize(*SIZE)
        self._actions = actions
        self.field = QLineEdit(placeholderText="Type what you want to do, or a key", clearButtonEnabled=True)
        self.field.textChanged.connect(self._fill)
        self.list = QScrollArea()
        self.list.setFrameShape(QFrame.Shape.NoFrame)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setWidgetResizable(True)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 18, 12, 16)
        outer.setSpacing(12)
        outer.addWidget(self.field)
        outer.addWidget(self.list, 1)
        self._fill("")
        self.field.setFocus()

    def _fill(self, words: str) -> None:
        """List what has these letters in its name, its group or its key."""
        held = QWidget()
        whole = QVBoxLayout(held)
        whole.setContentsMargins(0, 0, 12, 0)
        whole.setSpacing(14)
        columns = QHBoxLayout()
        columns.setSpacing(32)
        found = _columns(self._actions, words.strip().lower())
        for groups in found:
            column = QVBoxLayout()
            column.setSpacing(4)
            for title, entries in groups:
                column.addWidget(_words(title, "section"))
                column.addLayout(
                    self._rows([(e.text.removeprefix("Axonometric, "), key_words(self._actions[e.name])) for e in entries])
                )
                column.addSpacing(6)
            column.addStretch()
            columns.addLayout(column, 1)
        whole.addLayout(columns)
        mouse = [(a, b) for a, b in MOUSE if words.strip().lower() in f"{a} {b}".lower()]
        if mouse:
            whole.addWidget(_words("The mouse", "section"))
            grid = QGridLayout()
            grid.setHorizontalSpacing(24)
            grid.setColumnStretch(1, 1)
            for row, (what, does) in enumerate(mouse):
                grid.addWidget(_words(what), row, 0, Qt.AlignmentFlag.AlignTop)
                said = _words(does, "soft")
                said.setWordWrap(True)
                grid.addWidget(said, row, 1)
            whole.addLayout(grid)
        if not mouse and not any(found):
            whole.addWidget(_words("No key does that. “Find anything” (Ctrl+Shift+Space) knows what has none.", "soft"))
        whole.addStretch()
        self.list.setWidget(held)

    @staticmethod
    def _rows(entries: list[tuple[str, str]]) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(0, 1)
        for row, (text, key) in enumerate(entries):
            grid.addWidget(_words(text[0].upper() + text[1:]), row, 0)
            grid.addWidget(_words(key, "soft"), row, 1, Qt.AlignmentFlag.AlignRight)
        return grid


def _columns(actions: Actions, words: str) -> list[list[tuple[str, list[Entry]]]]:
    """The commands that have a key and these letters, by group, in columns of about the same length."""
    groups: dict[str, list[Entry]] = {}
    for entry in actions.entries():
        if entry.key and entry.group and words in f"{entry.text} {entry.group} {key_words(actions[entry.name])}".lower():
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
