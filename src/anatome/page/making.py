"""Pictures that are drawn become a page."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from anatome.filming.frames import FrameFolder
from anatome.formats.film import FilmSettings, film_bytes
from anatome.page.contents import MEGABYTE, PageItem
from anatome.page.fitting import FILM_BITS, IN_TEXT, STEPS, USUAL, fitted, webp
from anatome.page.html import PLAIN, Figure, MovingFigure, PageText, page_html
from anatome.page.pictures import FILM_RATE, FILM_SIZE, LARGER, PagePictures, Wanted
from anatome.problems import Problem
from anatome.scenes.project import Scene

Pixels = NDArray[np.uint8]

AROUND, SMALL, SMALL_QUALITY = 90_000, 360, 76
"""About how many bytes all takes that is no picture: letters, style, script; pixels across the small pictures of the
contents, and their quality."""
MODEL_BYTES, VIEWER = 22, 650_000
"""Bytes a triangle of a model that is turned takes, measured on the demo, and what draws it."""
MOST_WRITTEN = 400
"""Letters of what is written on a picture that are told to those who cannot see it."""


def guessed_size(pictures: PagePictures) -> float:
    """Return about how many bytes the page takes, before anything is drawn; never more than what was asked for."""
    size = 0.0
    for wanted in pictures.wanted:
        if wanted.kind == "film":
            size += FILM_SIZE[0] * FILM_SIZE[1] * FILM_BITS / 8
        else:
            wide, high = pictures.size_of(pictures.scenes[wanted.item], LARGER if wanted.kind == "larger" else 1.0)
            size += wide * high * USUAL * (0.3 if wanted.kind == "notes" else 0.6 if wanted.kind == "larger" else 1.0)
    models = [scene for item, scene in zip(pictures.page.items, pictures.scenes) if item.shows == "model"]
    size += sum(MODEL_BYTES * len(pictures.building.triangles) for _ in models)
    return min(IN_TEXT * size + AROUND + (VIEWER if models else 0), pictures.page.most * MEGABYTE)


def made_page(pictures: PagePictures, folder: FrameFolder, told: Callable[[float], bool] | None = None) -> tuple[str, str]:
    """Return (the page, in words how good its pictures are), of pictures that lie in a folder. ``told`` hears the share done and
    may return False to stop. Raises Problem where it cannot be as small as was asked for."""
    page, scenes = pictures.page, pictures.scenes
    look = scenes[0].state.look if scenes else None
    text = PageText(
        page.title or pictures.project.name,
        page.words,
        pictures.project.titles.organisation,
        PLAIN if look is None else (look.paper, look.ink),
    )
    films = [_film(pictures, folder, number) for number in range(len(pictures.films))]
    models = [pictures.model(number) for number in range(len(scenes))]
    smalls = [_small(folder.read(pictures.wanted.index(_first(pictures, number)))) for number in range(len(scenes))]

    def scenes_of(files: dict[Wanted, bytes]) -> list[Figure]:
        made = zip(smalls, models)
        return [replace(_figure(pictures, number, files, small), model=model) for number, (small, model) in enumerate(made)]

    def html(files: dict[Wanted, bytes]) -> str:
        return page_html(text, [*scenes_of(files), *films])

    numbers = [number for number, wanted in enumerate(pictures.wanted) if wanted.kind != "film"]
    around = len(html({pictures.wanted[number]: b"" for number in numbers}).encode())
    left = page.most * MEGABYTE - around
    if left <= 0:
        raise Problem(
            f"Without its pictures the page takes {around / MEGABYTE:.1f} MB already. "
            "Allow more megabytes, or take a film off it."
        )
    found = fitted([partial(folder.read, number) for number in numbers], left, told)
    files = {pictures.wanted[number]: content for number, content in zip(numbers, found.files)}
    quality = "" if (found.quality, found.share) == STEPS[0] else f", at quality {found.quality}"
    quality += f" and {100 * found.share:.0f} % of their size" if found.share != 1.0 else ""
    return html(files), quality


def _film(pictures: PagePictures, folder: FrameFolder, number: int) -> MovingFigure:
    own = [place for place, wanted in enumerate(pictures.wanted) if wanted.kind == "film" and wanted.item == number]
    settings = FilmSettings(FILM_SIZE, FILM_RATE)
    return MovingFigure(pictures.films[number].name, "", film_bytes(map(folder.read, own), settings, ".mp4"), FILM_SIZE)


def _first(pictures: PagePictures, number: int) -> Wanted:
    """The picture of a scene that stands."""
    strip = pictures.strips[number]
    return Wanted(number, "picture") if strip is None else Wanted(number, "frame", strip.home)


def _figure(pictures: PagePictures, number: int, files: dict[Wanted, bytes], small: bytes) -> Figure:
    item, scene, strip = pictures.page.items[number], pictures.scenes[number], pictures.strips[number]
    figure = Figure(
        scene.name,
        item.words,
        alt_of(item, scene),
        files[_first(pictures, number)],
        small,
        pictures.size_of(scene),
        over=files.get(Wanted(number, "notes")),
        written=_written(pictures, number),
        larger=files.get(Wanted(number, "larger")),
    )
    if strip is None:
        names = (scene.state.look.name or "As it is", item.look.name if item.look is not None else "")
        return replace(figure, other=files.get(Wanted(number, "other look")), look_names=names)
    return replace(
        figure,
        frames=tuple(files[Wanted(number, "frame", frame)] for frame in range(len(strip.moments))),
        frame_words=strip.words,
        home=strip.home,
        along=strip.along,
        round=strip.round,
        hint=strip.hint,
    )


def _small(pixels: Pixels) -> bytes:
    return webp(pixels, SMALL_QUALITY, SMALL / pixels.shape[1])


def alt_of(item: PageItem, scene: Scene) -> str:
    """Return what a picture shows, for those who cannot see it."""
    cuts = [cut.name for cut in scene.state.active_cuts]
    where = f", cut by {' and '.join(cuts)}" if cuts else ""
    return f"{scene.name}: {scene.state.drawn}{where}" + (", drawn apart" if scene.state.is_apart else "")


def _written(pictures: PagePictures, number: int) -> str:
    wanted = Wanted(number, "notes")
    if wanted not in pictures.wanted:
        return ""
    notes = pictures.plan(pictures.wanted.index(wanted)).notes
    words = [] if notes is None else [word.text for note in notes.sound for word in note.words]
    return ("Written on it: " + ", ".join(words))[:MOST_WRITTEN]
