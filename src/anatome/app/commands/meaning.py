"""Meaning given to parts whose file has none: by hand, by rule, by guesses that are offered."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QFileDialog

from anatome.app.base import units
from anatome.app.base.ask import Ask
from anatome.app.base.entry import Entry, group
from anatome.app.base.rule_words import choices_of
from anatome.app.base.trouble import TROUBLE
from anatome.app.base.work import Progress, Work
from anatome.app.commands.host import Host
from anatome.app.commands.open_page import OpenPage
from anatome.model.meaning import GivenSpace, Meaning, PartFilter
from anatome.problems import Problem
from anatome.scenes import meaning_edits
from anatome.scenes.guesses import Guess, guesses_for, with_guesses
from anatome.scenes.meaning_edits import SUFFIX
from anatome.scenes.whole import meant
from anatome.words import plain_type, unlike

KIND = f"Meaning (*{SUFFIX} *.json)"


class MeaningCommands(QObject):
    """``changed``: the page of meaning is wanted or no longer, or there are other guesses."""

    changed = Signal()

    def __init__(self, host: Host, page: OpenPage) -> None:
        super().__init__()
        self._host, self._session, self._page = host, host.session, page
        self._work = Work(self, lambda: self._session.building)
        self.guesses: tuple[Guess, ...] | None = None
        """What is offered; nothing before it was asked for."""
        for signal in (self._session.opened, self._session.closed):
            signal.connect(self._forget)
        page.changed.connect(self.changed)

    @property
    def is_open(self) -> bool:
        """Whether its page is wanted."""
        return self._page.name == "meaning"

    def entries(self) -> list[Entry]:
        return group(
            "Meaning",
            "parts",
            Entry(
                "meaning",
                "What parts are",
                "Type, material, layer and storey of parts whose file does not say: by hand, by rule, or guessed",
                self.toggle,
                "Ctrl+Alt+Shift+N",
                ticked=lambda: self.is_open,
            ),
            Entry(
                "save_meaning",
                "Save the meaning to a file…",
                "What was given to the parts of this model, for the same model in another project",
                self.choose_save,
            ),
            Entry(
                "group_parts",
                "Group the picked parts…",
                "Under a name of their own, whatever else they are: for what cuts affect, looks, and what is exploded",
                self.ask_group,
                "Ctrl+Alt+Shift+S",
                needs="elements",
            ),
            Entry("load_meaning", "Meaning from a file…", "Give the parts what a file says", self.choose_load),
            within="What parts are",
        )

    def _forget(self) -> None:
        self._work.cancel()
        self.guesses = None
        self.changed.emit()

    @property
    def is_guessing(self) -> bool:
        """Whether guesses are being made."""
        return self._work.busy

    def toggle(self) -> None:
        """Show the page, or put it away."""
        self._page.toggle("meaning")

    # Giving ----------------------------------------------------------------------------------------------------

    def give(self, who: PartFilter, gives: Meaning, said: str) -> None:
        """Give parts a meaning, as a step."""
        if gives.is_empty:
            self._session.said.emit("Choose a type, a storey, a material or a layer first")
            return
        self._session.apply(meaning_edits.give(self._session.project, who, gives), said)

    def ask_group(self) -> None:
        """Ask for the name of a group, and for which parts it is."""
        session = self._session
        if session.building is None:
            return
        choices = [(words, PartFilter(what=what)) for words, what in choices_of(session.building, session.picked.elements)]
        names = [g.name for g in session.project.meanings.groups]
        note = f"A name that is there takes them in too: {', '.join(names[:6])}." if names else "It is part of the project."
        ask = Ask(self._host.widget, "Group parts", note, "Group", self._group)
        ask.words("Name", unlike("Group", names), "What the group is called")
        ask.choice("Parts", choices).open()

    def _group(self, ask: Ask) -> None:
        who, name = ask.chosen("Parts"), ask.text("Name")
        assert isinstance(who, PartFilter) and self._session.building is not None
        project = meaning_edits.put_group(self._session.project, name, who)
        count = int(who.mask(self._session.building).sum())
        self._session.apply(project, f"Group “{name}”: {count} part{'s' * (count != 1)}")

    def ask_rename_group(self, name: str) -> None:
        """Ask what a group is to be called."""
        session = self._session

        def do(ask: Ask) -> None:
            new = ask.text("Name")
            session.apply(meaning_edits.rename_group(session.project, name, new), f"“{name}” is called “{new}” now")

        note = "Cuts, looks and all else that mean it follow."
        Ask(self._host.widget, "Rename the group", note, "Rename", do).words("Name", name).open()

    def take_group(self, name: str) -> None:
        """Delete a group; its parts stay."""
        self._session.apply(meaning_edits.take_group(self._session.project, name), f"Deleted the group “{name}”")

    def pick_group(self, name: str) -> None:
        """Pick what is in a group."""
        building = self._session.building
        if building is not None:
            self._session.pick(elements=frozenset(e.id for e in building.elements if name in e.also))

    def switch(self, rule: str, on: bool) -> None:
        """Let a rule hold, or not."""
        session = self._session
        session.apply(meaning_edits.switch_rule(session.project, rule, on), "A rule holds" if on else "A rule holds no longer")

    def take(self, rule: str) -> None:
        """Delete a rule."""
        self._session.apply(meaning_edits.take_rule(self._session.project, rule), "Deleted a rule")

    def ask_room(self, room: GivenSpace) -> None:
        """Ask what a room that was guessed is called, and what it is used for."""
        session = self._session

        def do(ask: Ask) -> None:
            name = ask.text("Name") or room.name
            project = meaning_edits.change_room(session.project, room.id, name=name, use=ask.text("Use"))
            session.apply(project, f"{room.name} is called {name}")

        note = "Its name is that on plans; rooms of one use have one colour where a look has colours by use."
        Ask(self._host.widget, room.name, note, "Call it so", do).words("Name", room.name).words("Use", room.use).open()

    def take_room(self, room: GivenSpace) -> None:
        """Without a room that was guessed."""
        self._session.apply(meaning_edits.take_rooms(self._session.project, [room.id]), f"Took away {room.name}")

    # Guessing --------------------------------------------------------------------------------------------------

    def guess(self) -> None:
        """Guess, off the window's thread, what parts are and where storeys lie; what comes of it is offered."""
        session = self._session
        if session.building is None:
            return
        model = meant(session.model, session.project)  # what stands round it is no guess

        def work(progress: Progress) -> tuple[Guess, ...]:
            return guesses_for(model)

        def done(found: tuple[Guess, ...]) -> None:
            self.guesses = found
            self.changed.emit()
            self._session.picked_changed.emit()
            if not found:
                self._session.said.emit("There is nothing to guess: types, storeys and rooms are known")

        self._work.run(work, done, TROUBLE.report)
        self.changed.emit()

    def take_over(self, chosen: Sequence[Guess]) -> None:
        """Give parts what was guessed of them, in one step."""
        project = with_guesses(self._session.project, chosen)
        self.guesses = None
        storeys, count = sum(g.elevation is not None for g in chosen), sum(len(g.parts) for g in chosen)
        rooms = sum(len(g.rooms) for g in chosen)
        told = (count, "parts have a type"), (storeys, "storeys"), (rooms, "rooms")
        said = [f"{number} {words}" for number, words in told if number]
        self._session.apply(project, ", ".join(said) or "Nothing taken over")
        self.changed.emit()

    # Files -----------------------------------------------------------------------------------------------------

    def choose_save(self) -> None:
        """Ask where the meaning is to be saved."""
        name = f"{self._session.project.name}{SUFFIX}"
        path, _ = QFileDialog.getSaveFileName(self._host.widget, "Save the meaning", name, KIND)
        if path:
            self.save(Path(path))

    def save(self, path: Path) -> None:
        """Write what was given to parts."""
        if not path.name.endswith(".json"):
            path = path.with_name(path.name + SUFFIX)
        try:
            meaning_edits.write_meanings(self._session.project.meanings, path)
        except Problem as problem:
            self._host.tell(str(problem))
            return
        self._session.said.emit(f"Saved the meaning to {path}")

    def choose_load(self) -> None:
        """Ask for a file of meaning."""
        path, _ = QFileDialog.getOpenFileName(self._host.widget, "Meaning from a file", "", KIND)
        if path:
            self.load(Path(path))

    def load(self, path: Path) -> None:
        """Give parts what a file says, in place of what they were given."""
        try:
            found = meaning_edits.read_meanings(path)
        except Problem as problem:
            self._host.tell(str(problem))
            return
        session = self._session
        session.apply(meaning_edits.set_meanings(session.project, found), f"{len(found.rules)} rules from {path.name}")


def guess_words(guess: Guess) -> str:
    """Return a guess in words."""
    if guess.rooms:
        area = sum(room.floor for room in guess.rooms)
        return f"{len(guess.rooms)} room{'s' * (len(guess.rooms) != 1)}, {units.area(area)} in all"
    if guess.elevation is not None:
        return f"{guess.name}, at {units.length(guess.elevation, 2, signed=True)}"
    return f"{plain_type(guess.type)}  ·  {len(guess.parts)}"
