"""Papers and scales as lists offer them: by ISO, or in inches and feet. Either may be typed at any time."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox

from anatome.app.base.units import UNITS
from anatome.lengths import INCH_SCALES, scale_words
from anatome.scenes.sheet_edits import SCALES as LAYOUT_SCALES
from anatome.view.crop import INCH_PAPERS, PAPERS, SCALES


def papers() -> dict[str, tuple[float, float]]:
    """Return the papers that are offered, by name, mm across and up, lying."""
    return INCH_PAPERS if UNITS.inch_papers else PAPERS


def usual_paper() -> tuple[float, float]:
    """Return the paper of a new sheet, mm: a size that an office prints itself (common practice)."""
    return papers()["ANSI B" if UNITS.inch_papers else "A3"]


def scales() -> dict[str, float]:
    """Return the scales that are offered, as the 50 of 1:50, by how they are written."""
    return INCH_SCALES if UNITS.inch_papers else {scale_words(scale): scale for scale in SCALES}


def layout_scales() -> tuple[float, ...]:
    """Return the scales that scenes are laid out at, the largest first."""
    return tuple(sorted(INCH_SCALES.values())) if UNITS.inch_papers else LAYOUT_SCALES


class ScaleBox(QComboBox):
    """A scale is chosen or typed; ``none`` is what stands for none, the first in the list."""

    def __init__(self, none: str = "") -> None:
        super().__init__(editable=True)
        self.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self._none, self._of = none, False
        self._fill()

    def _fill(self) -> None:
        """List the scales of the kind that is set."""
        text = self.currentText()
        self._of = UNITS.inch_papers
        self.clear()
        if self._none:
            self.addItem(self._none, None)
        for words, scale in scales().items():
            self.addItem(words, scale)
        if text:
            self.setCurrentText(text)

    def showPopup(self) -> None:
        """Offer what is set now."""
        if self._of != UNITS.inch_papers:
            self._fill()
        super().showPopup()

    def show_scale(self, scale: float | None) -> None:
        """Show a scale, or that there is none."""
        if self._of != UNITS.inch_papers:
            self._fill()
        listed = self.findData(scale)
        self.setCurrentText(self.itemText(listed) if listed >= 0 else self._none if scale is None else scale_words(scale))
