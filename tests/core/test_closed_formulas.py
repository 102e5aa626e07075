"""Cuts of shapes whose areas are known in closed form (standard solid geometry)."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
import trimesh

from anatome.cuts.plane import Plane
from anatome.cuts.section import section
from helpers import building_of


def area(mesh: trimesh.Trimesh, plane: Plane) -> float:
    return float(section(building_of((mesh.vertices, mesh.faces)), plane).areas.sum())


def inscribed(n: int) -> float:
    """Area of a regular n-gon in a unit circle, as a share of the circle."""
    return n * math.sin(2 * math.pi / n) / (2 * math.pi)


@pytest.mark.parametrize("side", [1.0, 0.02, 250.0])
def test_cube_through_its_centre_across_a_diagonal_is_a_regular_hexagon(side: float) -> None:
    cube = trimesh.creation.box((side, side, side))
    found = section(building_of((cube.vertices, cube.faces)), Plane((0, 0, 0), (1, 1, 1)))
    assert found.areas.sum() == pytest.approx(3 * math.sqrt(3) / 4 * side**2, rel=1e-9)
    assert shapely.get_num_coordinates(found.polygons[0]) == 7


@pytest.mark.parametrize("s", [0.1, 0.5, 0.999, 1.0, 1.5, 2.2, 2.9])
def test_diagonal_slices_of_the_unit_cube(s: float) -> None:
    """x + y + z = s cuts the unit cube in (√3/2)·(s² − 3(s−1)₊² + 3(s−2)₊²)."""
    cube = trimesh.creation.box((1, 1, 1))
    cube.apply_translation((0.5, 0.5, 0.5))
    expected = math.sqrt(3) / 2 * (s**2 - 3 * max(s - 1, 0) ** 2 + 3 * max(s - 2, 0) ** 2)
    assert area(cube, Plane((s / 3, s / 3, s / 3), (1, 1, 1))) == pytest.approx(expected, rel=1e-9)


@pytest.mark.parametrize("h", [0.0, 0.37, -0.8])
def test_sphere(h: float) -> None:
    """A disc of π(r² − h²); the mesh lies inside the sphere by its own known error."""
    ball = trimesh.creation.icosphere(subdivisions=5, radius=1.0)
    assert area(ball, Plane((0, 0, h), (0.3, 0.2, 1.0))) < math.pi
    assert area(ball, Plane((0, 0, h), (0, 0, 1))) == pytest.approx(math.pi * (1 - h * h), rel=2e-3)


def test_cone_level_upright_and_oblique() -> None:
    n = 720
    cone = trimesh.creation.cone(radius=2.0, height=3.0, sections=n)  # base at z = 0
    assert area(cone, Plane((0, 0, 1.2), (0, 0, 1))) == pytest.approx(math.pi * (2 * (1 - 0.4)) ** 2 * inscribed(n), rel=1e-6)
    assert area(cone, Plane((0, 0, 0), (0, 1, 0))) == pytest.approx(3.0 * 2.0, rel=1e-4)  # the triangle through the axis
    # An ellipse: z = c + x·t meets the cone with half-angle a; its projection on the base has the area below.
    slope, c = 0.5, 1.0
    k = 2.0 / 3.0
    q = k * (3 - c)
    m = k * slope
    projected = math.pi * q * q / (1 - m * m) ** 1.5
    found = area(cone, Plane((0, 0, c), (-slope, 0, 1)))
    assert found == pytest.approx(projected * math.sqrt(1 + slope**2), rel=1e-4)


def test_torus_on_its_equator_and_by_the_bitangent_plane() -> None:
    """The equator gives an annulus; the plane that touches it twice gives two Villarceau circles of radius R."""
    big, small, n = 3.0, 1.0, 512
    torus = trimesh.creation.torus(big, small, major_sections=n, minor_sections=n)
    expected = math.pi * ((big + small) ** 2 - (big - small) ** 2)
    assert area(torus, Plane((0, 0, 0), (0, 0, 1))) == pytest.approx(expected, rel=1e-3)
    lean = math.asin(small / big)
    found = section(
        building_of((torus.vertices, torus.faces)), Plane((0, 0, 0), (math.sin(lean + 1e-4), 0, -math.cos(lean + 1e-4)))
    )
    outline = shapely.union_all(found.polygons)
    low, high = np.array(shapely.bounds(outline)[:2]), np.array(shapely.bounds(outline)[2:])
    # Two circles of radius R, their centres r to either side of the axis: R + r one way, R the other.
    assert sorted(high - low) == pytest.approx([2 * big, 2 * (big + small)], rel=2e-3)
    lens = 2 * big**2 * math.acos(small / big) - small * math.sqrt(4 * big**2 - 4 * small**2)
    assert shapely.area(outline) == pytest.approx(2 * (math.pi * big**2 - lens), rel=5e-3)


@pytest.mark.parametrize("wall", [0.2, 0.01])
def test_hollow_box_shows_as_hollow(wall: float) -> None:
    outer = trimesh.creation.box((2, 3, 4))
    inner = trimesh.creation.box((2 - 2 * wall, 3 - 2 * wall, 4 - 2 * wall))
    inner.invert()
    both = trimesh.util.concatenate([outer, inner])
    found = section(building_of((both.vertices, both.faces)), Plane((0, 0, 0.3), (0, 0, 1)))
    assert len(found.polygons) == 1 and len(found.polygons[0].interiors) == 1
    assert found.areas.sum() == pytest.approx(6 - (2 - 2 * wall) * (3 - 2 * wall), rel=1e-9)
    corners = found.caps.vertices[found.caps.triangles]
    sides = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    assert sides.sum(axis=0) / 2 == pytest.approx([0, 0, found.areas.sum()], rel=1e-9)  # and wound to face the removed side


def test_a_plane_lying_in_a_face_cuts_what_is_behind_it() -> None:
    """Both lids of a box: looking in through the face fills it, looking away from the box finds nothing."""
    box = trimesh.creation.box((2, 2, 2))
    assert area(box, Plane((0, 0, 1), (0, 0, 1))) == pytest.approx(4.0)
    assert area(box, Plane((0, 0, 1), (0, 0, -1))) == 0.0
    assert area(box, Plane((0, 0, -1), (0, 0, -1))) == pytest.approx(4.0)


def test_far_from_the_origin_millimetres_hold() -> None:
    """A georeferenced model, 500 km out."""
    cube = trimesh.creation.box((1, 1, 1))
    cube.apply_translation((500_000.0, 5_000_000.0, 300.0))
    plane = Plane((500_000.0, 5_000_000.0, 300.1234), (0, 0, 1))
    found = section(building_of((cube.vertices, cube.faces)), plane)
    assert found.areas.sum() == pytest.approx(1.0, abs=1e-6)
    assert np.abs(found.caps.vertices[:, 2] - 300.1234).max() < 1e-6


@pytest.mark.parametrize("shape", ["box", "icosphere", "pyramid"])
def test_serial_sections_integrate_to_the_volume(shape: str) -> None:
    """Prismoidal formula V = L/6·(A₁ + 4Aₘ + A₂) (handbook), exact for these solids; the sphere within its facets."""
    mesh = {
        "box": lambda: trimesh.creation.box((2, 3, 4)),
        "icosphere": lambda: trimesh.creation.icosphere(subdivisions=5),
        "pyramid": lambda: trimesh.creation.cone(radius=1.5, height=2.0, sections=4),
    }[shape]()
    low, high = mesh.bounds[:, 2]
    nudge = (high - low) * 1e-7  # an end plane lying in a face would count the far side of it
    ends = [area(mesh, Plane((0, 0, z), (0, 0, 1))) for z in (low + nudge, (low + high) / 2, high - nudge)]
    volume = (high - low) / 6 * (ends[0] + 4 * ends[1] + ends[2])
    assert volume == pytest.approx(mesh.volume, rel=2e-3 if shape == "icosphere" else 1e-6)
