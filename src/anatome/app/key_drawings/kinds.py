"""Key plan and key elevation, each with its heading and the choice of what it is of."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QToolButton, QVBoxLayout, QWidget

from anatome.app.base import theme, units
from anatome.app.document.session import Session
from anatome.app.key_drawings.key_drawing import KeyDrawing
from anatome.app.stage.stage import Stage
from anatome.cuts.kinds.key_mark import DrawingPlane
from anatome.cuts.plan_level import plan_level
from anatome.cuts.plane import Plane
from anatome.view.camera import FACES

SIDES = ("Front", "Right", "Back", "Left")


class KeyPlan(KeyDrawing):
    """A plan cut through a storey, a little over its floor. ``storey_shown``: it is of another storey."""

    storey_shown = Signal()

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__(session, stage)
        self.setToolTip("Drag a cut or the camera here. Ends turn a cut, sides pull a box; the cone's far end turns the camera")

    @property
    def level(self) -> float:
        """Height of the plan's own cut, metres."""
        building = self._session.building
        assert building is not None
        return plan_level(building, self._session.plan_storey)

    @property
    def sheet(self) -> DrawingPlane:
        return DrawingPlane.plan(self.level)

    def background_cut(self) -> Plane:
        return Plane((0.0, 0.0, self.level), (0.0, 0.0, 1.0))

    def _choice(self) -> object:
        return self._session.plan_storey

    def show_storey(self, index: int | None) -> None:
        """Draw the plan of another storey."""
        self._session.plan_storey = index
        self.draw_anew()
        self.storey_shown.emit()


class KeyElevation(KeyDrawing):
    """The building from one side, uncut."""

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__(session, stage)
        self.side = SIDES[0]
        self.setToolTip("Drag a cut or the camera here; level cuts and the top and bottom of boxes are lines in this drawing")

    @property
    def sheet(self) -> DrawingPlane:
        towards = np.array(FACES[self.side][0], float)
        return DrawingPlane.elevation(towards, float(self._bounds().mean(axis=0) @ towards))

    def _choice(self) -> object:
        return self.side

    def show_side(self, side: str) -> None:
        """Draw the building from another side."""
        self.side = side
        self.fit()


class KeyPanel(QWidget):
    """A key drawing under its title and a choice. ``grow_wanted``: it is to change places with the stage."""

    grow_wanted = Signal()

    def __init__(self, title: str, drawing: KeyDrawing, tip: str, key: str) -> None:
        super().__init__()
        self.drawing = drawing
        self._title = title
        self.words = QLabel(title)
        self.words.setProperty("role", "section")
        self.grow = QToolButton()
        theme.wear(self.grow, "arrows-out-simple")
        self.grow.setProperty("role", "quiet")
        self.grow.clicked.connect(self.grow_wanted)
        self._key = key
        self.choice = QComboBox()
        self.choice.setProperty("role", "slim")
        self.choice.setToolTip(tip)
        self.head = QHBoxLayout()
        self.head.addWidget(self.words)
        self.head.addStretch()
        self.head.addWidget(self.choice)
        self.head.addWidget(self.grow)
        self._column = QVBoxLayout(self)
        self._column.setSpacing(3)
        self.set_bare(False)
        self._column.addLayout(self.head)
        self._column.addWidget(drawing, 1)
        self.show_grown(False)

    def set_bare(self, bare: bool) -> None:
        """Have the drawing go to the edges, or keep the margins of a panel."""
        self._column.setContentsMargins(*((0, 5, 0, 0) if bare else (16, 5, 8, 4)))
        self.head.setContentsMargins(*((16, 0, 8, 0) if bare else (0, 0, 0, 0)))

    def take(self, content: QWidget) -> None:
        """Have this under the heading: its own drawing, or the stage while that one stands in the stage's place."""
        self._column.addWidget(content, 1)

    def show_grown(self, grown: bool) -> None:
        """Say what stands where."""
        name = self._title.lower()
        self.words.setText("Stage" if grown else self._title)
        self.words.setToolTip(
            "The large live picture" if grown else "A small live drawing that shows and edits every cut and the camera"
        )
        tip = f"The {name} goes back" if grown else f"The {name} and the stage change places, to draw in it at full size"
        self.grow.setToolTip(f"{tip} ({self._key})")


class KeyPlanPanel(KeyPanel):
    """Lists the storeys of the open building, highest first."""

    def __init__(self, session: Session, key_plan: KeyPlan) -> None:
        super().__init__("Key plan", key_plan, "The storey the key plan is cut through, 1.2 m above its floor", "F6")
        self._session = session
        self.choice.activated.connect(lambda i: key_plan.show_storey(self.choice.itemData(i)))
        for signal in (session.opened, session.rebuilt):
            signal.connect(self.fill)
        key_plan.storey_shown.connect(self._show_storey)

    def _show_storey(self) -> None:
        self.choice.setCurrentIndex(max(self.choice.findData(self._session.plan_storey), 0))

    def fill(self) -> None:
        """Take the storeys of the building that is open."""
        building = self._session.building
        assert building is not None
        self.choice.clear()
        for i in reversed(range(len(building.storeys))):
            storey = building.storeys[i]
            self.choice.addItem(f"{storey.name}  {units.bare_length(storey.elevation, 2, signed=True)}", i)
        self.choice.setVisible(bool(building.storeys))
        self._show_storey()


PICKED_CUT = "Cut"


class KeyElevationPanel(KeyPanel):
    """Offers the four sides. ``cut_wanted``: the picked cut is to be drawn in its place."""

    cut_wanted = Signal()

    def __init__(self, key_elevation: KeyElevation) -> None:
        tip = "The side the elevation shows, or the picked cut in its place, flat and square"
        super().__init__("Key elevation", key_elevation, tip, "F7")
        self._elevation = key_elevation
        self.choice.addItems([*SIDES, PICKED_CUT])
        self.choice.activated.connect(self._choose)

    def _choose(self, row: int) -> None:
        if row < len(SIDES):
            self._elevation.show_side(SIDES[row])
        else:
            self.show_side(self._elevation.side)
            self.cut_wanted.emit()

    def show_side(self, side: str) -> None:
        """Have the elevation of a side."""
        self.choice.setCurrentText(side)
        if side != self._elevation.side:
            self._elevation.show_side(side)
