"""What parts are: what their file says, what they were given, what can be guessed."""

from __future__ import annotations

import numpy as np
from PySide6.QtWidgets import QCheckBox, QComboBox, QFormLayout, QHBoxLayout, QListWidgetItem, QPushButton, QVBoxLayout

from anatome.app.base import theme, units
from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.rule_words import choices_of, who_words
from anatome.app.base.ticks import Ticks
from anatome.app.commands.meaning import MeaningCommands, guess_words
from anatome.app.document.session import Session
from anatome.app.panels.inspector.model_page import ModelPage
from anatome.app.panels.inspector.page import RowButton, away_button, clear, label, narrow_choice, section
from anatome.model.building import Building
from anatome.model.meaning import BY_LEVEL, GIVEN_TYPES, GivenSpace, Meaning, MeaningRule, PartFilter, unsaid
from anatome.model.selection import Selection
from anatome.words import plain_type

AS_IT_IS = "As it is"
MOST_RULES = 40
MOST_ROOMS = 30
"""Rules that are listed; more are counted."""


class MeaningPage(ModelPage):
    """Every change is a step to undo. Parts of which nothing says what they are are tinted on the stage meanwhile."""

    def __init__(self, session: Session, actions: Actions, commands: MeaningCommands) -> None:
        super().__init__(session, commands, "What parts are")
        self._commands = commands
        self._of: object = None
        self._offered: object = None
        self._listed: object = None
        self.tinted = QCheckBox("Tint them on the stage")
        self.tinted.setChecked(True)
        self.tinted.clicked.connect(lambda _: self._mark())
        self.column.addWidget(self.tinted)
        self._build_guesses()
        self._build_giving()
        section(self.column, "Groups")
        self.group = panel_button(actions["group_parts"])
        self.column.addWidget(self.group)
        self.groups = QVBoxLayout()
        self.groups.setSpacing(0)
        self.column.addLayout(self.groups)
        self.room_heading = section(self.column, "Rooms")
        self.rooms = QVBoxLayout()
        self.rooms.setSpacing(0)
        self.column.addLayout(self.rooms)
        section(self.column, "Given")
        self.none_given = label("Nothing yet.", "soft")
        self.column.addWidget(self.none_given)
        self.rules = QVBoxLayout()
        self.rules.setSpacing(0)
        self.column.addLayout(self.rules)
        row = QHBoxLayout()
        row.setSpacing(4)
        for name, words in (("save_meaning", "Save…"), ("load_meaning", "From a file…")):
            row.addWidget(panel_button(actions[name], words))
        self.column.addLayout(row)
        self.column.addStretch()

    def _build_guesses(self) -> None:
        section(self.column, "Guessed from their shape")
        self.guess = QPushButton("Guess types, storeys and rooms")
        self.guess.setToolTip(
            "Storeys from level surfaces; walls, floors and others from shape and place; rooms that walls close"
        )
        self.guess.clicked.connect(self._commands.guess)
        self.column.addWidget(self.guess)
        self.offered = Ticks((), 0)
        self.offered.setToolTip("A click on the words tints the parts on the stage")
        self.offered.itemClicked.connect(self._look_at)
        self.column.addWidget(self.offered)
        self.take = QPushButton("Take over what is ticked")
        self.take.setDefault(True)
        self.take.clicked.connect(self._take_over)
        self.column.addWidget(self.take)

    def _build_giving(self) -> None:
        section(self.column, "Say what they are")
        self.who = narrow_choice()
        self.who.setToolTip("For which parts it is said; it goes on holding when the model comes anew")
        self.who.activated.connect(lambda _: self._mark())
        self.column.addWidget(self.who)
        form = QFormLayout()
        form.setVerticalSpacing(4)
        self.type = narrow_choice()
        self.type.addItem(AS_IT_IS, None)
        for kind in GIVEN_TYPES:
            self.type.addItem(plain_type(kind), kind)
        self.storey = narrow_choice()
        self.material, self.layer = self._typed(), self._typed()
        for words, field in (("Type", self.type), ("Storey", self.storey), ("Material", self.material), ("Layer", self.layer)):
            form.addRow(words, field)
        self.column.addLayout(form)
        self.give = QPushButton("Give them this")
        self.give.clicked.connect(self._give)
        self.column.addWidget(self.give)

    @staticmethod
    def _typed() -> QComboBox:
        made = narrow_choice()
        made.setEditable(True)
        made.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        line = made.lineEdit()
        assert line is not None
        line.setPlaceholderText(AS_IT_IS)
        line.setMaxLength(200)
        return made

    # Doing -----------------------------------------------------------------------------------------------------

    def _take_over(self) -> None:
        guesses = self._commands.guesses or ()
        self._commands.take_over([guesses[i] for i in self.offered.ticked()])

    def _look_at(self, item: QListWidgetItem) -> None:
        guess = (self._commands.guesses or ())[self.offered.row(item)]
        if guess.parts:
            self._session.mark(guess.parts)

    def _give(self) -> None:
        who, building = self.who.currentData(), self._session.building
        if not isinstance(who, PartFilter) or building is None:
            return
        material, layer = self.material.currentText().strip(), self.layer.currentText().strip()
        gives = Meaning(
            type=self.type.currentData(), storey=self.storey.currentData(), material=material or None, layer=layer or None
        )
        count = int(who.mask(building).sum())
        self._commands.give(who, gives, f"{count} part{'s' * (count != 1)}: {gives_words(gives, building)}")
        for field in (self.type, self.storey):
            field.setCurrentIndex(0)
        for typed in (self.material, self.layer):
            typed.setCurrentIndex(-1)
            typed.clearEditText()

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show parts, guesses and rules as they are now."""
        building = self._session.building
        if building is None:
            return
        open_yet = unsaid(building)
        nowhere = int((~building.in_storey & ~building.context).sum())
        silent = f"{int(open_yet.sum()):,} do not say what they are" if open_yet.any() else "All say what they are"
        said = f"{len(open_yet):,} parts. {silent}"
        self.facts.setText(said + (f", {nowhere:,} stand in no storey." if nowhere else "."))
        self.tinted.setVisible(bool(open_yet.any()))
        self._show_who(building)
        self._show_offered()
        self._show_rules(building)
        self._mark()

    def _show_who(self, building: Building) -> None:
        """Offer for whom it is said: what is picked, and all like it; else all that say nothing."""
        session = self._session
        key = session.picked.elements, id(building)
        if key == self._of:
            return
        self._of = key
        self.who.clear()
        if session.picked.elements:
            for words, what in choices_of(building, session.picked.elements):
                self.who.addItem(words, PartFilter(what=what))
            for word in common_words(building, session.picked.elements):
                self.who.addItem(f"All named “{word}”", PartFilter(what=Selection(words=frozenset({word}))))
        self.who.addItem("All that do not say what they are", PartFilter(untyped=True))
        self.who.addItem("All that stand in no storey", PartFilter(nowhere=True))
        for words, facing in (("level", "level"), ("upright", "upright"), ("sloping", "sloping")):
            self.who.addItem(f"All {words} ones that do not say", PartFilter(untyped=True, facing=facing))
        self.storey.clear()
        self.storey.addItem(AS_IT_IS, None)
        self.storey.addItem("By its level", BY_LEVEL)
        for storey in reversed(building.storeys):
            self.storey.addItem(storey.name, storey.id)
        materials, layers = ({getattr(e, name) for e in building.elements} for name in ("material", "layer"))
        for field, values in ((self.material, materials), (self.layer, layers)):
            field.clear()
            field.addItems(sorted(values - {""}, key=str.lower))
            field.setCurrentIndex(-1)
            field.clearEditText()

    def _show_offered(self) -> None:
        commands = self._commands
        self.guess.setEnabled(not commands.is_guessing)
        self.guess.setText("Guessing…" if commands.is_guessing else "Guess types, storeys and rooms")
        if commands.guesses is not self._offered:
            self._offered = commands.guesses
            names = [guess_words(guess) for guess in commands.guesses or ()]
            self.offered.set_names(names, names)
        some = bool(commands.guesses)
        self.offered.setVisible(some)
        self.take.setVisible(some)

    def _show_rules(self, building: Building) -> None:
        meanings = self._session.project.meanings
        key = meanings, id(building)
        if key == self._listed:
            return
        self._listed = key
        clear(self.groups)
        for group in meanings.groups:
            self.groups.addLayout(self._group_row(group.name, int(group.who.mask(building).sum())))
        clear(self.rooms)
        for room in meanings.spaces[:MOST_ROOMS]:
            self.rooms.addLayout(self._room_row(room))
        if len(meanings.spaces) > MOST_ROOMS:
            self.rooms.addWidget(label(f"and {len(meanings.spaces) - MOST_ROOMS} more", "soft"))
        self.room_heading.setVisible(bool(meanings.spaces))
        clear(self.rules)
        for rule in meanings.rules[:MOST_RULES]:
            self.rules.addLayout(self._rule_row(rule, building))
        if len(meanings.rules) > MOST_RULES:
            self.rules.addWidget(label(f"and {len(meanings.rules) - MOST_RULES} more", "soft"))
        self.none_given.setVisible(not meanings.rules)

    def _group_row(self, name: str, count: int) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(4)
        picks = RowButton(f"{name}  ·  {count}", "Pick what is in it")
        picks.clicked.connect(lambda _=False, name=name: self._commands.pick_group(name))
        row.addWidget(picks, 1)
        rename = away_button("Call it otherwise; cuts and looks that mean it follow")
        theme.wear(rename, "pencil-simple")
        rename.clicked.connect(lambda _=False, name=name: self._commands.ask_rename_group(name))
        row.addWidget(rename)
        away = away_button("Delete this group; its parts stay")
        away.clicked.connect(lambda _=False, name=name: self._commands.take_group(name))
        row.addWidget(away)
        return row

    def _room_row(self, room: GivenSpace) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(4)
        use = f", {room.use}" if room.use else ""
        called = RowButton(f"{room.name}{use}  ·  {units.area(room.floor)}", "Call it otherwise, and say what it is used for")
        called.clicked.connect(lambda _=False, room=room: self._commands.ask_room(room))
        row.addWidget(called, 1)
        away = away_button("Take this room away")
        away.clicked.connect(lambda _=False, room=room: self._commands.take_room(room))
        row.addWidget(away)
        return row

    def _rule_row(self, rule: MeaningRule, building: Building) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(4)
        box = QCheckBox()
        box.setChecked(rule.on)
        box.setToolTip("Whether it holds")
        box.clicked.connect(lambda on, rule=rule: self._commands.switch(rule.id, on))
        row.addWidget(box)
        row.addWidget(label(rule_text(rule, building)), 1)
        away = away_button("Delete this rule")
        away.clicked.connect(lambda _=False, rule=rule: self._commands.take(rule.id))
        row.addWidget(away)
        return row

    def _mark(self) -> None:
        """Tint what says nothing."""
        building = self._session.building
        if building is None or not self.is_wanted:
            return
        open_yet = unsaid(building) if self.tinted.isChecked() else np.zeros(len(building.elements), bool)
        self.tint(frozenset(building.elements[i].id for i in np.flatnonzero(open_yet).tolist()))


def common_words(building: Building, picked: frozenset[str]) -> list[str]:
    """Return the words that the names of all picked parts have in common, the longest first; numbers are no words."""
    names = [building.elements[building.index_of[i]].name for i in picked if i in building.index_of]
    words = [{w for w in name.replace("_", " ").split() if len(w) > 2 and not any(c.isdigit() for c in w)} for name in names]
    return sorted(set.intersection(*words), key=lambda w: (-len(w), w))[:3] if words else []


def gives_words(gives: Meaning, building: Building) -> str:
    """Return what is given, in a few words."""
    found = [] if gives.type is None else [plain_type(gives.type).lower()]
    if gives.storey == BY_LEVEL:
        found.append("storey by level")
    elif gives.storey is not None:
        found.append(next((s.name for s in building.storeys if s.id == gives.storey), "a storey that is gone"))
    found += [f"of {gives.material}"] if gives.material else []
    found += [f"on layer {gives.layer}"] if gives.layer else []
    return ", ".join(found)


def rule_text(rule: MeaningRule, building: Building) -> str:
    """Return what a rule says."""
    who = rule.who
    named = who_words(who.what, building) if not who.what.is_empty else "All"
    more = [f"{who.facing} ones"] if who.facing else []
    more += ["that do not say what they are"] if who.untyped else []
    more += ["in no storey"] if who.nowhere else []
    guessed = " (guessed)" if rule.guessed else ""
    return f"{' '.join([named, *more])}: {gives_words(rule.gives, building)}{guessed}"
