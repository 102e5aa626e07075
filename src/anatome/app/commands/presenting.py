"""Showing scenes to others, and how the stage goes from one to the next."""

from __future__ import annotations

from anatome.app.base.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.app.document.preferences import USUAL_TRANSITION, set_transition_seconds, transition_seconds


class PresentingCommands:
    """Of all scenes, or of those that are picked."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session

    def entries(self) -> list[Entry]:
        return group(
            "Showing",
            "send",
            Entry(
                "present",
                "Present the scenes",
                "Full screen, one after the other: a drag moves the cut, the right button draws. Of several picked, only those",
                self.present,
                "F11",
                "eye",
                needs="scenes",
            ),
            Entry(
                "transitions",
                "Transitions between scenes",
                "Camera, cuts and looks are under way from one to the next; any press or key stops them",
                self.switch_transitions,
                "Shift+F11",
                ticked=lambda: transition_seconds() > 0,
            ),
        )

    def present(self) -> None:
        """Show the picked scenes if they are several, or all of them."""
        picked = self._session.picked.scenes
        self._host.present(picked if len(picked) > 1 else ())

    def switch_transitions(self) -> None:
        """Be under way from scene to scene, or be there at once."""
        on = not transition_seconds()
        set_transition_seconds(USUAL_TRANSITION if on else 0.0)
        self._session.said.emit("The stage is under way from scene to scene" if on else "Scenes are there at once")
        self._session.picked_changed.emit()
