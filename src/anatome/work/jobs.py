"""What is drawn in many pictures, as values that can be sent to another process: each says how many there are, and draws any of
them."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.dissection import Cutter
from anatome.filming.frames import FrameDrawer, FrameSettings, told_of
from anatome.films.timeline import Timeline
from anatome.model.building import Building
from anatome.notes.facts import Facts
from anatome.page.contents import ClientPage
from anatome.page.pictures import PagePictures
from anatome.render.pictures import Ground, PictureMaker
from anatome.render.stills import lit
from anatome.scenes.film import Film
from anatome.scenes.project import Project, Scene
from anatome.scenes.scene_view import view_of

Pixels = NDArray[np.uint8]


class Job(Protocol):
    """Many pictures of one building."""

    @property
    def building(self) -> Building:
        """What they are of."""

    @property
    def told(self) -> str:
        """What tells them from those of another job, or of another state of the project."""

    def draw(self, maker: PictureMaker, number: int) -> Pixels:
        """Return a picture by its number from 0, (h, w, 4) RGBA."""


@dataclass(frozen=True, eq=False)
class _OfProject:
    """What all have; whatever is worked out of it stays in the process it was worked out in."""

    project: Project
    building: Building
    facts: Facts | None = field(default=None, repr=False)

    def __getstate__(self) -> dict[str, Any]:
        return {name: vars(self)[name] for name in self.__dataclass_fields__}

    def __setstate__(self, state: dict[str, Any]) -> None:
        vars(self).update(state)

    @cached_property
    def cutter(self) -> Cutter:
        return Cutter(self.building)


@dataclass(frozen=True, eq=False)
class FilmJob(_OfProject):
    """The frames of a film, ``count`` of them."""

    film: Film = field(kw_only=True)
    settings: FrameSettings = field(kw_only=True)

    @cached_property
    def timeline(self) -> Timeline:
        """The film put to the building. Raises Problem."""
        return Timeline(self.film, self.project, self.cutter, self.settings.size[0] / self.settings.size[1])

    @cached_property
    def _drawer(self) -> FrameDrawer:
        return FrameDrawer(self.timeline, self.project, self.settings, self.facts)

    @property
    def told(self) -> str:
        return told_of(self.film, self.project, self.settings)

    def draw(self, maker: PictureMaker, number: int) -> Pixels:
        return self._drawer.draw(maker, number)


@dataclass(frozen=True, eq=False)
class PageJob(_OfProject):
    """The pictures of a page."""

    page: ClientPage = field(kw_only=True)

    @cached_property
    def pictures(self) -> PagePictures:
        """What is wanted. Raises Problem."""
        return PagePictures(self.page, self.project, self.cutter, self.facts)

    @property
    def told(self) -> str:
        return self.pictures.told

    def draw(self, maker: PictureMaker, number: int) -> Pixels:
        return self.pictures.draw(maker, number)


@dataclass(frozen=True, eq=False)
class PictureJob(_OfProject):
    """Pictures of ``scenes``, each of a size in pixels, stills of so many samples where they are (or all of ``still``)."""

    scenes: tuple[Scene, ...] = field(kw_only=True)
    sizes: tuple[tuple[int, int], ...] = field(kw_only=True)
    ground: Ground = field(kw_only=True, default="transparent")
    still: int | None = field(kw_only=True, default=None)

    @property
    def told(self) -> str:
        parts = [scene.model_dump_json() for scene in self.scenes] + [repr(self.sizes), self.ground, repr(self.still)]
        parts += [self.project.site.model_dump_json(), repr(self.project.models)]
        return hashlib.sha256("\n".join(parts).encode()).hexdigest()

    def draw(self, maker: PictureMaker, number: int) -> Pixels:
        scene, size = self.scenes[number], self.sizes[number]
        view = view_of(self.cutter, scene, scene.camera_for(size[0] / size[1]), self.project.site, self.facts)
        lighted = lit(view, size, scene.state.still if self.still is None else self.still)
        return maker.picture(lighted, size, self.ground)
