"""The picked cut: where it stands, what it shows and reaches, and what it cuts."""

from __future__ import annotations

from functools import partial
from typing import Any

import numpy as np
from PySide6.QtWidgets import QCheckBox, QFormLayout, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QWidget

from anatome.app import units
from anatome.app.actions import Actions, panel_button
from anatome.app.commands.apart import ApartCommands
from anatome.app.numbers import NumberField
from anatome.app.panels.inspector.cut_list import CutList
from anatome.app.panels.inspector.page import Choices, Page, label, section, switches
from anatome.app.panels.inspector.parting_box import PartingBox
from anatome.app.panels.inspector.reach_box import ReachBox
from anatome.app.session import Session
from anatome.app.stage.stage import Stage
from anatome.cuts.box import Box
from anatome.cuts.cut import AnyCut, SectionBox, SectionPlane, SteppedSection
from anatome.cuts.grips import can_turn, heading, with_value
from anatome.cuts.plane import Plane
from anatome.problems import Problem
from anatome.scenes import edits

AXES = ("x", "y", "z")


def direction_words(cut: AnyCut) -> str:
    """What a cut does or where it looks, in words; +Y counts as north."""
    if isinstance(cut, SectionBox):
        return "Takes its inside away" if cut.carve else "Keeps its inside"
    normal = cut.axis.normal
    if cut.axis.is_level:
        return "Looks down" if normal[2] > 0 else "Looks up"
    side = cut.axis.compass
    tilt = "" if abs(normal[2]) < 1e-3 else (", tilted down" if normal[2] > 0 else ", tilted up")
    steps = f" in {len(cut.line.offsets)} steps" if isinstance(cut, SteppedSection) else ""
    return f"Looks {side}{steps}{tilt}"


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

        section(self.column, "Shows")
        self.switches = switches(
            self.column,
            (
                ("on", "Cut", "Off: nothing is cut away"),
                ("poche", "Poché", "Fill what is cut. Off: cut faces keep the model's own colours"),
                ("graphic", "Frame", "The frame of the cut while working; never in a scene or a picture"),
                ("locked", "Locked", "It stays where it is until you unlock it"),
            ),
            self._switch,
            columns=2,
        )
        self.parting = PartingBox(session, stage, actions, commands)
        self.column.addWidget(self.parting)
        self.reach = ReachBox(session, actions)
        self.column.addWidget(self.reach)
        self.list = CutList(session, stage, actions)
        self.column.addWidget(self.list)
        self.column.addSpacing(8)
        for name, text in (("send_drawing", "Send out as a drawing"), ("delete_cut", None)):
            self.column.addWidget(panel_button(actions[name], text))
        self.column.addStretch()

    def _build_place(self, actions: Actions) -> None:
        self._form = QFormLayout()
        self._form.setContentsMargins(0, 6, 0, 0)
        self._form.setVerticalSpacing(5)
        self.position = self._number("m", 0.05, "Position", "Where the cut stands, from the model's origin", "move")
        self._step_fields: list[NumberField] = []
        self.sizes = self._triple("Size", "Along the box's own {}: type it, or pull a side on the stage", self._resize)
        self.centre = self._triple("Centre", "{} of the middle of the box, from the model's origin", self._centre)
        self.heading = self._number(
            "°",
            1.0,
            "Direction",
            "Where the cut looks, anticlockwise from +X. Type degrees to turn it",
            "turn",
        )
        self.depth_field = NumberField("m", 0.1)
        self.depth_field.setToolTip("How far beyond the cut one sees")
        self.depth_field.entered.connect(self._set_depth)
        self.depth_field.nudged.connect(partial(self._set_depth, merge="nudge"))
        self.has_depth = QCheckBox("Depth")
        self.has_depth.setToolTip("Leave out what lies further than this beyond the cut")
        self.has_depth.clicked.connect(self._switch_depth)
        self._form.addRow(self.has_depth, self.depth_field)
        self.spacing = NumberField("m", 0.05)
        self.spacing.setToolTip("From one layer of the peel to the next")
        self.spacing.entered.connect(self._space)
        self.spacing.nudged.connect(partial(self._space, merge="nudge"))
        self._form.addRow("Layers apart", self.spacing)
        self.column.addLayout(self._form)
        self.carve = Choices(
            (
                ("keep", "Keep inside", "All that lies outside the box goes"),
                ("carve", "Carve out", "The inside of the box goes, the rest stays"),
            ),
            self._set_carve,
        )
        self.column.addWidget(self.carve)
        buttons = QGridLayout()
        buttons.setSpacing(4)
        # A box is turned round by its two choices, and has no direction for a parallel copy.
        self._not_for_boxes = panel_button(actions["turn_round"]), panel_button(actions["copy_cut"], "Copy…")
        buttons.addWidget(panel_button(actions["perspective_section"]), 0, 0, 1, 2)
        buttons.addWidget(panel_button(actions["square_on"]), 1, 0)
        buttons.addWidget(panel_button(actions["match"], "Match a wall"), 1, 1)
        for column, button in enumerate(self._not_for_boxes):
            buttons.addWidget(button, 2, column)
        self.column.addLayout(buttons)

    def _number(self, unit: str, step: float, words: str, tip: str, name: str) -> NumberField:
        made = NumberField(unit, step)
        made.setToolTip(f"{tip}. The wheel nudges it")
        made.entered.connect(partial(self._set_value, name))
        # A run of the wheel is one step to undo.
        made.nudged.connect(partial(self._set_value, name, merge="nudge"))
        self._form.addRow(words, made)
        return made

    def _triple(self, words: str, tip: str, run: Any) -> list[NumberField]:
        row = QHBoxLayout()
        row.setSpacing(3)
        made = []
        for axis, name in enumerate(AXES):
            field = NumberField("m", 0.05, short=True)
            field.setToolTip(tip.format(name))
            field.entered.connect(partial(run, axis))
            field.nudged.connect(partial(run, axis, merge="nudge"))
            row.addWidget(field)
            made.append(field)
        holder = QWidget()
        row.setContentsMargins(0, 0, 0, 0)
        holder.setLayout(row)
        self._form.addRow(words, holder)
        return made

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
        cut, building = self._session.cut, self._session.building
        if cut is not None and building is not None:
            middle = self._session.subject_bounds().mean(axis=0)
            verb = "Turned" if name == "turn" else "Moved"
            self._put(with_value(cut, name, value, middle), f"{verb} {cut.name}", merge)

    def _resize(self, axis: int, value: float, merge: str | None = None) -> None:
        cut = self._session.cut
        if isinstance(cut, SectionBox):
            self._box(cut, cut.box.resized(axis, max(value, 0.01)), "resized", merge)

    def _centre(self, axis: int, value: float, merge: str | None = None) -> None:
        cut = self._session.cut
        if isinstance(cut, SectionBox):
            by = np.zeros(3)
            by[axis] = value - cut.box.centre[axis]
            self._box(cut, cut.box.moved(by), "moved", merge)

    def _box(self, cut: SectionBox, box: Box, what: str, merge: str | None) -> None:
        self._put(cut.model_copy(update={"box": box}), f"{cut.name} {what}", merge)

    def _set_carve(self, key: str) -> None:
        cut = self._session.cut
        if cut is not None:
            said = "takes its inside away" if key == "carve" else "keeps its inside"
            self._change(f"{cut.name} {said}", carve=key == "carve")

    def _set_depth(self, value: float, merge: str | None = None) -> None:
        cut = self._session.cut
        if cut is not None:
            self._change(f"{cut.name} sees {units.length(max(value, 0.01), 2)} deep", merge, depth=max(value, 0.01))

    def _switch_depth(self, on: bool) -> None:
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
        box = cut if isinstance(cut, SectionBox) else None
        self._show_rows(cut)
        if box is not None:
            for axis in range(3):
                self.sizes[axis].show_value(box.box.size[axis])
                self.centre[axis].show_value(box.box.centre[axis])
            self.carve.show_choice("carve" if box.carve else "keep")
        elif isinstance(cut, SectionPlane):
            self.position.show_value(cut.plane.position)
        elif isinstance(cut, SteppedSection):
            self._show_steps(cut.line.planes)
        self.heading.show_value(heading(cut))
        if not isinstance(cut, SectionBox):
            self.has_depth.setChecked(cut.depth is not None)
            self.depth_field.setEnabled(cut.depth is not None)
            self.depth_field.show_value(cut.depth or 0.0)
            if cut.depth is None:
                self.depth_field.setText("all there is")
        if cut.peel:
            own = edits.peel_of(self._session.project, cut.peel)
            self.spacing.show_value(own[1].plane.offset - own[0].plane.offset if len(own) > 1 else 0.0)
        for key, switch in self.switches.items():
            switch.setChecked(getattr(cut, key))
        self.words.setText(f"{direction_words(cut)}{'' if cut.on else '. It is off: nothing is cut away'}.")
        self.parting.refresh()
        self.reach.refresh()
        self.list.refresh()

    def _show_rows(self, cut: AnyCut) -> None:
        box, plane, stepped = (isinstance(cut, kind) for kind in (SectionBox, SectionPlane, SteppedSection))
        self._form.setRowVisible(self.position, plane)
        for fields in (self.sizes, self.centre):
            holder = fields[0].parentWidget()
            assert holder is not None
            self._form.setRowVisible(holder, box)
        self._form.setRowVisible(self.heading, can_turn(cut))
        self._form.setRowVisible(self.depth_field, not box)
        self._form.setRowVisible(self.spacing, bool(cut.peel))
        self.carve.setVisible(box)
        for button in self._not_for_boxes:
            button.setVisible(not box)
        label = self._form.labelForField(self.heading)
        if isinstance(label, QLabel):
            label.setText("Turned" if box else "Direction")
        if not stepped:
            self._show_steps(())

    def _show_steps(self, planes: tuple[Plane, ...]) -> None:
        while len(self._step_fields) > len(planes):
            self._form.removeRow(self._step_fields.pop())
        while len(self._step_fields) < len(planes):
            number = len(self._step_fields)
            made = NumberField("m", 0.05)
            made.setToolTip("Where this step stands along the section's axis")
            made.entered.connect(partial(self._set_value, f"step {number}"))
            made.nudged.connect(partial(self._set_value, f"step {number}", merge="nudge"))
            self._form.insertRow(number + 1, f"Step {number + 1}", made)
            self._step_fields.append(made)
        for made, plane in zip(self._step_fields, planes):
            made.show_value(plane.position)
