"""The picked cut: where it stands, what it shows and reaches, and what it cuts."""

from __future__ import annotations

from functools import partial
from typing import Any

from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QWidget

from anatome.app.base import units
from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.numbers import NumberField
from anatome.app.commands.apart import ApartCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.cut_list import CutList
from anatome.app.panels.inspector.field_form import FieldForm
from anatome.app.panels.inspector.page import Choices, Page, folded, label, switches
from anatome.app.panels.inspector.parting_box import PartingBox
from anatome.app.panels.inspector.reach_box import ReachBox
from anatome.app.panels.inspector.scenes_box import ScenesBox
from anatome.app.panels.inspector.view_chooser import short
from anatome.app.stage.stage import Stage
from anatome.cuts.cut import AnyCut
from anatome.cuts.grips import with_value
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.view.projections import TRUE, facing

TURNS = {"turn": "Turned", "tilt": "Tilted"}


class CutPage(Page):
    """One page for every kind of cut; rows that do not apply are left out."""

    def __init__(self, session: Session, stage: Stage, actions: Actions, commands: ApartCommands) -> None:
        super().__init__()
        self._session = session
        row = QHBoxLayout()
        self.mark = QLineEdit(maxLength=4)
        self.mark.setFixedWidth(40)
        self.mark.setToolTip("Mark letter, as it stands on the drawing")
        self.name = QLineEdit()
        self.name.setToolTip("Name of the cut")
        row.addWidget(self.mark)
        row.addWidget(self.name)
        self.column.addLayout(row)
        self.words = label("", "soft")
        self.column.addWidget(self.words)
        self.mark.editingFinished.connect(lambda: self._rename("mark", self.mark.text()))
        self.name.editingFinished.connect(lambda: self._rename("name", self.name.text()))
        self._build_place(actions)

        shows = folded(self.column, "Shows")
        self.switches = switches(
            shows.column,
            (
                ("on", "Cut on", "Off: nothing is cut away"),
                ("poche", "Fill", "Fill what is cut (the poché). Off: cut faces keep the model's own colours"),
                ("graphic", "Frame", "The frame of the cut while working; never in a scene or a picture"),
                ("locked", "Lock", "It stays where it is until you unlock it"),
            ),
            self._switch,
            columns=2,
        )
        oblique = QWidget()
        grid = QGridLayout(oblique)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(4)
        self.true_views = {name: panel_button(actions[f"view {name}"], short(name)) for name in TRUE}
        for place, button in enumerate(self.true_views.values()):
            grid.addWidget(button, place // 2, place % 2)
        tip = "Its face is drawn true, and all else recedes from it; angle and length are in the picture's “Projection”"
        self._true_fold = folded(self.column, "Drawn true to it", oblique, tip=tip, open=False)
        self.parting = PartingBox(session, stage, actions, commands)
        self._parting_fold = folded(self.column, "What lies before it", self.parting, open=False)
        self.reach = ReachBox(session, actions)
        folded(self.column, "Affects", self.reach)
        self.scenes = ScenesBox(session, stage, actions)
        self._scenes_fold = folded(self.column, "In scenes", self.scenes)
        self.list = CutList(session, stage, actions)
        folded(self.column, "What is cut", self.list)
        self.column.addSpacing(8)
        for name, text in (("send_drawing", "Send out as a drawing"), ("delete_cut", None)):
            self.column.addWidget(panel_button(actions[name], text))
        self.column.addStretch()

    def _build_place(self, actions: Actions) -> None:
        self.place = FieldForm()
        self.place.entered.connect(self._set_value)
        # A run of the wheel is one step to undo.
        self.place.nudged.connect(partial(self._set_value, merge="nudge"))
        self.place.switched.connect(self._switch_depth)
        self.spacing = NumberField("m", 0.05, below_zero=False)
        self.spacing.setToolTip("From one layer of the peel to the next")
        self.spacing.entered.connect(self._space)
        self.spacing.nudged.connect(partial(self._space, merge="nudge"))
        self.place.add_below("Layers apart", self.spacing)
        self.column.addWidget(self.place)
        self.carve = Choices(
            (
                ("keep", "Keep inside", "All that lies outside goes"),
                ("carve", "Carve out", "The inside goes, the rest stays"),
            ),
            self._set_carve,
        )
        self.column.addWidget(self.carve)
        buttons = QGridLayout()
        buttons.setSpacing(4)
        # What has an inside is turned round by its two choices, and has no direction for a parallel copy.
        self._for_directions = panel_button(actions["turn_round"]), panel_button(actions["copy_cut"], "Copy…")
        buttons.addWidget(panel_button(actions["perspective_section"]), 0, 0, 1, 2)
        buttons.addWidget(panel_button(actions["square_on"]), 1, 0)
        buttons.addWidget(panel_button(actions["match"], "Match a wall"), 1, 1)
        for column, button in enumerate(self._for_directions):
            buttons.addWidget(button, 2, column)
        self.column.addLayout(buttons)

    # Doing -----------------------------------------------------------------------------------------------------

    def _change(self, label: str, merge: str | None = None, **changes: Any) -> None:
        cut = self._session.cut
        if cut is not None:
            self._session.apply(edits.change_cut(self._session.project, cut.id, **changes), label, merge=merge)

    def _put(self, changed: AnyCut, label: str, merge: str | None = None) -> None:
        cut = self._session.cut
        if cut is not None and cut.locked:
            self._session.said.emit(f"{cut.name} is locked. Unlock it below to change where it stands.")
            self.refresh()
            return
        self._session.apply(edits.put_cut(self._session.project, changed), label, merge=merge)

    def _rename(self, key: str, text: str) -> None:
        cut = self._session.cut
        if cut is not None and text.strip() and text.strip() != getattr(cut, key):
            self._change(f"Named {text.strip()}", **{key: text.strip()})

    def _switch(self, key: str, text: str, on: bool) -> None:
        cut = self._session.cut
        if cut is not None:
            changes: dict[str, Any] = {key: on}
            self._change(f"{cut.name}: {text.lower()} {'on' if on else 'off'}", **changes)

    def _set_value(self, name: str, value: float, merge: str | None = None) -> None:
        cut = self._session.cut
        if cut is None or self._session.building is None:
            return
        try:
            changed = with_value(cut, name, value, self._session.subject_bounds().mean(axis=0))
        except Problem as problem:
            self._session.said.emit(str(problem))
            self.refresh()
            return
        words = f"{TURNS.get(name, 'Moved')} {cut.name}"
        if cut.encloses and name != "turn":
            words = f"{cut.name} {'moved' if name.startswith('centre') else 'resized'}"
        elif name == "far":
            words = f"{cut.name} sees {units.length(changed.value(name) or 0.0, 2)} deep"
        self._put(changed, words, merge)

    def _set_carve(self, key: str) -> None:
        cut = self._session.cut
        if cut is not None:
            said = "takes its inside away" if key == "carve" else "keeps its inside"
            self._change(f"{cut.name} {said}", carve=key == "carve")

    def _switch_depth(self, name: str, on: bool) -> None:
        cut, building = self._session.cut, self._session.building
        if cut is None or building is None:
            return
        # As deep as makes a difference: half of what lies beyond the cut.
        beyond = float(-cut.axis.distance(self._session.subject_bounds()).min())
        self._change(f"{cut.name}: depth {'on' if on else 'off'}", depth=max(round(beyond / 2, 1), 0.5) if on else None)

    def _space(self, value: float, merge: str | None = None) -> None:
        cut = self._session.cut
        if cut is not None:
            try:
                project = edits.space_peel(self._session.project, cut.peel, value)
            except Problem as problem:
                self._session.said.emit(str(problem))
                return
            self._session.apply(project, f"Layers {units.length(value, 2)} apart", merge=merge)

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        cut = self._session.cut
        if cut is None:
            return
        for line, text in ((self.name, cut.name), (self.mark, cut.mark)):
            if not line.hasFocus():
                line.setText(text)
        self.place.show_fields(cut)
        self.place.rows.setRowVisible(self.spacing, bool(cut.peel))
        self.carve.setVisible(cut.encloses)
        self.carve.show_choice("carve" if cut.carves else "keep")
        for button in self._for_directions:
            button.setVisible(not cut.encloses)
        if cut.peel:
            own = edits.peel_of(self._session.project, cut.peel)
            self.spacing.show_value(own[1].plane.offset - own[0].plane.offset if len(own) > 1 else 0.0)
        for key, switch in self.switches.items():
            switch.setChecked(getattr(cut, key))
        details = [detail.name for detail in self._session.stage.details if cut.id in detail.cuts]
        among = f"cuts {' and '.join(details)}" if details else ""
        off = f"It {among} alone" if among else "It is off: nothing is cut away"
        self.words.setText(f"{cut.direction}{(f', {among} too' if among else '') if cut.on else f'. {off}'}.")
        any_front = any(facing(plane.n) is not None for cell in cut.cells() for plane in cell.planes)
        self._true_fold.setVisible(any_front)
        self.parting.refresh()
        self._parting_fold.show_news(cut.parting is not None)
        self.reach.refresh()
        count = self.scenes.refresh()
        self._scenes_fold.say(f"{count}" if count else "none")
        self.list.refresh()
