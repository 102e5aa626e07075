"""A project's models put to work: what its scenes are cut from, and its stage cut open."""

from __future__ import annotations

from dataclasses import dataclass

from anatome.app.document.recutting import Recut, prepare_first, recut
from anatome.cuts.dissection import Cutter
from anatome.model.building import Building
from anatome.printing.kept_lines import digest_of
from anatome.scenes.project import Project
from anatome.scenes.whole import meant, whole_of


@dataclass(frozen=True, eq=False)
class Built:
    """The ``building`` with its site, its stage cut open, ``first``, and the digest of its ``lines``."""

    building: Building
    first: Recut
    lines: str


def built(models: Building, project: Project, whole: Building | None = None) -> Built:
    """Join the models of a project with what they are given and with its site, or take that ``whole``, and cut its stage open. It
    takes a while, and touches nothing of Qt."""
    building = whole_of(models, project) if whole is None else whole
    first = recut(Cutter(building), project.stage)
    prepare_first(building, project, first)
    return Built(building, first, digest_of(meant(models, project)))
