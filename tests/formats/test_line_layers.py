"""Linework on the layers of the model, its types, materials, storeys or groups: every line on that of its element."""

from __future__ import annotations

import io
from collections import Counter
from itertools import chain

import ezdxf
import numpy as np
import pikepdf
import pytest
import shapely
from lxml import etree
from pydantic import ValidationError

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.plane import Plane
from anatome.formats.dxf import dxf_bytes
from anatome.formats.pdf import pdf_bytes
from anatome.formats.project_files import OpenedProject
from anatome.formats.svg import svg_bytes
from anatome.linework.drawing import Drawing
from anatome.linework.view_drawing import view_drawing
from anatome.look.line_layers import LayerPen, LineLayers, models_of
from anatome.look.look import Look
from anatome.scenes.scene_view import View, view_of
from anatome.view.camera import Camera
from anatome.view.viewport import Frame
from helpers import astray, box, made_of, segments

SVG = "{http://www.w3.org/2000/svg}"


def drawing(demo: OpenedProject, layers: LineLayers | None, scene: str = "cross") -> Drawing:
    found = next(s for s in demo.stored.project.scenes if s.id == scene)
    look = Look(hatch="over", recede=0.0, join_planes=False)
    found = found.model_copy(update={"state": found.state.model_copy(update={"look": look, "overrides": ()})})
    view = view_of(Cutter(demo.building), found, None, demo.stored.project.site)
    return view_drawing(view, "x", layers=layers)


@pytest.fixture(scope="module")
def by_kind(demo: OpenedProject) -> Drawing:
    """Sorted as it is where nothing is said."""
    return drawing(demo, None)


@pytest.mark.parametrize("of", ["layer", "type", "material", "storey", "group"])
def test_all_lines_are_there_on_layers_the_model_knows(demo: OpenedProject, by_kind: Drawing, of: str) -> None:
    """Sorted otherwise it is the same drawing: as much line, where two parts share one at most that more, on known layers."""
    plain, sorted_ = by_kind, drawing(demo, LineLayers(by="both", of=of))
    known = set(models_of(demo.building, of)) | {"Other", "People and trees"}
    names = [s.name for s in sorted_.strokes]
    assert len(names) == len(set(names)) and {name.rpartition(", ")[0] for name in names if "aslant" not in name} <= known
    for kind in {s.kind for s in plain.strokes}:
        first, second = (segments(chain.from_iterable(s.lines for s in d.strokes if s.kind == kind)) for d in (plain, sorted_))
        lengths = [np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1).sum() for lines in (first, second)]
        assert lengths[1] >= 0.999 * lengths[0] > 0
        # Where it was, and nowhere else.
        assert astray(second, first, 0.05) < 1e-3 and astray(first, second, 0.05) < 1e-3


def test_every_line_of_a_dxf_is_on_the_layer_of_its_element() -> None:
    """Three blocks apart, each on a layer of its own: what lies within the outline of one is on its layer, counted against the
    model; hatches and fills too."""
    parts = [("a", "IfcWall", "Brick"), ("b", "IfcSlab", "Concrete"), ("c", "IfcBeam", "Oak")]
    building = made_of(
        *((name, kind, material, box(3.0 * i, 0, 0, 3.0 * i + 2, 2, 2)) for i, (name, kind, material) in enumerate(parts))
    )

    cut = SectionPlane(id="s", name="S", mark="S", plane=Plane((0, 1, 0), (0, -1, 0)))
    opened = ShownBuilding(Cutter(building).dissect([cut], np.ones(3, bool)))
    camera = Camera(eye=(4, -20, 1), target=(4, 0, 1), projection="parallel", field=30.0)
    view = View(camera, opened, Look(hatch="over"), Frame(width=1000, height=1000), paper=200.0)
    made = view_drawing(view, "x", layers=LineLayers(by="model", of="material"))
    space = ezdxf.read(io.StringIO(dxf_bytes(made).decode())).modelspace()
    viewport = view.on_paper()
    room = {}
    for i, (_, _, material) in enumerate(parts):
        corners = viewport.pixels(np.array([[3.0 * i, 1, 0], [3.0 * i + 2, 1, 2]])) * [1, -1] + [0, viewport.height]
        room[material] = shapely.box(*np.sort(corners, axis=0).ravel()).buffer(0.5)
    counted: Counter[str] = Counter()
    for entity in space:
        if entity.dxftype() == "LWPOLYLINE":
            places = np.array([point[:2] for point in entity.get_points()])
            own = {material for material, area in room.items() if area.covers(shapely.multipoints(places))}
            assert own == {entity.dxf.layer}
        counted[entity.dxf.layer] += 1
    assert set(counted) == {"Brick", "Concrete", "Oak"} and len(set(counted.values())) == 1
    assert not ezdxf.read(io.StringIO(dxf_bytes(made).decode())).audit().has_errors
    # On one layer the pens of several kinds are told line by line.
    weights = {e.dxf.get("lineweight", -1) for e in space if e.dxf.layer == "Oak" and e.dxftype() == "LWPOLYLINE"}
    assert len(weights) >= 1


def test_names_follow_the_pattern_and_the_table_says_how_layers_look(demo: OpenedProject) -> None:
    pens = (
        LayerPen(name="Wall", colour=(0.8, 0.1, 0.1), weight=0.35),
        LayerPen(name="Furniture", on=False),
        LayerPen(name="Edges", dashes="dashed"),
    )
    layers = LineLayers(by="both", of="type", names="A-{model}-{kind}", pens=pens)
    made = drawing(demo, layers)
    names = {s.name: s for s in made.strokes}
    assert "A-Wall-Edges" in names and not any("-Furniture-" in name for name in names)
    wall = names["A-Wall-Edges"].pen
    assert (wall.weight, wall.ink, wall.dashes) == (0.35, (0.8, 0.1, 0.1), (2.0, 1.0))
    assert names["A-Door-Edges"].pen.dashes == (2.0, 1.0) and names["A-Door-Edges"].pen.weight != 0.35
    root = etree.fromstring(svg_bytes(made))
    (group,) = (g for g in root.iter(f"{SVG}g") if g.get("id") == "A-Wall-Edges")
    assert group.get("stroke-width") == "0.35" and group.get("stroke-dasharray") == "2 1"
    layer = ezdxf.read(io.StringIO(dxf_bytes(made).decode())).layers.get("A-Wall-Edges")
    assert layer.dxf.lineweight == 35 and layer.dxf.true_color == 0xCC1A1A
    with pikepdf.open(io.BytesIO(pdf_bytes(made))) as document:
        assert {"A-Wall-Edges", "A-Wall-Fills"} <= {str(group.Name) for group in document.Root.OCProperties.OCGs}
    with pytest.raises(ValidationError, match="kind"):
        LineLayers(names="{colour}")


def test_by_the_model_alone_one_layer_holds_all_of_it(demo: OpenedProject) -> None:
    """In SVG one group with a group for each pen, in PDF one layer, in DXF lines that say what is not as the layer has it."""
    made = drawing(demo, LineLayers(by="model", of="storey"))
    names = {s.name for s in made.strokes}
    assert (
        {"Ground floor", "Upper floor", "Roof"}
        <= names
        <= set(models_of(demo.building, "storey")) | {"Other", "People and trees"}
    )
    root = etree.fromstring(svg_bytes(made))
    ids = [g.get("id") for g in root.iter(f"{SVG}g") if g.get("id")]
    assert len(ids) == len(set(ids)) and set(ids) >= names
    (group,) = (g for g in root.iter(f"{SVG}g") if g.get("id") == "Roof")
    assert len({g.get("stroke-width") for g in group.iter(f"{SVG}g")}) > 2
    document = ezdxf.read(io.StringIO(dxf_bytes(made).decode()))
    assert not document.audit().has_errors
    roof = [e for e in document.modelspace() if e.dxf.layer == "Roof" and e.dxftype() == "LWPOLYLINE"]
    rings = sum(len(rings) for layer in made.layers if layer.name == "Roof" for area in layer.areas for rings in area.polygons)
    assert len(roof) == rings + sum(len(s.lines) for s in made.strokes if s.name == "Roof" and not s.of_patterns)
