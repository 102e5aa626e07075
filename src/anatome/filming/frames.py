"""The frames of a film, drawn one by one into a folder: a film that was stopped is taken up again from those there are."""

from __future__ import annotations

import hashlib
import io
import json
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from anatome.files import make_folder, write_whole
from anatome.films.timeline import Timeline
from anatome.notes.facts import Facts
from anatome.problems import Problem
from anatome.render.pictures import Ground, PictureMaker
from anatome.scenes.film import Film
from anatome.scenes.project import Project
from anatome.scenes.scene_view import View, view_of

Pixels = NDArray[np.uint8]
ABOUT = "film.json"
"""What a folder of frames is of."""


@dataclass(frozen=True)
class FrameSettings:
    """Pixels, frames a second, what lies under the picture, and samples of each; as many as finished pictures have if none."""

    size: tuple[int, int]
    rate: float = 25.0
    ground: Ground = "paper"
    samples: int | None = None


def frame_view(timeline: Timeline, time: float, aspect: float, facts: Facts | None = None) -> View:
    """Return what a frame at a time in seconds is a picture of: of a scene that stands still exactly what its own picture is."""
    moment = timeline.at(time)
    scene = moment.shown
    view = view_of(timeline.cutter, scene, scene.camera_for(aspect), timeline.site, facts)
    return view if moment.dissolve is None else replace(view, dissolve=moment.dissolve)


def draw_frame(
    timeline: Timeline, maker: PictureMaker, number: int, settings: FrameSettings, facts: Facts | None = None
) -> Pixels:
    """Return a frame, counted from 0, as (h, w, 4) RGBA."""
    view = frame_view(timeline, number / settings.rate, settings.size[0] / settings.size[1], facts)
    return maker.picture(view, settings.size, settings.ground, settings.samples)


def told_of(film: Film, project: Project, settings: FrameSettings) -> str:
    """Return what tells the frames of a film from those of another one, or of another state of the project."""
    scenes = [scene.model_dump_json() for scene in project.scenes if scene.id in {shot.scene for shot in film.shots}]
    parts = [film.model_dump_json(), *scenes, project.site.model_dump_json(), project.meanings.model_dump_json()]
    parts += [repr(project.models), repr(settings)]
    return hashlib.sha256("\n".join(parts).encode()).hexdigest()


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
        buffer = io.BytesIO()
        Image.fromarray(pixels).save(buffer, "PNG", compress_level=3)
        write_whole(self.file(number), buffer.getvalue())

    def all(self) -> Iterator[Pixels]:
        """Return the frames in their order."""
        for number in range(self._count):
            with Image.open(self.file(number), formats=["PNG"]) as image:
                yield np.asarray(image.convert("RGBA"))


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
