"""What must hold for any shape and plane (hypothesis)."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from anatome.cuts.cells import Cell
from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.plane import Plane
from anatome.cuts.section import clipped, section
from anatome.model.raycast import first_hit
from helpers import building_of

unit = st.tuples(*[st.floats(-1, 1, allow_nan=False)] * 3).filter(lambda v: np.linalg.norm(v) > 0.05)
place = st.tuples(*[st.floats(-0.8, 0.8)] * 3)
seeds = st.integers(0, 10_000)


def blob(seed: int) -> trimesh.Trimesh:
    """A closed, dented, star-shaped body with a hollow in it."""
    rng = np.random.default_rng(seed)
    outer = trimesh.creation.icosphere(subdivisions=3)
    outer.vertices *= (0.9 + 0.5 * rng.random(len(outer.vertices)))[:, None]
    inner = trimesh.creation.icosphere(subdivisions=2, radius=0.4)
    inner.invert()
    return trimesh.util.concatenate([outer, inner])


def total(vertices: np.ndarray, faces: np.ndarray, plane: Plane) -> float:
    return float(section(building_of((vertices, faces)), plane).areas.sum())


@settings(max_examples=40)
@given(seeds, place, unit, unit, st.floats(0, 360), st.floats(-100, 100))
def test_areas_do_not_change_with_rigid_motion_or_the_order_of_triangles(seed, point, normal, axis, degrees, shift) -> None:
    mesh, rng = blob(seed), np.random.default_rng(seed)
    plane = Plane(point, normal)
    here = total(mesh.vertices, mesh.faces, plane)
    motion = trimesh.transformations.rotation_matrix(np.radians(degrees), axis)
    motion[:3, 3] = shift, -shift, 2 * shift
    moved = trimesh.transform_points(mesh.vertices, motion)
    there = Plane(tuple(trimesh.transform_points([point], motion)[0]), tuple(motion[:3, :3] @ plane.n))
    faces = np.array([np.roll(f, k) for f, k in zip(rng.permutation(mesh.faces), rng.integers(0, 3, len(mesh.faces)))])
    assert total(moved, faces, there) == pytest.approx(here, rel=1e-6, abs=1e-9)


@settings(max_examples=40)
@given(seeds, place, unit)
def test_a_plane_and_the_plane_turned_round_give_the_same_polygons(seed, point, normal) -> None:
    mesh = blob(seed)
    building = building_of((mesh.vertices, mesh.faces))
    plane = Plane(point, normal)
    one, other = section(building, plane), section(building, plane.turned_round())
    mirrored = shapely.transform(other.polygons, lambda flat: one.plane.flat(other.plane.raised(flat)))
    difference = shapely.symmetric_difference(shapely.union_all(one.polygons), shapely.union_all(mirrored))
    # Vertices within the tolerance of the plane count as on it, from either side.
    assert shapely.area(difference) < 20 * building.tolerance
    assert one.areas.sum() == pytest.approx(other.areas.sum(), abs=20 * building.tolerance)


@settings(max_examples=40)
@given(seeds, place, unit, st.integers(0, 2))
def test_a_mesh_turned_inside_out_or_in_disorder_is_still_cut(seed, point, normal, damage) -> None:
    """Flipped faces, doubled faces and NaN vertices do not stop the cutter; whole inversion does not matter."""
    mesh = blob(seed)
    plane = Plane(point, normal)
    whole = total(mesh.vertices, mesh.faces, plane)
    rng = np.random.default_rng(seed)
    vertices, faces = mesh.vertices.copy(), mesh.faces.copy()
    if damage == 0:
        faces = faces[:, ::-1]
    elif damage == 1:
        flipped = rng.random(len(faces)) < 0.3
        faces[flipped] = faces[flipped][:, ::-1]
    else:
        faces = np.concatenate([faces, faces[rng.random(len(faces)) < 0.5]])
        vertices = np.concatenate([vertices, [[np.nan, 0, 0], [np.inf, 1, 1], [0, 0, 0]]])
        faces = np.concatenate([faces, [[len(vertices) - 3, len(vertices) - 2, len(vertices) - 1]]])
    assert total(vertices, faces, plane) == pytest.approx(whole, rel=1e-9, abs=1e-12)


@settings(max_examples=30)
@given(seeds, place, unit, place, unit)
def test_two_planes_leave_of_each_cut_what_the_other_does_not_remove(seed, p1, n1, p2, n2) -> None:
    mesh = blob(seed)
    building = building_of((mesh.vertices, mesh.faces))
    a, b = Plane(p1, n1), Plane(p2, n2)
    assume(abs(a.n @ b.n) < 0.999)
    whole = section(building, a)
    kept = clipped(whole, [Cell((b,))], building.tolerance)
    removed = clipped(whole, [Cell((b.turned_round(),))], building.tolerance)
    assert kept.areas.sum() + removed.areas.sum() == pytest.approx(whole.areas.sum(), rel=1e-6, abs=1e-9)
    if len(kept.polygons):
        assert b.distance(kept.caps.vertices).max() < 1e-6


@settings(max_examples=30)
@given(seeds, place, unit)
def test_a_ray_meets_what_trimesh_says(seed, point, direction) -> None:
    mesh = blob(seed)
    building = building_of((mesh.vertices, mesh.faces))
    origin = np.array(point) * 4 + 3
    hit = first_hit(building, origin, np.array(direction))
    places = trimesh.ray.ray_triangle.RayMeshIntersector(mesh).intersects_location([origin], [direction])[0]
    if hit is None:
        assert len(places) == 0
    else:
        nearest = min(np.linalg.norm(places - origin, axis=1))
        assert hit.distance == pytest.approx(nearest, rel=1e-6)


@given(place, unit, st.floats(-300, 300), st.floats(-50, 50))
def test_plane_edits(point, normal, degrees, position) -> None:
    plane = Plane(point, normal)
    assert plane.at_position(position).position == pytest.approx(position, abs=1e-9)
    assert plane.turned_round().position == pytest.approx(plane.position, abs=1e-9)
    flat = plane.flat(np.array([[1.0, 2.0, 3.0]]))
    raised = plane.raised(flat)
    assert np.abs(plane.distance(raised)).max() < 1e-9
    anchor = plane.raised(np.zeros(2))
    swung = plane.turned_about(anchor, degrees)
    assert abs(swung.distance(anchor)) < 1e-9
    if np.hypot(*plane.normal[:2]) > 1e-3:
        assert (swung.heading - plane.heading - degrees + 180) % 360 - 180 == pytest.approx(0, abs=1e-6)


def test_everything_before_a_plane_goes_whether_it_touches_it_or_not() -> None:
    boxes = [trimesh.creation.box((1, 1, 1)) for _ in range(3)]
    for i, box in enumerate(boxes):
        box.apply_translation((0, 0, 3.0 * i))
    building = building_of(*((b.vertices, b.faces) for b in boxes))
    cut = SectionPlane(id="c", name="C", mark="C", plane=Plane((0, 0, 3.2), (0, 0, 1)))
    cutter = Cutter(building)
    shown = np.ones(3, bool)
    once = cutter.dissect([cut], shown)
    assert once.shown.tolist() == [True, True, False]
    assert once.faces[0].section.element.tolist() == [1]
    again = cutter.dissect([cut.model_copy(update={"poche": False})], shown)
    assert again.faces[0].section is once.faces[0].section
    assert cutter.dissect([cut.model_copy(update={"on": False})], shown).faces == ()
