"""Styles of notes kept under their names, bends and columns, and the office's defaults, in the real window."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from anatome.app.base.ask import Ask
from anatome.app.document.office import office
from anatome.notes.note import Label, NoteStyle
from anatome.notes.setting import on_face
from anatome.scenes.note_edits import put_notes
from conftest import Hand
from helpers import box


def labelled(hand: Hand, count: int = 6) -> list[str]:
    """Labels on what is cut of the cross section."""
    session = hand.window.session
    hand.window.contact_sheet.recall("cross")
    hand.settle()
    face = max((f for p in session.on_stage().parts for f in p.cut_open.faces), key=lambda f: float(f.poche.areas.sum()))
    order = np.argsort(-face.section.areas)[: 3 * count : 3]
    notes = []
    for number, which in enumerate(order.tolist()):
        place = face.plane.raised(np.array(face.section.polygons[which].representative_point().coords))[0]
        anchor = on_face(session.building, face, place, int(face.section.element[which]))
        notes.append(Label(id=f"n{number}", anchors=(anchor,), text="{material}", offset=(9.0, 9.0)))
    session.apply(put_notes(session.project, notes), "labels")
    return [note.id for note in notes]


def answer(hand: Hand, name: str) -> None:
    """Type a name into the question that is open, and press its button."""
    asks = [widget for widget in hand.window.findChildren(Ask) if widget.isVisible()]
    asks[-1].texts["Name"].setText(name)
    asks[-1].go.click()


def test_a_style_is_kept_given_to_notes_and_to_all(large: Hand) -> None:
    hand, window, session = large, large.window, large.window.session
    first, second, *_ = labelled(hand)
    session.pick(notes=[first])
    row = window.inspector.notes.style_row
    row.ends.setCurrentIndex(row.ends.findData("arrow"))
    row.ends.activated.emit(row.ends.currentIndex())
    row.colour._chosen((0.7, 0.1, 0.1))
    note = session.stage.note(first)
    assert note.style.ends == "arrow" and note.style.colour == (0.7, 0.1, 0.1) and session.stage.note(second).style is None
    row.keep.click()
    answer(hand, "Red arrows")
    (kept,) = session.project.note_styles
    assert kept.name == "Red arrows" and session.stage.note(first).style == kept
    # Given to another one by its name, and seen.
    before = hand.screen().astype(int)
    session.pick(notes=[second])
    row.styles.setCurrentIndex(row.styles.findText("Red arrows"))
    row.styles.activated.emit(row.styles.currentIndex())
    assert session.stage.note(second).style == kept
    session.pick()
    after = hand.screen().astype(int)
    red = (after[..., 0] - after[..., 1] > 60) & (after[..., 0] - after[..., 2] > 60)
    was = (before[..., 0] - before[..., 1] > 60) & (before[..., 0] - before[..., 2] > 60)
    assert red.sum() > was.sum() + 40
    # To all of the scene, and back.
    all_of = window.inspector.overview.notes.style_row
    all_of.styles.setCurrentIndex(all_of.styles.findText("Red arrows"))
    all_of.styles.activated.emit(all_of.styles.currentIndex())
    assert session.stage.note_style == kept
    hand.do("undo")
    assert session.stage.note_style == NoteStyle()


def test_leaders_bend_and_labels_stand_in_columns(large: Hand) -> None:
    hand, session = large, large.window.session
    first, *_ = labelled(hand)
    session.pick(notes=[first])
    hand.do("note_bend")
    for at in (QPoint(200, 120), QPoint(230, 180)):
        QTest.mouseMove(hand.stage, at)
        QTest.mouseClick(hand.stage, Qt.MouseButton.LeftButton, pos=at)
    hand.press(Qt.Key.Key_Return)
    note = session.stage.note(first)
    assert isinstance(note, Label) and len(note.bends) == 2
    leader = hand.stage.noted.marks(note).strokes[0].points
    for at, place in zip((QPoint(200, 120), QPoint(230, 180)), leader[1:3]):
        assert np.abs(hand.stage.noted.paper((at.x(), at.y())) - place).max() < 0.3
    session.pick(notes=[first])
    hand.do("note_straight")
    assert session.stage.note(first).bends == ()
    session.pick()
    hand.do("note_columns")
    marks = [hand.stage.noted.marks(n) for n in session.stage.notes if isinstance(n, Label) and n.leader]
    corners = [m.words[0].corners() for m in marks if m is not None]
    for i, a in enumerate(corners):
        for b in corners[i + 1 :]:
            assert a[:, 1].max() < b[:, 1].min() or b[:, 1].max() < a[:, 1].min() or abs(a[:, 0].mean() - b[:, 0].mean()) > 20
    assert session.history.undo_label.endswith("labels in columns")


def test_a_project_becomes_the_office_s_and_the_next_begins_so(hand: Hand, tmp_path: Path, monkeypatch) -> None:
    monkeypatch.setenv("ANATOME_SETTINGS", str(tmp_path / "settings"))
    window, session = hand.window, hand.window.session
    hand.window.contact_sheet.recall("long")
    style = NoteStyle(name="Ours", height=5.0)
    session.apply(session.project.model_copy(update={"note_styles": (style,)}), "a style")
    look = session.stage.look
    hand.do("office_keep")
    assert office().note_styles == (style,) and len(office().templates) == len(session.project.sheets) > 0
    path = tmp_path / "ours.office.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(path), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(path), ""))
    hand.do("office_save")
    assert path.exists() and "template" in window.status.text()
    # A colleague, who has none yet, takes the file; a model that is opened anew begins so.
    monkeypatch.setenv("ANATOME_SETTINGS", str(tmp_path / "colleague"))
    assert not office().templates
    hand.do("office_load")
    assert len(office().templates) == len(session.project.sheets)
    model = tmp_path / "shed.obj"
    model.write_text(box(0, 0, 0, 4, 3, 3).export(file_type="obj"))
    before = session.opened_as
    window.documents.open(model)
    hand.qtbot.waitUntil(lambda: session.is_open and session.opened_as is not before, timeout=60_000)
    assert session.project.note_styles == (style,) and session.stage.look == look and not session.project.sheets
    assert session.project.titles.organisation == "River Rowing Club"
    hand.do("new_sheet")
    assert window.desk.sheet.paper == office().paper
    said: list[str] = []
    monkeypatch.setattr(window, "tell", lambda text, title="": said.append(text))
    path.write_text("[]")
    hand.do("office_load")
    assert said and "holds no office" in said[0] and len(office().templates) > 0
    # Where those that are kept are damaged, it says so, and the window works on without them.
    (tmp_path / "colleague" / "own.office.json").write_text("{")
    hand.do("office_use")
    assert not office().templates and "are not used" in window.status.text() and "damaged" in window.status.text()
