"""The look of the stage: what one changes most, in words and numbers."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QDate, QDateTime
from PySide6.QtWidgets import QCheckBox, QComboBox, QDateTimeEdit, QFormLayout, QGridLayout, QHBoxLayout, QWidget

from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.numbers import NumberField
from anatome.app.base.swatch import Swatch
from anatome.app.commands.look import SWITCHES
from anatome.app.document.session import Session
from anatome.app.panels.inspector.divide_box import DivideBox
from anatome.app.panels.inspector.look_rows import COLOURS, FIRST_MOMENT, PARTS, STILL, SUNS, Choice, LookSection, Number
from anatome.app.panels.inspector.page import Fold, bare_column, label, narrow_choice, switches
from anatome.app.panels.inspector.rules_box import RulesBox
from anatome.app.panels.inspector.still_box import StillBox
from anatome.app.stage.tracing import Tracing
from anatome.look.look import YEARS, Look
from anatome.scenes.look_edits import change_look
from anatome.site.sunlight import place_of, sun_at

MOMENT = "yyyy-MM-ddTHH:mm"


class LookBox(QWidget):
    """Shows and changes the look. Every change is a step to undo, and makes the look one's own."""

    def __init__(self, session: Session, actions: Actions, tracing: Tracing) -> None:
        super().__init__()
        self._session = session
        column = bare_column(self)
        self.name = label("", "soft")
        column.addWidget(self.name)
        column.addWidget(panel_button(actions["looks"]))
        self.switches = switches(column, SWITCHES, self._switch, columns=2)
        self.choices: dict[str, QComboBox] = {}
        self.numbers: dict[str, NumberField] = {}
        self.checks: dict[str, QCheckBox] = {}
        self.folds = [self._part(part) for part in PARTS]
        for fold in self.folds:
            column.addWidget(fold)
        self._sun_rows(self.folds[-1])
        light = self._part(STILL)
        self.still = StillBox(session, actions, tracing)
        light.column.insertWidget(0, self.still)
        column.addWidget(light)
        self.folds.append(light)
        two = Fold("Two looks in one picture", "Another look beyond a line, a depth, or for some parts")
        self.divide = DivideBox(session, actions)
        two.column.addWidget(self.divide)
        column.addWidget(two)
        self.folds.append(two)
        self.swatches: dict[str, Swatch] = {}
        colours = Fold("Colours", "Of the cut, the paper and the ink")
        grid = QGridLayout()
        grid.setSpacing(4)
        for number, (key, words) in enumerate(COLOURS):
            made = Swatch(words, lambda rgb, key=key, words=words: self._set(f"{words} changed", {key: rgb}))  # type: ignore[misc]
            grid.addWidget(made, number // 3, number % 3)
            self.swatches[key] = made
        colours.column.addLayout(grid)
        column.addWidget(colours)
        self.folds.append(colours)
        files = QHBoxLayout()
        files.setSpacing(4)
        for name, words in (("save_look", "To a file…"), ("load_look", "From a file…")):
            files.addWidget(panel_button(actions[name], words))
        colours.column.addLayout(files)
        # Lists that come and go stand last, where they push nothing.
        self.rules = RulesBox(session, in_look=True)
        self.overrides = RulesBox(session, in_look=False)
        column.addWidget(self.rules)
        column.addWidget(self.overrides)

    def _part(self, part: LookSection) -> Fold:
        fold = Fold(part.words, part.tip)
        form = QFormLayout()
        form.setVerticalSpacing(4)
        for row in part.rows:
            if isinstance(row, Choice):
                self._choice(form, row)
            else:
                self._number(form, row)
        fold.column.addLayout(form)
        rows = tuple((s.key, s.words, s.tip) for s in part.switches)
        self.checks |= switches(fold.column, rows, self._switch, columns=1)
        return fold

    def _choice(self, form: QFormLayout, row: Choice) -> None:
        made = narrow_choice()
        made.setToolTip(row.words)
        for value, text in row.entries:
            made.addItem(text, value)
        made.activated.connect(lambda i: self._set(f"{row.words}: {made.itemText(i)}", {row.key: made.itemData(i)}))
        form.addRow(row.words, made)
        self.choices[row.key] = made

    def _number(self, form: QFormLayout, row: Number) -> None:
        made = NumberField(row.unit, row.step)

        def change(value: float) -> None:
            kind = type(getattr(self._session.stage.look, row.key))  # some are whole numbers
            self._set(f"{row.words} changed", {row.key: kind(min(max(value, row.low), row.high))}, f"look {row.key}")

        made.entered.connect(change)
        made.nudged.connect(change)
        form.addRow(row.words, made)
        self.numbers[row.key] = made

    def _sun_rows(self, fold: Fold) -> None:
        """What the sun follows, and the day and hour if it is those."""
        form = QFormLayout()
        form.setVerticalSpacing(4)
        self.sun = narrow_choice()
        for key, words in SUNS:
            self.sun.addItem(words, key)
        self.sun.activated.connect(self._choose_sun)
        form.addRow("The sun", self.sun)
        self.moment = QDateTimeEdit()
        self.moment.setDisplayFormat("d MMM yyyy, HH:mm")
        self.moment.setButtonSymbols(QDateTimeEdit.ButtonSymbols.NoButtons)
        self.moment.setDateRange(QDate(YEARS[0], 1, 1), QDate(YEARS[1], 12, 31))
        self.moment.setToolTip("Local time where the building stands, without summer time")
        self.moment.dateTimeChanged.connect(self._choose_moment)
        self._moment_form = form
        form.addRow("On", self.moment)
        fold.column.addLayout(form)
        self.sun_note = label("", "soft")
        fold.column.addWidget(self.sun_note)

    # Doing -----------------------------------------------------------------------------------------------------

    def _set(self, said: str, changes: dict[str, Any], merge: str | None = None) -> None:
        session = self._session
        session.apply(change_look(session.project, **changes), said, merge=merge)

    def _switch(self, key: str, text: str, on: bool) -> None:
        self._set(f"{text} {'on' if on else 'off'}", {key: on})

    def _choose_sun(self, row: int) -> None:
        key, look = self.sun.itemData(row), self._session.stage.look
        moment = (look.sun_moment or FIRST_MOMENT) if key == "moment" else None
        changes: dict[str, Any] = {"sun_with_view": key == "view", "sun_moment": moment}
        if key != "view" and not look.shadows:
            changes["shadows"] = 0.2
        self._set(f"The sun: {self.sun.itemText(row)}", changes)

    def _choose_moment(self, moment: QDateTime) -> None:
        text = moment.toString(MOMENT)
        if self._session.is_open and self._session.stage.look.sun_moment not in (None, text):
            self._set("The day and hour changed", {"sun_moment": text}, "look moment")

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the look as it is now."""
        look = self._session.stage.look
        self.name.setText(look.name or "Own look")
        self.rules.refresh()
        self.overrides.refresh()
        self.divide.refresh()
        self.still.refresh()
        for key, box in (self.switches | self.checks).items():
            box.setChecked(getattr(look, key))
        for key, choice in self.choices.items():
            value = getattr(look, key)
            row = next((i for i in range(choice.count()) if choice.itemData(i) == value), -1)
            if row < 0:  # a weight of one's own
                choice.addItem(f"{value:.2f} mm", value)
                row = choice.count() - 1
            choice.setCurrentIndex(row)
        for key, number in self.numbers.items():
            number.show_value(getattr(look, key))
        for key, swatch in self.swatches.items():
            swatch.show_colour(getattr(look, key) or (look.ink if key == "line_colour" else look.paper))
        self._show_sun(look)

    def _show_sun(self, look: Look) -> None:
        by_moment = look.sun_moment is not None
        self.sun.setCurrentIndex(2 if by_moment else 0 if look.sun_with_view else 1)
        self._moment_form.setRowVisible(self.moment, by_moment)
        for key in ("sun_turn", "sun_height"):
            self.numbers[key].setEnabled(not by_moment)
        note = ""
        if look.sun_moment is not None and self._session.building is not None:
            self.moment.blockSignals(True)
            self.moment.setDateTime(QDateTime.fromString(look.sun_moment, MOMENT))
            self.moment.blockSignals(False)
            place = place_of(self._session.project.site, self._session.building)
            note = "The model does not say where it stands. Say so under “Round the building”, “Where it stands”."
            if place is not None:
                turn, height = sun_at(place, look.sun_moment)
                note = f"It stands {height:.0f}° high, {turn:.0f}° from Y." if height > 0 else "It has set: no shadows."
        self.sun_note.setText(note)
        self.sun_note.setVisible(bool(note))
