"""Flat tones as areas against the picture of the graphics side, pixel by pixel."""

from __future__ import annotations

import io
from dataclasses import replace

import ezdxf
import numpy as np
import pytest
import shapely

from anatome.cuts.dissection import Cutter
from anatome.demo.shipped import PROJECT
from anatome.formats.dxf import dxf_bytes
from anatome.formats.project_files import OpenedProject, open_project
from anatome.linework.drawing import TONES, Drawing
from anatome.linework.of_scene import line_view
from anatome.linework.view_drawing import view_drawing
from anatome.model.building import CLEAR_BELOW
from anatome.render.pictures import PictureMaker, view_of
from anatome.render.shared import shown_bare
from anatome.scenes.project import Scene
from anatome.site.site import Site

SIZE = (900, 600)
NO_LIGHT = {"shadows": 0.0, "hatch_ink": 0.0, "earth_fades": False}


@pytest.fixture(scope="module")
def demo() -> OpenedProject:
    return open_project(PROJECT)


@pytest.fixture(scope="module")
def maker(demo: OpenedProject) -> PictureMaker:
    return PictureMaker.standalone(demo.building)


def bare(demo: OpenedProject, name: str) -> Scene:
    """A scene without what flat tones do not say: glass one looks through, light and shade, notes."""
    scene = demo.stored.project.scene(name)
    building = demo.building
    clear = building.styles[building.triangle_style, 3] < CLEAR_BELOW
    glass = {building.elements[i].id for i in np.unique(building.element_of_triangle[clear])}
    look = shown_bare(scene.state.look).model_copy(update={**NO_LIGHT, "surfaces": "harmonised"})
    changes = {"look": look, "overrides": (), "notes": (), "hidden": scene.state.hidden | glass}
    return scene.model_copy(update={"state": scene.state.model_copy(update=changes)})


def drawing_of(demo: OpenedProject, scene: Scene) -> Drawing:
    view = line_view(Cutter(demo.building), scene, Site())
    return view_drawing(replace(view, figures=()), scene.name, tones=True)


@pytest.mark.parametrize("name", ["long", "outside", "exploded", "corner", "oblique"])
def test_faces_have_the_colours_the_picture_has(demo: OpenedProject, maker: PictureMaker, name: str) -> None:
    """At random places away from lines: in perspective, parallel, displaced and oblique. Terrain is smooth, and so many tones in
    the picture and one in the drawing: it is left out."""
    scene = bare(demo, name)
    view = replace(view_of(Cutter(demo.building), scene), figures=())
    picture = maker.picture(view, SIZE, "paper", 4)[..., :3].astype(float)
    drawing = drawing_of(demo, scene)
    (layer,) = (x for x in drawing.layers if x.name == TONES)
    earth = {e.id for e, is_earth in zip(demo.building.elements, demo.building.earth) if is_earth}
    found = [(shapely.Polygon(r[0], r[1:]), a) for a in layer.areas for r in a.polygons]
    shapes = np.array([shape for shape, _ in found])
    colours = np.array([a.fill for _, a in found]) * 255
    built = np.array([a.element_id not in earth for _, a in found])
    cut = [shapely.Polygon(r[0], r[1:]) for x in drawing.layers if x.name != TONES for a in x.areas for r in a.polygons]
    inner = shapely.difference(shapely.buffer(shapes, -0.6), shapely.union_all(shapely.make_valid(shapely.buffer(cut, 0.6))))
    rng = np.random.default_rng(7)
    spots = rng.random((6000, 2)) * [drawing.width, drawing.height]
    tree = shapely.STRtree(inner)
    which, what = tree.query(shapely.points(spots), predicate="within")
    which, what = which[built[what]], what[built[what]]
    assert len(which) > 400
    scale = SIZE[1] / drawing.height
    x, y = (spots[which, 0] * scale).astype(int), (SIZE[1] - spots[which, 1] * scale).astype(int)
    off = np.abs(picture[y.clip(0, SIZE[1] - 1), x.clip(0, SIZE[0] - 1)] - colours[what]).max(axis=1)
    assert (off < 7).mean() > 0.95
    # The faces cover what there is, and never one another.
    whole = shapely.union_all(shapes, grid_size=1e-3)
    assert sum(s.area for s in shapes) == pytest.approx(whole.area, rel=2e-3)


def test_tones_are_areas_of_parts_in_files(demo: OpenedProject) -> None:
    drawing = drawing_of(demo, bare(demo, "wing"))
    layer = drawing.layers[0]
    assert layer.name == TONES and {a.element_id for a in layer.areas} <= {e.id for e in demo.building.elements}
    document = ezdxf.read(io.StringIO(dxf_bytes(drawing).decode()))
    own = [e.dxftype() for e in document.modelspace() if e.dxf.layer == TONES]
    assert set(own) == {"HATCH"} and len(own) == len(layer.areas) and not document.audit().errors
