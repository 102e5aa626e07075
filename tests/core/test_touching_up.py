"""Touching up: which lines it changes, and that it is there again when cut or model have changed, or says that it is not."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.plane import Plane
from anatome.linework.drawing import Drawing
from anatome.linework.seen_lines import SeenLines, seen_lines
from anatome.linework.view_drawing import view_drawing
from anatome.look.look import Look
from anatome.look.pens import LineKind
from anatome.model.building import Building
from anatome.model.comparison import compare
from anatome.notes.anchors import Anchor, anchored
from anatome.notes.note import NoteStyle, Shape
from anatome.notes.touching_up import AnyTouchUp, LineTouchUp, Mask, anchor_of_line
from anatome.scenes.project import ModelReference, Project, StageState
from anatome.scenes.relinking import relinked
from anatome.scenes.scene_view import View, view_of, written_on
from anatome.site.site import NO_SITE
from anatome.view.camera import standard_view
from anatome.view.viewport import Frame
from helpers import box, made_of

LOOK = Look(surfaces="white", recede=0.0, shade=False, ground=False)
BOUNDS = np.array([[-1.0, -1.0, -1.0], [9.0, 5.0, 4.0]])
FRAME = Frame(width=300.0, height=200.0)


def two(wall: float = 3.0, height: float = 3.0, hut: bool = True) -> Building:
    """A wall from 0 to 6, ``wall`` and ``height`` metres deep and high, and a hut beside it."""
    parts = [("wall", "IfcWall", "brick", box(0, 0, 0, 6, wall, height))]
    return made_of(*parts, *([("hut", "IfcSlab", "timber", box(7, 0, 0, 8, 1, 1))] if hut else []))


def state(*touched: AnyTouchUp, cut: float | None = None) -> StageState:
    cuts = () if cut is None else (SectionPlane(id="a", name="A", mark="A", plane=Plane((cut, 0, 0), (1, 0, 0))),)
    camera = standard_view("Axonometric, front right", BOUNDS, 1.5)
    return StageState(camera=camera, look=LOOK, cuts=cuts, touched_up=touched)


def view(building: Building, of: StageState) -> View:
    return replace(view_of(Cutter(building), of), frame=FRAME, paper=200.0)


def drawing(building: Building, *touched: AnyTouchUp, cut: float | None = None) -> Drawing:
    return view_drawing(view(building, state(*touched, cut=cut)), "")


def ink(found: Drawing, dashed: bool | None = None) -> shapely.Geometry:
    strokes = [s for s in found.strokes if dashed is None or (s.pen.dashes is not None) == dashed]
    return shapely.union_all([shapely.LineString(line) for s in strokes for line in s.lines])


def line_at(seen: SeenLines, part: int, cut: bool, low: float) -> int:
    """The longest line of a part, round what is cut or beyond, on the paper not below a height."""
    own = (seen.drawn.element[seen.of] == part) & ((seen.drawn.kind[seen.of] >= LineKind.BETWEEN) == cut)
    own &= seen.pieces[:, :, 1].min(axis=1) >= low
    long = np.where(own, np.linalg.norm(seen.pieces[:, 1] - seen.pieces[:, 0], axis=1), 0.0)
    return int(seen.of[int(np.argmax(long))])


def line_of(building: Building, cut: float | None = None, **how: object) -> tuple[LineTouchUp, shapely.LineString]:
    """A touching up of a line of the wall, and where that is on paper: beyond, or of the cut if there is one."""
    of = view(building, state(cut=cut))
    seen = seen_lines(of)
    number = line_at(seen, 0, cut is not None, 0.0)
    ends = seen.ends(number)
    anchors = tuple(anchor_of_line(of.opened, place, 0, cut is not None) for place in ends)
    touch = LineTouchUp(id="t", anchors=anchors, **how)
    return touch, shapely.LineString(of.on_paper().pixels(ends) * [1, -1] + [0, 200.0])


def test_one_line_is_hidden_dashed_or_heavier_and_no_other() -> None:
    building = two()
    plain = drawing(building)
    touch, where = line_of(building, hidden=True)
    hidden = drawing(building, touch)
    gone = shapely.difference(ink(plain), shapely.buffer(ink(hidden), 0.05))
    assert gone.length == pytest.approx(where.length, abs=0.3) and shapely.hausdorff_distance(gone, where) < 0.2
    dashed = drawing(building, touch.model_copy(update={"hidden": False, "dashes": "dashed", "weight": 1.0}))
    assert shapely.hausdorff_distance(ink(dashed, True), where) < 0.01 and not hidden.lost and not dashed.lost
    assert {s.pen.weight for s in dashed.strokes if s.pen.dashes} == {1.0}
    assert ink(dashed, False).length + where.length == pytest.approx(ink(plain).length, abs=0.3)
    # All lines of a part, and none of the other.
    whole = LineTouchUp(id="w", anchors=(anchored(building, np.zeros(3), "hut"),), dashes="dotted")
    dotted = ink(drawing(building, whole), True)
    hut = view(building, state()).on_paper().pixels(np.array([[7.5, 0.5, 0.5]]))[0] * [1, -1] + [0, 200]
    assert dotted.length > 20 and shapely.Point(hut).distance(dotted.centroid) < 6
    # It is a part of the scene's value, and of what is kept of it.
    again = StageState.model_validate_json(state(touch, whole).model_dump_json())
    assert again == state(touch, whole)


def test_a_mask_takes_what_lies_in_it_and_leaves_the_rest() -> None:
    building = two()
    corners = np.array([[2.0, -0.5, 1.0], [5.0, -0.5, 1.0], [5.0, -0.5, 4.0], [2.0, -0.5, 4.0]])
    mask = Mask(id="m", anchors=tuple(Anchor(place=tuple(place)) for place in corners.tolist()))
    shape = shapely.Polygon(view(building, state()).on_paper().pixels(corners) * [1, -1] + [0, 200.0])
    plain, left = ink(drawing(building)), ink(drawing(building, mask))
    inside = shapely.intersection(plain, shape).length
    assert inside > 20 and shapely.intersection(left, shapely.buffer(shape, -0.01)).is_empty
    assert left.length == pytest.approx(plain.length - inside, abs=0.05)


@pytest.mark.parametrize("moved", [2.0, 4.5])
def test_a_line_of_a_cut_goes_along_with_the_cut(moved: float) -> None:
    building = two()
    touch, before = line_of(building, cut=3.0, dashes="dashed")
    found = drawing(building, touch, cut=moved)
    now = ink(found, True)
    assert not found.lost and now.length == pytest.approx(before.length, rel=0.01)
    assert shapely.hausdorff_distance(now, before) > 5  # it went along
    lines = [shapely.LineString(line) for s in found.strokes if s.kind == LineKind.ROUND for line in s.lines]
    assert any(shapely.hausdorff_distance(line, now) < 0.05 for line in lines)


def project(of: Building, *touched: AnyTouchUp) -> Project:
    return Project(name="p", model=ModelReference(path="m.ifc", digest="1"), stage=state(*touched))


def test_it_holds_on_when_the_model_changes_and_says_so_when_it_cannot() -> None:
    before = two()
    touch, where = line_of(before, dashes="dashed")
    whole = LineTouchUp(id="w", anchors=(anchored(before, np.zeros(3), "hut"),), hidden=True)
    for after in (two(wall=3.4), two(height=3.5)):
        made = relinked(project(before, touch, whole), after, compare(before, after), ModelReference(path="m.ifc", digest="2"))
        found = view_drawing(view(after, made.stage), "")
        now = ink(found, True)
        assert not found.lost and now.length == pytest.approx(where.length, rel=0.25)
        assert not np.isnan(now.length) and now.length > 0
    # Its part is gone: it is told, and comes back with the part.
    after = two(hut=False)
    made = relinked(project(before, touch), after, compare(before, after), ModelReference(path="m.ifc", digest="2"))
    assert not view_drawing(view(after, made.stage), "").lost
    assert view_drawing(view(after, state(whole)), "").lost == ("w",)
    # Its line is gone although its part is there.
    low = made_of(("wall", "IfcWall", "brick", box(0, 0, 0, 0.6, 0.3, 0.3)))
    far = touch.model_copy(update={"anchors": tuple(a.model_copy(update={"box": None}) for a in touch.anchors)})
    assert view_drawing(view(low, state(far)), "").lost == ("t",)
    assert view_drawing(view(before, state(far, whole)), "").lost == ()


def test_shapes_lie_in_the_plane_of_the_cut_or_keep_their_size_on_the_paper() -> None:
    """In the plane they go along with it; on the paper they are as many mm whatever is looked at from where."""
    building = two()
    ring = np.array([[3.0, 0.5, 0.5], [3.0, 2.5, 0.5], [3.0, 2.5, 2.5], [3.0, 0.5, 2.5]])
    anchors = tuple(anchored(building, place, "wall", cut="a", face="", along=(1.0, 0.0, 0.0)) for place in ring)
    flat = ((0.0, 0.0), (30.0, 0.0), (30.0, 10.0))
    notes = (
        Shape(id="s", anchors=anchors, closed=True, hatch="diagonal", fill=(1.0, 0.9, 0.8), dashes="dashed"),
        Shape(id="p", anchors=anchors[:1], points=flat, weight=0.7, colour=(0.5, 0.0, 0.0)),
    )
    for cut in (3.0, 4.0):
        of = state(cut=cut).model_copy(update={"notes": notes, "note_style": NoteStyle(weight=0.2)})
        made = written_on(view(building, of), of, NO_SITE)
        assert made.notes is not None
        area, line = made.notes(FRAME).sound
        seen = made.on_paper().pixels(ring + [cut - 3.0, 0, 0]) * [1, -1] + [0, 200.0]
        fill, *hatch, outline = area.strokes
        assert fill.filled and fill.ink == (1.0, 0.9, 0.8) and outline.dashes is not None and outline.weight == 0.2
        assert np.allclose(outline.points[:4], seen, atol=1e-6) and (outline.points[0] == outline.points[-1]).all()
        lines, shape = [shapely.LineString(s.points) for s in hatch], shapely.Polygon(seen)
        assert len(lines) > 5 and all(shape.buffer(1e-6).covers(own) for own in lines)
        # Diagonal: 45°, 2.2 mm from one to the next (docs/hatches.md).
        offsets = np.unique(np.round([(s.points[0] @ [-1, 1]) / np.sqrt(2) for s in hatch], 4))
        assert np.allclose(np.diff(offsets), 2.2, atol=1e-3)
        (own,) = line.strokes
        assert np.allclose(own.points - own.points[0], flat) and own.ink == (0.5, 0.0, 0.0) and own.weight == 0.7
        assert np.allclose(own.points[0], seen[0], atol=1e-6)
    # Where the cut is gone, what lay in it is told.
    bare = of.model_copy(update={"cuts": ()})
    made = written_on(view(building, bare), bare, NO_SITE)
    assert made.notes is not None and all(note.gone for note in made.notes(FRAME).notes)
