"""What is drawn apart: its groups with their distances, their direction, and one slider that opens and closes it all."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QMenu,
    QSlider,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from anatome.app.base import units
from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.numbers import NumberField
from anatome.app.commands.apart import ApartCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import away_button, bare_column, clear, label
from anatome.cuts.exploding import Exploded
from anatome.model.selection import Selection
from anatome.scenes import apart
from anatome.words import plain_type

Vector = tuple[float, float, float]
DRAWN = "drawn"
ARROWS, BENT = ("↑", "↓", "↙", "↗", "→", "←"), "~"
"""For the ways of :meth:`ApartBox._ways`, and for a line that was drawn."""


class OpeningSlider(QWidget):
    """Closed on the left, wide open on the right."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, 100)
        self.slider.setPageStep(10)
        self.slider.setToolTip("How far apart all that is exploded stands")
        self.slider.setAccessibleName("Opening")
        self.slider.valueChanged.connect(self._slid)
        self.slider.sliderReleased.connect(session.end_step)
        self.share = QLabel()
        self.share.setMinimumWidth(40)
        self.share.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(self.slider, 1)
        row.addWidget(self.share)

    def _slid(self, value: int) -> None:
        session = self._session
        if session.is_open and round(100 * session.stage.opening) != value:
            session.apply(apart.set_opening(session.project, value / 100), f"Opened to {value} %", merge="opening")

    def refresh(self) -> None:
        """Show how far it is open."""
        value = round(100 * self._session.stage.opening)
        if self.slider.value() != value:
            self.slider.setValue(value)
        self.share.setText(f"{value} %")


class ApartBox(QWidget):
    """Shows and changes the groups. Every change is a step to undo."""

    def __init__(self, session: Session, actions: Actions, commands: ApartCommands) -> None:
        super().__init__()
        self._session, self._commands = session, commands
        column = bare_column(self)
        self.buttons = QWidget()
        ways = QHBoxLayout(self.buttons)
        ways.setContentsMargins(0, 0, 0, 0)
        ways.setSpacing(4)
        ways.addWidget(panel_button(actions["storeys_apart"], "Storeys"))
        ways.addWidget(panel_button(actions["lift_above"], "Lift the roof off"))
        column.addWidget(self.buttons)
        self.content = QWidget()
        inner = bare_column(self.content)
        self.opening = OpeningSlider(session)
        inner.addWidget(self.opening)
        self.exploded = QWidget()
        own = bare_column(self.exploded, 4)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(3)
        own.addLayout(self.rows)
        form = QFormLayout()
        form.setVerticalSpacing(4)
        self.direction = QComboBox()
        self.direction.setToolTip("The way in which all groups are moved, each by its own distance")
        self.direction.activated.connect(self._set_direction)
        form.addRow("Moved", self.direction)
        own.addLayout(form)
        self.lines = QCheckBox("Travel lines")
        self.lines.setToolTip("Thin lines from the corners of each group to where they lay")
        self.lines.clicked.connect(self._set_lines)
        own.addWidget(self.lines)
        inner.addWidget(self.exploded)
        self.whole = panel_button(actions["whole_again"])
        inner.addWidget(self.whole)
        column.addWidget(self.content)
        self.add = QComboBox()
        self.add.setToolTip("One more group: a storey, a type, a layer, a material, or what is picked")
        self.add.activated.connect(self._add)
        column.addWidget(self.add)
        self._shown: object = None
        self._offered: object = None
        self.fields: dict[str, NumberField] = {}
        self.ways: dict[str, QToolButton] = {}

    # Doing -----------------------------------------------------------------------------------------------------

    def _distance(self, name: str, value: float) -> None:
        session = self._session
        session.apply(
            apart.change_group(session.project, name, value), f"{name} moved {units.length(value, 2)}", merge=f"apart {name}"
        )

    def _remove(self, name: str) -> None:
        session = self._session
        session.apply(apart.change_group(session.project, name, None), f"{name} goes back")

    def _change(self, said: str, **changes: object) -> None:
        session, exploded = self._session, self._session.stage.exploded
        if exploded is not None:
            session.apply(apart.set_exploded(session.project, exploded.model_copy(update=changes)), said)

    def _set_direction(self, row: int) -> None:
        way = self.direction.itemData(row)
        if way == DRAWN:
            self._commands.set_out()
            self.refresh()
        elif way is not None:
            self._change(f"Moved {self.direction.itemText(row).lower()}", direction=tuple(way), path=())

    def _ways_of(self, name: str, menu: QMenu) -> None:
        """What a group's own menu offers: its way, and its place among its neighbours."""
        menu.clear()
        session, exploded = self._session, self._session.stage.exploded
        if exploded is None:
            return
        path = next(group.path for group in exploded.groups if group.name == name)

        def offer(words: str, way: tuple[Vector, ...]) -> None:
            act = menu.addAction(words)
            act.setCheckable(True)
            act.setChecked(way == path or (len(way) == len(path) == 1 and np.allclose(way, path)))
            act.triggered.connect(lambda: session.apply(apart.set_way(session.project, name, way), f"{name}: {words.lower()}"))

        offer("Moved as all", ())
        for words, way in self._ways():
            offer(f"Moved {words}", (way,))
        drawn = menu.addAction("Along a line drawn on the stage…")
        drawn.setCheckable(True)
        drawn.setChecked(len(path) > 1 or not any(act.isChecked() for act in menu.actions()))
        drawn.triggered.connect(lambda: self._commands.draw_way(name))
        menu.addSeparator()
        names = exploded.in_order()
        for words, by, can in (("Earlier in the order", -1, name != names[0]), ("Later in the order", 1, name != names[-1])):
            act = menu.addAction(words)
            act.setEnabled(can)
            act.triggered.connect(partial(self._in_order, name, by))
        if exploded.order:
            menu.addAction("In the order of their distances").triggered.connect(
                lambda: self._change("Neighbours by their distances", order=())
            )

    def _in_order(self, name: str, by: int) -> None:
        session = self._session
        session.apply(apart.set_in_order(session.project, name, by), f"{name} goes {'later' if by > 0 else 'earlier'}")

    def _set_lines(self, on: bool) -> None:
        self._change("Travel lines are drawn" if on else "No travel lines", lines=on)

    def _add(self, row: int) -> None:
        what = self.add.itemData(row)
        if isinstance(what, Selection):
            self._commands.add(self.add.itemText(row), what)
        self.add.setCurrentIndex(0)

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the groups as they are now."""
        stage = self._session.stage
        self.buttons.setVisible(not stage.is_apart)
        self.content.setVisible(stage.is_apart)
        self.exploded.setVisible(stage.exploded is not None)
        self._offer()
        if stage.is_apart:
            self.opening.refresh()
        if stage.exploded is not None:
            self._show(stage.exploded)

    def _show(self, exploded: Exploded) -> None:
        names = exploded.in_order()
        if names != self._shown:
            self._shown = names
            clear(self.rows)
            self.fields = {}
            for name in names:
                self.rows.addLayout(self._row(name))
        for group in exploded.groups:
            self.fields[group.name].show_value(group.distance)
        for number, group in enumerate(exploded.groups):
            button = self.ways[group.name]
            button.setText(self._sign(exploded.path_of(number)))
            own = "a way of its own" if group.path else "as all"
            button.setToolTip(f"{group.name} is moved {own}. Another way, or another place among its neighbours")
        self.lines.setChecked(exploded.lines)
        ways = self._ways()
        self.direction.clear()
        for words, way in ways:
            self.direction.addItem(words, way)
        self.direction.addItem("along a line…", DRAWN)
        fits = [i for i, (_, way) in enumerate(ways) if np.allclose(way, exploded.way, atol=1e-6)]
        if exploded.path:
            fits = [self.direction.count() - 1]
        if not fits:
            self.direction.addItem("another way", None)
        self.direction.setCurrentIndex(fits[0] if fits else self.direction.count() - 1)

    def _row(self, name: str) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(4)
        words = label(name, "soft")
        words.setToolTip(name)
        field = NumberField("m", 0.5)
        field.setToolTip(f"How far {name} is moved when wide open")
        field.setMaximumWidth(84)
        for signal in (field.entered, field.nudged):
            signal.connect(partial(self._distance, name))
        ways = QToolButton()
        ways.setProperty("role", "quiet")
        ways.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        ways.setFixedWidth(30)
        ways.setAccessibleName(f"Way of {name}")
        menu = QMenu(ways)
        menu.aboutToShow.connect(partial(self._ways_of, name, menu))
        ways.setMenu(menu)
        self.ways[name] = ways
        away = away_button(f"{name} goes back to where it stands")
        away.clicked.connect(lambda: self._remove(name))
        row.addWidget(words, 1)
        row.addWidget(field)
        row.addWidget(ways)
        row.addWidget(away)
        self.fields[name] = field
        return row

    def _sign(self, path: tuple[Vector, ...]) -> str:
        """An arrow for a way of its own."""
        if len(path) > 1:
            return BENT
        found = [sign for (_, way), sign in zip(self._ways(), ARROWS) if np.allclose(way, path[0], atol=1e-6)]
        return found[0] if found else BENT

    def _ways(self) -> list[tuple[str, Vector]]:
        """Up, down, and the four ways the building itself runs."""
        angle = np.radians(self._session.lookups.directions()[0])
        c, s = round(float(np.cos(angle)), 12), round(float(np.sin(angle)), 12)
        return [
            ("up", (0.0, 0.0, 1.0)),
            ("down", (0.0, 0.0, -1.0)),
            ("to the front", (s, -c, 0.0)),
            ("to the back", (-s, c, 0.0)),
            ("to the right", (c, s, 0.0)),
            ("to the left", (-c, -s, 0.0)),
        ]

    def _offer(self) -> None:
        """What one more group could be."""
        building = self._session.building
        picked = self._session.picked.elements
        key = (id(building), picked)
        if building is None or key == self._offered:
            return
        self._offered = key
        self.add.clear()
        self.add.addItem("Add a group…", None)
        for storey in reversed(building.storeys):
            self.add.addItem(storey.name, Selection(storeys=frozenset({storey.id})))
        kinds = [(plain_type(t), Selection(types=frozenset({t}))) for t in building.type_counts]
        layers = [(name, Selection(layers=frozenset({name}))) for name in sorted({e.layer for e in building.elements if e.layer})]
        made_of = sorted({e.material for e in building.elements if e.material})
        materials = [(name, Selection(materials=frozenset({name}))) for name in made_of]
        paths = sorted({path for e in building.elements for path in e.groups}, key=str.lower)
        groups = [(path, Selection(groups=frozenset({path}))) for path in paths]
        for entries in (kinds, layers, materials, groups):
            if entries:
                self.add.insertSeparator(self.add.count())
            for words, what in entries[:100]:
                self.add.addItem(words, what)
