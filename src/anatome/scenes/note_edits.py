"""Edits of the notes on the stage: functions from a project to the next."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from anatome.notes.note import AnyNote, NoteStyle
from anatome.problems import Problem
from anatome.scenes.project import Project, Scene, StageState


def put_notes(project: Project, notes: Sequence[AnyNote]) -> Project:
    """Notes changed, or added behind those there are; and what is written is shown. One that is changed is no longer where
    dressing placed it."""
    given = {note.id: note for note in notes}

    def changed(old: AnyNote) -> AnyNote:
        new = given.pop(old.id, old)
        return new if new == old else new.model_copy(update={"dressed": None})

    kept = tuple(changed(note) for note in project.stage.notes)
    return project.with_stage(notes=(*kept, *given.values()), notes_shown=True)


def replace_notes(project: Project, notes: Sequence[AnyNote]) -> Project:
    """Return the stage with these notes and no others."""
    return project.with_stage(notes=tuple(notes), notes_shown=True)


def replace_notes_of_scene(project: Project, scene_id: str, notes: Sequence[AnyNote]) -> Project:
    """Return a scene with these notes and no others; a stage that shows the scene as it is goes along. A locked one stays as it
    is."""
    scene = project.scene(scene_id)
    if scene is not None and scene.locked:
        return project

    def written(state: StageState) -> StageState:
        return state.model_copy(update={"notes": tuple(notes), "notes_shown": True})

    scenes = tuple(s.model_copy(update={"state": written(s.state)}) if s.id == scene_id else s for s in project.scenes)
    changes: dict[str, object] = {"scenes": scenes}
    if project.current_scene == scene_id and not project.differs_from_scene:
        stage = written(project.stage)
        changes |= {"stage": stage, "scene_as_shown": stage}
    return project.model_copy(update=changes)


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


def keep_note_style(project: Project, style: NoteStyle) -> Project:
    """Return the project with a style kept under its name, in place of one that is called so. Raises Problem without a name."""
    if not style.name.strip():
        raise Problem("Give the style a name.")
    others = tuple(own for own in project.note_styles if own.name != style.name)
    return project.model_copy(update={"note_styles": (*others, style)})


def forget_note_style(project: Project, name: str) -> Project:
    """Return the project without the style of a name; notes that have it keep it."""
    return project.model_copy(update={"note_styles": tuple(own for own in project.note_styles if own.name != name)})


def with_notes(scene: Scene, on: bool) -> Scene:
    """Return a scene that shows its notes, or does not."""
    return scene.model_copy(update={"state": scene.state.model_copy(update={"notes_shown": on})})


def without_notes(scene: Scene) -> Scene:
    """Return a scene with nothing written on it."""
    return scene.model_copy(update={"state": scene.state.model_copy(update={"notes": ()})})
