"""The pictures of a page: what is to be drawn, one after the other, by whoever has a context to draw on."""

from __future__ import annotations

import hashlib
from collections.abc import Generator
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.dissection import Cutter
from anatome.filming.frames import FrameDrawer, FramePlan, FrameSettings
from anatome.films.moves import Moment, Setting
from anatome.films.timeline import Timeline
from anatome.model.building import Building
from anatome.notes.facts import Facts
from anatome.notes.marks import NotesDrawn
from anatome.page.contents import ClientPage, PageItem
from anatome.page.model import TurnedModel, turned_model
from anatome.page.strips import Strip, strip_of
from anatome.problems import Problem
from anatome.render.drawings import notes_image
from anatome.render.pictures import PictureMaker
from anatome.render.steps import finished
from anatome.scenes.film import Film
from anatome.scenes.project import Project, Scene
from anatome.scenes.scene_view import View, view_of

Pixels = NDArray[np.uint8]

FILM_SIZE, FILM_RATE = (960, 540), 20.0
LARGER = 2.0
"""How many times as large a picture is that one looks into."""
WIDEST = 4096
SAMPLES = 8
"""Of frames one drags through; pictures that stand have as many as finished ones."""
ASPECTS = (0.6, 2.4)

Kind = Literal["picture", "frame", "other look", "notes", "larger", "film"]


@dataclass(frozen=True)
class Wanted:
    """A picture that is wanted: of which ``item`` or film, by its number, what of it, and which ``frame``."""

    item: int
    kind: Kind
    frame: int = 0


@dataclass(frozen=True, eq=False)
class Planned:
    """What a picture is made of: a ``view``, what is written, or a frame of a film, in pixels across and up."""

    size: tuple[int, int]
    samples: int | None = None
    view: View | None = None
    notes: NotesDrawn | None = None
    film: tuple[FrameDrawer, FramePlan] | None = None


class PagePictures:
    """Raises Problem for a page that cannot be made: of scenes or films that are gone, of cuts that are not there."""

    def __init__(self, page: ClientPage, project: Project, cutter: Cutter, facts: Facts | None = None) -> None:
        if not page.items and not page.films:
            raise Problem("A page needs a scene or a film. Choose one at least.")
        self.page, self.project, self._cutter, self.facts = page, project, cutter, facts
        self.scenes = [self._scene(item) for item in page.items]
        self.films = [self._film(film) for film in page.films]
        self.strips = [self._strip(item, scene) for item, scene in zip(page.items, self.scenes)]
        self._drawers: dict[int, FrameDrawer] = {}
        self.wanted = list(self._all())

    def _scene(self, item: PageItem) -> Scene:
        scene = self.project.scene(item.scene)
        if scene is None:
            raise Problem("A scene of the page is gone. Take it off the page, or choose another one.")
        return scene

    def _film(self, film_id: str) -> Film:
        film = self.project.film(film_id)
        if film is None:
            raise Problem("A film of the page is gone. Take it off the page, or choose another one.")
        return film

    def _setting(self, scene: Scene) -> Setting:
        return Setting(self._cutter, self.project.site, aspect_of(scene))

    def _strip(self, item: PageItem, scene: Scene) -> Strip | None:
        return strip_of(item, scene, self._setting(scene), self.page.frames)

    def model(self, number: int) -> TurnedModel | None:
        """Return the model of an item, if it is turned as one. Raises Problem."""
        item, scene = self.page.items[number], self.scenes[number]
        if item.shows != "model":
            return None
        return turned_model(item, scene, self._setting(scene), self.page.frames, aspect_of(scene))

    def _all(self) -> Generator[Wanted, None, None]:
        for number, (item, scene, strip) in enumerate(zip(self.page.items, self.scenes, self.strips)):
            if strip is None:
                yield Wanted(number, "picture")
            else:
                for frame in range(len(strip.moments)):
                    yield Wanted(number, "frame", frame)
            if item.shows == "looks":
                yield Wanted(number, "other look")
            if scene.state.is_written_on and item.shows != "model":
                yield Wanted(number, "notes")
            if self.page.zoom:
                yield Wanted(number, "larger")
        for number in range(len(self.films)):
            for frame in range(self._drawer(number).frames):
                yield Wanted(number, "film", frame)

    def _drawer(self, number: int) -> FrameDrawer:
        if number not in self._drawers:
            timeline = Timeline(self.films[number], self.project, self._cutter, FILM_SIZE[0] / FILM_SIZE[1])
            settings = FrameSettings(FILM_SIZE, FILM_RATE, "paper", SAMPLES)
            self._drawers[number] = FrameDrawer(timeline, self.project, settings, self.facts)
        return self._drawers[number]

    @property
    def building(self) -> Building:
        """What the pictures are of."""
        return self._cutter.building

    @property
    def told(self) -> str:
        """What tells these pictures from those of another page, or of another state of the project."""
        project = self.project
        parts = [self.page.model_copy(update={"most": 1.0, "words": "", "title": ""}).model_dump_json()]
        parts += [scene.model_dump_json() for scene in project.scenes] + [film.model_dump_json() for film in self.films]
        parts += [project.site.model_dump_json(), project.meanings.model_dump_json(), repr(project.models)]
        return hashlib.sha256("\n".join(parts).encode()).hexdigest()

    def size_of(self, scene: Scene, times: float = 1.0) -> tuple[int, int]:
        """Return pixels across and up of the pictures of a scene."""
        wide = min(self.page.width * times, WIDEST)
        return round(wide), round(wide / aspect_of(scene))

    def plan(self, number: int) -> Planned:
        """Return what a picture is made of, by its number from 0: what takes time and no context."""
        wanted = self.wanted[number]
        if wanted.kind == "film":
            drawer = self._drawer(wanted.item)
            return Planned(FILM_SIZE, film=(drawer, drawer.plan(wanted.frame)))
        item, scene, strip = self.page.items[wanted.item], self.scenes[wanted.item], self.strips[wanted.item]
        size = self.size_of(scene, LARGER if wanted.kind == "larger" else 1.0)
        if wanted.kind == "notes":
            notes = self._view(Moment(scene.state, frame=scene.frame, scene=scene)).notes_on(size)
            return Planned(size, notes=notes)
        if wanted.kind == "other look":
            state = scene.state.model_copy(update={"look": item.look or scene.state.look, "overrides": ()})
            return Planned(size, view=self._bare(Moment(state, frame=scene.frame)))
        if wanted.kind == "frame":
            assert strip is not None
            return Planned(size, SAMPLES, self._bare(strip.moments[wanted.frame]))
        moment = strip.moments[strip.home] if strip is not None else Moment(scene.state, frame=scene.frame, scene=scene)
        return Planned(size, view=self._bare(moment))

    def _view(self, moment: Moment) -> View:
        scene = moment.shown
        camera = scene.camera_for(aspect_of(scene))
        return view_of(self._cutter, scene, camera, self.project.site, self.facts)

    def _bare(self, moment: Moment) -> View:
        """Without what is written: that is a picture of its own, which comes and goes."""
        return replace(self._view(moment), notes=None)

    def steps(self, maker: PictureMaker, planned: Planned) -> Generator[float, None, Pixels]:
        """Draw a picture, (h, w, 4) RGBA, in steps of a few milliseconds, each of which gives the share done."""
        if planned.film is not None:
            drawer, plan = planned.film
            return (yield from drawer.steps(maker, plan))
        if planned.view is None:
            wide, high = planned.size
            return np.zeros((high, wide, 4), np.uint8) if planned.notes is None else notes_image(planned.notes, planned.size)
        return (yield from maker.steps(planned.view, planned.size, "paper", planned.samples))

    def draw(self, maker: PictureMaker, number: int) -> Pixels:
        """Return a picture by its number from 0, (h, w, 4) RGBA."""
        return finished(self.steps(maker, self.plan(number)))


def aspect_of(scene: Scene) -> float:
    """Return how many times as wide as high a scene is on a page; the widest and the highest give way."""
    return min(max(scene.aspect, ASPECTS[0]), ASPECTS[1])
