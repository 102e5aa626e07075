"""The picked person or tree."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox, QFormLayout, QGridLayout

from anatome.app.base import units
from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.numbers import NumberField
from anatome.app.commands.site import SiteCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.figure_buttons import FigureButtons
from anatome.app.panels.inspector.page import Page, label, section
from anatome.site.kinds import KINDS


class FigurePage(Page):
    """Which one it is, how tall, which way it is turned."""

    def __init__(self, session: Session, actions: Actions, commands: SiteCommands) -> None:
        super().__init__()
        self._session, self._commands = session, commands
        self.title = label("", "title")
        self.facts = label("", "soft")
        self.column.addWidget(self.title)
        self.column.addWidget(self.facts)
        section(self.column, "Drawn as")
        self.kinds = FigureButtons(self._set_kind)
        self.column.addWidget(self.kinds)
        form = QFormLayout()
        self.height_field = NumberField("m", 0.05, below_zero=False)
        for signal in (self.height_field.entered, self.height_field.nudged):
            signal.connect(self._set_height)
        form.addRow("Height", self.height_field)
        self.mirrored = QCheckBox("Turned round")
        self.mirrored.setToolTip("Mirrored left to right; it faces the eye in any case")
        self.mirrored.clicked.connect(lambda on: commands.change_figure("Turned round", mirrored=on))
        form.addRow("", self.mirrored)
        self.column.addLayout(form)
        grid = QGridLayout()
        grid.setSpacing(4)
        for place, name in enumerate(("copy_figure", "hide_figure", "take_figure")):
            grid.addWidget(panel_button(actions[name]), place, 0)
        self.column.addLayout(grid)
        self.column.addWidget(label("Drag it on the stage to move it. Cuts leave it out or whole, never sliced.", "soft"))
        self.column.addStretch()

    def _set_kind(self, kind: str) -> None:
        figure = self._session.figure
        if figure is None:
            return
        # As much taller or smaller than usual as it was.
        usual = KINDS[figure.kind].height if figure.kind in KINDS else figure.height
        height = KINDS[kind].height * figure.height / usual
        self._commands.change_figure(KINDS[kind].words, kind=kind, height=min(max(height, 0.1), 100.0))

    def _set_height(self, value: float) -> None:
        value = min(max(value, 0.1), 100.0)
        self._commands.change_figure(f"{units.length(value, 2)} tall", merge="figure height", height=value)

    def refresh(self) -> None:
        session, building = self._session, self._session.building
        figure = session.figure
        assert figure is not None and building is not None
        kind = KINDS.get(figure.kind)
        self.title.setText(kind.words if kind else "A figure")
        number = building.index_of.get(figure.on or "")
        where = f"On {building.elements[number].name or 'a part'}" if number is not None else "On nothing of this model"
        self.facts.setText(f"{where}, {units.length(figure.place[2], 2, signed=True)}")
        self.kinds.show_kind(figure.kind)
        self.height_field.show_value(figure.height)
        self.mirrored.setChecked(figure.mirrored)
