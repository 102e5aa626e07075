"""Drawings in the manner of a hand: how far lines stray, where they cross, that they stay the same, and how washes dry."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from anatome.linework.by_hand import RIMS, by_hand
from anatome.linework.drawing import Area, Drawing, Layer, Strokes
from anatome.look.look import MOST_WAVER, Look
from anatome.look.pens import LineKind, Pen
from helpers import astray, segments

PLACE = st.tuples(st.integers(0, 3000).map(lambda n: n / 10), st.integers(0, 2000).map(lambda n: n / 10))
FREEHAND = Look(manner="freehand", pressure=0.0)
PEN = Pen(0.18, (0.1, 0.1, 0.1))


def drawn(*lines: list[tuple[float, float]], pen: Pen = PEN, areas: tuple[Area, ...] = ()) -> Drawing:
    strokes = (Strokes("Edges", pen, tuple(np.array(line, float) for line in lines), LineKind.EDGE),)
    return Drawing("", 300, 200, 50, 0.0, (0.0, 0.0, 0.0), (Layer("Walls", areas),), strokes)


def shape(drawing: Drawing) -> shapely.MultiLineString:
    return shapely.MultiLineString([line for strokes in drawing.strokes for line in strokes.lines])


def pieces(drawing: Drawing) -> np.ndarray:
    return segments(line for strokes in drawing.strokes for line in strokes.lines)


def same(one: Drawing, other: Drawing) -> bool:
    return [line.tolist() for s in one.strokes for line in s.lines] == [line.tolist() for s in other.strokes for line in s.lines]


@settings(max_examples=40)
@given(lines=st.lists(st.lists(PLACE, min_size=2, max_size=6, unique=True), min_size=1, max_size=12), hand=st.integers(0, 9999))
def test_freehand_lines_keep_to_the_ruled_ones(lines, hand) -> None:
    """Within 0.3 mm, both ways; the same each time; each by itself whatever else is drawn."""
    look = FREEHAND.model_copy(update={"waver": MOST_WAVER, "hand": hand})
    ruled = drawn(*lines)
    made = by_hand(ruled, look)
    assert astray(pieces(made), pieces(ruled), 0.3) == astray(pieces(ruled), pieces(made), 0.3) == 0.0
    assert same(made, by_hand(ruled, look))
    pressed = by_hand(ruled, look.model_copy(update={"pressure": 1.0}))
    # Only its pens are others.
    assert astray(pieces(pressed), pieces(made), 1e-9) == astray(pieces(made), pieces(pressed), 1e-9) == 0.0
    assert shape(pressed).length == pytest.approx(shape(made).length)
    alone = by_hand(drawn([(10.0, 250.0), (90.0, 250.0)]), look)
    beside = by_hand(drawn(*lines, [(10.0, 250.0), (90.0, 250.0)]), look)
    assert any(np.array_equal(alone.strokes[0].lines[0], line) for line in beside.strokes[0].lines)


def test_a_hand_wavers_and_another_wavers_otherwise() -> None:
    lines = drawn(*([(0, y), (200, y)] for y in range(10, 200, 10)))
    one, other = (np.array(by_hand(lines, FREEHAND.model_copy(update={"hand": hand})).strokes[0].lines) for hand in (1, 2))
    off = one[:, :, 1] - one[:, :1, 1].round()
    assert (np.abs(off).max(axis=1) > 0.05).all() and np.abs(off).max() <= FREEHAND.waver and abs(off.mean()) < 0.02
    assert np.abs(one[:, :, 1] - other[:, :, 1]).max(axis=1).min() > 0.05
    # No kinks: from one place to the next it turns by a few degrees at most.
    way = np.diff(one, axis=1)
    assert np.degrees(np.abs(np.diff(np.arctan2(way[..., 1], way[..., 0]), axis=1))).max() < 8
    # Dashes stay in step, so a dashed line is one line, in its own pen.
    dashed = by_hand(
        drawn([(0, 100), (200, 100)], pen=Pen(0.13, PEN.ink, (1.6, 1.0))), FREEHAND.model_copy(update={"pressure": 1.0})
    )
    assert [s.pen.dashes for s in dashed.strokes] == [(1.6, 1.0)] and len(dashed.strokes[0].lines) == 1


def test_lines_cross_at_corners_and_nowhere_else() -> None:
    """A square of four lines, with a line that ends on the middle of a side, and a round one that has no corner."""
    square = [[(50, 50), (90, 50)], [(90, 50), (90, 90)], [(90, 90), (50, 90)], [(50, 90), (50, 50)]]
    turn = np.linspace(0, 2 * np.pi, 49)
    circle = np.column_stack([200 + 20 * np.cos(turn), 100 + 20 * np.sin(turn)])
    pieces = [[tuple(a), tuple(b)] for a, b in zip(circle[:-1].tolist(), circle[1:].tolist())]
    made = by_hand(drawn(*square, [(70, 50), (70, 70)], *pieces), Look(crossing=1.0))
    lines = [shapely.LineString(line) for line in made.strokes[0].lines]
    sides = [line for line in lines if line.length > 40 and line.bounds[2] < 150]
    assert len(sides) == 4 and all(40 + 2 * 0.6 <= line.length <= 40 + 2 * 1.4 for line in sides)
    assert [line.length for line in lines if line.bounds[0] == line.bounds[2] == 70] == [pytest.approx(20)]
    rounds = [line for line in lines if line.bounds[0] > 150]
    assert len(rounds) == 1 and rounds[0].length == pytest.approx(shapely.LineString(circle).length, rel=1e-4)
    assert by_hand(made, Look()) is made  # ruled lines are left as they are


def test_a_wash_dries_darker_at_its_edges_and_goes_over_pinholes() -> None:
    ring = np.array([(20, 20), (120, 20), (120, 90), (20, 90), (20, 20)], float)
    hole = np.array([(60, 50), (80, 50), (80, 60), (60, 60), (60, 50)], float)
    pin = np.array([(30, 30), (30, 35), (30.1, 35), (30.1, 30), (30, 30)], float)
    area = Area("w", "Wall", ((ring, hole, pin),), (0.8, 0.6, 0.5))
    layers = by_hand(drawn([(0, 0), (9, 0)], areas=(area,)), Look(wash_edge=0.5)).layers
    assert [layer.lies_over for layer in layers] == [False, True] and layers[0].areas == (area,)
    rims = [shapely.union_all([shapely.Polygon(r[0], r[1:]) for r in rim.polygons]) for rim in layers[1].areas]
    whole = shapely.Polygon(ring, [hole])
    for rim, own, (width, darker) in zip(rims, layers[1].areas, RIMS, strict=True):
        assert own.strength == pytest.approx(0.5 * darker) and max(own.fill) < 0.6
        assert rim.difference(whole).area < 1.0  # but for the pinhole
        assert rim.area == pytest.approx(whole.length * width, rel=0.15)
        assert whole.buffer(-1.5 * width).intersection(rim).area == pytest.approx(0.0, abs=1e-6)
    assert rims[0].distance(shapely.Point(30, 32)) > 5
