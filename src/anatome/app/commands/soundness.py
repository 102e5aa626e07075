"""Which parts of the model are no sound solids: found off the window's thread, shown, and picked."""

from __future__ import annotations

from functools import partial
from typing import Literal

from PySide6.QtCore import QObject, Signal

from anatome.app.base.entry import Entry, group
from anatome.app.base.trouble import TROUBLE
from anatome.app.base.work import Progress, Work
from anatome.app.commands.host import Host
from anatome.app.commands.open_page import OpenPage
from anatome.model.soundness import Soundness, soundness_of
from anatome.scenes import edits


class SoundnessCommands(QObject):
    """``changed``: the page is wanted or no longer, or something was found."""

    changed = Signal()

    def __init__(self, host: Host, page: OpenPage) -> None:
        super().__init__()
        self._session, self._page = host.session, page
        self._work = Work(self, lambda: self._session.model if self._session.is_open else None)
        self.found: Soundness | None = None
        """What was found of the model itself, without what stands round it; nothing while it is looked for."""
        for signal in (self._session.opened, self._session.closed):
            signal.connect(self._forget)
        page.changed.connect(self.changed)

    @property
    def is_open(self) -> bool:
        """Whether its page is wanted."""
        return self._page.name == "soundness"

    def entries(self) -> list[Entry]:
        return group(
            "Model",
            "parts",
            Entry(
                "soundness",
                "Check for sound solids",
                "Parts that are open, turned inside out or doubled, why, and where",
                self.toggle,
                ticked=lambda: self.is_open,
            ),
            Entry(
                "fill_outline",
                "Fill its outline",
                "Where the picked part is cut, its outline is closed however wide it is open, in all scenes",
                partial(self.set_outlines, "filled"),
                needs="elements",
                stage_menu=True,
                ticked=lambda: self._are("filled"),
            ),
            Entry(
                "leave_outline",
                "Leave its outline open",
                "Where the picked part is cut, an outline that does not close stays a line, in all scenes",
                partial(self.set_outlines, "open"),
                needs="elements",
                stage_menu=True,
                ticked=lambda: self._are("open"),
            ),
        )

    def _are(self, how: str) -> bool:
        """Whether all picked parts are so."""
        rules, ids = self._session.stage.poche, self._session.picked.elements
        return bool(ids) and ids <= (rules.filled if how == "filled" else rules.left_open)

    def set_outlines(self, how: Literal["filled", "open"]) -> None:
        """Close the outlines of the picked parts where they are cut, or leave them open; once more: as they are."""
        session = self._session
        ids = session.picked.elements
        back = self._are(how)
        count = f"{len(ids):,} parts" if len(ids) > 1 else "The part"
        are = "are" if len(ids) > 1 else "is"
        said = {"filled": f"{count} {are} filled where cut", "open": f"{count} {are} left open where cut"}
        project = edits.set_outlines(session.project, ids, "as they are" if back else how)
        session.apply(project, f"{count} {are} cut as modelled" if back else said[how])

    def _forget(self) -> None:
        self._work.cancel()
        self.found = None
        self.changed.emit()

    def toggle(self) -> None:
        """Show what is no sound solid, or put it away."""
        self._page.toggle("soundness")
        if self.is_open and self.found is None:
            self._look()

    def _look(self) -> None:
        model = self._session.model

        def work(progress: Progress) -> Soundness:
            return soundness_of(model)

        def done(found: Soundness) -> None:
            self.found = found
            self.changed.emit()
            self._session.picked_changed.emit()

        self._work.run(work, done, TROUBLE.report)
