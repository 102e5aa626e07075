"""Meaning given to parts whose file has none: type, material, layer, storey, by rules that hold for the model as it comes
anew."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from anatome.model.building import Building, Element, Space, Storey
from anatome.model.selection import Selection
from anatome.values import FARTHEST, Value

Mask = NDArray[np.bool_]
Facing = Literal["level", "upright", "sloping"]

BY_LEVEL = "by level"
"""In place of a storey: the one on whose floor a part stands."""
STANDS_UNDER = 0.5
"""Metres a part may stand under the floor of the storey it belongs to: its slab does."""
NO_TYPE = ("", "Part", "IfcBuildingElementProxy")
"""Types that say nothing of what a part is."""


class PartFilter(Value):
    """Which parts a rule is for: those that are meant by ``what``, or all where it names nothing; of them those as large, facing
    and lying as is said. Lengths in metres."""

    what: Selection = Selection()
    untyped: bool = Field(default=False, description="only parts of which the file does not say what they are")
    nowhere: bool = Field(default=False, description="only parts that stand in no storey")
    least: float | None = Field(default=None, ge=0, le=FARTHEST, description="at least so long, along their longest side")
    most: float | None = Field(default=None, ge=0, le=FARTHEST, description="at most so long")
    facing: Facing | None = Field(default=None, description="which way most of their faces lie")
    above: float | None = Field(default=None, ge=-FARTHEST, le=FARTHEST, description="their middle lies above this level")
    below: float | None = Field(default=None, ge=-FARTHEST, le=FARTHEST, description="their middle lies below this level")

    def mask(self, building: Building) -> Mask:
        """Return (E,) True for the parts it is for."""
        found = np.ones(len(building.elements), bool) if self.what.is_empty else self.what.mask(building)
        if self.untyped:
            found &= np.array([e.type in NO_TYPE for e in building.elements], bool)
        if self.nowhere:
            found &= ~building.in_storey
        low, high = building.element_bounds[:, 0], building.element_bounds[:, 1]
        longest, middle = (high - low).max(axis=1), (low[:, 2] + high[:, 2]) / 2
        for limit, value, sign in (
            (self.least, longest, 1),
            (self.most, longest, -1),
            (self.above, middle, 1),
            (self.below, middle, -1),
        ):
            if limit is not None:
                found &= sign * value >= sign * limit
        if self.facing is not None:
            found &= facing_of(building) == FACINGS.index(self.facing)
        return found


class Meaning(Value):
    """What parts are said to be; nothing stays as it is. ``storey`` is the id of one, or BY_LEVEL."""

    type: str | None = Field(default=None, max_length=200)
    material: str | None = Field(default=None, max_length=200)
    layer: str | None = Field(default=None, max_length=200)
    storey: str | None = Field(default=None, max_length=200)

    @property
    def is_empty(self) -> bool:
        return self.type is None and self.material is None and self.layer is None and self.storey is None


class MeaningRule(Value):
    """Gives the parts of a filter a meaning, while it is ``on``. ``guessed`` ones were offered and taken over."""

    id: str = Field(max_length=64)
    who: PartFilter
    gives: Meaning
    on: bool = True
    guessed: bool = False


class GivenStorey(Value):
    """A storey the file does not have."""

    id: str = Field(max_length=64)
    name: str = Field(max_length=200)
    elevation: float = Field(ge=-FARTHEST, le=FARTHEST)


Metres = Annotated[float, Field(ge=-FARTHEST, le=FARTHEST)]
Corner = tuple[Metres, Metres, Metres]


class GivenSpace(Value):
    """A room the file does not have: its name, what it is used for, its box in metres and the m² of its floor."""

    id: str = Field(max_length=64)
    name: str = Field(max_length=200)
    use: str = Field(default="", max_length=200)
    lower: Corner
    upper: Corner
    floor: float = Field(gt=0, le=FARTHEST)


class NamedGroup(Value):
    """Parts under one name, whatever else they are; a part may stand in several."""

    name: str = Field(min_length=1, max_length=200)
    who: PartFilter


class Meanings(Value):
    """All that is given to a model: ``storeys``, lowest first, ``rules``, later ones over earlier ones, ``groups`` and
    ``spaces``."""

    storeys: tuple[GivenStorey, ...] = Field(default=(), max_length=200)
    rules: tuple[MeaningRule, ...] = Field(default=(), max_length=2000)
    groups: tuple[NamedGroup, ...] = Field(default=(), max_length=500)
    spaces: tuple[GivenSpace, ...] = Field(default=(), max_length=5000)

    @property
    def is_empty(self) -> bool:
        return not (self.storeys or self.rules or self.groups or self.spaces)


NO_MEANING = Meanings()
FACINGS: tuple[Facing, ...] = ("level", "upright", "sloping")
LEVEL, UPRIGHT = 0.966, 0.2
"""The upward part of a face's unit normal from which it is level (15°), and up to which it is upright (11.5°)."""


def facing_of(building: Building) -> NDArray[np.int64]:
    """Return (E,) which way most of the faces of each part lie: the number of one of FACINGS."""
    corners = building.vertices[building.triangles]
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    upward = np.abs(building.normals[:, 2])
    kind = np.where(upward > LEVEL, 0, np.where(upward < UPRIGHT, 1, 2))
    shares = [np.bincount(building.element_of_triangle, area * (kind == k), len(building.elements)) for k in range(3)]
    return np.asarray(np.argmax(shares, axis=0))


def with_meaning(building: Building, meanings: Meanings) -> Building:
    """Return the building with what it is given, itself where that is nothing. Geometry is shared, and what is derived of it.

    Rules see what those before them gave.
    """
    if meanings.is_empty:
        return building
    storeys = _storeys(building, meanings.storeys)
    moved = {s.id: i for i, s in enumerate(storeys)}
    elements = [e if e.storey is None else replace(e, storey=moved[building.storeys[e.storey].id]) for e in building.elements]
    found = _with_elements(building, elements, storeys)
    for rule in meanings.rules:
        if not rule.on or rule.gives.is_empty:
            continue
        mask = rule.who.mask(found)
        if mask.any():
            found = _with_elements(found, _given(found, rule.gives, np.flatnonzero(mask).tolist()), storeys)
    found = _in_groups(found, meanings.groups)
    return _with_elements(found, list(found.elements), storeys, _spaces(building, moved, storeys, meanings.spaces))


def _spaces(
    building: Building, moved: Mapping[str, int], storeys: Sequence[Storey], given: Sequence[GivenSpace]
) -> tuple[Space, ...]:
    """Those of the file, in their storeys, and those given, in the storey on whose floor they are."""
    own = (s if s.storey is None else replace(s, storey=moved[building.storeys[s.storey].id]) for s in building.spaces)
    levels = np.array([s.elevation for s in storeys])

    def home(space: GivenSpace) -> int | None:
        below = np.flatnonzero(levels <= space.lower[2] + STANDS_UNDER)
        return int(below[-1]) if len(below) else None

    return (*own, *(Space(s.id, s.name, home(s), s.lower, s.upper, s.use, s.floor) for s in given))


def _in_groups(building: Building, groups: Sequence[NamedGroup]) -> Building:
    """Put parts into the groups that mean them, as their types and materials are by now; groups do not mean groups."""
    if not groups:
        return building
    also: list[list[str]] = [[] for _ in building.elements]
    for group in groups:
        for number in np.flatnonzero(group.who.mask(building)).tolist():
            also[number].append(group.name)
    elements = [replace(e, also=tuple(names)) if names else e for e, names in zip(building.elements, also)]
    return _with_elements(building, elements, building.storeys)


def _storeys(building: Building, given: Iterable[GivenStorey]) -> tuple[Storey, ...]:
    """Those of the file and those given, the lowest first."""
    known = {s.id for s in building.storeys}
    more = (Storey(s.id, s.name, s.elevation) for s in given if s.id not in known)
    return tuple(sorted((*building.storeys, *more), key=lambda s: s.elevation))


def _given(building: Building, gives: Meaning, numbers: list[int]) -> list[Element]:
    said = {
        key: value
        for key, value in (("type", gives.type), ("material", gives.material), ("layer", gives.layer))
        if value is not None
    }
    elements = list(building.elements)
    place = {s.id: i for i, s in enumerate(building.storeys)}
    by_level = storey_by_level(building) if gives.storey == BY_LEVEL else None
    round_it = building.context
    for number in numbers:
        changes: dict[str, object] = dict(said)
        if by_level is not None and not round_it[number]:  # ground and neighbours stand in no storey
            changes["storey"] = by_level[number] if by_level[number] >= 0 else None
        elif gives.storey in place:
            changes["storey"] = place[gives.storey]
        elements[number] = replace(elements[number], **changes)  # type: ignore[arg-type]
    return elements


def storey_by_level(building: Building) -> list[int]:
    """Return the number of the storey on whose floor each part stands, −1 where there is no storey: the highest whose floor lies
    at most STANDS_UNDER above its foot, else the lowest."""
    if not building.storeys:
        return [-1] * len(building.elements)
    floors = np.array([s.elevation for s in building.storeys])
    foot = building.element_bounds[:, 0, 2]
    order = np.argsort(floors)
    at = np.searchsorted(floors[order], foot + STANDS_UNDER, side="right") - 1
    return [int(order[max(i, 0)]) for i in at.tolist()]


def _with_elements(
    building: Building, elements: list[Element], storeys: tuple[Storey, ...], spaces: tuple[Space, ...] | None = None
) -> Building:
    """Return the building with other elements of the same geometry."""
    kept = building.spaces if spaces is None else spaces
    return building.otherwise(elements=tuple(elements), storeys=storeys, spaces=kept)


GIVEN_TYPES = (
    *("IfcWall", "IfcSlab", "IfcRoof", "IfcStair", "IfcColumn", "IfcBeam", "IfcMember", "IfcDoor", "IfcWindow", "IfcRailing"),
    *("IfcCovering", "IfcFooting", "IfcFurniture", "IfcLightFixture", "IfcGeographicElement"),
)
"""Types that are offered, the usual ones of ISO 16739."""


def unsaid(building: Building) -> Mask:
    """Return (E,) True for parts of which nothing says what they are."""
    return np.array([e.type in NO_TYPE for e in building.elements], bool)
