"""The fill of a cut: overlaps, neighbours, coincident faces, sheets, ground, gaps and dirty meshes."""

from __future__ import annotations

import csv
import io

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from anatome.cuts.clearance import clearance_at, snapped_corner
from anatome.cuts.cut import SectionBox, SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.kinds.box import Box
from anatome.cuts.plane import Plane
from anatome.cuts.poche import poche
from anatome.cuts.poche_rules import PocheRules
from anatome.cuts.report import csv_text, rows_of, totals, what_is_cut
from anatome.cuts.section import Section, section
from anatome.model.assembly import BuildingAssembly
from anatome.model.building import Building, Element
from helpers import building_of

LEVEL = Plane((0, 0, 0), (0, 0, 1))


def box(size, at) -> trimesh.Trimesh:
    made = trimesh.creation.box(size)
    made.apply_translation(at)
    return made


def parts(*rows: tuple[trimesh.Trimesh, str, str]) -> Building:
    """A building of (mesh, type, material)."""
    assembly = BuildingAssembly("test")
    style = assembly.style((0.8, 0.8, 0.8, 1.0))
    for i, (mesh, kind, material) in enumerate(rows):
        assembly.add(Element(f"e{i}", f"Part {i}", kind, material), mesh.vertices, mesh.faces, style)
    return assembly.finish()


def area_of(found: Section, element: int) -> float:
    return float(found.areas[found.element == element].sum())


# Overlaps and neighbours ---------------------------------------------------------------------------------------


@settings(max_examples=40)
@given(st.integers(0, 10_000))
def test_every_point_is_filled_once_and_none_is_left_out(seed: int) -> None:
    """Overlapping solids: fills are disjoint, and together exactly the union that shapely makes."""
    rng = np.random.default_rng(seed)
    building = parts(*((box(rng.uniform(0.5, 3, 3), rng.uniform(-1, 1, 3) * [1, 1, 0.2]), "IfcWall", f"m{i}") for i in range(6)))
    found = section(building, LEVEL)
    filled = poche(building, found)
    union = shapely.union_all(found.polygons)
    assert filled.areas.sum() == pytest.approx(union.area, rel=1e-9)
    assert shapely.symmetric_difference(shapely.union_all(filled.polygons), union).area < 1e-9
    for e in np.unique(filled.element):
        own = shapely.union_all(found.polygons[found.element == e])
        assert shapely.difference(shapely.union_all(filled.polygons[filled.element == e]), own).area < 1e-9


def test_what_is_built_goes_over_earth_and_the_smaller_over_the_larger() -> None:
    building = parts(
        (box((10, 10, 2), (0, 0, 0)), "IfcGeographicElement", "Earth"),
        (box((4, 0.4, 2), (0, 0, 0)), "IfcWall", "Brick"),
        (box((1, 0.4, 2), (0, 0, 0)), "IfcWindow", "Glass"),
    )
    filled = poche(building, section(building, LEVEL))
    assert [area_of(filled, e) for e in range(3)] == pytest.approx([100 - 1.6, 1.6 - 0.4, 0.4])


def test_neighbours_of_one_material_become_one_fill_without_inner_lines() -> None:
    building = parts(
        (box((2, 0.3, 2), (0, 0, 0)), "IfcWall", "Brick"),
        (box((2, 0.3, 2), (2, 0, 0)), "IfcWall", "Brick"),
        (box((0.3, 2, 2), (3.15, 0.85 + 0.3, 0)), "IfcWall", "Concrete"),
        (box((1, 0.3, 2), (-1.5, 0, 0)), "IfcWall", ""),
    )
    found = section(building, LEVEL)
    merged = poche(building, found, merge=True)
    brick = merged.polygons[merged.element == 0]
    assert len(brick) == 1 and brick[0].area == pytest.approx(4 * 0.3)
    assert len(shapely.remove_repeated_points(brick[0]).exterior.coords) <= 7
    assert set(merged.element.tolist()) == {0, 2, 3}  # parts without a material stay by themselves
    assert merged.areas.sum() == pytest.approx(found.areas.sum())


@pytest.mark.parametrize("offset", [0.0, 1e-12, -1e-12])
def test_coincident_faces_give_one_stable_answer(offset: float) -> None:
    """Two boxes that touch, and a plane in their common face: the same polygons however the last digit falls."""
    building = parts((box((2, 2, 1), (0, 0, 0.5)), "IfcSlab", "A"), (box((1, 1, 1), (0, 0, -0.5)), "IfcSlab", "B"))
    down = section(building, Plane((0, 0, offset), (0, 0, 1)))
    up = section(building, Plane((0, 0, offset), (0, 0, -1)))
    assert down.element.tolist() == [1] and down.areas.sum() == pytest.approx(1.0)  # the body behind the plane
    assert up.element.tolist() == [0] and up.areas.sum() == pytest.approx(4.0)


def test_a_box_side_lying_in_a_face_does_not_flicker(boathouse: Building) -> None:
    """Slabs' own faces as sides of a box: nudging by less than the tolerance changes nothing."""
    shown = np.ones(len(boathouse.elements), bool)
    slab = next(i for i, e in enumerate(boathouse.elements) if e.type == "IfcSlab" and e.storey == 2)
    low, high = boathouse.element_bounds[slab]
    areas = []
    for nudge in (-1e-10, 0.0, 1e-10):
        made = SectionBox(id="b", name="B", mark="B", box=Box(tuple((low + high) / 2 + nudge), tuple(high - low)))
        faces = Cutter(boathouse).dissect([made], shown).faces
        areas.append({f.name: round(float(f.section.areas.sum()), 7) for f in faces})
    assert areas[0] == areas[1] == areas[2]


# Surfaces without thickness ------------------------------------------------------------------------------------


def terrain(depth: int = 8) -> trimesh.Trimesh:
    x, y = np.meshgrid(np.linspace(-4, 4, depth), np.linspace(-4, 4, depth))
    z = 0.2 * np.sin(x) + 0.1 * y
    points = np.column_stack([x.ravel(), y.ravel(), z.ravel()])
    i = np.arange((depth - 1) * depth).reshape(depth - 1, depth)[:, :-1].ravel()
    faces = np.concatenate([np.column_stack([i, i + 1, i + depth]), np.column_stack([i + 1, i + depth + 1, i + depth])])
    return trimesh.Trimesh(points, faces, process=False)


def test_sheets_get_a_line_or_the_thickness_asked_for() -> None:
    sheet = trimesh.Trimesh([[0, 0, -1], [3, 0, -1], [3, 0, 1], [0, 0, 1.0]], [[0, 1, 2], [0, 2, 3]], process=False)
    building = parts((sheet, "IfcPlate", "Glass"))
    bare = section(building, LEVEL)
    assert len(bare.polygons) == 0 and len(bare.open_outlines) == 1
    assert np.ptp(bare.open_outlines[0].points[:, 0]) == pytest.approx(3)
    thick = section(building, LEVEL, None, PocheRules(sheet=0.012))
    assert thick.areas.sum() == pytest.approx(3 * 0.012) and not thick.open_outlines


@pytest.mark.parametrize("depth", [0.5, 3.0])
def test_terrain_becomes_solid_earth_down_to_a_depth(depth: float) -> None:
    building = parts((terrain(), "IfcGeographicElement", "Earth"))
    plane = Plane((0.1, 0, 0), (1, 0, 0))
    assert len(section(building, plane).polygons) == 0
    found = section(building, plane, None, PocheRules(earth=depth))
    line = section(building, plane).open_outlines[0].points
    line = line[np.argsort(line[:, 1])]
    under = np.trapezoid(line[:, 2] - line[:, 2].min() + depth, line[:, 1])
    assert found.areas.sum() == pytest.approx(under) and len(found.polygons) == 1
    level = section(building, Plane((0, 0, 0.05), (0, 0, 1)), None, PocheRules(earth=depth))
    assert len(level.polygons) == 0  # a level cut has no body of earth under its lines


# Gaps ----------------------------------------------------------------------------------------------------------


def gapped(width: float, size: float = 1.0) -> Building:
    """A tube of four walls whose last corner stays open by a width."""
    ring = np.array([[0, 0], [size, 0], [size, size], [0, size], [0, width]])
    low = np.column_stack([ring, np.full(5, -size)])
    high = np.column_stack([ring, np.full(5, size)])
    faces = [f for i in range(4) for f in ([i, i + 1, i + 6], [i, i + 6, i + 5])]
    return parts((trimesh.Trimesh(np.concatenate([low, high]), faces, process=False), "IfcWall", "x"))


@pytest.mark.parametrize("size", [0.01, 1.0, 50.0])
def test_small_gaps_are_closed_in_keeping_with_the_size_and_listed(size: float) -> None:
    """A thousandth of the part's size, at most 20 mm: small things in big units keep their detail."""
    allowed = min(0.001 * np.sqrt(6) * size, 0.02)
    closing = section(gapped(0.9 * allowed, size), LEVEL)
    assert closing.areas.sum() == pytest.approx(size * size, rel=2e-3) and not closing.open_outlines
    (gap,) = closing.gaps
    assert gap.closed and gap.width == pytest.approx(0.9 * allowed) and gap.point[2] == pytest.approx(0)
    wide = section(gapped(1.2 * allowed, size), LEVEL)
    (gap,) = wide.gaps
    assert not gap.closed and len(wide.polygons) == 0 and len(wide.open_outlines) == 1


def test_a_gap_may_be_named_in_metres() -> None:
    assert section(gapped(0.05), LEVEL).areas.sum() == 0
    assert section(gapped(0.05), LEVEL, None, PocheRules(gap=0.06)).areas.sum() == pytest.approx(1.0)
    assert section(gapped(0.0005), LEVEL, None, PocheRules(gap=0.0)).areas.sum() == 0


def sides(*missing: int) -> trimesh.Trimesh:
    """A cube without some of its four upright sides."""
    cube = trimesh.creation.box()
    normals = np.array([(1, 0, 0), (0, 1, 0), (-1, 0, 0), (0, -1, 0)])[list(missing)]
    cube.update_faces((cube.face_normals @ normals.T < 0.5).all(axis=1))
    return cube


@pytest.mark.parametrize("missing", ((0,), (0, 2)))
def test_an_outline_is_filled_or_left_open_where_it_is_said_of_a_part(missing: tuple[int, ...]) -> None:
    """However wide it is open, in one stretch or in two; the same part is left open though its gap is small."""
    building = parts((sides(*missing), "Tub", "IfcWall"), (sides(*missing).apply_translation((5, 0, 0)), "Other", "IfcWall"))
    name = building.elements[0].id
    found = section(building, LEVEL, None, PocheRules(filled=frozenset({name})))
    assert area_of(found, 0) == pytest.approx(1.0) and area_of(found, 1) == 0
    assert section(building, LEVEL).areas.sum() == 0
    small = gapped(0.0005)
    assert section(small, LEVEL).areas.sum() == pytest.approx(1.0)
    left = PocheRules(left_open=frozenset({small.elements[0].id}))
    assert section(small, LEVEL, None, left).areas.sum() == 0


# Dirty meshes --------------------------------------------------------------------------------------------------


@settings(max_examples=40)
@given(st.integers(0, 10_000), st.floats(-0.7, 0.7))
def test_cutting_never_fails_on_rubbish(seed: int, height: float) -> None:
    """Random triangles with flips, doubles, slivers, NaN, shared and non-manifold edges: valid polygons come out."""
    rng = np.random.default_rng(seed)
    points = rng.uniform(-1, 1, (40, 3))
    points[rng.integers(0, 40, 3)] = np.nan
    faces = rng.integers(0, 40, (120, 3))
    faces = np.concatenate([faces, faces[:20], faces[20:40, ::-1]])
    good = box((0.4, 0.4, 40), (5, 5, 0))
    building = building_of((points, faces), (good.vertices, good.faces))
    assert any("not numbers" in r for r in building.remarks)
    found = section(building, Plane((0, 0, height), (rng.uniform(-0.3, 0.3), 0, 1)))
    assert shapely.is_valid(found.polygons).all() and np.isfinite(found.caps.vertices).all()
    filled = poche(building, found)
    assert shapely.is_valid(filled.polygons).all()
    assert area_of(found, 1) == pytest.approx(0.16, rel=0.2)  # its neighbour is cut as ever
    half = SectionBox(id="b", name="B", mark="B", box=Box((0, 0, 0), (1, 1, 1), 20.0))
    for face in Cutter(building).dissect([half], np.ones(2, bool)).faces:
        assert shapely.is_valid(face.poche.polygons).all()


def test_a_georeferenced_model_keeps_its_millimetres_in_boxes() -> None:
    """500 km east and 5,000 km north of the origin."""
    far = np.array([500_000.0, 5_000_000.0, 300.0])
    cube = box((2, 2, 2), far)
    building = building_of((cube.vertices, cube.faces))
    made = SectionBox(id="b", name="B", mark="B", box=Box(tuple(far + [0.1234, 0, 0]), (1.001, 1.0, 1.0), 30.0))
    faces = {f.name: f for f in Cutter(building).dissect([made], np.ones(1, bool)).faces}
    assert faces["top"].section.areas.sum() == pytest.approx(1.001, abs=2e-6)
    assert faces["front"].section.areas.sum() == pytest.approx(1.001, abs=2e-6)
    assert np.abs(faces["top"].section.caps.vertices[:, 2] - 300.5).max() < 1e-6


# Lists and readouts --------------------------------------------------------------------------------------------


def test_the_list_of_what_is_cut_adds_up(boathouse: Building) -> None:
    shown = np.ones(len(boathouse.elements), bool)
    plane = SectionPlane(id="a", name="A", mark="A", plane=Plane((14, 6.2, 3), (0, -1, 0)))
    faces = Cutter(boathouse).dissect([plane], shown).faces
    rows = what_is_cut(boathouse, faces)
    whole = faces[0].poche.areas.sum()
    assert sum(r.area for r in rows) == pytest.approx(whole)
    assert sum(area for _, _, area in totals(rows)) == pytest.approx(whole)
    assert sum(count for _, count, _ in totals(rows, "type")) == len(rows)
    assert [r.area for r in rows] == sorted((r.area for r in rows), reverse=True)
    read = list(csv.DictReader(io.StringIO(csv_text(rows))))
    assert len(read) == len(rows) and read[0].keys() == {
        *("Cut", "Id", "Name", "Type", "Material", "Layer", "Storey", "Area m²"),
    }
    assert sum(float(r["Area m²"]) for r in read) == pytest.approx(whole, abs=1e-3)
    assert {r["Id"] for r in read} == {boathouse.elements[e].id for e in faces[0].poche.element}
    assert csv_text(rows, "\t").splitlines()[0].count("\t") == 7
    assert rows_of(boathouse, faces[0].poche, "Z")[0].cut == "Z"


def test_clear_heights_and_widths() -> None:
    """A room 4.2 by 2.6 m inside its walls, floor and ceiling."""
    building = parts(
        (box((5, 1, 0.3), (0, 0, -0.15)), "IfcSlab", "c"),
        (box((5, 1, 0.3), (0, 0, 2.75)), "IfcSlab", "c"),
        (box((0.4, 1, 2.6), (-2.3, 0, 1.3)), "IfcWall", "b"),
        (box((0.4, 1, 2.6), (2.3, 0, 1.3)), "IfcWall", "b"),
    )
    found = section(building, Plane((0, 0, 0), (0, -1, 0)))
    clear = clearance_at(found, np.array([1.0, 0.9]))
    assert (clear.height, clear.width) == pytest.approx((2.6, 4.2))
    assert (clear.up, clear.left) == pytest.approx((1.7, 3.1))
    assert clearance_at(found, np.array([-2.3, 1.0])) is None  # within a wall
    outside = clearance_at(found, np.array([6.0, 0.9]))
    assert outside.width is None and outside.height is None and outside.left == pytest.approx(3.5)
    assert snapped_corner(found, np.array([2.08, 0.03]), 0.1) == pytest.approx([2.1, 0.0])
    assert snapped_corner(found, np.array([1.0, 1.0]), 0.1) == pytest.approx([1.0, 1.0])
