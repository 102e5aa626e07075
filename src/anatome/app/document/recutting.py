"""Cutting off the window's thread: the latest state asked for is cut next, what came between is passed over."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal

from anatome.app.base.work import begin_thread
from anatome.cuts.dissection import CutBuilding, Cutter
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.plan_level import plan_level
from anatome.look.styles import resolve
from anatome.model.building import Building
from anatome.scenes.look_edits import drawn_look
from anatome.scenes.opened import kept_of, left_of, opened
from anatome.scenes.project import Project, StageState
from anatome.site.kinds import prepare_figures

AT_HAND = 4
"""States whose cuts were made elsewhere that are kept for when they are asked for."""


@dataclass(frozen=True, eq=False)
class Recut:
    """A state as its cuts leave it: ``left`` with serial sections passed over, ``kept`` without the cuts that only part it,
    ``shown`` as the stage shows it."""

    key: object
    left: CutBuilding
    kept: CutBuilding
    shown: ShownBuilding


def state_key(state: StageState) -> object:
    """Return all of a state that cutting depends on."""
    return (state.cuts, state.hidden, state.treatments, state.poche, state.series, *state.apart_key)


def recut(cutter: Cutter, state: StageState) -> Recut:
    """Cut a state open, with all that a picture of it will ask for."""
    left, kept, shown = left_of(cutter, state), kept_of(cutter, state), opened(cutter, state)
    for found in {id(found): found for found in (left, kept, *(part.cut_open for part in shown.parts))}.values():
        prepare(found)
    return Recut(state_key(state), left, kept, shown)


def prepare(found: CutBuilding) -> None:
    """Work out now what would otherwise be worked out when it is first drawn."""
    building = found.building
    for face in found.faces:
        filled = face.poche
        _ = filled.caps, filled.outline_segments
    found.groups(building.clusters)
    found.groups(building.feature_edges.clusters)
    _ = found.bounds


def refine(result: Recut) -> None:
    """Work out what only a picture that is still needs: the lines of cut faces by how heavy they are."""
    for part in result.shown.parts:
        for face in part.cut_open.faces:
            _ = face.contours


def prepare_first(building: Building, project: Project, first: Recut) -> None:
    """Work out now, on whatever thread this is, what panels and stage will ask for first."""
    refine(first)
    resolve(drawn_look(project.stage, project.site, building), building)
    prepare_figures(project.site.figures)
    if not building.storeys:
        plan_level(building, None)
    _ = (
        building.index_of,
        building.type_counts,
        building.in_storey,
        building.earth,
        building.context,
        building.name_rank,
        building.level_turn,
    )


class Recutter(QObject):
    """A thread that cuts one building. ``finished`` comes from that thread when a new result is there."""

    finished = Signal()

    def __init__(self, building: Building, first: Recut | None = None) -> None:
        super().__init__()
        self._cutter = Cutter(building)
        self._condition = threading.Condition()
        self._wanted: StageState | None = None
        self._asked: object = first.key if first else None
        self._result = first
        self._ahead: OrderedDict[object, Recut] = OrderedDict()
        self._failed: tuple[object, Exception] | None = None
        self._closed = False
        self._thread: threading.Thread | None = None

    @property
    def result(self) -> Recut | None:
        """The latest there is."""
        return self._result

    def keep(self, made: Recut) -> Recut:
        """Have at hand what was cut elsewhere, for when it is asked for; the last few of them. Return it, or what is at
        hand of its state already."""
        with self._condition:
            if self._result is not None and self._result.key == made.key:
                return self._result
            made = self._ahead.setdefault(made.key, made)
            self._ahead.move_to_end(made.key)
            while len(self._ahead) > AT_HAND:
                self._ahead.popitem(last=False)
            return made

    def take_failure(self) -> Exception | None:
        """Why the last state could not be cut, once."""
        failed, self._failed = self._failed, None
        return failed[1] if failed else None

    def get(self, state: StageState, patience: float) -> Recut | None:
        """Return the state cut open if that takes no longer than ``patience`` seconds; else the latest there is, and more
        later."""
        key = state_key(state)
        with self._condition:
            if self._asked == key and self._result is not None:
                return self._result
            if key in self._ahead:
                self._asked, self._wanted, self._result = key, None, self._ahead[key]
                return self._result
            self._asked, self._wanted = key, state
            if self._thread is None:
                self._thread = begin_thread("cutting", self._run)
            self._condition.notify_all()
            self._condition.wait_for(lambda: self._is_there(key), patience)
            return self._result

    def is_current(self, state: StageState) -> bool:
        """Return whether the latest there is belongs to this state, or nothing better will come."""
        key = state_key(state)
        return (self._result is not None and self._result.key == key) or (self._asked == key and self._wanted is None)

    def close(self) -> None:
        """Stop when the cut under way is done."""
        with self._condition:
            self._closed, self._wanted = True, None
            self._condition.notify_all()

    def _is_there(self, key: object) -> bool:
        return (self._result is not None and self._result.key == key) or (self._failed is not None and self._failed[0] == key)

    def _run(self) -> None:
        while True:
            with self._condition:
                self._condition.wait_for(lambda: self._closed or self._wanted is not None)
                if self._closed:
                    return
                state = self._wanted
                assert state is not None
            result, error = None, None
            try:
                result = recut(self._cutter, state)
            except Exception as problem:
                error = problem
            with self._condition:
                if self._wanted is state:
                    self._wanted = None
                if result is not None:
                    if self._result is None or self._result.key != self._asked:  # it may have been at hand by now
                        self._result = result
                elif error is not None:
                    self._failed = state_key(state), error
                self._condition.notify_all()
                closed = self._closed
            if not closed:
                try:
                    self.finished.emit()
                except RuntimeError:
                    return  # the window is gone
                if result is not None and self._wanted is None:
                    try:
                        refine(result)
                    except Exception:
                        pass  # whoever draws it meets the same error, and tells it
