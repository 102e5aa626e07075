"""Which units the window speaks: those of the project that is open, if it says any, or else those one always has."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from anatome.app.base.units import UNITS
from anatome.app.document.preferences import feet, inch_papers, set_feet, set_inch_papers
from anatome.app.document.session import Session
from anatome.scenes import edits
from anatome.scenes.project import Units


class SpokenUnits(QObject):
    """``changed``: all numbers are to be said anew."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._speak()

    def _speak(self) -> bool:
        """Speak them; whether they are others than before."""
        own = self._session.project.units if self._session.is_open else ""
        before = UNITS.feet, UNITS.inch_papers
        UNITS.inch_papers = own == "imperial" if own else inch_papers()
        UNITS.feet = own == "imperial" if own else feet()
        return before != (UNITS.feet, UNITS.inch_papers)

    def follow(self) -> None:
        """The project, or what one always has, may say others now."""
        if self._speak():
            self.changed.emit()

    def set_inch_papers(self, on: bool) -> None:
        """Offer papers and scales in inches and feet, or by ISO, in projects that say nothing else."""
        set_inch_papers(on)
        self.follow()

    def set_feet(self, on: bool) -> None:
        """Speak feet and inches, or metric, in projects that say nothing else."""
        set_feet(on)
        self._speak()
        self.changed.emit()

    def set_of_project(self, said: Units) -> None:
        """Have the project that is open speak metric or feet and inches, whoever opens it, or what one always has."""
        s = self._session
        if s.is_open and s.project.units != said:
            words = {"": "Units as always", "metric": "Metric in this project", "imperial": "Feet and inches in this project"}
            s.apply(edits.set_units(s.project, said), words[said])
