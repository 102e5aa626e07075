"""The elements of a building in groups within groups: by storey, type, material, layer, space or the groups of its file."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import WITHIN, Building, groups_round

Way = Literal["storey", "type", "material", "layer", "group", "space"]
WAYS: dict[Way, Way] = {
    "storey": "type",
    "type": "storey",
    "material": "type",
    "layer": "type",
    "group": "group",
    "space": "type",
}
"""What one may group by, and what each of those groups is divided by: groups by those within them."""
NONE: dict[Way, str] = {
    "storey": "In no storey",
    "type": "Of no type",
    "material": "No material",
    "layer": "On no layer",
    "group": "In no group",
    "space": "In no space",
}
DIRECTLY = "Directly in it"
"""What stands in a group and in none of the groups within it."""


@dataclass(frozen=True, eq=False)
class Group:
    """``members`` element numbers by name; ``inner`` the groups it is divided into, none in the last ones; ``of`` says what its
    name is the name of."""

    name: str
    of: Way
    members: NDArray[np.int64]
    inner: tuple[Group, ...] = ()


def labels(building: Building, way: Way) -> tuple[NDArray[np.int64], list[str]]:
    """Return ((E,) a number for each element, the names of the numbers), in the order in which they are listed."""
    if way == "storey":
        # The highest first, as they stand; what stands in none last.
        count = len(building.storeys)
        number = np.array([count if e.storey is None else count - 1 - e.storey for e in building.elements], np.int64)
        return number, [*(s.name for s in reversed(building.storeys)), NONE[way]]
    if way == "space":
        count = len(building.spaces)
        found = building.space_of
        return np.where(found < 0, count, found), [*(s.name or "Unnamed space" for s in building.spaces), NONE[way]]
    values = [getattr(e, way) or "" for e in building.elements]
    names = sorted(set(values), key=lambda v: (v == "", v.lower()))
    if way == "type":  # the most frequent first
        names = list(building.type_counts)
    index = {name: i for i, name in enumerate(names)}
    return np.array([index[v] for v in values], np.int64), [name or NONE[way] for name in names]


def grouped(building: Building, way: Way) -> tuple[Group, ...]:
    """Return the whole building in groups. Groups of one name are one: two storeys may be called the same."""
    if way == "group":
        return _nested(building)
    outer, outer_names = labels(building, way)
    inner, inner_names = labels(building, WAYS[way])
    order = np.lexsort((building.name_rank, inner, outer))
    groups = []
    for members in np.split(order, np.flatnonzero(np.diff(outer[order])) + 1):
        parts = np.split(members, np.flatnonzero(np.diff(inner[members])) + 1)
        divided = tuple(Group(inner_names[inner[part[0]]], WAYS[way], part) for part in parts)
        groups.append(Group(outer_names[outer[members[0]]], way, members, divided))
    return tuple(groups)


def _nested(building: Building) -> tuple[Group, ...]:
    """The groups of the project, and those of the file as they stand in one another, what stands in none last. What stands in
    several is listed in the first, those of the project before those of the file."""
    by_name = np.argsort(building.name_rank)
    parts = (building.elements[i] for i in by_name.tolist())
    paths = [e.also[0] if e.also else e.group for e in parts]
    held: dict[str, list[int]] = {}
    for number, path in zip(by_name.tolist(), paths):
        held.setdefault(path, []).append(number)
    within: dict[str, list[str]] = {}
    given = {name for e in building.elements for name in e.also}
    order = sorted(held, key=lambda own: (own not in given, own.lower()))
    for path in dict.fromkeys(p for own in order for p in groups_round(own)):
        outer = path.rpartition(WITHIN)[0]
        within.setdefault(outer, []).append(path)

    def made(path: str) -> Group:
        inner = tuple(made(p) for p in within.get(path, ()))
        own = np.array(held.get(path, ()), np.int64)
        if inner and len(own):
            inner = (*inner, Group(DIRECTLY, "group", own))
        members = np.concatenate([own, *(g.members for g in inner if g.name != DIRECTLY)])
        return Group(path.rpartition(WITHIN)[2] or path, "group", members, inner)

    found = [made(path) for path in within.get("", ())]
    if "" in held:
        found.append(Group(NONE["group"], "group", np.array(held[""], np.int64)))
    return tuple(found)
