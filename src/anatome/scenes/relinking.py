"""A project whose model has changed: what it says of parts goes along with them, and which of its scenes are touched by what."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING, Any, TypeVar

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from anatome.cuts.dissection import shown_elements
from anatome.cuts.plane import vector
from anatome.cuts.poche_rules import PocheRules
from anatome.model.building import Building
from anatome.model.comparison import Comparison, Whole, compare
from anatome.model.meaning import Meaning
from anatome.model.selection import Selection
from anatome.notes.anchors import Anchor, box_of
from anatome.notes.note import anchors_of
from anatome.scenes.carrying import carried
from anatome.scenes.project import ModelReference, Project, Scene, StageState
from anatome.scenes.whole import meant, whole_of
from anatome.values import mapped

if TYPE_CHECKING:
    from scipy.spatial import KDTree

V = TypeVar("V", bound=BaseModel)

MOST_TOLD = 20
"""Words of changes a scene is marked with, at most."""

Mask = NDArray[np.bool_]
Names = dict[str, str | None]


@dataclass(frozen=True)
class Touch:
    """Why a scene is touched: ``why`` is "cut", "hidden", "notes", "look", "reach", "group" or "seen"; ``what`` says it in words
    for people, and ``ids`` are those of the parts it is about, as they are now, or were where they are gone."""

    why: str
    what: str
    ids: tuple[str, ...]

    @property
    def is_light(self) -> bool:
        """Whether all there is of it is that parts look different where they are seen."""
        return self.why == "seen"


def relinked(project: Project, after: Building, found: Comparison, model: ModelReference) -> Project:
    """Return the project with another state of its model: what is hidden, meant, given or noted of a part is so of what it is
    now. Notes on parts that are gone wait at the nearest corner there is."""
    return gone_along(project, after, found).model_copy(update={"model": model})


def gone_along(value: V, after: Building, found: Comparison) -> V:
    """Return a value of a project, or of its scenes, as :func:`relinked` has it go along."""
    # A name that is gone may come back with the next state, unless something else is called so now.
    names: Names = {old: new for old, new in found.names.items() if new is not None or _in_use(old, after)}
    gone = {old for old, new in found.names.items() if new is None}

    @cache
    def corners() -> KDTree:  # of no use where no note is on what is gone
        from scipy.spatial import KDTree  # slow to load

        return KDTree(after.vertices)

    def waiting(anchor: Anchor) -> Anchor:
        if anchor.on not in gone:
            return anchor
        number = int(corners().query(anchor.place)[1])
        triangle = int(np.flatnonzero((after.triangles == number).any(axis=1))[0])
        on = after.elements[after.element_of_triangle[triangle]].id
        return anchor.model_copy(update={"place": vector(after.vertices[number]), "on": on, "box": box_of(after, on)})

    return _renamed(value, names, waiting)


def gone_back(value: V, found: Comparison) -> V:
    """Return a value of a project of the state after as it is about the state before: parts are called what they were called."""
    return _renamed(value, {new: old for old, new in found.names.items() if new is not None}, lambda anchor: anchor)


def _renamed(value: V, names: Names, moved: Callable[[Anchor], Anchor]) -> V:
    def change(value: BaseModel) -> BaseModel | dict[str, Any] | None:
        if isinstance(value, Anchor):
            there = moved(value)
            other = there is value and value.on in names
            return value.model_copy(update={"on": names[value.on]}) if other else there
        told = {}
        for name in IDS.get(type(value), ()):
            held = getattr(value, name)
            now = _other_ids(held, names)
            if now is not held:
                told[name] = now
        return told

    return mapped(value, change)


IDS: dict[type, tuple[str, ...]] = {
    Selection: ("elements", "storeys"),
    StageState: ("hidden", "hidden_before", "faded"),
    Meaning: ("storey",),
    PocheRules: ("filled", "left_open"),
}
"""What of the values in a project are ids of elements and storeys."""


def _other_ids(held: frozenset[str] | str | None, names: Names) -> frozenset[str] | str | None:
    if held is None or isinstance(held, str):
        return names.get(held) or held if held else held
    if held.isdisjoint(names):
        return held
    return frozenset(now for name in held if (now := names.get(name, name)) is not None)


def _in_use(name: str, building: Building) -> bool:
    places = {storey.id for storey in building.storeys} | {space.id for space in building.spaces}
    return name in building.index_of or name in places


@dataclass(frozen=True, eq=False)
class Change:
    """A change of a project's model: the ``project`` with it, its touched scenes marked; the whole it is cut from ``after`` it;
    what was ``found`` to differ between the models; and ``touches`` by the ids of scenes."""

    project: Project
    after: Building
    found: Comparison
    touches: Mapping[str, tuple[Touch, ...]]
    carried: Whole
    """What cuts, cameras and the site went along with."""

    def along(self, value: V) -> V:
        """Return a value of the project before as it is in that after."""
        return gone_along(self.carried_on(value), self.after, self.found)

    def back(self, value: V) -> V:
        """Return a value of the project after as it was in that before."""
        return self.carried_back(gone_back(value, self.found))

    def carried_on(self, value: V) -> V:
        """Return a value at the places it has after."""
        return carried(value, np.array(self.carried.shift), self.carried.factor)

    def carried_back(self, value: V) -> V:
        """Return a value at the places it had before."""
        factor = 1.0 / self.carried.factor
        return carried(value, -factor * np.array(self.carried.shift), factor)


def change_of(project: Project, before: Building, after: Building, model: ModelReference, along: bool = True) -> Change:
    """Compare two states of a project's model, ``before`` and ``after``, as their files have them, and have the project go along
    with the second, which ``model`` says where to find. Where the model as one is larger or lies elsewhere, cuts, cameras and the
    site go ``along``, or stay where they are."""
    found = compare(before, after)
    whole = found.whole if along else Whole()
    made = relinked(carried(project, np.array(whole.shift), whole.factor), after, found, model)
    touches = touched(project, meant(before, project), meant(after, made), found, None if whole.is_nothing else made)
    return Change(marked(made, touches), whole_of(after, made), found, touches, whole)


def marked(project: Project, touches: Mapping[str, Sequence[Touch]]) -> Project:
    """Return the project with the scenes that are touched marked with how, in words; those that only show what is different have
    nothing that needs a look."""

    def told(scene: Scene) -> Scene:
        words = (*scene.touched, *(touch.what for touch in touches[scene.id] if not touch.is_light))
        return scene.model_copy(update={"touched": tuple(dict.fromkeys(words))[-MOST_TOLD:]})

    return project.model_copy(update={"scenes": tuple(told(s) if touches.get(s.id) else s for s in project.scenes)})


def looked_over(project: Project, scenes: Collection[str]) -> Project:
    """Return the project with the marks of some scenes taken away."""
    free = (s.model_copy(update={"touched": ()}) if s.touched and s.id in scenes else s for s in project.scenes)
    return project.model_copy(update={"scenes": tuple(free)})


# Which scenes are touched -------------------------------------------------------------------------------------------


def touched(
    project: Project, before: Building, after: Building, found: Comparison, carried_along: Project | None = None
) -> dict[str, tuple[Touch, ...]]:
    """Return for each scene of a project, by id, in what the changes of its model touch it; scenes nothing touches are left out.
    ``project`` is as it was before; ``carried_along`` is it where cuts and cameras went along with the model as one."""
    went_along = carried_along is not None
    changes = _Changes(before, after, found, went_along)
    states = {scene.id: scene.state for scene in (carried_along or project).scenes}
    told = {scene.id: tuple(changes.touches(scene, states[scene.id])) for scene in project.scenes}
    return {scene: touches for scene, touches in told.items() if touches}


class _Changes:
    """What has changed, for asking scene after scene."""

    def __init__(self, before: Building, after: Building, found: Comparison, went_along: bool) -> None:
        self.before, self.after, self.found = before, after, found
        self.formed = found.gone | found.moved | found.reshaped | (not (went_along or found.whole.is_nothing))
        self.altered = self.formed | found.restyled
        partner = found.partner
        self.formed_now, self.altered_now = found.new.copy(), found.new.copy()
        self.formed_now[partner[self.formed & ~found.gone]] = True
        self.altered_now[partner[self.altered & ~found.gone]] = True
        self.old_ids = {e.id for e, gone in zip(before.elements, found.gone) if gone}

    def touches(self, scene: Scene, now: StageState) -> Iterator[Touch]:
        """In what a scene is touched that shows ``now`` what goes along with the changes."""
        state = scene.state
        both = state, now
        at_cut = [self._ids(b, mask & self._cut(s, b)) for s, (b, mask) in zip(both, self._sides(formed=True), strict=True)]
        if any(at_cut):
            yield Touch("cut", _counted("part", at_cut, "changed where it is cut"), _joined(at_cut))
        hidden = tuple(sorted((state.hidden | state.faded) & self.old_ids))
        if hidden:
            yield Touch("hidden", _counted("hidden part", [hidden], "gone"), hidden)
        anchored = [anchor.on for note in state.notes for anchor in anchors_of(note)]
        changed = {e.id for e, formed in zip(self.before.elements, self.formed) if formed}
        noted = tuple(sorted(set(anchored) & changed))
        if noted:
            lost = sum(on in self.old_ids for on in anchored)
            words = _counted("part", [noted], "noted and changed")
            waits = f"; {lost} of the places noted {'is' if lost == 1 else 'are'} gone, their notes wait at the nearest corner"
            yield Touch("notes", words + (waits if lost else ""), noted)
        named = {name for rule in (*state.look.rules, *state.overrides) for name in rule.who.elements}
        looks = tuple(sorted(named & self.old_ids))
        if looks:
            yield Touch("look", _counted("part", [looks], "gone that had a look of its own"), looks)
        meant_by = [who for cut in state.cuts for who in _selections(cut)]
        meant_by += [
            who for part in (state.treatments, state.exploded, *state.details, state.divide) for who in _selections(part)
        ]
        reached = tuple(sorted(frozenset().union(*(who.elements for who in meant_by)) & self.old_ids))
        if reached:
            yield Touch("reach", _counted("part", [reached], "gone that cuts, groups drawn apart or details name"), reached)
        for group in sorted(frozenset().union(*(who.groups for who in _selections(state)))):
            members = self._of_group(group)
            if members:
                yield Touch("group", _counted("part", [members], f"new or gone in “{group}”"), members)
        seen = [self._ids(b, mask & self._seen(s, b)) for s, (b, mask) in zip(both, self._sides(formed=False), strict=True)]
        if any(seen):
            yield Touch("seen", _counted("part", seen, "changed in what it shows"), _joined(seen))

    def _of_group(self, group: str) -> tuple[str, ...]:
        """Ids of what is gone from a group, and of what is new in it."""
        gone = (e.id for e, out in zip(self.before.elements, self.found.gone) if out and group in e.groups)
        new = (e.id for e, there in zip(self.after.elements, self.found.new) if there and group in e.groups)
        return tuple(sorted({*gone, *new}))

    def _sides(self, formed: bool) -> tuple[tuple[Building, Mask], tuple[Building, Mask]]:
        if formed:
            return (self.before, self.formed), (self.after, self.formed_now)
        return (self.before, self.altered), (self.after, self.altered_now)

    def _ids(self, building: Building, mask: Mask) -> tuple[str, ...]:
        """Ids of the elements of a mask as they are now, of those that are gone as they were."""
        numbers = np.flatnonzero(mask).tolist()
        if building is self.after:
            return tuple(building.elements[i].id for i in numbers)
        partner = self.found.partner
        return tuple(building.elements[i].id if partner[i] < 0 else self.after.elements[partner[i]].id for i in numbers)

    @staticmethod
    def _cut(state: StageState, building: Building) -> Mask:
        """(E,) elements whose boxes a face of a cut goes through that is on and reaches them."""
        low, high = building.element_bounds[:, 0], building.element_bounds[:, 1]
        through = np.zeros(len(low), bool)
        for cut in state.active_cuts:
            reached = cut.reach.mask(building)
            for cell in cut.cells():
                touches = cell.may_touch_boxes(low, high, building.tolerance)
                through |= reached & touches & ~cell.holds_boxes(low, high, building.tolerance)
        return through & shown_elements(building, state.hidden)

    @staticmethod
    def _seen(state: StageState, building: Building) -> Mask:
        """(E,) elements that are neither hidden nor wholly cut away."""
        low, high = building.element_bounds[:, 0], building.element_bounds[:, 1]
        seen = shown_elements(building, state.hidden)
        for cut in state.active_cuts:
            reached = cut.reach.mask(building)
            for cell in cut.cells():
                seen &= ~(reached & cell.holds_boxes(low, high, building.tolerance))
        return seen


def _selections(value: Any) -> Iterator[Selection]:
    """All that a value means by name, type or group."""
    if isinstance(value, Selection):
        yield value
    elif isinstance(value, tuple):
        for part in value:
            yield from _selections(part)
    elif isinstance(value, BaseModel):
        for name in type(value).model_fields:
            yield from _selections(getattr(value, name))


def _joined(sides: list[tuple[str, ...]]) -> tuple[str, ...]:
    return tuple(sorted(set().union(*sides)))


def _counted(what: str, sides: list[tuple[str, ...]], end: str) -> str:
    count = len(_joined(sides))
    return f"{count} {what}{'' if count == 1 else 's'} {end}"
