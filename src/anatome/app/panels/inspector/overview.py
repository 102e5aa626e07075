"""Nothing is picked: how the picture is framed, how it looks, which cuts there are, and what the model holds."""

from __future__ import annotations

import weakref
from typing import Any

from PySide6.QtWidgets import QCheckBox, QComboBox, QFormLayout, QHBoxLayout, QPushButton, QVBoxLayout

from anatome.app.base import units
from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.numbers import NumberField
from anatome.app.commands.all import Commands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.apart_box import ApartBox
from anatome.app.panels.inspector.crop_box import CropBox
from anatome.app.panels.inspector.framing_box import FramingBox
from anatome.app.panels.inspector.look_box import LookBox
from anatome.app.panels.inspector.models_box import ModelsBox
from anatome.app.panels.inspector.note_box import NoteBox
from anatome.app.panels.inspector.page import Fold, Page, RowButton, away_button, clear, folded, label, switches
from anatome.app.panels.inspector.site_box import SiteBox
from anatome.app.panels.inspector.touch_up_box import TouchUpBox
from anatome.app.panels.inspector.touched_box import TouchedBox
from anatome.app.panels.inspector.treatment_words import TREATMENT_WORDS, fill_treatments
from anatome.app.panels.inspector.view_chooser import ViewChooser
from anatome.app.stage.stage import Stage
from anatome.app.stage.stage_input import StageInput
from anatome.cuts.cut import AnyCut
from anatome.cuts.treatment import TreatmentRow
from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.model.units import plural
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


def summary(cut: AnyCut) -> str:
    """Return a cut in a few words, for the list."""
    return f"{cut.name}  ·  {cut.summary(units)}" + ("" if cut.on else ", off")


def model_words(building: Building) -> str:
    """Return how large a model is, and how its file has it."""
    size, unit = building.bounds[1] - building.bounds[0], building.unit
    why = f" ({unit.why})" if unit.why else ""
    told = [
        f"{len(building.elements):,} parts, {len(building.triangles):,} triangles",
        f"{units.sizes(size.tolist(), 1)}, drawn in {plural(unit.name)}{why}",
    ]
    if any(building.origin):
        east, north, _ = building.origin
        told.append(f"Brought near from {east:,.0f} m east, {north:,.0f} m north of its origin")
    return "\n".join(told)


class Overview(Page):
    """The page for the whole picture."""

    def __init__(self, session: Session, stage: Stage, stage_input: StageInput, actions: Actions, commands: Commands) -> None:
        super().__init__()
        self._session, self._actions = session, actions
        self._treated: object = None
        self._cuts_shown: object = None
        self.column.setSpacing(2)
        self.column.setContentsMargins(16, 6, 16, 2)
        self.column.addWidget(label("The picture", "title"))
        self.touched = TouchedBox(session, commands.changes)
        self.column.addWidget(self.touched)
        self.cuts = QVBoxLayout()
        self.cuts.setSpacing(2)
        cuts = folded(self.column, "Cuts")
        cuts.column.addLayout(self.cuts)
        cuts.column.addWidget(panel_button(actions["place"]))
        self.chooser = ViewChooser(session, stage, actions, commands.view)
        folded(self.column, "Look from", self.chooser)
        self.framing = FramingBox(session, stage, actions)
        self.perspective, self.parallel = self.framing.projection.buttons.values()
        self.projection = folded(self.column, "Projection", self.framing)
        self.framing.named.connect(self.projection.say)
        self.look = LookBox(session, actions, stage.tracing)
        self.switches = self.look.switches
        folded(self.column, "Look", self.look, open=False)

        # Rarer ones, folded until somebody wants them.
        self.crop = CropBox(session, actions)
        self._crop_fold = folded(self.column, "Crop and paper", self.crop, open=False)
        self.notes = NoteBox(session, stage, actions)
        self.column.addWidget(self.notes)
        self.touching_up = TouchUpBox(session, stage, actions, commands.touching_up)
        self.notes.column.addWidget(self.touching_up)
        self.apart = ApartBox(session, actions, commands.apart)
        self._apart_fold = folded(self.column, "Explode", self.apart, open=False)
        self.site = SiteBox(session, actions, commands.site, commands.rough_bodies, stage_input)
        folded(self.column, "Round the building", self.site, open=False)
        how = folded(self.column, "How things are cut", open=False)
        self._build_treatments(how.column)
        self._build_rules(how.column)
        self.model = label("", "soft")
        self.failed = label("", "warning")
        self.models = ModelsBox(session, actions, commands.models, commands.changes.newer)
        folded(self.column, "The model", self.model, self.failed, self.models, open=False)
        self.column.addStretch()

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

    def refresh_camera(self) -> None:
        """Show how the camera stands now."""
        if self._session.is_open:
            self.framing.refresh()
            self.crop.refresh()
            self._crop_fold.show_news(self._session.stage.crop is not None)

    def refresh(self) -> None:
        session = self._session
        self.refresh_camera()
        self.touched.refresh()
        self.models.refresh()
        self.look.refresh()
        self.apart.refresh()
        self._apart_fold.show_news(session.stage.is_apart)
        self.site.refresh()
        self.notes.refresh()
        self.touching_up.refresh()
        self._show_cuts()
        self._show_treatments()
        rules = session.stage.poche
        self.merge.setChecked(rules.merge)
        for key, made in self.rules.items():
            made.show_value(getattr(rules, key))
        self.gap.show_value(0.02 if rules.gap is None else rules.gap)
        self.gap_by_size.setEnabled(rules.gap is not None)
        building = session.model
        self.model.setText(model_words(building))
        failed = len(building.failed)
        self.failed.setVisible(failed > 0)
        self.failed.setText(f"{failed} part{'s' * (failed != 1)} could not be drawn (rest here to see which).")
        self.failed.setToolTip("\n".join(f"{f.name or f.id} ({plain_type(f.type)}): {f.reason}" for f in building.failed[:20]))

    def _show_cuts(self) -> None:
        session = self._session
        entries = [(c.id, summary(c)) for c in session.stage.cuts]
        entries += [(s.id, f"{s.name}  ·  {len(s.offsets)} sections" + ("" if s.on else ", off")) for s in session.stage.series]
        if (session.stage.cuts, entries) == self._cuts_shown:
            return
        self._cuts_shown = session.stage.cuts, entries
        clear(self.cuts)
        for thing, text in entries:
            button = RowButton(text, "Pick this cut")
            button.clicked.connect(lambda _=False, thing=thing: session.pick(cut=thing))
            row = QHBoxLayout()
            row.setSpacing(2)
            row.addWidget(button, 1)
            if session.stage.cut(thing) is not None:
                on = QCheckBox()
                on.setToolTip("Cut on, or off")
                on.setChecked(session.stage.cut(thing).on)  # type: ignore[union-attr]
                on.clicked.connect(lambda value, thing=thing: self._switch_cut(thing, value))
                row.insertWidget(0, on)
            self.cuts.addLayout(row)
        if not entries:
            self.cuts.addWidget(label("None yet. Press Cut, then click a face of the building.", "soft"))

    def _switch_cut(self, cut_id: str, on: bool) -> None:
        session = self._session
        cut = session.stage.cut(cut_id)
        if cut is not None:
            session.apply(edits.change_cut(session.project, cut_id, on=on), f"{cut.name}: {'on' if on else 'off'}")

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
