"""The hatch of what is picked: which, how large, at which angle, in which pen; chosen on the cut itself, and dragged there."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QComboBox, QFormLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anatome.app.base.hatch_icons import SIZE, hatch_icon
from anatome.app.base.numbers import NumberField
from anatome.app.base.side_by_side import side_by_side
from anatome.app.base.swatch import Swatch
from anatome.app.document.session import Session
from anatome.app.panels.inspector.hatch_sheet import HatchSheet
from anatome.app.panels.inspector.page import label, narrow_choice
from anatome.app.panels.inspector.texture_row import AS_LOOK
from anatome.app.stage.place_hatch import HatchOnFace, hatch_on_stage
from anatome.app.stage.place_laid import PlaceLaid, within_turn
from anatome.app.stage.stage import Stage
from anatome.app.stage.stage_input import StageInput
from anatome.look.hatches import Hatch
from anatome.look.look import WEIGHTS, Rule
from anatome.look.styles import Styles
from anatome.model.selection import Selection
from anatome.scenes.look_edits import project_hatches
from anatome.view.crop import height_at

FOLLOWS = (("Of the cut", "plane"), ("Of the paper", "paper"), ("Along each area", "long side"))
UNITS = (("mm on paper", "mm"), ("m, real size", "m"))
Said = Callable[[dict[str, Any], str | None], None]


class HatchBox(QWidget):
    """``change`` is told what a rule is to say."""

    def __init__(
        self, session: Session, stage: Stage, stage_input: StageInput, change: Said, rule: Callable[[], Rule | None]
    ) -> None:
        super().__init__()
        self._session, self._stage, self._input = session, stage, stage_input
        self._change, self._rule = change, rule
        self._who, self._element = Selection(), 0
        self._hatch: Hatch | None = None
        self._offered: object = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        form = QFormLayout()
        form.setVerticalSpacing(4)
        column.addLayout(form)
        self.choice = narrow_choice()
        self.choice.setIconSize(SIZE)
        self.choice.setToolTip("Hatch")
        self.choice.activated.connect(lambda row: change({"hatch": self.choice.itemData(row)}, None))
        form.addRow("Hatch", self.choice)
        self.apart = self._number("mm", 0.1, "How far apart its lines lie, where they lie closest", self._set_apart)
        self.unit = narrow_choice()
        self.unit.setToolTip("On paper, the same at every scale; or in the model, as large as it is built")
        for words, unit in UNITS:
            self.unit.addItem(words, unit)
        self.unit.activated.connect(self._set_unit)
        form.addRow("Spacing", side_by_side(self.apart, self.unit))
        self.angle = self._number("°", 15.0, "Degrees by which it is turned, anticlockwise", self._set_angle)
        self.follows = narrow_choice()
        self.follows.setToolTip("What its angle is measured from")
        for words, follows in FOLLOWS:
            self.follows.addItem(words, follows)
        self.follows.activated.connect(lambda row: change({"hatch_follows": self.follows.itemData(row)}, None))
        form.addRow("Angle", side_by_side(self.angle, self.follows))
        self.ink = Swatch("Colour of the hatch", lambda rgb: change({"hatch_colour": rgb}, None), coded=True)
        self.weight = narrow_choice()
        self.weight.setToolTip("Weight of its lines")
        self.weight.addItem(AS_LOOK, None)
        for weight in WEIGHTS:
            self.weight.addItem(f"{weight:.2f} mm", weight)
        self.weight.activated.connect(lambda row: change({"hatch_weight": self.weight.itemData(row)}, None))
        form.addRow("Its lines", side_by_side(self.ink, self.weight))
        buttons = QHBoxLayout()
        buttons.setSpacing(4)
        self.all = QPushButton("On the cut…")
        self.all.setToolTip("Every hatch drawn on this very cut, to choose one")
        self.all.clicked.connect(self.open_sheet)
        self.drag = QPushButton("Drag it")
        self.drag.setToolTip("Move, turn and size it on the cut face")
        self.drag.clicked.connect(self.begin_dragging)
        buttons.addWidget(self.all)
        buttons.addWidget(self.drag)
        column.addLayout(buttons)
        for choice in (self.unit, self.follows, self.weight):
            choice.setMinimumContentsLength(3)
        self.note = label("", "warning")
        column.addWidget(self.note)
        self.sheet = HatchSheet(session, stage, self)
        self.sheet.chosen.connect(lambda name: change({"hatch": name}, None))

    @staticmethod
    def _number(unit: str, step: float, tip: str, change: Callable[[float], None]) -> NumberField:
        made = NumberField(unit, step)
        made.setToolTip(tip)
        for signal in (made.entered, made.nudged):
            signal.connect(change)
        return made

    # Doing -----------------------------------------------------------------------------------------------------

    @property
    def _known(self) -> dict[str, Hatch]:
        """All that may be chosen: of the look, and of all looks of the project."""
        return project_hatches(self._session.project) | self._session.stage.look.known_hatches

    @property
    def _paper_millimetre(self) -> float:
        """Metres that a mm of the stage's paper is, where a scale holds."""
        session = self._session
        return height_at(session.stage.camera, session.true_plane()) / session.paper_height()

    def _plain(self) -> Hatch | None:
        return None if self._hatch is None else self._known.get(self._hatch.name)

    def _set_apart(self, value: float) -> None:
        plain = self._plain()
        if plain is not None and value > 0:
            self._change({"hatch_scale": min(max(value / plain.finest, 0.001), 1000.0)}, "own look hatch_scale")

    def _set_unit(self, row: int) -> None:
        """In the other unit as large as it is at the scale of the stage."""
        unit, hatch, plain = self.unit.itemData(row), self._hatch, self._plain()
        if hatch is None or plain is None or unit == hatch.unit:
            return
        factor = self._paper_millimetre if unit == "m" else 1.0 / self._paper_millimetre
        scale = min(max(hatch.finest * factor / plain.finest, 0.001), 1000.0)
        self._change({"hatch_unit": unit, "hatch_scale": float(f"{scale:.4g}"), "hatch_shift": None}, None)

    def _set_angle(self, value: float) -> None:
        self._change({"hatch_angle": within_turn(value)}, "own look hatch_angle")

    def open_sheet(self) -> None:
        """Show all of them on the cut."""
        chosen = "" if self._hatch is None else self._hatch.name
        at = self.mapToGlobal(QPoint(-12, 0))
        self.sheet.open_at(at, self._who, self._element, self._known, chosen)

    def begin_dragging(self) -> None:
        """Have it moved, turned and sized on the stage."""

        session, element = self._session, self._element

        def lies() -> HatchOnFace | None:
            return hatch_on_stage(session, self._stage.viewport, element, session.paper_height(), self._rule())

        if lies() is None:
            self._session.said.emit("The stage shows no cut face of this part. Cut it, or turn to it, and drag its hatch there.")
            return
        self._input.begin(PlaceLaid(session, name="place_hatch", lies=lies, change=self._change))

    # Showing ---------------------------------------------------------------------------------------------------

    def show_of(self, who: Selection, element: int, styles: Styles, rule: Rule | None) -> None:
        """Show the hatch of some parts, of which one element stands for all."""
        look = self._session.stage.look
        self._who, self._element = who, element
        hatch = self._hatch = styles.hatch_of(element)
        self._offer(self.choice, self._known, rule.hatch if rule else None)
        for field in (self.apart, self.unit, self.angle, self.follows, self.ink, self.weight, self.drag):
            field.setEnabled(hatch is not None)
        self.ink.show_colour((hatch.ink if hatch else None) or look.ink)
        self.weight.setCurrentIndex(max(self.weight.findData(rule.hatch_weight if rule else None), 0))
        times = 1.0
        if hatch is not None:
            in_mm = hatch.unit == "mm"
            self.apart.set_unit("mm" if in_mm else "m", 0.1 if in_mm else 0.01)
            self.apart.show_value(float(f"{hatch.finest:.3g}"))
            self.unit.setCurrentIndex(self.unit.findData(hatch.unit))
            self.angle.show_value((rule.hatch_angle if rule else None) or 0.0)
            self.follows.setCurrentIndex(self.follows.findData(hatch.follows))
            times = hatch.thinning(1.0 if in_mm else 1.0 / self._paper_millimetre)
        self.note.setText(f"Too dense at this scale: drawn {times:g} times as large, in files too." if times > 1 else "")
        self.note.setVisible(times > 1)

    def _offer(self, choice: QComboBox, hatches: dict[str, Hatch], chosen: str | None) -> None:
        if hatches != self._offered:
            self._offered = hatches
            choice.clear()
            choice.addItem(AS_LOOK, None)
            choice.addItem("No hatch", "")
            for name, hatch in hatches.items():
                choice.addItem(hatch_icon(hatch), hatch.words or name, name)
        choice.setCurrentIndex(next((i for i in range(choice.count()) if choice.itemData(i) == chosen), 0))
