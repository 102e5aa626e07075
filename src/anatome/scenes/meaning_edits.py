"""Edits of the meaning a project gives to the parts of its model."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from pathlib import Path

from anatome.cuts.rooms import ClosedRoom
from anatome.model.building import WITHIN
from anatome.model.meaning import BY_LEVEL, GivenSpace, GivenStorey, Meaning, MeaningRule, Meanings, NamedGroup, PartFilter
from anatome.model.selection import Selection
from anatome.problems import Problem
from anatome.scenes.edits import new_id
from anatome.scenes.group_names import with_group_called
from anatome.scenes.project import Project
from anatome.value_files import read_value, write_value

SUFFIX = ".meaning.json"


def set_meanings(project: Project, meanings: Meanings) -> Project:
    """Give a project's model all of this, and nothing else."""
    return project.model_copy(update={"meanings": meanings})


def give(project: Project, who: PartFilter, gives: Meaning, guessed: bool = False) -> Project:
    """Give parts a meaning. What is given the same parts again takes the place of what was given before, property by property."""
    rules = list(project.meanings.rules)
    for place, rule in enumerate(rules):
        if rule.who == who and rule.guessed == guessed:
            said = {key: value for key, value in gives.model_dump().items() if value is not None}
            rules[place] = rule.model_copy(update={"gives": rule.gives.model_copy(update=said), "on": True})
            break
    else:
        rules.append(MeaningRule(id=new_id(), who=who, gives=gives, guessed=guessed))
    return set_meanings(project, project.meanings.model_copy(update={"rules": tuple(rules)}))


def give_types(project: Project, parts: Iterable[tuple[str, frozenset[str]]]) -> Project:
    """Take over guesses: (a type, the ids of the parts that are of it), a rule each."""
    kept = tuple(rule for rule in project.meanings.rules if not (rule.guessed and rule.gives.type is not None))
    made = tuple(
        MeaningRule(id=new_id(), who=PartFilter(what=Selection(elements=ids)), gives=Meaning(type=kind), guessed=True)
        for kind, ids in parts
    )
    # What was said by hand goes over what was guessed.
    return set_meanings(project, project.meanings.model_copy(update={"rules": (*made, *kept)}))


def give_storeys(project: Project, storeys: Sequence[GivenStorey]) -> Project:
    """Give the model storeys in place of those given before, and put parts that stand in none into them by their level."""
    kept = tuple(rule for rule in project.meanings.rules if rule.gives.storey != BY_LEVEL)
    if storeys:
        who = PartFilter(nowhere=True)
        kept = (MeaningRule(id=new_id(), who=who, gives=Meaning(storey=BY_LEVEL), guessed=True), *kept)
    return set_meanings(project, project.meanings.model_copy(update={"storeys": tuple(storeys), "rules": kept}))


def give_rooms(project: Project, rooms: Sequence[ClosedRoom]) -> Project:
    """Give the model rooms in place of those given before, named by numbers."""
    spaces = tuple(
        GivenSpace(id=new_id(), name=f"Room {number + 1}", lower=room.lower, upper=room.upper, floor=room.floor)
        for number, room in enumerate(rooms)
    )
    return set_meanings(project, project.meanings.model_copy(update={"spaces": spaces}))


def change_room(project: Project, room: str, **changes: str) -> Project:
    """Return the project with the ``name`` or the ``use`` of a given room changed."""
    spaces = (s.model_copy(update=changes) if s.id == room else s for s in project.meanings.spaces)
    return set_meanings(project, project.meanings.model_copy(update={"spaces": tuple(spaces)}))


def take_rooms(project: Project, rooms: Collection[str]) -> Project:
    """Return the project without some given rooms."""
    spaces = tuple(s for s in project.meanings.spaces if s.id not in rooms)
    return set_meanings(project, project.meanings.model_copy(update={"spaces": spaces}))


def _group_name(name: str) -> str:
    """A name a group can have. Raises Problem for others."""
    name = name.strip()[:200]
    if not name:
        raise Problem("A group needs a name. Type one.")
    if WITHIN in name:
        raise Problem(f"“{WITHIN.strip()}” with spaces round it stands between groups of a file. Choose a name without it.")
    return name


def rename_group(project: Project, old: str, new: str) -> Project:
    """Call a group of the project otherwise; cuts, looks and all else that mean it follow. Raises Problem where a name is taken,
    or is none."""
    name = _group_name(new)
    if name == old:
        return project
    if any(g.name == name for g in project.meanings.groups):
        raise Problem(f"There is a group “{name}” already. Choose another name.")
    groups = (g.model_copy(update={"name": name}) if g.name == old else g for g in project.meanings.groups)
    return with_group_called(_with_groups(project, tuple(groups)), old, name)


def put_group(project: Project, name: str, who: PartFilter) -> Project:
    """Put parts into a group of the project, more parts into one that is there. Raises Problem without a name."""
    name = _group_name(name)
    groups, before = project.meanings.groups, next((g for g in project.meanings.groups if g.name == name), None)
    if before is None:
        return _with_groups(project, (*groups, NamedGroup(name=name, who=who)))
    if before.who.model_copy(update={"what": Selection()}) != who.model_copy(update={"what": Selection()}):
        raise Problem(f"The group “{name}” is made by another kind of rule. Choose another name.")
    both = before.who.model_copy(update={"what": before.who.what.joined(who.what)})
    return _with_groups(project, tuple(g.model_copy(update={"who": both}) if g is before else g for g in groups))


def take_group(project: Project, name: str) -> Project:
    """Without a group; its parts stay."""
    return _with_groups(project, tuple(g for g in project.meanings.groups if g.name != name))


def _with_groups(project: Project, groups: tuple[NamedGroup, ...]) -> Project:
    return set_meanings(project, project.meanings.model_copy(update={"groups": groups}))


def switch_rule(project: Project, rule_id: str, on: bool) -> Project:
    """Let a rule hold, or not."""
    rules = tuple(r.model_copy(update={"on": on}) if r.id == rule_id else r for r in project.meanings.rules)
    return set_meanings(project, project.meanings.model_copy(update={"rules": rules}))


def take_rule(project: Project, rule_id: str) -> Project:
    """Without a rule."""
    rules = tuple(r for r in project.meanings.rules if r.id != rule_id)
    return set_meanings(project, project.meanings.model_copy(update={"rules": rules}))


def write_meanings(meanings: Meanings, path: Path) -> None:
    """Write what a model is given, for the same model in another project. Raises Problem when it cannot be written."""
    write_value(meanings, path, "meaning")


def read_meanings(path: Path) -> Meanings:
    """Return what a model is given by a file. Raises Problem when it holds nothing of the kind."""
    return read_value(path, Meanings, "meaning", "Save the meaning to a file")
