"""One table of pens: a picture and a drawing of the same show lines alike, in dashes, in weight and in how they recede."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from anatome.cuts.dissection import Cutter
from anatome.cuts.pieces import ShownBuilding
from anatome.linework.view_drawing import view_drawing
from anatome.look.look import Look, rgb
from anatome.look.pens import BEYOND, LineKind, LineStyle, wash_of
from anatome.render.drawings import drawing_image
from anatome.render.pictures import PictureMaker
from anatome.scenes.scene_view import View
from anatome.view.camera import standard_view
from anatome.view.viewport import Frame
from helpers import box, made_of

SIZE, PAPER = 1600, 200.0
EVEN = {"shade": False, "ground": False, "tones": (1.0, 1.0, 1.0, 1.0)}
PLAIN = Look(surfaces="white", recede=0.0, paper=rgb("#FFFFFF"), ink=rgb("#000000"), **EVEN)


def shown(view: View) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(h, w) how dark a picture and a drawing of a view are, 0 to 1, eight pixels a mm."""
    size = (SIZE, SIZE)
    picture = PictureMaker.standalone(view.opened.cut_open.building).picture(view, size, "white", 16)
    drawing = drawing_image(view_drawing(view, "x"), size, (1.0, 1.0, 1.0))
    return 1.0 - picture[..., 1] / 255.0, 1.0 - drawing[..., 1] / 255.0


def runs(dark: NDArray[np.float64]) -> tuple[float, float]:
    """Median mm of the dashes of a row and of its gaps."""
    on = (dark > 0.5 * dark.max()).astype(int)
    turns = np.flatnonzero(np.diff(on))
    sizes = np.diff(turns) / (SIZE / PAPER)
    return float(np.median(sizes[on[turns[:-1] + 1] == 1])), float(np.median(sizes[on[turns[:-1] + 1] == 0]))


def test_lines_behind_surfaces_have_the_same_dashes() -> None:
    """A sheet behind a wall, seen square on: its upper edge."""
    sheet = trimesh.Trimesh([[1, 3, 1], [9, 3, 1], [9, 3, 6], [1, 3, 6]], [[0, 1, 2], [0, 2, 3]])
    building = made_of(("wall", "IfcWall", "", box(0, 0, 0, 10, 1, 8)), ("sheet", "IfcPlate", "", sheet))
    look = PLAIN.model_copy(update={"hidden_lines": True, "edge_weight": 0.5})
    camera = standard_view("Front", building.bounds, 1.0)
    opened = ShownBuilding(Cutter(building).dissect([], np.ones(2, bool)))
    view = View(camera, opened, look, Frame(width=SIZE, height=SIZE), paper=PAPER)
    row = round(view.on_paper().pixels(np.array([[5.0, 3.0, 6.0]]))[0, 1] * SIZE / PAPER)
    left, right = (round(x * SIZE / PAPER) for x in view.on_paper().pixels(np.array([[1.5, 3, 6], [8.5, 3, 6]]))[:, 0])
    wash = wash_of(look, LineKind.HIDDEN)
    for image in shown(view):
        band = image[row - 4 : row + 5, left:right]
        across = band.sum(axis=0)
        assert runs(across) == pytest.approx(wash.dashes, abs=0.16)
        # Ink across a dash: its weight, as strong as the table says.
        assert np.percentile(across, 90) / (SIZE / PAPER) == pytest.approx(wash.weight * wash.strength, rel=0.15)


def test_lines_recede_and_are_hazy_alike() -> None:
    """Posts one behind the other, seen square on: the farthest are thinner and lighter by as much in both."""
    posts = [(f"p{i}", "IfcColumn", "", box(3 * i, 4 * i, 0, 3 * i + 1, 4 * i + 1, 6)) for i in range(6)]
    building = made_of(*posts)
    look = PLAIN.model_copy(update={"recede": 1.0, "haze": 0.5, "edge_weight": 0.5, "silhouette_weight": 0.5})
    camera = standard_view("Front", building.bounds, 1.0)
    opened = ShownBuilding(Cutter(building).dissect([], np.ones(6, bool)))
    view = View(camera, opened, look, Frame(width=SIZE, height=SIZE), paper=PAPER)
    at = view.on_paper().pixels(np.array([[3.0 * i, 4.0 * i, 3.0] for i in range(6)])) * SIZE / PAPER
    picture, drawing = shown(view)
    found = [[float(image[int(y), int(x) - 6 : int(x) + 7].sum()) for x, y in at] for image in (picture, drawing)]
    away = 4.0 * np.arange(6) / 21.0  # of the depth of all
    for inks, places in ((found[0], away), (found[1], (np.floor(5 * away) + 0.5) / 5)):  # the drawing has five steps
        washes = [wash_of(look, LineKind.EDGE, away=float(place)) for place in places]
        assert inks == pytest.approx([wash.weight * wash.strength * SIZE / PAPER for wash in washes], rel=0.12)


@settings(max_examples=100)
@given(st.sampled_from(BEYOND), st.floats(0, 1), st.floats(0, 1), st.floats(0, 1), st.floats(0, 1))
def test_what_lies_farther_off_is_never_heavier_or_darker(kind: LineKind, recede: float, haze: float, a: float, b: float) -> None:
    look = Look(recede=recede, haze=haze)
    near, far = (wash_of(look, kind, away=away) for away in sorted((a, b)))
    assert 0 < far.weight <= near.weight and 0 < far.strength <= near.strength <= 1
    own = wash_of(look, kind, LineStyle(1.0, (1.0, 0.0, 0.0)), away=a)
    assert own.colour == (1.0, 0.0, 0.0) and own.weight >= wash_of(look, kind, away=a).weight


def test_the_order_of_kinds_is_that_of_weights_and_of_layers() -> None:
    """Round the cut heaviest, silhouettes before edges (common practice); what lies over what is that order too."""
    look = Look()
    weights = [wash_of(look, kind).weight for kind in (LineKind.EDGE, LineKind.SILHOUETTE, LineKind.ROUND)]
    assert weights == sorted(weights) and len(set(weights)) == 3
    assert [kind for kind in LineKind if kind.is_of_cut] == [LineKind.BETWEEN, LineKind.ROUND] == list(LineKind)[-2:]
    for kind in (LineKind.BETWEEN, LineKind.ROUND, LineKind.HATCH):
        assert wash_of(look, kind, away=1.0) == wash_of(look, kind)
