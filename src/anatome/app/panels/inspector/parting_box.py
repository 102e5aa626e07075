"""Whether the picked cut takes away or parts the building, and how the part before it is shown."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QCheckBox, QComboBox, QFormLayout, QWidget

from anatome.app.base.actions import Actions
from anatome.app.base.numbers import NumberField
from anatome.app.commands.apart import ApartCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.apart_box import OpeningSlider
from anatome.app.panels.inspector.page import bare_column
from anatome.app.stage.stage import Stage
from anatome.cuts.parting import Parting
from anatome.scenes import edits

WAYS = (("apart", "Off the cut"), ("sideways", "Along the cut"), ("up", "Up along the cut"), ("along", "As receding lines run"))
LEVEL_WAYS = (("apart", "Off the cut"), ("sideways", "To the right"), ("up", "To the back"), ("along", "As receding lines run"))
TURNED = (("as it is", "As it is"), ("mirrored", "Mirrored"), ("turned over", "Turned over"))


class PartingBox(QWidget):
    """Every change is a step to undo."""

    def __init__(self, session: Session, stage: Stage, actions: Actions, commands: ApartCommands) -> None:
        super().__init__()
        self._session, self._stage, self._commands = session, stage, commands
        column = bare_column(self)
        self.parts = QCheckBox("Moved aside, not taken away")
        self.parts.setToolTip("The cut parts the building: both sides are shown, and both cut faces are filled")
        self.parts.clicked.connect(actions["part_here"].trigger)
        column.addWidget(self.parts)
        self.content = QWidget()
        inner = bare_column(self.content, 4)
        self.opening = OpeningSlider(session)
        inner.addWidget(self.opening)
        form = QFormLayout()
        form.setVerticalSpacing(4)
        self.distance = NumberField("m", 0.5)
        self.distance.setToolTip("How far it is moved when wide open")
        self.distance.entered.connect(lambda value: self._change("moved", distance=value))
        self.distance.nudged.connect(self._nudge)
        form.addRow("Moved by", self.distance)
        self.way = QComboBox()
        self.way.activated.connect(self._set_way)
        form.addRow("Which way", self.way)
        self.turned = QComboBox()
        for key, words in TURNED:
            self.turned.addItem(words, key)
        self.turned.setToolTip("Mirrored in the cut, or turned over like a page, one looks into it from the cut")
        self.turned.activated.connect(lambda row: commands.turn_part(self.turned.itemData(row)))
        form.addRow("Shown", self.turned)
        inner.addLayout(form)
        column.addWidget(self.content)
        self.displaced = QCheckBox("Cuts the picture, not the building")
        self.displaced.setToolTip("Where parts are exploded: on, it cuts them where they are seen; off, where they stand")
        self.displaced.clicked.connect(self._set_displaced)
        column.addWidget(self.displaced)

    def _change(self, said: str, merge: str | None = None, **changes: Any) -> None:
        session, cut = self._session, self._session.cut
        if cut is not None and cut.parting is not None:
            parting = Parting.model_validate(dict(cut.parting) | changes)
            project = edits.put_cut(session.project, cut.model_copy(update={"parting": parting}))
            session.apply(project, f"{cut.name}: what lies before it is {said}", merge=merge)

    def _nudge(self, value: float) -> None:
        self._change("moved", "parting", distance=value)

    def _set_way(self, row: int) -> None:
        way, direction = self.way.itemData(row), self._stage.viewport.from_camera((0.0, 0.0, 1.0))
        more: dict[str, Any] = {"direction": tuple(float(x) for x in direction)} if way == "along" else {}
        self._change(f"moved {self.way.itemText(row).lower()}", way=way, **more)

    def _set_displaced(self, on: bool) -> None:
        session, cut = self._session, self._session.cut
        if cut is not None:
            said = "cuts what is seen" if on else "cuts the building as it stands"
            session.apply(edits.change_cut(session.project, cut.id, on_displaced=on), f"{cut.name} {said}")

    def refresh(self) -> None:
        """Show the picked cut as it is now."""
        cut, stage = self._session.cut, self._session.stage
        parting = None if cut is None else cut.parting
        others_apart = stage.is_apart and parting is None
        self.parts.setChecked(parting is not None)
        self.content.setVisible(parting is not None)
        self.displaced.setVisible(others_apart)
        self.displaced.setChecked(cut is not None and cut.on_displaced)
        if cut is None or parting is None:
            return
        self.opening.refresh()
        self.distance.show_value(parting.distance)
        ways = LEVEL_WAYS if cut.axis.is_level else WAYS
        oblique = stage.camera.is_oblique or parting.way == "along"
        self.way.clear()
        for key, words in ways if oblique else ways[:-1]:
            self.way.addItem(words, key)
        self.way.setToolTip("" if oblique else "In an oblique projection it can also be moved as receding lines run")
        self.way.setCurrentIndex(self.way.findData(parting.way))
        self.turned.setCurrentIndex(self.turned.findData(parting.turned))
