"""From one state of the stage to another: the states between, as a function of the share of the way.

Camera and crop travel, cuts move along their axes or enter from outside the building, what is drawn apart opens and closes, looks
dissolve. What knows no between, hidden parts for example, is as it will be from the start, and the picture before fades over it.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut
from anatome.cuts.details import Detail
from anatome.cuts.dissection import CutBuilding, shown_elements
from anatome.cuts.exploding import Exploded
from anatome.cuts.kinds.grip import numbers_part_way
from anatome.look.divide import Dissolve
from anatome.look.look import Look
from anatome.model.building import Building
from anatome.scenes.look_edits import drawn_look
from anatome.scenes.project import StageState
from anatome.site.site import Site
from anatome.view.camera_path import CameraPath, path_between
from anatome.view.crop import Crop
from anatome.view.walking import in_the_way

Array = NDArray[np.float64]

FADE = 0.4
"""Share of the way in which the picture before fades, where the camera travels."""
EMPTY = ("IfcOpeningElement", "IfcSpace")
"""Types through which a camera passes."""
NO_BETWEEN = ("hidden", "ghosts", "faded", "treatments", "poche", "series", "divide")
"""What of a state is one or the other."""


def eased(share: float) -> float:
    """Return a share of the time as a share of the way, slow at both ends: 3t² − 2t³ (smoothstep)."""
    return share * share * (3.0 - 2.0 * share)


@dataclass(frozen=True, eq=False)
class CutWay:
    """A cut between two states, ``first`` and ``last``, one of which is missing where it is on in the other alone.

    ``out`` and ``into`` are where both are clear of the building: it goes that way where it is on once, or cannot go straight.
    """

    first: AnyCut | None
    last: AnyCut | None
    out: AnyCut | None
    into: AnyCut | None

    def at(self, share: float) -> AnyCut:
        """Return it at a share of the way."""
        first, last, out, into = self.first, self.last, self.out, self.into
        if first is not None and last is not None:
            found = first.part_way(last, share)
            if found is not None:
                return found
            if share < 0.5:
                return (out and first.part_way(out, 2.0 * share)) or first
            return (into and into.part_way(last, 2.0 * share - 1.0)) or last
        if last is None:
            assert first is not None
            return (out and first.part_way(out, share)) or first
        return (into and into.part_way(last, share)) or last


@dataclass(frozen=True, eq=False)
class Transition:
    """From ``start`` to ``end``. Without a ``path`` the camera is at its end from the start, and the picture before fades;
    ``looks`` are those of both as they are drawn, where they differ; ``aspect`` is that of the stage."""

    start: StageState
    end: StageState
    path: CameraPath | None
    cuts: tuple[CutWay, ...]
    looks: tuple[Look, Look] | None
    aspect: float

    @cached_property
    def fade(self) -> float:
        """The share of the way in which the picture before fades; 0 where there is a between for everything."""
        if self.path is None:
            return 1.0
        reaches = any(w.first and w.last and w.first.reach != w.last.reach for w in self.cuts)
        divided = self.looks is None and self.start.look != self.end.look
        detailed = {d.id for d in self.start.details} != {d.id for d in self.end.details}
        differs = (
            reaches or divided or detailed or any(getattr(self.start, name) != getattr(self.end, name) for name in NO_BETWEEN)
        )
        return FADE if differs else 0.0

    def faint(self, share: float) -> float:
        """Return how solid the picture before still is at a share of the time."""
        return 0.0 if self.fade == 0.0 else max(1.0 - share / self.fade, 0.0)

    def dissolve(self, share: float) -> Dissolve | None:
        """Return the look that comes at a share of the time, if it is another one."""
        return None if self.looks is None else Dissolve(self.looks[1], eased(share))

    def at(self, share: float) -> StageState:
        """Return the state at a share of the time from 0 to 1, without notes: they come with the end."""
        if share >= 1.0:
            return self.end
        way = eased(max(share, 0.0))
        changes: dict[str, object] = {
            "camera": self.end.camera if self.path is None else self.path.at(way),
            "cuts": tuple(cut.at(way) for cut in self.cuts),
            "notes": (),
            "still": 0,
            **_apart_at(self.start, self.end, way),
            "details": tuple(_detail_at(self.start.detail(last.id), last, way) for last in self.end.details),
        }
        if self.path is not None:
            changes["crop"] = _crop_at(self.start.crop, self.end.crop, self.aspect, way)
        if self.looks is not None:
            changes |= {"look": self.start.look, "overrides": self.start.overrides}
        return self.end.model_copy(update=changes)

    def stopped_at(self, share: float) -> StageState:
        """Return what stays when it is stopped at a share of the time: with the notes of the end, in the look that prevails."""
        late = eased(share) >= 0.5
        looks = {name: getattr(self.end if late else self.start, name) for name in ("look", "overrides")}
        return self.at(share).model_copy(update=looks | {"notes": self.end.notes})


def transition(
    building: Building,
    site: Site,
    start: StageState,
    end: StageState,
    aspect: float,
    left: Iterable[CutBuilding] = (),
) -> Transition:
    """Return the way from one state to another on a stage of an aspect; ``left`` is what the cuts of both leave, through which
    the eye does not pass."""
    ways = tuple(in_the_way(found, EMPTY) for found in left)
    path = None
    for pivot in _pivots(building, start, end):
        path = path_between(start.camera, end.camera, pivot, *ways)
        if path is not None:
            break
    looks = drawn_look(start, site, building), drawn_look(end, site, building)
    plain = start.divide is None and end.divide is None
    dissolving = looks if plain and looks[0] != looks[1] else None
    return Transition(start, end, path, _cut_ways(building, start, end), dissolving, aspect)


def _pivots(building: Building, start: StageState, end: StageState) -> list[Array]:
    """What the camera goes round: the middle of the building, best in the plane of a cut that is seen true."""
    middle = building.subject_bounds(shown_elements(building, end.hidden)).mean(axis=0)
    plane = end.true_plane() or start.true_plane()
    return [middle] if plane is None else [middle - plane.n * float(plane.distance(middle)), middle]


def _cut_ways(building: Building, start: StageState, end: StageState) -> tuple[CutWay, ...]:
    shown = shown_elements(building, start.hidden & end.hidden)
    before = {cut.id: cut for cut in start.active_cuts}
    after = {cut.id: cut for cut in end.active_cuts}

    def clear(cut: AnyCut | None) -> AnyCut | None:
        # One that only parts the building stays where it is, closed.
        if cut is None or cut.parting is not None:
            return None
        reached = shown & cut.reach.mask(building)
        return cut.clear_of(building.bounds_of(reached)) if reached.any() else None

    found = []
    for cut_id in dict.fromkeys((*after, *before)):
        first, last = before.get(cut_id), after.get(cut_id)
        quiet = None if first is None else first.model_copy(update={"graphic": False})
        found.append(CutWay(quiet, last, clear(quiet), clear(last)))
    return tuple(found)


def _apart_at(start: StageState, end: StageState, way: float) -> dict[str, object]:
    """Groups and how far they are opened: from closed where nothing was apart, closed and opened again where it is otherwise."""
    if not end.is_apart and not start.is_apart:
        return {}
    if not end.is_apart:
        return {"exploded": start.exploded, "opening": start.opening * (1.0 - way)}
    if not start.is_apart:
        return {"opening": end.opening * way}
    first, last = start.exploded, end.exploded
    if first == last:
        return {"opening": start.opening + (end.opening - start.opening) * way}
    if first is not None and last is not None and _same_groups(first, last):
        distances = numbers_part_way([g.distance for g in first.groups], [g.distance for g in last.groups], way)
        groups = tuple(g.model_copy(update={"distance": d}) for g, d in zip(last.groups, distances))
        opening = start.opening + (end.opening - start.opening) * way
        return {"exploded": last.model_copy(update={"groups": groups}), "opening": opening}
    if way < 0.5:
        return {"exploded": first, "opening": start.opening * (1.0 - 2.0 * way)}
    return {"opening": end.opening * (2.0 * way - 1.0)}


def _same_groups(first: Exploded, last: Exploded) -> bool:
    """Whether they go the same ways, perhaps more or less far."""
    same = (first.direction, first.path) == (last.direction, last.path)
    return same and [(g.what, g.path) for g in first.groups] == [(g.what, g.path) for g in last.groups]


def _detail_at(first: Detail | None, last: Detail, way: float) -> Detail:
    """A detail on its way; one that was not there is where it will be."""
    if first is None:
        return last
    x, y, z, times, turn = numbers_part_way((*first.place, first.times, first.turn), (*last.place, last.times, last.turn), way)
    return last.model_copy(update={"place": (x, y, z), "times": times, "turn": turn})


def _crop_at(first: Crop | None, last: Crop | None, aspect: float, way: float) -> Crop | None:
    """The crop on its way; from all of the stage, or to all of it, where there is none."""
    if first is None and last is None:
        return None
    whole = Crop(aspect=aspect, height=1.0)
    a, b = first or whole, last or whole
    width, height, x, y = numbers_part_way((a.width, a.height, *a.at), (b.width, b.height, *b.at), way)
    return (last or a).model_copy(update={"aspect": width / height, "height": height, "at": (x, y)})
