"""Scenes shown one after the other. Nothing of it is part of the project: a cut that is moved is back with the next scene."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QObject, Signal

from anatome.app.base.drag import Spot
from anatome.app.document.session import Session
from anatome.app.stage.handles import CutHandles
from anatome.app.stage.passage import Passage
from anatome.app.stage.stage import Stage
from anatome.cuts.cut import AnyCut
from anatome.cuts.grips import pulled
from anatome.scenes import edits
from anatome.scenes.project import Scene, StageState

NOT_PULLED = ("far", "whole")
"""Grips that do not move where a cut is."""


class Presentation(QObject):
    """Which scene is shown, what was moved of it, and whether the screen is black.

    ``began`` and ``ended``; ``changed``: there is another scene, or the same one is shown otherwise.
    """

    began = Signal()
    ended = Signal()
    changed = Signal()

    def __init__(self, session: Session, stage: Stage, passage: Passage) -> None:
        super().__init__(stage)
        self._session, self._stage, self._passage = session, stage, passage
        self._ids: tuple[str, ...] = ()
        self._number = 0
        self.black = False
        self.captions = True
        for signal in (session.opened, session.closed):
            signal.connect(self.leave)

    # What is shown ---------------------------------------------------------------------------------------------

    @property
    def is_on(self) -> bool:
        """Whether scenes are being shown."""
        return bool(self._ids)

    @property
    def scene(self) -> Scene | None:
        """The scene that is shown."""
        return self._session.project.scene(self._ids[self._number]) if self.is_on else None

    @property
    def is_under_way(self) -> bool:
        """Whether the picture is between two scenes."""
        return self._passage.is_under_way

    @property
    def place(self) -> tuple[int, int]:
        """Its number, from 1, and how many there are."""
        return self._number + 1, len(self._ids)

    @property
    def cut(self) -> AnyCut | None:
        """The cut that a drag moves: the one that is seen true, else the first."""
        stage = self._session.stage
        return next(iter((*stage.cuts_seen_true, *stage.active_cuts)), None) if self.is_on else None

    # From scene to scene ---------------------------------------------------------------------------------------

    def begin(self, scenes: Sequence[str] = ()) -> None:
        """Show some scenes, or all of them, from the current one on."""
        project = self._session.project
        ids = tuple(scene.id for scene in project.scenes if not scenes or scene.id in scenes)
        if not ids:
            return
        self._ids, self._number, self.black = ids, 0, False
        if project.current_scene in ids:
            self._number = ids.index(project.current_scene)
        self.began.emit()
        self.show_again()

    def show_again(self) -> None:
        """Show the scene as it was saved, at once; on a stage of another size too."""
        if self.is_on:
            self._passage.end()
            self._arrived(self._state(self._number), False)

    def leave(self) -> None:
        """Show no more; the stage is the project's own again, as it was."""
        if not self.is_on:
            return
        self._passage.end()
        self._ids, self.black = (), False
        self._stage.ahead.want(())
        self._session.show_for_now(None)
        self.ended.emit()

    def go(self, by: int) -> None:
        """Go so many scenes on, or back; not past the ends. From a black screen the same scene comes back first."""
        if self.black:
            self.show_black(False)
            return
        self.go_to(self._number + by)

    def go_to(self, number: int) -> None:
        """Go to a scene by its number, from 0."""
        number = min(max(number, 0), len(self._ids) - 1)
        if not self.is_on or number == self._number:
            return
        before, self._number = self._session.stage, number
        self.black = False
        self._passage.begin(before, self._state(number), self._arrived, self._ids[number])
        self.changed.emit()

    def show_black(self, on: bool) -> None:
        """Turn the screen black, or show the scene again."""
        self.black = on and self.is_on
        self.changed.emit()

    def show_captions(self, on: bool) -> None:
        """Say at the foot which scene it is, or not."""
        self.captions = on
        self.changed.emit()

    def _state(self, number: int) -> StageState:
        return edits.recall_scene(self._session.project, self._ids[number], self._stage.aspect).stage

    def _arrived(self, state: StageState, stopped: bool) -> None:
        if not self.is_on:
            return
        self._session.show_for_now(state, scene=self._ids[self._number])
        around = [n for n in (self._number + 1, self._number - 1) if 0 <= n < len(self._ids)]
        self._stage.ahead.want([self._state(n) for n in around])
        self.changed.emit()

    # The cut ---------------------------------------------------------------------------------------------------

    def handles(self) -> CutHandles | None:
        """Return the handles of the cut that a drag moves, as they lie now."""
        cut = self.cut
        return None if cut is None else CutHandles.place(cut, self._session.subject_bounds(), self._stage.viewport)

    def pull(self, handles: CutHandles, start: Spot, now: Spot) -> None:
        """Move a cut along its axis, or the face of it nearest to where the drag began, from where it was then."""
        knobs = [knob for knob in handles.knobs if knob.grip.travels and knob.name not in NOT_PULLED]
        if not knobs:
            return
        knob = min(knobs, key=lambda k: float(np.hypot(*(k.foot - start))))
        moved = pulled(handles.cut, knob.name, handles.pull(knob.name, start, now))
        state = self._session.stage
        cuts = tuple(moved if cut.id == moved.id else cut for cut in state.cuts)
        self._session.show_for_now(state.model_copy(update={"cuts": cuts}), scene=self._ids[self._number])
