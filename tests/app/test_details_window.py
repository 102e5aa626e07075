"""A detail in the real window: drawn of what is picked, moved by hand, cut by itself, written on, and gone again."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt

from anatome.cuts.moves import times_of
from anatome.scenes.project import Project
from helpers import accent_mask, poche_mask


def part_of(session):
    return next(part for part in session.on_stage().parts if part.detail)


def middle(hand) -> np.ndarray:
    flat = hand.stage.viewport.pixels(part_of(hand.window.session).left)
    return (flat.min(axis=0) + flat.max(axis=0)) / 2


def test_the_stair_is_drawn_once_more_moved_cut_and_taken_away(large) -> None:
    hand, session = large, large.window.session
    hand.do("view Axonometric, front left")
    hand.settle()
    stair = next(e.id for e in session.building.elements if e.type == "IfcStairFlight")
    session.pick(elements=frozenset({stair}))
    hand.settle()
    before = hand.picture()
    hand.do("detail")
    hand.settle()
    page, detail = hand.window.inspector.detail, session.detail
    assert page.isVisible() and page.title.text() == detail.name and detail.times > 1 and page.times.shown == detail.times
    assert f"{detail.times:g} times as large" in page.facts.text()
    # The building keeps it, and all of it is in the picture with its name under it and corners round it.
    assert [p.detail for p in session.on_stage().parts] == ["", detail.id] and session.on_stage().cut_open.shown.all()
    flat = hand.stage.viewport.pixels(part_of(session).left)
    assert (flat > 0).all() and (flat < [hand.stage.width(), hand.stage.height()]).all()
    assert (np.abs(hand.picture().astype(int) - before).max(axis=2) > 12).mean() > 0.02
    caption = hand.stage.noted.drawn().notes[-1]
    assert caption.words[0].text == detail.name
    low, high = flat.min(axis=0), flat.max(axis=0)
    corner = accent_mask(hand.screen())[int(low[1]) - 14 : int(low[1]) - 6, int(low[0]) - 14 : int(low[0]) + 8]
    assert corner.any()

    # Dragged, it goes along with the pointer, in one step.
    at = middle(hand)
    session.pick()
    tread = next(
        (x, y)
        for x in np.linspace(low[0], high[0], 25).round()
        for y in np.linspace(low[1], high[1], 25).round()
        if hand.window.stage_input._detail_under(QPointF(x, y)) == detail.id
    )
    hand.click(hand.stage, *tread)
    assert session.picked.detail == detail.id
    hand.drag(hand.stage, tread, (tread[0] - 40, tread[1] + 30))
    hand.settle()
    assert np.allclose(middle(hand) - at, [-40, 30], atol=1.5)
    assert session.history.undo_label == f"Moved {detail.name}"

    # Larger by a typed number, about its middle.
    there = middle(hand)
    hand.type_into(page.times, "4")
    hand.settle()
    assert times_of(part_of(session).move) == 4.0 and np.allclose(middle(hand), there, atol=1.0)

    # Its own cut shows solid material in it, none in the building.
    whole = poche_mask(hand.picture())
    hand.do("cut_detail")
    hand.settle()
    (cut_id,) = session.detail.cuts
    assert not session.stage.cut(cut_id).on and page.cuts[cut_id].isChecked() and not session.left().faces
    filled = np.argwhere(poche_mask(hand.picture()) & ~whole)[:, ::-1] / whole.shape[1] * hand.stage.width()
    flat = hand.stage.viewport.pixels(part_of(session).left)
    assert len(filled) > 50 and (filled > flat.min(axis=0) - 3).all() and (filled < flat.max(axis=0) + 3).all()
    session.pick(cut=cut_id)
    hand.settle()
    assert "cuts" in hand.window.inspector.cut.words.text() and detail.name in hand.window.inspector.cut.words.text()
    hand.qtbot.waitUntil(lambda: len(hand.window.inspector.cut.list.rows) == 1)  # the list of what it cuts

    # Saved with the project, it comes back; Delete takes it away, and undo brings it back.
    again = Project.model_validate_json(session.project.model_dump_json())
    assert again.stage.details == session.stage.details
    session.pick(detail=detail.id)
    hand.press(Qt.Key.Key_Delete)
    assert not session.stage.details and session.on_stage().pieces == ()
    hand.do("undo")
    assert session.stage.details[0].name == detail.name
