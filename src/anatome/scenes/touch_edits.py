"""Edits of the lines that are touched up on the stage: functions from a project to the next."""

from __future__ import annotations

from collections.abc import Iterable

from anatome.notes.touching_up import AnyTouchUp
from anatome.scenes.project import Project


def put_touch_up(project: Project, one: AnyTouchUp) -> Project:
    """Touch up, or change what is touched up so. Later ones hold over earlier ones."""
    there = any(own.id == one.id for own in project.stage.touched_up)
    kept = tuple(one if own.id == one.id else own for own in project.stage.touched_up)
    return project.with_stage(touched_up=kept if there else (*kept, one))


def take_touch_ups(project: Project, ids: Iterable[str]) -> Project:
    """Return the stage without these: lines are as they would be."""
    gone = frozenset(ids)
    return project.with_stage(touched_up=tuple(own for own in project.stage.touched_up if own.id not in gone))
