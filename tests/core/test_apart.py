"""Buildings drawn apart: exploded, parted, lifted. Nothing is lost, doubled or changed by it but its place."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from trimesh import Trimesh
from trimesh.ray.ray_pyembree import RayMeshIntersector

from anatome.cuts.cut import SectionBox, SectionPlane, SteppedSection
from anatome.cuts.dissection import CutBuilding, Cutter, shown_elements
from anatome.cuts.exploding import ApartGroup, Exploded, above, by_storeys, travel_lines
from anatome.cuts.kinds.box import Box
from anatome.cuts.kinds.stepped_line import SteppedLine
from anatome.cuts.moves import STAYS, home, places_through
from anatome.cuts.parting import Parting
from anatome.cuts.pieces import Placed, ShownBuilding, parts, pick_placed
from anatome.cuts.plane import Plane
from anatome.cuts.reach import Reach
from anatome.cuts.solid import kept_part
from anatome.cuts.treatment import ALL_SLICED, TreatmentRow, Treatments
from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.scenes import apart, edits
from anatome.scenes.opened import kept_of, left_of, opened
from anatome.scenes.project import ModelReference, Project, StageState
from anatome.view.camera import Camera, standard_view
from anatome.view.projections import named
from anatome.view.viewport import Frame, Viewport

CAMERA = Camera(eye=(-20, -30, 15), target=(14, 6, 3))
# Not in any face: there, a cut slices what lies directly behind it, and its two sides are not alike.
LEVEL = Plane((15.0, 6.0, 4.953), (0.0, 0.0, 1.0))
UPRIGHT = Plane((14.0, 6.2137, 3.0), (0.0, -1.0, 0.0))


def plane_cut(plane: Plane, parting: Parting | None, **more) -> SectionPlane:
    return SectionPlane(id="a", name="Section A", mark="A", plane=plane, parting=parting, **more)


def state(*cuts, **more) -> StageState:
    return StageState(camera=CAMERA, cuts=cuts, treatments=ALL_SLICED, **more)


def volume(left: CutBuilding, closed: np.ndarray) -> float:
    return float(sum(Trimesh(k.vertices, k.triangles).volume for k in kept_part(left) if closed[k.element]))


def area(left: CutBuilding, cut_id: str) -> float:
    return float(sum(shapely.area(face.poche.polygons).sum() for face in left.faces_of(cut_id)))


@pytest.mark.parametrize(
    "cut",
    [
        plane_cut(LEVEL, Parting(turned="mirrored", way="sideways", distance=34)),
        plane_cut(UPRIGHT, Parting(turned="turned over", way="sideways", distance=30)),
        plane_cut(Plane((12, 6, 3), (1, 0.4, 0.2)), Parting(), depth=4.0),
        SectionBox(
            id="a", name="B", mark="B", box=Box((24.5, 2.03, 3.117), (13.5, 8.5, 6), 20), carve=True, parting=Parting(way="up")
        ),
    ],
)
def test_parted_the_building_is_all_there_and_both_faces_are_filled(boathouse: Building, cut) -> None:
    cutter = Cutter(boathouse)
    found = opened(cutter, state(cut))
    closed = boathouse.outward & boathouse.plain_solids  # where bodies overlap, what is counted twice is not cut twice
    whole = volume(cutter.dissect([], np.ones(len(boathouse.elements), bool)), closed)
    assert len(found.pieces) == 2
    assert sum(volume(piece.cut_open, closed) for piece in found.pieces) == pytest.approx(whole, rel=1e-9)
    # What stays and what is moved show the same area, which is that of the cut that takes away. A depth takes nothing here.
    plain = cut.model_copy(update={"parting": None, "depth": None} if isinstance(cut, SectionPlane) else {"parting": None})
    expected = area(left_of(cutter, state(plain)), "a")
    assert [area(piece.cut_open, "a") for piece in found.pieces] == pytest.approx([expected, expected], rel=1e-9)
    # Areas, drawings and reports of the cut are those of one that takes away; the model as cut has lost nothing to it.
    assert area(left_of(cutter, state(cut)), "a") >= expected - 1e-9
    assert not kept_of(cutter, state(cut)).cells


def test_closed_it_is_the_building_as_it_stands(boathouse: Building) -> None:
    cutter = Cutter(boathouse)
    exploded = Exploded(groups=by_storeys(boathouse, np.ones(len(boathouse.elements), bool), 4.0))
    shut = opened(cutter, state(plane_cut(UPRIGHT, Parting()), exploded=exploded, opening=0.0))
    assert shut.pieces == () and not len(shut.lines) and shut.cut_open.shown.all() and not shut.cut_open.cells
    # A cut that acts before is kept by each storey; one that acts on the picture cuts straight through what is moved.
    crosswise = Plane((12.0, 6.0, 3.0), (1.0, 0.0, 0.3))
    for displaced in (False, True):
        shown = opened(cutter, state(plane_cut(crosswise, None, on_displaced=displaced), exploded=exploded))
        for piece in shown.pieces:
            there = plane_of(piece, crosswise, displaced)
            for face in piece.cut_open.faces_of("a"):
                assert np.abs(there.distance(face.poche.caps.vertices)).max() < 1e-9
    assert len(shown.pieces) == 1 + len(exploded.groups)


def plane_of(piece: Placed, plane: Plane, displaced: bool) -> Plane:
    """Where a plane acts on a piece at home."""
    back = home(piece.move) if displaced else np.eye(4)
    origin = places_through(back, np.array(plane.origin))
    return Plane(tuple(origin), plane.normal)  # storeys are only shifted


def test_storeys_go_apart_each_by_its_own_distance_with_lines_between(boathouse: Building) -> None:
    shown = shown_elements(boathouse, [e.id for e in boathouse.elements if e.layer.startswith("L-")])
    groups = by_storeys(boathouse, shown, 4.0)
    assert [(g.name, g.distance) for g in groups] == [("Upper floor", 4.0), ("Roof", 8.0)]  # foundations have no walls
    exploded = Exploded(groups=groups)
    number = exploded.group_of(boathouse)
    hidden = frozenset(e.id for e, is_in in zip(boathouse.elements, shown) if not is_in)
    for opening in (0.25, 1.0):
        found = opened(Cutter(boathouse), state(hidden=hidden, exploded=exploded, opening=opening))
        rises = sorted(np.array(piece.move)[2, 3] for piece in found.pieces)
        assert rises == pytest.approx([0.0, 4.0 * opening, 8.0 * opening])
        lengths = found.lines[:, 1] - found.lines[:, 0]
        assert len(lengths) >= 8 and lengths == pytest.approx(np.tile([0, 0, 4.0 * opening], (len(lengths), 1)))
        low = boathouse.bounds_of((number == 1) & shown)[0, 2]
        assert np.isclose(found.lines[:, 0, 2], low + 4.0 * opening).sum() >= 4  # the roof's own lower corners
    # Sideways and the other way too, and none without corners.
    two = Exploded(groups=tuple(ApartGroup(name=n, what=Selection(), distance=d) for n, d in (("a", 2.0), ("b", -3.0))))
    square = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0], [0.5, 0.5, 1]], float)
    lines = travel_lines(two.model_copy(update={"direction": (1.0, 0.0, 0.0)}), {0: square, 1: square}, 0.5)
    assert {round(float(x), 9) for x in (lines[:, 1] - lines[:, 0])[:, 0]} == {1.0, -1.5}
    assert travel_lines(two, {0: np.empty((0, 3))}, 1.0).shape == (0, 2, 3)


def test_groups_go_each_its_own_way_with_lines_from_neighbour_to_neighbour() -> None:
    """A group stands as far along its path as it is moved; lines follow the bends, from the one before it in the order."""
    bent = ((0.0, 2.0, 0.0), (0.0, 2.0, 3.0))
    named = [("a", 4.0, bent), ("b", 1.0, bent), ("c", 2.0, ((-1.0, 0.0, 0.0),)), ("d", 3.0, ())]
    exploded = Exploded(groups=tuple(ApartGroup(name=n, what=Selection(), distance=d, path=p) for n, d, p in named))
    moved = [exploded.moved(i, 1.0) for i in range(4)]
    assert np.array(moved) == pytest.approx(np.array([[0, 2, 2], [0, 1, 0], [-2, 0, 0], [0, 0, 3]]))
    assert exploded.moved(0, 0.25) == pytest.approx([0, 1, 0]) and exploded.in_order() == ("b", "c", "d", "a")
    assert [exploded.before(i) for i in range(4)] == [1, None, None, None]
    cube = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], float)

    def joined(lines) -> dict[tuple, tuple]:
        return {tuple(np.round(a, 6)): tuple(np.round(b, 6)) for a, b in lines}

    chain = joined(travel_lines(exploded, {0: cube}, 1.0))
    # From home round the bend: every line that ends at the bend has one that goes on there.
    assert all(end in chain for end in chain.values() if abs(end[2] - moved[0][2]) > 1.5)
    assert len(chain) == 2 * 4
    along = joined(travel_lines(exploded, {0: cube, 1: cube}, 1.0))
    ends = {end for end in along.values() if end not in along}
    assert len(ends) == 8  # four corners of either
    ordered = exploded.model_copy(update={"order": ("d", "c", "b", "a")})
    assert [ordered.before(i) for i in range(4)] == [1, 2, 3, None]
    lines = travel_lines(ordered, {2: cube, 3: cube}, 1.0)
    steps = {tuple(np.round(b - a, 6)) for a, b in lines}
    assert steps == {(0.0, 0.0, 3.0), (-2.0, 0.0, -3.0)}


def test_groups_are_set_out_along_a_line_in_their_order() -> None:
    project = Project(name="p", model=ModelReference(path="m.ifc"), stage=StageState(camera=CAMERA))
    for name, far in (("a", 3.0), ("b", 2.0), ("c", 1.0)):
        project = apart.add_group(project, name, Selection(), far)
    project = apart.set_in_order(project, "a", -2)
    assert project.stage.exploded.in_order() == ("a", "c", "b")
    project = apart.set_way(project, "c", ((1.0, 0.0, 0.0),))
    out = apart.set_out_along(project, ((6.0, 0.0, 0.0), (6.0, 3.0, 0.0))).stage.exploded
    places = {g.name: tuple(out.moved(i, 1.0)) for i, g in enumerate(out.groups)}
    assert places == {"a": (3.0, 0.0, 0.0), "c": (6.0, 0.0, 0.0), "b": (6.0, 3.0, 0.0)}


def test_what_lies_above_a_storey_is_its_ceiling_and_all_higher_storeys(boathouse: Building) -> None:
    mask = above(boathouse, next(i for i, s in enumerate(boathouse.storeys) if s.name == "Ground floor")).mask(boathouse)
    ground = boathouse.element_bounds[~mask & ~boathouse.earth]
    assert {boathouse.storeys[e.storey].name for e, is_in in zip(boathouse.elements, mask) if is_in and e.storey is not None} == {
        "Ground floor",
        "Upper floor",
        "Roof",
    }
    kinds = {e.type for e, is_in in zip(boathouse.elements, mask) if is_in and boathouse.storeys[e.storey].name == "Ground floor"}
    assert kinds <= {"IfcSlab", "IfcRoof", "IfcCovering"} and len(ground) > 200


def test_what_is_kept_whole_goes_with_the_part_its_middle_is_in(boathouse: Building) -> None:
    kept = Treatments(rows=(TreatmentRow(name="All", what=Selection(types=frozenset(boathouse.type_counts)), does="keep whole"),))
    found = opened(Cutter(boathouse), state(plane_cut(UPRIGHT, Parting())).model_copy(update={"treatments": kept}))
    count = np.sum([piece.cut_open.shown for piece in found.pieces], axis=0)
    assert (count == 1).all() and not any(face.section.polygons.size for p in found.pieces for face in p.cut_open.faces)
    before = UPRIGHT.distance(boathouse.element_bounds.mean(axis=1)) > 0
    assert (found.pieces[1].cut_open.shown == before).all()
    # What a parting does not reach stays in one piece, and stays.
    roof = Reach(mode="only", what=Selection(types=frozenset({"IfcRoof", "IfcCovering"})))
    found = opened(Cutter(boathouse), state(plane_cut(UPRIGHT, Parting(), reach=roof)))
    assert {boathouse.elements[e].type for e in np.flatnonzero(found.pieces[1].cut_open.shown)} <= {"IfcRoof", "IfcCovering"}
    assert found.pieces[0].cut_open.shown[[e.type == "IfcWall" for e in boathouse.elements]].all()


@given(
    st.tuples(*[st.floats(-1, 1) for _ in range(3)]).filter(lambda n: np.linalg.norm(n) > 0.05),
    st.sampled_from(("apart", "sideways", "up", "along")),
    st.sampled_from(("as it is", "mirrored", "turned over")),
    st.floats(-50, 50),
    st.floats(0, 1),
)
def test_partings_keep_lengths_and_begin_where_the_building_stands(normal, way, turned, distance, opening) -> None:
    plane, parting = Plane((3, 2, 1), normal), Parting(way=way, turned=turned, distance=distance, direction=(0.3, 0.2, 1))
    middle = np.array([4.0, 5.0, 6.0])
    assert np.array(parting.move(plane, middle, 0.0)) == pytest.approx(np.array(STAYS))
    matrix = np.array(parting.move(plane, middle, opening))
    assert matrix[:3, :3] @ matrix[:3, :3].T == pytest.approx(np.eye(3), abs=1e-9)
    assert np.linalg.det(matrix[:3, :3]) == pytest.approx(-1 if turned == "mirrored" and opening > 0 else 1)
    if turned == "turned over":
        # Wide open it is the page turned: its face looks the other way, and the upright line of the cut stands as it was.
        wide = np.array(parting.move(plane, middle, 1.0))[:3, :3]
        right, up = plane.axes
        stays, goes = (right, up) if plane.is_level else (up, right)
        assert wide @ plane.n == pytest.approx(-plane.n, abs=1e-9)
        assert wide @ stays == pytest.approx(stays, abs=1e-9) and wide @ goes == pytest.approx(-goes, abs=1e-9)


def test_edits_of_what_is_apart(boathouse: Building) -> None:
    project = Project(name="p", model=ModelReference(path="m.ifc"), stage=StageState(camera=CAMERA))
    bounds = boathouse.subject_bounds(np.ones(len(boathouse.elements), bool))
    project = apart.add_group(project, "Roof", Selection(types=frozenset({"IfcRoof"})), 3.0)
    project = apart.add_group(project, "Doors", Selection(types=frozenset({"IfcDoor"})), 2.0)
    project = apart.change_group(
        apart.add_group(project, "Roof", Selection(layers=frozenset({"A-ROOF-TILE"})), 5.0), "Doors", 1.0
    )
    exploded = project.stage.exploded
    assert exploded is not None and [(g.name, g.distance) for g in exploded.groups] == [("Roof", 5.0), ("Doors", 1.0)]
    assert apart.set_opening(project, 7.0).stage.opening == 1.0
    cut = edits.add_plane(project, UPRIGHT, "a").stage.cuts[0]
    project = apart.part_at(edits.add_plane(project, UPRIGHT, "a"), cut, bounds)
    assert parts(project.stage.cuts[0]) and project.stage.is_apart
    turned = apart.turn_part(project, project.stage.cuts[0], "turned over", bounds).stage.cuts[0]
    assert isinstance(turned, SectionPlane) and turned.parting is not None
    # Turned over and moved along the cut it stands clear of what stays.
    assert turned.parting.way == "sideways" and turned.parting.distance > bounds[1, 0] - bounds[0, 0]
    whole = apart.whole_again(apart.change_group(apart.change_group(project, "Roof", None), "Doors", None))
    assert whole.stage.exploded is None and not whole.stage.is_apart and not whole.stage.cuts[0].on
    stepped = SteppedSection(id="s", name="S", mark="S", line=SteppedLine((0, -1, 0), (-3, -5), (10,)))
    assert not parts(stepped) and apart.turn_part(project, stepped, "mirrored", bounds) == project


RAYS = 1_200
VIEWS = {
    "perspective": CAMERA,
    "isometric": standard_view("Axonometric, front left", np.array([[0.0, -4, -1], [34, 27, 12]]), 1.5),
    "oblique": named("Plan oblique, 30° and 60°", (-1, -1))
    .camera(np.array([15.0, 8, 3]), 1.0, 30)
    .fitted(np.array([[0.0, -4, -1], [34, 27, 12]]), 1.5),
}


@pytest.mark.parametrize("view", [*VIEWS, "displaced"])
def test_picking_agrees_with_a_ray_caster(boathouse: Building, view: str) -> None:
    """RAYS random rays in each kind of picture against embree, on the closed meshes that manifold3d trims."""
    cutter, rng = Cutter(boathouse), np.random.default_rng(7)
    cut = plane_cut(
        Plane((14.0, 6.2, 3.0), (0.2, -1.0, 0.1)), Parting(turned="mirrored", distance=9) if view == "displaced" else None
    )
    groups = by_storeys(boathouse, np.ones(len(boathouse.elements), bool), 5.0)
    found = opened(cutter, state(cut, exploded=Exploded(groups=groups) if view == "displaced" else None))
    if view == "displaced":
        assert len(found.pieces) == 6
        corners = found.left_corners(boathouse.subject(np.ones(len(boathouse.elements), bool)))
        camera = VIEWS["isometric"].fitted_round(corners, 1.5)
    else:
        camera = VIEWS[view]
    triangles, element = moved_meshes(found)
    caster = RayMeshIntersector(Trimesh(triangles.reshape(-1, 3), np.arange(3 * len(triangles)).reshape(-1, 3), process=False))
    viewport = Viewport(camera, Frame(width=1200, height=800))
    rays = [viewport.ray(*(rng.uniform(0.05, 0.95, 2) * [1200, 800])) for _ in range(RAYS)]
    origins, directions = (np.array(a) for a in zip(*rays))
    triangle, index, points = caster.intersects_id(origins, directions, multiple_hits=False, return_locations=True)
    expected = np.full(RAYS, np.inf)
    expected[index] = np.linalg.norm(points - origins[index], axis=1)
    of = np.full(RAYS, -1)
    of[index] = element[triangle]
    wrong = 0
    for i in range(RAYS):
        met = pick_placed(found.parts, origins[i], directions[i])
        distance = met[0].distance if met else np.inf
        # embree counts in single precision: at an edge it may see past it, and faces that touch may change places.
        if distance != expected[i] and not abs(distance - expected[i]) < 2e-3:
            wrong += 1
        elif met is not None and met[0].element != of[i]:
            wrong += abs(distance - expected[i]) > 2e-3
    assert (of >= 0).sum() > RAYS / 4 and wrong <= RAYS / 500, wrong


def moved_meshes(found: ShownBuilding) -> tuple[np.ndarray, np.ndarray]:
    """((n, 3, 3) triangles of all that is shown, where it is shown, and (n,) whose they are)."""
    triangles, element = [], []
    for piece in found.parts:
        for kept in kept_part(piece.cut_open):
            own = places_through(np.array(piece.move), kept.vertices)[kept.triangles]
            triangles.append(own)
            element.append(np.full(len(own), kept.element))
    return np.concatenate(triangles), np.concatenate(element)
