"""Hiding parts of the building and bringing them back."""

from __future__ import annotations

from anatome.app.commands.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.scenes import edits


class PartCommands:
    """Works on what is picked."""

    def __init__(self, host: Host) -> None:
        self._session = host.session

    def entries(self) -> list[Entry]:
        return group(
            "Parts",
            "cut",
            Entry(
                "set_aside",
                "Set aside",
                "Hide the picked parts",
                self.set_aside,
                "Ctrl+H",
                "eye-slash",
                "elements",
                stage_menu=True,
            ),
            Entry(
                "isolate",
                "Only these",
                "Hide everything but the picked parts",
                self.isolate,
                "Ctrl+I",
                "selection-all",
                "elements",
                stage_menu=True,
            ),
            Entry(
                "bring_back",
                "Bring all back",
                "Show everything again",
                self.bring_back,
                "Ctrl+Shift+H",
                "eye",
                "hidden",
                stage_menu=True,
            ),
        )

    def set_aside(self) -> None:
        s = self._session
        picked = s.picked_elements
        s.apply(edits.hide(s.project, picked), f"Set aside {len(picked)} part{'s' * (len(picked) != 1)}")
        s.pick_elements(frozenset())

    def isolate(self) -> None:
        s = self._session
        if s.building is not None:
            everything = (e.id for e in s.building.elements)
            s.apply(edits.isolate(s.project, s.picked_elements, everything), "Showing only what is picked")

    def bring_back(self) -> None:
        self._session.apply(edits.show_all(self._session.project), "Brought everything back")
