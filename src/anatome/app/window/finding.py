"""What can be found by its name: commands, settings, scenes, sheets, looks and parts; and how well it answers what is typed."""

from __future__ import annotations

import re
import unicodedata
import weakref
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property, partial
from itertools import islice

from PySide6.QtGui import QIcon

from anatome.app.base.actions import Actions, key_words
from anatome.app.commands.all import MENUS, Commands
from anatome.app.document.desk import Desk
from anatome.app.document.session import Session
from anatome.app.panels.inspector import Inspector
from anatome.app.panels.inspector.settings import Setting
from anatome.app.window.synonyms import COMMANDS, SETTINGS
from anatome.look.look import Look
from anatome.look.shipped import shipped_looks
from anatome.model.building import Building
from anatome.model.grouping import labels
from anatome.scenes import edits
from anatome.words import plain_type, unnumbered

WORD = re.compile(r"[\w:½°%-]+")
LONG = 4
"""Letters from which a word is looked for inside of words too: fewer are in too many by chance."""
KINDS = ("Command", "Setting", "Scene", "Sheet", "Look", "Parts")
"""What is found, in the order of what answers equally well."""
GROUPS = (
    ("type", "All of this type"),
    ("material", "All of this material"),
    ("layer", "All on this layer"),
    ("group", "All in this group"),
    ("space", "All in this room"),
)


class _Words:
    """A text in small letters without accents, and the words of it: “poche” finds “Poché”."""

    def __init__(self, text: str) -> None:
        parts = unicodedata.normalize("NFKD", text.lower())
        self.text = "".join(c for c in parts if not unicodedata.combining(c))
        self.whole = frozenset(WORD.findall(self.text))
        self._parts = WORD.findall(self.text.replace("-", " "))

    def begin(self, letters: str) -> bool:
        """Whether one of them begins so."""
        return any(part.startswith(letters) for part in self._parts)


@dataclass(frozen=True, eq=False)
class Findable:
    """Something with a name, of a kind; ``also`` are other words for it, ``where`` says where it stands, ``go`` goes there."""

    kind: str
    name: str
    where: str
    tip: str
    go: Callable[[], object]
    also: str = ""
    icon: QIcon | None = None
    possible: bool = True

    @cached_property
    def words(self) -> tuple[_Words, _Words, _Words]:
        """Those of its name, others for it, and what is said of it."""
        return _Words(self.name), _Words(self.also), _Words(f"{self.where} {self.tip}")


def best(typed: str, things: Iterable[Findable], most: int) -> list[Findable]:
    """Return what answers best; without a word what there is first.

    Every word typed has to begin a word of its name or of other words for it, or of what is said of it; or, if it is long
    enough, be part of one of its name.
    """
    wanted = _Words(typed).text.split()
    if not wanted:
        return list(islice(things, most))
    scored = [(score, number, thing) for number, thing in enumerate(things) if (score := _score(wanted, thing)) is not None]
    return [thing for _, _, thing in sorted(scored, key=lambda found: found[:2])[:most]]


def _score(wanted: list[str], thing: Findable) -> float | None:
    """How well something answers what is typed, the less the better; None if it does not."""
    name, also, said = thing.words
    score, named = 0.0, 0
    for word in wanted:
        named += word in name.text
        if word in name.whole:
            score += 0.0 if name.text.startswith(word) else 0.5
        elif name.text.startswith(word):
            score += 0.6
        elif name.begin(word):
            score += 1.0
        elif word in also.whole:
            score += 1.2
        elif also.begin(word):
            score += 2.0
        elif len(word) >= LONG and word in name.text:
            score += 2.5
        elif said.begin(word):
            score += 4.0
        else:
            return None
    whole = " ".join(wanted)
    if len(wanted) > 1 and (whole in name.text or whole in also.text):
        score -= 0.8
    if also.text.startswith(whole):
        score -= 0.7
    return score + KINDS.index(thing.kind) / 10 + (len(name.text) / 1000 if named else 0.0)


class Findables:
    """All that can be found in a window now."""

    def __init__(
        self,
        session: Session,
        desk: Desk,
        actions: Actions,
        commands: Commands,
        inspector: Inspector,
        show_panels: Callable[[], None],
    ) -> None:
        self._session, self._desk, self._actions, self._commands = session, desk, actions, commands
        self._inspector, self._show_panels = inspector, show_panels
        self._of: weakref.ref[Building] | None = None
        self._parts: list[tuple[str, str, frozenset[str]]] = []

    def pieces(self) -> Iterator[list[Findable]]:
        """Yield all that can be found in pieces, commands first, so that the window has its time in between."""
        yield list(self._of_commands())
        if self._session.is_open:
            while self._inspector.make_next():
                yield []
            for things in (self._settings, self._scenes, self._sheets, self._looks, self._groups):
                yield list(things())

    def _of_commands(self) -> Iterator[Findable]:
        for entry in self._actions.entries():
            action = self._actions[entry.name]
            menu = MENUS[entry.menu][0] if entry.menu in MENUS else entry.group
            where = key_words(action) or " › ".join(w for w in (menu, *entry.within.split("/")) if w)
            also, icon = f"{COMMANDS.get(entry.name, '')} {entry.within} {entry.group}", action.icon()
            text = action.text()
            yield Findable("Command", text, where, entry.tip, action.trigger, also, icon, action.isEnabled())

    def _settings(self) -> Iterator[Findable]:
        listed = set()
        for setting in self._inspector.settings():
            if (setting.words, setting.where) in listed:
                continue  # two fields in one row
            listed.add((setting.words, setting.where))

            def go(setting: Setting = setting) -> None:
                self._show_panels()
                self._inspector.go_to(setting)

            where = setting.where or "The picture"
            also = "" if setting.is_switch else SETTINGS.get(setting.words, "")
            yield Findable("Setting", setting.words, where, setting.tip, go, also)

    def _scenes(self) -> Iterator[Findable]:
        for scene in self._session.project.scenes:
            tip = "Show this scene as it was saved"
            yield Findable("Scene", scene.name, "Scene", tip, partial(self._recall, scene.id), "scene recall")

    def _recall(self, scene_id: str) -> None:
        self._desk.close()
        self._commands.scenes.recall(scene_id)

    def _sheets(self) -> Iterator[Findable]:
        for sheet in self._session.project.sheets:
            yield Findable("Sheet", sheet.name, "Sheet", "Open this sheet", partial(self._desk.open, sheet.id), "sheet layout")

    def _looks(self) -> Iterator[Findable]:
        own = {look.name: look for look in self._session.project.looks}
        for name, look in {**shipped_looks(), **own}.items():
            yield Findable("Look", name, "Look", "Give the stage this look", partial(self._take_look, look), "look style")

    def _take_look(self, look: Look) -> None:
        self._desk.close()
        self._session.apply(edits.set_look(self._session.project, look), f"Look: {look.name}")

    def _groups(self) -> Iterator[Findable]:
        """Parts by name, type, material, layer and room."""
        building = self._session.building
        assert building is not None
        if self._of is None or self._of() is not building:  # it is not held: it may be closed meanwhile
            self._of, self._parts = weakref.ref(building), list(_named_parts(building))
        for name, where, ids in self._parts:
            tip = f"Pick {'them' if len(ids) > 1 else 'it'}"
            words = where if len(ids) == 1 else f"{where}, {len(ids):,} parts"
            yield Findable("Parts", name, words, tip, partial(self._pick, ids, name))

    def _pick(self, ids: frozenset[str], name: str) -> None:
        self._desk.close()
        self._session.pick(elements=ids)
        self._session.said.emit(f"Picked {name}, {len(ids):,} part{'s' * (len(ids) != 1)}")


def _named_parts(building: Building) -> Iterator[tuple[str, str, frozenset[str]]]:
    """Yield (name, what it is the name of, ids) of the parts of a building."""
    ids = [element.id for element in building.elements]
    for way, words in GROUPS:
        number, names = labels(building, way)  # type: ignore[arg-type]
        held: dict[str, set[str]] = {}
        for one, group in zip(ids, number.tolist()):
            name = names[group]
            held.setdefault(plain_type(name) if way == "type" else name, set()).add(one)
        last = names[-1]
        yield from ((name, words, frozenset(own)) for name, own in held.items() if way == "type" or name != last)
    by_name: dict[str, set[str]] = {}
    for element in building.elements:
        if element.name:
            by_name.setdefault(unnumbered(element.name) or element.name, set()).add(element.id)
    yield from ((name, "Part" if len(own) == 1 else "Parts of this name", frozenset(own)) for name, own in by_name.items())
