"""What looks make of what lies beyond the cut: patterns, haze, lines that recede or are hidden, glass, rules, and two looks."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import trimesh
from test_looks_drawn import PLAIN

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.plane import Plane
from anatome.look.divide import Dissolve, Divide
from anatome.look.hatches import Family, Hatch
from anatome.look.laying import laid_at, part_axis, with_place
from anatome.look.look import Look, Rule, rgb
from anatome.look.shipped import shipped_looks
from anatome.look.styles import resolve
from anatome.model.building import Building, Space
from anatome.model.selection import Selection
from anatome.problems import Problem
from anatome.render.passes import passes_steps
from anatome.render.pictures import PictureMaker
from anatome.scenes.scene_view import View
from anatome.view.camera import Camera
from anatome.view.viewport import Viewport
from helpers import box, made_of

SIZE = (600, 600)
ACROSS = 3.0
FRONT = Camera(eye=(0, -ACROSS / 2 / np.tan(np.radians(10)), 0), target=(0, 0, 0), projection="parallel", field=20.0)
"""Shows three metres square, 5 mm a pixel."""
FLAT = PLAIN.model_copy(update={"tones": (1.0, 1.0, 1.0, 1.0), "recede": 0.0})


def picture(building: Building, look: Look, samples: int = 4, camera: Camera = FRONT, cuts: tuple[Plane, ...] = ()) -> np.ndarray:
    """(h, w, 3) 0..255 on white."""
    planes = [SectionPlane(id=str(i), name="A", mark="A", plane=plane) for i, plane in enumerate(cuts)]
    opened = ShownBuilding(Cutter(building).dissect(planes, np.ones(len(building.elements), bool)))
    return PictureMaker.standalone(building).picture(View(camera, opened, look), SIZE, "white", samples)[..., :3].astype(int)


@pytest.mark.parametrize(("pattern", "across"), [("boards upright", 0.145), ("wall tiles", 0.15)])
def test_patterns_lie_at_their_real_size(pattern: str, across: float) -> None:
    """The strongest wave of a row of the picture, by its Fourier transform, in metres of the model."""
    wall = made_of(("a", "IfcWall", "", box(-4, -1, -4, 4, 1, 4)))
    rule = Rule(who=Selection(types=frozenset({"IfcWall"})), pattern=pattern)
    shown = picture(wall, FLAT.model_copy(update={"rules": (rule,), "pattern_ink": 1.0}))
    rows = 255.0 - shown[:, :, 1].mean(axis=0)
    waves = np.abs(np.fft.rfft(rows - rows.mean(), 1 << 14))
    waves[:20] = 0
    base = np.flatnonzero(waves > 0.6 * waves.max())[0]
    assert (1 << 14) / base * ACROSS / SIZE[0] == pytest.approx(across, rel=0.03)
    assert np.ptp(picture(wall, FLAT)) == 0  # and without the rule it is plain


LAID = {
    "face": {},
    "turned": {"lay_turn": 25.0, "lay_scale": 1.6, "lay_shift": (0.13, -0.07)},
    "box": {"lay_by": "box"},
    "part": {"lay_by": "part", "lay_shift": (0.05, 0.2)},
}


@pytest.mark.parametrize("name", list(LAID))
def test_patterns_lie_on_each_side_as_they_are_laid(name: str) -> None:
    """A turned block from a corner: lines are where the places of its three sides say, and nowhere else."""
    block = box(-0.9, -0.5, -0.6, 0.9, 0.5, 0.6)
    turn = np.radians(20.0)
    block.apply_transform(trimesh.transformations.rotation_matrix(turn, (0, 0, 1)))
    building = made_of(("a", "IfcWall", "", block))
    grid = Hatch(name="grid", unit="m", families=(Family(angle=0, spacing=0.31), Family(angle=90, spacing=0.47)))
    rule = Rule(who=Selection(types=frozenset({"IfcWall"})), pattern="grid", **LAID[name])
    look = FLAT.model_copy(update={"rules": (rule,), "hatches": (grid,), "pattern_ink": 1.0, "hatch_weight": 0.35})
    back = np.array([1.0, -1.6, 1.1])
    camera = Camera(eye=tuple(9.0 * back / np.linalg.norm(back)), target=(0, 0, 0), projection="parallel", field=18.0)
    shown = 255.0 - picture(building, look, camera=camera)[..., 1]
    styles, centre = resolve(look, building), building.centre
    laying, axis = styles.layings[styles.laying[0]], part_axis(building, 0)
    level = float(building.level_turn[0])
    assert abs(level - turn) < 1e-6
    c, s = np.cos(turn), np.sin(turn)
    axes = np.array([[c, s, 0], [-s, c, 0], [0, 0, 1.0]])
    half = np.array([0.9, 0.5, 0.6])
    viewport = Viewport.of(camera, *SIZE)
    corners = []
    for side, sign in ((0, 1.0), (1, -1.0), (2, 1.0)):
        normal = sign * axes[side]
        on, off = [], []
        first, second = (a for a in range(3) if a != side)
        for u, v in np.random.default_rng(1).uniform(-0.93, 0.93, (6000, 2)):
            place = normal * half[side] + axes[first] * half[first] * u + axes[second] * half[second] * v
            x, y = laid_at(laying, place - centre, normal, level, axis)
            away = min(abs((y / 0.31 + 0.5) % 1 - 0.5) * 0.31, abs((x / 0.47 + 0.5) % 1 - 0.5) * 0.47) * laying.scale
            column, row = viewport.pixels(place).astype(int)
            (on if away < 0.001 else off if away > 0.03 else []).append(shown[row, column])
        assert len(on) > 20 and np.mean(on) > 90 and np.mean(off) < 12, (name, side)
        corner = axes @ np.array([0.0, 0.0, 0.0]) + axes[0] * half[0] - axes[1] * half[1] + axes[2] * 0.1
        corners.append(laid_at(laying, corner - centre, normal, level, axis))
    if name == "box":
        assert corners[0] == pytest.approx(corners[1])  # joints go on round the corner
    there = laid_at(laying, np.array([0.2, 0.3, 0.6]), axes[2], level, axis)
    moved = with_place(replace(laying, scale=3.0), np.array([0.2, 0.3, 0.6]), there, axes[2], level, axis)
    assert laid_at(moved, np.array([0.2, 0.3, 0.6]), axes[2], level, axis) == pytest.approx(there)


def test_rooms_of_one_use_have_one_colour_and_furniture_none() -> None:
    """A floor under three rooms, seen from above: the first and last are of one use, beside them is none."""
    floor = made_of(
        ("floor", "IfcSlab", "", box(-1.4, -1, -0.2, 1.4, 1, 0)), ("bed", "IfcFurniture", "", box(-1.1, 0.1, 0, -0.7, 0.5, 0.4))
    )
    rooms = tuple(
        Space(name, name, None, (x, -0.6, 0.0), (x + 0.8, 0.6, 2.5), use)
        for name, x, use in (("Bedroom 1", -1.3, "Bedroom"), ("Bath", -0.4, "Bath"), ("Bedroom 2", 0.5, "Bedroom"))
    )
    above = Camera(
        eye=(0, 0, ACROSS / 2 / np.tan(np.radians(10))), target=(0, 0, 0), up=(0, 1, 0), projection="parallel", field=20.0
    )
    shown = picture(replace(floor, spaces=rooms), FLAT.model_copy(update={"surfaces": "by use"}), camera=above)

    def at(x: float, y: float) -> tuple[int, ...]:
        return tuple(shown[round(300 - y * 200), round(300 + x * 200)])

    assert at(-0.9, -0.3) == at(0.9, 0.0) != at(0.0, 0.0)
    assert np.ptp(at(0.0, 0.0)) > 12 < np.ptp(at(0.9, 0.0))
    assert at(-0.9, 0.3) == at(0.9, 0.8) and min(at(0.9, 0.8)) > 250


def test_edges_have_the_weight_and_the_colour_a_rule_says() -> None:
    """Two boxes in front of white, one by a rule with thick red edges; measured across an upright edge, 2 px are a millimetre."""
    two = made_of(("a", "IfcWall", "", box(-1.2, 0, -1, -0.2, 1, 1)), ("b", "IfcWall", "", box(0.2, 0, -1, 1.2, 1, 1)))
    rule = Rule(who=Selection(elements=frozenset({"b"})), line_weight=2.0, line_colour=rgb("#C00000"))
    look = FLAT.model_copy(
        update={"surfaces": "white", "edges": True, "edge_weight": 1.0, "silhouette_weight": 1.0, "rules": (rule,)}
    )
    shown = picture(two, look, 8)
    plain, ruled = shown[300, 50:80], shown[300, 330:350]
    millimetre = SIZE[1] / 210
    assert (255 - plain[:, 1]).sum() / (255 - look.ink[1] * 255) / millimetre == pytest.approx(1.0, abs=0.12)
    assert (255 - ruled[:, 1]).sum() / 255 / millimetre == pytest.approx(2.0, abs=0.15)
    assert abs(ruled[ruled[:, 1].argmin()] - [192, 0, 0]).max() < 6
    own = picture(two, look.model_copy(update={"rules": (), "line_colour": rgb("#2040C0")}), 8)[300, 50:80]
    assert abs(own[own[:, 0].argmin()] - [32, 64, 192]).max() < 6


def test_haze_and_receding_lines_tell_the_near_from_the_far() -> None:
    """Two equal dark boxes, one far behind the other: the far one is nearer to the paper, its edges are thinner and lighter."""
    two = made_of(
        ("near", "IfcWall", "", box(-1.2, 0, -0.5, -0.2, 1, 0.5)), ("far", "IfcWall", "", box(0.2, 29, -0.5, 1.2, 30, 0.5))
    )
    dark = Rule(who=Selection(types=frozenset({"IfcWall"})), surface=rgb("#404040"))
    clear = FLAT.model_copy(update={"rules": (dark,), "paper": rgb("#FFFFFF")})
    near, far = np.s_[250:350, 120:200], np.s_[250:350, 400:480]
    shown, hazy = picture(two, clear), picture(two, clear.model_copy(update={"haze": 0.5}))
    assert shown[near].mean() == pytest.approx(shown[far].mean(), abs=0.5)
    assert hazy[far].mean() == pytest.approx(0x40 + (255 - 0x40) * 0.5, abs=4) and hazy[near].mean() < 0x40 + 8
    white = FLAT.model_copy(update={"edges": True, "edge_weight": 1.0, "silhouette_weight": 1.0, "recede": 1.0})
    lines = 255 - picture(two, white)[..., 1]
    assert 0.2 < lines[near[0], 520:560].sum() / lines[near[0], 40:80].sum() < 0.6


def test_hidden_lines_are_dashed_and_only_on_request() -> None:
    """A box behind a wall: nothing of it is seen, or its outline in dashes."""
    hidden = made_of(("wall", "IfcWall", "", box(-2, 0, -2, 2, 0.2, 2)), ("box", "IfcWall", "", box(-0.8, 1, -0.8, 0.8, 2, 0.8)))
    look = FLAT.model_copy(update={"edges": True, "edge_weight": 0.5})
    without, shown = picture(hidden, look), picture(hidden, look.model_copy(update={"hidden_lines": True}))
    at = round(300 - 0.8 / ACROSS * 600)
    line = 255 - shown[at - 2 : at + 3, 160:440, 1].min(axis=0)
    assert np.ptp(without[60:540, 60:540]) == 0
    dark = line > 60
    assert 0.35 < dark.mean() < 0.8 and (np.diff(dark.astype(int)) == 1).sum() > 8


def test_rules_make_parts_clear_or_bare_and_glass_shows_the_sky() -> None:
    front, back = ("front", "IfcWall", "", box(-1, 0, -1, 1, 0.2, 1)), ("back", "IfcSlab", "", box(-0.4, 2, -0.4, 0.4, 3, 0.4))
    both = made_of(front, back)
    black = Rule(who=Selection(types=frozenset({"IfcSlab"})), surface=rgb("#000000"))
    white = Rule(who=Selection(elements=frozenset({"front"})), surface=rgb("#FFFFFF"))
    look = FLAT.model_copy(update={"rules": (black, white), "reflections": 0.0})
    middle = np.s_[280:320, 280:320]
    assert picture(both, look)[middle].mean() > 250
    half = look.model_copy(update={"rules": (black, white, Rule(who=white.who, clear=0.5))})
    # The white of the front covers half of the black behind it, once for each of its two faces that are seen through.
    seen = picture(both, half)[middle].mean()
    assert 100 < seen < 200
    assert picture(both, half.model_copy(update={"reflections": 1.0}))[middle].mean() > seen + 5
    off = look.model_copy(update={"rules": (black, white, Rule(who=white.who, clear=0.5, on=False))})
    assert picture(both, off)[middle].mean() > 250
    edged = look.model_copy(update={"edges": True, "edge_weight": 1.0})
    bare = edged.model_copy(update={"rules": (black, white, Rule(who=white.who, lines=False))})
    outline = np.s_[100:104, 150:450]
    assert (picture(both, edged)[98:104, 150:450] < 90).any() and (picture(both, bare)[outline] > 245).all()


def test_what_is_cut_away_may_go_on_shading() -> None:
    """A roof that a level cut takes: the floor under it is light, or as dark as if the roof stood."""
    house = made_of(("floor", "IfcSlab", "", box(-3, -3, -0.2, 3, 3, 0)), ("roof", "IfcRoof", "", box(-1, -1, 2, 1, 1, 2.2)))
    above = Camera(eye=(0, 0, 20), target=(0, 0, 0), up=(0, 1, 0), projection="parallel", field=20.0)
    look = FLAT.model_copy(update={"shadows": 0.5, "sun_with_view": False, "sun_height": 90.0, "sun_size": 0.2})
    cut = (Plane((0, 0, 1), (0, 0, 1)),)
    light = picture(house, look, 6, above, cut)
    dark = picture(house, look.model_copy(update={"unseen_shade": True}), 6, above, cut)
    assert light[300, 300, 1] == light[20, 20, 1] and dark[300, 300, 1] == pytest.approx(0.5 * light[300, 300, 1], abs=4)
    assert dark[20, 20, 1] == light[20, 20, 1]


@pytest.mark.parametrize("share", [0.0, 0.25, 1.0])
def test_one_look_dissolves_into_another(boathouse: Building, share: float) -> None:
    """Each pixel is that share of the way from one picture to the other."""
    opened = ShownBuilding(Cutter(boathouse).dissect([], np.ones(len(boathouse.elements), bool)))
    camera, looks, size = Camera(eye=(14, -40, 9), target=(14, 6.2, 4), field=40.0), shipped_looks(), (320, 200)
    calm, other = looks["Calm section"], looks["Night blue"]
    maker = PictureMaker.standalone(boathouse)
    one, two = (maker.picture(View(camera, opened, look), size, "white", 2)[..., :3].astype(float) for look in (calm, other))
    view = View(camera, opened, calm, dissolve=Dissolve(other, share))
    between = maker.picture(view, size, "white", 2)[..., :3]
    assert np.abs(one - two).max() > 60 and np.abs(between - (one + (two - one) * share)).max() <= 2


@pytest.mark.parametrize("by", ["line", "depth", "parts"])
def test_two_looks_register(boathouse: Building, by: str) -> None:
    """On either side the picture is that of its look alone, to the pixel, but along the divide itself."""
    cut = SectionPlane(id="a", name="A", mark="A", plane=Plane((14, 6.2137, 3), (0, -1, 0)))
    opened = ShownBuilding(Cutter(boathouse).dissect([cut], np.ones(len(boathouse.elements), bool)))
    camera = Camera(eye=(14, -40, 4), target=(14, 6.2, 4), field=40.0)
    looks = shipped_looks()
    calm, other = looks["Calm section"], looks["Night blue"]
    line = ((14.0, 6.2, -6.0), (14.0, 6.2, 14.0))
    walls = Selection(types=frozenset({"IfcWall"}))
    divide = Divide(other=other, by=by, line=line, depth=46.3, parts=walls)  # type: ignore[arg-type]
    maker, size = PictureMaker.standalone(boathouse), (480, 320)
    view = View(camera, opened, calm)
    one, two = (maker.picture(View(camera, opened, look), size, "paper", 3)[..., :3].astype(int) for look in (calm, other))
    both = maker.picture(View(camera, opened, calm, divide=divide), size, "paper", 3)[..., :3].astype(int)
    from_one, from_two = (np.abs(both - alone).max(axis=2) <= 2 for alone in (one, two))
    if by == "line":
        assert from_one[:, :238].all() and from_two[:, 242:].all() and not from_one[:, 242:].all()
    else:
        assert (from_one | from_two).mean() > (0.97 if by == "depth" else 0.8)
        assert (from_one & ~from_two).mean() > 0.05 and (from_two & ~from_one).mean() > 0.05
    with pytest.raises(Problem, match="two looks"):
        next(passes_steps(maker.renderer, View(view.camera, opened, calm, divide=divide), size, ("depth",)))
