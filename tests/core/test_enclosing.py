"""What a rectangle on the picture encloses and touches, against plain geometry and against pixels."""

from __future__ import annotations

import numpy as np
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from anatome.cuts.cut import SectionBox, SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.kinds.box import Box
from anatome.cuts.moves import STAYS, mirrored, places_through
from anatome.cuts.picking import pick, pick_all
from anatome.cuts.pieces import Placed
from anatome.cuts.plane import Plane
from anatome.cuts.solid import kept_part
from anatome.model.building import Building
from anatome.scenes.project import StageState
from anatome.scenes.unseen import counts, unseen
from anatome.view.camera import Camera
from anatome.view.enclosing import enclosed, touched
from anatome.view.viewport import Frame, Viewport
from helpers import building_of

FRAME = Frame(width=600, height=400)


def balls(count: int = 14) -> Building:
    rng = np.random.default_rng(2)
    made = []
    for _ in range(count):
        ball = trimesh.creation.icosphere(1, rng.uniform(0.2, 0.9))
        made.append((ball.vertices + rng.uniform(-4, 4, 3), ball.faces))
    return building_of(*made)


BALLS = balls()


@settings(max_examples=60)
@given(
    st.tuples(st.floats(0, 600), st.floats(0, 400)),
    st.tuples(st.floats(5, 400), st.floats(5, 300)),
    st.booleans(),
    st.booleans(),
    st.booleans(),
)
def test_rectangles_take_what_the_outlines_say(corner, size, perspective, cut, moved) -> None:
    """The outline of what manifold3d leaves of each ball, as a polygon of the picture."""
    cuts = [SectionPlane(id="a", name="A", mark="A", plane=Plane((0.1, 0, 0.3), (0.4, -1, 0.7)))] if cut else []
    move = mirrored(Plane((1, 1, 0), (1, 0.3, 0))) if moved else STAYS
    part = Placed(Cutter(BALLS).dissect(cuts, np.ones(len(BALLS.elements), bool)), move)
    camera = Camera(eye=(9, -14, 7), target=(0, 0, 0), projection="perspective" if perspective else "parallel", field=40)
    viewport = Viewport(camera, FRAME)
    rectangle = (*corner, corner[0] + size[0], corner[1] + size[1])
    window = shapely.box(*rectangle)
    inside, meets = enclosed(part, viewport, rectangle), touched(part, viewport, rectangle)
    for kept in kept_part(part.cut_open):
        flat = viewport.pixels(places_through(np.array(move), kept.vertices))
        outline = shapely.convex_hull(shapely.multipoints(flat))  # what is left of a ball by a plane is convex
        if shapely.distance(outline, shapely.boundary(window)) > 0.5 or shapely.contains(outline, window):
            assert inside[kept.element] == shapely.contains(window, outline)
        if not shapely.intersects(outline, window):
            assert not meets[kept.element]
        elif shapely.area(shapely.intersection(outline, window)) > 4.0:
            assert meets[kept.element]
    assert not (inside & ~meets).any()


def test_one_behind_the_other_each_is_met_once(boathouse: Building) -> None:
    cutter, shown = Cutter(boathouse), np.ones(len(boathouse.elements), bool)
    cut = SectionPlane(id="a", name="A", mark="A", plane=Plane((14.0, 6.2137, 3.0), (0.0, -1.0, 0.0)))
    left = cutter.dissect([cut], shown)
    rng = np.random.default_rng(4)
    depths = []
    for _ in range(60):
        origin = np.array([rng.uniform(1, 29), -30.0, rng.uniform(0, 8)])
        direction = np.array([rng.uniform(-0.1, 0.1), 1.0, rng.uniform(-0.1, 0.1)])
        direction /= np.linalg.norm(direction)
        met, first = pick_all(left, origin, direction), pick(left, origin, direction)
        distances = [hit.distance for hit, _ in met]
        assert distances == sorted(distances) and len({hit.element for hit, _ in met}) == len(met)
        assert (first is None) == (not met) and (first is None or met[0][0] == first[0])
        depths.append(len(met))
        # With what is in front set aside, the next one is met first.
        if len(met) > 1:
            without = shown.copy()
            without[met[0][0].element] = False
            behind = pick(cutter.dissect([cut], without), origin, direction)
            assert behind is not None and behind[0].element == met[1][0].element
    assert max(depths) > 3


def test_all_that_is_not_seen_is_accounted_for(boathouse: Building) -> None:
    cutter = Cutter(boathouse)
    hidden = frozenset(e.id for e in boathouse.elements if e.layer in ("L-WATER", "L-PONTOON"))
    plane = SectionPlane(id="p", name="Section A", mark="A", plane=Plane((14.0, 6.2137, 3.0), (0.0, -1.0, 0.0)))
    box = SectionBox(id="b", name="Cutaway B", mark="B", box=Box((26.0, 10.0, 6.5), (9.0, 9.0, 12.0)), carve=True)
    state = StageState(camera=Camera(eye=(0, -9, 0), target=(0, 0, 0)), cuts=(plane, box), hidden=hidden)
    shown = np.array([e.id not in hidden for e in boathouse.elements])
    left = cutter.dissect(state.cuts, shown, state.treatments)
    rows = unseen(boathouse, state, left)
    assert [(r.why, r.what, len(r.ids)) for r in rows[:2]] == [("aside", "L-PONTOON", 69), ("aside", "L-WATER", 1)]
    assert {r.cut for r in rows if r.why == "cut"} == {"p", "b"} and any(r.why == "left out" for r in rows)
    found = counts(boathouse, state, left)
    before = frozenset().union(*(r.ids for r in rows if r.why == "cut"))
    assert (found.aside, found.before_cuts) == (70, len(before)) and found.left_out == len(rows[-1].ids)
    told = frozenset().union(*(r.ids for r in rows))
    assert told == frozenset(e.id for e, is_left in zip(boathouse.elements, left.shown) if not is_left)
    assert unseen(boathouse, state.model_copy(update={"cuts": (), "hidden": frozenset()}), cutter.dissect([], shown | True)) == ()
