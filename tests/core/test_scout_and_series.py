"""The scout against real cuts at every position, and serial sections against the volumes they should add up to."""

from __future__ import annotations

import io

import ezdxf
import manifold3d
import numpy as np
import pytest
import shapely
import trimesh
from lxml import etree

from anatome.cuts.dissection import Cutter
from anatome.cuts.facts import series_facts
from anatome.cuts.plane import Plane
from anatome.cuts.reach import Reach
from anatome.cuts.scout import LENGTHWISE_TYPES, areas_along, scout
from anatome.cuts.section import section
from anatome.cuts.series import SerialSections, cut_series, offsets_at, storey_offsets
from anatome.formats.dxf import dxf_bytes
from anatome.formats.svg import svg_bytes
from anatome.linework.cut_drawing import cut_drawing, series_drawing
from anatome.look.look import Look
from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.problems import Problem
from anatome.scenes.edits import add_series, delete_series, next_series_mark, put_series
from anatome.scenes.opened import left_of, opened
from anatome.scenes.project import ModelReference, Project, StageState
from anatome.view.camera import Camera
from anatome.words import plain_type
from helpers import building_of

DIRECTIONS = [(1, 0, 0), (0, -1, 0), (0, 0, 1), (0.6, 0.7, 0), (0.3, -0.4, 0.5)]


# Scout ---------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("normal", DIRECTIONS, ids=str)
def test_the_scouts_areas_are_those_of_real_cuts(boathouse: Building, normal) -> None:
    everything = np.ones(len(boathouse.elements), bool)
    found = scout(boathouse, Plane((15, 6, 3), normal), everything, samples=60)
    for i in range(0, len(found.offsets), 3):
        real = section(boathouse, found.plane.at_offset(float(found.offsets[i])))
        assert found.areas[i] == pytest.approx(real.areas.sum(), rel=1e-6, abs=1e-6), i
    assert (np.diff(found.offsets) > 0).all() and (found.earth <= found.areas + 1e-9).all()


def test_the_scout_marks_what_a_cut_would_slice(boathouse: Building) -> None:
    """At the middle of every marked thing a real cut goes through it; outside its ends it does not."""
    everything = np.ones(len(boathouse.elements), bool)
    plane = Plane((15, 6, 3), (0, -1, 0))
    found = scout(boathouse, plane, everything)
    assert {m.kind for m in found.marks} >= {"Stairs", "Doors", "Windows", "Railings", "Furniture"}
    rng = np.random.default_rng(4)
    for mark in rng.permutation(np.array(found.marks, object))[:40]:
        one = np.arange(len(boathouse.elements)) == mark.element
        inside = section(boathouse, plane.at_offset((mark.low + mark.high) / 2), one)
        outside = section(boathouse, plane.at_offset(mark.high + 0.01), one)
        assert len(outside.polygons) == 0
        assert len(inside.polygons) or boathouse.elements[mark.element].type in ("IfcRailing", "IfcFurniture")
    (stair,) = [m for m in found.marks if m.kind == "Stairs"]
    assert "Stairs" in found.at((stair.low + stair.high) / 2) and "Stairs" not in found.at(stair.high + 0.01)


def test_suggested_positions_are_clean(boathouse: Building) -> None:
    everything = np.ones(len(boathouse.elements), bool)
    for normal in DIRECTIONS[:2]:
        found = scout(boathouse, Plane((15, 6, 3), normal), everything)
        assert 3 <= len(found.suggestions) <= 5
        best = found.suggestions[0]
        assert found.at(best).get("Lengthwise", []) == []
        assert any(kind in found.at(best) for kind in ("Stairs", "Doors", "Windows"))
        assert min(abs(best - g) for g in found.grazes) > 0.015
        for mark in found.lengthwise:
            assert boathouse.elements[mark.element].type in LENGTHWISE_TYPES
    walls = np.array([e.type == "IfcWall" for e in boathouse.elements])
    along = scout(boathouse, Plane((0, 0, 0), (0, -1, 0)), walls)
    river = [m for m in along.lengthwise if m.high - m.low < 0.4]
    assert river and any(abs(g - (river[0].low)) < 0.05 or abs(g - river[0].high) < 0.05 for g in along.grazes)


def test_meshes_that_are_not_plain_solids_are_really_cut() -> None:
    """Overlapping bodies and open shells: the sum over triangles would be wrong for them."""
    one, two = trimesh.creation.box((2, 2, 2)), trimesh.creation.box((2, 2, 2))
    two.apply_translation((1, 0.5, 0))
    both = trimesh.util.concatenate([one, two])
    ball = trimesh.creation.icosphere(subdivisions=2)
    ball.apply_translation((6, 0, 0))
    ball.update_faces(np.arange(len(ball.faces)) > 20)
    building = building_of((both.vertices, both.faces), (ball.vertices, ball.faces))
    assert building.plain_solids.tolist() == [False, False]
    plane, offsets = Plane((0, 0, 0), (0, 0, 1)), np.array([-0.51, 0.11, 0.73])
    expected = [section(building, plane.at_offset(o)).areas.sum() for o in offsets]
    assert areas_along(building, plane, offsets, np.ones(2, bool)) == pytest.approx(np.array(expected))


def test_nothing_to_scout() -> None:
    cube = trimesh.creation.box((1, 1, 1))
    building = building_of((cube.vertices, cube.faces))
    found = scout(building, Plane((0, 0, 0), (1, 0, 0)), np.zeros(1, bool))
    assert len(found.offsets) == 0 and found.suggestions == ()


# Serial sections -----------------------------------------------------------------------------------------------


@pytest.mark.parametrize("count", [3, 9])
@pytest.mark.parametrize("normal", [(0, 0, 1), (1, 1, 0), (0.2, -0.5, 0.7)], ids=str)
def test_serial_sections_add_up_to_the_volume_between_them(count: int, normal) -> None:
    """Prismoidal formula (handbook): exact for a ball cut anywhere in any direction, but for its facets."""
    ball = trimesh.creation.icosphere(subdivisions=5)
    building = building_of((ball.vertices, ball.faces))
    series = SerialSections(
        id="s", name="S", mark="S", plane=Plane((0, 0, 0), normal).at_offset(0.8), offsets=offsets_at(count, 1.6 / (count - 1))
    )
    result = cut_series(building, series.planes())
    h = 0.8
    expected = 2 * np.pi * (h - h**3 / 3)  # the ball between ±h (solid geometry)
    assert result.volume == pytest.approx(expected, rel=3e-3)
    # What lies between the first and the last of them, cut out by a library.
    unit = np.array(normal) / np.linalg.norm(normal)
    solid = manifold3d.Manifold(manifold3d.Mesh64(ball.vertices, ball.faces.astype(np.uint64)))
    between = solid.trim_by_plane(tuple(unit), -h).trim_by_plane(tuple(-unit), -h)
    assert result.volume == pytest.approx(between.volume(), rel=5e-4)
    heights = [p.offset for p in result.planes]
    assert heights == pytest.approx(np.linspace(0.8, -0.8, count))  # against the normal: the way a cut looks
    assert result.areas == pytest.approx(np.pi * (1 - np.array(heights) ** 2), rel=5e-3)


def test_a_series_over_storeys_and_one_that_is_none(boathouse: Building) -> None:
    plane, offsets = storey_offsets(boathouse)
    heights = [p.origin[2] for p in SerialSections(id="s", name="S", mark="S", plane=plane, offsets=offsets).planes()]
    assert heights == pytest.approx([7.6, 4.6, 1.2, 0.0])
    with pytest.raises(Problem, match="no storeys"):
        storey_offsets(building_of((trimesh.creation.box().vertices, trimesh.creation.box().faces)))
    for count, spacing in ((0, 1.0), (9999, 1.0), (3, 0.0), (3, float("nan"))):
        with pytest.raises(Problem):
            offsets_at(count, spacing)
    with pytest.raises(Problem, match="cancelled"):
        cut_series(boathouse, [plane], progress=lambda share: False)


@pytest.fixture(scope="module")
def house_series(boathouse: Building):
    plane = Plane((14, 1.0, 3), (0, -1, 0))
    reach = Reach(mode="all but", what=Selection(types={"IfcGeographicElement"}))
    series = SerialSections(id="s", name="Series S", mark="S", plane=plane, offsets=offsets_at(5, 2.5), reach=reach)
    return series, cut_series(boathouse, series.planes(), reach.mask(boathouse))


def test_a_series_on_paper_has_a_labelled_layer_for_each(boathouse: Building, house_series) -> None:
    series, result = house_series
    labels = [series.label(i) for i in range(5)]
    drawing = series_drawing(boathouse, result.filled, labels, 100, Look(), "Series")
    assert [layer.name for layer in drawing.layers] == labels == ["S1", "S2", "S3", "S4", "S5"]
    boxes = []
    for layer, area in zip(drawing.layers, result.areas):
        points = np.concatenate([r for a in layer.areas for p in a.polygons for r in p])
        boxes.append((points.min(axis=0), points.max(axis=0)))
        assert points.min() > 0 and (points < [drawing.width, drawing.height]).all()
        on_paper = sum(shapely.Polygon(p[0], p[1:]).area for a in layer.areas for p in a.polygons)
        assert on_paper * (100 / 1000) ** 2 == pytest.approx(area, rel=1e-6)
    for i, (low, high) in enumerate(boxes):
        for other_low, other_high in boxes[i + 1 :]:
            assert (low > other_high).any() or (other_low > high).any()  # no section lies over another
    root = etree.fromstring(svg_bytes(drawing))
    assert [t.text for t in root.iter("{*}text")] == labels
    assert [g.get("id") for g in root.iterfind("{*}g")] == labels


def test_dxf_passes_the_audit_and_holds_the_same_areas(boathouse: Building, house_series) -> None:
    """ezdxf reads it back: no errors, millimetres, an outline and a hatch for each polygon."""
    _, result = house_series
    found = result.filled[2]
    data = dxf_bytes(cut_drawing(boathouse, found, 50, Look(), "Section"))
    assert data == dxf_bytes(cut_drawing(boathouse, found, 50, Look(), "Section"))
    document = ezdxf.read(io.StringIO(data.decode()))
    assert not document.audit().has_errors and document.units == ezdxf.units.MM
    hatches = document.modelspace().query("HATCH")
    rings = [[[v[:2] for v in path.vertices] for path in hatch.paths.paths] for hatch in hatches]
    area = sum(shapely.Polygon(r[0], r[1:]).area for r in _by_polygon(rings))
    outlines = [
        [p[:2] for p in line.get_points()]
        for line in document.modelspace().query("LWPOLYLINE")
        if document.layers.get(line.dxf.layer).description.startswith("Ifc")
    ]
    assert len(outlines) == sum(len(r) for r in rings)
    assert area * (50 / 1000) ** 2 == pytest.approx(found.areas.sum(), rel=1e-5)
    types = {boathouse.elements[e].type for e in found.element}
    assert {plain_type(name) for name in types} <= {layer.dxf.name for layer in document.layers}
    assert types <= {name for layer in document.layers for name in layer.description.split()}
    labelled = ezdxf.read(
        io.StringIO(dxf_bytes(series_drawing(boathouse, result.filled, list("abcde"), 50, Look(), "x")).decode())
    )
    assert {t.text for t in labelled.modelspace().query("MTEXT")} == set("abcde")


def _by_polygon(hatches: list[list]) -> list[list]:
    """The rings of hatches parted into outer rings with the holes that lie in them."""
    found = []
    for rings in hatches:
        shapes = [shapely.Polygon(r) for r in rings]
        outer = [i for i, s in enumerate(shapes) if sum(o.contains(s) for o in shapes if o is not s) % 2 == 0]
        for i in outer:
            holes = [r for r, s in zip(rings, shapes) if s is not shapes[i] and shapes[i].contains(s)]
            found.append([rings[i], *holes])
    return found


def test_a_series_as_facts(boathouse: Building, house_series) -> None:
    series, result = house_series
    facts = series_facts(boathouse, series, result)
    assert [s["face"] for s in facts["faces"]] == ["S1", "S2", "S3", "S4", "S5"]
    assert facts["volume"] == pytest.approx(result.volume) and facts["areas"] == pytest.approx(result.areas.tolist())
    assert all(s["filled_area"] == pytest.approx(a) for s, a in zip(facts["faces"], facts["areas"]))


def test_a_series_shows_alone_or_with_the_building_and_cuts_nothing(boathouse: Building, house_series) -> None:
    series, _ = house_series
    project = Project(name="x", model=ModelReference(path="x"), stage=StageState(camera=Camera(eye=(0, -9, 0), target=(0, 0, 0))))
    cutter = Cutter(boathouse)
    whole = left_of(cutter, project.stage)
    project = add_series(project, series)
    assert next_series_mark(project) == "T"
    alone = opened(cutter, project.stage).cut_open
    assert not alone.shown.any() and [f.name for f in alone.faces] == ["S1", "S2", "S3", "S4", "S5"]
    together = opened(cutter, put_series(project, series.model_copy(update={"alone": False})).stage).cut_open
    assert (together.shown == whole.shown).all() and all(f.free for f in together.faces)
    assert not together.removed(boathouse.vertices[:50], np.zeros(50, int)).any()
    off = opened(cutter, put_series(project, series.model_copy(update={"on": False})).stage).cut_open
    assert off.faces == whole.faces
    # Moved on by one spacing, the second section stands where the third stood, and is called the second.
    on = series.model_copy(update={"plane": series.planes()[1]})
    shifted = opened(cutter, put_series(project, on).stage).cut_open
    assert [f.name for f in shifted.faces] == ["S1", "S2", "S3", "S4", "S5"]
    assert delete_series(project, "s").stage.series == ()
