"""The framing numbers: how the picture is projected, and what it is composed with."""

from __future__ import annotations

from collections.abc import Callable
from itertools import groupby
from typing import Any

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QFormLayout, QHBoxLayout, QWidget

from anatome.app.base import units
from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.numbers import NumberField
from anatome.app.document.session import RUN, Session
from anatome.app.panels.inspector.page import Choices, bare_column
from anatome.app.stage.stage import Stage
from anatome.view.camera import Camera
from anatome.view.framing import field_of, is_level, lens_of, with_distance, with_eye_height, with_field
from anatome.view.projections import ParallelProjection, projection_of

PERSPECTIVE = (
    ("distance", "m", 0.5, "Distance", "From the eye to what is looked at. What lies there, a cut most often, keeps its size"),
    ("field", "°", 1.0, "Angle and lens", "From the lower to the upper edge of the picture; the distance follows"),
    ("lens", "mm", 1.0, "Angle and lens", "The same angle as a focal length on film 36 mm wide"),
    ("eye", "m", 0.05, "Eye height", "A level eye goes up and down while what is looked at stays where it is in the picture"),
    ("up", "%", 0.01, "Lens shift", "Up, in shares of the height of the picture; upright lines stay upright"),
    ("across", "%", 0.01, "Lens shift", "To the right, in shares of the height of the picture"),
)
PARALLEL = (
    ("first", "°", 5.0, "Edges along X at", "Over the horizontal of the drawing"),
    ("second", "°", 5.0, "Edges along Y at", "Over the horizontal of the drawing"),
    ("ratio", "", 0.05, "Their length", "Of what recedes, to its true length: 1 whole, 0.5 half"),
)
WORDS = {
    "axonometric": ("Edges along X at", "Edges along Y at", ""),
    "plan oblique": ("Plan turned by", "", "Upright lines"),
    "elevation oblique": ("Receding lines at", "", "Their length"),
}


class FramingBox(QWidget):
    """Shows and changes the camera on the stage; looking around is not a step to undo. ``named``: what the drawing is called."""

    named = Signal(str)

    def __init__(self, session: Session, stage: Stage, actions: Actions) -> None:
        super().__init__()
        self._session, self._stage, self._actions = session, stage, actions
        column = bare_column(self)
        kinds = (("perspective", "Perspective", "As the eye sees it"), ("parallel", "Parallel", "Parallels stay parallel"))
        self.projection = Choices(kinds, self._project)
        column.addWidget(self.projection)
        self._form = QFormLayout()
        self._form.setVerticalSpacing(2)
        self.fields: dict[str, NumberField] = {}
        self._rows: dict[str, QWidget] = {}
        for words, group in groupby((*PERSPECTIVE, *PARALLEL), key=lambda row: row[3]):
            side_by_side = QHBoxLayout()
            side_by_side.setContentsMargins(0, 0, 0, 0)
            side_by_side.setSpacing(3)
            row = QWidget()
            row.setLayout(side_by_side)
            for name, unit, step, _, tip in list(group):
                field = self.fields[name] = NumberField(unit, step)
                field.setToolTip(tip)
                for signal in (field.entered, field.nudged):
                    signal.connect(lambda value, name=name: self._set(name, value))
                side_by_side.addWidget(field)
                self._rows[name] = row
            self._form.addRow(words, row)
        column.addLayout(self._form)
        self.below = QCheckBox("From below (worm’s-eye)")
        self.below.setToolTip("See the same corner from under the building")
        self.below.clicked.connect(actions["below"].trigger)
        column.addWidget(self.below)
        self.straighten = panel_button(actions["straighten"])
        column.addWidget(self.straighten)

    # Doing -----------------------------------------------------------------------------------------------------

    def _project(self, kind: Any) -> None:
        if kind != self._session.stage.camera.projection:
            self._actions["projection"].trigger()

    def _set(self, name: str, value: float) -> None:
        now, aspect = self._session.stage.camera, self._stage.aspect
        change: dict[str, Callable[[], Camera]] = {
            "distance": lambda: with_distance(now, value),
            "field": lambda: with_field(now, value),
            "lens": lambda: with_field(now, field_of(value, aspect)),
            "eye": lambda: with_eye_height(now, value),
            "up": lambda: _shifted(now, now.shift[0], value),
            "across": lambda: _shifted(now, value, now.shift[1]),
        }
        if name in change:
            self._session.look_from(change[name](), "Framed the picture", RUN)
        else:
            self._set_parallel(name, value)
        self.refresh()

    def _set_parallel(self, name: str, value: float) -> None:
        found = projection_of(self._session.stage.camera)
        if found is None:
            return
        first, second = found.angles
        wanted: dict[str, Any]
        if name == "ratio":
            wanted = {"ratio": min(max(value, 0.1), 1.5)}
        elif found.kind == "axonometric":
            # The two angles of an axonometric stay together below 90°: the one that is typed counts.
            value = min(max(value, 1.0), 88.0)
            other = min(second if name == "first" else first, 89.0 - value)
            wanted = {"angles": (value, other) if name == "first" else (other, value)}
        else:
            value = min(max(value, 0.0), 89.0)
            wanted = {"angles": (value, 90.0 - value if found.kind == "plan oblique" else 0.0)}
        self._session.look_from(found.model_copy(update=wanted).seen_by(self._session.stage.camera), "Another projection", RUN)

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the camera as it is now."""
        session = self._session
        camera = session.stage.camera
        self.projection.show_choice(camera.projection)
        words = session.stage.drawn
        found = projection_of(camera)
        if found is not None and found.kind == "axonometric":
            words += ": a metre along X, Y and Z is drawn {:.2f}, {:.2f} and {:.2f}".format(*found.foreshortening)
        self.named.emit(words[:1].upper() + words[1:])
        if camera.is_perspective:
            self._show_perspective(camera)
        else:
            self._show_parallel(found)
        self.below.setVisible(found is not None)
        self.below.setChecked(found is not None and found.below)
        self.straighten.setVisible(camera.is_perspective and not is_level(camera))

    def _show_perspective(self, camera: Camera) -> None:
        values = {
            "distance": camera.distance,
            "field": camera.field,
            "lens": lens_of(camera.field, self._stage.aspect),
            "eye": camera.eye[2],
            "up": camera.shift[1],
            "across": camera.shift[0],
        }
        for name, field in self.fields.items():
            self._form.setRowVisible(self._rows[name], name in values)
            if name in values:
                field.show_value(values[name])
        building = self._session.building
        floors = [s for s in building.storeys if s.elevation <= camera.eye[2]] if building else []
        if floors:
            floor = max(floors, key=lambda s: s.elevation)
            over = f"{units.length(camera.eye[2] - floor.elevation, 2)} over {floor.name}"
            self.fields["eye"].setToolTip(f"{PERSPECTIVE[3][4]}. Now {over}")

    def _show_parallel(self, found: ParallelProjection | None) -> None:
        words = WORDS[found.kind] if found else ("", "", "")
        values = (found.angles[0], found.angles[1], found.ratio) if found else (0.0, 0.0, 1.0)
        for name, _, _, _, _ in PERSPECTIVE:
            self._form.setRowVisible(self._rows[name], False)
        for (name, _, _, _, _), text, value in zip(PARALLEL, words, values):
            field, row = self.fields[name], self._rows[name]
            self._form.setRowVisible(row, bool(text))
            self._form.labelForField(row).setText(text)  # type: ignore[attr-defined]
            field.show_value(value)


def _shifted(camera: Camera, across: float, up: float) -> Camera:
    across, up = (float(np.clip(value, -1.0, 1.0)) for value in (across, up))
    return camera.model_copy(update={"shift": (across, up)})
