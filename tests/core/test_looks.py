"""Looks put to work: colours of one family, styles by element, hatches as lines, and the lines of a cut as drawn by hand."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely import affinity

from anatome.cuts.contours import contours
from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.plane import Plane
from anatome.formats.hatch_files import read_hatches
from anatome.look.files import read_look, write_look
from anatome.look.hatch_lines import frame_of, hatch_lines
from anatome.look.hatches import Family, Hatch, shipped_hatches
from anatome.look.look import Look, Rule, rgb
from anatome.look.materials import hatch_for
from anatome.look.palette import DARKEST, LIGHTEST, MOST_CHROMA, from_oklab, harmonised, to_oklab
from anatome.look.shipped import shipped_looks
from anatome.look.styles import resolve
from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.problems import Problem
from anatome.view.camera import Camera
from anatome.view.sun import towards_sun
from helpers import seen

COLOUR = st.tuples(*[st.floats(0, 1)] * 3)


def test_oklab_as_published() -> None:
    """sRGB red, green and blue in OKLab (Ottosson, 2020; values from memory, to three places), white and grey without chroma."""
    known = {
        (1, 0, 0): (0.628, 0.225, 0.126),
        (0, 1, 0): (0.866, -0.234, 0.179),
        (0, 0, 1): (0.452, -0.032, -0.312),
        (1, 1, 1): (1.0, 0.0, 0.0),
    }
    for srgb, lab in known.items():
        assert to_oklab(np.array(srgb, float)) == pytest.approx(lab, abs=1.5e-3)
    # 18 % grey, sRGB 0.4663, has lightness 0.18^(1/3) by the definition of the space.
    assert to_oklab(np.full(3, 0.46135)) == pytest.approx((0.18 ** (1 / 3), 0, 0), abs=1e-3)


@given(colour=COLOUR, other=COLOUR)
def test_harmonised_colours_keep_their_hue_and_their_order_and_are_never_loud(colour, other) -> None:
    one, two = to_oklab(np.array(colour)), to_oklab(np.array(other))
    found, beside = to_oklab(harmonised(np.array(colour))), to_oklab(harmonised(np.array(other)))
    assert np.hypot(found[1], found[2]) <= MOST_CHROMA + 2e-3 and DARKEST - 2e-3 <= found[0] <= LIGHTEST + 2e-3
    if np.hypot(one[1], one[2]) > 0.02:
        turn = np.arctan2(found[2], found[1]) - np.arctan2(one[2], one[1])
        assert abs((turn + np.pi) % (2 * np.pi) - np.pi) < 0.06
    if one[0] > two[0] + 0.01:
        assert found[0] > beside[0]
    assert np.allclose(from_oklab(to_oklab(np.array(colour))), colour, atol=1e-6)


def test_rules_say_for_whom_and_what_one_over_the_other(boathouse: Building) -> None:
    look = Look(
        surfaces="white",
        rules=(
            Rule(who=Selection(types=frozenset({"IfcWall"})), fill=rgb("#FF0000"), surface=rgb("#00FF00"), hatch="brick"),
            Rule(who=Selection(materials=frozenset({"Oak"})), fill=rgb("#0000FF")),
            Rule(who=Selection(types=frozenset({"IfcSlab"})), fill=rgb("#123456"), on=False),
        ),
    )
    styles = resolve(look, boathouse)
    assert resolve(look, boathouse) is styles
    for number, element in enumerate(boathouse.elements):
        own = look.poche_of(element.type)
        wanted = rgb("#0000FF") if element.material == "Oak" else rgb("#FF0000") if element.type == "IfcWall" else own
        assert tuple(styles.fill[number, :3]) == tuple(np.round(np.array(wanted) * 255).astype(int))
        hatch = styles.hatch_of(number)
        assert (hatch is not None and hatch.name == "brick") == (element.type == "IfcWall")
        if element.type == "IfcWall":
            assert tuple(styles.palette[styles.surface[number]]) == (0, 255, 0, 255)
        else:
            assert styles.surface[number] == -1
    clear = boathouse.styles[:, 3] < 250
    assert clear.any() and np.array_equal(styles.palette[: len(clear)][clear, 3], boathouse.styles[clear, 3])  # glass stays glass
    storeys = resolve(Look(surfaces="by storey"), boathouse)
    colours = {tuple(storeys.palette[s]) for s in storeys.surface[storeys.surface >= 0]}
    assert len(colours) == len({e.storey for e in boathouse.elements} - {None})


@pytest.mark.parametrize(
    ("material", "kind", "hatch"),
    [
        ("Stahlbeton C25/30", "IfcWall", "concrete"),
        ("Mineralwolle Dämmung", "IfcWall", "insulation soft"),
        ("XPS rigid insulation", "IfcSlab", "insulation rigid"),
        ("Brique pleine", "IfcWall", "brick"),
        ("Legno lamellare", "IfcBeam", "timber along"),
        ("Acero S275", "IfcBeam", "metal"),
        ("Gipsplaat", "IfcCovering", "plaster"),
        ("", "IfcFooting", "concrete"),
        ("", "IfcGeographicElement", "earth"),
        ("Unobtainium", "IfcProxy", "diagonal"),
    ],
)
def test_materials_lead_to_hatches_in_many_languages(material: str, kind: str, hatch: str) -> None:
    assert hatch_for(material, kind) == hatch and hatch in shipped_hatches()


@given(
    angle=st.floats(0, 180),
    spacing=st.floats(0.5, 3.0),
    shift=st.floats(-2, 2),
    x=st.floats(5, 40),
    y=st.floats(5, 40),
)
def test_lines_lie_at_their_spacing_and_angle_and_fill_the_area(angle, spacing, shift, x, y) -> None:
    """Cauchy's formula of the integral geometry of parallels: lines s apart have area / s of length in a convex area, nearly."""
    area = shapely.box(0, 0, x, y)
    hatch = Hatch(name="h", families=(Family(angle=angle, spacing=spacing, shift=shift),))
    lines = hatch_lines(hatch, area, 1.0)
    way = np.array([np.cos(np.radians(angle)), np.sin(np.radians(angle))])
    arms = lines[:, 1] - lines[:, 0]
    assert np.abs(arms @ [-way[1], way[0]]).max() < 1e-9
    places = lines[:, 0] @ [-way[1], way[0]] - shift
    assert np.abs(places / spacing - np.round(places / spacing)).max() < 1e-9
    assert np.linalg.norm(arms, axis=1).sum() == pytest.approx(x * y / spacing, abs=2.5 * np.hypot(x, y))
    assert shapely.covers(shapely.buffer(area, 1e-9), shapely.multilinestrings(shapely.linestrings(lines)))


def test_dashes_layers_and_files(tmp_path: Path) -> None:
    dashed = Hatch(name="d", families=(Family(angle=0, spacing=1, dashes=(2, 1), stagger=1.5),))
    lines = hatch_lines(dashed, shapely.box(0, 0.5, 30, 20.5), 1.0)
    lengths = np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1)
    assert lengths.max() == pytest.approx(2) and lengths.sum() == pytest.approx(30 * 20 * 2 / 3, rel=0.02)
    starts = {row: lines[(lines[:, 0, 1] == row) & (lengths > 1.99), 0, 0] % 3 for row in (1.0, 2.0)}
    assert np.allclose(starts[1.0], 1.5) and np.allclose(starts[2.0] % 3, 0.0, atol=1e-9)
    # What follows the long side of an area runs along it, however that lies.
    along = shipped_hatches()["timber along"]
    layer = affinity.rotate(shapely.box(0, 0, 40, 2), 33)
    assert np.degrees(frame_of(along, layer, np.zeros(2))[0]) == pytest.approx(33)
    assert frame_of(along, shapely.box(0, 0, 2, 2), np.array([7.0, 8.0]))[0] == 0.0

    assert set(shipped_hatches()) >= {"diagonal", "crossed", "earth", "sand", "gravel", "concrete", "brick", "stone", "glass"}
    for wrong in ("[]", "{}", '{"format": "anatome-hatches", "version": 1, "hatches": [{"name": "x", "families": []}]}', "\x00"):
        path = tmp_path / "wrong.json"
        path.write_text(wrong)
        with pytest.raises(Problem, match=r"wrong\.json"):
            read_hatches(path)


def test_hatches_no_pen_can_draw_are_refused_in_files_and_cost_nothing_where_they_are(tmp_path: Path) -> None:
    def told(**family: object) -> dict[str, object]:
        hatch = {"name": "x", "families": [{"angle": 45, "spacing": 1.0, **family}]}
        return {"format": "anatome-hatches", "version": 1, "hatches": [hatch]}

    path, area = tmp_path / "x.json", shapely.box(0, 0, 100, 100)
    wrongs = (
        ({"dashes": [1, 0]}, "dash"),
        ({"dashes": [2, -3]}, "dash"),
        ({"dashes": [2, 1, 1]}, "dash"),
        ({"spacing": 0.001}, "apart"),
    )
    for wrong, says in wrongs:
        path.write_text(json.dumps(told(**wrong)))
        with pytest.raises(Problem, match=says):
            read_hatches(path)
        # A project may have it all the same: whole lines, and no more than a pen can draw.
        hatch = Hatch.model_validate(told(**wrong)["hatches"][0])  # type: ignore[index]
        assert 100 < len(hatch_lines(hatch, area, 1.0)) < 1000
    dots = Hatch(name="d", families=(Family(angle=0, spacing=0.11, dashes=(0.01, 0.01)),))
    assert len(hatch_lines(dots, area, 1.0)) < 1000


def test_looks_go_to_files_and_come_back(tmp_path: Path) -> None:
    assert len(shipped_looks()) >= 10
    for look in shipped_looks().values():
        path = tmp_path / "a.look.json"
        write_look(look, path)
        assert read_look(path) == look
    for wrong in ("", "[]", '{"format": "anatome-look", "look": {"paper": [2, 0, 0]}}', '{"look": {}}'):
        path.write_text(wrong)
        with pytest.raises(Problem, match=r"a\.look\.json"):
            read_look(path)


@pytest.mark.parametrize(
    "plane", [Plane((14, 6.2, 3), (0, -1, 0)), Plane((24.4, 5, 3), (1, 0, 0)), Plane((0, 0, 1.2), (0, 0, 1))]
)
def test_the_heavy_line_runs_round_the_whole_of_what_is_cut(boathouse: Building, plane: Plane) -> None:
    """Against shapely's own union, grown and shrunk so that rounding between neighbours does not count."""
    cut = SectionPlane(id="a", name="A", mark="A", plane=plane)
    (face,) = Cutter(boathouse).dissect([cut], np.ones(len(boathouse.elements), bool)).faces
    found = face.poche
    lines = contours(boathouse, found)
    built = found.polygons[~boathouse.context[found.element]]
    whole = shapely.union_all(shapely.buffer(built, 1e-5))

    def flat(segments: np.ndarray) -> shapely.Geometry:
        return shapely.multilinestrings(shapely.linestrings(plane.flat(segments)))

    rim = shapely.boundary(whole)
    heavy = flat(lines.heavy)
    # All of the rim is drawn heavily, and nothing heavy runs within the fill.
    assert shapely.length(shapely.difference(rim, shapely.buffer(heavy, 1e-3))) < 1e-3 * shapely.length(rim)
    inside = shapely.intersection(heavy, shapely.buffer(whole, -2e-3))
    earth = shapely.union_all(found.polygons[boathouse.earth[found.element]])
    assert shapely.length(shapely.difference(inside, shapely.buffer(shapely.boundary(earth), 1e-3))) < 2e-3 * shapely.length(rim)
    # Between two parts of one material there is no line at all; thin ones lie on borders of materials.
    borders = [
        shapely.boundary(
            shapely.union_all(shapely.buffer(found.polygons[[boathouse.elements[e].material == m for e in found.element]], 1e-5))
        )
        for m in {boathouse.elements[e].material for e in found.element}
    ]
    assert shapely.length(
        shapely.difference(flat(lines.thin), shapely.buffer(shapely.union_all(borders), 1e-3))
    ) < 2e-3 * shapely.length(rim)
    if len(lines.ends):
        assert not plane.is_level and not shapely.intersects(flat(lines.ends), shapely.buffer(whole, -1e-3))
        ended = plane.flat(lines.ends.mean(axis=1))
        assert shapely.distance(shapely.points(ended), whole).min() > 1e-3
        assert lines.ends[..., 2].min() == pytest.approx(boathouse.bounds[0, 2], abs=1e-3)


def test_light_from_the_upper_left() -> None:
    """45° to the left and asin(1/√3) high, shadows on a wall that is faced square on fall at 45° to the right and down, as
    long as what casts them stands out (the diagonal of a cube, common practice)."""
    for eye in ((0, -20, 3), (15, 8, 3), (-9, 14, 3)):
        viewport = seen(Camera(eye=eye, target=(0, 0, 3)), 1.0)
        sun = towards_sun(viewport, True, -45.0, float(np.degrees(np.arcsin(1 / np.sqrt(3)))))
        right, up, back = viewport.camera.axes
        assert np.array([sun @ right, sun @ up, sun @ back]) == pytest.approx(np.array([-1, 1, 1]) / np.sqrt(3))
    assert towards_sun(viewport, False, 90.0, 0.0) == pytest.approx((1, 0, 0), abs=1e-12)  # in the east
    assert towards_sun(viewport, False, 180.0, 60.0) == pytest.approx((0, -0.5, np.sqrt(3) / 2), abs=1e-12)  # south, high
