"""Where a picture of numbers changes from one part to another, linework has a line."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from anatome.cuts.dissection import Cutter
from anatome.formats.project_files import OpenedProject
from anatome.linework.view_drawing import view_drawing
from anatome.render.passes import passes_steps
from anatome.render.pictures import PictureMaker
from anatome.scenes.scene_view import view_of

SIZE = (1200, 800)
CROSSINGS = 2000


@pytest.mark.parametrize("name", ["long", "cutaway", "split"])
def test_there_is_a_line_where_one_part_ends_before_another(demo: OpenedProject, name: str) -> None:
    """At random places where the number of the part changes from pixel to pixel: what is found by another way of drawing."""
    scene, site = demo.stored.project.scene(name), demo.stored.project.site
    look = scene.state.look.model_copy(update={"earth_fades": False})
    scene = scene.model_copy(update={"state": scene.state.model_copy(update={"overrides": (), "look": look})})
    maker, cutter = PictureMaker.standalone(demo.building), Cutter(demo.building)
    steps = passes_steps(maker.renderer, view_of(cutter, scene, None, site), SIZE, ("elements",), samples=1)
    while True:
        try:
            next(steps)
        except StopIteration as end:
            found = end.value
            break
    codes = found.images["elements"].astype(np.int64)
    number = codes[..., 0] << 16 | codes[..., 1] << 8 | codes[..., 2]
    across = np.argwhere(number[:, 1:] != number[:, :-1]) + [0.5, 1.0]
    upward = np.argwhere(number[1:] != number[:-1]) + [1.0, 0.5]
    places = np.concatenate([across, upward])
    rng = np.random.default_rng(5)
    rows, columns = places[rng.choice(len(places), CROSSINGS, replace=False)].T
    drawing = view_drawing(view_of(cutter, scene, None, site), name)
    scale = drawing.height / SIZE[1]
    points = shapely.points(columns * scale, drawing.height - rows * scale)
    lines = [shapely.linestrings(points) for s in drawing.strokes if s.name != "Hatches" for points in s.lines if len(points) > 1]
    tree = shapely.STRtree(lines)
    near = np.unique(tree.query(points, predicate="dwithin", distance=1.5 * scale)[0])
    assert len(near) / CROSSINGS > 0.99
