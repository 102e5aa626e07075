"""How things are cut: what is kept whole or left out by type, and how cut faces are filled."""

from __future__ import annotations

import weakref
from typing import Any

from PySide6.QtWidgets import QComboBox, QFormLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anatome.app.base import units
from anatome.app.base.numbers import NumberField
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import Fold, away_button, bare_column, clear, label, switches
from anatome.app.panels.inspector.treatment_words import TREATMENT_WORDS, fill_treatments
from anatome.cuts.treatment import TreatmentRow
from anatome.model.selection import Selection
from anatome.scenes import edits
from anatome.words import plain_type

RULES = (
    ("sheet", "Sheets are", "Thickness given to surfaces that have none, where they are cut; 0 leaves them lines", 0.01),
    (
        "earth",
        "Ground goes down",
        "Terrain without thickness is solid earth so far under its lowest point; 0: a line",
        0.5,
    ),
)


class CuttingBox(QWidget):
    """Every change is a step to undo."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._treated: object = None
        column = bare_column(self)
        self._build_treatments(column)
        self._build_rules(column)

    def _build_treatments(self, column: QVBoxLayout) -> None:
        self.treated = Fold("By type", "Slice it, keep it whole, or leave it out. All else is sliced")
        self.treated_rows = QVBoxLayout()
        self.treated_rows.setSpacing(4)
        self.treated.column.addLayout(self.treated_rows)
        self.add_type = QComboBox()
        self.add_type.setToolTip("Say something about another element type")
        self.add_type.activated.connect(self._add_type)
        self.treated.column.addWidget(self.add_type)
        column.addWidget(self.treated)

    def _build_rules(self, column: QVBoxLayout) -> None:
        self.filling = Fold("How cut faces are filled", "Neighbours, sheets, ground and gaps")
        self.merge = switches(
            self.filling.column,
            (("merge", "Merge neighbours of one material", "One fill, without lines between parts of the same material"),),
            self._merge,
            columns=1,
        )["merge"]
        form = QFormLayout()
        self.rules: dict[str, NumberField] = {}
        for key, words, tip, step in RULES:
            made = NumberField("m", step)
            made.setToolTip(tip)
            made.entered.connect(lambda value, key=key, words=words: self._rule(key, words, value))
            made.nudged.connect(lambda value, key=key, words=words: self._rule(key, words, value))
            form.addRow(words, made)
            self.rules[key] = made
        self.gap = NumberField("m", 0.005, below_zero=False)
        self.gap.setToolTip(
            "Gaps in outlines up to this width are closed. Unless you type one: a thousandth of each part, at most 20 mm"
        )
        self.gap.entered.connect(lambda value: self._rule("gap", "Gaps", value))
        self.gap.nudged.connect(lambda value: self._rule("gap", "Gaps", value))
        form.addRow("Gaps closed up to", self.gap)
        self.filling.column.addLayout(form)
        self.gap_by_size = QPushButton("Gaps by the size of the part")
        self.gap_by_size.setProperty("role", "quiet")
        self.gap_by_size.clicked.connect(lambda: self._set_rules("Gaps are closed by size", gap=None))
        self.filling.column.addWidget(self.gap_by_size)
        column.addWidget(self.filling)

    # Doing -----------------------------------------------------------------------------------------------------

    def _merge(self, key: str, text: str, on: bool) -> None:
        self._set_rules("Neighbours of one material become one fill" if on else "Every part has its own outline", merge=on)

    def _rule(self, key: str, words: str, value: float) -> None:
        largest = {"sheet": 10.0, "earth": 1000.0, "gap": 1.0}[key]
        value = min(max(value, 0.0), largest)
        self._set_rules(f"{words} {units.length(value)}", **{key: value})

    def _set_rules(self, said: str, **changes: Any) -> None:
        rules = self._session.stage.poche.model_copy(update=changes)
        self._session.apply(edits.set_poche(self._session.project, rules), said, merge="rules")

    def _add_type(self, choice: int) -> None:
        name = self.add_type.itemData(choice)
        if name:
            row = TreatmentRow(name=plain_type(name), what=Selection(types=frozenset({name})), does="keep whole")
            self._treat(row)

    def _treat(self, row: TreatmentRow) -> None:
        session = self._session
        treatments = session.stage.treatments.with_row(row)
        session.apply(edits.set_treatments(session.project, treatments), f"{row.name}: {TREATMENT_WORDS[row.does].lower()}")

    def _untreat(self, name: str) -> None:
        session = self._session
        treatments = session.stage.treatments.without_row(name)
        session.apply(edits.set_treatments(session.project, treatments), f"{name}: sliced like the rest")

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the stage's."""
        self._show_treatments()
        rules = self._session.stage.poche
        self.merge.setChecked(rules.merge)
        for key, made in self.rules.items():
            made.show_value(getattr(rules, key))
        self.gap.show_value(0.02 if rules.gap is None else rules.gap)
        self.gap_by_size.setEnabled(rules.gap is not None)

    def _show_treatments(self) -> None:
        building = self._session.building
        assert building is not None
        shows = self._session.stage.treatments, weakref.ref(building)
        if shows == self._treated:
            return  # making widgets takes longer than all the rest
        self._treated = shows
        clear(self.treated_rows)
        said: set[str] = set()
        for row in self._session.stage.treatments.rows:
            said |= row.what.types if not row.planting else frozenset()
            line = QHBoxLayout()
            words = row.name if not row.what.elements else f"{len(row.what.elements)} picked parts"
            name = label(words, "soft")
            name.setToolTip(words)
            choice = QComboBox()
            fill_treatments(choice)
            choice.setCurrentIndex(choice.findData(row.does))
            choice.activated.connect(
                lambda i, row=row, choice=choice: self._treat(row.model_copy(update={"does": choice.itemData(i)}))
            )
            choice.setMinimumWidth(60)
            away = away_button(f"{words}: sliced like the rest")
            away.clicked.connect(lambda _=False, name=row.name: self._untreat(name))
            line.addWidget(name, 1)
            line.addWidget(choice, 2)
            line.addWidget(away)
            self.treated_rows.addLayout(line)
        self.add_type.clear()
        self.add_type.addItem("Add a type…", "")
        for kind in building.type_counts:
            if kind not in said:
                self.add_type.addItem(plain_type(kind), kind)
