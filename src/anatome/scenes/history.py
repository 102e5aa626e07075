"""Undo and redo: a list of project values.

Looking around is a step too, one for each drag, so that whoever misses a handle and turns the view takes back just that. Only
after something was undone it is none: what can be done again still can. What is tried on for a while keeps the view as it is.
"""

from __future__ import annotations

from dataclasses import dataclass

from anatome.scenes.edits import set_camera
from anatome.scenes.project import Project, StageState

LIMIT = 600


@dataclass(frozen=True)
class Step:
    """What was done, and the project before it."""

    label: str
    before: Project
    keeps_view: bool
    merge: str | None


class History:
    """The present project, with the way back and forth."""

    def __init__(self, project: Project, saved: bool = True) -> None:
        """Start with a project; one that is not ``saved`` differs from what lies on the disk from the beginning."""
        self.present = project
        self._past: list[Step] = []
        self._future: list[Step] = []
        self._undone: list[Step] = []
        self._saved: Project | None = project if saved else None

    def apply(self, project: Project, label: str, *, keeps_view: bool = False, merge: str | None = None) -> bool:
        """Make ``project`` the present; False when nothing changed.

        Steps following one another with the same ``merge`` word (one drag, one run of the wheel) count as one. Taking back one
        that ``keeps_view`` leaves the camera where it is by then.
        """
        if project == self.present:
            return False
        last = self._past[-1] if self._past else None
        if merge is None or last is None or last.merge != merge or self._future:
            self._past.append(Step(label, self.present, keeps_view, merge))
            del self._past[:-LIMIT]
            self._undone = self._future
            self._future = []
        self.present = project
        return True

    def end_merge(self) -> None:
        """Let the next step stand on its own even if it has the same merge word."""
        if self._past and self._past[-1].merge is not None:
            last = self._past[-1]
            self._past[-1] = Step(last.label, last.before, last.keeps_view, None)

    def end_merge_of(self, merge: str) -> None:
        """The same, if that is the merge word of the last step."""
        if self._past and self._past[-1].merge == merge:
            self.end_merge()

    def look(self, project: Project, label: str, merge: str | None = None) -> None:
        """Make ``project``, which differs by its camera alone, the present."""
        if self._future:
            self.look_around(project)
        else:
            self.apply(project, label, merge=merge)

    def look_around(self, project: Project) -> None:
        """The same without a step."""
        self.present = project

    def fitted(self, project: Project) -> None:
        """Make ``project`` the present without a step, and nothing to save: the same scene in other proportions, sets folded."""
        if not self.unsaved:
            self._saved = project
        self.present = project

    def cancel_merge(self, merge: str) -> bool:
        """Take back the running merged step, as if it had not been begun."""
        if self._past and self._past[-1].merge == merge:
            step = self._past.pop()
            # What could be done again before the drag was begun still can.
            self._future = self._undone
            self.present = self._back_to(step)
            return True
        return False

    @property
    def before(self) -> Project | None:
        """What the project was before the last step, to which undoing goes back."""
        return self._past[-1].before if self._past else None

    @property
    def undo_label(self) -> str | None:
        return self._past[-1].label if self._past else None

    @property
    def redo_label(self) -> str | None:
        return self._future[-1].label if self._future else None

    def steps(self) -> tuple[list[tuple[str, StageState]], int]:
        """Return (every step by its label, with the stage after it, from the beginning, which has no label, to the last that can
        be done again; which of them is the present)."""
        after = [*(step.before.stage for step in self._past[1:]), self.present.stage]
        found = [("", self._past[0].before.stage if self._past else self.present.stage)]
        if self._past:
            found += [(step.label, stage) for step, stage in zip(self._past, after)]
        now = len(self._past)
        # What a step undone leads to is kept as what was before going back.
        found += [(step.label, step.before.stage) for step in reversed(self._future)]
        return found, now

    def undo(self) -> str | None:
        """Go back one step; returns its label, or None at the beginning."""
        return self._travel(self._past, self._future)

    def redo(self) -> str | None:
        """Go forward one step; returns its label, or None at the end."""
        return self._travel(self._future, self._past)

    def _travel(self, source: list[Step], target: list[Step]) -> str | None:
        if not source:
            return None
        step = source.pop()
        target.append(Step(step.label, self.present, step.keeps_view, None))
        self.present = self._back_to(step)
        return step.label

    def _back_to(self, step: Step) -> Project:
        before = set_camera(step.before, self.present.stage.camera) if step.keeps_view else step.before
        # How lists are folded is no step.
        now = {"folded_sets": self.present.folded_sets, "open_stacks": self.present.open_stacks}
        same = all(getattr(before, name) == value for name, value in now.items())
        return before if same else before.model_copy(update=now)

    def saved_as(self, written: Project, named: Project) -> None:
        """``written`` was saved, as ``named``: name and model are those from now on, whatever was edited meanwhile."""
        self.present = self.present.model_copy(update={"name": named.name, "model": named.model})
        self._saved = written.model_copy(update={"name": named.name, "model": named.model})

    @property
    def unsaved(self) -> bool:
        """True when the present differs from what was last saved; looking around, and looking at scenes as they are, aside."""
        present, saved = self.present, self._saved
        if saved is None:
            return True
        if present.scene(present.current_scene) is not None and not present.differs_from_scene:
            shown = {"stage": saved.stage, "current_scene": saved.current_scene, "scene_as_shown": saved.scene_as_shown}
            return present.model_copy(update=shown) != saved
        return set_camera(present, saved.stage.camera) != saved
