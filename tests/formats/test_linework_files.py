"""Linework as files: registered with the picture, true in weight and size, in layers, and readable by other libraries."""

from __future__ import annotations

import io
import re
from dataclasses import replace
from pathlib import Path

import ezdxf
import numpy as np
import pikepdf
import pypdfium2
import pytest
import shapely
from ezdxf.render.hatching import hatch_entity
from lxml import etree
from PIL import Image
from scipy.ndimage import binary_dilation

from anatome.cuts.dissection import Cutter
from anatome.formats.dxf import dxf_bytes
from anatome.formats.hatch_files import read_hatches
from anatome.formats.pdf import pdf_bytes
from anatome.formats.project_files import OpenedProject
from anatome.formats.svg import svg_bytes
from anatome.linework.drawing import Drawing
from anatome.linework.view_drawing import view_drawing
from anatome.look.hatches import Family, Hatch
from anatome.look.look import Look, Rule
from anatome.look.pens import Pen
from anatome.look.shipped import shipped_looks
from anatome.model.selection import Selection
from anatome.problems import Problem
from anatome.render.pictures import PictureMaker
from anatome.scenes.scene_view import View, view_of

SVG = "{http://www.w3.org/2000/svg}"


def view(demo: OpenedProject, scene: str, look: str = "", hidden: frozenset[str] = frozenset()) -> View:
    found = next(s for s in demo.stored.project.scenes if s.id == scene)
    found = found.model_copy(update={"state": found.state.model_copy(update={"hidden": found.state.hidden | hidden})})
    if look:
        found = found.model_copy(update={"state": found.state.model_copy(update={"look": shipped_looks()[look]})})
    return view_of(Cutter(demo.building), found, None, demo.stored.project.site)


def rendered(drawing: Drawing, dpi: float) -> np.ndarray:
    """(h, w, 3) a PDF of it, drawn by another library."""
    document = pypdfium2.PdfDocument(pdf_bytes(drawing))
    return np.array(document[0].render(scale=dpi / 72).to_pil().convert("RGB")).astype(int)


@pytest.mark.parametrize("scene", ["long", "corner", "oblique"])
def test_lines_lie_where_the_picture_has_them(demo: OpenedProject, scene: str) -> None:
    """The same scene as a picture and as linework in a PDF: dark pixels of one lie within a pixel of dark ones of the other."""
    found = next(s for s in demo.stored.project.scenes if s.id == scene)
    look = shipped_looks()["Technical, black and white"].model_copy(update={"recede": 0.0, "edge_weight": 0.25})
    found = found.model_copy(update={"state": found.state.model_copy(update={"look": look, "overrides": ()})})
    lines = replace(view_of(Cutter(demo.building), found, None, demo.stored.project.site), figures=())
    drawn = rendered(view_drawing(lines, "x"), 130)
    height, width = drawn.shape[:2]
    seen = replace(view_of(Cutter(demo.building), found, None, demo.stored.project.site), figures=())
    picture = PictureMaker.standalone(demo.building).picture(seen, (width, height), "white", 8)[..., :3].astype(int)
    dark, inked = picture.max(axis=2) < 90, drawn.max(axis=2) < 90
    assert inked.sum() > 10_000
    assert (dark & binary_dilation(inked, iterations=1)).sum() > 0.97 * dark.sum()
    # Where the picture lets short and dense lines grow faint they are still in the drawing.
    assert (inked & binary_dilation(picture.max(axis=2) < 200, iterations=1)).sum() > 0.97 * inked.sum()


def test_weights_sizes_and_layers_of_a_pdf(demo: OpenedProject) -> None:
    drawing = view_drawing(view(demo, "sheet"), "Sheet", 50.0, hidden=True)
    data = pdf_bytes(drawing)
    assert data == pdf_bytes(drawing)
    with pikepdf.open(io.BytesIO(data)) as document:
        box = [float(v) / 72 * 25.4 for v in document.pages[0].MediaBox]
        assert box[2:] == pytest.approx([420, 297], abs=0.01)  # the A3 of the scene
        names = [str(group.Name) for group in document.Root.OCProperties.OCGs]
        assert names == [layer.name for layer in drawing.layers] + [kind.name for kind in drawing.strokes]
        assert {"Hidden lines", "Outline of the cut", "Hatches"} <= set(names)
    # A heavy line is measured at 600 dpi, across, in a drawing of its own.
    heavy = next(kind for kind in drawing.strokes if kind.name == "Outline of the cut")
    ends = np.array([[20.0, 20.0], [20.0, 60.0]])
    black = replace(heavy, pen=Pen(heavy.pen.weight, (0, 0, 0)), lines=(ends,))
    alone = Drawing("x", 40.0, 80.0, 50.0, 0.0, (0, 0, 0), (), (black,))
    row = 255 - rendered(alone, 600)[900, :, 1]
    assert row.sum() / 255 / 600 * 25.4 == pytest.approx(heavy.pen.weight, abs=0.02)
    assert np.average(np.arange(len(row)) + 0.5, weights=row) / 600 * 25.4 == pytest.approx(20.0, abs=0.02)


def test_svg_and_dxf_hold_the_same_lines(demo: OpenedProject) -> None:
    # Without the boats, which have two thirds of all lines.
    boats = frozenset(e.id for e in demo.building.elements if e.layer == "I-BOAT")
    drawing = view_drawing(view(demo, "cross", "Hatched by material", boats), "Cross", 100.0, hidden=True)
    root = etree.fromstring(svg_bytes(drawing))
    groups = {g.get("id"): g for g in root.iter(f"{SVG}g")}
    count = sum(len(kind.lines) for kind in drawing.strokes)
    assert sum(p.get("d").count("M") for kind in drawing.strokes for p in groups[kind.name].iter(f"{SVG}path")) == count
    assert groups["Hidden lines"].get("stroke-dasharray") and groups["Outline of the cut"].get("stroke-width") == "0.5"
    document = ezdxf.read(io.StringIO(dxf_bytes(drawing).decode()))
    assert not document.audit().has_errors
    space = document.modelspace()
    # Hatches are hatches of the file, all else is lines.
    kinds = {kind.name for kind in drawing.strokes if not kind.of_patterns}
    lines = sum(len(kind.lines) for kind in drawing.strokes if not kind.of_patterns)
    assert sum(e.dxf.layer in kinds for e in space.query("LWPOLYLINE")) == lines < count
    dash, gap = next(kind.pen.dashes for kind in drawing.strokes if kind.name == "Hidden lines")
    pattern = document.linetypes.get(document.layers.get("Hidden lines").dxf.linetype).pattern_tags.tags
    assert [tag.value for tag in pattern if tag.code == 49] == [dash, -gap]
    # Every cut area is in both: one path each in the SVG, and a hatch in the DXF, with a gradient where earth fades.
    paths = [p for layer in drawing.layers for p in groups[layer.name].iter(f"{SVG}path")]
    areas = [area for layer in drawing.layers for area in layer.areas]
    fills = [e for e in space.query("HATCH") if e.has_solid_fill and e.dxf.layer != "Ground and planting"]
    fading = [e for e in space.query("HATCH") if e.has_gradient_data]
    assert len(paths) == len(areas) > 20 and len(fading) == sum(area.fades is not None for area in areas) > 0
    assert len(fills) == sum(area.fades is None for area in areas)


def test_earth_fades_pictures_lie_under_and_dark_paper_is_there(demo: OpenedProject) -> None:
    drawing = view_drawing(view(demo, "long"), "Long")
    page = rendered(drawing, 60)
    column = page[int(0.72 * len(page)) : int(0.87 * len(page)), page.shape[1] // 3].sum(axis=1)
    assert (np.diff(column) >= -2).all() and column[-1] - column[0] > 80  # darker above than below
    out = io.BytesIO()
    Image.new("RGB", (60, 40), (200, 30, 30)).save(out, "PNG")
    over = drawing.over(out.getvalue())
    assert rendered(over, 60)[5, 5].tolist() == pytest.approx([200, 30, 30], abs=2) and not over.layers
    assert b"data:image/png" in svg_bytes(over)
    night = rendered(view_drawing(view(demo, "long", "Night blue"), "Night"), 60)
    assert night[3, 3].sum() < 200 < night.max(axis=2).max()


def test_steps_read_as_one_plane_and_pieces_have_their_travel_lines(demo: OpenedProject) -> None:
    """Seen flat, a stepped section has no upright line of the cut where its steps meet (common practice)."""
    lines = view(demo, "stepped")
    line = next(s for s in demo.stored.project.scenes if s.id == "stepped").state.cuts[0].line
    drawing, viewport = view_drawing(lines, "Steps"), lines.on_paper()
    cut = [kind for kind in drawing.strokes if kind.name in ("Between parts", "Outline of the cut")]
    ends = np.concatenate([np.stack([points[0], points[-1]])[None] for kind in cut for points in kind.lines])
    for jog in line.jogs:
        across = viewport.pixels((np.array(line.along) * jog)[None])[0, 0]
        at = (np.abs(ends[..., 0] - across).max(axis=1) < 0.1) & (np.abs(np.diff(ends[..., 1], axis=1)[:, 0]) > 1.0)
        assert not at.any()
    apart = view_drawing(view(demo, "exploded"), "Apart")
    assert any(kind.name.startswith("Travel lines") and kind.lines for kind in apart.strokes)


def test_what_lies_beyond_is_left_out_and_nothing_is_a_clear_answer(demo: OpenedProject) -> None:
    whole, cut = (view_drawing(view(demo, "long"), "Long", beyond=beyond) for beyond in (True, False))
    assert {kind.name for kind in cut.strokes} == {"Between parts", "Outline of the cut"}
    assert len(whole.strokes) > len(cut.strokes) and [a.name for a in whole.layers] == [a.name for a in cut.layers]
    away = replace(view(demo, "long"), camera=view(demo, "long").camera.model_copy(update={"target": (14.0, -900.0, 3.0)}))
    with pytest.raises(Problem, match="nothing to draw"):
        view_drawing(replace(away, figures=()), "x", beyond=False)
    with pytest.raises(Problem, match="cancelled"):
        view_drawing(view(demo, "long"), "x", progress=lambda share: share < 0.3)


@pytest.mark.parametrize("scene_id, aslant", [("long", False), ("cutaway", True)])
def test_hatches_are_hatches_in_dxf(demo: OpenedProject, scene_id: str, aslant: bool) -> None:
    """Their patterns, drawn by ezdxf, are the lines other files have; of faces seen aslant they are lines here too."""
    drawing = view_drawing(view(demo, scene_id, "Hatched by material"), "x", beyond=False)
    (hatches,) = (s for s in drawing.strokes if s.name.startswith("Hatches"))
    assert hatches.of_patterns != aslant and len(hatches.lines) > 500
    document = ezdxf.read(io.StringIO(dxf_bytes(drawing).decode()))
    assert not document.audit().errors
    own = [e for e in document.modelspace() if e.dxf.layer.startswith("Hatches")]
    wanted = shapely.multilinestrings([shapely.linestrings(line) for line in hatches.lines])
    if aslant:
        assert {e.dxftype() for e in own} == {"LWPOLYLINE"}
        return
    assert {e.dxftype() for e in own} == {"HATCH"} and all(e.has_pattern_fill for e in own)
    drawn = [((a.x, a.y), (b.x, b.y)) for e in own for a, b in hatch_entity(e)]
    found = shapely.multilinestrings([shapely.linestrings(line) for line in drawn if line[0] != line[1]])
    # A line that lies along the edge of its area is in it or not, as the last digit has it.
    edges = [shapely.linestrings(ring) for x in drawing.layers for a in x.areas if a.pattern for r in a.polygons for ring in r]
    along = shapely.buffer(shapely.union_all(edges), 0.02)
    found, wanted = shapely.difference(found, along), shapely.difference(wanted, along)
    assert shapely.length(found) == pytest.approx(shapely.length(wanted), rel=4e-3)
    assert shapely.length(shapely.difference(found, shapely.buffer(wanted, 0.05))) < 2e-3 * shapely.length(wanted)


def test_the_spacing_and_angle_of_a_rule_are_those_of_every_file(demo: OpenedProject) -> None:
    """Lines 3 mm apart at 70° with 0.35 mm in earth, measured in SVG, in DXF as ezdxf draws the hatch, and in a PDF's own paths;
    a tile, which no hatch of a DXF can say, is lines there."""
    (boats,) = read_hatches(Path(__file__).parents[2] / "docs" / "examples" / "boats.svg")
    earth, walls = (Selection(types=frozenset({kind})) for kind in ("IfcGeographicElement", "IfcSlab"))
    plain = Hatch(name="own", families=(Family(angle=45.0, spacing=1.5),))
    manner = {"hatch": "own", "hatch_angle": 25.0, "hatch_scale": 2.0, "hatch_weight": 0.35}
    rules = Rule(who=earth, **manner), Rule(who=walls, hatch="boats")
    look = Look(hatch="over", earth_fades=False, hatches=(plain, boats), rules=rules)
    found = next(s for s in demo.stored.project.scenes if s.id == "long")
    found = found.model_copy(update={"state": found.state.model_copy(update={"look": look, "overrides": ()})})
    drawing = view_drawing(view_of(Cutter(demo.building), found, None, demo.stored.project.site), "x", beyond=False)
    (own,) = (s for s in drawing.strokes if s.name == "Hatches, 0.35 mm")
    assert own.of_patterns and own.pen.weight == 0.35
    tile = next(s for s in drawing.strokes if s.name == "Hatches, aslant")
    assert not tile.of_patterns and len(tile.lines) > 50

    def measured(segments: np.ndarray) -> None:
        arms = segments[:, 1] - segments[:, 0]
        long = np.hypot(*arms.T) > 2.0
        angles = np.degrees(np.arctan2(arms[long, 1], arms[long, 0])) % 180
        assert long.sum() > 20 and np.abs(angles - 70.0).max() < 0.05
        across = np.sort(segments[long].mean(axis=1) @ [-np.sin(np.radians(70)), np.cos(np.radians(70))])
        steps = np.diff(across)
        steps = steps[steps > 0.05] / 3.0
        assert np.abs(steps - np.round(steps)).max() < 0.01 and steps.min() == pytest.approx(1.0, abs=0.01)

    root = etree.fromstring(svg_bytes(drawing))
    (group,) = (g for g in root.iter(f"{SVG}g") if g.get("id") == own.name)
    assert group.get("stroke-width") == "0.35"
    numbers = [
        [float(n) for n in re.findall(r"-?[\d.]+", d)] for p in group.iter(f"{SVG}path") for d in p.get("d").split("M")[1:]
    ]
    measured(np.array([n[:4] for n in numbers]).reshape(-1, 2, 2) * [1.0, -1.0])
    space = ezdxf.read(io.StringIO(dxf_bytes(drawing).decode())).modelspace()
    hatches = [e for e in space.query("HATCH") if e.dxf.layer == own.name]
    measured(np.array([((a.x, a.y), (b.x, b.y)) for e in hatches for a, b in hatch_entity(e)]))
    assert {e.dxftype() for e in space if e.dxf.layer == tile.name} == {"LWPOLYLINE"}
    with pikepdf.open(io.BytesIO(pdf_bytes(drawing))) as document:
        moved, lines, width = [0.0, 0.0], [], 0.0
        for operands, operator in pikepdf.parse_content_stream(document.pages[0]):
            kind = str(operator)
            if kind == "w":
                width = float(operands[0]) * 25.4 / 72
            elif kind == "m":
                moved = [float(v) for v in operands]
            elif kind == "l" and abs(width - 0.35) < 1e-3:
                lines.append([moved, [float(v) for v in operands]])
        measured(np.array(lines) * 25.4 / 72)
