"""Frames of the moving picture: the demo uncut, and with six planes and two boxes of which one is being dragged."""

from __future__ import annotations

import numpy as np

from anatome.cuts.dissection import Cutter
from anatome.cuts.kinds.box import Box
from anatome.cuts.plane import Plane
from anatome.cuts.scout import scout
from anatome.demo.shipped import shipped
from anatome.render.accumulation import Accumulation
from anatome.render.pictures import standalone_renderer
from anatome.render.window import Window
from anatome.scenes import edits
from anatome.scenes.opened import opened
from anatome.scenes.project import ModelReference, Project, StageState
from anatome.scenes.scene_view import View
from anatome.view.camera import standard_view
from benchmarks.measure import median_seconds, milliseconds

SIZE = (740, 606)
"""The stage of a window of 1280 × 800."""
PLANES = (
    ((0, 5.2, 0), (0, -1, 0)),
    ((22, 0, 0), (1, 0, 0)),
    ((0, 0, 7.5), (0, 0, 1)),
    ((3, 0, 0), (-1, 0, 0)),
    ((0, 11, 0), (0, 1, 0.2)),
    ((10, 2, 0), (-1, -1, 0)),
)


def run() -> None:
    """Print frame times and their ratio to the uncut picture."""
    building = shipped()
    bounds = np.array([[-1.0, -5, -2], [34, 27, 11]])
    camera = standard_view("Axonometric, front left", bounds, SIZE[0] / SIZE[1])
    uncut = Project(name="frames", model=ModelReference(path=""), stage=StageState(camera=camera))
    one = edits.add_plane(uncut, Plane(*PLANES[0]), "p0")
    many = uncut
    for number, (origin, normal) in enumerate(PLANES):
        many = edits.add_plane(many, Plane(origin, normal), f"p{number}")
    many = edits.add_box(many, Box((10, 6, 4), (25, 20, 14), 5.0), "keeps")
    many = edits.add_box(many, Box((14, 6, 3), (6, 4, 5), 20.0), "carves", carve=True)

    renderer = standalone_renderer()
    renderer.set_building(building)
    cutter = Cutter(building)
    sums = Accumulation(renderer.ctx, renderer.programs, SIZE)

    def frame(project: Project) -> None:
        sums.restart()
        view = View(project.stage.camera, opened(cutter, project.stage), project.stage.look)
        sums.add(renderer, view, Window(*SIZE), moving=True)
        renderer.ctx.finish()

    def turned(project: Project, run: int) -> Project:
        return edits.set_camera(project, project.stage.camera.orbited(1.0 * run, 0.0))

    def dragged(project: Project, cut_id: str, run: int) -> Project:
        cut = project.stage.cut(cut_id)
        assert cut is not None
        return edits.put_cut(project, cut.moved(np.array([0.02, 0.03, 0.0]) * run))

    print("\nFrames of the demo at full size of the stage, software OpenGL (ratio: to the uncut building turning)\n")
    plain = 0.0
    for words, work in (
        ("uncut, turning", lambda run: frame(turned(uncut, run))),
        ("one plane, dragged", lambda run: frame(dragged(one, "p0", run))),
        ("six planes and two boxes, turning", lambda run: frame(turned(many, run))),
        ("six planes and two boxes, a plane dragged", lambda run: frame(dragged(many, "p0", run))),
        ("six planes and two boxes, a box dragged", lambda run: frame(dragged(many, "keeps", run))),
        ("six planes and two boxes, the carving box dragged", lambda run: frame(dragged(many, "carves", run))),
    ):
        seconds = median_seconds(work, 15)
        plain = plain or seconds
        print(f"  {words}: {milliseconds(seconds)}, {seconds / plain:.2f}", flush=True)
    everything = np.ones(len(building.elements), bool)
    for normal in ((1, 0, 0), (0, -1, 0), (0.6, 0.7, 0)):
        seconds = median_seconds(lambda run, n=normal: scout(building, Plane((15, 6, 3), n), everything), 3)
        print(f"  scout across {normal}: {milliseconds(seconds)}", flush=True)
