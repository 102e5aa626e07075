"""Picking, hiding, ghosts and showing again, in the real window."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from anatome.app.stage.overlay import caption
from anatome.cuts.pieces import all_placed
from helpers import accent_mask

CTRL = Qt.KeyboardModifier.ControlModifier
ALT = Qt.KeyboardModifier.AltModifier


def ids_along(hand, x: float, y: float) -> list[str]:
    session = hand.window.session
    met = all_placed(session.on_stage().parts, *hand.stage.viewport.ray(x, y))
    return [session.building.elements[hit.element].id for hit, _, _ in met]


def rectangle(hand, start, end, modifiers) -> None:
    a, b = QPoint(*start), QPoint(*end)
    QTest.mousePress(hand.stage, Qt.MouseButton.LeftButton, modifiers, a)
    for t in (0.3, 0.7, 1.0):
        QTest.mouseMove(hand.stage, a + (b - a) * t)
        hand.qtbot.wait(10)
    before = hand.window.session.picked.elements
    QTest.mouseRelease(hand.stage, Qt.MouseButton.LeftButton, modifiers, b)
    hand.qtbot.waitUntil(lambda: hand.window.session.picked.elements != before, timeout=10_000)


def test_a_further_click_picks_what_lies_behind(hand) -> None:
    session, stage = hand.window.session, hand.stage
    x, y = stage.width() * 0.55, stage.height() * 0.55
    behind = ids_along(hand, round(x), round(y))
    assert len(behind) > 2
    picked, said = [], []
    for _ in range(3):
        hand.click(stage, x, y)
        picked += session.picked.elements
        said.append(hand.window.status.text())
    assert picked == behind[:3] and said[0].startswith("Picked: ") and said[1].startswith("Behind: ")
    third = session.building.elements[session.building.index_of[behind[2]]]
    where = session.building.storeys[third.storey].name
    assert third.name in said[2] and where in said[2] and said[2].endswith(f"3 of {len(behind)} under the pointer")
    # Alt and the wheel go back and forth; the camera stays.
    camera = session.stage.camera
    at, none = QPointF(round(x), round(y)), Qt.MouseButton.NoButton
    for angle, expected in ((120, behind[1]), (120, behind[0]), (-120, behind[1])):
        event = QWheelEvent(at, at, QPoint(), QPoint(0, angle), none, ALT, Qt.ScrollPhase.NoScrollPhase, False)
        QApplication.sendEvent(stage, event)
        assert session.picked.elements == {expected}
    assert session.stage.camera == camera


def test_rectangles_enclose_touch_and_take_out(hand) -> None:
    session, stage, overlay = hand.window.session, hand.stage, hand.window.overlay
    w, h = stage.width(), stage.height()
    down, up = (round(w * 0.3), round(h * 0.3)), (round(w * 0.6), round(h * 0.6))
    plain = accent_mask(hand.screen()).sum()
    QTest.mousePress(stage, Qt.MouseButton.LeftButton, CTRL, QPoint(*down))
    QTest.mouseMove(stage, QPoint(*up))
    assert overlay.rectangle is not None and overlay.rectangle_encloses
    assert accent_mask(hand.screen()).sum() > plain + w * 0.3
    hand.press(Qt.Key.Key_Escape)  # nothing comes of it
    QTest.mouseRelease(stage, Qt.MouseButton.LeftButton, CTRL, QPoint(*up))
    assert not session.picked.elements and overlay.rectangle is None
    camera = session.stage.camera
    rectangle(hand, down, up, CTRL)
    encloses = session.picked.elements
    rectangle(hand, up, down, CTRL)
    assert len(encloses) > 20 and encloses < session.picked.elements and session.stage.camera == camera
    # By its command, without Ctrl; with Alt what it encloses is taken out again.
    hand.do("pick_rectangle")
    assert hand.window.actions_["pick_rectangle"].isChecked()
    rectangle(hand, down, up, ALT)
    assert not session.picked.elements & encloses and not hand.window.actions_["pick_rectangle"].isChecked()


def test_alike_ones_are_picked_and_hidden_and_ghosts_are_shown_again(hand) -> None:
    window, session = hand.window, hand.window.session
    building = session.building
    tiles = frozenset(e.id for e in building.elements if e.layer == "A-ROOF-TILE")
    one = next(iter(tiles))
    session.pick(elements=frozenset({one}))
    hand.do("pick_layer")
    assert session.picked.elements == tiles
    hand.do("pick_others")
    assert session.picked.elements == frozenset(building.index_of) - tiles
    session.pick(elements=frozenset({one}))
    whole = hand.picture()
    hand.do("hide_layer")
    assert session.stage.hidden == tiles and "85 hidden" in caption(session)[1] + window.parts.aside.text()
    without = hand.picture()
    hand.do("ghosts")
    ghostly = hand.picture().astype(int)
    # A ghost lies between what is behind it and the paper: most of its pixels are lighter than without it, none solid as before.
    changed = np.abs(ghostly - without).max(axis=2) > 4
    assert changed.mean() > 0.01 and (ghostly.sum(axis=2) >= without.sum(axis=2).astype(int))[changed].mean() > 0.6
    assert np.abs(ghostly - whole).max(axis=2)[changed].mean() > 20

    bank = frozenset(e.id for e in building.elements if e.layer == "L-TERRAIN")
    session.pick(elements=bank)
    hand.do("hide")
    tiles |= bank
    hand.settle()

    # Where a ghost alone lies under the pointer it is picked; elsewhere what is solid comes first.
    shown = session.on_stage()
    spots = [(x, y) for x in range(20, hand.stage.width(), 12) for y in range(20, hand.stage.height(), 12)]
    rays = {spot: hand.stage.viewport.ray(*spot) for spot in spots}
    only = next(s for s in spots if all_placed(shown.ghosts, *rays[s]) and not all_placed(shown.parts, *rays[s]))
    both = next(s for s in spots if all_placed(shown.ghosts, *rays[s]) and all_placed(shown.parts, *rays[s]))
    hand.click(hand.stage, *both)
    assert not session.picked.elements & tiles
    hand.click(hand.stage, *only)
    assert len(session.picked.elements & tiles) == 1
    hand.do("show_these")
    assert len(session.stage.hidden) == 85 + 1 - 1
    session.pick(elements=frozenset({next(iter(session.stage.hidden))}))
    assert window.actions_["show_these"].isEnabled()
    hidden = session.stage.hidden
    hand.do("swap_hidden")
    assert session.stage.hidden == frozenset(building.index_of) - hidden
    hand.do("undo")
    hand.do("show_all")
    assert not session.stage.hidden


def test_the_count_says_what_is_not_seen_and_takes_one_there(hand) -> None:
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("ground")
    hand.settle()
    session.pick(elements=frozenset(e.id for e in session.building.elements if e.layer == "A-ROOF-TILE"))
    hand.do("hide")
    text = window.parts.aside.text()
    assert text.startswith("85 hidden, ") and "before cuts" in text
    hand.click(window.parts.aside, 20, 10)
    sheet = window.parts.sheet
    assert sheet.isVisible()
    buttons = {b.text(): b for b in sheet.findChildren(QPushButton)}
    hand.click(buttons["85  A-ROOF-TILE"], 20, 10)
    assert not sheet.isVisible() and {
        session.building.elements[session.building.index_of[i]].layer for i in session.picked.elements
    } == {"A-ROOF-TILE"}
    hand.click(window.parts.aside, 20, 10)
    name = next(b for b in sheet.findChildren(QPushButton) if b.isVisible() and "before Section C" in b.text())
    hand.click(name, 20, 10)
    assert session.picked.cut == "plan"
    hand.click(window.parts.aside, 20, 10)
    back = next(b for b in sheet.findChildren(QPushButton) if b.isVisible() and b.text() == "Show")
    hand.click(back, 20, 10)
    assert not session.stage.hidden and session.stage.active_cuts


def test_fading_what_lies_above_shows_the_storey_through_it(hand) -> None:
    session = hand.window.session
    hand.do("view Axonometric, front left")
    solid = hand.picture().astype(int)
    hand.do("fade_above")
    assert session.stage.faded and session.stage.faded == session.stage.hidden and not session.stage.ghosts
    hand.do("view Axonometric, front left")
    faded = hand.picture().astype(int)
    assert (np.abs(faded - solid).max(axis=2) > 12).mean() > 0.05
    # It belongs to what a scene shows: saved, changed, recalled.
    hand.do("save_scene")
    hand.do("show_all")
    hand.do("return_to_scene")
    hand.settle()
    assert session.stage.faded and (np.abs(hand.picture().astype(int) - faded).max(axis=2) > 12).mean() < 0.01


def test_lengths_are_measured_from_corner_to_corner_and_copied(hand) -> None:
    """The clubroom's floor slab and a cut wall, against the coordinates of the model."""
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("ground")
    hand.settle()
    face = session.on_stage().cut_open.faces[0]
    own = face.section.polygons[~session.building.context[face.section.element]]
    corners = face.plane.raised(np.concatenate([np.array(p.exterior.coords) for p in own]))
    pixels = hand.stage.viewport.pixels(corners)
    inside = ((pixels > 30) & (pixels < [hand.stage.width() - 30, hand.stage.height() - 60])).all(axis=1)
    corners, pixels = corners[inside], pixels[inside]
    far = [int(np.argmin(pixels[:, 0])), int(np.argmax(pixels[:, 0])), int(np.argmin(pixels[:, 1]))]
    hand.press(Qt.Key.Key_M, CTRL | ALT)
    assert window.actions_["measure_points"].isChecked()
    task, middle = window.stage_input.task, pixels.mean(axis=0)
    for number in far:
        towards = pixels[number] + 3 * (middle - pixels[number]) / np.linalg.norm(middle - pixels[number])
        for step in range(9):  # the corner may stick out; a pixel nearer to the middle is on the building
            spot = towards + step * (middle - pixels[number]) / np.linalg.norm(middle - pixels[number])
            if window.stage_input.under(QPointF(*spot)) is not None:
                break
        hand.hover(*spot)
        hand.click(hand.stage, *spot)
    assert len(task.points) == 3
    for point in task.points:  # each is a real corner
        assert np.linalg.norm(corners - point, axis=1).min() < 1e-6
    lengths = [float(np.linalg.norm(b - a)) for a, b in zip(task.points, task.points[1:])]
    assert f"{lengths[-1]:.3f} m" in window.status.text() and "°" in window.status.text()
    assert accent_mask(hand.screen()).sum() > 200  # the dimension lines
    hand.press(Qt.Key.Key_Return)
    assert window.stage_input.task is None
    assert QApplication.clipboard().text().splitlines() == [*(f"{x:.3f} m" for x in lengths), f"{sum(lengths):.3f} m in all"]


def test_what_is_picked_tells_its_properties(hand) -> None:
    window, session = hand.window, hand.window.session
    page = window.inspector.elements
    wall = next(e for e in session.building.elements if e.type == "IfcWall")
    session.pick(elements=frozenset({wall.id}))
    assert "m²" in page.measures.text() and "m³" in page.measures.text()
    box = page.properties
    box.button.click()
    hand.qtbot.waitUntil(lambda: box.tree.topLevelItemCount() > 0, timeout=30_000)
    assert box.tree.topLevelItem(0).text(0) == "Pset_WallCommon"
    box.copy()
    assert (
        QApplication.clipboard().text().splitlines()[0] == "Pset_WallCommon"
        and "LoadBearing\tyes" in QApplication.clipboard().text()
    )
    QTest.keyClicks(box.search, "isext")
    assert box.tree.topLevelItem(0).childCount() == 1 and box.tree.topLevelItem(0).child(0).text(0) == "IsExternal"


def test_all_that_stands_in_the_same_room_is_picked(hand) -> None:
    session, building = hand.window.session, hand.window.session.building
    numbers = building.space_of
    room = int(np.bincount(numbers[numbers >= 0]).argmax())
    inside = {e.id for e, n in zip(building.elements, numbers.tolist()) if n == room}
    one = next(iter(inside))
    session.pick(elements=frozenset({one}))
    hand.do("pick_room")
    assert session.picked.elements == inside - session.stage.hidden and len(inside) > 3
    assert hand.window.status.text().startswith(f"Picked {building.spaces[room].name}, ")
    outside = next(e.id for e, n in zip(building.elements, numbers.tolist()) if n < 0)
    session.pick(elements=frozenset({outside}))
    hand.do("pick_room")
    assert "stands in no room" in hand.window.status.text() and session.picked.elements == {outside}
