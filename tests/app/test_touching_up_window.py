"""Touching up lines in the real window: hidden by a click, dashed, masked; lines and areas of one's own; all of it sent out."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from lxml import etree
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from test_sending_out_pictures import dialog

from anatome.app.send_out.linework import LineworkDialog
from anatome.app.stage.touch_up import TouchLines
from anatome.linework.seen_lines import SeenLines
from anatome.notes.note import Shape
from anatome.notes.touching_up import LineTouchUp, Mask
from anatome.scenes.note_edits import take_notes
from conftest import Hand

SVG = "{http://www.w3.org/2000/svg}"


@pytest.fixture
def section(large: Hand) -> Hand:
    """The long section, as lines on the stage."""
    large.window.contact_sheet.recall("long")
    large.settle()
    return large


def begun(hand: Hand, name: str) -> tuple[TouchLines, SeenLines]:
    hand.do(name)
    task = hand.window.stage_input.task
    assert isinstance(task, TouchLines)
    QTest.mouseMove(hand.stage, QPoint(5, 5))
    hand.qtbot.waitUntil(lambda: task.lines() is not None, timeout=60_000)
    seen = task.lines()
    assert seen is not None
    return task, seen


def pixel(hand: Hand, place: np.ndarray) -> QPoint:
    scale = hand.stage.height() / hand.stage.noted.paper_height()
    return QPoint(round(float(place[0]) * scale), round(hand.stage.height() - float(place[1]) * scale))


def lone_line(hand: Hand, seen: SeenLines) -> tuple[int, QPoint]:
    """(a piece of a line of a part with nothing near its middle, that pixel)."""
    size = np.linalg.norm(seen.pieces[:, 1] - seen.pieces[:, 0], axis=1)
    for piece in np.argsort(-size)[:200].tolist():
        middle = seen.pieces[piece].mean(axis=0)
        arm = seen.pieces[:, 1] - seen.pieces[:, 0]
        share = np.einsum("ij,ij->i", middle - seen.pieces[:, 0], arm) / np.maximum((arm**2).sum(axis=1), 1e-12)
        away = np.linalg.norm(seen.pieces[:, 0] + share.clip(0, 1)[:, None] * arm - middle, axis=1)
        own = seen.drawn.element[seen.of[piece]]
        if own >= 0 and (away < 3.0).sum() == 1 and seen.pieces[piece, :, 1].min() > 20:
            return piece, pixel(hand, middle)
    raise AssertionError("no line stands alone")


def click(hand: Hand, at: QPoint, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
    QTest.mouseMove(hand.stage, at)
    QTest.mouseClick(hand.stage, Qt.MouseButton.LeftButton, modifier, at)


def around(image: np.ndarray, at: QPoint) -> np.ndarray:
    return image[at.y() - 4 : at.y() + 5, at.x() - 4 : at.x() + 5].astype(int)


def test_lines_are_hidden_by_clicks_listed_weighed_and_taken_back(section: Hand) -> None:
    hand, window, session = section, section.window, section.window.session
    before = hand.screen()
    task, seen = begun(hand, "touch_hide")
    assert "Click a line to hide it" in window.overlay.hint
    piece, at = lone_line(hand, seen)
    element = session.building.elements[seen.drawn.element[seen.of[piece]]]
    # Begun where the pointer rests, it is marked without a move as soon as lines are known.
    hand.press(Qt.Key.Key_Escape)
    hand.hover(at.x(), at.y())
    hand.do("touch_hide")
    task = window.stage_input.task
    assert isinstance(task, TouchLines)
    hand.qtbot.waitUntil(lambda: window.overlay.preview is not None and not task.why, timeout=60_000)
    assert task.preview is not None and len(task.preview.notes[0].strokes) >= 1
    click(hand, at)
    assert element.name in session.history.undo_label and session.history.undo_label.endswith("hidden")
    (touch,) = session.stage.touched_up
    assert isinstance(touch, LineTouchUp) and touch.hidden and touch.anchors[0].on == element.id
    hand.press(Qt.Key.Key_Escape)
    after = hand.screen()
    assert hand.stage.shows_unlined
    assert around(before, at).min() < around(after, at).min() - 25  # the line is gone, what it lay on is there
    # The scene keeps it, in its part that is called notes; its picture is out of date until it is saved.
    assert session.project.differs_from_scene
    # Listed; made heavier there, which shows it again; taken back.
    box = window.inspector.overview.notes.touching_up
    box.button.setChecked(True)
    assert box.rows.count() == 1 and element.name in box.rows.item(0).text()
    box.rows.item(0).setSelected(True)
    box.weight.setCurrentIndex(box.weight.findData(1.0))
    box.weight.activated.emit(box.weight.currentIndex())
    assert session.stage.touched_up[0].weight == 1.0 and not session.stage.touched_up[0].hidden
    heavy = hand.screen()
    assert around(heavy, at).mean() < around(before, at).mean() - 5
    box.back.click()
    assert not session.stage.touched_up and box.rows.isHidden()
    again = hand.screen()
    assert np.abs(around(again, at) - around(before, at)).max() < 12
    hand.do("undo")
    assert len(session.stage.touched_up) == 1


def test_all_lines_of_a_part_and_masks_and_shapes_are_in_what_is_sent_out(section: Hand, tmp_path: Path) -> None:
    hand, window, session = section, section.window, section.window.session
    _, seen = begun(hand, "touch_dash")
    _, at = lone_line(hand, seen)
    click(hand, at, Qt.KeyboardModifier.ShiftModifier)
    (whole,) = session.stage.touched_up
    assert isinstance(whole, LineTouchUp) and whole.is_of_part and whole.dashes == "dashed"
    click(hand, at, Qt.KeyboardModifier.ShiftModifier)
    assert not session.stage.touched_up  # once more: as it was
    click(hand, at, Qt.KeyboardModifier.ShiftModifier)
    # A mask over the roof, an area and a line in the plane of the cut.
    hand.do("touch_mask")
    middle = QPoint(at.x(), at.y())
    for dx, dy in ((-30, -30), (30, -30), (30, 30), (-30, 30)):
        click(hand, middle + QPoint(dx, dy))
    hand.press(Qt.Key.Key_Return)
    assert [type(one) for one in session.stage.touched_up] == [LineTouchUp, Mask]
    hand.do("draw_area")
    high = hand.stage.height()
    corners = [QPoint(60, high - 60), QPoint(160, high - 60), QPoint(160, high - 30)]
    for place in corners:
        click(hand, place)
    hand.press(Qt.Key.Key_Return)
    area = session.stage.notes[-1]
    assert isinstance(area, Shape) and area.closed and {a.cut for a in area.anchors} == {session.stage.cuts[0].id}
    assert session.picked.notes == (area.id,) and not window.inspector.notes.shape.isHidden()
    hand.press(Qt.Key.Key_Escape)
    session.pick(notes=[area.id])
    window.inspector.notes.shape.closed.click()
    assert not session.stage.notes[-1].closed
    hand.do("undo")
    hand.do("draw_line")
    QTest.keyClick(hand.stage, Qt.Key.Key_Tab)
    for place in (QPoint(300, 40), QPoint(380, 40)):
        click(hand, place)
    hand.press(Qt.Key.Key_Return)
    line = session.stage.notes[-1]
    assert isinstance(line, Shape) and len(line.points) == 2 and len(line.anchors) == 1
    (x0, y0), (x1, y1) = line.points
    assert (x1 - x0) * hand.stage.height() / hand.stage.noted.paper_height() == pytest.approx(80, abs=1.5) and abs(y1 - y0) < 0.5
    hand.press(Qt.Key.Key_Escape)
    # In a file of the stage's lines, beside one without.
    found, roots = [], []
    for touched in (True, False):
        if not touched:
            hand.do("touch_back")
            session.apply(take_notes(session.project, [area.id, line.id]), "without")
        hand.do("send_linework")
        sending = dialog(LineworkDialog)
        sending.scene.setCurrentIndex(0)
        sending.path.setText(str(tmp_path / f"{touched}.svg"))
        hand.send(sending)
        root = etree.parse(str(tmp_path / f"{touched}.svg")).getroot()
        roots.append(root)
        found.append({g.get("id"): g for g in root.iter(f"{SVG}g") if g.get("id")})
    mine, plain = found
    dashed = [[path for path in root.iter() if path.get("stroke-dasharray") == "2 1"] for root in roots]
    assert dashed[0] and not dashed[1]
    assert len(list(mine["Notes"].iter(f"{SVG}path"))) > 5 and "Notes" not in plain
