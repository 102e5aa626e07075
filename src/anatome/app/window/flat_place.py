"""Where the flat drawing of the picked cut stands: nowhere, in the place of the key elevation, or beside the stage."""

from __future__ import annotations

from typing import Literal

from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QSplitter, QStackedWidget

from anatome.app.key_drawings.flat_panel import FlatPanel
from anatome.app.key_drawings.kinds import KeyElevationPanel
from anatome.app.window.places import STAGE

Place = Literal["away", "small", "beside"]


class FlatPlace:
    """``small`` is a place for it and the key elevation, of which one is seen; it is found again where it was left."""

    def __init__(self, middle: QSplitter, elevation: KeyElevationPanel, flat: FlatPanel, settings: QSettings) -> None:
        self._middle, self._elevation, self._flat, self._settings = middle, elevation, flat, settings
        self.small = QStackedWidget()
        self.small.addWidget(elevation)
        self.small.addWidget(flat)
        self.place: Place = "away"
        self._kept_back = False
        elevation.cut_wanted.connect(lambda: self.stand("small"))
        flat.side_wanted.connect(self._show_side)
        flat.grow_wanted.connect(self.toggle_beside)

    def begin(self) -> None:
        """Stand where it stood when the window was last closed."""
        kept = self._settings.value("flat drawing", "away")
        if kept in ("small", "beside"):
            self.stand(kept)

    def stand(self, place: Place) -> None:
        """Have it there."""
        if place == self.place:
            return
        before, self.place = self.place, place
        self._settings.setValue("flat drawing", place)
        if place == "beside":
            left, stage, right = self._middle.sizes()
            self._middle.insertWidget(STAGE + 1, self._flat)
            self._middle.setSizes([left, stage - stage // 2, stage // 2, right])
            self._middle.setStretchFactor(STAGE + 1, 1)
        elif before == "beside":
            left, stage, own, right = self._middle.sizes()
            self.small.addWidget(self._flat)
            self._middle.setSizes([left, stage + own, right])
        self.small.setCurrentWidget(self._flat if place == "small" else self._elevation)
        self._flat.show_beside(place == "beside")
        self._flat.setVisible(place == "small" or (place == "beside" and not self._kept_back))
        self._flat.flat.fit()

    def toggle_beside(self) -> None:
        """Beside the stage, or back to the key drawings."""
        self.stand("small" if self.place == "beside" else "beside")

    def _show_side(self, side: str) -> None:
        self._elevation.show_side(side)
        self.stand("away")

    def keep_back(self, back: bool) -> None:
        """Let nothing stand beside the stage for now."""
        self._kept_back = back
        if self.place == "beside":
            self._flat.setVisible(not back)
