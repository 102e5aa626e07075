"""All hatches, drawn on the very cut, to choose one of."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QObject, QPoint, QSize, Qt, Signal
from PySide6.QtWidgets import QFrame, QGridLayout, QScrollArea, QVBoxLayout, QWidget

from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import label
from anatome.app.panels.inspector.small_pictures import PictureButton, SmallPictures, stand_at
from anatome.app.stage.place_hatch import largest_cut
from anatome.app.stage.stage import Stage
from anatome.look.hatch_lines import roomiest
from anatome.look.hatches import Hatch
from anatome.look.look import Rule
from anatome.model.selection import Selection
from anatome.scenes.scene_view import View
from anatome.view.viewport import Frame

PICTURE = QSize(120, 84)
COLUMNS, MOST_HIGH = 6, 620
NONE = "no hatch"


class HatchPictures(SmallPictures):
    """Of the part of the stage where an element is cut, as large as there, with each hatch in turn."""

    def __init__(self, session: Session, stage: Stage, parent: QObject) -> None:
        super().__init__(session, stage, PICTURE, parent)
        self.who = Selection()
        self.element = 0
        self.hatches: dict[str, Hatch] = {}

    def key(self, name: str) -> object:
        s = self._session
        return s.drawn_look(), s.stage.camera, id(s.on_stage()), self.who, self.element, self.hatches.get(name)

    def view(self, name: str) -> View:
        s = self._session
        look, hatch = s.drawn_look(), self.hatches.get(name)
        rule = Rule(who=self.who, hatch="" if hatch is None else hatch.name)
        own = look.hatches if hatch is None or hatch.name in look.known_hatches else (*look.hatches, hatch)
        look = look.model_copy(update={"rules": (*look.rules, rule), "hatches": own, "shade": False, "shadows": 0.0})
        frame = self._frame()
        _, low, _, high = frame.crop
        return View(s.stage.camera, s.on_stage(), look, frame, paper=s.paper_height() * (high - low))

    def _frame(self) -> Frame:
        """Round the middle of the largest area that is cut of the element."""
        viewport = self._stage.viewport
        middle = np.array([viewport.width / 2, viewport.height / 2])
        found = largest_cut(self._session.on_stage().parts, viewport, self.element)
        if found is not None:
            polygon, face, seen = found
            middle = seen.pixels(face.plane.raised(roomiest(polygon)))
        half = np.array([PICTURE.width(), PICTURE.height()]) / 2
        left, top = (middle - half) / [viewport.width, viewport.height]
        right, bottom = (middle + half) / [viewport.width, viewport.height]
        return Frame(width=PICTURE.width(), height=PICTURE.height(), crop=(left, 1 - bottom, right, 1 - top))


class HatchSheet(QFrame):
    """``chosen``: one was clicked; nothing for none."""

    chosen = Signal(str)

    def __init__(self, session: Session, stage: Stage, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setObjectName("sheet")
        self.pictures = HatchPictures(session, stage, self)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 8, 12)
        column.addWidget(label("Hatches, on the cut as it is", "section"))
        self._area = QScrollArea()
        self._area.setFrameShape(QFrame.Shape.NoFrame)
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column.addWidget(self._area)
        self.buttons: dict[str, PictureButton] = {}

    def open_at(self, at: QPoint, who: Selection, element: int, hatches: dict[str, Hatch], chosen: str) -> None:
        """Show them for some parts, of which one element is drawn."""
        self.pictures.who, self.pictures.element, self.pictures.hatches = who, element, hatches
        grid_of = QWidget()
        grid = QGridLayout(grid_of)
        grid.setContentsMargins(0, 0, 10, 0)
        grid.setSpacing(8)
        self.buttons = {}
        for number, name in enumerate((NONE, *hatches)):
            button = PictureButton(name, self.pictures, PICTURE)
            words = "No hatch" if name == NONE else hatches[name].words or name
            button.show_name(name, words, words, words)
            button.setCheckable(True)
            button.setChecked(name == (chosen or NONE))
            button.clicked.connect(lambda _=False, name=name: self._choose(name))
            grid.addWidget(button, number // COLUMNS, number % COLUMNS)
            self.buttons[name] = button
        self._area.setWidget(grid_of)
        self._area.setFixedSize(grid_of.sizeHint().width() + 12, min(grid_of.sizeHint().height() + 4, MOST_HIGH))
        stand_at(self, at)

    def _choose(self, name: str) -> None:
        self.close()
        self.chosen.emit("" if name == NONE else name)
