"""Edits of what stands round the model."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from typing import Any

from anatome.model.place import Place
from anatome.scenes.project import Project
from anatome.site.site import Figure, Ground, Neighbours, RoughBody


def _site(project: Project, **changes: Any) -> Project:
    return project.model_copy(update={"site": project.site.model_copy(update=changes)})


def set_ground(project: Project, ground: Ground | None) -> Project:
    """Ground with a body, or none."""
    return _site(project, ground=ground)


def set_neighbours(project: Project, neighbours: Neighbours) -> Project:
    """Other blocks round the building, or the same ones elsewhere."""
    return _site(project, neighbours=neighbours)


def set_place(project: Project, place: Place | None) -> Project:
    """Return where on earth it is; None: as the model's file says."""
    return _site(project, place=place)


def put_figure(project: Project, figure: Figure) -> Project:
    """Return one figure more, or the one with the same id as it is now."""
    figures = project.site.figures
    if project.site.figure(figure.id) is None:
        return _site(project, figures=(*figures, figure))
    return _site(project, figures=tuple(figure if f.id == figure.id else f for f in figures))


def take_figures(project: Project, ids: frozenset[str]) -> Project:
    """Without these figures."""
    return _site(project, figures=tuple(f for f in project.site.figures if f.id not in ids))


def put_bodies(project: Project, bodies: Iterable[RoughBody]) -> Project:
    """Return some rough bodies more, or those with the same ids as they are now."""
    new = {body.id: body for body in bodies}
    kept = tuple(new.pop(body.id, body) for body in project.site.bodies)
    return _site(project, bodies=(*kept, *new.values()))


def take_bodies(project: Project, ids: Collection[str]) -> Project:
    """Without these rough bodies."""
    return _site(project, bodies=tuple(b for b in project.site.bodies if b.id not in ids))
