"""Switches for everyday, each one press and back; the flat section; isolating that gives back what was hidden."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox

from anatome.cuts.plane import Plane
from anatome.scenes import edits

CTRL, ALT, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ShiftModifier


def on(session) -> set[str]:
    return {cut.id for cut in session.stage.cuts if cut.on}


def test_all_cuts_one_cut_and_back(hand) -> None:
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("long")
    project = session.project
    for name, plane in (("b", Plane((20.0, 5.0, 3.0), (1.0, 0.0, 0.0))), ("c", Plane((0.0, 0.0, 5.0), (0.0, 0.0, 1.0)))):
        project = edits.add_plane(project, plane, name)
    session.apply(edits.change_cut(project, "c", on=False), "Three cuts")
    first = session.stage.cuts[0].id
    cut_open = hand.picture()
    hand.press(Qt.Key.Key_A, CTRL | ALT)
    assert on(session) == set() and "2 cuts off" in window.status.text()
    assert (np.abs(hand.picture().astype(int) - cut_open).max(axis=2) > 12).mean() > 0.2  # the whole building
    hand.press(Qt.Key.Key_A, CTRL | ALT)
    assert on(session) == {first, "b"} and (hand.picture() == cut_open).all()
    session.pick(cut="b")
    hand.press(Qt.Key.Key_I, CTRL | ALT)
    assert on(session) == {"b"} and window.status.text() == f"Only {session.stage.cut('b').name} cuts"
    hand.press(Qt.Key.Key_I, CTRL | ALT)
    assert on(session) == {first, "b"}
    before = session.stage.cuts
    hand.press(Qt.Key.Key_G, CTRL | ALT | SHIFT)
    assert all(cut.graphic for cut in session.stage.cuts)
    hand.press(Qt.Key.Key_F, CTRL | ALT | SHIFT)
    assert not any(cut.poche for cut in session.stage.cuts)
    # Each name in the list has its switch; each press was a step.
    session.pick()
    hand.qtbot.wait(60)
    boxes = [b for b in window.inspector.overview.findChildren(QCheckBox) if b.toolTip() == "Cut on, or off" and b.isVisible()]
    assert [b.isChecked() for b in boxes] == [True, True, False]
    boxes[2].click()
    assert on(session) == {first, "b", "c"}
    for _ in range(3):
        hand.do("undo")
    assert session.stage.cuts == before


def test_the_flat_section_and_the_other_way(hand) -> None:
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("cutaway")
    hand.press(Qt.Key.Key_X, CTRL | ALT)
    cut, camera = session.stage.active_cuts[0], session.stage.camera
    assert not camera.is_perspective and session.true_plane() == cut.axis
    spots = hand.stage.viewport.pixels(session.subject_bounds())
    assert (spots > 0).all() and (spots < [hand.stage.width(), hand.stage.height()]).all()
    session.pick(cut=cut.id)
    hand.press(Qt.Key.Key_T, CTRL | ALT | SHIFT)
    turned, seen = session.stage.cut(cut.id), session.stage.camera
    assert turned.axis.normal == pytest.approx(-np.array(cut.axis.normal), abs=1e-9)
    assert turned.axis.position == pytest.approx(cut.axis.position)
    assert seen.axes[2] == pytest.approx(-np.array(camera.axes[2]) * [1, 1, 0] + np.array(camera.axes[2]) * [0, 0, 1], abs=1e-6)
    assert session.true_plane() == turned.axis and hand.stage.viewport.faces(turned.axis)
    hand.do("undo")
    assert session.stage.camera == camera and session.stage.cut(cut.id) == cut


def test_isolating_gives_back_what_was_hidden(hand) -> None:
    window, session = hand.window, hand.window.session
    elements = session.building.elements
    slabs = frozenset(e.id for e in elements if e.type == "IfcSlab")
    doors = frozenset(e.id for e in elements if e.type == "IfcDoor")
    session.pick(elements=slabs)
    hand.do("hide")
    assert window.status.text().startswith(f"Hidden: {len(slabs)} parts")
    session.pick(elements=doors)
    hand.press(Qt.Key.Key_I, CTRL)
    shown = {e.id for e in elements} - session.stage.hidden
    assert shown == doors and window.actions_["isolate_end"].isEnabled()
    one = min(doors)
    session.pick(elements=frozenset({one}))
    hand.do("hide")  # kept apart: it is shown again afterwards
    session.pick(elements=doors - {one})
    hand.press(Qt.Key.Key_I, CTRL)
    hand.press(Qt.Key.Key_I, CTRL | ALT | SHIFT)
    assert session.stage.hidden == slabs and session.stage.hidden_before is None
    assert window.status.text() == f"Hidden again: {len(slabs)} parts"
    hand.do("show_all")
    assert not session.stage.hidden and f"{len(slabs)} parts" in window.status.text()
    hand.do("undo")
    assert session.stage.hidden == slabs
