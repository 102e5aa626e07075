"""The look of the stage: what one changes most, in words and numbers."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QCheckBox, QColorDialog, QComboBox, QFormLayout, QHBoxLayout, QPushButton, QWidget

from anatome.app.actions import Actions, panel_button
from anatome.app.commands.look import SWITCHES
from anatome.app.numbers import NumberField
from anatome.app.panels.inspector.page import Fold, bare_column, label, switches
from anatome.app.session import Session
from anatome.look.look import Look
from anatome.scenes import edits

OWN = ", changed"
"""Behind the name of a look that was changed."""
WEIGHTS = (0.13, 0.18, 0.25, 0.35, 0.50, 0.70, 1.00, 1.40, 2.00)
"""Line widths in mm (ISO 128, value from memory)."""
SURFACES = (
    ("harmonised", "Pale, of one family"),
    ("as modelled", "As modelled"),
    ("white", "White"),
    ("warm grey", "Warm grey"),
    ("paper", "Like the paper"),
    ("by storey", "By storey"),
    ("by use", "By use of spaces"),
    ("by type", "By type"),
    ("by material", "By material"),
)
FILLS = (
    ("one", "One colour"),
    ("material", "By material"),
    ("type", "By type"),
    ("storey", "By storey"),
    ("element", "Each part"),
)
HATCHES = (("none", "None"), ("over", "Over the fill"), ("only", "Instead of the fill"))
LINES = (
    ("cut_weight", "Round the cut"),
    ("part_weight", "Between parts"),
    ("edge_weight", "Beyond"),
    ("hatch_weight", "Hatches"),
)
CHOICES = (("surfaces", "Surfaces", SURFACES), ("fill_by", "Cut filled", FILLS), ("hatch", "Hatches", HATCHES))
COLOURS = (("poche", "Cut"), ("poche_earth", "Earth"), ("paper", "Paper"), ("ink", "Ink"))


class Swatch(QPushButton):
    """A colour that a click changes."""

    def __init__(self, words: str) -> None:
        super().__init__(words)
        self.colour = QColor()

    def show_colour(self, rgb: Sequence[float]) -> None:
        """Have this colour beside the words."""
        self.colour = QColor.fromRgbF(*rgb)
        ink = "#FFFFFF" if self.colour.lightnessF() < 0.55 else "#22262B"
        self.setStyleSheet(f"QPushButton {{ background: {self.colour.name()}; color: {ink}; }}")


class LookBox(QWidget):
    """Shows and changes the look. Every change is a step to undo, and makes the look one's own."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        column = bare_column(self)
        self.name = label("", "soft")
        column.addWidget(self.name)
        column.addWidget(panel_button(actions["looks"]))
        self.switches = switches(column, SWITCHES, self._switch, columns=2)
        self.fold = Fold("More of the look", "Surfaces, fills, hatches, lines, light and colours")
        column.addWidget(self.fold)
        form = QFormLayout()
        form.setVerticalSpacing(4)
        self.choices: dict[str, QComboBox] = {}
        for key, words, entries in CHOICES:
            self._choice(form, key, words, entries)
        for key, words in LINES:
            self._choice(form, key, words, [(w, f"{w:.2f} mm") for w in WEIGHTS])
        self.numbers: dict[str, NumberField] = {}
        for key, words, unit, step, low, high in (
            ("shadows", "Cast shadows", "%", 0.05, 0.0, 1.0),
            ("sun_turn", "Sun, to the right", "°", 5.0, -360.0, 360.0),
            ("sun_height", "Sun, height", "°", 5.0, 3.0, 90.0),
            ("sun_size", "Softness", "°", 0.5, 0.0, 30.0),
            ("shade_strength", "Soft shade", "%", 0.05, 0.0, 1.0),
        ):
            self._number(form, key, words, unit, step, low, high)
        self.fold.column.addLayout(form)
        self.with_view = QCheckBox("The sun goes with the view")
        self.with_view.setToolTip("Off: it stands where it is said, its direction from north, which is Y")
        self.with_view.clicked.connect(
            lambda on: self._set("The sun goes with the view" if on else "The sun stands", {"sun_with_view": on})
        )
        self.fold.column.addWidget(self.with_view)
        row = QHBoxLayout()
        row.setSpacing(4)
        self.swatches: dict[str, Swatch] = {}
        for key, words in COLOURS:
            made = Swatch(words)
            made.setToolTip(f"{words}: choose another colour")
            made.clicked.connect(lambda _=False, key=key, words=words: self._choose_colour(key, words))
            row.addWidget(made)
            self.swatches[key] = made
        self.fold.column.addLayout(row)
        files = QHBoxLayout()
        files.setSpacing(4)
        for name, words in (("save_look", "To a file…"), ("load_look", "From a file…")):
            files.addWidget(panel_button(actions[name], words))
        self.fold.column.addLayout(files)

    def _choice(self, form: QFormLayout, key: str, words: str, entries: Sequence[tuple[object, str]]) -> None:
        made = QComboBox()
        for value, text in entries:
            made.addItem(text, value)
        made.activated.connect(lambda row: self._set(f"{words}: {made.itemText(row)}", {key: made.itemData(row)}))
        form.addRow(words, made)
        self.choices[key] = made

    def _number(self, form: QFormLayout, key: str, words: str, unit: str, step: float, low: float, high: float) -> None:
        made = NumberField(unit, step)

        def change(value: float) -> None:
            self._set(f"{words} changed", {key: min(max(value, low), high)}, f"look {key}")

        made.entered.connect(change)
        made.nudged.connect(change)
        form.addRow(words, made)
        self.numbers[key] = made

    # Doing -----------------------------------------------------------------------------------------------------

    def _set(self, said: str, changes: dict[str, Any], merge: str | None = None) -> None:
        session, look = self._session, self._session.stage.look
        name = look.name if look.name.endswith(OWN) or not look.name else look.name + OWN
        changed = Look.model_validate(dict(look) | changes | {"name": name})
        session.apply(edits.set_look(session.project, changed), said, merge=merge)

    def _switch(self, key: str, text: str, on: bool) -> None:
        self._set(f"{text} {'on' if on else 'off'}", {key: on})

    def _choose_colour(self, key: str, words: str) -> None:
        dialog = QColorDialog(self.swatches[key].colour, self)
        dialog.setOption(QColorDialog.ColorDialogOption.DontUseNativeDialog)
        dialog.setWindowTitle(words)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.colorSelected.connect(lambda c: self._set(f"{words}: {c.name()}", {key: (c.redF(), c.greenF(), c.blueF())}))
        dialog.open()

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the look as it is now."""
        look = self._session.stage.look
        self.name.setText(look.name or "Own look")
        for key, box in self.switches.items():
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
        self.with_view.setChecked(look.sun_with_view)
        for key, swatch in self.swatches.items():
            swatch.show_colour(getattr(look, key))
