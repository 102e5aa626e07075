"""What stands round the building: ground, neighbours, people and trees."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QCheckBox, QFormLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anatome.app.base import units
from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.numbers import NumberField
from anatome.app.commands.rough_bodies import RoughBodyCommands
from anatome.app.commands.site import SiteCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.figure_buttons import FigureButtons
from anatome.app.panels.inspector.page import Fold, RowButton, away_button, bare_column, clear, label
from anatome.app.stage.figures import PlaceFigure
from anatome.app.stage.stage_input import StageInput
from anatome.model.place import Place
from anatome.scenes import site_edits
from anatome.site.site import GROUND_ID, RoughBody
from anatome.site.sunlight import place_of

Row = tuple[str, str, str, float, tuple[float, float]]
"""Field, words, unit, step, limits."""
GROUND: tuple[Row, ...] = (
    ("level", "Its level", "m", 0.05, (-1e6, 1e6)),
    ("depth", "Its thickness", "m", 0.5, (0.05, 200.0)),
    ("beyond", "It reaches beyond", "m", 1.0, (0.0, 10_000.0)),
)
PLACED: tuple[Row, ...] = (
    ("east", "Moved along X", "m", 0.5, (-1e6, 1e6)),
    ("north", "Moved along Y", "m", 0.5, (-1e6, 1e6)),
    ("turned", "Turned by", "°", 1.0, (-360.0, 360.0)),
)
RELIEF: tuple[Row, ...] = (
    ("east", "Moved along X", "m", 0.5, (-1e8, 1e8)),
    ("north", "Moved along Y", "m", 0.5, (-1e8, 1e8)),
    ("up", "Raised by", "m", 0.1, (-1e5, 1e5)),
)
PLACE: tuple[Row, ...] = (
    ("latitude", "North of the equator", "°", 1.0, (-90.0, 90.0)),
    ("longitude", "East of Greenwich", "°", 1.0, (-180.0, 180.0)),
    ("north", "North, clockwise of Y", "°", 1.0, (-360.0, 360.0)),
    ("zone", "Hours ahead of UTC", "", 1.0, (-14.0, 14.0)),
)
"""Where the sun is reckoned for."""
NOWHERE = Place(latitude=0.0, longitude=0.0)


MOST_LISTED = 30
"""Rough bodies that have a row."""


class SiteBox(QWidget):
    """Shows and changes the site of the project. Every change is a step to undo."""

    def __init__(
        self, session: Session, actions: Actions, commands: SiteCommands, rough: RoughBodyCommands, stage_input: StageInput
    ) -> None:
        super().__init__()
        self._session, self._commands, self._rough, self._stage_input = session, commands, rough, stage_input
        column = bare_column(self)
        self.ground = QCheckBox("Ground with a body")
        self.ground.setToolTip(actions["ground_body"].toolTip())
        self.ground.clicked.connect(actions["ground_body"].trigger)
        column.addWidget(self.ground)
        self.fields: dict[str, NumberField] = {}
        self._ground_form = self._form(GROUND, self._set_ground)
        column.addWidget(self._ground_form)
        self.relief = panel_button(actions["relief"])
        column.addWidget(self.relief)
        self.relief_read = label("", "soft")
        column.addWidget(self.relief_read)
        self._relief_form = self._form(RELIEF, self._move_relief, "relief ")
        column.addWidget(self._relief_form)
        self.level_again = QPushButton("Level again")
        self.level_again.setProperty("role", "quiet")
        self.level_again.setToolTip("Ground with a body, without the relief")
        self.level_again.clicked.connect(commands.level_again)
        column.addWidget(self.level_again)
        self.own_ground = label("The model has ground of its own. Hide it where this one is to be seen.", "soft")
        column.addWidget(self.own_ground)
        self.neighbours = panel_button(actions["neighbours"])
        column.addWidget(self.neighbours)
        self.read = label("", "soft")
        column.addWidget(self.read)
        self._neighbour_form = self._form(PLACED, self._place)
        column.addWidget(self._neighbour_form)
        self.without = QPushButton("Without neighbours")
        self.without.setProperty("role", "quiet")
        self.without.clicked.connect(commands.no_neighbours)
        column.addWidget(self.without)
        self.bodies = QVBoxLayout()
        self.bodies.setSpacing(0)
        column.addLayout(self.bodies)
        self._listed: object = self
        self.place = Fold("Where it stands", "The place on earth that the sun is reckoned for, by day and hour")
        self.place.column.addWidget(self._form(PLACE, self._set_place, "place "))
        self.place_note = label("", "soft")
        self.place.column.addWidget(self.place_note)
        column.addWidget(self.place)
        column.addSpacing(4)
        column.addWidget(label("People and trees: choose one, then click a floor", "soft"))
        self.figures = FigureButtons(self._begin)
        column.addWidget(self.figures)
        stage_input.task_changed.connect(lambda _: self._show_task())

    def _form(self, rows: tuple[Row, ...], run: Callable[[str, str, float], None], kind: str = "") -> QWidget:
        """Fields by their keys, with the ``kind`` before them where others have the same."""
        holder = QWidget()
        form = QFormLayout(holder)
        form.setContentsMargins(0, 0, 0, 0)
        form.setVerticalSpacing(4)
        for key, words, unit, step, limits in rows:
            made = NumberField(unit, step)

            def changed(value: float, key: str = key, words: str = words, limits: tuple[float, float] = limits) -> None:
                run(key, words, min(max(value, limits[0]), limits[1]))

            made.entered.connect(changed)
            made.nudged.connect(changed)
            form.addRow(words, made)
            self.fields[f"{kind}{key}"] = made
        return holder

    # Doing -----------------------------------------------------------------------------------------------------

    def _set_ground(self, key: str, words: str, value: float) -> None:
        session, ground = self._session, self._session.project.site.ground
        if ground is not None:
            changed = ground.model_copy(update={key: value})
            said = f"Ground: {words.lower()} {units.length(value, 2)}"
            session.apply(site_edits.set_ground(session.project, changed), said, merge=f"ground {key}")

    def _move_relief(self, key: str, words: str, value: float) -> None:
        self._commands.change_relief(f"Relief: {words.lower()} {units.length(value, 2, signed=True)}", **{key: value})

    def _place(self, key: str, words: str, value: float) -> None:
        said = f"{value:.1f}°" if key == "turned" else units.length(value, 2)
        self._commands.change_neighbours(f"Neighbours: {words.lower()} {said}", **{key: value})

    def _set_place(self, key: str, words: str, value: float) -> None:
        session = self._session
        assert session.building is not None
        place = place_of(session.project.site, session.building) or NOWHERE
        said = f"{words}: {value:g}{'' if key == 'zone' else '°'}"
        changed = place.model_copy(update={key: value})
        session.apply(site_edits.set_place(session.project, changed), said, merge=f"place {key}")

    def _list_bodies(self) -> None:
        """Slabs, footings and pits: a click changes one, a cross deletes it."""
        bodies = self._session.project.site.bodies
        if bodies is self._listed:
            return
        self._listed = bodies
        clear(self.bodies)
        for body in bodies[:MOST_LISTED]:
            change = RowButton(self._rough.summary(body), "Its name, material, levels and place")
            change.clicked.connect(partial(self._change_body, body))
            away = away_button("Delete it")
            away.clicked.connect(partial(self._take_body, body))
            row = QHBoxLayout()
            row.setSpacing(2)
            row.addWidget(change, 1)
            row.addWidget(away)
            self.bodies.addLayout(row)
        if len(bodies) > MOST_LISTED:
            self.bodies.addWidget(label(f"and {len(bodies) - MOST_LISTED:,} more", "soft"))

    def _change_body(self, body: RoughBody, *_: object) -> None:
        self._rough.mark(body)
        self._rough.ask_change(body)

    def _take_body(self, body: RoughBody, *_: object) -> None:
        self._rough.take(body)

    def _begin(self, kind: str) -> None:
        self._commands.place(kind)
        self._show_task()

    # Showing ---------------------------------------------------------------------------------------------------

    def _show_task(self) -> None:
        task = self._stage_input.task
        self.figures.show_kind(task.kind if isinstance(task, PlaceFigure) else None)

    def refresh(self) -> None:
        """Show the site as it is now."""
        session = self._session
        site, building = session.project.site, session.building
        assert building is not None
        ground, neighbours = site.ground, site.neighbours
        self._list_bodies()
        self.ground.setChecked(ground is not None)
        self._ground_form.setVisible(ground is not None)
        own = int(building.earth.sum()) - (GROUND_ID in building.index_of)
        self.own_ground.setVisible(ground is not None and own > 0)
        if ground is not None:
            for key, *_ in GROUND:
                self.fields[key].show_value(getattr(ground, key))
        relief = ground.relief if ground is not None else None
        for widget in (self.relief_read, self._relief_form, self.level_again):
            widget.setVisible(relief is not None)
        rows = self._ground_form.layout()
        assert isinstance(rows, QFormLayout)
        rows.setRowVisible(self.fields["level"], relief is None)
        if relief is not None:
            size = f"{relief.columns} × {len(relief.heights) // relief.columns}"
            self.relief_read.setText(f"{relief.name}: {size} heights, {units.length(relief.step, 2)} apart")
            for key, *_ in RELIEF:
                self.fields[f"relief {key}"].show_value(getattr(relief, key))
        count = len(neighbours.blocks)
        for widget in (self.read, self._neighbour_form, self.without):
            widget.setVisible(count > 0)
        self.read.setText(f"{count:,} from {neighbours.name}" if count else "")
        for key, *_ in PLACED:
            self.fields[key].show_value(getattr(neighbours, key))
        place = place_of(site, building)
        words = "As said here" if site.place else "As the model's file says" if place else "Not known yet"
        self.place_note.setText(words)
        for key, *_ in PLACE:
            here = place or NOWHERE
            self.fields[f"place {key}"].show_value(here.hours_ahead if key == "zone" else getattr(here, key))
        self._show_task()
