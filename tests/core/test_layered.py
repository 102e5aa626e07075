"""Cutting files: layers that add up to the model, nested without overlap, with labels, next outlines and dowels in line."""

from __future__ import annotations

import io
import itertools
import math
from pathlib import Path

import ezdxf
import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from anatome.demo.shipped import shipped
from anatome.formats.drawings_out import writer_for
from anatome.linework.layered import ENGRAVE, HAIRLINE, LayerPart, LayerSettings, _nested, cutting_files
from anatome.notes.letter_lines import letter_lines
from anatome.notes.lettering import width
from anatome.problems import Problem
from helpers import box, made_of

UP = (0.0, 0.0, 1.0)


def everything(building) -> np.ndarray:
    return np.ones(len(building.elements), bool)


def cut_shapes(drawing) -> list[shapely.Polygon]:
    """The pieces of a sheet, put together from nothing but its cut lines: what lies in another is a hole in it."""
    rings = [shapely.Polygon(line) for s in drawing.strokes if s.name == "Cut" for line in s.lines]
    rings.sort(key=lambda r: -r.area)
    outer: list[shapely.Polygon] = []
    for ring in rings:
        holder = next((i for i, o in enumerate(outer) if shapely.contains(shapely.Polygon(o.exterior), ring)), None)
        if holder is None:
            outer.append(ring)
        else:
            outer[holder] = shapely.difference(outer[holder], ring)
    return outer


def test_layers_add_up_to_the_volume_of_the_model() -> None:
    """A cylinder in closed form; a sphere by the midpoint rule, which errs by less than h² · 2πr / 12 (handbook)."""
    round_ = trimesh.creation.cylinder(radius=4.0, height=12.0, sections=256)
    ball = trimesh.creation.icosphere(subdivisions=5, radius=5.0)
    for mesh, volume, within in ((round_, round_.volume, 1e-4), (ball, 4 / 3 * math.pi * 125, 0.004)):
        how = LayerSettings(scale=100.0, thickness=4.0, sheet=(500.0, 500.0), next_outline=False)
        found = cutting_files(made_of(("a", "IfcWall", "", mesh)), np.ones(1, bool), UP, how)
        solid = sum(p.shape.area for p in found.parts) * how.thickness * (how.scale / 1000) ** 3
        assert solid == pytest.approx(volume, rel=within) and found.layers == math.ceil(np.ptp(mesh.vertices[:, 2]) / 0.4 - 1e-6)


def test_a_house_is_cut_engraved_and_doweled() -> None:
    building = shipped()
    how = LayerSettings(dowel=3.0)
    found = cutting_files(building, everything(building), UP, how, "Boathouse")
    assert found.layers == math.ceil(np.ptp(building.bounds[:, 2]) / 0.6 - 1e-6) and len(found.parts) > 20
    assert any("thinner than 2 mm" in words for words in found.left_out)
    total = 0.0
    for drawing in found.drawings:
        assert (drawing.width, drawing.height) == how.sheet and {s.pen.weight for s in drawing.strokes} == {HAIRLINE}
        shapes = cut_shapes(drawing)
        paper = shapely.box(how.gap - 0.01, how.gap - 0.01, how.sheet[0] - how.gap + 0.02, how.sheet[1] - how.gap + 0.02)
        assert all(shapely.contains(paper, s) for s in shapes)
        tree = shapely.STRtree(shapes)
        apart = [(a, b) for a, b in zip(*tree.query(shapes, predicate="dwithin", distance=how.gap - 0.02)) if a < b]
        for a, b in apart:  # within a hollow of another, perhaps, but never touching
            assert not shapely.intersects(shapes[a], shapes[b])
        total += sum(s.area for s in shapes)
        own = shapely.union_all(shapes)
        for strokes in drawing.strokes:
            if strokes.pen.ink == ENGRAVE:
                lines = shapely.multilinestrings([shapely.linestrings(p) for p in strokes.lines])
                holes = shapely.buffer(own, 1.6)  # a label may run over a hole for a dowel
                assert shapely.length(shapely.difference(lines, holes)) < 0.01 * shapely.length(lines)
    assert total == pytest.approx(sum(p.shape.area for p in found.parts), rel=1e-6)
    # A dowel goes through two layers at the same place of the model.
    big = {int(p.label.split(".")[0]): p for p in reversed(found.parts)}

    def holes(part: LayerPart) -> list[np.ndarray]:
        rings = [shapely.Polygon(r) for r in part.shape.interiors]
        return [shapely.get_coordinates(r.centroid)[0] for r in rings if r.area == pytest.approx(math.pi * 2.25, rel=0.01)]

    for number in (1, 2, 3):
        lower, upper = holes(big[number]), holes(big[number + 1])
        assert any(np.linalg.norm(a - b) < 1e-6 for a, b in itertools.product(lower, upper))
    document = ezdxf.read(io.StringIO(writer_for(Path("x.dxf"))(found.drawings[0]).decode()))
    assert not document.audit().errors
    lines = list(document.modelspace().query("LWPOLYLINE"))
    cut = [e for e in lines if e.dxf.layer == "Cut"]
    assert all(e.closed for e in cut) and {e.dxf.layer for e in lines} == {"Cut", "Engrave"}
    assert document.layers.get("Cut").dxf.lineweight == 0


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(st.floats(3, 190), st.floats(3, 140)), min_size=1, max_size=40))
def test_whatever_fits_a_sheet_is_nested_without_overlap(sizes) -> None:
    parts = [LayerPart(f"{i}", shapely.box(5.0, 7.0, 5.0 + x, 7.0 + y), ()) for i, (x, y) in enumerate(sizes)]
    how = LayerSettings(sheet=(200.0, 150.0), gap=2.0)
    drawings = _nested(parts, how, "")
    shapes = [shapely.polygons(line) for d in drawings for s in d.strokes for line in s.lines]
    assert len(shapes) == len(parts)
    assert sorted(s.area for s in shapes) == pytest.approx(sorted(p.shape.area for p in parts))
    for drawing in drawings:
        own = [shapely.polygons(line) for s in drawing.strokes for line in s.lines]
        assert all(shapely.contains(shapely.box(0, 0, 200, 150), s) for s in own)
        assert all(shapely.distance(a, b) > 1.9 for a, b in itertools.combinations(own, 2))


def test_what_cannot_be_built_is_said() -> None:
    building = made_of(("a", "IfcWall", "", box(0, 0, 0, 10, 0.2, 3)))
    for how, words in (
        (LayerSettings(scale=0.0), "scale"),
        (LayerSettings(thickness=0.01), "thick"),
        (LayerSettings(sheet=(5.0, 400.0)), "sheet of material"),
        (LayerSettings(scale=5.0), "does not fit"),
        (LayerSettings(scale=1000.0), "larger scale"),
        (LayerSettings(scale=1.0, thickness=1.0), "the most"),
    ):
        with pytest.raises(Problem, match=words):
            cutting_files(building, np.ones(1, bool), UP, how)
    with pytest.raises(Problem, match="nothing to build"):
        cutting_files(building, np.zeros(1, bool), UP, LayerSettings())
    with pytest.raises(Problem, match="cancelled"):
        cutting_files(building, np.ones(1, bool), UP, LayerSettings(scale=50.0), progress=lambda share: False)


def test_engraved_letters_are_as_wide_and_high_as_they_are_meant() -> None:
    lines = letter_lines("H10", np.array([5.0, 6.0]), 4.0)
    points = np.concatenate(lines)
    assert points[:, 1].min() == pytest.approx(6.0, abs=0.1) and points[:, 1].max() == pytest.approx(10.0, abs=0.1)
    assert points[:, 0].min() > 5.0 and points[:, 0].max() < 5.0 + 4.0 * width("H10")
    assert all((line[0] == line[-1]).all() for line in lines) and len(lines) == 4  # the nought has two
