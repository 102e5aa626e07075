"""The picked detail: its name and scale, how it is turned, and which cuts act on it."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QCheckBox, QFormLayout, QGridLayout, QHBoxLayout, QLineEdit, QPushButton, QSizePolicy, QVBoxLayout

from anatome.app.base import theme
from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.numbers import NumberField
from anatome.app.commands.details import DetailCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import Page, clear, label, section, switches
from anatome.app.stage.noted import StageNotes
from anatome.cuts.details import MOST_TIMES
from anatome.notes.captions import drawn_at

TIP = "Drag it on the stage to move it. A second click picks the part in it."


class DetailPage(Page):
    """Every change is a step to undo."""

    def __init__(self, session: Session, noted: StageNotes, actions: Actions, commands: DetailCommands) -> None:
        super().__init__()
        self._session, self._noted, self._commands = session, noted, commands
        self.title = label("", "title")
        self.facts = label("", "soft")
        self.column.addWidget(self.title)
        self.column.addWidget(self.facts)
        form = QFormLayout()
        self.name = QLineEdit()
        self.name.setMaxLength(200)
        self.name.setToolTip("What is written under it")
        self.name.editingFinished.connect(self._rename)
        form.addRow("Name", self.name)
        self.times = NumberField("×", 0.5, below_zero=False)
        self.times.setToolTip("How many times as large as the building it is drawn")
        for signal in (self.times.entered, self.times.nudged):
            signal.connect(self._enlarge)
        form.addRow("Larger", self.times)
        self.turn = NumberField("°", 15.0)
        self.turn.setToolTip("Turned about its middle, anticlockwise seen from above")
        for signal in (self.turn.entered, self.turn.nudged):
            signal.connect(self._turn)
        form.addRow("Turned", self.turn)
        self.column.addLayout(form)
        self.switches = switches(
            self.column,
            (
                ("caption", "Name and scale under it", "Written with the notes of the picture"),
                ("line", "Line to where it stands", "A thin line from it to the same parts in the building"),
            ),
            self._switch,
            columns=1,
        )
        section(self.column, "Cut by")
        self.none = label("No cut. It is drawn whole.", "soft")
        self.column.addWidget(self.none)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        self.column.addLayout(self.rows)
        grid = QGridLayout()
        grid.setSpacing(4)
        for place, name in enumerate(("cut_detail", "take_detail")):
            grid.addWidget(panel_button(actions[name]), place, 0)
        self.column.addLayout(grid)
        self.column.addWidget(label(TIP, "soft"))
        self.column.addStretch()
        self._shown: object = None
        self.cuts: dict[str, QCheckBox] = {}

    # Doing -----------------------------------------------------------------------------------------------------

    def _rename(self) -> None:
        detail, name = self._session.detail, self.name.text().strip()
        if detail is not None and name and name != detail.name:
            self._commands.change(f"Renamed to {name}", name=name)

    def _enlarge(self, value: float) -> None:
        times = min(max(value, 1 / MOST_TIMES), MOST_TIMES)
        self._commands.change(f"{times:g} times as large as the building", "detail times", times=times)

    def _turn(self, value: float) -> None:
        self._commands.change(f"Turned by {value:g}°", "detail turn", turn=(value + 180.0) % 360.0 - 180.0)

    def _switch(self, key: str, words: str, on: bool) -> None:
        self._commands.change(words if on else f"Not: {words.lower()}", None, **{key: on})

    def _cut_by(self, cut_id: str, on: bool) -> None:
        detail, cut = self._session.detail, self._session.stage.cut(cut_id)
        if detail is not None and cut is not None:
            cuts = detail.cuts | {cut_id} if on else detail.cuts - {cut_id}
            self._commands.change(f"{cut.name} {'cuts' if on else 'leaves'} {detail.name}", cuts=cuts)

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        session, building, detail = self._session, self._session.building, self._session.detail
        assert detail is not None and building is not None
        self.title.setText(detail.name)
        count = int((detail.members(building) & session.shown()).sum())
        parts = f"{count} part{'s' * (count != 1)}" if count else "None of its parts is shown"
        self.facts.setText(f"{parts}, {drawn_at(detail, self._noted.true_view().scale)}")
        if not self.name.hasFocus():
            self.name.setText(detail.name)
        self.times.show_value(detail.times)
        self.turn.show_value(detail.turn)
        for key, box in self.switches.items():
            box.setChecked(bool(getattr(detail, key)))
        cuts = session.stage.cuts
        named = tuple((cut.id, cut.name, cut.on) for cut in cuts)
        if named != self._shown:
            self._shown = named
            clear(self.rows)
            self.cuts = {}
            for cut in cuts:
                self.rows.addLayout(self._row(cut.id, cut.name, cut.on))
        for cut_id, box in self.cuts.items():
            box.setChecked(cut_id in detail.cuts)
        self.none.setVisible(not any(cut.id in detail.cuts for cut in cuts))

    def _row(self, cut_id: str, name: str, on: bool) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(4)
        box = QCheckBox(name if on else f"{name} (off)")
        box.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        box.setToolTip(f"Whether {name} cuts this detail; the building is cut where it is on there")
        box.clicked.connect(partial(self._cut_by, cut_id))
        pick = QPushButton()
        theme.wear(pick, "knife")
        pick.setProperty("role", "quiet")
        pick.setFixedWidth(26)
        pick.setToolTip(f"Pick {name}, to move it")
        pick.clicked.connect(lambda: self._session.pick(cut=cut_id))
        row.addWidget(box, 1)
        row.addWidget(pick)
        self.cuts[cut_id] = box
        return row
