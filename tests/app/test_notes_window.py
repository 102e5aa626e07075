"""Notes in the window: written by clicks, seen in the picture, moved, typed, kept with scenes and sent out."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import shapely
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from test_sending_out_pictures import dialog

from anatome.app.send_out.pictures import PictureDialog
from anatome.cuts.cut import SectionPlane
from anatome.notes.note import Angle, Dimension, Label, Level, Radius
from helpers import close_to

CONTROL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def long(large):
    """The long section, seen square on."""
    large.window.contact_sheet.recall("long")
    large.settle()
    return large


def cut_corner(hand, x: float, z: float) -> np.ndarray:
    """(2,) pixels of the corner of the cut face that lies nearest to a place in its plane, metres."""
    session = hand.window.session
    (face,) = (f for part in session.on_stage().parts for f in part.cut_open.faces)
    corners = face.plane.raised(shapely.get_coordinates(face.section.polygons))
    nearest = corners[np.argmin(np.hypot(corners[:, 0] - x, corners[:, 2] - z))]
    return hand.stage.viewport.pixels(nearest)


def point(hand, at) -> None:
    hand.hover(*at)
    hand.click(hand.stage, *at)


def stage_picture(hand) -> np.ndarray:
    """(h, w, 3) the stage with what is written on it."""
    return hand.screen().astype(int)


def test_a_chain_is_clicked_from_cut_corner_to_cut_corner_and_follows_the_cut(long) -> None:
    window, stage, session = long.window, long.stage, long.window.session
    before = stage_picture(long)
    long.do("note_dimension")
    assert window.actions_["note_dimension"].isChecked() and "first corner" in window.overlay.hint
    corners = [cut_corner(long, x, 0.0) for x in (0.14, 19.4, 29.86)]
    for at in corners:
        long.hover(*at)
        assert len(window.overlay.preview.dots) >= 1
        long.click(stage, *at)
    beside = np.array([stage.width() / 2, corners[0][1] + 70.0])
    long.hover(*beside)
    assert "cut face" in window.overlay.also
    (ghost,) = window.overlay.preview.notes  # it is seen before it is placed
    assert len(ghost.measured) == 3
    long.click(stage, *beside)
    (note,) = session.stage.notes
    assert isinstance(note, Dimension) and {a.cut for a in note.anchors} == {session.stage.cuts[0].id}
    spots = np.array([a.place for a in note.anchors])
    long.press(Qt.Key.Key_Escape)
    assert long.window.stage_input.task is None
    marks = stage.noted.marks(note)
    told = [float(m.words.text) for m in marks.measured]
    assert told[:2] == pytest.approx(np.round(np.diff(spots[:, 0]), 2)) and told[2] == pytest.approx(
        np.round(np.ptp(spots[:, 0]), 2)
    )
    # The line is where it was clicked, in ink.
    after = stage_picture(long)
    changed = np.abs(after - before).max(axis=2) > 20
    row = round(float(beside[1]))
    assert changed[row - 1 : row + 2, int(corners[0][0]) + 4 : int(corners[2][0]) - 4].any(axis=0).mean() > 0.97
    # It goes along with the cut, and says what is there then.
    cut = session.stage.cuts[0]
    assert isinstance(cut, SectionPlane)
    session.pick(cut=cut.id)
    for _ in range(3):
        QTest.keyClick(stage, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    long.settle()
    moved = session.stage.cuts[0]
    view = stage.noted.view()
    places = np.array([view.met(a).place for a in session.stage.notes[0].anchors])
    assert moved.axis != cut.axis and np.abs(moved.axis.distance(places)).max() < 1e-9
    assert float(stage.noted.marks(session.stage.notes[0]).measured[0].words.text) == told[0]
    session.undo()
    # Gone with its cut, and kept.
    session.pick(cut=cut.id)
    long.do("delete_cut")
    long.settle()
    assert len(session.stage.notes) == 1 and stage.noted.gone() and "no longer" in window.inspector.overview.notes.gone.text()
    session.undo()
    assert not stage.noted.gone()
    # Scenes keep it, and it is switched off.
    long.do("save_scene")
    window.contact_sheet.recall("long")
    assert session.stage.notes == ()
    session.recall_scene(session.project.scenes[-1].id, stage.aspect)
    assert session.stage.notes == (note,)
    long.do("notes_shown")
    long.settle()
    bare = stage_picture(long)
    assert (np.abs(bare - before).max(axis=2) > 60).mean() < 0.004
    window.commands.scenes.duplicate_scene(session.project.scenes[-1].id, notes=False)
    assert session.project.scenes[-1].state.notes == () and session.project.scenes[-2].state.notes == (note,)


def test_labels_levels_rooms_and_rounds_are_written_moved_typed_and_taken_away(long) -> None:
    window, stage, session = long.window, long.stage, long.window.session
    wall = cut_corner(long, 19.4, 3.4)
    long.do("note_label")
    point(long, wall + [4, 30])
    long.hover(*(wall + [-120, -60]))
    assert len(window.overlay.preview.notes) == 1
    long.click(stage, *(wall + [-120, -60]))
    (label,) = session.notes
    part = session.building.elements[session.building.index_of[label.anchors[0].on]]
    assert isinstance(label, Label) and stage.noted.marks(label).words[0].text == part.name
    assert window.inspector.notes.isVisible() and part.name in window.inspector.notes.facts.text()
    long.press(Qt.Key.Key_Escape)
    # Picked it is in the accent; dragged it goes along, and that is one step.
    session.pick(notes=[label.id])
    words = stage.noted.marks(label).words[0]
    scale = stage.height() / stage.noted.paper_height()
    centre = words.corners().mean(axis=0) * [scale, -scale] + [0, stage.height()]
    assert close_to(stage_picture(long), np.array([0xD6, 0xE6, 0xE1]), 3).sum() > 100
    long.drag(stage, centre, centre + [30, 25])
    now = session.stage.note(label.id)
    assert np.subtract(now.offset, label.offset) == pytest.approx(np.array([30, -25]) / scale, abs=0.5)
    session.undo()
    assert session.stage.note(label.id) == label
    stage.setFocus()
    QTest.keyClick(stage, Qt.Key.Key_Right)
    assert session.stage.note(label.id).offset[0] == pytest.approx(label.offset[0] + 1.0)
    # Its words are typed where it stands, with what the part has.
    QTest.mouseDClick(stage, Qt.MouseButton.LeftButton, pos=QPoint(*(int(v) for v in centre + [scale, 0])))
    field = window.stage_input.words
    assert field.isVisible() and field.toPlainText() == "{name}"
    QTest.keyClicks(field, "of {material}")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert not field.isVisible() and stage.noted.marks(session.stage.note(label.id)).words[0].text == f"of {part.material}"
    # Levels and rooms.
    long.do("note_level")
    point(long, cut_corner(long, 29.86, 3.4))
    assert isinstance(session.stage.notes[-1], Level)
    assert stage.noted.marks(session.stage.notes[-1]).words[0].text.startswith("+3.")
    long.do("note_room")
    hall = stage.viewport.pixels(np.array([10.0, 6.2, 3.0]))
    point(long, hall)
    room = session.stage.notes[-1]
    assert [w.text for w in stage.noted.marks(room).words] == ["Boat hall", "225.7 m²"]
    long.do("note_angle")
    for x, z in ((0.14, 0.0), (19.4, 0.0), (0.14, 6.4)):
        point(long, cut_corner(long, x, z))
    point(long, stage.viewport.pixels(np.array([2.0, 6.2, 1.5])))
    assert isinstance(session.stage.notes[-1], Angle) and stage.noted.marks(session.stage.notes[-1]).words[0].text == "90.0°"
    long.do("note_radius")
    for x, z in ((0.14, 0.0), (19.4, 0.0)):
        point(long, cut_corner(long, x, z))
    QTest.keyClick(stage, Qt.Key.Key_Tab)
    assert "diameter" in window.overlay.hint
    point(long, cut_corner(long, 29.86, 3.4))
    assert isinstance(session.stage.notes[-1], Radius)
    long.press(Qt.Key.Key_Escape)
    # Several are picked with Ctrl and lined up.
    kept = [n for n in session.stage.notes if isinstance(n, Label)]
    session.pick()
    for note in kept:
        spot = stage.noted.marks(note).words[0].corners().mean(axis=0) * [scale, -scale] + [0, stage.height()]
        long.click(stage, *spot, modifiers=CONTROL)
    assert set(session.picked.notes) == {n.id for n in kept} and "2 notes" in window.inspector.notes.title.text()
    long.do("note_align_across")
    middles = [stage.noted.marks(session.stage.note(n.id)).words[0].corners()[:, 1].mean() for n in kept]
    assert middles[0] == pytest.approx(middles[1], abs=0.01)
    count = len(session.stage.notes)
    stage.setFocus()
    long.do("note_take")
    assert len(session.stage.notes) == count - 2 and not session.picked.notes
    session.undo()
    assert len(session.stage.notes) == count
    # A rectangle with Ctrl and Shift: down it takes what it encloses, up what it touches; with Alt it takes out.
    session.pick()
    spots = np.array([m.words[0].corners().mean(axis=0) * [scale, -scale] + [0, stage.height()] for m in marks_of(long, kept)])
    low, high = spots.min(axis=0) - [20, 14], spots.max(axis=0) + [20, 14]
    both = CONTROL | Qt.KeyboardModifier.ShiftModifier
    long.drag(stage, [low[0], high[1]], [high[0], low[1]], modifiers=both)
    touched = set(session.picked.notes)
    assert {n.id for n in kept} <= touched and not session.picked.elements
    long.drag(stage, [4, 4], [stage.width() - 4, stage.height() - 60], modifiers=both)
    assert set(session.picked.notes) >= touched
    long.drag(stage, [4, 4], [stage.width() - 4, stage.height() - 60], modifiers=both | Qt.KeyboardModifier.AltModifier)
    assert not session.picked.notes
    long.do("pick_notes_in")
    assert window.actions_["pick_notes_in"].isChecked()
    long.drag(stage, [4, 4], [stage.width() - 4, stage.height() - 60])
    assert session.picked.notes and not window.actions_["pick_notes_in"].isChecked()


def marks_of(hand, notes):
    return [hand.stage.noted.marks(hand.window.session.stage.note(n.id)) for n in notes]


@pytest.mark.long
def test_a_section_is_dressed_in_one_step_and_sent_out_with_it(long, tmp_path: Path) -> None:
    window, session = long.window, long.window.session
    long.do("dress")
    long.qtbot.waitUntil(lambda: len(session.stage.notes) > 5, timeout=30_000)
    assert "Dressed Section A" in window.status.text()
    written = session.stage.notes
    assert {"dimension", "level", "label", "scale bar"} <= {n.kind for n in written}
    said = {w.text for n in long.stage.noted.drawn().sound for w in n.words}
    assert {"Boat hall", "Clubroom", "Stair hall", "3.40", "±0.00"} <= said
    long.do("dress")  # once more adds nothing that would cover anything
    long.qtbot.waitUntil(lambda: "Dressed" in window.status.text() and len(session.stage.notes) >= len(written), timeout=30_000)
    session.undo()
    long.do("save_scene")
    pictures = {}
    for name, on in (("with", True), ("without", False)):
        long.do("send_picture")
        sending = dialog(PictureDialog)
        sending.width_px.setValue(1500)
        sending.ground.setCurrentIndex(sending.ground.findData("white"))
        assert sending.notes.isVisible() and sending.notes.isChecked()
        sending.notes.setChecked(on)
        sending.path.setText(str(tmp_path / f"{name}.png"))
        long.send(sending)
        pictures[name] = np.array(Image.open(tmp_path / f"{name}.png").convert("RGB")).astype(int)
    changed = np.abs(pictures["with"] - pictures["without"]).max(axis=2) > 40
    height = changed.shape[0]
    scale = height / session.paper_height()
    for note in long.stage.noted.drawn().sound:
        for words in note.words:
            low, high = words.corners().min(axis=0) * scale, words.corners().max(axis=0) * scale
            part = changed[int(height - high[1]) : int(height - low[1]) + 1, int(low[0]) : int(high[0]) + 1]
            assert part.mean() > 0.04, words.text
    assert session.project.scenes[-1].state.notes == written
