"""The frames of a film, drawn one by one into a folder: a film that was stopped is taken up again from those there are."""

from __future__ import annotations

import hashlib
import io
import json
from collections.abc import Callable, Generator, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from anatome.files import make_folder, write_whole
from anatome.filming.words import caption_drawn, card_drawn, fields_of_film, with_words, words_on_paper
from anatome.films.moves import Moment
from anatome.films.timeline import Timeline
from anatome.linework.drawing import Drawing
from anatome.linework.so_far import so_far
from anatome.linework.view_drawing import view_drawing
from anatome.look.look import Look, Rgb
from anatome.notes.facts import Facts
from anatome.notes.marks import NotesDrawn
from anatome.problems import Problem
from anatome.render.drawings import drawing_image
from anatome.render.pictures import Ground, PictureMaker
from anatome.render.steps import finished
from anatome.scenes.film import Film
from anatome.scenes.project import Project, StageState
from anatome.scenes.scene_view import View, view_of
from anatome.scenes.sheet_frames import filled

Pixels = NDArray[np.uint8]
ABOUT = "film.json"
"""What a folder of frames is of."""
KEPT = 4
"""Pictures that are kept while they stay the same."""


@dataclass(frozen=True)
class FrameSettings:
    """Pixels, frames a second, what lies under the picture, and samples of each; as many as finished pictures have if none."""

    size: tuple[int, int]
    rate: float = 25.0
    ground: Ground = "paper"
    samples: int | None = None


@dataclass(frozen=True, eq=False)
class FramePart:
    """One of the pictures a frame is mixed of, ``solid`` by a share: of a ``view``, words on ``paper``, or linework on a paper's
    colour; ``key`` is what it is known by while it stays the same."""

    solid: float
    view: View | None
    paper: tuple[Look, NotesDrawn] | None = None
    key: object = None
    lines: tuple[Drawing, Rgb] | None = None


@dataclass(frozen=True, eq=False)
class FramePlan:
    """What a frame is drawn of: pictures mixed, and words over them."""

    parts: tuple[FramePart, ...]
    caption: NotesDrawn | None


class FrameDrawer:
    """Draws the frames of a film. What stays the same from frame to frame is drawn once."""

    def __init__(self, timeline: Timeline, project: Project, settings: FrameSettings, facts: Facts | None = None) -> None:
        self._timeline, self.settings, self._facts = timeline, settings, facts
        self._fields = fields_of_film(timeline.film, project)
        self._kept: dict[object, Pixels] = {}
        self._linework: tuple[StageState, Drawing] | None = None

    @property
    def aspect(self) -> float:
        """Width over height."""
        return self.settings.size[0] / self.settings.size[1]

    @property
    def frames(self) -> int:
        """How many there are. Raises Problem."""
        return self._timeline.frames(self.settings.rate)

    def plan(self, number: int) -> FramePlan:
        """Return what a frame, counted from 0, is made of."""
        return self.plan_at(number / self.settings.rate)

    def plan_at(self, time: float) -> FramePlan:
        """Return what is seen at a time in seconds."""
        moment = self._timeline.at(time)
        parts = list(self._parts(moment, 1.0 - moment.faint))
        if moment.before is not None and moment.faint > 0.0:
            parts += self._parts(moment.before, moment.faint)
        words = moment.caption and filled(moment.caption, self._fields | self._of_scene(time))
        look = moment.state.look
        return FramePlan(
            tuple(part for part in parts if part.solid > 0.0), caption_drawn(words, look, self.aspect) if words else None
        )

    def _of_scene(self, time: float) -> dict[str, str]:
        return {"scene": self._timeline.scene_at(time).name}

    def _parts(self, moment: Moment, solid: float) -> Iterator[FramePart]:
        if moment.card is not None:
            drawn = card_drawn(moment.card, self._fields, moment.state.look, self.aspect)
            yield FramePart(solid, None, (moment.state.look, drawn), ("card", moment.card))
            return
        if moment.lines is not None:
            whole = self._lines_of(moment)
            known = ("lines", id(whole)) if moment.lines >= 1.0 else None
            yield FramePart(solid, None, key=known, lines=(so_far(whole, moment.lines), moment.state.look.paper))
            return
        scene = moment.scene
        words = moment.words if scene is not None and scene.state.is_written_on else 1.0
        for written, part in ((True, words), (False, 1.0 - words)):
            key = None if scene is None else ("scene", scene.id, written)
            if part > 0.0:
                yield FramePart(solid * part, None if key in self._kept else self._view(moment, written), None, key)

    def _lines_of(self, moment: Moment) -> Drawing:
        """The linework of a moment, drawn once for a camera."""
        key = moment.state
        if self._linework is None or self._linework[0] is not key:
            view = self._view(moment, False)
            self._linework = key, view_drawing(replace(view, frame=view.frame.sized(*self.settings.size)), "")
        return self._linework[1]

    def _view(self, moment: Moment, written: bool) -> View:
        """What a moment is a picture of: of a scene that stands still exactly what its own picture is."""
        scene = moment.shown
        view = view_of(self._timeline.cutter, scene, scene.camera_for(self.aspect), self._timeline.site, self._facts)
        view = view if written else replace(view, notes=None)
        return view if moment.dissolve is None else replace(view, dissolve=moment.dissolve)

    def steps(self, maker: PictureMaker, plan: FramePlan) -> Generator[float, None, Pixels]:
        """Draw a frame, (h, w, 4) RGBA, in steps of a few milliseconds, each of which gives the share done."""
        mixed: NDArray[np.float32] | None = None
        pixels = None
        for number, part in enumerate(plan.parts):
            pixels = self._kept.get(part.key) if part.key is not None else None
            if pixels is None:
                pixels = yield from self._drawn(maker, part, number / len(plan.parts), 1.0 / len(plan.parts))
            if len(plan.parts) > 1:
                mixed = part.solid * _premultiplied(pixels) + (0.0 if mixed is None else mixed)
        found = pixels if mixed is None else _straight(mixed)
        assert found is not None
        return found if plan.caption is None else with_words(found, plan.caption)

    def _drawn(self, maker: PictureMaker, part: FramePart, begins: float, share: float) -> Generator[float, None, Pixels]:
        settings = self.settings
        if part.lines is not None:
            pixels = drawing_image(part.lines[0], settings.size, part.lines[1])
        elif part.view is None:
            assert part.paper is not None
            pixels = words_on_paper(*part.paper, settings.size)
        else:
            steps = maker.steps(part.view, settings.size, settings.ground, settings.samples)
            while True:
                try:
                    yield begins + share * next(steps)
                except StopIteration as end:
                    pixels = end.value
                    break
        if part.key is not None:
            while len(self._kept) >= KEPT:
                self._kept.pop(next(iter(self._kept)))
            self._kept[part.key] = pixels
        return pixels

    def draw(self, maker: PictureMaker, number: int) -> Pixels:
        """Return a frame, counted from 0, as (h, w, 4) RGBA."""
        return finished(self.steps(maker, self.plan(number)))


def _premultiplied(pixels: Pixels) -> NDArray[np.float32]:
    found = pixels.astype(np.float32)
    found[..., :3] *= found[..., 3:] / np.float32(255)
    return found


def _straight(mixed: NDArray[np.float32]) -> Pixels:
    alpha = mixed[..., 3:] / np.float32(255)
    mixed[..., :3] /= np.maximum(alpha, 1e-6)
    return np.clip(np.round(mixed), 0, 255).astype(np.uint8)


def told_of(film: Film, project: Project, settings: FrameSettings) -> str:
    """Return what tells the frames of a film from those of another one, or of another state of the project."""
    scenes = [scene.model_dump_json() for scene in project.scenes if scene.id in {shot.scene for shot in film.shots}]
    parts = [film.model_dump_json(), *scenes, project.site.model_dump_json(), project.meanings.model_dump_json()]
    parts += [repr(fields_of_film(film, project))]
    parts += [repr(project.models), repr(settings)]
    return hashlib.sha256("\n".join(parts).encode()).hexdigest()


def frame_png(pixels: Pixels) -> bytes:
    """Return a frame as it is kept, a PNG."""
    buffer = io.BytesIO()
    Image.fromarray(pixels).save(buffer, "PNG", compress_level=3)
    return buffer.getvalue()


class FrameFolder:
    """PNG files numbered from 0001, and what they are of."""

    def __init__(self, path: Path, told: str, count: int) -> None:
        """Raises Problem for a folder with frames of something else."""
        self.path, self._count = path, count
        make_folder(path)
        about = path / ABOUT
        if about.exists():
            try:
                known = json.loads(about.read_text())["of"]
            except (OSError, ValueError, KeyError, TypeError):
                known = ""
            if known != told:
                raise Problem(f"“{path}” has frames of another film, or of this one as it was. Give another folder, or empty it.")
        else:
            if any(path.glob("[0-9][0-9][0-9][0-9]*.png")):
                raise Problem(f"“{path}” has pictures of something else. Give another folder.")
            write_whole(about, json.dumps({"of": told, "frames": count}, indent=1).encode())

    def file(self, number: int) -> Path:
        """Return where a frame lies, counted from 0."""
        return self.path / f"{number + 1:04d}.png"

    def missing(self, numbers: Sequence[int] | None = None) -> list[int]:
        """Return those frames that are not there yet, of some or of all."""
        return [number for number in (range(self._count) if numbers is None else numbers) if not self.file(number).exists()]

    def put(self, number: int, pixels: Pixels) -> None:
        """Keep a frame, whole or not at all."""
        self.put_png(number, frame_png(pixels))

    def put_png(self, number: int, content: bytes) -> None:
        """Keep a frame that is packed already."""
        write_whole(self.file(number), content)

    def read(self, number: int) -> Pixels:
        """Return a frame, counted from 0."""
        with Image.open(self.file(number), formats=["PNG"]) as image:
            return np.asarray(image.convert("RGBA"))

    def all(self) -> Iterator[Pixels]:
        """Return the frames in their order."""
        return map(self.read, range(self._count))


def draw_frames(
    folder: FrameFolder, draw: Callable[[int], Pixels], numbers: Sequence[int], told: Callable[[int, int], bool] | None = None
) -> None:
    """Draw those frames of some that are not there yet. ``told`` hears how many of how many are done, and may return False to
    stop, which raises Problem; what is done stays."""
    missing = folder.missing(numbers)
    for done, number in enumerate(missing, 1):
        folder.put(number, draw(number))
        if told is not None and not told(done, len(missing)):
            raise Problem("The film was stopped; the frames there are will be used when it is made again.")
