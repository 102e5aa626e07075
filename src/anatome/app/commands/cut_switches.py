"""Switches for everyday: all cuts, only this one, all frames, all fills."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial

from anatome.app.base.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.app.document.preferences import new_cut_alone, set_new_cut_alone
from anatome.scenes import edits


class CutSwitches:
    """Works on all cuts of the stage at once."""

    def __init__(self, host: Host) -> None:
        self._session = host.session

    def entries(self) -> list[Entry]:
        return group(
            "All cuts",
            "cut",
            Entry(
                "cuts_all",
                "All cuts off, or on again",
                "The whole building for a moment; once more: the cuts that were on",
                self.all,
                "Ctrl+Alt+A",
                needs="cuts",
            ),
            Entry(
                "cut_alone",
                "Only the picked cut on, or the others again",
                "Switch off all cuts but the picked one; once more: those that were on",
                self.alone,
                "Ctrl+Alt+I",
                needs="cut",
            ),
            Entry(
                "new_cut_alone",
                "A new cut switches the others off",
                "Whenever a cut is placed, it cuts alone. Off: the others stay on, and switching them off is offered",
                self.new_alone,
                "Ctrl+Shift+U",
                needs="nothing",
                ticked=new_cut_alone,
            ),
            self._entry("frames", "graphic", "Show the frames of all cuts, or none", "G"),
            self._entry("fills", "poche", "Fill what all cuts cut, or what none does", "F"),
            within="Switches",
        )

    def _entry(self, word: str, key: str, tip: str, letter: str) -> Entry:
        """Return a switch all cuts have, ticked when it is on at every one of them."""
        run, ticked = partial(self.show, key, word.capitalize()), partial(self._all, key)
        shortcut = f"Ctrl+Alt+Shift+{letter}"
        return Entry(f"cuts_{word}", f"All {word}", tip, run, shortcut, needs="cuts", ticked=ticked)

    def _all(self, key: str) -> bool:
        cuts = self._session.stage.cuts
        return bool(cuts) and all(getattr(cut, key) for cut in cuts)

    def _switch(self, on: Iterable[str], said: str) -> None:
        self._session.apply(edits.switch_cuts(self._session.project, on), said)

    def all(self) -> None:
        """Switch all off, or those on again that were."""
        cuts = self._session.stage.cuts
        now = frozenset(cut.id for cut in cuts if cut.on)
        if now:
            self._session.on_before = now
            self._switch((), f"{len(now)} cut{'s' * (len(now) != 1)} off: the whole building")
        else:
            again = (self._session.on_before & {cut.id for cut in cuts}) or frozenset(cut.id for cut in cuts)
            self._switch(again, f"{len(again)} cut{'s' * (len(again) != 1)} on again")

    def alone(self) -> None:
        """Have the picked one on alone, or the others again."""
        cut, cuts = self._session.cut, self._session.stage.cuts
        if cut is None:
            return
        now, there = frozenset(c.id for c in cuts if c.on), {c.id for c in cuts}
        before = self._session.on_before & there
        if now == {cut.id} and before - now:
            self._switch(before | now, f"{len(before | now)} cuts on again")
            return
        self._session.on_before = now
        self._switch({cut.id}, f"Only {cut.name} cuts")

    def new_alone(self) -> None:
        """Let a new cut switch the others off from now on, or leave them on."""
        on = not new_cut_alone()
        set_new_cut_alone(on)
        self._session.said.emit(f"A new cut {'switches the others off' if on else 'leaves the others on'}")
        self._session.picked_changed.emit()

    def show(self, key: str, word: str) -> None:
        """Have a switch of all cuts on, or off."""
        on = not self._all(key)
        project = self._session.project
        for cut in self._session.stage.cuts:
            project = edits.change_cut(project, cut.id, **{key: on})
        self._session.apply(project, f"{word} of all cuts {'on' if on else 'off'}")
