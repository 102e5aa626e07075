"""Says how some parts look in this scene, over what its look says."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QCheckBox, QComboBox, QFileDialog, QHBoxLayout, QWidget

from anatome.app.base.form_dialog import FormDialog
from anatome.app.base.numbers import NumberField
from anatome.app.base.rule_words import choices_of, rule_words, who_words
from anatome.app.base.swatch import Swatch
from anatome.app.document.session import Session
from anatome.look.hatches import Hatch
from anatome.look.look import WEIGHTS, Picture, Rgb, Rule
from anatome.look.pictures import read_picture
from anatome.problems import Problem
from anatome.scenes.look_edits import set_overrides, take_picture

FILE = "\0file"
AS_LOOK = "As the look has it"
FIRST_FILL: Rgb = (0.706, 0.267, 0.184)
FIRST_SURFACE: Rgb = (0.902, 0.835, 0.757)


class ColourRow(QWidget):
    """A colour, if it is ticked."""

    def __init__(self, first: Rgb) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.on = QCheckBox()
        self.value: Rgb = first
        self.swatch = Swatch("Colour", self._choose)
        self.swatch.show_colour(first)
        row.addWidget(self.on)
        row.addWidget(self.swatch, 1)

    def _choose(self, rgb: Rgb) -> None:
        self.value = rgb
        self.swatch.show_colour(rgb)
        self.on.setChecked(True)

    @property
    def rgb(self) -> Rgb | None:
        return self.value if self.on.isChecked() else None


class PictureRow(QWidget):
    """A picture from a file, or one the look has, and how wide it is on a surface."""

    def __init__(self, known: Sequence[Picture]) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self._known = {picture.name: picture for picture in known}
        self.which = QComboBox()
        self.which.addItem(AS_LOOK, None)
        self.which.addItem("No picture", "")
        for name in self._known:
            self.which.addItem(name, name)
        self.which.addItem("From a file…", FILE)
        self.which.activated.connect(self._chosen)
        self.wide = NumberField("m", 0.1, below_zero=False)
        self.wide.show_value(1.0)
        self.wide.setFixedWidth(92)
        self.wide.setToolTip("How wide the picture is on a surface; it repeats")
        self.wide.entered.connect(self.wide.show_value)
        self.wide.nudged.connect(self.wide.show_value)
        row.addWidget(self.which, 1)
        row.addWidget(self.wide)

    def _chosen(self, number: int) -> None:
        if self.which.itemData(number) == FILE:
            name, _ = QFileDialog.getOpenFileName(self, "A picture for surfaces", "", "Pictures (*.png *.jpg *.jpeg)")
            if name:
                self.take(Path(name))
            else:
                self.which.setCurrentIndex(0)
        elif self.named:
            self.wide.show_value(self._known[self.named].metres)

    def take(self, path: Path) -> None:
        """Offer the picture in a file, and choose it."""
        try:
            picture = read_picture(path, self.wide.shown)
        except Problem as problem:
            self.which.setCurrentIndex(0)
            self.window().show_problem(str(problem))  # type: ignore[attr-defined]
            return
        self._known[picture.name] = picture
        self.which.insertItem(2, picture.name, picture.name)
        self.which.setCurrentIndex(2)

    @property
    def named(self) -> str | None:
        """The name of the picture, nothing for none, None for what the look has."""
        found: str | None = self.which.currentData()
        return None if found == FILE else found

    def picture(self, name: str) -> Picture:
        """Return the chosen one, as wide as it is said to be."""
        return self._known[name].model_copy(update={"metres": min(max(self.wide.shown, 0.01), 1000.0)})


class RuleDialog(FormDialog):
    """A new rule for the picked parts, or for all that is like them."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        note = "It is laid over the look of this scene alone, and listed under Look, where it can be switched off or taken away."
        super().__init__(parent, "A look of their own", "Lay over the look", 420, note)
        self._session = session
        assert session.building is not None
        self.who = QComboBox()
        for words, selection in choices_of(session.building, session.picked.elements):
            self.who.addItem(words, selection)
        self.fill, self.surface = ColourRow(FIRST_FILL), ColourRow(FIRST_SURFACE)
        look = session.stage.look
        self.hatch = _named(look.known_hatches, "No hatch")
        self.pattern = _named(look.known_patterns, "No pattern")
        self.picture = PictureRow(look.pictures)
        self.clear = NumberField("%", 0.1)
        self.clear.setToolTip("How far one sees through: 0 % solid, 100 % like air. Empty: as the look has it")
        self.clear.entered.connect(self.clear.show_value)
        self.clear.nudged.connect(self.clear.show_value)
        self.lines = QComboBox()
        for words, value in ((AS_LOOK, None), ("Drawn", True), ("Not drawn", False)):
            self.lines.addItem(words, value)
        self.weight = QComboBox()
        self.weight.addItem(AS_LOOK, None)
        for weight in WEIGHTS:
            self.weight.addItem(f"{weight:.2f} mm", weight)
        self.line_colour = ColourRow(look.ink)
        for words, widget in (
            ("For", self.who),
            ("Filled, where cut", self.fill),
            ("Hatched, where cut", self.hatch),
            ("Surfaces", self.surface),
            ("Laid of", self.pattern),
            ("With a picture", self.picture),
            ("Transparency", self.clear),
            ("Edges", self.lines),
            ("Their weight", self.weight),
            ("Their colour", self.line_colour),
        ):
            self.form.addRow(words, widget)

    def run(self) -> None:
        session, text = self._session, self.clear.text().strip()
        said: dict[str, Any] = {
            "fill": self.fill.rgb,
            "hatch": self.hatch.currentData(),
            "surface": self.surface.rgb,
            "pattern": self.pattern.currentData(),
            "picture": self.picture.named,
            "clear": min(max(self.clear.shown, 0.0), 1.0) if text else None,
            "lines": self.lines.currentData(),
            "line_weight": self.weight.currentData(),
            "line_colour": self.line_colour.rgb,
        }
        if all(value is None for value in said.values()):
            raise Problem("Say at least one thing that is to look otherwise.")
        rule = Rule(who=self.who.currentData(), **said)
        assert session.building is not None
        words = f"{who_words(rule.who, session.building)}: {rule_words(rule)}"
        project = session.project
        if rule.picture:
            project = take_picture(project, self.picture.picture(rule.picture))
        session.apply(set_overrides(project, (*session.stage.overrides, rule)), words)


def _named(hatches: dict[str, Hatch], none: str) -> QComboBox:
    made = QComboBox()
    made.addItem(AS_LOOK, None)
    made.addItem(none, "")
    for name, hatch in hatches.items():
        made.addItem(hatch.words or name, name)
    return made
