"""The open duplex house: a published IFC2x3 sample from the source archive of exterior-shell 2.2.0 on PyPI."""

from __future__ import annotations

from pathlib import Path

import ifcopenshell
import manifold3d
import numpy as np
import pytest
import shapely
import trimesh

from anatome.cuts.cut import SectionBox
from anatome.cuts.dissection import Cutter
from anatome.cuts.kinds.box import Box
from anatome.cuts.plane import Plane
from anatome.cuts.poche import poche
from anatome.cuts.section import section
from anatome.cuts.solid import kept_part
from anatome.formats.opening import open_model
from anatome.model.building import Building
from fetched import open_house

PRODUCTS = 286


@pytest.fixture(scope="session")
def duplex_file() -> Path:
    """Fetched once into a cache of this machine."""
    return open_house()


@pytest.fixture(scope="session")
def duplex(duplex_file: Path) -> Building:
    return open_model(duplex_file)


def test_it_opens_with_all_its_products(duplex: Building, duplex_file: Path) -> None:
    openings = [o for o in ifcopenshell.open(str(duplex_file)).by_type("IfcOpeningElement") if o.Representation]
    assert len(duplex.elements) + len(duplex.spaces) + len(openings) == PRODUCTS
    assert not duplex.failed
    assert duplex.type_counts["IfcWallStandardCase"] > 40
    assert len(duplex.storeys) >= 4 and len(duplex.spaces) > 15


def test_plans_above_every_storey_agree_with_trimesh(duplex: Building) -> None:
    """1.2 m above each floor (common practice), element by element, wherever trimesh finds closed outlines."""
    compared = 0
    for storey in duplex.storeys:
        height = storey.elevation + 1.2
        if not duplex.bounds[0][2] < height < duplex.bounds[1][2]:
            continue
        found = section(duplex, Plane((0, 0, height), (0, 0, 1)))
        assert len(found.polygons) > 5
        for e in np.unique(found.element):
            own = duplex.triangles[duplex.triangle_start[e] : duplex.triangle_start[e + 1]]
            mesh = trimesh.Trimesh(duplex.vertices, own, process=True)
            if mesh.body_count > 1 or not mesh.is_watertight:
                continue
            path = mesh.section(plane_origin=(0, 0, height), plane_normal=(0, 0, 1))
            at_height = np.abs(mesh.vertices[:, 2] - height) < 1e-6
            if path is None or at_height.any():
                continue  # a plane lying in a face has two right answers; ours is tested elsewhere
            expected = sum(p.area for p in path.to_2D()[0].polygons_full)
            assert found.areas[found.element == e].sum() == pytest.approx(expected, rel=1e-6), duplex.elements[e]
            compared += 1
    assert compared > 45


def test_solid_products_have_closed_outlines(duplex: Building) -> None:
    for storey in duplex.storeys:
        found = section(duplex, Plane((0, 0, storey.elevation + 1.2), (0, 0, 1)))
        for outline in found.open_outlines:
            e = outline.element
            own = duplex.triangles[duplex.triangle_start[e] : duplex.triangle_start[e + 1]]
            assert not trimesh.Trimesh(duplex.vertices, own, process=True).is_watertight, duplex.elements[e]


def _directions(count: int) -> np.ndarray:
    """(count, 3) unit vectors spread over the sphere (Fibonacci lattice)."""
    k = np.arange(count) + 0.5
    z, turn = 1 - 2 * k / count, np.pi * (1 + np.sqrt(5)) * k
    return np.column_stack([np.sqrt(1 - z * z) * np.cos(turn), np.sqrt(1 - z * z) * np.sin(turn), z])


def test_twenty_planes_in_all_directions_agree_with_trimesh(duplex: Building) -> None:
    """Element by element; what is not closed or of several bodies still gives valid polygons and fills each point once."""
    rng = np.random.default_rng(20)
    low, high = duplex.bounds_of(np.array([e.storey is not None for e in duplex.elements]))
    solids = {}
    compared = 0
    for normal in _directions(20):
        plane = Plane(tuple(rng.uniform(low + 0.2 * (high - low), high - 0.2 * (high - low))), tuple(normal))
        found = section(duplex, plane)
        assert shapely.is_valid(found.polygons).all() and len(found.polygons) > 5
        filled = poche(duplex, found)
        assert filled.areas.sum() == pytest.approx(shapely.union_all(found.polygons).area, rel=1e-6)
        caps = found.caps
        corners = caps.vertices[caps.triangles]
        vectors = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]) / 2
        assert vectors.sum(axis=0) == pytest.approx(plane.n * found.areas.sum(), abs=1e-6)
        for e in np.unique(found.element).tolist():
            if e not in solids:
                own = duplex.triangles[duplex.triangle_start[e] : duplex.triangle_start[e + 1]]
                solids[e] = trimesh.Trimesh(duplex.vertices, own, process=True)
            mesh = solids[e]
            if mesh.body_count > 1 or not mesh.is_watertight:
                continue
            path = mesh.section(plane_origin=plane.origin, plane_normal=plane.normal)
            expected = sum(p.area for p in path.to_2D()[0].polygons_full) if path is not None else 0.0
            assert found.areas[found.element == e].sum() == pytest.approx(expected, rel=1e-6, abs=1e-8), duplex.elements[e]
            compared += 1
    assert compared > 200


def test_boxes_in_the_open_house_leave_what_manifold_leaves(duplex: Building) -> None:
    """Kept volumes of closed walls and slabs under turned boxes, kept and carved, against manifold3d."""
    low, high = duplex.bounds_of(np.array([e.storey is not None for e in duplex.elements]))
    middle, size = (low + high) / 2, (high - low) * [0.5, 0.45, 0.4]
    everything = np.ones(len(duplex.elements), bool)
    for turn in (0.0, 33.0):
        box = Box(tuple(middle + 0.0137), tuple(size), turn)
        solid = manifold3d.Manifold.cube(box.size, True).rotate((0, 0, turn)).translate(box.centre)
        for carve in (False, True):
            cut = SectionBox(id="b", name="B", mark="B", box=box, carve=carve)
            kept = {k.element: k for k in kept_part(Cutter(duplex).dissect([cut], everything))}
            compared = 0
            for e in range(0, len(duplex.elements), 3):
                own = duplex.triangles[duplex.triangle_start[e] : duplex.triangle_start[e + 1]]
                used, faces = np.unique(own, return_inverse=True)
                mesh = manifold3d.Mesh64(duplex.vertices[used], faces.reshape(-1, 3).astype(np.uint64))
                whole = manifold3d.Manifold(mesh)
                if whole.status() != manifold3d.Error.NoError or whole.volume() <= 0:
                    continue
                expected = (whole - solid if carve else whole ^ solid).volume()
                found = kept.get(e)
                corners = np.zeros((0, 3, 3)) if found is None else found.vertices[found.triangles]
                volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
                assert volume == pytest.approx(expected, rel=1e-5, abs=1e-7), duplex.elements[e]
                compared += 1
            assert compared > 30
