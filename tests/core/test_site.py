"""Ground with its pits, blocks from footprints, people and trees: where they are, how they are cut, what they never do."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.moves import shifted
from anatome.cuts.pieces import Piece, ShownBuilding, placed
from anatome.cuts.plane import Plane
from anatome.formats.geojson import local_metres, read_footprints
from anatome.model.assembly import BuildingAssembly
from anatome.model.building import Building, Element
from anatome.problems import Problem
from anatome.site.bodies import with_site
from anatome.site.kinds import KINDS
from anatome.site.site import GROUND_ID, Figure, Ground, Neighbour, Neighbours, Site
from anatome.site.standing import seen_figures, standing
from anatome.view.camera import Camera
from helpers import seen


def block(x0: float, y0: float, z0: float, x1: float, y1: float, z1: float) -> trimesh.Trimesh:
    made = trimesh.creation.box((x1 - x0, y1 - y0, z1 - z0))
    made.apply_translation(((x0 + x1) / 2, (y0 + y1) / 2, (z0 + z1) / 2))
    return made


def house() -> Building:
    """A cellar under the ground and a floor over it, 10 × 8 m: walls 0.3 m thick, and a footing that juts out."""
    assembly = BuildingAssembly("house")
    style = assembly.style((0.8, 0.8, 0.8, 1.0))
    parts = {
        "footing": ("IfcFooting", block(-0.3, -0.3, -3.2, 10.3, 8.3, -2.9)),
        "cellar floor": ("IfcSlab", block(0.3, 0.3, -2.9, 9.7, 7.7, -2.7)),
        "floor": ("IfcSlab", block(0.3, 0.3, -0.2, 9.7, 7.7, 0.0)),
        **{
            f"wall {i}": ("IfcWall", block(*box))
            for i, box in enumerate(
                [(0, 0, -2.9, 10, 0.3, 3), (0, 7.7, -2.9, 10, 8, 3), (0, 0.3, -2.9, 0.3, 7.7, 3), (9.7, 0.3, -2.9, 10, 7.7, 3)]
            )
        },
    }
    for name, (kind, mesh) in parts.items():
        assembly.add(Element(name, name, kind), mesh.vertices, mesh.faces, style)
    return assembly.finish()


SITE = Site(
    ground=Ground(level=-0.15, depth=5.0, beyond=6.0),
    neighbours=Neighbours(
        blocks=(
            Neighbour(id="1", rings=(((14, 0), (20, 0), (20, 9), (14, 9)), ((16, 2), (16, 5), (18, 5), (18, 2))), height=7),
            Neighbour(id="2", rings=(((-9, 2), (-4, 2), (-4, 6), (-9, 6)),), base=1.0, height=4),
        )
    ),
)


def test_what_is_put_beside_a_building_is_as_if_it_had_been_opened_with_it() -> None:
    """Every derived array of the joined building, against the same worked out from nothing but its triangles."""
    whole = with_site(house(), SITE)
    anew = replace(whole)
    assert [e.id for e in whole.elements[-3:]] == ["site 1", "site 2", GROUND_ID] and whole.elements[:7] == house().elements
    for name in ("element_of_triangle", "element_bounds", "plain_solids", "outward"):
        assert np.array_equal(getattr(whole, name), getattr(anew, name)), name
    assert whole.links.closed.all() and np.array_equal(whole.links.twin, anew.links.twin)
    for one, other in ((whole.clusters, anew.clusters), (whole.feature_edges.clusters, anew.feature_edges.clusters)):
        assert sorted(one.order) == sorted(other.order) and len(one.start) == len(other.start)
        assert np.array_equal(np.sort(one.element), np.sort(other.element))
        assert np.allclose(sorted(map(tuple, one.centre)), sorted(map(tuple, other.centre)))
    assert {frozenset(e) for e in whole.feature_edges.ends.tolist()} == {frozenset(e) for e in anew.feature_edges.ends.tolist()}
    mesh = whole.display_mesh
    corners = mesh.vertices["position"][mesh.triangles] + whole.centre
    assert np.allclose(
        np.sort(corners, axis=1), np.sort(whole.vertices[whole.triangles[whole.clusters.order]], axis=1), atol=1e-5
    )
    assert (mesh.vertices["element"][mesh.triangles[:, 2]] == whole.element_of_triangle[whole.clusters.order]).all()
    assert np.array_equal(whole.centre, house().centre)
    # What stands round it is not what a picture is about.
    assert np.allclose(whole.subject_bounds(np.ones(len(whole.elements), bool)), house().bounds)


def test_ground_is_cut_as_earth_and_leaves_cellars_free() -> None:
    whole = with_site(house(), SITE)
    ground = whole.index_of[GROUND_ID]
    # A slab that reaches 6 m beyond all that stands there, less the pit over the cellar's floor.
    volume = whole.measures_of(ground)[1]
    assert volume == pytest.approx(41 * 21.3 * 5.0 - 9.4 * 7.4 * (2.9 - 0.15), rel=1e-9)
    cut = SectionPlane(id="a", name="A", mark="A", plane=Plane((5, 4, 0), (0, -1, 0)))
    (face,) = Cutter(whole).dissect([cut], np.ones(len(whole.elements), bool)).faces
    earth = shapely.union_all(face.poche.polygons[face.poche.element == ground])

    def at(x: float, z: float) -> shapely.Geometry:
        return shapely.Point(*face.plane.flat(np.array([x, 4.0, z])))

    assert shapely.contains(earth, at(-3, -1)) and shapely.contains(earth, at(5, -4)) and shapely.contains(earth, at(13, -0.2))
    for x, z in ((5, -1), (0.4, -2.6), (9.6, -0.5), (0.15, -1), (5, -2.8), (-0.2, -3), (5, 0.5), (5, -5.2), (-3, -0.1)):
        assert not shapely.intersects(earth, at(x, z)), (x, z)
    # Wherever the earth is cut, no cavity shows between it and what stands in it: 5 m deep, less the house in it.
    house_in_it = 10 * (2.9 - 0.15) + 10.6 * 0.3
    assert earth.area == pytest.approx(41 * 5 - house_in_it, rel=1e-9)


def test_blocks_are_closed_where_they_are_placed_and_keep_their_courtyards() -> None:
    turned = SITE.neighbours.model_copy(update={"turned": 90.0, "east": 30.0})
    whole = with_site(house(), SITE.model_copy(update={"neighbours": turned}))
    court, raised = whole.index_of["site 1"], whole.index_of["site 2"]
    assert whole.measures_of(court)[1] == pytest.approx((54 - 6) * 7) and whole.measures_of(raised)[1] == pytest.approx(80)
    # Turned a quarter to the left, (14…20, 0…9) is (−9…0, 14…20); it stands on the ground, the other on its own base.
    assert np.allclose(whole.element_bounds[court], [[21, 14, -0.15], [30, 20, 6.85]])
    assert np.allclose(whole.element_bounds[raised][:, 2], [1, 5])


def footprints(path: Path, *features: tuple[list, dict]) -> Path:
    made = [{"type": "Feature", "properties": about, "geometry": shape} for shape, about in features]
    path.write_text(json.dumps({"type": "FeatureCollection", "features": made}))
    return path


def square(x: float, y: float, side: float) -> list:
    return [[[x, y], [x + side, y], [x + side, y + side], [x, y + side], [x, y]]]


def test_footprints_and_their_heights_are_read(tmp_path: Path) -> None:
    def polygon(rings: list) -> dict:
        return {"type": "Polygon", "coordinates": rings}

    path = footprints(
        tmp_path / "site.geojson",
        (polygon(square(0, 0, 10)), {"height": "12,5 m", "name": "Mill"}),
        (polygon(square(20, 0, 10)), {"height": "40 ft"}),
        ({"type": "MultiPolygon", "coordinates": [square(40, 0, 5), square(50, 0, 5)]}, {"building:levels": 3}),
        ({"type": "GeometryCollection", "geometries": [polygon(square(60, 0, 5))]}, {"height": "unknown"}),
        ({"type": "Point", "coordinates": [1, 2]}, {}),
        (polygon([[[0, 0], [1, 1]]]), {}),
        (None, {}),
    )
    found = read_footprints(path, height=8.0)
    blocks = found.neighbours.blocks
    assert [round(b.height, 3) for b in blocks] == [12.5, 12.192, 9.6, 9.6, 8.0] and blocks[0].name == "Mill"
    assert (found.unit, found.without_height, found.passed_over, found.origin) == ("metres", 1, 2, None)
    assert blocks[0].rings[0] == ((0, 0), (10, 0), (10, 10), (0, 10))

    degrees = footprints(tmp_path / "world.geojson", (polygon(square(11.0, 48.0, 0.001)), {"height": 9}))
    found = read_footprints(degrees)
    assert found.unit == "degrees" and found.origin == pytest.approx((11.0005, 48.0005))
    # A thousandth of a degree at 48° north, WGS 84 (values from memory of printed tables: 111 200 and 74 625 m a degree).
    extent = np.ptp(np.array(found.neighbours.blocks[0].rings[0]), axis=0)
    assert extent == pytest.approx([74.63, 111.20], abs=0.02)


def test_degrees_add_up_to_the_meridian() -> None:
    """The quarter meridian of WGS 84 is 10 001 965.7 m, the equator 40 075 016.7 m (values from memory, two of one kind)."""
    steps = [local_metres(np.array([[0.0, y + 0.05]]), np.array([0.0, y]))[0, 1] * 2 for y in np.arange(0.05, 90, 0.1)]
    assert sum(steps) == pytest.approx(10_001_965.7, rel=1e-7)
    assert local_metres(np.array([[360.0, 0.0]]), np.zeros(2))[0, 0] == pytest.approx(40_075_016.7, rel=1e-8)


JSON = st.recursive(
    st.none() | st.booleans() | st.floats() | st.text(max_size=8),
    lambda inner: (
        st.lists(inner, max_size=4)
        | st.dictionaries(
            st.sampled_from(["type", "features", "geometry", "coordinates", "geometries", "properties"]), inner, max_size=4
        )
        | st.fixed_dictionaries(
            {"type": st.sampled_from(["Polygon", "MultiPolygon", "Feature"]), "coordinates": inner, "geometry": inner}
        )
    ),
    max_leaves=25,
)


@settings(max_examples=150)
@given(content=JSON)
def test_a_file_that_holds_no_footprints_says_so(content: object, tmp_path_factory: pytest.TempPathFactory) -> None:
    path = tmp_path_factory.getbasetemp() / "any.geojson"
    path.write_text(json.dumps(content))
    try:
        assert read_footprints(path).neighbours.blocks
    except Problem as problem:
        assert "any.geojson" in str(problem)


def figure(name: str, kind: str, place: tuple[float, float, float], on: str | None = None) -> Figure:
    return Figure(id=name, kind=kind, place=place, height=KINDS[kind].height, on=on)


@settings(max_examples=60)
@given(x=st.floats(-2, 12), y=st.floats(-2, 10), angle=st.floats(0, 6.28))
def test_a_figure_is_whole_or_not_there(x: float, y: float, angle: float) -> None:
    """Shown when its foot is behind the plane, however far its crown reaches before it; gone when it is before."""
    building = house()
    normal = np.array([np.cos(angle), np.sin(angle), 0.0])
    plane = Plane((5.0, 4.0, 0.0), tuple(normal))
    cut = SectionPlane(id="a", name="A", mark="A", plane=plane)
    opened = ShownBuilding(Cutter(building).dissect([cut], np.ones(len(building.elements), bool)))
    tree = figure("t", "broad tree", (x, y, 0.0), "floor")
    ahead = float((np.array([x, y, 0]) - [5, 4, 0]) @ normal)
    assert (len(seen_figures((tree,), frozenset(), opened)) == 1) == (ahead <= 0) or abs(ahead) < 1e-6
    assert not seen_figures((tree,), frozenset({"t"}), opened)
    # What a cut that reaches only the floor takes, it takes from those on the floor only.
    loose = tree.model_copy(update={"id": "u", "on": "wall 0"})
    reached = cut.model_copy(update={"on": False})
    shown = ShownBuilding(Cutter(building).dissect([reached], np.ones(7, bool)))
    assert len(seen_figures((tree, loose), frozenset(), shown)) == 2


def test_figures_go_with_the_floor_they_stand_on() -> None:
    building = house()
    cutter, everything = Cutter(building), np.ones(len(building.elements), bool)
    upper = np.array([e.id == "floor" for e in building.elements])
    pieces = placed(cutter, [Piece(shifted((0, 0, 0)), ~upper), Piece(shifted((0, 0, 9.0)), upper)], [], everything)
    apart = ShownBuilding(cutter.dissect([], everything), pieces)
    people = (figure("a", "standing", (5, 4, 0), "floor"), figure("b", "standing", (5, 4, -2.7), "cellar floor"))
    assert [f.place[2] for f in seen_figures(people, frozenset(), apart)] == [9.0, -2.7]
    hidden = ShownBuilding(cutter.dissect([], ~upper))
    assert [f.id for f in seen_figures(people, frozenset(), hidden)] == ["b"]
    # A later version's kinds are kept in the file and not drawn; what stands on nothing known stands where it stood.
    assert not seen_figures((people[0].model_copy(update={"kind": "dragon"}),), frozenset(), apart)
    assert len(seen_figures((people[0].model_copy(update={"on": "gone"}),), frozenset(), apart)) == 1


@pytest.mark.parametrize("eye", [(5, -20, 2), (-14, -9, 8), (25, 30, 14)])
@pytest.mark.parametrize("projection", ["parallel", "perspective"])
def test_figures_face_the_eye_upright(eye: tuple[float, float, float], projection: str) -> None:
    viewport = seen(Camera(eye=eye, target=(5, 4, 1), projection=projection), 1.5)  # type: ignore[arg-type]
    (one,) = standing((figure("a", "standing", (4, 3, 0)),), viewport)
    towards = viewport.towards(one.foot)
    assert abs(one.across @ towards) < 1e-9 and np.allclose(one.upward, [0, 0, 1.76]) and abs(one.across[2]) < 1e-12
    left, right = (viewport.pixels(one.raised(np.array([x, 0.5])))[0] for x in (-0.1, 0.1))
    assert right > left
    # A ray to its middle meets it, one beside it does not.
    hit = viewport.pixels(one.raised(np.array([0.0, 0.6])))
    assert one.met(*viewport.ray(*hit), 0.0) == pytest.approx(
        float(np.linalg.norm(one.raised(np.array([0.0, 0.6])) - viewport.ray(*hit)[0])), rel=1e-9
    )
    assert one.met(*viewport.ray(*viewport.pixels(one.raised(np.array([0.6, 0.6])))), 0.0) is None


def test_from_above_figures_lie_flat_as_symbols() -> None:
    above = seen(Camera(eye=(5, 4, 50), target=(5, 4, 0), up=(0, 1, 0), projection="parallel"), 1.5)
    figures = (figure("a", "broad tree", (4, 3, 0)), figure("b", "standing", (1, 1, 0)))
    for one in standing(figures, above):
        assert one.across[2] == one.upward[2] == 0 and abs(one.foot[2]) < 0.05
        assert np.ptp(one.drawing.borders.reshape(-1, 2), axis=0).max() < 1.0
    # In a plan oblique they stand: the sight is slanted.
    oblique = seen(Camera(eye=(5, 4, 50), target=(5, 4, 0), up=(0, 1, 0), projection="parallel", shear=(0.0, 1.0)), 1.5)
    assert all(one.upward[2] > 0 for one in standing(figures, oblique))


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_every_drawing_is_sound_and_one_unit_high(kind: str) -> None:
    from anatome.site.kinds import drawn, symbol

    own = drawn(kind, "some id")
    left, low, right, high = own.outline.bounds
    tall = 1.88 if kind == "rower" else 1.0  # the oar stands over the head
    assert low == pytest.approx(0, abs=0.02) and high == pytest.approx(tall, abs=0.03) and 0.1 < right - left < 1.4
    assert all(area.is_valid and not area.is_empty for _, area in (*own.areas, *symbol(kind, "some id").areas))
    triangles, tones = own.triangles
    corners = shapely.polygons(triangles)
    assert shapely.area(corners).sum() == pytest.approx(sum(area.area for _, area in own.areas), rel=1e-9)
    assert len(tones) == len(triangles) and all(
        shapely.covers(shapely.buffer(own.outline, 1e-9), s) for s in map(shapely.linestrings, own.strokes)
    )
    if KINDS[kind].is_tree:
        assert not np.array_equal(drawn(kind, "another").triangles[0], triangles)


def test_degrees_are_told_by_the_size_of_houses_and_go_round_the_earth(tmp_path: Path) -> None:
    """A whole city is degrees too; houses on either side of the antimeridian are neighbours (RFC 7946, 3.1.9)."""

    def polygon(rings: list) -> dict:
        return {"type": "Polygon", "coordinates": rings}

    city = [(polygon(square(11.0 + 0.1 * i, 48.0 + 0.1 * j, 0.0002)), {"height": 9}) for i in range(4) for j in range(4)]
    assert read_footprints(footprints(tmp_path / "city.geojson", *city)).unit == "degrees"
    garden = [(polygon(square(3.0 * i, 0, 2.5)), {"height": 3}) for i in range(4)]
    assert read_footprints(footprints(tmp_path / "garden.geojson", *garden)).unit == "metres"
    halves = [(polygon(square(x, -17.0, 0.001)), {"height": 9}) for x in (179.9985, -179.9995)]
    across = [(polygon([[[179.9998, -17], [-179.9998, -17], [-179.9998, -16.9998], [179.9998, -16.9998], [179.9998, -17]]]), {})]
    found = read_footprints(footprints(tmp_path / "islands.geojson", *halves, *across))
    places = np.concatenate([np.array(b.rings[0]) for b in found.neighbours.blocks])
    assert found.unit == "degrees" and np.ptp(places, axis=0).max() < 350 and abs(abs(found.origin[0]) - 180) < 0.001  # type: ignore[index]
    with pytest.raises(Problem, match="cannot be degrees"):
        read_footprints(footprints(tmp_path / "far.geojson", (polygon(square(170, 89.9, 20)), {})), "degrees")
