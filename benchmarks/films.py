"""Frames of films of the demo at 1280 × 720: how much of a frame is drawing, and its ratio to as many bare samples."""

from __future__ import annotations

from dataclasses import replace

from anatome.cuts.dissection import Cutter
from anatome.demo.shipped import PROJECT
from anatome.filming.frames import FrameDrawer, FrameSettings
from anatome.films.timeline import Timeline
from anatome.formats.project_files import open_project
from anatome.render.pictures import EXPORT_SAMPLES, PictureMaker
from anatome.render.shared import shown_bare
from anatome.scenes.film import Film, shot_of
from benchmarks.measure import median_seconds

SIZE, RATE, SECONDS = (1280, 720), 25.0, 6.0
MOVES = (("rise", "outside"), ("sweep", "outside"), ("turn", "outside"), ("turn", "cutaway"), ("explode", "exploded"))


def run() -> None:
    """Print frames a second, the share of drawing in them, and the ratio to bare samples of the same moments."""
    opened = open_project(PROJECT)
    project, cutter, maker = opened.stored.project, Cutter(opened.building), PictureMaker.standalone(opened.building)
    settings = FrameSettings(SIZE, RATE)
    print(f"films at {SIZE[0]} × {SIZE[1]}, {EXPORT_SAMPLES} samples a frame")
    for move, scene in MOVES:
        film = Film(id="f", name="f", shots=(shot_of(move, scene, SECONDS),))
        said = _measured(FrameDrawer(Timeline(film, project, cutter, SIZE[0] / SIZE[1]), project, settings), maker)
        print(f"  {move:8} {scene:10} {said}")


def _measured(drawer: FrameDrawer, maker: PictureMaker) -> str:
    views = [drawer.plan(number).parts[0].view for number in range(60, 66)]
    bares = [replace(v, look=shown_bare(v.look).model_copy(update={"shadows": 0.0}), figures=()) for v in views if v is not None]
    frame = median_seconds(lambda n: drawer.draw(maker, 60 + n % 6), 5)
    planned = median_seconds(lambda n: drawer.plan(66 + n), 5)
    bare = median_seconds(lambda n: maker.picture(bares[n % 6], SIZE, "paper", EXPORT_SAMPLES), 5)
    return (
        f"{1 / frame:.2f} frames a second, {100 * (1 - planned / frame):.0f} % of it drawing, {frame / bare:.2f} of bare samples"
    )
