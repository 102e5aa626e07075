"""What can be guessed of a model, as a project would take it over: storeys where it has none, types of parts that have none."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from anatome.cuts.rooms import ClosedRoom, closed_rooms
from anatome.model.building import Building
from anatome.model.guessing import GuessedStorey, guessed_storeys, guessed_types
from anatome.model.meaning import GivenStorey, unsaid
from anatome.scenes.edits import new_id
from anatome.scenes.meaning_edits import give_rooms, give_storeys, give_types
from anatome.scenes.project import Project


@dataclass(frozen=True)
class Guess:
    """A storey, its ``name`` and ``elevation`` in metres; ``parts`` by their ids that are of a ``type``; or ``rooms``."""

    name: str = ""
    elevation: float | None = None
    type: str = ""
    parts: frozenset[str] = frozenset()
    rooms: tuple[ClosedRoom, ...] = ()


def guesses_for(building: Building) -> tuple[Guess, ...]:
    """Return all guesses: storeys, the lowest first, types, those of most parts first, and rooms. Nothing for what is known."""
    floors = guessed_storeys(building)
    found = []
    if not building.storeys:
        found += [Guess(name=name, elevation=floor.elevation) for name, floor in zip(storey_names(floors), floors)]
    by_type: dict[str, list[str]] = {}
    for element, kind, open_yet in zip(building.elements, guessed_types(building, floors), unsaid(building).tolist()):
        if kind and open_yet:
            by_type.setdefault(kind, []).append(element.id)
    found += [Guess(type=kind, parts=frozenset(ids)) for kind, ids in sorted(by_type.items(), key=lambda item: -len(item[1]))]
    if not building.spaces:
        levels = [s.elevation for s in building.storeys] or [floor.elevation for floor in floors]
        rooms = closed_rooms(building, levels)
        found += [Guess(rooms=tuple(rooms))] if rooms else []
    return tuple(found)


def with_guesses(project: Project, chosen: Sequence[Guess]) -> Project:
    """Take guesses over."""
    storeys = sorted((g for g in chosen if g.elevation is not None), key=lambda g: g.elevation or 0.0)
    if storeys:
        made = [GivenStorey(id=new_id(), name=g.name, elevation=g.elevation or 0.0) for g in storeys]
        project = give_storeys(project, made)
    types = [(g.type, g.parts) for g in chosen if g.type]
    project = give_types(project, types) if types else project
    rooms = [room for guess in chosen for room in guess.rooms]
    return give_rooms(project, rooms) if rooms else project


def storey_names(floors: Sequence[GuessedStorey]) -> list[str]:
    """Return names for floors, the lowest first: the ground floor is the one nearest to the model's zero."""
    if not floors:
        return []
    ground = min(range(len(floors)), key=lambda i: (abs(floors[i].elevation) > 1.5, abs(floors[i].elevation), i))
    names = []
    for number in range(len(floors)):
        over = number - ground
        names.append("Ground floor" if over == 0 else f"Floor {over}" if over > 0 else f"Basement {-over}")
    return names
