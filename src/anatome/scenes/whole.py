"""The whole that scenes are cut from: the model with the meaning its parts are given, and with what stands round it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from anatome.model.building import Building
from anatome.model.meaning import with_meaning
from anatome.model.several import placed, together
from anatome.scenes.project import OtherModel, Project
from anatome.site.bodies import with_site


def models_together(first: Building, read: Mapping[str, Building], others: Sequence[OtherModel]) -> Building:
    """Return the first model of a project with the others that are on, of those that were ``read``, by their ids."""
    standing = [
        placed(read[other.id], first, other.name, other.id, np.array(other.shift), other.turn)
        for other in others
        if other.on and other.id in read
    ]
    return together(first, standing)


def meant(model: Building, project: Project) -> Building:
    """Return the model with the meaning a project gives to its parts."""
    return with_meaning(model, project.meanings)


def whole_of(model: Building, project: Project) -> Building:
    """Return the model as a project has it; the model itself where it gives it nothing and nothing stands round it."""
    return with_site(meant(model, project), project.site)
