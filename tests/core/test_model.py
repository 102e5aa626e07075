"""The building as a value: how it is put together, found in, and what of it is drawn as lines."""

from __future__ import annotations

import os
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import assume, given
from hypothesis import strategies as st

from anatome.cuts.cells import Cell
from anatome.cuts.cut import SectionPlane, next_mark
from anatome.cuts.dissection import Cutter, shown_elements
from anatome.cuts.picking import pick
from anatome.cuts.plane import Plane
from anatome.cuts.section import section
from anatome.cuts.slicing import outlines_of
from anatome.cuts.triangulation import triangulated
from anatome.files import write_whole
from anatome.formats.store import load_building, save_building
from anatome.model.assembly import BuildingAssembly
from anatome.model.building import DERIVED, Building, Element, Space, Storey
from anatome.problems import Problem
from anatome.render.ground import footprint
from helpers import building_of


def box(at=(0.0, 0.0, 0.0), size=(1.0, 1.0, 1.0)) -> tuple[np.ndarray, np.ndarray]:
    made = trimesh.creation.box(size)
    return made.vertices + np.array(at), made.faces


# Putting together ----------------------------------------------------------------------------------------------


def test_dirt_is_dropped_and_said() -> None:
    vertices, faces = box()
    dirty = np.concatenate([vertices, [[np.nan, 0, 0], [0.5, 0.5, 0.5]]])
    doubled = np.concatenate([faces, faces[:3], [[0, 8, 1]], [[0, 0, 1]]])
    building = building_of((dirty, doubled), (np.zeros((3, 3)), np.array([[0, 1, 2]])))
    assert len(building.triangles) == 12 and len(building.vertices) == 8
    assert any("not numbers" in r for r in building.remarks) and any("doubled" in r for r in building.remarks)
    assert [f.name for f in building.failed] == ["Part 1"] and "no surface" in building.failed[0].reason
    assert np.isfinite(building.vertices).all()


def test_nothing_to_draw_is_a_problem() -> None:
    with pytest.raises(Problem, match="no geometry"):
        BuildingAssembly("empty").finish()
    with pytest.raises(Problem, match="no usable"):
        building_of((np.full((3, 3), np.inf), np.array([[0, 1, 2]])))


def test_ids_stay_unique_and_neighbours_keep_their_own_vertices() -> None:
    assembly = BuildingAssembly("two")
    style = assembly.style((1, 1, 1, 1))
    for _ in range(3):
        vertices, faces = box()
        assembly.add(Element(assembly.unused_id("Box"), "Box", "Part"), vertices, faces, style)
    building = assembly.finish()
    assert [e.id for e in building.elements] == ["Box", "Box 2", "Box 3"]
    assert len(building.vertices) == 24  # welded within an element, never across
    assert building.element_of_triangle.tolist() == [0] * 12 + [1] * 12 + [2] * 12


@given(st.floats(1e-3, 1e5), st.floats(-1e6, 1e6))
def test_vertices_that_differ_by_nothing_are_one(scale: float, shift: float) -> None:
    vertices, faces = box(size=(scale, scale, scale))
    soup = vertices[faces].reshape(-1, 3) + shift
    rng = np.random.default_rng(1)
    soup = soup + rng.uniform(-1, 1, soup.shape) * scale * 1e-12
    building = building_of((soup, np.arange(36).reshape(-1, 3)))
    found = section(building, Plane(tuple(np.array([shift] * 3) + scale * 0.1), (0.2, 0.1, 1.0)))
    assert len(found.polygons) == 1 and not found.open_outlines


def test_kept_on_disk_and_read_again(boathouse: Building, tmp_path: Path) -> None:
    path = tmp_path / "deep" / "model.npz"
    save_building(boathouse, path)
    again = load_building(path)
    assert again is not None
    assert again.elements == boathouse.elements and again.storeys == boathouse.storeys and again.spaces == boathouse.spaces
    assert (again.triangles == boathouse.triangles).all() and (again.vertices == boathouse.vertices).all()
    for name in DERIVED:  # nothing is worked out again
        assert name in again.__dict__
    assert (again.display_mesh.vertices == boathouse.display_mesh.vertices).all()
    whole = path.read_bytes()
    for place in (3, 60, len(whole) // 3, len(whole) - 7):  # a flipped bit anywhere is noticed
        broken = bytearray(whole)
        broken[place] ^= 4
        path.write_bytes(bytes(broken))
        assert load_building(path) is None, place
    path.write_bytes(whole[:5000])
    assert load_building(path) is None and load_building(tmp_path / "none.npz") is None
    assert [p.name for p in path.parent.iterdir()] == ["model.npz"]


def test_files_are_written_whole_or_not_at_all(tmp_path: Path) -> None:
    target = tmp_path / "a.svg"
    write_whole(target, b"one")
    write_whole(target, b"two")
    assert target.read_bytes() == b"two" and [p.name for p in tmp_path.iterdir()] == ["a.svg"]
    target.chmod(0o644)
    with pytest.raises(Problem):
        write_whole(tmp_path / "a.svg" / "b.svg", b"three")


# Finding -------------------------------------------------------------------------------------------------------


def test_clusters_hold_every_triangle_once_and_within_their_boxes(boathouse: Building) -> None:
    clusters = boathouse.clusters
    assert (np.sort(clusters.order) == np.arange(len(boathouse.triangles))).all()
    assert np.diff(clusters.start).max() <= 128
    owner = np.repeat(np.arange(len(clusters.centre)), np.diff(clusters.start))
    corners = boathouse.vertices[boathouse.triangles[clusters.order]]
    off = np.abs(corners - clusters.centre[owner][:, None]) - clusters.half[owner][:, None]
    assert off.max() < 1e-9
    assert (boathouse.element_of_triangle[clusters.order] == clusters.element[owner]).all()


@given(st.floats(-5, 11), st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda v: np.linalg.norm(v) > 0.1))
def test_no_crossed_triangle_is_missed(boathouse: Building, height: float, normal) -> None:
    """The cutter, which looks at a few clusters only and then goes from neighbour to neighbour, has a point for every triangle
    that a look at every one of them finds."""
    plane = Plane((15.0, 6.0, height), normal)
    distance = plane.distance(boathouse.vertices)[boathouse.triangles]
    found = outlines_of(boathouse, plane)
    solid = boathouse.links.closed
    points = np.bincount(np.repeat(found.element, np.diff(found.first)), minlength=len(solid))[solid]
    # Corners within rounding of the border between the two sides may fall to either.
    low, high = -boathouse.tolerance - 1e-12, -boathouse.tolerance + 1e-12
    owner, many = boathouse.element_of_triangle, len(solid)
    surely = np.bincount(owner[(distance.min(axis=1) < low) & (distance.max(axis=1) > high)], minlength=many)[solid]
    perhaps = np.bincount(owner[(distance.min(axis=1) < high) & (distance.max(axis=1) >= low)], minlength=many)[solid]
    assert (surely <= points).all() and (points <= perhaps).all() and perhaps.any() == (surely.any() or points.any())


@given(st.integers(0, 10_000), st.integers(3, 40), st.integers(3, 40))
def test_a_ring_round_a_convex_hole_is_filled_exactly(seed: int, many: int, few: int) -> None:
    """Triangles of convex polygons with one convex hole: as many as Euler's formula says, none upside down, and together as
    large as GEOS says the polygon is."""
    random = np.random.default_rng(seed)

    def convex(count: int, radius: tuple[float, float]) -> np.ndarray:
        angle = np.sort(random.uniform(0, 2 * np.pi, count))
        return np.stack([radius[0] * np.cos(angle), radius[1] * np.sin(angle)], axis=1)

    outside = shapely.Polygon(convex(many, (5.0, 3.0)))
    centre, across = np.array(outside.representative_point().coords[0]), outside.exterior.distance(outside.representative_point())
    hole = centre + convex(few, (0.9 * across, 0.4 * across))
    assume(outside.area > 1e-3 and shapely.Polygon(hole).area > 1e-6 * outside.area)
    polygon = shapely.Polygon(outside.exterior.coords, [hole if seed % 2 else hole[::-1]])
    rings = shapely.get_rings(polygon)
    points, triangles, _ = triangulated(rings, np.zeros(2, np.int64))
    a, b, c = points[triangles[:, 0]], points[triangles[:, 1]], points[triangles[:, 2]]
    doubled = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    assert len(triangles) == many + few and (doubled > -1e-12).all()
    assert doubled.sum() / 2 == pytest.approx(polygon.area, rel=1e-9)


def test_picking_sees_cut_faces_first_and_not_what_is_cut_away(boathouse: Building) -> None:
    cut = SectionPlane(id="c", name="C", mark="C", plane=Plane((14.0, 6.2, 3.0), (0, -1, 0)))
    cutter, shown = Cutter(boathouse), np.ones(len(boathouse.elements), bool)
    cut_open = cutter.dissect([cut], shown)
    faces = cut_open.faces
    section_found = faces[0].section
    largest = section_found.polygons[np.argmax(section_found.areas)].representative_point()
    inside = section_found.plane.raised(np.array([largest.x, largest.y]))
    found = pick(cut_open, inside - np.array([0, 30.0, 0]), np.array([0, 1.0, 0]))
    assert found is not None and found[1] is faces[0]
    assert found[0].point == pytest.approx(tuple(inside)) and found[0].normal == (0, -1, 0)
    behind = pick(cut_open, inside + np.array([0, 60.0, 0]), np.array([0, -1.0, 0]))
    assert behind is None or behind[1] is None  # a cut face is not seen from behind
    away = pick(cut_open, np.array([15.0, -40.0, 3.0]), np.array([0, 1.0, 0]))
    assert away is not None and away[0].point[1] > 6.2 - 1e-6
    nothing = shown_elements(boathouse, [e.id for e in boathouse.elements])
    assert pick(cutter.dissect([], nothing), np.array([15.0, -40.0, 3.0]), np.array([0, 1.0, 0])) is None


# Lines and ground ----------------------------------------------------------------------------------------------


def test_edges_of_known_shapes() -> None:
    """A box has twelve edges, none of them across a face; a ball none but its silhouette; an open sheet its border."""
    cube = building_of(box()).feature_edges
    assert cube.sharp.sum() == len(cube.ends) == 12 and not cube.normals.any()
    ball = trimesh.creation.icosphere(subdivisions=3)
    smooth = building_of((ball.vertices, ball.faces)).feature_edges
    assert not smooth.sharp.any() and len(smooth.ends) == len(ball.edges_unique)
    assert np.linalg.norm(smooth.normals / 127.0, axis=2) == pytest.approx(1.0, abs=0.01)
    sheet = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0.0]])
    assert building_of((sheet, np.array([[0, 1, 2], [0, 2, 3]]))).feature_edges.sharp.sum() == 4
    cylinder = trimesh.creation.cylinder(1, 2, sections=40)
    rims = building_of((cylinder.vertices, cylinder.faces)).feature_edges
    assert rims.sharp.sum() == 80 and len(rims.ends) == 120


def test_the_subject_leaves_the_ground_out(boathouse: Building) -> None:
    shown = np.ones(len(boathouse.elements), bool)
    low, high = boathouse.subject_bounds(shown)
    assert (high - low)[:2] == pytest.approx([36, 33], abs=6) and low[2] > -2
    only_ground = np.array([e.type == "IfcGeographicElement" for e in boathouse.elements])
    assert (boathouse.subject_bounds(only_ground) == boathouse.bounds_of(only_ground)).all()


def test_the_soft_ground_is_dark_under_things_and_fades_to_nothing() -> None:
    building = building_of(box(size=(10, 6, 3)))
    shown = np.ones(1, bool)
    picture, corners = footprint(building, shown)
    size = len(picture)
    assert picture[size // 2, size // 2] > 0.9
    assert max(picture[0].max(), picture[-1].max(), picture[:, 0].max(), picture[:, -1].max()) == 0
    assert corners[0] < -5 and corners[2] > 5
    cut, _ = footprint(building, shown, [Cell((Plane((0, 0, 0), (1, 0, 0)),))])
    assert cut[:, : size // 2].sum() > 5 * cut[:, size // 2 :].sum()


def test_marks_skip_letters_that_read_as_figures() -> None:
    taken: set[str] = set()
    for _ in range(26):
        taken.add(next_mark(taken))
    assert "I" not in taken and "O" not in taken and {"A", "Z", "AA", "BB"} <= taken


def test_compiled_loops_survive_a_damaged_cache(tmp_path: Path) -> None:
    code = "import anatome.cuts.rings as r, numpy as np; print(r.ring_areas(np.eye(3)[:, :2], np.array([0, 3])))"
    said = []
    for _ in range(2):
        done = subprocess.run(
            [sys.executable, "-c", code], env={**os.environ, "NUMBA_CACHE_DIR": str(tmp_path)}, capture_output=True, text=True
        )
        said.append(done.stdout)
        for kept in tmp_path.rglob("*.nb*"):
            kept.write_bytes(b"damaged")
    assert list(tmp_path.rglob("*.nb*")) and said[0] == said[1] and "0.5" in said[0]


def test_parts_are_measured(boathouse: Building) -> None:
    """Against trimesh, which sums up the same triangles in its own way; and a ball with a hole in its skin has no volume."""
    for index in range(0, len(boathouse.elements), 37):
        own = boathouse.triangles[boathouse.triangle_start[index] : boathouse.triangle_start[index + 1]]
        mesh = trimesh.Trimesh(boathouse.vertices, own, process=False)
        area, volume = boathouse.measures_of(index)
        assert area == pytest.approx(mesh.area, rel=1e-9)
        if volume is not None:
            assert volume == pytest.approx(abs(mesh.volume), rel=1e-6)
    ball = trimesh.creation.icosphere(3, 2.0)
    whole, torn = building_of((ball.vertices, ball.faces)), building_of((ball.vertices, ball.faces[1:]))
    assert whole.measures_of(0)[1] == pytest.approx(ball.volume) and torn.measures_of(0)[1] is None


def test_rooms_of_one_name_say_storey_and_number() -> None:
    room = ((0.0, 0.0, 0.0), (1.0, 1.0, 1.0))
    spaces = [
        Space(f"s{i}", name, storey, *room) for i, (name, storey) in enumerate((("Bed", 0), ("Bed", 1), ("Bed", 1), ("Bath", 0)))
    ]
    building = replace(building_of(box()), spaces=tuple(spaces), storeys=(Storey("g", "Ground", 0.0), Storey("u", "Upper", 3.0)))
    assert [building.room_name(s) for s in building.spaces] == ["Bed, Ground", "Bed, Upper 1", "Bed, Upper 2", "Bath"]
