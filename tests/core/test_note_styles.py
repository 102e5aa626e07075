"""Styles of notes, leaders with bends, labels in columns, and what an office begins with."""

from __future__ import annotations

import itertools
from pathlib import Path

import numpy as np
import pytest
import shapely

from anatome.cuts.dissection import Cutter
from anatome.look.look import Look
from anatome.notes.anchors import anchored
from anatome.notes.drawn import marks_of
from anatome.notes.facts import Facts
from anatome.notes.marks import NoteMarks
from anatome.notes.moving import in_columns
from anatome.notes.note import Dimension, Label, NoteStyle
from anatome.notes.view import NoteView
from anatome.problems import Problem
from anatome.scenes.note_edits import keep_note_style
from anatome.scenes.noted import note_view
from anatome.scenes.office import begun_with, office_of, read_office, with_office, write_office
from anatome.scenes.opened import opened
from anatome.scenes.project import ModelReference, Project, StageState
from anatome.scenes.sheet_edits import put_sheet
from anatome.sheets.sheet import SceneFrame, Sheet, Titles
from anatome.view.camera import standard_view
from anatome.view.viewport import Frame
from helpers import box, made_of

BOUNDS = np.array([[0.0, 0.0, 0.0], [10.0, 4.0, 6.0]])
BUILDING = made_of(*((f"p{i}", "IfcWall", f"m{i}", box(i, 0, 0, i + 0.9, 4, 0.6 * (i + 1))) for i in range(10)))


PLAIN = NoteStyle()


def view(style: NoteStyle = PLAIN) -> NoteView:
    camera = standard_view("Front", BOUNDS, 1.5)
    state = StageState(camera=camera, note_style=style)
    return note_view(state, opened(Cutter(BUILDING), state), Facts(BUILDING), Frame(width=300, height=200), 200.0)


def label(number: int, **more: object) -> Label:
    place = np.array([number + 0.45, 0.0, 0.3 * (number + 1)])
    return Label(
        id=f"l{number}", anchors=(anchored(BUILDING, place, f"p{number}"),), text="{material}", offset=(8.0, 8.0), **more
    )


def drawn(note: object, of: NoteView) -> NoteMarks:
    marks = marks_of(note, of)  # type: ignore[arg-type]
    assert marks is not None and not marks.gone
    return marks


def test_a_note_has_the_style_of_all_or_its_own() -> None:
    ends = [anchored(BUILDING, np.array([x, 0.0, 0.0]), "p0") for x in (0.0, 3.0)]
    plain = Dimension(id="d", anchors=tuple(ends), along=(1.0, 0.0, 0.0), offset=(0.0, 0.0, -1.0))
    own = NoteStyle(name="Heavy", height=5.0, weight=0.5, ends="arrow", colour=(0.6, 0.0, 0.0), unit="mm")
    of = view(NoteStyle(height=2.5, weight=0.18))
    first, second = drawn(plain, of), drawn(plain.model_copy(update={"style": own}), of)
    assert first.words[0].height == 2.5 and second.words[0].height == 5.0 and second.ink == (0.6, 0.0, 0.0)
    assert second.words[0].text == first.words[0].text == "3.00"  # in the units of all
    assert not any(s.filled for s in first.strokes) and {s.weight for s in second.strokes if not s.filled} == {0.5}
    # Two arrows that touch the ends of what is measured from within.
    arrows = [s.points for s in second.strokes if s.filled]
    ticks = sorted(float(p[0, 0]) for p in arrows)
    span = [float(s.points[0, 0]) for s in first.strokes if s.weight == 0.18][:2]
    assert len(arrows) == 2 and ticks == pytest.approx(sorted(span), abs=1e-6)
    assert ticks[0] < arrows[0][:, 0].mean() < ticks[1] and ticks[0] < arrows[1][:, 0].mean() < ticks[1]
    dots = drawn(plain.model_copy(update={"style": own.model_copy(update={"ends": "dot"})}), of)
    assert sum(s.filled and len(s.points) > 10 for s in dots.strokes) == 2


def test_leaders_bend_and_fan_out() -> None:
    of = view()
    straight = label(2)
    bent = straight.model_copy(update={"bends": ((20.0, 20.0), (4.0, 20.0))})
    foot = of.flat(of.met(straight.anchors[0])).on_paper(np.array(straight.anchors[0].place))
    leader = drawn(bent, of).strokes[0].points
    assert np.allclose(leader[1:], [foot + [20, 20], foot + [4, 20], foot])
    two = straight.model_copy(update={"anchors": (straight.anchors[0], label(5).anchors[0]), "bends": ((6.0, 30.0),)})
    chain, fan = drawn(two, of), drawn(two.model_copy(update={"fan": True}), of)
    assert len(chain.strokes[0].points) == 4  # words, bend, one anchor, the other
    tips = [s.points[-1] for s in fan.strokes if len(s.points) == 2 and np.allclose(s.points[0], foot + [6, 30])]
    assert len(tips) == 2 and np.allclose(tips[0], foot)
    arrows = drawn(two.model_copy(update={"fan": True, "style": NoteStyle(ends="arrow")}), of)
    assert sum(s.filled and len(s.points) == 4 for s in arrows.strokes) == 2


def test_labels_stand_in_columns_and_none_over_another() -> None:
    of = view()
    notes = [label(i) for i in range(10)]
    flat = of.viewport.pixels(BOUNDS)[:, 0]
    content = float(flat.min()), float(flat.max())
    done = in_columns(notes, of, content)
    marks = [drawn(note, of) for note in done]
    boxes = [shapely.Polygon(m.words[0].corners()) for m in marks]
    assert all(not a.intersects(b) for a, b in itertools.combinations(boxes, 2))
    assert all(shapely.box(*of.picture).covers(own) for own in boxes)
    sides = [box.centroid.x > sum(content) / 2 for box in boxes]
    assert sides == [i >= 5 for i in range(10)] and all(len(note.bends) == 1 for note in done)
    # One under the other in the order of what they speak of, all flush along one line.
    for side in (False, True):
        own = [box for box, right in zip(boxes, sides) if right == side]
        flush = [round(b.bounds[0 if side else 2], 3) for b in own]
        assert max(flush) - min(flush) < 1e-3
        heights = [b.centroid.y for b in own]
        assert heights == sorted(heights)
    assert in_columns([note.model_copy(update={"leader": False}) for note in notes], of, content) == tuple(
        note.model_copy(update={"leader": False}) for note in notes
    )


def project(**more: object) -> Project:
    camera = standard_view("Front", BOUNDS, 1.5)
    return Project(name="p", model=ModelReference(path="m.ifc"), stage=StageState(camera=camera, **more))


def test_what_an_office_begins_with_is_one_file(tmp_path: Path) -> None:
    style = NoteStyle(name="Big", height=5.0)
    titles = Titles(organisation="Rowers", project="Boathouse", date="May")
    own = project(look=Look(name="Ours", hatch="only"), note_style=NoteStyle(height=3.5))
    own = keep_note_style(own, style).model_copy(
        update={
            "titles": titles,
            "units": "metric",
            "looks": (Look(name="Other"),),
        }
    )
    own = put_sheet(own, Sheet(id="s", name="Plan", paper=(594.0, 420.0), blocks=(SceneFrame(id="f", scene=""),)))
    path = tmp_path / "our.office.json"
    write_office(office_of(own), path)
    office = read_office(path)
    assert office == office_of(own) and [sheet.name for sheet in office.templates] == ["Plan"] and office.paper == (594.0, 420.0)
    begun = begun_with(project(), office)
    assert begun.stage.look.name == "Ours" and begun.stage.note_style.height == 3.5 and begun.units == "metric"
    assert begun.titles == Titles(organisation="Rowers")  # not what a project is called, nor when it was drawn
    assert begun.note_styles == (style,) and [look.name for look in begun.looks] == ["Other"] and begun.sheets == ()
    # In a project under way its own stays.
    mine = keep_note_style(project(), style.model_copy(update={"height": 7.0}))
    mine = mine.model_copy(update={"titles": Titles(organisation="Mine")})
    joined = with_office(mine, office)
    assert joined.titles.organisation == "Mine" and [s.height for s in joined.note_styles] == [7.0] and joined.stage == mine.stage
    with pytest.raises(Problem, match="a name"):
        keep_note_style(own, NoteStyle())
    path.write_text("{}")
    with pytest.raises(Problem, match="holds no office"):
        read_office(path)
