"""How all notes of the picture are written, and which of them hold on to nothing any more."""

from __future__ import annotations

from typing import get_args

from PySide6.QtWidgets import QCheckBox, QComboBox, QFormLayout, QPushButton, QWidget

from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.numbers import CountBox
from anatome.app.commands.touching_up import TouchUpCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import bare_column, label
from anatome.app.panels.inspector.style_row import StyleRow
from anatome.app.panels.inspector.touch_up_box import TouchUpBox
from anatome.app.stage.stage import Stage
from anatome.notes.facts import FINENESS
from anatome.notes.lettering import HEIGHTS
from anatome.notes.note import Fraction, NoteStyle
from anatome.scenes import note_edits
from anatome.scenes.project import StageState

UNITS = (("Metres", "m"), ("Centimetres", "cm"), ("Millimetres", "mm"), ("Feet and inches", "ft"))


def notes_words(stage: StageState) -> str:
    """Return the heading of the notes: how many there are, and whether they are shown."""
    count = len(stage.notes)
    return f"Notes, {count}" + ("" if stage.notes_shown else ", not shown") if count else "Notes"


class NoteBox(QWidget):
    """How notes are written; touching up lines is a section of it."""

    def __init__(self, session: Session, stage: Stage, actions: Actions, touching_up: TouchUpCommands) -> None:
        super().__init__()
        self._session, self._noted = session, stage.noted
        column = bare_column(self)
        form = QFormLayout()
        self.height_choice = QComboBox()
        for height in HEIGHTS:
            self.height_choice.addItem(f"{height:g} mm", height)
        self.height_choice.setToolTip("How high capitals are on paper (ISO 3098)")
        self.height_choice.activated.connect(lambda i: self._set("Letters", height=self.height_choice.itemData(i)))
        form.addRow("Letters", self.height_choice)
        self.unit = QComboBox()
        for words, unit in UNITS:
            self.unit.addItem(words, unit)
        self.unit.activated.connect(lambda i: self._set(f"Lengths in {UNITS[i][0].lower()}", unit=UNITS[i][1]))
        form.addRow("Lengths in", self.unit)
        self.decimals = CountBox(minimum=0, maximum=4)
        self.decimals.setToolTip("Of metres; centimetres have two less, millimetres three less")
        self.decimals.valueChanged.connect(lambda n: self._set(f"{n} decimals", decimals=n))
        form.addRow("Decimals", self.decimals)
        self.fraction = QComboBox()
        for parts in get_args(Fraction):
            self.fraction.addItem("whole inches" if parts == 1 else f'1/{parts}"', parts)
        self.fraction.setToolTip("The part of an inch lengths are told to")
        self.fraction.activated.connect(lambda i: self._set("To a part of an inch", fraction=self.fraction.itemData(i)))
        form.addRow("To the nearest", self.fraction)
        self._form = form
        self.veil = QCheckBox("Paper behind words")
        self.veil.setToolTip("So that they can be read on anything")
        self.veil.clicked.connect(lambda on: self._set("Paper behind words", veil=on))
        form.addRow("", self.veil)
        column.addLayout(form)
        self.style_row = StyleRow(session, self._take, of_all=True)
        column.addWidget(self.style_row)
        for name in ("dress", "pick_notes"):
            column.addWidget(panel_button(actions[name]))
        self.gone = label("", "warning")
        self.pick_gone = QPushButton("Pick those")
        self.pick_gone.clicked.connect(lambda: session.pick(notes=[m.note for m in self._noted.gone()]))
        column.addWidget(self.gone)
        column.addWidget(self.pick_gone)
        self.touching_up = TouchUpBox(session, stage, actions, touching_up)
        column.addWidget(self.touching_up)

    def _take(self, style: NoteStyle | None, said: str) -> None:
        if style is not None:
            self._set(said, **dict(style))

    def _set(self, said: str, **changes: object) -> None:
        s = self._session
        style = NoteStyle.model_validate(dict(s.stage.note_style) | changes)
        if style != s.stage.note_style:
            s.apply(note_edits.set_note_style(s.project, style), said)

    def refresh(self) -> None:
        """Show the stage's."""
        stage = self._session.stage
        style = stage.note_style
        self.style_row.show_style(style, style)
        count = len(stage.notes)
        self.height_choice.setCurrentIndex(self.height_choice.findData(style.height))
        self.unit.setCurrentIndex(self.unit.findData(style.unit))
        self.decimals.blockSignals(True)
        self.decimals.setValue(style.decimals)
        self.decimals.blockSignals(False)
        feet = style.unit == "ft"
        self._form.setRowVisible(self.decimals, not feet)
        self._form.setRowVisible(self.fraction, feet)
        self.fraction.setCurrentIndex(self.fraction.findData(style.fraction or FINENESS[style.decimals]))
        self.veil.setChecked(style.veil)
        gone = self._noted.gone() if count else ()
        self.gone.setText(
            f"{len(gone)} hold{'s' if len(gone) == 1 else ''} on to what is no longer there. Nothing is lost; they are not drawn."
        )
        for widget in (self.gone, self.pick_gone):
            widget.setVisible(bool(gone))
        self.touching_up.refresh()
