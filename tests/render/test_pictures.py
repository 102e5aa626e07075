"""What finished pictures show, measured in their pixels against geometry from shapely."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import pytest
import shapely
import trimesh

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.exploding import Exploded, by_storeys
from anatome.cuts.parting import Parting
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.plane import Plane
from anatome.cuts.treatment import ALL_SLICED
from anatome.look.look import Look
from anatome.model.assembly import BuildingAssembly
from anatome.model.building import Building, Element
from anatome.render.pictures import PictureMaker
from anatome.scenes.project import StageState
from anatome.scenes.scene_view import View, view_of
from anatome.view.camera import Camera, square_on, standard_view
from anatome.view.projections import DRAWN, corner_of, named
from helpers import POCHE_EARTH, building_of, close_to, poche_mask, projected, seen

SIZE = (900, 600)
HOUSE = np.array([[-2.5, 0.0, -1.6], [32.5, 13.0, 10.2]])
PLANE = Plane((14.0, 6.2, 3.0), (0.0, -1.0, 0.0))
FACING = square_on(PLANE, HOUSE, 1.5, Camera(eye=(0, -30, 5), target=(9, 8, 3), field=28))


@pytest.fixture(scope="module")
def maker(boathouse: Building) -> PictureMaker:
    return PictureMaker.standalone(boathouse)


@pytest.fixture(scope="module")
def cutter(boathouse: Building) -> Iterator[Cutter]:
    yield Cutter(boathouse)


def state(camera: Camera = FACING, **changes: object) -> StageState:
    cut = SectionPlane(id="c", name="Section A", mark="A", plane=PLANE)
    return StageState(camera=camera, cuts=(cut.model_copy(update=changes),), look=Look(), treatments=ALL_SLICED)


@pytest.mark.parametrize("projection", ["perspective", "parallel", "shifted", "Plan oblique, 45°", "Cavalier"])
@pytest.mark.parametrize("plane", [PLANE, Plane((24.1, 5, 3), (1, 0, 0)), Plane((10, 6, 1.2), (0.3, -0.2, 1))])
def test_poche_lies_where_the_polygons_project(maker, cutter, boathouse, projection, plane) -> None:
    """Every pixel well inside a projected polygon is filled, none well outside all of them is."""
    camera = FACING if plane is PLANE else standard_view("Axonometric, front right", HOUSE, 1.5)
    if plane.normal[0] == 1:
        camera = square_on(plane, HOUSE, 1.5, FACING)
    if projection in DRAWN:
        camera = named(projection, corner_of(camera)[0]).seen_by(camera).fitted(HOUSE, 1.5)
    elif projection == "shifted":
        camera = camera.model_copy(update={"projection": "perspective", "shift": (0.12, -0.2)})
    else:
        camera = camera.model_copy(update={"projection": projection})
    loud = Look(poche=(1.0, 0.0, 1.0), poche_earth=(0.0, 1.0, 1.0))  # colours nothing else has
    shown = state(camera, plane=plane).model_copy(update={"look": loud})
    view = view_of(cutter, shown)
    picture = maker.picture(view, SIZE, "white", 2)
    inside, outside = projected(view.opened.cut_open.faces[0].section, camera, SIZE)
    assert inside.sum() > 3000
    red, green, blue = np.moveaxis(picture[..., :3].astype(int), 2, 0)
    # Magenta, cyan, ink and what smooth edges mix of them: never more of green than blue, or of red.
    filled = (np.minimum(red, green) < 45) & (blue > green - 12) & (blue > red - 12)
    assert filled[inside].mean() > 0.9995
    assert (filled & (blue > 120))[outside].mean() < 1e-4


@pytest.mark.parametrize("name", ["Isometric", "Dimetric", "Plan oblique, 30° and 60°", "Cavalier", "Cabinet"])
def test_the_drawing_of_a_cube_is_as_long_and_as_steep_as_the_standard_says(name: str) -> None:
    """ISO 5456-3 (values from memory), read back from the pixels of a finished picture of a cube with edges of 2 m."""
    cube = trimesh.creation.box((2.0, 2.0, 2.0))
    building = building_of((cube.vertices, cube.faces))
    camera = named(name, (-1, -1)).camera(np.zeros(3), 20.0, 30.0).fitted(building.bounds, 1.0)
    maker = PictureMaker.standalone(building)
    look = Look(shade=False, ground=False, edges=False)
    view = View(camera, ShownBuilding(Cutter(building).dissect([], np.ones(1, bool))), look)
    picture = maker.picture(view, (1000, 1000), "transparent", 4)
    rows, columns = np.nonzero(picture[..., 3] > 127)
    outline = shapely.convex_hull(shapely.multipoints(np.column_stack([columns, rows]) + 0.5)).buffer(0.5, join_style="mitre")
    pixel = camera.height / 1000
    x, y, z = {
        "Isometric": [(0.8165, 30), (0.8165, 30), 0.8165],
        "Dimetric": [(0.9428, 7.18), (0.4714, 41.41), 0.9428],
        "Plan oblique, 30° and 60°": [(1, 30), (1, 60), 1],
        "Cavalier": [(1, 0), (1, 45), 1],
        "Cabinet": [(1, 0), (0.5, 45), 1],
    }[name]
    # The outline of a box drawn in parallel is the sum of its three edges as arms (a zonogon). From the front left corner the
    # edges along X go away to the right and those along Y to the left.
    right = np.array([np.cos(np.radians(x[1])), np.sin(np.radians(x[1]))]) * x[0]
    left = np.array([-np.cos(np.radians(y[1])), np.sin(np.radians(y[1]))]) * y[0]
    arms = np.array([right, left, [0.0, z]]) * 2.0 / pixel
    ends = (np.array(list(np.ndindex(2, 2, 2))) - 0.5) @ arms * [1, -1] + 500
    expected = shapely.convex_hull(shapely.multipoints(ends))
    assert shapely.symmetric_difference(outline, expected).area / expected.length < 1.0  # within a pixel all round
    assert shapely.hausdorff_distance(outline, expected) < 2.5


def test_switching_poche_off_keeps_solids_solid(maker, cutter, boathouse) -> None:
    on = maker.picture(view_of(cutter, state()), SIZE, "white", 2)
    off = maker.picture(view_of(cutter, state(poche=False)), SIZE, "white", 2)
    inside, outside = projected(view_of(cutter, state()).opened.cut_open.faces[0].section, FACING, SIZE)
    assert not poche_mask(off)[inside].mean() > 0.2 and poche_mask(on)[inside].mean() > 0.8
    assert (np.abs(on[outside].astype(int) - off[outside]).max(axis=1) > 8).mean() < 0.002
    # Earth in its own green rather than hollow: nothing of the white ground shows through.
    earth = close_to(on, POCHE_EARTH) & inside
    assert (off[earth] == 255).all(axis=1).mean() < 0.001


def test_a_cut_that_is_off_cuts_nothing(maker, cutter, boathouse) -> None:
    off = maker.picture(view_of(cutter, state(on=False)), SIZE, "white", 2)
    none = maker.picture(view_of(cutter, state().model_copy(update={"cuts": ()})), SIZE, "white", 2)
    assert (off == none).all() and not poche_mask(off).mean() > 0.05


def test_transparent_ground(maker, cutter, boathouse) -> None:
    view = view_of(cutter, state())
    clear = maker.picture(view, SIZE, "transparent", 4)
    white = maker.picture(view, SIZE, "white", 4)
    alpha = clear[..., 3:] / 255.0
    assert clear[2, 2, 3] == 0 and (clear[..., 3] == 255).mean() > 0.4 and (white[..., 3] == 255).all()
    composed = clear[..., :3] * alpha + 255 * (1 - alpha)
    assert np.abs(composed - white[..., :3]).max() <= 3


@pytest.mark.parametrize("shade", [False, True])
def test_tiles_join_without_seams(maker, cutter, boathouse, monkeypatch, shade: bool) -> None:
    view = view_of(cutter, state().model_copy(update={"look": Look(shade=shade)}))
    whole = maker.picture(view, SIZE, "white", 3).astype(int)
    monkeypatch.setattr("anatome.render.tiles.TILE", 252)
    tiled = maker.picture(view, SIZE, "white", 3).astype(int)
    off = np.abs(whole - tiled).max(axis=2)
    # The probes of soft shade fall to one side or the other with the last digit of a depth; lines and fills do not.
    assert (off > 40).mean() < 2e-4 and (off > 6).mean() < (0.02 if shade else 2e-3)
    for seam in (252, 504, 756):
        assert off[:, seam - 1 : seam + 1].mean() < 2 * off.mean() + 0.3


def test_the_same_scene_gives_the_same_picture_and_proportions_keep(maker, cutter, boathouse) -> None:
    view = view_of(cutter, state())
    first, second = (maker.picture(view, SIZE, "white", 3) for _ in range(2))
    assert (first == second).all()
    small = maker.picture(view, (450, 300), "white", 8)
    large = maker.picture(view, SIZE, "white", 8).reshape(300, 2, 450, 2, 4).mean(axis=(1, 3))
    assert np.abs(large - small).mean() < 6
    with pytest.raises(Exception, match="cannot be made"):
        maker.picture(view, (0, 100), "white")
    with pytest.raises(Exception, match="cancelled"):
        maker.picture(view, SIZE, "white", 4, lambda share: share < 0.5)


def test_hidden_parts_are_neither_drawn_nor_cut(maker, cutter, boathouse) -> None:
    walls = frozenset(e.id for e in boathouse.elements if e.type != "IfcSlab")
    only = state().model_copy(update={"hidden": walls})
    view = view_of(cutter, only)
    assert {boathouse.elements[e].type for e in view.opened.cut_open.faces[0].section.element} == {"IfcSlab"}
    picture = maker.picture(view, SIZE, "transparent", 2)
    slabs = shapely.union_all(view.opened.cut_open.faces[0].section.polygons)
    assert slabs.area > 1 and 0.005 < (picture[..., 3] > 128).mean() < 0.25


def test_nothing_before_the_plane_is_left_whether_it_touches_it_or_not(maker, cutter, boathouse) -> None:
    """Looking along the cut from the side: everything left lies behind it, on the picture too."""
    camera = standard_view("Left", np.array([[-14, -22, -5.0], [46, 38, 12]]), 1.5)
    look = Look(ground=False)
    picture = maker.picture(view_of(cutter, state(camera).model_copy(update={"look": look})), SIZE, "transparent", 4)
    columns = np.flatnonzero((picture[..., 3] > 20).any(axis=0))
    edge = seen(camera, 1.5).flat(np.array([0.0, 6.2, 0.0]))[0][0] / 2 * SIZE[0] + SIZE[0] / 2
    assert (columns < edge + 3).all() and columns.max() > edge - 4  # seen from the left, the river side lies to the right


def test_more_planes_than_the_graphics_side_clips_by_itself(maker, cutter, boathouse) -> None:
    """Ten cuts on, eight of them far above the house and put first: the same picture as with the other two alone."""

    def cut(name: str, plane: Plane) -> SectionPlane:
        return SectionPlane(id=name, name=name, mark="A", plane=plane)

    real = (cut("along", PLANE), cut("across", Plane((24.4, 5, 3), (1, 0, 0))))
    idle = tuple(cut(f"idle {i}", Plane((0, 0, 60.0 + i), (0, 0, 1))) for i in range(8))
    camera = standard_view("Axonometric, front right", HOUSE, 1.5)
    two, ten = (state(camera).model_copy(update={"cuts": cuts}) for cuts in (real, idle + real))
    few = maker.picture(view_of(cutter, two), SIZE, "white", 2).astype(int)
    many = maker.picture(view_of(cutter, ten), SIZE, "white", 2).astype(int)
    assert (np.abs(few - many).max(axis=2) > 8).mean() < 2e-3
    one = maker.picture(view_of(cutter, state(camera)), SIZE, "white", 2)
    assert (np.abs(few - one).max(axis=2) > 8).mean() > 0.05


def test_more_colours_than_sixteen_bits_count() -> None:
    """Seventy thousand styles; the last triangle has the last one, and shows it."""
    assembly = BuildingAssembly("many colours")
    for i in range(70_000):
        assembly.style((i % 256 / 255, i // 256 % 256 / 255, i // 65536 / 255, 1.0))
    last = assembly.style((1.0, 0.0, 1.0, 1.0))
    ball = trimesh.creation.icosphere(2, 1.0)
    assembly.add(Element("ball", "Ball", "IfcWall"), ball.vertices, ball.faces, last)
    assert last >= 70_000
    building = assembly.finish()
    view = View(
        standard_view("Front", building.bounds, 1.5),
        ShownBuilding(Cutter(building).dissect([], np.ones(1, bool))),
        Look(edges=False, surfaces="as modelled"),
    )
    middle = PictureMaker.standalone(building).picture(view, (90, 60), "white", 1)[30, 45].astype(int)
    assert middle[0] > middle[1] + 60 and middle[2] > middle[1] + 60


def test_a_stray_part_far_away_coarsens_nothing() -> None:
    """A house with a stone left 60 km off and hidden: drawn as without it."""
    pictures = []
    for stray in (False, True):
        assembly = BuildingAssembly("house")
        style = assembly.style((0.8, 0.8, 0.8, 1.0))
        for number in range(12):
            block = trimesh.creation.box((1.0, 0.7, 0.9))
            block.apply_translation((number % 4 * 1.3, number // 4 * 1.1, 0.002 * number))
            assembly.add(Element(f"e{number}", "Block", "IfcWall"), block.vertices, block.faces, style)
        if stray:
            stone = trimesh.creation.box((1, 1, 1))
            assembly.add(Element("stone", "Stone", "IfcWall"), stone.vertices + [60_000.0, 0, 0], stone.faces, style)
        building = assembly.finish()
        shown = np.array([e.id != "stone" for e in building.elements])
        camera = standard_view("Axonometric, front left", building.bounds_of(shown), 1.5)
        camera = camera.model_copy(update={"projection": "perspective"})
        view = View(camera, ShownBuilding(Cutter(building).dissect([], shown)), Look())
        pictures.append(PictureMaker.standalone(building).picture(view, (300, 200), "white", 2).astype(int))
    assert (np.abs(pictures[0] - pictures[1]).max(axis=2) > 10).mean() < 2e-3


def test_finished_pictures_have_no_grain(maker, cutter, boathouse) -> None:
    """Twice the samples change nothing one could see, round slender parts (boat racks) too; nor does one sample look stippled."""
    view = view_of(cutter, state())
    size = 450, 300  # grain shows in any
    few, many = (maker.picture(view, size, "white", samples).astype(int) for samples in (16, 48))
    off = np.abs(few - many).max(axis=2)
    assert (off > 24).mean() < 2e-3 and off.mean() < 1.2
    lines = Look(edges=False, cut_weight=0.03, part_weight=0.03)
    bare = view_of(cutter, state().model_copy(update={"look": lines}))
    first, fine = (maker.picture(bare, size, "white", samples).astype(int) for samples in (1, 24))
    assert np.abs(first - fine).mean() < 5


def test_what_is_picked_on_the_stage_never_gets_into_a_picture_drawn_between(maker, cutter, boathouse) -> None:
    """Two pictures drawn in turns on one context, step by step: each is as if it had been drawn alone."""
    camera = standard_view("Axonometric, front left", HOUSE, 1.5)
    plain = view_of(cutter, state(camera))
    tinted = replace(plain, picked=np.ones(len(boathouse.elements), bool))
    alone = maker.picture(plain, (150, 100), "white", 2)
    steps, others = maker.steps(plain, (150, 100), "white", 2), maker.steps(tinted, (150, 100), "white", 60)
    while True:
        try:
            next(steps)
        except StopIteration as end:
            picture = end.value
            break
        next(others)
    assert (picture == alone).all()


def test_closed_a_displaced_picture_is_the_plain_one_and_open_it_is_another(boathouse: Building) -> None:
    """Exploded and parted, opened to nothing: pixel for pixel. Opened, the staying part keeps its cut face in its place."""
    maker, cutter = PictureMaker.standalone(boathouse), Cutter(boathouse)
    shown = np.ones(len(boathouse.elements), bool)
    cut = SectionPlane(id="a", name="A", mark="A", plane=Plane((14, 6.2137, 3), (0, -1, 0)), parting=Parting(distance=60))
    exploded = Exploded(groups=by_storeys(boathouse, shown, 5.0))
    camera = standard_view("Axonometric, back right", boathouse.bounds, 1.5)

    def picture(**more) -> np.ndarray:
        # Lines recede over all that is shown, and what is moved far off makes that more.
        return maker.picture(view_of(cutter, StageState(camera=camera, look=Look(recede=0.0), **more)), SIZE, "white", 2)

    plain = picture()
    assert (picture(cuts=(cut,), exploded=exploded, opening=0.0) == plain).all()
    assert (np.abs(picture(exploded=exploded).astype(int) - plain).max(axis=2) > 12).mean() > 0.02
    # From the front, the part before the cut moved out of the picture: what stays shows the face as a cut that takes away does.
    camera = standard_view("Axonometric, front left", boathouse.bounds, 1.5)
    taken = poche_mask(picture(cuts=(cut.model_copy(update={"parting": None}),)))
    parted = poche_mask(
        picture(cuts=(cut.model_copy(update={"parting": Parting(way="along", direction=(0, 0, -1), distance=90)}),))
    )
    assert taken.mean() > 0.01 and (taken & ~parted).sum() < 0.02 * taken.sum()
