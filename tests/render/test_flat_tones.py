"""Flat tones as areas against the picture of the graphics side, pixel by pixel."""

from __future__ import annotations

import io
from dataclasses import replace

import ezdxf
import numpy as np
import pytest
import shapely

from anatome.cuts.dissection import Cutter
from anatome.cuts.pieces import uncut
from anatome.formats.dxf import dxf_bytes
from anatome.formats.project_files import OpenedProject
from anatome.linework.drawing import TONES, Drawing
from anatome.linework.view_drawing import view_drawing
from anatome.look.look import Look
from anatome.look.styles import resolve
from anatome.model.assembly import BuildingAssembly
from anatome.model.building import CLEAR_BELOW, Element
from anatome.render.pictures import PictureMaker
from anatome.render.shared import shown_bare
from anatome.scenes.project import Scene
from anatome.scenes.scene_view import View, view_of
from anatome.site.kinds import drawn
from anatome.site.site import Figure
from anatome.site.standing import standing
from anatome.view.camera import standard_view
from anatome.view.viewport import Frame, Viewport
from helpers import box, made_of

SIZE = (900, 600)
NO_LIGHT = {"shadows": 0.0, "hatch_ink": 0.0, "earth_fades": False}


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
    view = view_of(Cutter(demo.building), scene)
    return view_drawing(replace(view, figures=()), scene.name, tones=True)


def agreement(demo: OpenedProject, maker: PictureMaker, scene: Scene, within: float = 7) -> tuple[float, Drawing]:
    """(share of random places, away from lines, that have the colour they have in the picture, ``within`` so many of 255, the
    drawing). Terrain is smooth, and so many tones in the picture and one in the drawing: it is left out."""
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
    # The faces cover what there is, and never one another.
    whole = shapely.union_all(shapes, grid_size=1e-3)
    assert sum(s.area for s in shapes) == pytest.approx(whole.area, rel=2e-3)
    return float((off < within).mean()), drawing


@pytest.mark.parametrize("name", ["long", "outside", "exploded", "corner", "oblique"])
def test_faces_have_the_colours_the_picture_has(demo: OpenedProject, maker: PictureMaker, name: str) -> None:
    """In perspective, parallel, displaced and oblique."""
    assert agreement(demo, maker, bare(demo, name))[0] > 0.95


@pytest.mark.long
@pytest.mark.parametrize(
    "name, changes",
    [
        ("long", {"shadows": 0.4, "sun_size": 0.0}),
        ("oblique", {"shadows": 0.4, "sun_size": 0.0, "surfaces": "by use"}),
        ("corner", {"shadows": 0.4, "sun_size": 0.0, "unseen_shade": True}),
    ],
)
def test_shadows_and_rooms_lie_where_the_picture_has_them(
    demo: OpenedProject, maker: PictureMaker, name: str, changes: dict[str, object]
) -> None:
    """The sun is a point here, so that shadows have an edge. How dark they are depends on how much lies in the sun, which the
    picture finds out from few pixels: a twentieth of the light more or less."""
    plain = bare(demo, name)
    look = plain.state.look.model_copy(update=changes)
    scene = plain.model_copy(update={"state": plain.state.model_copy(update={"look": look})})
    share, drawing = agreement(demo, maker, scene, 13)
    assert share > 0.93
    without = drawing_of(demo, plain)
    assert len(drawing.layers[0].areas) > 1.15 * len(without.layers[0].areas)  # parts lie in light and in shadow


@pytest.mark.parametrize("height", [25.0, 45.0, 70.0])
def test_the_shadow_of_a_stick(height: float) -> None:
    """A stick of height h throws a shadow h / tan a long where the sun stands a high."""
    building = made_of(
        ("stick", "IfcColumn", "", box(0, 0, 0, 0.5, 0.5, 2)), ("floor", "IfcSlab", "", box(-6, -6, -0.2, 6, 6, 0))
    )
    look = Look(surfaces="white", shadows=0.5, sun_with_view=False, sun_turn=180.0, sun_height=height)
    camera = standard_view("Top", building.bounds, 1.0)
    view = View(camera, uncut(building), look, Frame(width=600.0, height=600.0), paper=400.0)
    (layer,) = (x for x in view_drawing(view, "", tones=True).layers if x.name == TONES)
    metre = 400.0 / camera.height
    floors = {sum(a.fill): a for a in layer.areas if a.element_id == "floor"}
    assert len(floors) == 2
    dark = floors[min(floors)]
    area = sum(shapely.Polygon(r[0], r[1:]).area for r in dark.polygons) / metre**2
    assert area == pytest.approx(0.5 * 2 / np.tan(np.radians(height)), rel=2e-3)
    assert min(floors) / max(floors) == pytest.approx(0.5, abs=0.03)


def shadow_of(figure: Figure, height: float) -> shapely.Geometry:
    """What a figure that faces the sun in the south shades of level ground: its outline, as much longer as the sun is lower."""
    corners = shapely.transform(drawn(figure.kind, figure.id).outline, lambda p: p * figure.height)
    long = 1.0 / np.tan(np.radians(height))
    return shapely.transform(corners, lambda p: np.column_stack([figure.place[0] + p[:, 0], figure.place[1] + p[:, 1] * long]))


@pytest.mark.parametrize("kind, height", [("standing", 40.0), ("broad tree", 55.0)])
def test_people_and_trees_throw_the_shadow_of_their_outline(kind: str, height: float) -> None:
    """In flat tones to 1 %, and in the picture to the pixels of an edge, beside what the figure itself hides."""
    building = made_of(("floor", "IfcSlab", "", box(-12, -12, -0.2, 12, 12, 0)))
    figure = Figure(id="f", kind=kind, place=(0.0, -4.0, 0.0), height=1.76 if kind == "standing" else 8.0)
    look = Look(surfaces="white", shadows=0.5, sun_with_view=False, sun_turn=180.0, sun_height=height, shade=False, ground=False)
    look = look.model_copy(update={"sun_size": 0.0, "edges": False})
    camera = standard_view("Top", building.bounds, 1.0)
    view = View(camera, uncut(building), look, Frame(width=600.0, height=600.0), (figure,), paper=600.0)
    (own,) = standing((figure,), Viewport.of(camera, 600.0, 600.0))
    hidden = shapely.transform(own.drawing.outline, lambda p: own.raised(p)[:, :2])
    wanted = shapely.difference(shadow_of(figure, height), hidden)
    (layer,) = (x for x in view_drawing(view, "", tones=True).layers if x.name == TONES)
    floors = {sum(a.fill): a for a in layer.areas if a.element_id == "floor"}
    dark = floors[min(floors)]
    metre = 600.0 / camera.height
    found = shapely.union_all([shapely.Polygon(r[0], r[1:]) for r in dark.polygons])
    assert len(floors) == 2 and found.area / metre**2 == pytest.approx(wanted.area, rel=0.01)
    middle = 300.0
    there = shapely.transform(wanted, lambda p: middle + p * metre)
    assert shapely.symmetric_difference(found, there).area < 0.02 * there.area
    picture = PictureMaker.standalone(building).picture(view, (600, 600), "white", 4)[..., 1].astype(float)
    lit = np.median(picture[20:60, 250:350])
    y, x = np.mgrid[0:600, 0:600]
    spots = shapely.points(x + 0.5, 599.5 - y)
    covered = shapely.union(there, shapely.transform(hidden, lambda p: middle + p * metre))
    well_in, well_out = shapely.buffer(there, -2.5), shapely.buffer(covered, 4)
    inside, floor = shapely.contains(well_in, spots), shapely.contains(shapely.box(30, 30, 570, 570), spots)
    assert (picture[inside] < 0.75 * lit).mean() > 0.98
    assert (picture[floor & ~shapely.contains(well_out, spots)] > 0.97 * lit).all()


def test_glass_tints_what_is_behind_it() -> None:
    """One pane, two faces of it: each covers so much of what is behind as its opacity says."""
    pane = box(0, 0, 0, 1, 0.02, 1)
    assembly = BuildingAssembly("glass")
    clear, wall = assembly.style((0.2, 0.4, 0.6, 0.5)), assembly.style((1.0, 1.0, 1.0, 1.0))
    assembly.add(Element("pane", "pane", "IfcWindow", ""), pane.vertices, pane.faces, clear)
    behind = box(-1, 1, -1, 2, 1.2, 2)
    assembly.add(Element("wall", "wall", "IfcWall", ""), behind.vertices, behind.faces, wall)
    building = assembly.finish()
    camera = standard_view("Front", building.bounds, 1.0)
    look = Look(surfaces="as modelled", tones=(1.0, 1.0, 1.0, 1.0))
    view = View(camera, uncut(building), look, Frame(width=600.0, height=600.0))
    (layer,) = (x for x in view_drawing(view, "", tones=True).layers if x.name == TONES)
    fills = sorted(tuple(a.fill) for a in layer.areas if a.element_id == "wall")
    palette = resolve(look, building).palette[:, :3] / 255
    glass, plain = palette[palette.sum(axis=1).argmin()], palette[palette.sum(axis=1).argmax()]
    assert len(fills) == 2
    assert np.allclose(fills[0], plain * 0.25 + glass * 0.75, atol=1 / 60)


def test_tones_are_areas_of_parts_in_files(demo: OpenedProject) -> None:
    drawing = drawing_of(demo, bare(demo, "wing"))
    layer = drawing.layers[0]
    assert layer.name == TONES and {a.element_id for a in layer.areas} <= {e.id for e in demo.building.elements}
    document = ezdxf.read(io.StringIO(dxf_bytes(drawing).decode()))
    own = [e.dxftype() for e in document.modelspace() if e.dxf.layer == TONES]
    assert set(own) == {"HATCH"} and len(own) == len(layer.areas) and not document.audit().errors
