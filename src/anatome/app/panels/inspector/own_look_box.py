"""How the picked parts look, or all like them: where they are cut, and seen beyond the cut; in this look, or in this scene."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtWidgets import QComboBox, QFormLayout, QPushButton, QWidget

from anatome.app.base.numbers import NumberField
from anatome.app.base.rule_words import choices_of, rule_words, who_words
from anatome.app.base.side_by_side import side_by_side
from anatome.app.base.swatch import Swatch
from anatome.app.document.session import Session
from anatome.app.panels.inspector.hatch_box import HatchBox
from anatome.app.panels.inspector.page import Choices, Fold, bare_column, label, narrow_choice
from anatome.app.panels.inspector.texture_row import AS_LOOK, TextureRow
from anatome.app.stage.place_pattern import PlacePattern
from anatome.app.stage.stage import Stage
from anatome.app.stage.stage_input import StageInput
from anatome.look.hatches import Hatch
from anatome.look.look import WEIGHTS, Picture, Rule
from anatome.look.styles import resolve
from anatome.model.selection import Selection
from anatome.scenes.look_edits import project_hatches, rule_for, set_rule, take_hatches, take_picture

WHERE = (
    ("look", "In this look", "For all pictures with this look of the project, once they take it over"),
    ("scene", "Here alone", "Laid over the look, in this scene alone"),
)


class OwnLookBox(QWidget):
    """Every change is a step to undo. What was clicked on a cut face shows first how it is where it is cut."""

    def __init__(self, session: Session, stage: Stage, stage_input: StageInput) -> None:
        super().__init__()
        self._session, self._stage, self._input = session, stage, stage_input
        self._of: object = None
        self.hatch = HatchBox(session, stage, stage_input, self._set, self.rule)
        column = bare_column(self)
        self.who = narrow_choice()
        self.who.setToolTip("For which parts it is said")
        self.who.activated.connect(lambda _: self._show_values())
        column.addWidget(self.who)
        self.where = Choices(WHERE, lambda key: self._show_values())
        self.where.show_choice("look")
        column.addWidget(self.where)
        self.cut = Fold("Where it is cut", "Fill and hatch of its cut faces", open=True)
        self.beyond = Fold("Seen beyond the cut", "Its surfaces and its lines", open=True)
        self._build_cut(self._form(self.cut))
        self._build_beyond(self._form(self.beyond))
        column.addWidget(self.cut)
        column.addWidget(self.beyond)
        self.warning = label("", "warning")
        self.warning.hide()
        self.reset = QPushButton(AS_LOOK)
        self.reset.setToolTip("Nothing of its own any more")
        self.reset.clicked.connect(self._reset)
        column.addWidget(self.reset)
        column.addWidget(self.warning)

    @staticmethod
    def _form(fold: Fold) -> QFormLayout:
        form = QFormLayout()
        form.setVerticalSpacing(4)
        fold.column.addLayout(form)
        return form

    def _build_cut(self, form: QFormLayout) -> None:
        self.fill = self._swatch("fill", "Fill")
        form.addRow("Fill", self.fill)
        form.addRow(self.hatch)

    def _build_beyond(self, form: QFormLayout) -> None:
        self.surface = self._swatch("surface", "Surfaces")
        self.pattern = self._choice("pattern", "Pattern")
        self.texture = TextureRow(self._set_texture, self._warn)
        self.lay_by = self._choice("lay_by", "By what pattern and texture are laid")
        for text, by in (("By each face", None), ("By a box", "box"), ("Along the part", "part")):
            self.lay_by.addItem(text, by)
        self.lay_turn = self._number("lay_turn", "Turned", "°", 15.0, (-360.0, 360.0), below_zero=True)
        self.lay_by.setMinimumContentsLength(2)
        self.lay_turn.setFixedWidth(60)
        self.lay_turn.setToolTip("Degrees by which they are turned on the surface")
        self.lay_scale = self._number("lay_scale", "Size", "×", 0.1, (0.001, 1000.0))
        self.lay_scale.setFixedWidth(60)
        self.lay_scale.setToolTip("How many times as large as they are")
        self.lay_drag = QPushButton("Drag it")
        self.lay_drag.setToolTip("Move, turn and size them on a surface")
        self.lay_drag.clicked.connect(self.begin_dragging)
        self.clear = self._number("clear", "Transparency", "%", 0.1, (0.0, 1.0))
        self.clear.setToolTip("How far one sees through: 0 % solid, 100 % like air")
        self.lines = self._choice("lines", "Edges")
        for text, value in ((AS_LOOK, None), ("Drawn", True), ("Not drawn", False)):
            self.lines.addItem(text, value)
        self.weight = self._choice("line_weight", "Weight of edges")
        self.weight.addItem(AS_LOOK, None)
        for weight in WEIGHTS:
            self.weight.addItem(f"{weight:.2f} mm", weight)
        self.line_colour = self._swatch("line_colour", "Colour of edges")
        for words, widget in (
            ("Surfaces", self.surface),
            ("Pattern", self.pattern),
            ("Texture", self.texture),
            ("Laid", side_by_side(self.lay_by, self.lay_turn)),
            ("Its size", side_by_side(self.lay_scale, self.lay_drag)),
            ("Transparency", self.clear),
            ("Edges", self.lines),
            ("Their weight", self.weight),
            ("Their colour", self.line_colour),
        ):
            form.addRow(words, widget)

    def _swatch(self, key: str, words: str) -> Swatch:
        return Swatch(words, lambda rgb: self._set({key: rgb}), coded=True)

    def _choice(self, key: str, words: str) -> QComboBox:
        made = narrow_choice()
        made.setToolTip(words)
        made.activated.connect(lambda i: self._set({key: made.itemData(i)}))
        return made

    def _number(
        self, key: str, words: str, unit: str, step: float, room: tuple[float, float], below_zero: bool = False
    ) -> NumberField:
        made = NumberField(unit, step, below_zero=below_zero)

        def change(value: float) -> None:
            self._set({key: min(max(value, room[0]), room[1])}, f"own look {key}")

        made.entered.connect(change)
        made.nudged.connect(change)
        return made

    # Doing -----------------------------------------------------------------------------------------------------

    @property
    def selection(self) -> Selection:
        """For which parts it is said."""
        found: Selection = self.who.currentData()
        return found

    @property
    def in_look(self) -> bool:
        """Whether it is said in the look, and not of this scene alone."""
        return self.where.buttons["look"].isChecked()

    def rule(self) -> Rule | None:
        """Return what is said of them by now, where it would be changed."""
        stage = self._session.stage
        return rule_for(stage.look.rules if self.in_look else stage.overrides, self.selection)

    def _set(self, said: dict[str, Any], merge: str | None = None, picture: Picture | None = None) -> None:
        session = self._session
        assert session.building is not None
        self._warn("")
        project = session.project if picture is None else take_picture(session.project, picture)
        name = said.get("hatch")
        if name and name not in project.stage.look.known_hatches:
            project = take_hatches(project, (project_hatches(project)[name],))  # it comes along from another look
        project = set_rule(project, self.selection, self.in_look, **said)
        words = rule_words(Rule(who=self.selection, **said))
        session.apply(project, f"{who_words(self.selection, session.building)}: {words}", merge=merge)

    def _set_texture(self, name: str | None, picture: Picture | None) -> None:
        self._set({"picture": name}, picture=picture)

    def _reset(self) -> None:
        rule, session = self.rule(), self._session
        assert session.building is not None
        if rule is not None:
            nothing = {key: None for key in type(rule).model_fields if key not in ("who", "on")}
            said = f"{who_words(self.selection, session.building)}: as the look has it"
            session.apply(set_rule(session.project, self.selection, self.in_look, **nothing), said)

    def begin_dragging(self) -> None:
        """Have pattern or texture moved, turned and sized on a surface of the parts."""
        session, stage = self._session, self._stage
        assert session.building is not None
        numbers = frozenset(np.flatnonzero(self.selection.mask(session.building)).tolist())
        task = PlacePattern(
            *(session,), name="place_pattern", what="pattern", change=self._set, elements=numbers, seen=lambda: stage.viewport
        )
        self._input.begin(task)

    def _warn(self, text: str) -> None:
        self.warning.setText(text)
        self.warning.setVisible(bool(text))

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show how the picked parts look now."""
        session = self._session
        picked, building = session.picked, session.building
        if building is None or not picked.elements:
            return
        if (picked, id(building)) != self._of:
            self._of = picked, id(building)
            self.who.clear()
            for words, selection in choices_of(building, picked.elements):
                self.who.addItem(words, selection)
                if picked.at_cut and selection.materials:  # what is cut is drawn by its material, as a rule
                    self.who.setCurrentIndex(self.who.count() - 1)
            self.cut.button.setChecked(picked.at_cut)
            self.beyond.button.setChecked(not picked.at_cut)
            self._warn("")
        self._show_values()

    def _show_values(self) -> None:
        session, building = self._session, self._session.building
        assert building is not None
        look, rule = session.stage.look, self.rule()
        number = building.index_of[min(session.picked.elements)]
        styles = resolve(session.drawn_look(), building)
        self.hatch.show_of(self.selection, number, styles, rule)
        _fill_named(self.pattern, look.known_patterns, "No pattern", rule.pattern if rule else None)
        self.fill.show_colour((styles.fill[number, :3] / 255.0).tolist())
        style = int(styles.surface[number])
        first = int(building.triangle_style[building.triangle_start[number]])
        shown = styles.palette[style if style >= 0 else first] / 255.0
        self.surface.show_colour(shown[:3].tolist())
        said = rule.clear if rule is not None and rule.clear is not None else 1.0 - float(shown[3])
        self.clear.show_value(float(np.round(said, 3)))
        self.texture.show_known(look.pictures, rule.picture if rule else None)
        laying = styles.layings[styles.laying[number]]
        self.lay_by.setCurrentIndex(max(self.lay_by.findData(rule.lay_by if rule else None), 0))
        self.lay_turn.show_value(laying.turn)
        self.lay_scale.show_value(laying.scale)
        has = styles.pattern[number] >= 0 or styles.picture[number] >= 0
        for field in (self.lay_by, self.lay_turn, self.lay_scale, self.lay_drag):
            field.setEnabled(bool(has))
        self.lines.setCurrentIndex(self.lines.findData(rule.lines if rule else None))
        weight = rule.line_weight if rule else None
        self.weight.setCurrentIndex(max(self.weight.findData(weight), 0))
        self.line_colour.show_colour((rule.line_colour if rule else None) or look.line_ink)
        self.reset.setEnabled(rule is not None)


def _fill_named(choice: QComboBox, hatches: dict[str, Hatch], none: str, chosen: str | None) -> None:
    """Offer hatches by their words, and have one chosen; None is what the look has."""
    if [choice.itemData(i) for i in range(choice.count())] != [None, "", *hatches]:
        choice.clear()
        choice.addItem(AS_LOOK, None)
        choice.addItem(none, "")
        for name, hatch in hatches.items():
            choice.addItem(hatch.words or name, name)
    choice.setCurrentIndex(next((i for i in range(choice.count()) if choice.itemData(i) == chosen), 0))
