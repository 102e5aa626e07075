"""Lines that are drawn or left out on request: one plane and material, ghosts, two looks in one picture."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.plane import Plane
from anatome.cuts.reach import Reach
from anatome.linework.divided import sides
from anatome.linework.drawing import TONES, Drawing
from anatome.linework.feature_lines import feature_lines
from anatome.linework.one_plane import left_of_stretches
from anatome.linework.view_drawing import view_drawing
from anatome.look.divide import Divide
from anatome.look.look import Look
from anatome.look.pens import LineKind
from anatome.look.styles import resolve
from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.scenes.opened import opened
from anatome.scenes.project import StageState
from anatome.scenes.scene_view import View
from anatome.view.camera import Camera, standard_view
from anatome.view.viewport import Frame
from helpers import box, made_of

PLAIN = Look(surfaces="white", recede=0.0, join_planes=True)
SQUARE = Frame(width=600.0, height=600.0)
PAPER = 300.0


def length_of(drawing: Drawing) -> float:
    """Mm of all strokes."""
    return sum(float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum()) for kind in drawing.strokes for line in kind.lines)


def front(building: Building, look: Look, shown: list[bool] | None = None, cuts: tuple[SectionPlane, ...] = ()) -> float:
    """Metres of lines in an elevation."""
    there = np.ones(len(building.elements), bool) if shown is None else np.array(shown)
    camera = standard_view("Front", building.bounds, 1.0)
    found = ShownBuilding(Cutter(building).dissect(list(cuts), there))
    return length_of(view_drawing(View(camera, found, look, SQUARE, paper=PAPER), "")) * camera.height / PAPER


def walls(*materials: str) -> Building:
    """Cubes of a metre in a row, the first two with their fronts in one plane, the third behind it by a hand."""
    places = ((0, 0), (1, 0), (2, 0.1))
    parts = [(f"w{i}", "IfcWall", m, box(x, y, 0, x + 1, y + 1, 1)) for i, ((x, y), m) in enumerate(zip(places, materials))]
    return made_of(*parts)


def test_one_plane_and_material_has_no_line_between() -> None:
    """Elevations of cubes, counted by hand: the outline of three is 8 m, and each line between them one more."""
    same = walls("brick", "brick", "brick")
    assert front(same, PLAIN) == pytest.approx(8 + 1, rel=1e-6)  # the third stands back, and its line stays
    assert front(same, PLAIN.model_copy(update={"join_planes": False})) == pytest.approx(8 + 2, rel=1e-6)
    assert front(walls("brick", "oak", "brick"), PLAIN) == pytest.approx(8 + 2, rel=1e-6)
    assert front(same, PLAIN, [True, False, True]) == pytest.approx(2 * 4, rel=1e-6)  # the neighbour is hidden
    only = Reach(mode="only", what=Selection(elements=frozenset({"w0"})))
    taken = SectionPlane(id="a", name="a", mark="A", plane=Plane(origin=(1.5, 0, 0), normal=(-1, 0, 0)), reach=only)
    assert front(same, PLAIN, cuts=(taken,)) == pytest.approx(6 + 1, rel=1e-6)  # the neighbour is cut away


def test_part_of_a_side_is_shared() -> None:
    """A wall that butts on the side of a longer one: only where they touch is there no line on the plane of their tops."""
    building = made_of(("a", "IfcWall", "", box(0, 0, 0, 4, 1, 1)), ("b", "IfcWall", "", box(1, 1, 0, 2, 3, 1)))
    camera = standard_view("Top", building.bounds, 1.0)
    view = View(camera, ShownBuilding(Cutter(building).dissect([], np.ones(2, bool))), PLAIN, SQUARE, paper=PAPER)
    assert length_of(view_drawing(view, "")) * camera.height / PAPER == pytest.approx(10 + 6 - 2, rel=1e-6)


@given(st.lists(st.tuples(st.integers(0, 4), st.floats(0, 1), st.floats(0, 1)), max_size=12))
@settings(max_examples=60, deadline=None)
def test_what_is_left_of_stretches_and_they_make_the_whole(told: list[tuple[int, float, float]]) -> None:
    lines = [
        shapely.union_all([shapely.LineString([(min(a, b), 0), (max(a, b), 0)]) for i, a, b in told if i == n]) for n in range(5)
    ]
    own = [
        (n, p.bounds[0], p.bounds[2])
        for n in range(5)
        for p in shapely.get_parts(shapely.line_merge(lines[n]))
        if p.length > 1e-6
    ]
    of, stretch = np.array([i for i, _, _ in own], np.int64), np.array([(a, b) for _, a, b in own]).reshape(-1, 2)
    order = np.lexsort((stretch[:, 0], of))
    rest, gaps = left_of_stretches(5, of[order], stretch[order])
    for n in range(5):
        covered = (gaps[rest == n] @ [-1, 1]).sum() + (stretch[of == n] @ [-1, 1]).sum()
        assert covered == pytest.approx(1.0, abs=1e-6)


def two_storeys() -> Building:
    return made_of(
        ("house", "IfcWall", "", box(0, 0, 0, 4, 3, 3)),
        ("roof", "IfcRoof", "", box(-0.5, -0.5, 3, 4.5, 3.5, 3.4)),
        ("shed", "IfcSlab", "", box(6, 0, 0, 8, 2, 2)),
    )


def test_ghosts_are_dotted_and_hide_nothing() -> None:
    building = two_storeys()
    camera = standard_view("Axonometric, front left", building.bounds, 1.0)
    hidden = frozenset({building.elements[1].id})

    def drawn(ghosts: bool) -> Drawing:
        state = StageState(camera=camera, hidden=hidden, ghosts=ghosts, look=PLAIN)
        return view_drawing(View(camera, opened(Cutter(building), state), PLAIN, SQUARE, paper=PAPER), "")

    without, with_ghosts = drawn(False), drawn(True)
    own = [s for s in with_ghosts.strokes if s.name.startswith("Ghosts")]
    assert own and all(s.pen.dashes for s in own)
    rest = [s for s in with_ghosts.strokes if not s.name.startswith("Ghosts")]
    assert sum(len(s.lines) for s in rest) == sum(len(s.lines) for s in without.strokes)
    state = StageState(camera=camera, hidden=hidden, ghosts=True, look=PLAIN)
    shown = opened(Cutter(building), state)
    lines = feature_lines(shown, PLAIN, resolve(PLAIN, building), View(camera, shown, PLAIN, SQUARE).on_paper())
    assert set(lines.element[lines.kind == LineKind.GHOST].tolist()) == {1}


DIVIDES = {
    "line": Divide(other=PLAIN, by="line", line=((1.7, 0.0, 0.0), (2.6, 0.0, 3.0))),
    "depth": Divide(other=PLAIN, by="depth", depth=0.0),
    "parts": Divide(other=PLAIN, by="parts", parts=Selection(elements=frozenset({"roof"}))),
}


@pytest.mark.parametrize("by", DIVIDES)
@pytest.mark.parametrize("perspective", [False, True])
def test_two_looks_share_all_there_is_between_them(by: str, perspective: bool) -> None:
    """With the same look on either side nothing is drawn twice, and nothing is missing; with another, each has its own lines."""
    building = two_storeys()
    camera = standard_view("Axonometric, front left", building.bounds, 1.0)
    if perspective:
        camera = Camera(eye=(-6, -9, 5), target=(3, 1, 1.5))
    cut = SectionPlane(id="a", name="a", mark="A", plane=Plane(origin=(0, 1.0, 0), normal=(0, -1, 0)))
    found = ShownBuilding(Cutter(building).dissect([cut], np.ones(3, bool)))
    divide = DIVIDES[by]
    if by == "depth":
        middle = float(View(camera, found, PLAIN, SQUARE).on_paper().flat(np.array([3.0, 1.5, 1.0]))[1])
        divide = divide.model_copy(update={"depth": middle})
    whole = view_drawing(View(camera, found, PLAIN, SQUARE, paper=PAPER), "", tones=True)

    def divided(other: Look) -> Drawing:
        made = divide.model_copy(update={"other": other})
        return view_drawing(View(camera, found, PLAIN, SQUARE, paper=PAPER, divide=made), "", tones=True)

    def area(drawing: Drawing) -> float:
        shapes = [shapely.Polygon(r[0], r[1:]) for x in drawing.layers for a in x.areas for r in a.polygons]
        return float(shapely.union_all(shapely.make_valid(np.array(shapes)), grid_size=1e-3).area)

    same = divided(PLAIN)
    assert length_of(same) == pytest.approx(length_of(whole), rel=2e-4)
    assert area(same) == pytest.approx(area(whole), rel=2e-3)
    heavy = divided(PLAIN.model_copy(update={"edge_weight": 1.0, "paper": (0.9, 0.8, 0.8)}))
    there = [s for s in heavy.strokes if s.name.endswith("other look") and s.pen.weight >= 1.0]
    assert there and any(not s.name.endswith("other look") and s.pen.weight < 0.5 for s in heavy.strokes)
    assert {layer.name for layer in heavy.layers} >= {TONES} and (heavy.layers[0].name == "Paper") == (by == "line")
    pair = sides(divide, View(camera, found, PLAIN, SQUARE, paper=PAPER).on_paper(), building)
    assert pair is not None
    if by != "parts":  # every place is on one side or the other
        places = np.random.default_rng(1).uniform(-3, 9, (100, 3))
        first, other = pair[0].values(places), pair[1].values(places)
        assert first is not None and other is not None and (np.sign(first) == -np.sign(other)).all()
