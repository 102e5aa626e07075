"""``anatome film``: a film of a project, or of one move in one of its scenes, as a file or as a folder of frames."""

from __future__ import annotations

import argparse
import shutil
from dataclasses import replace
from pathlib import Path
from time import monotonic

from anatome.cli.looks import look_named
from anatome.cli.sizes import parse_paper, parse_part, parse_size
from anatome.cli.told import open_project
from anatome.cli.values import film_named, scene_named
from anatome.files import write_whole
from anatome.problems import Problem
from anatome.scenes.batch import shard
from anatome.scenes.film import LONGEST_SHOT, AnyShot, Film, shot_of
from anatome.scenes.project import Project, Scene

SIZE = (1280, 720)
MOST_ON_PAPER = 600
EVERY = 5.0
"""Seconds between two words about how far it is."""


class TimeLeft:
    """Says now and then how many of some ``things`` are done, and how long the rest takes."""

    def __init__(self, things: str) -> None:
        self._things, self._began, self._last = things, monotonic(), 0.0

    def told(self, done: int, of: int) -> bool:
        """Hear how many are done; always go on."""
        spent = monotonic() - self._began
        if spent - self._last >= EVERY or done == of:
            self._last, each = spent, spent / done
            print(f"{done} of {of} {self._things}, {each:.2f} s each, {each * (of - done):.0f} s left", flush=True)
        return True


def run(options: argparse.Namespace) -> int:
    """Write it. Raises Problem."""
    from anatome.filming.frames import FrameFolder, FrameSettings
    from anatome.filming.on_paper import paper_bytes
    from anatome.formats.film import DRAFT_SAMPLES, FilmSettings, check_film, write_film
    from anatome.work.here import draw_all
    from anatome.work.jobs import FilmJob

    out: Path = options.out
    size = parse_size(options.size, SIZE)
    samples = options.samples or (DRAFT_SAMPLES if options.quality == "draft" else None)
    settings = FrameSettings(size, options.fps, options.ground, samples)
    coded = FilmSettings(size, options.fps, options.quality, not options.once)
    is_folder, on_paper = not out.suffix, options.contact or options.flip
    if on_paper:
        _check_paper(options, on_paper)
    elif not is_folder:
        check_film(out, coded)
    part, paper = parse_part(options.shard), parse_paper(options.paper)
    if options.shard is not None and not is_folder:
        raise Problem("A part of a film is frames in a folder. Say for example --out frames --shard 1/4, and make the film then.")
    opened = open_project(options.project)
    project = opened.stored.project
    film = _film(options, project)
    facts = opened.facts([note for scene in project.scenes for note in scene.state.notes])
    if on_paper:
        settings = replace(settings, rate=on_paper / max(film.seconds, 1e-3))
    job = FilmJob(project, opened.building, facts, film=film, settings=settings)
    count = on_paper or job.timeline.frames(options.fps)
    # Frames are kept beside the film until it is made, so that one that was stopped goes on from them.
    folder = FrameFolder(out if is_folder else out.with_name(f"{out.name}.frames"), job.told, count)
    numbers = shard(range(count), *part)
    there = len(numbers) - len(folder.missing(numbers))
    if there:
        print(f"{there} of {len(numbers)} frames are there already", flush=True)
    draw_all(job, folder, numbers, options.on, TimeLeft("frames").told)
    if is_folder:
        print(f"{out}: {len(numbers)} of {count} frames, {film.seconds:g} s at {options.fps:g} a second")
        return 0
    if on_paper:
        write_whole(out, paper_bytes(film.name, list(folder.all()), film.seconds, paper, bool(options.flip), out.suffix.lower()))
        shutil.rmtree(folder.path)
        print(f"{out}: {count} pictures")
        return 0
    write_film(out, folder.all(), coded)
    shutil.rmtree(folder.path)
    print(f"{out}: {count} frames, {film.seconds:g} s, {size[0]} × {size[1]}, {out.stat().st_size / 1e6:.1f} MB")
    return 0


def _check_paper(options: argparse.Namespace, count: int) -> None:
    """Raise Problem for what cannot be on paper."""
    endings = (".pdf",) if options.flip else (".pdf", ".png")
    if options.out.suffix.lower() not in endings:
        raise Problem("A contact print is a .pdf or a .png, pages to flip through are a .pdf.")
    if not 2 <= count <= MOST_ON_PAPER:
        raise Problem(f"On paper a film has 2 to {MOST_ON_PAPER} pictures, for example --contact 24.")


def _film(options: argparse.Namespace, project: Project) -> Film:
    """The film of this name, or one of a single move in a scene."""
    if (options.film is None) == (options.scene is None):
        raise Problem("Say which film: --film NAME; or one move in a scene: --scene NAME --move rise.")
    if options.film is not None:
        return film_named(project, options.film)
    scene = scene_named(project, options.scene)
    if options.move is None:
        raise Problem("Say what moves: --move rise, sweep, peel, turn, explode, together, day, look or hold.")
    return Film(id="move", name=f"{scene.name}, {options.move}", shots=(_shot(options, scene),))


def _shot(options: argparse.Namespace, scene: Scene) -> AnyShot:
    if not 0 < options.seconds <= LONGEST_SHOT:
        raise Problem(f"A move takes up to {LONGEST_SHOT:g} seconds, for example --seconds 6.")
    said: dict[str, object] = {"resting": options.resting, "by_parts": options.by_parts, "degrees": options.degrees}
    if options.move == "look":
        if options.look is None:
            raise Problem("Say which look takes the place of the scene's: --look NAME.")
        said["look"] = look_named(options.look)
    return shot_of(options.move, scene.id, options.seconds, **said)
