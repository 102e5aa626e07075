"""Moving pictures against VTK's flat picture of the same triangles, at the same size, frame by frame in turn."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from anatome.app.stage.companion import next_share
from anatome.cuts.dissection import Cutter
from anatome.cuts.pieces import ShownBuilding
from anatome.look.look import Look
from anatome.model.building import Building
from anatome.render.accumulation import Accumulation
from anatome.render.pictures import standalone_renderer
from anatome.render.renderer import Renderer
from anatome.render.window import Window
from anatome.scenes.scene_view import View
from anatome.view.camera import Camera, standard_view
from benchmarks.measure import milliseconds
from benchmarks.vtk_frames import VtkFrames

SIZE = (1280, 800)
FRAMES = 9


class MovingPictures:
    """Draws as the stage does while things move: as coarse as the time of the frames before asks for."""

    def __init__(self, building: Building) -> None:
        self.renderer = Renderer(standalone_renderer().ctx)
        self.renderer.set_building(building)
        self.cut_open = Cutter(building).dissect([], np.ones(len(building.elements), bool))
        self.share = 2
        self._sums: dict[int, Accumulation] = {}

    def seconds(self, camera: Camera) -> float:
        """One frame."""
        share = self.share
        if share not in self._sums:
            size = SIZE[0] // share, SIZE[1] // share
            self._sums[share] = Accumulation(self.renderer.ctx, self.renderer.programs, size, SIZE)
        sums = self._sums[share]
        sums.restart()
        began = time.perf_counter()
        sums.add(self.renderer, View(camera, ShownBuilding(self.cut_open), Look()), Window(*sums.size), moving=True)
        self.renderer.ctx.finish()
        taken = time.perf_counter() - began
        self.share = next_share(share, taken)
        return taken


def compare(store: Path, building: Building, said: Callable[[str], None]) -> None:
    """Print one row: ours, theirs, the ratio."""
    camera = standard_view("Axonometric, front left", building.bounds_of(~building.earth), SIZE[0] / SIZE[1])
    theirs, ours = VtkFrames(store, SIZE), MovingPictures(building)
    try:
        for run in range(3):
            theirs.seconds(camera.orbited(run, 0))
            ours.seconds(camera.orbited(run, 0))
        rows = []
        for run in range(FRAMES):
            turned = camera.orbited(5.0 + 2.0 * run, 0)
            rows.append((ours.seconds(turned), theirs.seconds(turned)))
    finally:
        theirs.close()
    ratio = statistics.median(a / b for a, b in rows)
    mine, other = (statistics.median(column) for column in zip(*rows))
    said(
        f"moving frame at {SIZE[0]} × {SIZE[1]} (a pixel for {ours.share} × {ours.share}): {milliseconds(mine)}, "
        f"VTK flat {milliseconds(other)}: {ratio:.2f} (wanted: at most 0.60)"
    )
