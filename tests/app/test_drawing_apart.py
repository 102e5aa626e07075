"""Drawing the building apart in the real window: by keys, sliders and numbers, and picking what was moved."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from anatome.app.stage.overlay import caption
from anatome.cuts.pieces import pick_placed
from helpers import poche_mask

CTRL_ALT = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier


def test_storeys_are_drawn_apart_and_closed_again(hand) -> None:
    window, session = hand.window, hand.window.session
    box = window.inspector.overview.apart
    hand.do("view Axonometric, front left")
    hand.settle()
    whole = hand.picture()
    hand.press(Qt.Key.Key_E, CTRL_ALT)
    hand.settle()
    assert list(box.fields) == ["Upper floor", "Roof"] and box.content.isVisible()
    assert "exploded" in caption(session)[1] and session.history.undo_label == "2 storeys exploded"
    apart = hand.picture()
    assert (np.abs(apart.astype(int) - whole).max(axis=2) > 12).mean() > 0.05

    # The roof is picked where it is seen, not where it stands: a ray through its middle there meets it.
    ridge = session.building.bounds_of(np.array([e.layer == "A-ROOF-TILE" for e in session.building.elements]))[1]
    raised = hand.point_on([9.0, 4.0, ridge[2] + box.fields["Roof"].shown - 1.0])
    met = pick_placed(session.on_stage().parts, *hand.stage.viewport.ray(*raised))
    assert met is not None
    hand.click(hand.stage, *raised)
    (picked,) = session.picked.elements
    element = session.building.elements[session.building.index_of[picked]]
    assert session.building.storeys[element.storey].name == "Roof" and picked == session.building.elements[met[0].element].id
    hand.press(Qt.Key.Key_Escape)

    # A cut placed on what was moved stands where that part stands in the building.
    hand.do("place")
    hand.hover(*raised)
    hand.click(hand.stage, *raised)
    plane = session.cut.plane
    here = np.array(hand.window.session.on_stage().parts[met[2]].at_home(met[0]).point)
    assert abs(float(plane.distance(here))) < 1e-6
    hand.do("undo")

    # The slider closes it, in one step to undo; a typed distance moves one group.
    slider = box.opening.slider
    at = QPoint(slider.width() - 9, slider.height() // 2)
    QTest.mousePress(slider, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
    for x in np.linspace(slider.width() - 9, 0, 6):
        QTest.mouseMove(slider, QPoint(round(x), at.y()))
    QTest.mouseRelease(slider, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(0, at.y()))
    assert session.stage.opening == 0.0 and box.opening.share.text() == "0 %"
    hand.settle()
    camera = session.stage.camera
    hand.do("undo")
    assert session.stage.opening == 1.0 and slider.value() == 100 and session.stage.camera == camera
    hand.type_into(box.fields["Roof"], "12")
    assert [g.distance for g in session.stage.exploded.groups][1] == 12.0
    box.direction.setCurrentIndex(2)
    box.direction.activated.emit(2)
    moves = [np.array(p.move)[:3, 3] for p in session.on_stage().parts]
    assert np.allclose(moves[-1], [0, -12, 0])  # to the front
    hand.do("whole_again")
    assert session.stage.exploded is None and box.buttons.isVisible()


def test_groups_are_made_of_what_is_picked_or_listed_and_a_storey_is_lifted_off(hand) -> None:
    window, session = hand.window, hand.window.session
    box = window.inspector.overview.apart
    doors = frozenset(e.id for e in session.building.elements if e.type == "IfcDoor")
    session.pick(elements=doors)
    hand.do("picked_apart")
    session.pick()
    assert list(box.fields) == [f"{len(doors)} picked parts"]
    row = box.add.findText("A-ROOF-TILE")
    box.add.setCurrentIndex(row)
    box.add.activated.emit(row)
    assert [g.name for g in session.stage.exploded.groups] == ["A-ROOF-TILE", f"{len(doors)} picked parts"]
    assert len(session.on_stage().pieces) == 3
    hand.do("whole_again")
    hand.do("view Axonometric, front left")
    hidden = hand.picture()
    hand.press(Qt.Key.Key_L, CTRL_ALT)
    hand.settle()
    assert session.history.undo_label == "Lifted what lies above Ground floor"
    lifted = [e for e, n in zip(session.building.elements, session.stage.exploded.group_of(session.building)) if n == 0]
    assert {"Upper floor", "Roof"} <= {session.building.storeys[e.storey].name for e in lifted if e.storey is not None}
    assert (np.abs(hand.picture().astype(int) - hidden).max(axis=2) > 12).mean() > 0.05
    hand.press(Qt.Key.Key_L, CTRL_ALT)
    assert session.stage.exploded is None


def test_a_cut_parts_the_building_and_turns_a_half_over(hand) -> None:
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("cutaway")
    hand.settle()
    session.pick(cut="along")
    before = poche_mask(hand.picture()).mean()
    page = window.inspector.cut.parting
    hand.click(page.parts, 8, page.parts.height() / 2)
    hand.settle()
    assert session.cut.parting is not None and page.content.isVisible() and len(session.on_stage().pieces) == 2
    assert window.actions_["part_here"].isChecked() and "parted along" in caption(session)[1]
    assert any(face.poche.polygons.size for face in session.left().faces_of("along"))  # what is cut is still told
    row = page.turned.findData("turned over")
    page.turned.setCurrentIndex(row)
    page.turned.activated.emit(row)
    hand.settle()
    parting = session.cut.parting
    assert (parting.turned, parting.way) == ("turned over", "sideways") and page.distance.shown == parting.distance
    # Both halves are looked into: twice the cut face, in a picture that takes in twice the house.
    assert poche_mask(hand.picture()).mean() > 0.55 * before
    hand.type_into(page.distance, "50")
    assert session.cut.parting.distance == 50.0
    hand.press(Qt.Key.Key_P, CTRL_ALT)
    assert session.cut.parting is None and not page.content.isVisible()


def test_groups_go_their_own_ways_and_along_a_line_drawn_on_the_stage(hand, large) -> None:
    """A line of two legs, along the building and upright, is drawn with three clicks; each group stands along it in its order."""
    window, session = hand.window, hand.window.session
    box = window.inspector.overview.apart
    hand.do("view Axonometric, front left")
    hand.press(Qt.Key.Key_E, CTRL_ALT)
    hand.settle()
    menu = box.ways["Roof"].menu()
    menu.aboutToShow.emit()
    next(act for act in menu.actions() if act.text() == "Moved to the back").trigger()
    roof = next(i for i, g in enumerate(session.stage.exploded.groups) if g.name == "Roof")
    assert session.stage.exploded.moved(roof, 1.0) == pytest.approx([0, box.fields["Roof"].shown, 0])
    assert box.ways["Roof"].text() == "↗" and box.ways["Upper floor"].text() == "↑"
    menu.aboutToShow.emit()
    next(act for act in menu.actions() if act.text() == "Earlier in the order").trigger()
    assert session.stage.exploded.order == ("Roof", "Upper floor") and list(box.fields) == ["Roof", "Upper floor"]

    hand.do("apart_along")
    at = hand.stage.rect().center()
    start = np.array([at.x(), at.y()], float)
    hand.hover(*start)
    hand.click(hand.stage, *start)
    (first,) = window.stage_input.task.places
    for corner in (first + [9.0, 0, 0], first + [9.0, 0, 6.0]):
        hand.hover(*hand.point_on(corner))
        assert window.overlay.preview.measures
        hand.click(hand.stage, *hand.point_on(corner))
    hand.press(Qt.Key.Key_Return)
    exploded = session.stage.exploded
    assert window.stage_input.task is None and np.array(exploded.path) == pytest.approx(
        np.array([[9, 0, 0], [9, 0, 6]]), abs=0.06
    )
    places = {g.name: exploded.moved(i, 1.0) for i, g in enumerate(exploded.groups)}
    assert places["Roof"] == pytest.approx([7.5, 0, 0], abs=0.06) and places["Upper floor"] == pytest.approx([9, 0, 6], abs=0.06)
    hand.settle()
    assert len(session.on_stage().lines) >= 8
    hand.do("undo")
    assert session.stage.exploded.path == ()
