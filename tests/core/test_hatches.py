"""Hatches read from files, drawn as lines, thinned out, and in the manner of rules; against ezdxf's own drawing of patterns."""

from __future__ import annotations

import json
import math
from pathlib import Path

import ezdxf
import numpy as np
import pytest
import shapely
from ezdxf.render import hatching
from ezdxf.tools import pattern
from hypothesis import given
from hypothesis import strategies as st

from anatome.formats.hatch_files import read_hatches
from anatome.look.hatch_lines import hatch_lines, hatch_rows, level_on_paper
from anatome.look.hatches import LEAST, Family, Hatch, Tile
from anatome.look.look import Look, Rule
from anatome.look.styles import resolve
from anatome.model.selection import Selection
from anatome.problems import Problem
from helpers import box, made_of

EXAMPLES = Path(__file__).parents[2] / "docs" / "examples"
AREA = shapely.box(-7.0, -4.0, 33.0, 21.0)
DOT = 0.2
"""Longer than any dot is drawn, in mm."""


def drawn_by_ezdxf(definition) -> np.ndarray:
    """(n, 2, 2) the lines of a pattern in AREA, as ezdxf draws a hatch of it."""
    hatch = ezdxf.new().modelspace().add_hatch()
    hatch.paths.add_polyline_path(shapely.get_coordinates(AREA)[:-1], is_closed=True)
    hatch.set_pattern_fill("OWN", definition=definition)
    return np.array([[tuple(start), tuple(end)] for start, end in hatching.hatch_entity(hatch)], float)[..., :2]


def profile(lines: np.ndarray, way: np.ndarray) -> np.ndarray:
    """Where lines lie along a direction, with what they weigh there: for comparing two drawings of one pattern."""
    middles, lengths = lines.mean(axis=1) @ way, np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1)
    return np.histogram(middles, bins=40, range=(-30, 40), weights=lengths)[0]


@pytest.mark.parametrize("name", ["CLINKER", "ROPE", "REED", "BOND", "MORTAR"])
def test_patterns_of_hatch_files_are_drawn_as_ezdxf_draws_them(name: str) -> None:
    """The same lengths of lines at the same places; dots, which it draws as points, are counted."""
    definition = pattern.parse((EXAMPLES / "boathouse.pat").read_text())[name]
    theirs = drawn_by_ezdxf(definition)
    (hatch,) = [h for h in read_hatches(EXAMPLES / "boathouse.pat") if h.name == name.lower()]
    ours = hatch_lines(hatch, AREA, 1.0)
    theirs_long = np.linalg.norm(theirs[:, 1] - theirs[:, 0], axis=1) > DOT
    ours_long = np.linalg.norm(ours[:, 1] - ours[:, 0], axis=1) > DOT
    for way in np.array([[1.0, 0.0], [0.0, 1.0], [0.6, 0.8], [-0.8, 0.6]]):
        a, b = profile(ours[ours_long], way), profile(theirs[theirs_long], way)
        assert np.abs(a - b).sum() <= 0.03 * max(b.sum(), 1.0) + 3.0, name
    dots, their_dots = (~ours_long).sum(), (~theirs_long).sum()
    assert dots == pytest.approx(their_dots, rel=0.12, abs=14)


@given(
    st.floats(-179, 179), st.floats(0.6, 5), st.floats(-5, 5), st.tuples(st.floats(-3, 3), st.floats(-3, 3)),
    st.lists(st.floats(0.3, 4), min_size=2, max_size=6).filter(lambda d: len(d) % 2 == 0),
)  # fmt: skip
def test_a_family_says_what_its_line_in_a_hatch_file_says(angle, apart, later, base, dashes) -> None:
    """Rows without end, as files for draughting have them: place, way to the next and dashes come back as they were given."""
    told = ",".join(f"{d if i % 2 == 0 else -d:.9f}" for i, d in enumerate(dashes))
    text = f"*ONE, One\n{angle:.9f}, {base[0]:.9f},{base[1]:.9f}, {later:.9f},{apart:.9f}, {told}\n"
    path = Path(f"/tmp/anatome hatch {abs(hash(text))}.pat")
    path.write_text(";%UNITS=MM\n" + text)
    (hatch,) = read_hatches(path)
    path.unlink()
    ((at, along, step, drawn),) = hatch_rows(hatch, AREA, 1.0)
    way = np.array([math.cos(math.radians(angle)), math.sin(math.radians(angle))])
    assert along == pytest.approx(way, abs=1e-9) and drawn == pytest.approx(dashes)
    assert step == pytest.approx(later * way + apart * np.array([-way[1], way[0]]), abs=1e-6)
    off = np.array(at) - base
    period = sum(dashes)
    assert abs(off @ [-way[1], way[0]]) < 1e-6 and abs((off @ way + period / 2) % period - period / 2) < 1e-6


def test_a_drawing_is_a_tile_as_large_as_it_says() -> None:
    (ripple,), (boats,) = read_hatches(EXAMPLES / "ripple.svg"), read_hatches(EXAMPLES / "boats.svg")
    assert ripple.tile.size == (8.0, 4.0) and boats.tile.size == pytest.approx((10.0, 6.0))
    assert {len(stroke) for stroke in boats.tile.strokes} >= {5, 2, 3}
    # The lines of one tile come again in every one: four times as many in four, and the upper edge of a sail is up.
    one, four = (hatch_lines(boats, shapely.box(0, 0, 10 * n, 6 * n), 1.0) for n in (1, 2))
    length = np.linalg.norm(one[:, 1] - one[:, 0], axis=1).sum()
    assert np.linalg.norm(four[:, 1] - four[:, 0], axis=1).sum() == pytest.approx(4 * length)
    assert length == pytest.approx(boats.tile.length, rel=1e-6)
    assert one[..., 1].max() == pytest.approx(5.1, abs=0.02)  # the buoy's top: 60 − 9 of 60, in tenths
    turned = boats.model_copy(update={"turn": 90.0, "shift": (1.0, 0.0)})
    again = hatch_lines(turned, shapely.box(-30, -30, 30, 30), 1.0)
    assert np.linalg.norm(again[:, 1] - again[:, 0], axis=1).sum() == pytest.approx(3600 / 60 * length, rel=0.05)


@pytest.mark.parametrize(
    ("name", "content", "says"),
    [
        ("a.pat", "*X, x\nnothing, 0,0, 0,1\n", "pattern"),
        ("a.pat", "; only words\n", "no pattern"),
        ("a.pat", "*X, x\n0, 0,0, 1,0\n", "apart"),
        ("a.svg", "<svg", "SVG"),
        ("a.svg", '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 5 5"/>', "no lines"),
        ("a.svg", '<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0 L1 1"/></svg>', "how large"),
        ("a.svg", '<!DOCTYPE x [<!ENTITY e SYSTEM "file:///etc/passwd">]><svg xmlns="http://www.w3.org/2000/svg" '
         'viewBox="0 0 5 5"><text>&e;</text></svg>', "no lines"),
    ],
)  # fmt: skip
def test_what_holds_no_hatch_is_refused_in_words(tmp_path: Path, name: str, content: str, says: str) -> None:
    path = tmp_path / name
    path.write_text(content)
    with pytest.raises(Problem, match=rf"{name}.*{says}"):
        read_hatches(path)


@given(st.floats(0.001, 5.0), st.floats(0.001, 20.0))
def test_what_would_be_too_dense_is_thinned_out(spacing: float, unit: float) -> None:
    """By a power of two, no more than it takes."""
    hatch = Hatch(name="h", families=(Family(angle=0, spacing=spacing), Family(angle=90, spacing=3 * spacing)))
    times = hatch.thinning(unit)
    assert times >= 1 and math.log2(times) == round(math.log2(times))
    assert spacing * unit * times >= LEAST * (1 - 1e-6) or spacing * unit * times >= spacing * unit
    assert times == 1 or spacing * unit * times < 2 * LEAST * (1 + 1e-6)
    lines = hatch_lines(hatch, shapely.box(0, 0, 40, 40), unit)
    assert len(lines) <= 40 / LEAST + 40 / (3 * LEAST) + 4
    tile = Hatch(name="t", tile=Tile(size=(0.1, 0.1), strokes=(((0, 0), (0.1, 0.1)),)))
    assert tile.thinning(1.0) == 8.0


def test_rules_say_how_an_element_has_its_hatch() -> None:
    """Later ones over earlier ones, each thing only if it is said; a hatch of the look stays as it is for all others."""
    building = made_of(("a", "IfcWall", "Brick", box(0, 0, 0, 1, 1, 1)), ("b", "IfcWall", "Brick", box(2, 0, 0, 3, 1, 1)))
    all_walls, one = Selection(types=frozenset({"IfcWall"})), Selection(elements=frozenset({"a"}))
    rules = (
        Rule(who=all_walls, hatch="diagonal", hatch_angle=10.0, hatch_weight=0.35, hatch_scale=2.0),
        Rule(who=one, hatch_angle=30.0, hatch_follows="paper", hatch_unit="m", hatch_shift=(0.5, 0.0), hatch_colour=(1, 0, 0)),
    )
    styles = resolve(Look(hatch="over", rules=rules), building)
    a, b = styles.hatch_of(0), styles.hatch_of(1)
    assert (b.turn, b.weight, b.unit, b.follows, b.ink) == (10.0, 0.35, "mm", "plane", None)
    assert (a.turn, a.weight, a.unit, a.follows, a.shift) == (30.0, 0.35, "m", "paper", (0.5, 0.0)) and a.ink == (1, 0, 0)
    assert a.families[0].spacing == b.families[0].spacing == pytest.approx(4.4)


@given(st.floats(-170, 170), st.floats(-60, 60), st.floats(0.3, 3))
def test_what_runs_level_on_the_paper_does_so_however_the_plane_is_seen(turn, shear, size) -> None:
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    axes = size * np.array([[c, s], [-s, c]]) @ [[1.0, 0.0], [math.tan(math.radians(shear)), 1.0]]
    level = level_on_paper(np.concatenate([np.zeros((1, 2)), axes]))
    way = math.cos(level) * axes[0] + math.sin(level) * axes[1]
    assert abs(way[1]) < 1e-9 * size and way[0] > 0


def test_the_json_of_hatches_takes_dots_tiles_and_turns(tmp_path: Path) -> None:
    told = {
        "name": "x",
        "turn": 15,
        "follows": "paper",
        "weight": 0.25,
        "families": [{"angle": 0, "spacing": 2, "dashes": [0, 1, 3, 1]}],
    }
    path = tmp_path / "a.json"
    path.write_text(json.dumps({"format": "anatome-hatches", "version": 1, "hatches": [told]}))
    (hatch,) = read_hatches(path)
    lengths = np.linalg.norm(np.diff(hatch_lines(hatch, AREA, 1.0), axis=1)[:, 0], axis=1)
    assert {0.1, 3.0} <= set(np.round(lengths, 6))
