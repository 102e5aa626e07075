"""A cut as a drawing on paper, and the file it becomes."""

from __future__ import annotations

import io

import ezdxf
import numpy as np
import pytest
import shapely
import trimesh
from lxml import etree

from anatome.cuts.plane import Plane
from anatome.cuts.section import section
from anatome.formats.dxf import dxf_bytes
from anatome.formats.svg import svg_bytes
from anatome.linework.cut_drawing import MARGIN, cut_drawing
from anatome.look.look import Look
from anatome.look.pens import LineKind
from anatome.look.shipped import shipped_looks
from anatome.model.building import Building
from anatome.problems import Problem
from helpers import building_of

# Elements and attributes of SVG 1.1 that the writer may use (W3C recommendation; list from memory).
ALLOWED = {
    "svg": {"version", "width", "height", "viewBox"},
    "title": set(),
    "g": {"id", "data-classes", "fill-rule", "stroke", "stroke-width", "stroke-linejoin", "stroke-linecap"},
    "path": {"data-id", "fill", "d"},
}


@pytest.fixture(scope="module")
def drawing(boathouse: Building):
    return cut_drawing(boathouse, section(boathouse, Plane((14, 6.2, 3), (0, -1, 0))), 50, Look(), "Boathouse, section")


def test_sizes_are_real_millimetres(drawing, boathouse: Building) -> None:
    """The ground is 60 m long: 1,200 mm at 1:50, plus the margins."""
    assert drawing.width == pytest.approx(60_000 / 50 + 2 * MARGIN, abs=0.01)
    points = np.concatenate([r for layer in drawing.layers for a in layer.areas for p in a.polygons for r in p])
    assert points.min() == pytest.approx(MARGIN) and points[:, 0].max() == pytest.approx(drawing.width - MARGIN)
    assert points[:, 1].max() == pytest.approx(drawing.height - MARGIN)
    double = cut_drawing(boathouse, section(boathouse, Plane((14, 6.2, 3), (0, -1, 0))), 25, Look(), "x")
    assert double.width - 2 * MARGIN == pytest.approx(2 * (drawing.width - 2 * MARGIN))


def test_right_is_right_and_up_is_up(boathouse: Building) -> None:
    """Seen from the river, the hall (small x) lies to the left; seen from the bank, to the right."""
    for normal, sign in (((0, -1, 0), 1), ((0, 1, 0), -1)):
        found = section(boathouse, Plane((14, 6.2, 3), normal))
        made = cut_drawing(boathouse, found, 100, Look(), "x")
        centres = {}
        for layer in made.layers:
            for area in layer.areas:
                whole = shapely.union_all([shapely.Polygon(p[0], p[1:]) for p in area.polygons])
                centres[area.element_id] = whole.centroid
        world = {e.id: b.mean(axis=0) for e, b in zip(boathouse.elements, boathouse.element_bounds)}
        walls = [i for i in centres if boathouse.elements[boathouse.index_of[i]].type == "IfcWall"]
        left, right = min(walls, key=lambda i: centres[i].x), max(walls, key=lambda i: centres[i].x)
        assert (world[right][0] - world[left][0]) * sign > 15
        roof = [i for i in centres if "tiles" in boathouse.elements[boathouse.index_of[i]].name]
        footing = [i for i in centres if boathouse.elements[boathouse.index_of[i]].type == "IfcFooting"]
        assert min(centres[i].y for i in roof) > max(centres[i].y for i in footing)


def test_ground_comes_first_and_holes_are_holes(drawing) -> None:
    assert drawing.layers[0].name == "Ground and planting"
    assert len({layer.name for layer in drawing.layers}) == len(drawing.layers) > 6
    fills = {layer.name: area.fill for layer in drawing.layers for area in layer.areas}
    assert fills["Ground and planting"] == Look().poche_earth and fills["Wall"] == Look().poche
    hollow = trimesh.creation.annulus(0.5, 1.0, 2.0)
    made = cut_drawing(
        building_of((hollow.vertices, hollow.faces)),
        section(building_of((hollow.vertices, hollow.faces)), Plane((0, 0, 0), (0, 0, 1))),
        10,
        Look(),
        "ring",
    )
    (polygon,) = made.layers[0].areas[0].polygons
    assert len(polygon) == 2
    text = svg_bytes(made).decode()
    assert text.count("Z") == 2 and 'fill-rule="evenodd"' in text


def test_what_lies_over_what_does_not_hang_on_colours(boathouse: Building) -> None:
    """In a look with one ink for all, earth lies under what is built too, and thin lines under heavy ones."""
    black = (0.0, 0.0, 0.0)
    look = Look(poche=black, poche_earth=black, poche_beside=black, ink=black, hatch="over")
    made = cut_drawing(boathouse, section(boathouse, Plane((14, 6.2, 3), (0, -1, 0))), 50, look, "x")
    assert made.layers[0].name == "Ground and planting" and len(made.layers) > 6
    assert [strokes.kind for strokes in made.strokes] == [LineKind.HATCH, LineKind.BETWEEN, LineKind.ROUND]


def test_the_file_keeps_to_the_grammar_and_is_the_same_each_time(drawing) -> None:
    first = svg_bytes(drawing)
    assert first == svg_bytes(drawing)
    root = etree.fromstring(first)
    for element in root.iter():
        name = etree.QName(element).localname
        plain = {a for a in element.attrib if not a.startswith("{")}
        assert plain <= ALLOWED[name], f"{name} with {plain}"
    ids = [p.get("data-id") for p in root.iter("{*}path") if p.get("data-id")]
    assert len(ids) == len(set(ids)) == sum(len(layer.areas) for layer in drawing.layers)
    assert float(root.get("viewBox").split()[3]) == pytest.approx(drawing.height, abs=1e-3)


def test_surfaces_without_thickness_become_lines() -> None:
    sheet = np.array([[0, 0, 0], [3, 0, 0], [3, 0, 2], [0, 0, 2.0]])
    building = building_of((sheet, np.array([[0, 1, 2], [0, 2, 3]])), type="IfcPlate")
    found = section(building, Plane((0, 0, 1), (0, 0, 1)))
    assert len(found.polygons) == 0 and len(found.open_outlines) == 1
    made = cut_drawing(building, found, 20, Look(), "sheet")
    (line,) = made.layers[0].lines
    assert np.linalg.norm(line.points[-1] - line.points[0]) == pytest.approx(3000 / 20)
    assert b'fill="none"' in svg_bytes(made)


@pytest.mark.parametrize("scale", [0, -50, float("nan"), float("inf")])
def test_scales_that_are_none(scale: float, boathouse: Building) -> None:
    with pytest.raises(Problem, match="scale"):
        cut_drawing(boathouse, section(boathouse, Plane((14, 6.2, 3), (0, -1, 0))), scale, Look(), "x")


def test_a_plane_in_the_air_says_so(boathouse: Building) -> None:
    with pytest.raises(Problem, match="cuts nothing"):
        cut_drawing(boathouse, section(boathouse, Plane((0, 0, 500), (0, 0, 1))), 50, Look(), "x")


def test_lines_and_hatches_of_the_look_are_layers_with_their_weights(boathouse: Building) -> None:
    """Heavy round the whole, thin between parts, hatches clipped to the areas: in SVG and DXF with the weights of the look."""
    look = shipped_looks()["Hatched by material"]
    found = section(boathouse, Plane((24.4, 5, 3), (1, 0, 0)))
    made = cut_drawing(boathouse, found, 50, look, "hatched")
    kinds = {strokes.name: strokes for strokes in made.strokes}
    assert list(kinds) == ["Hatches", "Between parts", "Outline of the cut"]
    assert [s.pen.weight for s in made.strokes] == [look.hatch_weight, look.part_weight, look.cut_weight]
    filled = shapely.union_all([shapely.Polygon(p[0], p[1:]) for layer in made.layers for a in layer.areas for p in a.polygons])
    hatches = shapely.multilinestrings([shapely.linestrings(line) for line in kinds["Hatches"].lines])
    assert len(kinds["Hatches"].lines) > 500 and shapely.length(shapely.difference(hatches, shapely.buffer(filled, 1e-6))) < 1e-3
    groups = {g.get("id"): g for g in etree.fromstring(svg_bytes(made)).iter("{*}g")}
    for name, strokes in kinds.items():
        assert float(groups[name].get("stroke-width")) == strokes.pen.weight
    assert groups["Wall"].get("stroke") == "none"
    document = ezdxf.read(io.StringIO(dxf_bytes(made).decode()))
    assert not document.audit().has_errors
    assert document.layers.get("Outline of the cut").dxf.lineweight == 50 and document.layers.get("Hatches").dxf.lineweight == 13
