"""Edits of the models a project has besides its first."""

from __future__ import annotations

from typing import Any

from anatome.scenes.group_names import with_group_called
from anatome.scenes.project import OtherModel, Project
from anatome.words import unlike


def put_model(project: Project, other: OtherModel) -> Project:
    """Return the project with one model more, or that of the same id as it is now; it gets a name no other has."""
    rest = [o for o in project.others if o.id != other.id]
    taken = [o.name for o in rest]
    named = other if other.name not in taken else other.model_copy(update={"name": unlike(other.name, taken)})
    if len(rest) == len(project.others):
        return project.model_copy(update={"others": (*project.others, named)})
    return project.model_copy(update={"others": tuple(named if o.id == other.id else o for o in project.others)})


def change_model(project: Project, model_id: str, **changes: Any) -> Project:
    """Return the project with one of them placed, called or switched otherwise; what means it by its name follows."""
    found = next((o for o in project.others if o.id == model_id), None)
    if found is None:
        return project
    made = put_model(project, found.model_copy(update=changes))
    name = next(o.name for o in made.others if o.id == model_id)
    return made if name == found.name else with_group_called(made, found.name, name)


def take_model(project: Project, model_id: str) -> Project:
    """Return the project without one of them."""
    return project.model_copy(update={"others": tuple(o for o in project.others if o.id != model_id)})
