"""The picked cut as a flat drawing beside the stage: it follows, is to scale, and is picked, measured and written in."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from anatome.cuts.flat_view import flat_section
from anatome.notes.free_room import overlaps
from anatome.notes.note import Dimension, Label
from conftest import pixels
from helpers import poche_mask, projected

SPOT = (24.4, 4.0, 4.5)


@pytest.fixture
def flat(hand):
    """The drawing beside the stage, of the cross section."""
    hand.window.contact_sheet.recall("cross")
    hand.window.session.pick(cut="across")
    hand.do("flat_beside")
    drawn(hand)
    return hand.window.flat


def drawn(hand) -> None:
    hand.settle()
    hand.qtbot.waitUntil(lambda: hand.window.flat.drawn, timeout=60_000)


def seen(flat) -> np.ndarray:
    return pixels(flat.grab().toImage())


def at(flat, place) -> np.ndarray:
    return flat.viewport.pixels(np.array(place, float))


def fills(flat, hand) -> None:
    """Every well inside pixel of the section is filled, and none well outside."""
    section = flat_section(hand.window.session.cut, hand.window.session.left().faces)
    picture = seen(flat)
    height, width = picture.shape[:2]
    inside, outside = projected(section, flat.camera(), (width, height), margin=2)
    mask = poche_mask(picture)
    marks = np.abs(picture[..., :3].astype(int) - [0x2F, 0x7F, 0x73]).max(axis=2) < 90  # of other cuts and of the camera
    assert inside.sum() > 200 and (mask | marks)[inside].mean() > 0.94 and mask[outside].mean() < 0.02


def test_it_shows_the_face_of_the_cut_to_scale(hand, large, flat) -> None:
    """The fill lies where the polygons of the section are; at 1:100 ten metres are a hundred millimetres of the screen."""
    panel = hand.window.flat_panel
    assert panel.words.text() == "Section B" and flat.width() > 0.35 * hand.stage.width()
    fills(flat, hand)
    hand.type_into(panel.scale.lineEdit(), "1:100")
    drawn(hand)
    fills(flat, hand)
    ten = at(flat, (24.4, 13.0, 0.0)) - at(flat, (24.4, 3.0, 0.0))
    assert np.hypot(*ten) == pytest.approx(100 / 25.4 * flat.logicalDpiY(), rel=1e-6)
    hand.type_into(panel.scale.lineEdit(), "nonsense")
    assert "not a scale" in hand.window.status.text() and panel.scale.currentText() == "1:100"


def test_it_follows_the_cut_while_that_is_dragged(hand, large, flat, monkeypatch) -> None:
    """Before the press ends, the fill is that of where the plane is then."""
    session, handles = hand.window.session, hand.window.stage_input.overlay.handles
    knob, before = handles.knobs[0], seen(flat)
    for late in (hand.stage._settle, flat._redraw):
        monkeypatch.setattr(late, "start", lambda *_: None)  # nothing is drawn finely meanwhile
    start = np.array(knob.tip)
    hand.drag(hand.stage, start, start + [-60, 20], release=False)
    moved = session.cut.plane.position
    assert moved != pytest.approx(24.4)
    hand.qtbot.waitUntil(lambda: session.is_cut and flat._sketched == flat._background_key(), timeout=10_000)
    hand.qtbot.waitUntil(lambda: (np.abs(seen(flat).astype(int) - before).max(axis=2) > 40).mean() > 0.01, timeout=10_000)
    fills(flat, hand)
    QTest.mouseRelease(hand.stage, Qt.MouseButton.LeftButton)


def test_one_picks_measures_and_writes_in_it(hand, large, flat) -> None:
    session = hand.window.session
    section = flat_section(session.cut, session.left().faces)
    biggest = section.polygons[int(np.argmax(shapely.area(section.polygons) * ~session.building.context[section.element]))]
    left, low, right, high = biggest.bounds
    half = biggest & shapely.box(left, low, left + 0.3 * (right - left), high)  # away from the line of the long section
    inside = session.cut.plane.raised(np.array(shapely.point_on_surface(half).coords[0]))
    hand.click(flat, *at(flat, inside))
    (picked,) = session.picked.elements
    owner = session.building.elements[section.element[list(section.polygons).index(biggest)]].id
    assert picked == owner
    session.pick(cut="across")
    hand.do("measure")
    QTest.mouseMove(flat, QPoint(*map(round, at(flat, SPOT))))
    hand.qtbot.wait(30)
    assert "clear" in hand.window.overlay.preview.measures[0].text  # told on both at once
    corners = section.plane.raised(shapely.get_coordinates(biggest))
    hand.do("note_dimension")
    for place in (corners[0], corners[1]):
        hand.click(flat, *at(flat, place))
    hand.click(flat, *(at(flat, corners[0]) + [30, -30]), modifiers=Qt.KeyboardModifier.ShiftModifier)
    note = session.stage.notes[-1]
    assert isinstance(note, Dimension) and len(note.anchors) == 2
    assert {a.cut for a in note.anchors} == {"across"}
    hand.press(Qt.Key.Key_Escape)
    hand.do("note_label")
    hand.click(flat, *at(flat, inside))
    hand.click(flat, *(at(flat, inside) + [40, -25]))
    label = session.stage.notes[-1]
    assert isinstance(label, Label) and label.offset[0] > 0 and label.offset[1] > 0
    hand.press(Qt.Key.Key_Escape)
    drawn(hand)
    spot = flat.noted.marks(label).words[0].corners().mean(axis=0)
    scale = flat.height() / flat.noted.drawn().height
    hand.drag(flat, (spot[0] * scale, flat.height() - spot[1] * scale), (spot[0] * scale + 30, flat.height() - spot[1] * scale))
    moved = session.stage.note(label.id)
    assert moved.offset[0] == pytest.approx(label.offset[0] + 30 / scale, rel=0.1)


def test_it_is_saved_as_a_scene_and_the_stage_stays(hand, flat) -> None:
    session = hand.window.session
    hand.window.flat_panel._hold(100.0)
    before, camera = len(session.project.scenes), session.stage.camera
    hand.do("save_flat")
    scene = session.project.scenes[-1]
    assert len(session.project.scenes) == before + 1 and session.stage.camera == camera
    assert session.project.current_scene == "cross" and scene.name == "Section B, flat"
    assert not scene.state.camera.is_perspective and scene.state.crop.scale == 100.0
    high = 25.4 * flat.height() / flat.logicalDpiY()
    assert scene.paper[1] == pytest.approx(high, rel=1e-6)
    session.undo()
    assert len(session.project.scenes) == before


def test_small_it_stands_in_the_place_of_the_key_elevation(hand, flat) -> None:
    """With a level cut it is the plan; without a cut it says what to do."""
    window, session = hand.window, hand.window.session
    hand.do("flat_beside")
    assert flat.isVisible() and not window.key_elevation.isVisible()
    window.contact_sheet.recall("plan")
    session.pick(cut=session.stage.cuts[0].id)
    drawn(hand)
    assert flat.sheet.is_plan and flat.sheet.right == pytest.approx([1, 0, 0])
    window.flat_panel.choice.activated.emit(1)
    assert window.key_elevation.isVisible() and window.key_elevation.side == "Right" and not flat.isVisible()
    window.key_elevation_panel.choice.activated.emit(4)
    assert flat.isVisible()
    # Of what is opened or shown anew with it there: the cut that is on, by its name, not one that was picked last and is off.
    session.pick(cut=None)
    window.contact_sheet.recall("cross")
    drawn(hand)
    assert flat.cut.id == "across" and window.flat_panel.words.text() == "Section B"
    window.contact_sheet.recall("exploded")
    hand.qtbot.waitUntil(lambda: window.flat_panel.words.text() == "Section")


def test_notes_cover_none_of_each_other_until_a_scale_is_held(hand, flat) -> None:
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("dressed")
    session.pick(cut=session.stage.cuts[0].id)
    drawn(hand)
    shown = flat.noted.drawn().notes
    assert 3 < len(shown) < len(hand.stage.noted.drawn().notes)
    assert not any(overlaps(a, b) for a, b in itertools.combinations(shown, 2))
    left_out = next(n.id for n in session.stage.notes if n.id not in {marks.note for marks in shown})
    session.pick(notes=[left_out], cut=session.cut.id)
    assert left_out in {marks.note for marks in flat.noted.drawn().notes}  # what is picked is seen
    window.flat_panel._hold(50.0)
    drawn(hand)
    assert len(flat.noted.drawn().notes) == len(hand.stage.noted.drawn().notes)
