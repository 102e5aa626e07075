"""The inspector: it speaks about one thing at a time, the picked cut, the picked parts, or else the whole."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QFormLayout,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from anatome.app.actions import Actions, panel_button
from anatome.app.numbers import NumberField
from anatome.app.panels.parts import plain_type
from anatome.app.session import Session
from anatome.app.stage.stage import Stage
from anatome.cuts.section_plane import SectionPlane
from anatome.look.look import subject_bounds
from anatome.scenes import edits
from anatome.view.camera import CORNERS, FACES, standard_view

COMPASS = ("east", "north-east", "north", "north-west", "west", "south-west", "south", "south-east")


def direction_words(cut: SectionPlane) -> str:
    """Where a cut looks, in words; +Y counts as north."""
    nz = cut.plane.normal[2]
    if cut.plane.is_level:
        return "Looks down" if nz > 0 else "Looks up"
    side = COMPASS[round(cut.plane.heading / 45.0) % 8]
    tilt = "" if abs(nz) < 1e-3 else (", tilted down" if nz > 0 else ", tilted up")
    return f"Looks {side}{tilt}"


def _label(text: str = "", role: str = "") -> QLabel:
    label = QLabel(text)
    label.setWordWrap(True)
    if role:
        label.setProperty("role", role)
    return label


def _section(layout: QVBoxLayout, text: str) -> None:
    layout.addSpacing(8)
    layout.addWidget(_label(text, "section"))


def _switches(
    layout: QVBoxLayout,
    entries: Sequence[tuple[str, str, str]],
    run: Callable[[str, str, bool], None],
    columns: int,
) -> dict[str, QCheckBox]:
    """Check boxes of (key, words, tooltip) by their key; ``run`` is told key, words and whether it is on."""
    made = {}
    grid = QGridLayout()
    grid.setVerticalSpacing(2)
    for i, (key, text, tip) in enumerate(entries):
        box = QCheckBox(text)
        box.setToolTip(tip)
        box.clicked.connect(lambda on, key=key, text=text: run(key, text, on))
        made[key] = box
        grid.addWidget(box, i // columns, i % columns)
    layout.addLayout(grid)
    return made


class Page(QWidget):
    """A column of the inspector."""

    def __init__(self) -> None:
        super().__init__()
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(16, 12, 16, 12)
        self.column.setSpacing(6)


class Inspector(QScrollArea):
    """Chooses the page for what is picked."""

    def __init__(self, session: Session, stage: Stage, actions: Actions) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._session = session
        self.overview = Overview(session, stage, actions)
        self.cut = CutPage(session, actions)
        self.elements = ElementsPage(session, actions)
        self._pages = QStackedWidget()
        self._sized = False
        for page in (self.overview, self.cut, self.elements):
            self._pages.addWidget(page)
        self.setWidget(self._pages)
        for signal in (session.opened, session.changed, session.picked_changed):
            signal.connect(self.refresh)
        session.camera_moved.connect(self.overview.refresh_camera)

    def refresh(self) -> None:
        """Show the picked thing as it is now."""
        session = self._session
        if not session.is_open:
            return
        page: Overview | CutPage | ElementsPage = self.overview
        if session.cut is not None:
            page = self.cut
        elif session.picked_elements:
            page = self.elements
        if page is not self._pages.currentWidget() or not self._sized:
            # Only the page that shows decides how tall the inspector is.
            for other in (self.overview, self.cut, self.elements):
                kind = QSizePolicy.Policy.Preferred if other is page else QSizePolicy.Policy.Ignored
                other.setSizePolicy(QSizePolicy.Policy.Preferred, kind)
            self._pages.setCurrentWidget(page)
            self._pages.adjustSize()
            self._sized = True
        page.refresh()


class Overview(Page):
    """Nothing is picked: how the picture is framed, how it looks, which cuts there are, and what the model holds."""

    def __init__(self, session: Session, stage: Stage, actions: Actions) -> None:
        super().__init__()
        self._session, self._stage = session, stage
        self.column.addWidget(_label("The picture", "title"))
        _section(self.column, "Projection")
        row = QHBoxLayout()
        row.setSpacing(4)
        self.perspective, self.parallel = QPushButton("Perspective"), QPushButton("Parallel")
        group = QButtonGroup(self)
        for button, kind in ((self.perspective, "perspective"), (self.parallel, "parallel")):
            button.setCheckable(True)
            button.setProperty("role", "choice")
            button.clicked.connect(lambda _=False, kind=kind: self._project(kind))
            group.addButton(button)
            row.addWidget(button)
        self.column.addLayout(row)
        form = QFormLayout()
        self.field = NumberField("°", 1.0)
        self.field.setToolTip("Angle of view from the lower to the upper edge of the picture")
        self.field.entered.connect(self._set_field)
        self.field.nudged.connect(self._set_field)
        form.addRow("Angle of view", self.field)
        self.column.addLayout(form)

        _section(self.column, "Look from")
        grid = QGridLayout()
        grid.setSpacing(4)
        for i, name in enumerate(FACES):
            grid.addWidget(self._view_button(name, name), i // 3, i % 3)
        self.column.addLayout(grid)
        corners = QGridLayout()
        corners.setSpacing(4)
        for i, name in enumerate(CORNERS):
            corners.addWidget(self._view_button(name, name.removeprefix("Axonometric, ").capitalize()), i // 2, i % 2)
        self.column.addWidget(_label("Axonometric, from the", "soft"))
        self.column.addLayout(corners)

        _section(self.column, "Cuts")
        self.cuts = QVBoxLayout()
        self.cuts.setSpacing(2)
        self.column.addLayout(self.cuts)
        self.column.addWidget(panel_button(actions["place"]))

        _section(self.column, "Look")
        self.switches = _switches(
            self.column,
            (
                ("edges", "Edges", "Lines at creases, borders and silhouettes"),
                ("colours", "Model colours", "Off: everything beyond the cut is white"),
                ("shade", "Soft shade", "Darker where parts stand close to one another"),
                ("ground", "Soft ground", "The darkness a building leaves on the ground under it"),
            ),
            self._switch,
            columns=2,
        )

        _section(self.column, "The model")
        self.model = _label("", "soft")
        self.column.addWidget(self.model)
        self.failed = _label("", "warning")
        self.column.addWidget(self.failed)
        self.column.addStretch()

    def _view_button(self, name: str, text: str) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("role", "choice")
        button.setToolTip(f"{name}, in parallel projection, fitted to what is shown")
        button.clicked.connect(lambda: self.look_from(name))
        return button

    def look_from(self, name: str) -> None:
        """Take a standard view."""
        building = self._session.building
        if building is not None:
            bounds = subject_bounds(building, self._session.shown())
            camera = standard_view(name, bounds, self._stage.aspect, self._session.stage.camera.field)
            self._session.look_from(camera)
            self._session.said.emit(name)

    def _project(self, kind: Any) -> None:
        self._session.look_from(edits.set_projection(self._session.project, kind).stage.camera)

    def _set_field(self, value: float) -> None:
        camera = self._session.stage.camera
        value = min(max(value, 5.0), 120.0)
        # The eye moves so that what lies at the target keeps its size.
        distance = camera.height / 2 / np.tan(np.radians(value) / 2)
        back = camera.axes[2]
        moved = camera.model_copy(update={"field": value}).placed(
            np.array(camera.target) + back * distance, np.array(camera.target), camera.up
        )
        self._session.look_from(moved)

    def _switch(self, key: str, text: str, on: bool) -> None:
        look = self._session.stage.look.model_copy(update={key: on})
        self._session.apply(edits.set_look(self._session.project, look), f"{text} {'on' if on else 'off'}")

    def refresh_camera(self) -> None:
        camera = self._session.stage.camera
        self.perspective.setChecked(camera.projection == "perspective")
        self.parallel.setChecked(camera.projection == "parallel")
        self.field.show_value(camera.field)

    def refresh(self) -> None:
        session = self._session
        self.refresh_camera()
        for key, box in self.switches.items():
            box.setChecked(getattr(session.stage.look, key))
        _clear(self.cuts)
        for cut in session.stage.cuts:
            state = "" if cut.on else ", off"
            button = QPushButton(f"{cut.name}  ·  {cut.plane.position:.2f} m{state}")
            button.setProperty("role", "quiet")
            button.setToolTip("Pick this cut")
            button.clicked.connect(lambda _=False, cut_id=cut.id: session.pick_cut(cut_id))
            self.cuts.addWidget(button)
        if not session.stage.cuts:
            self.cuts.addWidget(_label("None yet. Press Cut, then click a face of the building.", "soft"))
        building = session.building
        assert building is not None
        size = building.bounds[1] - building.bounds[0]
        self.model.setText(
            f"{len(building.elements):,} parts, {len(building.triangles):,} triangles\n"
            f"{size[0]:.1f} × {size[1]:.1f} × {size[2]:.1f} m, drawn in {building.unit.name}s"
        )
        failed = len(building.failed)
        self.failed.setVisible(failed > 0)
        self.failed.setText(f"{failed} part{'s' * (failed != 1)} could not be drawn (rest here to see which).")
        self.failed.setToolTip("\n".join(f"{f.name or f.id} ({plain_type(f.type)}): {f.reason}" for f in building.failed[:20]))


class CutPage(Page):
    """The picked section plane."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        row = QHBoxLayout()
        self.mark = QLineEdit(maxLength=4)
        self.mark.setFixedWidth(40)
        self.mark.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.mark.setToolTip("Mark letter, as it stands on the drawing")
        self.name = QLineEdit()
        self.name.setToolTip("Name of the cut")
        row.addWidget(self.mark)
        row.addWidget(self.name)
        self.column.addLayout(row)
        self.words = _label("", "soft")
        self.column.addWidget(self.words)
        self.mark.editingFinished.connect(lambda: self._rename("mark", self.mark.text()))
        self.name.editingFinished.connect(lambda: self._rename("name", self.name.text()))

        form = QFormLayout()
        form.setContentsMargins(0, 8, 0, 0)
        self.position = NumberField("m", 0.05)
        self.position.setToolTip("Where the cut stands along its axis, from the model's origin. The wheel nudges it")
        self.heading = NumberField("°", 1.0)
        self.heading.setToolTip("Where the cut looks, anticlockwise from +X. Type degrees to turn it about the vertical")
        self.position.entered.connect(self._move)
        self.heading.entered.connect(self._turn)
        # A run of the wheel is one step to undo.
        self.position.nudged.connect(partial(self._move, merge="nudge"))
        self.heading.nudged.connect(partial(self._turn, merge="nudge"))
        form.addRow("Position", self.position)
        form.addRow("Direction", self.heading)
        self._form = form
        self.column.addLayout(form)
        buttons = QGridLayout()
        buttons.setSpacing(4)
        for i, name in enumerate(("square_on", "turn_round")):
            buttons.addWidget(panel_button(actions[name]), 0, i)
        self.column.addLayout(buttons)

        _section(self.column, "Shows")
        self.switches = _switches(
            self.column,
            (
                ("on", "Cut", "Off: nothing is cut away"),
                ("poche", "Poché", "Fill what is cut. Off: cut faces keep the model's own colours"),
                ("graphic", "Plane", "The frame of the plane while working; never in a scene or a picture"),
            ),
            self._switch,
            columns=1,
        )

        _section(self.column, "What is cut")
        self.areas = QGridLayout()
        self.areas.setHorizontalSpacing(8)
        self.areas.setVerticalSpacing(2)
        self.areas.setColumnStretch(0, 1)
        self.column.addLayout(self.areas)
        self.open_outlines = _label("", "warning")
        self.column.addWidget(self.open_outlines)
        self.column.addSpacing(10)
        self.column.addWidget(panel_button(actions["send_drawing"], "Send out as a drawing"))
        self.column.addWidget(panel_button(actions["delete_cut"]))
        self.column.addStretch()

    def _change(self, label: str, merge: str | None = None, **changes: Any) -> None:
        cut = self._session.cut
        if cut is not None:
            self._session.apply(edits.change_cut(self._session.project, cut.id, **changes), label, merge=merge)

    def _rename(self, key: str, text: str) -> None:
        cut = self._session.cut
        if cut is not None and text.strip() and text.strip() != getattr(cut, key):
            self._change(f"Named {text.strip()}", **{key: text.strip()})

    def _switch(self, key: str, text: str, on: bool) -> None:
        cut = self._session.cut
        if cut is not None:
            changes: dict[str, Any] = {key: on}
            self._change(f"{cut.name}: {text.lower()} {'on' if on else 'off'}", **changes)

    def _move(self, value: float, merge: str | None = None) -> None:
        cut = self._session.cut
        if cut is not None:
            self._change(f"Moved {cut.name}", merge, plane=cut.plane.at_position(value))

    def _turn(self, value: float, merge: str | None = None) -> None:
        cut, building = self._session.cut, self._session.building
        if cut is not None and building is not None:
            middle = subject_bounds(building, self._session.shown()).mean(axis=0)
            self._change(f"Turned {cut.name}", merge, plane=cut.plane.turned_about(middle, value - cut.plane.heading))

    def refresh(self) -> None:
        session = self._session
        cut, building = session.cut, session.building
        if cut is None or building is None:
            return
        for line, text in ((self.name, cut.name), (self.mark, cut.mark)):
            if not line.hasFocus():
                line.setText(text)
        self.position.show_value(cut.plane.position)
        self.heading.show_value(cut.plane.heading)
        self._form.setRowVisible(self.heading, not cut.plane.is_level)
        for key, box in self.switches.items():
            box.setChecked(getattr(cut, key))
        _clear(self.areas)
        face = next((f for f in session.faces() if f.cut.id == cut.id), None)
        if face is None:
            self.words.setText(f"{direction_words(cut)}. It is off: nothing is cut away.")
            self.open_outlines.hide()
            return
        found = face.section
        total = float(found.areas.sum())
        count = len(np.unique(found.element))
        self.words.setText(f"{direction_words(cut)}, cuts {count} part{'s' * (count != 1)}.")
        by_type: dict[str, float] = {}
        for element, area in zip(found.element, found.areas):
            name = plain_type(building.elements[element].type)
            by_type[name] = by_type.get(name, 0.0) + float(area)
        rows = sorted(by_type.items(), key=lambda item: -item[1])
        for row, (name, area) in enumerate([*rows[:8], ("Together", total)]):
            role = "section" if name == "Together" else "soft"
            number = _label(f"{area:.2f} m²", role)
            number.setAlignment(Qt.AlignmentFlag.AlignRight)
            self.areas.addWidget(_label(name, role), row, 0)
            self.areas.addWidget(number, row, 1)
        lines = len(found.open_outlines)
        self.open_outlines.setVisible(lines > 0)
        self.open_outlines.setText(f"{lines} outline{'s' * (lines != 1)} did not close; drawn as lines, not filled.")


class ElementsPage(Page):
    """The picked parts."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        self.title = _label("", "title")
        self.facts = _label("", "soft")
        self.facts.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.column.addWidget(self.title)
        self.column.addWidget(self.facts)
        self.column.addSpacing(8)
        for name in ("set_aside", "isolate", "bring_back"):
            self.column.addWidget(panel_button(actions[name]))
        self.column.addStretch()

    def refresh(self) -> None:
        building = self._session.building
        picked = self._session.picked_elements
        if building is None or not picked:
            return
        if len(picked) > 1:
            self.title.setText(f"{len(picked)} parts")
            kinds: dict[str, int] = {}
            for element_id in picked:
                kind = plain_type(building.elements[building.index_of[element_id]].type)
                kinds[kind] = kinds.get(kind, 0) + 1
            self.facts.setText("\n".join(f"{n} {k.lower()}" for k, n in sorted(kinds.items(), key=lambda i: -i[1])[:10]))
            return
        index = building.index_of[next(iter(picked))]
        element = building.elements[index]
        low, high = building.element_bounds[index]
        x, y, z = high - low
        storey = "" if element.storey is None else building.storeys[element.storey].name
        self.title.setText(element.name or plain_type(element.type))
        rows = [
            ("Type", plain_type(element.type)),
            ("Material", element.material),
            ("Layer", element.layer),
            ("Storey", storey),
            ("Size", f"{x:.2f} × {y:.2f} × {z:.2f} m"),
            ("Id", element.id),
        ]
        self.facts.setText("\n".join(f"{name}: {value}" for name, value in rows if value))


def _clear(layout: QLayout) -> None:
    discard: Callable[[QWidget], None] = QWidget.deleteLater
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.hide()
            discard(widget)
