"""Hatches as rules in the real window: chosen on the very cut, by numbers, dragged on the cut face, listed, copied."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import shapely
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from anatome.app.stage.place_hatch import hatch_on_stage
from anatome.app.stage.place_laid import ends_of
from anatome.app.stage.pointing import meet
from anatome.look.laying import laid_at
from anatome.look.styles import resolve
from anatome.model.selection import Selection
from anatome.scenes import edits
from conftest import pixels

EXAMPLES = Path(__file__).parents[2] / "docs" / "examples"
WHITE = (1.0, 1.0, 1.0)


@pytest.fixture
def cut_earth(hand, large):
    """The long section, filled white, with the ground picked where it is cut: the largest area there is."""
    session = hand.window.session
    hand.window.contact_sheet.recall("long")
    white = {"poche": WHITE, "poche_earth": WHITE, "hatch_ink": 1.0, "name": "Plain", "earth_fades": False}
    session.apply(edits.set_look(session.project, session.stage.look.model_copy(update=white)), "White")
    hand.settle()
    face = next(f for part in session.on_stage().parts for f in part.cut_open.faces)
    number = int(np.argmax(shapely.area(face.poche.polygons)))
    at = hand.point_on(face.plane.raised(np.array(shapely.point_on_surface(face.poche.polygons[number]).coords[0])))
    hand.click(hand.stage, *at)
    own = hand.window.inspector.elements.own_look
    own.who.setCurrentIndex(0)
    own.who.activated.emit(0)
    return own.hatch


def darkness(picture: np.ndarray, found, spacing: float, degrees: float) -> tuple[float, float]:
    """How dark a picture is where lines so far apart and at this angle of the plane lie, and midway between them."""
    base, unit = found.face.plane.flat(found.face.building.centre), found.millimetre
    x, y = found.viewport.pixels(found.face.plane.raised(found.grip)).astype(int)
    way = np.radians(degrees)
    on, between = [], []
    for row in range(y - 30, y + 30):
        for column in range(x - 60, x + 60):
            at = found.under((column + 0.5, row + 0.5))
            away = abs((float((at - base) @ [-np.sin(way), np.cos(way)]) / unit / spacing + 0.5) % 1.0 - 0.5)
            ink = 255.0 - float(picture[row, column].mean())
            if shapely.contains(found.polygon, shapely.Point(at).buffer(8 * unit)):
                (on if away < 0.06 else between if away > 0.3 else []).append(ink)
    return float(np.mean(on)), float(np.mean(between))


def test_a_hatch_is_taken_from_a_file_set_by_numbers_and_shows(hand, large, cut_earth, monkeypatch) -> None:
    """Its lines lie as far apart and at the angle that was typed; too dense, that is said."""
    session, box = hand.window.session, cut_earth
    number = session.building.index_of[min(session.picked.elements)]
    for name in ("boathouse.pat", "boats.svg"):
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_, name=name: (str(EXAMPLES / name), ""))
        hand.do("load_hatches")
    words = [box.choice.itemText(i) for i in range(box.choice.count())]
    assert {"Clinker planks", "Twisted rope", "Boats", "Diagonal"} <= set(words)
    box.choice.setCurrentText("Diagonal")
    box.choice.activated.emit(box.choice.currentIndex())
    hand.type_into(box.apart, "5")
    hand.type_into(box.angle, "-25")
    hatch = resolve(session.drawn_look(), session.building).hatch_of(number)
    assert hatch.finest == pytest.approx(5.0) and hatch.turn == pytest.approx(335.0)
    session.pick()
    picture = hand.picture()
    found = hatch_on_stage(session, hand.stage.viewport, number, session.paper_height())
    on, between = darkness(picture, found, 5.0, 20.0)  # 45° less 25
    assert on > 40 and between < 0.15 * on
    assert darkness(picture, found, 5.0, 25.0)[0] < 0.6 * on  # five degrees off it is not
    session.pick(elements=frozenset({session.building.elements[number].id}), at_cut=True)
    box.unit.setCurrentIndex(1)
    box.unit.activated.emit(1)
    changed = resolve(session.drawn_look(), session.building).hatch_of(number)
    assert changed.unit == "m" and changed.finest == pytest.approx(0.005 * 1000 * box._paper_millimetre, rel=1e-3)
    box.unit.setCurrentIndex(0)
    box.unit.activated.emit(0)
    hand.type_into(box.apart, "0.2")
    assert "4 times as large" in box.note.text() and box.note.isVisible()


def test_a_hatch_is_dragged_on_the_cut(hand, large, cut_earth) -> None:
    """Moved, its lines go along with the pointer; at the end of its line it turns and grows; a drag is one step."""
    session, box = hand.window.session, cut_earth
    element = session.building.index_of[min(session.picked.elements)]
    box.choice.setCurrentText("Diagonal")
    box.choice.activated.emit(box.choice.currentIndex())
    hand.type_into(box.apart, "6")
    box.drag.click()
    task = hand.window.stage_input.task
    assert task.name == "place_hatch"

    def ends() -> np.ndarray:
        found = task.lies()
        return found.viewport.pixels(found.face.plane.raised(ends_of(found)))

    before = task.lies()
    start, by = ends()[0], np.array([9.0, -5.0])
    hand.drag(hand.stage, start, start + by)
    moved = resolve(session.drawn_look(), session.building).hatch_of(element)
    lies = task.lies()
    # What was under the pointer in the hatch is under it where it was let go.
    went = np.round(start + by) - np.round(start)
    assert lies.place_of(lies.under(tuple(np.round(start) + went))) == pytest.approx(
        before.place_of(before.under(tuple(np.round(start)))), abs=1e-6
    )
    assert moved.shift != (0.0, 0.0)
    grip, end = ends()
    arm = end - grip
    turned = grip + np.array([arm[1], -arm[0]]) * 1.5  # a quarter up, half as long again
    hand.drag(hand.stage, end, turned)
    after = resolve(session.drawn_look(), session.building).hatch_of(element)
    assert (after.turn - moved.turn) % 360 == pytest.approx(90.0, abs=1.5)
    assert after.finest == pytest.approx(1.5 * moved.finest, rel=0.04)
    hand.press(Qt.Key.Key_Return)
    assert hand.window.stage_input.task is None
    hand.do("undo")
    assert resolve(session.drawn_look(), session.building).hatch_of(element) == moved
    hand.do("undo")
    assert resolve(session.drawn_look(), session.building).hatch_of(element).shift == (0.0, 0.0)


def test_all_hatches_are_drawn_on_the_very_cut_and_one_is_taken(hand, large, cut_earth) -> None:
    session, box = hand.window.session, cut_earth
    box.all.click()
    sheet = box.sheet
    names = ("crossed", "diagonal", "no hatch")
    hand.qtbot.waitUntil(lambda: all(sheet.buttons[n].drawn and sheet.pictures.is_true(n) for n in names), timeout=60_000)
    dark = {n: 255.0 - pixels(sheet.pictures.image(n)).mean() for n in names}
    assert dark["crossed"] > dark["diagonal"] + 2 > dark["no hatch"] + 4
    sheet.buttons["crossed"].click()
    assert not sheet.isVisible() and session.stage.look.rules[-1].hatch == "crossed"


def test_rules_are_listed_as_pictures_put_in_order_changed_and_copied(hand, large, cut_earth) -> None:
    session, box, window = hand.window.session, cut_earth, hand.window
    box.choice.setCurrentText("Crossed")
    box.choice.activated.emit(box.choice.currentIndex())
    own = window.inspector.elements.own_look
    own.who.setCurrentIndex(own.who.count() - 1)
    own._set({"fill": (0.9, 0.2, 0.1)})
    first, second = session.stage.look.rules
    session.pick()
    listed = window.inspector.overview.look.rules
    assert [listed.rows.item(i).icon().isNull() for i in range(2)] == [False, False]
    listed.rows.model().moveRow(listed.rows.rootIndex(), 1, listed.rows.rootIndex(), 0)
    assert session.stage.look.rules == (second, first)
    listed.rows.setCurrentRow(1)
    listed.to_change.click()
    assert session.picked.elements == first.who.elements and session.picked.at_cut
    session.pick()
    other = session.project.scene("cross")
    look = other.state.look.model_copy(update={"name": "Other"})
    named = other.model_copy(update={"state": other.state.model_copy(update={"look": look})})
    scenes = tuple(named if s.id == "cross" else s for s in session.project.scenes)
    session.apply(session.project.model_copy(update={"scenes": scenes}), "named")
    listed.rows.setCurrentRow(1)
    listed.looks.aboutToShow.emit()
    next(act for act in listed.looks.actions() if act.text() == "Other").trigger()
    copied = session.project.scene("cross").state.look.rules
    assert copied == (first,) and first.who == Selection(elements=first.who.elements)
    listed.rows.setFocus()
    QTest.keyClick(listed.rows, Qt.Key.Key_Delete)
    assert session.stage.look.rules == (second,)


def test_the_drag_of_a_hatch_needs_a_cut_face(hand, large, cut_earth) -> None:
    session, box = hand.window.session, cut_earth
    box.choice.setCurrentText("Diagonal")
    box.choice.activated.emit(box.choice.currentIndex())
    hand.do("view Back")
    hand.settle()
    box.drag.click()
    assert hand.window.stage_input.task is None and "no cut face" in hand.window.status.text()
    assert session.picked.elements


def test_a_pattern_is_dragged_on_a_surface(hand, large) -> None:
    """A click says on which; then it goes along with the pointer, and turns by the end of its line; numbers say so."""
    session, window = hand.window.session, hand.window
    hand.do("view Axonometric, front left")
    hand.settle()
    roof = next(e for e in session.building.elements if e.layer == "A-ROOF-TILE")
    session.pick(elements=frozenset({roof.id}))
    own = window.inspector.elements.own_look
    own.who.setCurrentIndex(0)
    assert not own.lay_drag.isEnabled()
    own.pattern.setCurrentIndex(own.pattern.findData("boards upright"))
    own.pattern.activated.emit(own.pattern.currentIndex())
    own.lay_by.setCurrentIndex(own.lay_by.findData("part"))
    own.lay_by.activated.emit(own.lay_by.currentIndex())
    own.lay_drag.click()
    element = session.building.index_of[roof.id]
    spots = [(x, y) for y in range(60, 500, 9) for x in range(60, 680, 9)]
    met = ((spot, meet(session, hand.stage.viewport, spot)) for spot in spots)
    at = next(spot for spot, found in met if found is not None and found[0].element == element)
    hand.click(hand.stage, 5, 5)
    assert "Click a surface" in window.status.text()
    hand.click(hand.stage, *at)
    task = window.stage_input.task
    before = task.lies()
    told = laid_at(before.laying, before._told(before.grip), *before._own)
    grip, end = before.viewport.pixels(before.raised(ends_of(before)))
    hand.drag(hand.stage, grip, grip + [10, 6])
    lies = task.lies()
    now = lies.under(tuple(np.round(grip + [10, 6]) + (grip - np.round(grip))))
    assert laid_at(lies.laying, lies._told(now), *lies._own) == pytest.approx(told, abs=0.03)
    arm = end - grip
    hand.drag(hand.stage, end, end + 0.5 * arm)
    assert task.lies().laying.scale == pytest.approx(1.5, rel=0.05) and own.lay_scale.shown == pytest.approx(1.5, rel=0.05)
    hand.press(Qt.Key.Key_Escape)
    hand.type_into(own.lay_turn, "30")
    (rule,) = session.stage.look.rules
    assert rule.lay_turn == 30.0 and rule.lay_by == "part" and rule.lay_shift is not None
    for _ in range(5):
        hand.do("undo")
    assert session.stage.look.rules == ()
