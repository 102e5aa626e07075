"""The flat drawing of the picked cut under its heading: which cut, at which scale; small in the place of the key elevation, or
large beside the stage."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QToolButton

from anatome.app.base import theme
from anatome.app.base.papers import ScaleBox
from anatome.app.document.session import Session
from anatome.app.key_drawings.flat_drawing import FlatDrawing
from anatome.app.key_drawings.kinds import PICKED_CUT, SIDES, KeyPanel
from anatome.lengths import scale_in
from anatome.problems import Problem

SCALE_WIDTH = 78


class FlatPanel(KeyPanel):
    """``side_wanted``: the key elevation of a side is to be in its place again."""

    side_wanted = Signal(str)

    def __init__(self, session: Session, flat: FlatDrawing, save: QAction) -> None:
        self.scale = ScaleBox("Fit")
        super().__init__("Section", flat, "The picked cut, or the elevation of a side in its place", "Ctrl+F7")
        self._session, self.flat = session, flat
        theme.wear(self.grow, "square-split-horizontal")
        self.choice.addItems([*SIDES, PICKED_CUT])
        self.choice.activated.connect(self._choose)
        self.scale.setProperty("role", "slim")
        self.scale.setFixedWidth(SCALE_WIDTH)
        self.scale.setToolTip("The scale on the screen. Choose or type one to hold it; Fit shows the whole cut")
        self.scale.activated.connect(lambda row: self._hold(self.scale.itemData(row)))
        editor = self.scale.lineEdit()
        assert editor is not None
        editor.returnPressed.connect(self._type)
        self.head.insertWidget(2, self.scale)
        self.save = QToolButton()
        self.save.setDefaultAction(save)
        self.save.setProperty("role", "quiet")
        self.head.insertWidget(3, self.save)
        flat.renamed.connect(self._rename)
        flat.scaled.connect(self._show_scale)
        self.show_beside(False)

    def show_beside(self, beside: bool) -> None:
        """Say where it stands."""
        self.set_bare(beside)
        self.choice.setVisible(not beside)
        self.choice.setCurrentText(PICKED_CUT)
        self.save.setVisible(beside)
        where = "The section goes back to the key drawings" if beside else "The section beside the stage, half and half"
        self.grow.setToolTip(f"{where} (Ctrl+F7)")

    def show_grown(self, grown: bool) -> None:
        self._rename_to("Section")

    def _rename(self) -> None:
        cut = self.flat.cut
        self._rename_to("Section" if cut is None else cut.name)

    def _rename_to(self, name: str) -> None:
        self.words.setText(name)
        self.words.setToolTip(f"{name} as a flat, square drawing. It follows the cut; pick, measure and write in it")

    def _choose(self, row: int) -> None:
        if row < len(SIDES):
            self.side_wanted.emit(SIDES[row])

    def _type(self) -> None:
        text = self.scale.currentText()
        try:
            self._hold(None if text.strip().lower() == "fit" else scale_in(text))
        except Problem as problem:
            self._session.said.emit(str(problem))
            self._show_scale()

    def _hold(self, scale: float | None) -> None:
        self.flat.hold(scale)
        self.flat.setFocus()

    def _show_scale(self) -> None:
        self.scale.show_scale(float(f"{self.flat.scale:.3g}"))
