"""Section prisms in the window: drawn in the key plan, pulled, typed, turned round, scouted, and undone."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from anatome.app.base import units
from anatome.cuts.cut import SectionPrism
from helpers import POCHE, close_to

ROOM = ((4.0, 2.0), (16.0, 2.0), (16.0, 6.0), (9.0, 6.0), (9.0, 10.0), (4.0, 10.0))


def drawn_outline(hand) -> SectionPrism:
    plan = hand.window.key_plan
    hand.do("prism_plan")
    for point in ROOM:
        hand.click(plan, *plan.to_pixels(np.array(point)))
    hand.click(plan, *plan.to_pixels(np.array(ROOM[0])))
    return hand.window.session.cut


@pytest.mark.usefixtures("large")
def test_an_outline_drawn_in_the_key_plan_carves_and_is_pulled_by_corners_sides_and_numbers(hand) -> None:
    session, plan = hand.window.session, hand.window.key_plan
    before = hand.now()
    cut = drawn_outline(hand)
    assert isinstance(cut, SectionPrism) and plan.task is None and cut.carve
    near = 4.0 / plan._scale
    assert np.array(cut.prism.corners) == pytest.approx(np.array(ROOM), abs=near)
    assert cut.prism.low == pytest.approx(session.building.storeys[session.plan_storey].elevation)
    hand.settle()
    opened = hand.now()
    assert (np.abs(opened.astype(int) - before).max(axis=2) > 60).mean() > 0.01 and close_to(opened, POCHE).sum() > 100

    # A corner goes where it is dragged; one that would cross the outline stays.
    mark = plan.mark_of(cut)
    corner = next(k for k in mark.knobs if k.hold == "corner 2")
    place = plan.knob_place(corner)
    hand.drag(plan, place, place + [14, -6])
    moved = np.array(session.cut.prism.corners[2]) - cut.prism.corners[2]
    assert moved == pytest.approx([14 / plan._scale, 6 / plan._scale], abs=near)
    hand.do("undo")
    side = next(s for s in mark.strokes if s.hold == "side 0")
    middle = plan.to_pixels(side.points[0] + 0.3 * (side.points[1] - side.points[0]))
    hand.drag(plan, middle, middle + [0, 9])
    assert session.cut.prism.corners[0][1] == pytest.approx(cut.prism.corners[0][1] - 9 / plan._scale, abs=near)
    hand.do("undo")

    page = hand.window.inspector.cut
    assert list(page.place.fields) == ["centre 0", "centre 1", "bottom", "top", "turn"] and page.carve.isVisible()
    page.place.fields["top"].entered.emit(3.0)
    page.place.fields["centre 0"].entered.emit(12.0)
    assert session.cut.prism.high == 3.0 and session.cut.prism.centre[0] == pytest.approx(12.0)
    page.place.fields["bottom"].entered.emit(9.0)  # never over its top
    assert session.cut.prism.low == pytest.approx(2.99)
    assert session.cut.summary(units) == "6 corners"


def test_a_circle_bites_and_keeps_and_the_scout_moves_its_top(hand) -> None:
    session, plan = hand.window.session, hand.window.key_plan
    before = session.stage
    hand.do("round_plan")
    centre = plan.to_pixels(np.array((10.0, 6.0)))
    hand.drag(plan, centre, centre + [3.0 * plan._scale, 0])
    cut = session.cut
    assert cut.prism.radius == pytest.approx(3.0, abs=2 / plan._scale) and plan.task is None and "⌀" in cut.summary(units)
    hand.do("turn_round")
    assert session.cut.carve is False and "keeps its inside" in hand.window.status.text()
    faces = [b for f in session.left().faces_of(cut.id) if (b := f.built_bounds()) is not None]
    assert np.ptp(np.concatenate(faces), axis=0)[:2] == pytest.approx([6.0, 6.0], abs=0.3)
    knob = next(k for k in plan.mark_of(session.cut).knobs if k.hold == "radius")
    place = plan.knob_place(knob)
    hand.drag(plan, place, place + [8, 0])
    assert session.cut.prism.radius == pytest.approx(cut.prism.radius + 8 / plan._scale, abs=2 / plan._scale)
    assert [hand.window.scout.side.itemData(i) for i in range(2)] == ["top", "bottom"]
    # Drawn out instead: what lies inside is moved aside, and nothing is lost.
    hand.do("part_here")
    assert session.stage.is_apart and session.cut.parting is not None
    hand.settle()
    assert close_to(hand.now(), POCHE).sum() > 100
    for _ in ("placed", "turned round", "pulled", "drawn out"):
        hand.do("undo")
    assert session.stage.cuts == before.cuts


def test_an_outline_without_size_says_so_and_escape_gives_up(hand) -> None:
    plan, before = hand.window.key_plan, hand.window.session.stage
    hand.do("prism_plan")
    for point in ROOM[:2]:
        hand.click(plan, *plan.to_pixels(np.array(point)))
    QTest.keyClick(plan, Qt.Key.Key_Return)
    assert "three corners" in hand.window.status.text() and plan.task is not None
    QTest.keyClick(plan, Qt.Key.Key_Escape)
    assert plan.task is None and hand.window.session.stage.cuts == before.cuts
