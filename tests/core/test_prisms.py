"""Section prisms: what they take and leave, and the areas of their faces, against manifold3d and closed formulas."""

from __future__ import annotations

import math

import manifold3d
import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from anatome.cuts.cells import held_by_any
from anatome.cuts.cut import SectionPrism
from anatome.cuts.dissection import Cutter
from anatome.cuts.kinds.prism import Prism, convex_pieces
from anatome.cuts.solid import kept_part
from anatome.model.building import Building
from anatome.problems import Problem
from helpers import building_of

BALL = trimesh.creation.icosphere(subdivisions=3, radius=1.0)
ELL = ((0.0, 0.0), (6.0, 0.0), (6.0, 2.0), (2.0, 2.0), (2.0, 5.0), (0.0, 5.0))
COMB = ((0.0, 0.0), (7.0, 0.0), (7.0, 3.0), (6.0, 3.0), (6.0, 1.0), (4.0, 1.0), (4.0, 2.5), (3.0, 2.5), (3.0, 0.8), (0.0, 0.8))


@st.composite
def outlines(draw: st.DrawFn) -> tuple[tuple[float, float], ...]:
    """Star-shaped, so never crossing themselves, and mostly concave."""
    count = draw(st.integers(3, 9))
    turns = (
        (np.arange(count) + np.array(draw(st.lists(st.floats(0.1, 0.7), min_size=count, max_size=count)))) * 2 * math.pi / count
    )
    reach = np.array(draw(st.lists(st.floats(0.25, 1.3), min_size=count, max_size=count)))
    x, y = draw(st.floats(-0.4, 0.4)), draw(st.floats(-0.4, 0.4))
    return tuple((x + r * math.cos(t), y + r * math.sin(t)) for t, r in zip(turns.tolist(), reach.tolist()))


def prism_cut(prism: Prism, carve: bool) -> SectionPrism:
    return SectionPrism(id="p", name="P", mark="P", prism=prism, carve=carve)


def as_manifold(prism: Prism) -> manifold3d.Manifold:
    solid = manifold3d.CrossSection([prism.ring]).extrude(prism.high - prism.low)
    return solid.translate((0, 0, prism.low))


def whole_of(mesh: trimesh.Trimesh) -> manifold3d.Manifold:
    return manifold3d.Manifold(manifold3d.Mesh64(mesh.vertices, mesh.faces.astype(np.uint64)))


def areas(building: Building, cut: SectionPrism) -> float:
    found = Cutter(building).dissect([cut], np.ones(len(building.elements), bool))
    return sum(float(face.section.areas.sum()) for face in found.faces)


def volume(building: Building, cut: SectionPrism) -> float:
    found = kept_part(Cutter(building).dissect([cut], np.ones(len(building.elements), bool)))
    return sum(trimesh.Trimesh(k.vertices, k.triangles).volume for k in found)


@settings(max_examples=40)
@given(outlines(), st.floats(-0.9, 0.2), st.floats(0.3, 1.4))
def test_faces_and_what_is_left_are_those_of_manifold(corners, low: float, deep: float) -> None:
    """What a cut opens is on both of its sides: the surfaces of difference and intersection, less that of the whole, are twice
    the cut faces."""
    shape = shapely.Polygon(corners)
    assume(shape.is_valid and shape.area > 0.05)
    prism = Prism(corners, low, low + deep)
    building, whole, solid = building_of((BALL.vertices, BALL.faces)), whole_of(BALL), as_manifold(prism)
    outside, inside = whole - solid, whole ^ solid
    expected = (outside.surface_area() + inside.surface_area() - whole.surface_area()) / 2
    for carve, left in ((True, outside), (False, inside)):
        assert areas(building, prism_cut(prism, carve)) == pytest.approx(expected, rel=1e-5, abs=1e-6)
        assert volume(building, prism_cut(prism, carve)) == pytest.approx(left.volume(), rel=1e-5, abs=1e-7)


@given(outlines())
def test_convex_pieces_are_convex_and_fill_the_outline(corners) -> None:
    outline = shapely.orient_polygons(shapely.Polygon(corners))
    assume(outline.is_valid and outline.area > 0.05)
    pieces = [
        shapely.Polygon(piece) for piece in convex_pieces(tuple(map(tuple, shapely.get_coordinates(outline)[:-1].tolist())))
    ]
    assert all(piece.convex_hull.area == pytest.approx(piece.area, rel=1e-6) for piece in pieces)
    assert sum(piece.area for piece in pieces) == pytest.approx(outline.area, rel=1e-9)
    assert shapely.union_all(pieces).symmetric_difference(outline).area < 1e-9
    assert len(pieces) <= len(corners) - 2


@pytest.mark.parametrize("corners", [ELL, COMB])
def test_inside_and_outside_share_space_between_them(corners) -> None:
    prism = Prism(corners, 1.0, 3.0)
    points = np.random.default_rng(4).uniform((-2, -2, 0), (9, 7, 4), (6000, 3))
    within = shapely.contains_xy(shapely.Polygon(corners), points[:, 0], points[:, 1]) & (points[:, 2] > 1) & (points[:, 2] < 3)
    assert (held_by_any(prism.inside, points) == within).all()
    assert (held_by_any(prism.outside, points) == ~within).all()


def test_cells_of_one_prism_have_no_faces_between_them_and_a_level_one_is_one() -> None:
    """A comb let into a block: floor, lid and ten sides, each whole, of the sizes a hand would reckon."""
    block = trimesh.creation.box(bounds=((-3, -3, -3), (12, 9, 9)))
    building = building_of((block.vertices, block.faces))
    for carve in (True, False):
        faces = Cutter(building).dissect([prism_cut(Prism(COMB, 1.0, 3.0), carve)], np.ones(1, bool)).faces
        names = {face.name: float(face.section.areas.sum()) for face in faces}
        area, around = shapely.Polygon(COMB).area, np.hypot(*np.diff([*COMB, COMB[0]], axis=0).T)
        assert len(faces) == 12 and [names["top"], names["bottom"]] == pytest.approx([area, area])
        assert [names[f"side {i + 1}"] for i in range(10)] == pytest.approx(list(2.0 * around))
        assert all(len(face.section.polygons) == 1 for face in faces)


def test_a_round_one_has_the_area_of_a_circle_and_no_lines_up_its_side() -> None:
    """π r² and 2 π r h; the polygon that stands for the circle has its area, and a girth longer by π²/(6 n²) (by the series)."""
    block = trimesh.creation.box(bounds=((-5, -5, 0), (5, 5, 4)))
    building = building_of((block.vertices, block.faces))
    prism = Prism(((0.5, -0.2),), 1.0, 5.0, 1.6)
    found = Cutter(building).dissect([prism_cut(prism, True)], np.ones(1, bool))
    floor = sum(float(f.section.areas.sum()) for f in found.faces if f.name == "bottom")
    wall = [f for f in found.faces if f.name == "round"]
    assert floor == pytest.approx(math.pi * 1.6**2, rel=1e-9)
    assert sum(float(f.section.areas.sum()) for f in wall) == pytest.approx(2 * math.pi * 1.6 * 3.0, rel=1.0e-3)
    upright = [np.abs(np.diff(s[:, 2])).max() > 1e-6 for f in wall for s in f.contours.heavy]
    assert not any(upright) and len(upright) >= 2 * len(wall)


def test_sides_and_corners_are_pulled_and_an_outline_never_crosses_itself() -> None:
    cut = prism_cut(Prism(ELL, 0.0, 3.0), True)
    wider = cut.pulled("side 1", np.array([1.5, 0.3, 0.2]))
    assert wider.prism.corners[1:3] == ((7.5, 0.0), (7.5, 2.0)) and wider.prism.corners[3:] == ELL[3:]
    assert cut.pulled("corner 3", np.array([-1.0, -1.0, 5.0])).prism.corners[3] == (1.0, 1.0)
    assert cut.pulled("corner 3", np.array([-3.0, 0.0, 0.0])) == cut  # it would cross the side opposite
    assert cut.pulled("side 0", np.array([0.0, 2.5, 0.0])) == cut
    turned = cut.turned(np.zeros(3), 90.0)
    assert turned.prism.centre == pytest.approx(cut.prism.centre) and (turned.heading - cut.heading) % 360 == pytest.approx(90)
    assert shapely.Polygon(turned.prism.corners).area == pytest.approx(shapely.Polygon(ELL).area)


@pytest.mark.parametrize(
    ("corners", "radius", "levels", "words"),
    [
        (((0, 0), (4, 4), (4, 0), (0, 4)), None, (0, 1), "cross itself"),
        (((0, 0), (4, 0)), None, (0, 1), "three corners"),
        (((0, 0), (4, 0), (4, 0), (0, 3)), None, (0, 1), "lie on one another"),
        (((0, 0), (4, 0), (8, 0)), None, (0, 1), "cross itself"),
        (ELL, None, (2, 2), "higher one"),
        (((0, 0),), -1.0, (0, 1), "radius above 0"),
        (((math.nan, 0), (4, 0), (4, 4)), None, (0, 1), "finite"),
    ],
)
def test_outlines_that_make_no_prism_are_refused(corners, radius, levels, words: str) -> None:
    with pytest.raises(Problem, match=words):
        Prism(corners, *levels, radius)
