"""The list of every key."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QLayout, QVBoxLayout, QWidget

from anatome.app.actions import Actions

COLUMNS = (
    ("Files", ("open_model", "open_project", "save", "save_as", "close_project", "undo", "redo", "step_back")),
    (
        "New cuts",
        (
            "place",
            "plane_line",
            "plane_storey",
            "plane_axis",
            "plane_along",
            "plane_points",
            "copy_cut",
            "box_shown",
            "box_picked",
            "box_plan",
            "stepped",
            "peel",
            "series",
        ),
    ),
    (
        "Cuts",
        (
            "square_on",
            "turn_round",
            "match",
            "reach_pick",
            "measure",
            "cut_on",
            "cut_poche",
            "cut_graphic",
            "cut_locked",
            "delete_cut",
        ),
    ),
    ("Parts", ("set_aside", "isolate", "bring_back")),
    ("Framing", ("fit", "projection", "view Front", "view Back", "view Left", "view Right", "view Top", "view Underside")),
    ("Axonometric, from the", tuple(f"view Axonometric, {w}" for w in ("front left", "front right", "back right", "back left"))),
    ("Scenes", ("save_scene", "replace_scene", "return_to_scene", "scene_on", "scene_back", "scene 1")),
    ("Sending out and the window", ("send_picture", "send_drawing", "alone", "panels", "find", "keys")),
)
MOUSE = (
    "On the stage: drag to turn the view about what is under the pointer, right drag or Shift drag to shift it, wheel to move "
    "towards the pointer. Click picks a part; a double click on a cut face picks its cut. With a cut picked, type a number to "
    "place it; arrows move it by 10 cm, with Ctrl by 1 cm, with Shift by 1 m, with Alt up and down. A dragged cut stops at "
    "storeys, faces and the middle of openings; Ctrl lets it go on. Shift turns in steps of 15° and to the building's directions."
)


class KeysDialog(QDialog):
    """Keys by what they are for, in two columns."""

    def __init__(self, parent: QWidget, actions: Actions) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Keys")
        outer = QVBoxLayout(self)
        outer.setContentsMargins(28, 22, 28, 22)
        outer.setSpacing(16)
        outer.setSizeConstraint(QLayout.SizeConstraint.SetFixedSize)
        columns = QHBoxLayout()
        columns.setSpacing(48)
        for groups in (COLUMNS[:2], COLUMNS[2:5], COLUMNS[5:]):
            column = QVBoxLayout()
            column.setSpacing(4)
            for title, names in groups:
                column.addWidget(_words(title, "section"))
                grid = QGridLayout()
                grid.setHorizontalSpacing(24)
                grid.setVerticalSpacing(3)
                for row, name in enumerate(names):
                    action = actions[name]
                    text = "A scene by its number" if name == "scene 1" else action.text().split(":")[0]
                    key = action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
                    grid.addWidget(_words(text.removeprefix("Axonometric, ").capitalize()), row, 0)
                    shown = _words("Ctrl+1 … 9" if name == "scene 1" else key, "soft")
                    grid.addWidget(shown, row, 1, Qt.AlignmentFlag.AlignRight)
                column.addLayout(grid)
                column.addSpacing(10)
            column.addStretch()
            columns.addLayout(column)
        outer.addLayout(columns)
        mouse = _words(MOUSE, "soft")
        mouse.setWordWrap(True)
        mouse.setFixedWidth(680)
        outer.addWidget(mouse)


def _words(text: str, role: str = "") -> QLabel:
    label = QLabel(text)
    if role:
        label.setProperty("role", role)
    return label
