"""Edits of the notes on the stage: functions from a project to the next."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from anatome.notes.note import AnyNote, NoteStyle
from anatome.scenes.project import Project, Scene


def put_notes(project: Project, notes: Sequence[AnyNote]) -> Project:
    """Notes changed, or added behind those there are; and what is written is shown."""
    changed = {note.id: note for note in notes}
    kept = tuple(changed.pop(note.id, note) for note in project.stage.notes)
    return project.with_stage(notes=(*kept, *changed.values()), notes_shown=True)


def take_notes(project: Project, ids: Iterable[str]) -> Project:
    """Without these."""
    gone = frozenset(ids)
    return project.with_stage(notes=tuple(n for n in project.stage.notes if n.id not in gone))


def show_notes(project: Project, on: bool) -> Project:
    """Draw them, or not."""
    return project.with_stage(notes_shown=on)


def set_note_style(project: Project, style: NoteStyle) -> Project:
    """Return how all of them are written."""
    return project.with_stage(note_style=style)


def with_notes(scene: Scene, on: bool) -> Scene:
    """Return a scene that shows its notes, or does not."""
    return scene.model_copy(update={"state": scene.state.model_copy(update={"notes_shown": on})})


def without_notes(scene: Scene) -> Scene:
    """Return a scene with nothing written on it."""
    return scene.model_copy(update={"state": scene.state.model_copy(update={"notes": ()})})
