"""The same cuts by other libraries: trimesh, manifold3d and shapely."""

from __future__ import annotations

import manifold3d
import numpy as np
import pytest
import shapely
import trimesh

from anatome.cuts.plane import Plane
from anatome.cuts.section import section
from anatome.model.building import Building
from helpers import building_of

PLANES = [
    Plane((0.11, 0.07, 0.03), n)
    for n in [(0, 0, 1), (1, 0, 0), (0, -1, 0), (1, 1, 1), (0.3, -0.8, 0.2), (-0.9, 0.1, 0.4), (0.02, 0.01, -1)]
]


def shapes() -> dict[str, trimesh.Trimesh]:
    rough = trimesh.creation.icosphere(subdivisions=4)
    rng = np.random.default_rng(7)
    rough.vertices *= 1 + 0.2 * rng.random(len(rough.vertices))[:, None]
    frame = trimesh.creation.annulus(0.6, 1.0, 0.5, sections=48)
    return {
        "box": trimesh.creation.box((2.0, 1.3, 0.9)),
        "rough ball": rough,
        "torus": trimesh.creation.torus(1.0, 0.35, major_sections=80, minor_sections=40),
        "frame": frame,
        "capsule": trimesh.creation.capsule(0.8, 0.4, count=(40, 40)),
    }


@pytest.mark.parametrize("name", shapes())
@pytest.mark.parametrize("plane", PLANES, ids=lambda p: "{:.2f},{:.2f},{:.2f}".format(*p.normal))
def test_areas_agree_with_trimesh_and_manifold(name: str, plane: Plane) -> None:
    mesh = shapes()[name]
    found = section(building_of((mesh.vertices, mesh.faces)), plane)

    path = mesh.section(plane_origin=plane.origin, plane_normal=plane.normal)
    flat = path.to_2D()[0] if path is not None else None
    expected = sum(p.area for p in flat.polygons_full) if flat is not None else 0.0
    assert found.areas.sum() == pytest.approx(expected, rel=1e-6, abs=1e-9)

    # manifold3d slices level: turn the plane level first.
    u, v = plane.axes
    turned = (mesh.vertices - plane.origin) @ np.stack([u, v, plane.n]).T
    solid = manifold3d.Manifold(manifold3d.Mesh64(turned, mesh.faces.astype(np.uint64)))
    assert found.areas.sum() == pytest.approx(solid.slice(0.0).area(), rel=1e-6, abs=1e-9)


@pytest.mark.parametrize("plane", PLANES[:5], ids=lambda p: "{:.2f},{:.2f},{:.2f}".format(*p.normal))
def test_the_volumes_of_both_sides_are_manifolds(plane: Plane) -> None:
    """Kept part closed by our caps: its volume by the divergence theorem is what manifold3d trims off."""
    mesh = shapes()["torus"]
    solid = manifold3d.Manifold(manifold3d.Mesh64(mesh.vertices, mesh.faces.astype(np.uint64)))
    kept = solid.trim_by_plane(tuple(-plane.n), -plane.offset)
    below = trimesh.intersections.slice_mesh_plane(mesh, -plane.n, plane.origin)
    caps = section(building_of((mesh.vertices, mesh.faces)), plane).caps
    corners = np.concatenate([below.triangles, caps.vertices[caps.triangles]])
    area_vectors = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]) / 2
    assert np.abs(area_vectors.sum(axis=0)).max() < 1e-8 * mesh.area
    volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
    assert volume == pytest.approx(kept.volume(), rel=1e-6)


def test_every_element_of_the_boathouse_agrees_with_trimesh(boathouse: Building) -> None:
    """Level, upright and turned planes, element by element."""
    for plane in (Plane((0, 0, 1.23), (0, 0, 1)), Plane((24.1, 5, 3), (1, 0, 0)), Plane((25, 18, 2), (0.4, 0.91, 0.1))):
        found = section(boathouse, plane)
        assert not found.open_outlines
        assert shapely.is_valid(found.polygons).all()
        compared = 0
        for e in np.unique(found.element):
            own = boathouse.triangles[boathouse.triangle_start[e] : boathouse.triangle_start[e + 1]]
            mesh = trimesh.Trimesh(boathouse.vertices, own, process=False)
            path = mesh.section(plane_origin=plane.origin, plane_normal=plane.normal)
            if path is None or not path.is_closed:
                continue
            expected = sum(p.area for p in path.to_2D()[0].polygons_full)
            shells = trimesh.Trimesh(boathouse.vertices, own, process=True).body_count
            if shells == 1:  # trimesh counts overlapping bodies twice where ours unites them
                # Points that lie within the tolerance of a line are dropped: of folds of cloth, some.
                assert found.areas[found.element == e].sum() == pytest.approx(expected, rel=2e-6, abs=1e-8)
                compared += 1
        assert compared > 20


def test_overlapping_bodies_of_one_element_are_filled_once() -> None:
    one = trimesh.creation.box((2, 2, 2))
    two = trimesh.creation.box((2, 2, 2))
    two.apply_translation((1, 0.5, 0))
    both = trimesh.util.concatenate([one, two])
    found = section(building_of((both.vertices, both.faces)), Plane((0, 0, 0), (0, 0, 1)))
    expected = shapely.union(shapely.box(-1, -1, 1, 1), shapely.box(0, -0.5, 2, 1.5)).area
    assert found.areas.sum() == pytest.approx(expected, rel=1e-9)


@pytest.mark.parametrize("seed", range(4))
def test_overlapping_bodies_with_hollows_are_filled_as_their_union(seed: int) -> None:
    """One element of two boxes that run through one another, the first and perhaps the second hollow, against manifold3d.

    The hollow of one is filled where the other runs through it. (Three thousand pairs were compared by hand, to 3e-7.)
    """
    rng = np.random.default_rng(seed)

    def solid(mesh: trimesh.Trimesh) -> manifold3d.Manifold:
        return manifold3d.Manifold(manifold3d.Mesh(mesh.vertices.astype(np.float32), mesh.faces.astype(np.uint32)))

    for _ in range(50):
        parts, union = [], manifold3d.Manifold()
        for number in range(2):
            size = rng.uniform(1, 3, 3)
            turn = trimesh.transformations.random_rotation_matrix(rng.uniform(size=3))
            turn[:3, 3] = rng.uniform(-0.8, 0.8, 3)
            outer, inner = trimesh.creation.box(size, turn), trimesh.creation.box(size * rng.uniform(0.3, 0.8), turn)
            parts.append((outer.vertices, outer.faces))
            body = solid(outer)
            if number == 0 or rng.uniform() < 0.6:
                parts.append((inner.vertices, inner.faces[:, ::-1]))
                body = body - solid(inner)
            union = union + body
        shift = np.cumsum([0, *(len(v) for v, _ in parts)])[:-1]
        faces = np.concatenate([f + s for (_, f), s in zip(parts, shift)])
        building = building_of((np.concatenate([v for v, _ in parts]), faces))
        height = rng.uniform(-0.6, 0.6)
        found = section(building, Plane((0, 0, height), (0, 0, 1)))
        assert found.areas.sum() == pytest.approx(union.slice(height).area(), rel=1e-5, abs=1e-6)
