"""What is on a page, as values."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from anatome.look.look import Look
from anatome.scenes.project import Project, Scene
from anatome.values import Value

Shows = Literal["picture", "cut", "turn", "apart", "day", "looks", "model"]
MEGABYTE = 1e6


class PageItem(Value):
    """A scene, and what whoever opens the page can do in it: nothing, drag its ``cut``, ``turn`` about, open and close what is
    drawn ``apart``, have the sun go through a ``day``, wipe between it and its ``look`` beside, or turn it as
    a light ``model``."""

    scene: str = Field(max_length=64)
    shows: Shows = "picture"
    look: Look | None = None
    words: str = Field(default="", max_length=2000)


class ClientPage(Value):
    """A page: ``items`` in their order, then ``films`` by their ids. Pictures are ``width`` pixels wide, what can be dragged has
    so many ``frames``, and the file at ``most`` so many megabytes."""

    title: str = Field(default="", max_length=200)
    words: str = Field(default="", max_length=2000)
    items: tuple[PageItem, ...] = Field(default=(), max_length=200)
    films: tuple[str, ...] = Field(default=(), max_length=50)
    width: int = Field(default=1200, ge=320, le=4000)
    frames: int = Field(default=25, ge=2, le=200)
    most: float = Field(default=15.0, gt=0, le=1000, description="megabytes")
    zoom: bool = Field(default=True, description="larger pictures to look into")


def usual_item(scene: Scene) -> PageItem:
    """Return what one would do with a scene: what is drawn apart comes together, a cut is dragged, a view of the whole is turned
    about; plans, elevations and pictures with a divide or light that took long to find are looked at as they are."""
    state = scene.state
    if state.still or state.divide is not None or any(series.on for series in state.series):
        return PageItem(scene=scene.id)
    if state.is_apart and state.opening > 0.0:
        return PageItem(scene=scene.id, shows="apart")
    if any(cut.scouted and not cut.peel for cut in state.active_cuts):
        return PageItem(scene=scene.id, shows="cut")
    flat = max(abs(float(c)) for c in state.camera.axes[2]) > 1 - 1e-6
    return PageItem(scene=scene.id, shows="picture" if flat or state.active_cuts else "turn")


def usual_page(project: Project, scenes: tuple[Scene, ...], films: tuple[str, ...] = ()) -> ClientPage:
    """Return a page of some scenes, each with what one would do with it."""
    titles = project.titles
    words = "\n".join(part for part in (titles.organisation, titles.date) if part)
    return ClientPage(title=titles.project or project.name, words=words, items=tuple(map(usual_item, scenes)), films=films)
