"""The picked notes: what they say, how large, and how they stand to one another."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QGridLayout,
    QLineEdit,
    QMenu,
    QPlainTextEdit,
    QPushButton,
    QToolButton,
    QWidget,
)

from anatome.app.base import theme
from anatome.app.base.actions import Actions, panel_button
from anatome.app.commands.notes import NoteCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import Page, label, section
from anatome.app.panels.inspector.shape_box import ShapeBox
from anatome.app.panels.inspector.style_row import StyleRow
from anatome.app.stage.stage import Stage
from anatome.notes.facts import FIELDS
from anatome.notes.lettering import HEIGHTS
from anatome.notes.note import MOST_WORDS, AnyNote, Dimension, Label, Level, Radius, WithWords, anchors_of

AS_ALL = "As all notes"


class NotesPage(Page):
    """For one note or several."""

    def __init__(self, session: Session, stage: Stage, actions: Actions, commands: NoteCommands) -> None:
        super().__init__()
        self._session, self._noted, self._commands = session, stage.noted, commands
        self._typed_for: str | None = None
        self.title = label("", "title")
        self.facts = label("", "soft")
        self.warning = label("", "warning")
        for words in (self.title, self.facts, self.warning):
            self.column.addWidget(words)
        self.words = QPlainTextEdit()
        self.words.setFixedHeight(74)
        self.words.setTabChangesFocus(True)
        self.words.setToolTip("What it says. Words in braces are filled: {value} with what it measures, others from its part")
        self.words.installEventFilter(self)
        self.column.addWidget(self.words)
        self.fields = QToolButton()
        self.fields.setText("Put in what the part has")
        theme.wear(self.fields, "plus")
        self.fields.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.fields.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.fields.setToolTip("Its name, material, area …; {Set.Property} is any property the model's file has")
        menu = QMenu(self.fields)
        for field, says in FIELDS.items():
            menu.addAction(f"{field}: {says}").triggered.connect(lambda _=False, field=field: self._put_in(field))
        self.fields.setMenu(menu)
        self.column.addWidget(self.fields)
        form = QFormLayout()
        self.height_choice = QComboBox(editable=False)
        self.height_choice.addItem(AS_ALL, None)
        for height in HEIGHTS:
            self.height_choice.addItem(f"{height:g} mm", height)
        self.height_choice.setToolTip("How high its capitals are on paper (ISO 3098)")
        self.height_choice.activated.connect(self._set_height)
        form.addRow("Letters", self.height_choice)
        self._letters = form
        self.column.addLayout(form)
        self.whole_row = QWidget()
        one_row = QFormLayout(self.whole_row)
        one_row.setContentsMargins(0, 0, 0, 0)
        self.whole = QLineEdit()
        self.whole.setToolTip("{value} is filled with the length of the whole")
        self.whole.editingFinished.connect(self._keep_whole)
        one_row.addRow("The whole says", self.whole)
        self.column.addWidget(self.whole_row)
        self.overall = self._switch("The whole beside its parts", "overall")
        self.leader = self._switch("With a leader", "leader")
        self.lies = QCheckBox("Lies in the face it is set to")
        self.lies.setToolTip("It follows the slope of that face; off: flat in the picture")
        self.lies.clicked.connect(commands.lay)
        self.column.addWidget(self.lies)
        self.each = self._switch("A line for each part it points at", "each")
        self.fan = self._switch("A leader to each of them", "fan")
        self.diameter = self._switch("Diameter", "diameter")
        self.style_row = StyleRow(session, lambda style, said: commands.change(said, None, style=style), of_all=False)
        self.column.addWidget(self.style_row)
        self.shape = ShapeBox(session, commands)
        self.column.addWidget(self.shape)
        grid = QGridLayout()
        grid.setSpacing(4)
        self.doing = {name: panel_button(actions[name]) for name in ("note_longer", "note_edit", "note_take")}
        for place, button in enumerate(self.doing.values()):
            grid.addWidget(button, place, 0)
        self.column.addLayout(grid)
        self.together = section(self.column, "Together")
        self.rows: list[QPushButton] = []
        for name in (*(f"note_align_{w}" for w in ("across", "upright", "along")),):
            self.rows.append(panel_button(actions[name]))
        for name in (*(f"note_spread_{w}" for w in ("across", "upright", "along")), "note_apart"):
            self.rows.append(panel_button(actions[name]))
        for row in self.rows:
            self.column.addWidget(row)
        self.column.addWidget(
            label("Drag them on the stage, or move them with the arrow keys. Ctrl and a click picks more.", "soft")
        )
        self.column.addStretch()

    def _switch(self, words: str, field: str) -> QCheckBox:
        made = QCheckBox(words)
        made.clicked.connect(lambda on: self._commands.change(f"{words}: {'on' if on else 'off'}", **{field: on}))
        self.column.addWidget(made)
        return made

    def _set_height(self, place: int) -> None:
        height = self.height_choice.itemData(place)
        self._commands.change("Letters of the picked notes", height=height)

    # Words -----------------------------------------------------------------------------------------------------

    def _put_in(self, field: str) -> None:
        self.words.textCursor().insertText("{" + field + "}")
        self._keep()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.FocusOut:
            self._keep()
        return False

    def _keep(self) -> None:
        """What is typed is what the note says."""
        note = self._session.stage.note(self._typed_for) if self._session.is_open else None
        text = self.words.toPlainText().strip()
        if isinstance(note, WithWords) and text and text != note.text:
            self._noted.put([note.model_copy(update={"text": text[:MOST_WORDS]})], "Changed the text")

    def _keep_whole(self) -> None:
        """What is typed is what the whole of a chain says."""
        note, text = self._session.stage.note(self._typed_for) if self._session.is_open else None, self.whole.text().strip()
        if isinstance(note, Dimension) and text and text != note.whole:
            self._noted.put([note.model_copy(update={"whole": text[:MOST_WORDS]})], "Changed the text of the whole")

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        notes = self._session.notes
        if not notes:
            return
        one = notes[0] if len(notes) == 1 else None
        if one is not None:
            self.title.setText(one.kind.capitalize())
        else:
            self.title.setText(f"{len(notes)} notes")
        self.facts.setText(self._about(one) if one is not None else ", ".join(sorted({n.kind for n in notes})))
        marks = [self._noted.marks(note) for note in notes]
        gone = next((m.gone for m in marks if m is not None and m.gone), "")
        unseen = sum(m is None for m in marks)
        warning = f"{gone}. It is kept; set it anew or take it away." if gone else ""
        if not warning and unseen:
            warning = "What it holds on to is out of sight, so it is not drawn." if one else f"{unseen} are out of sight."
        self.warning.setText(warning)
        self.warning.setVisible(bool(warning))
        typed = one if isinstance(one, WithWords) else None
        self.words.setVisible(typed is not None)
        self.fields.setVisible(isinstance(typed, Label | Level))
        self._show_whole(one)
        self._typed_for = typed.id if typed is not None else None
        if typed is not None and not (self.words.hasFocus() and self.words.toPlainText() == typed.text):
            self.words.setPlainText(typed.text)
        self.shape.show_notes(notes)
        styles = {note.style for note in notes}
        self.style_row.show_style(styles.pop() if len(styles) == 1 else None, self._session.stage.note_style)
        has_words = self.shape.isHidden()
        self._letters.setRowVisible(self.height_choice, has_words)
        for name in ("note_longer", "note_edit"):
            self.doing[name].setVisible(has_words)
        heights = {note.height for note in notes}
        own = heights.pop() if len(heights) == 1 else None
        self.height_choice.setCurrentIndex(max(self.height_choice.findData(own), 0))
        self._show_switch(self.overall, notes, Dimension, "overall", lambda n: len(n.anchors) > 2)
        self._show_switch(self.leader, notes, Label, "leader")
        labels = [n for n in notes if isinstance(n, Label | Level)]
        self.lies.setVisible(len(labels) == len(notes))
        self.lies.setChecked(bool(labels) and all(n.plane is not None for n in labels))
        self._show_switch(self.each, notes, Label, "each", lambda n: len(n.anchors) > 1)
        self._show_switch(self.fan, notes, Label, "fan", lambda n: len(n.anchors) > 1 and n.leader)
        self._show_switch(self.diameter, notes, Radius, "diameter")
        for row in (self.together, *self.rows):
            row.setVisible(len(notes) > 1)

    def _show_whole(self, one: AnyNote | None) -> None:
        """What the whole of a chain says, where it has one."""
        chain = one if isinstance(one, Dimension) and one.overall and len(one.anchors) > 2 else None
        self.whole_row.setVisible(chain is not None)
        if chain is not None and not self.whole.hasFocus():
            self.whole.setText(chain.whole)

    @staticmethod
    def _show_switch(
        box: QCheckBox, notes: tuple[AnyNote, ...], kind: type[Any], field: str, suits: Callable[[Any], bool] = lambda n: True
    ) -> None:
        own = [n for n in notes if isinstance(n, kind) and suits(n)]
        box.setVisible(bool(own) and len(own) == len(notes))
        if own:
            box.setChecked(all(getattr(n, field) for n in own))

    def _about(self, note: AnyNote) -> str:
        """What it is set to."""
        building, marks = self._session.building, self._noted.marks(note)
        assert building is not None
        said = []
        if marks is not None and marks.measured:
            texts = [m.words.text for m in marks.measured]
            whole = isinstance(note, Dimension) and note.overall and len(texts) > 2
            parts = " + ".join(texts[:-1] if whole else texts)
            said.append(f"{parts} = {texts[-1]}" if whole else parts)
        names = []
        for anchor in anchors_of(note):
            number = building.index_of.get(anchor.on)
            space = next((s.name for s in building.spaces if s.id == anchor.on), None)
            storey = next((s.name for s in building.storeys if s.id == anchor.on), None)
            name = building.elements[number].name if number is not None else space or storey
            if name and name not in names:
                names.append(name)
        if names:
            said.append("Set to " + ", ".join(names[:4]) + (" …" if len(names) > 4 else ""))
        cuts = {a.cut for a in anchors_of(note) if a.cut}
        cut = next((c for c in self._session.stage.cuts if c.id in cuts), None)
        if cut is not None:
            said.append(f"Goes along with {cut.name}")
        return "\n".join(said)
