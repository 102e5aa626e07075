"""The whole that scenes are cut from: the model with the meaning its parts are given, and with what stands round it."""

from __future__ import annotations

from anatome.model.building import Building
from anatome.model.meaning import with_meaning
from anatome.scenes.project import Project
from anatome.site.bodies import with_site


def meant(model: Building, project: Project) -> Building:
    """Return the model with the meaning a project gives to its parts."""
    return with_meaning(model, project.meanings)


def whole_of(model: Building, project: Project) -> Building:
    """Return the model as a project has it; the model itself where it gives it nothing and nothing stands round it."""
    return with_site(meant(model, project), project.site)
