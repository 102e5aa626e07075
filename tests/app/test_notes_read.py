"""Notes one can read while one works, instructions of one step each, and sections dressed for the scale of their sheet."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely
from PySide6.QtCore import Qt

from anatome.app.stage.noted import LEGIBLE
from anatome.notes.drawn import marks_of
from anatome.notes.note import Dimension, Level, ScaleBar
from anatome.printing.contents import wanted
from anatome.scenes import edits, note_edits
from anatome.scenes.noted import note_view, paper_of_frame
from anatome.sheets.sheet import SceneFrame
from anatome.view.crop import Crop


def dressed(hand) -> None:
    """Dress what is there, and wait until it is done."""
    before = hand.window.session.project
    hand.qtbot.waitUntil(lambda: hand.window.session.project is not before, timeout=60_000)


def heights(hand) -> np.ndarray:
    """Pixels of the capitals of all that is written on the stage."""
    drawn = hand.stage.noted.drawn()
    pixel = drawn.height / hand.stage.height()
    return np.array([words.height * float(np.hypot(*words.up)) / pixel for note in drawn.sound for words in note.words])


def covers_nothing(marks, box) -> None:
    """Words cover no words and no lines of others, and lie within a box in mm."""
    words = [[shapely.Polygon(w.corners()) for w in one.words] for one in marks]
    for one in words:
        assert all(shapely.contains(shapely.box(*box), shape) for shape in one)
    for (a, own), (b, other) in itertools.permutations(zip(marks, words), 2):
        assert not any(shapely.intersects(x, y) for x in own for y in other), (a.note, b.note)
        lines = [shapely.LineString(s.points) for s in b.strokes if len(s.points) > 1]
        assert not any(shapely.intersects(x, line) for x in own for line in lines), (a.note, b.note)


@pytest.mark.usefixtures("large")
def test_letters_are_read_on_the_stage_and_true_on_paper(hand) -> None:
    window, session, noted = hand.window, hand.window.session, hand.stage.noted
    window.contact_sheet.recall("long")
    hand.settle()
    hand.do("dress")
    dressed(hand)
    assert {n.kind for n in session.stage.notes} >= {"dimension", "label", "level", "scale bar"}
    assert heights(hand).min() >= LEGIBLE - 0.01
    # Nobody has said how large it will be: then nothing covers anything as it is read here.
    covers_nothing(noted.drawn().sound, (0, 0, noted.view().viewport.width, noted.view().viewport.height))
    before = hand.screen()
    hand.do("notes_true")
    assert heights(hand).max() == pytest.approx(2.5 * hand.stage.height() / noted.paper_height(), rel=0.01)
    assert heights(hand).max() < LEGIBLE and (hand.screen() != before).any()
    hand.do("notes_true")
    assert (hand.screen() == before).all()
    assert not session.history.undo_label.startswith("True")  # a way of looking, no step

    # The same in a low, wide crop of no size as yet, in whose corner the scale bar stands.
    crop = Crop(aspect=3.4, height=0.34, at=(0.0, 0.02))
    session.apply(edits.set_crop(session.project.with_stage(notes=()), crop), "crop")
    hand.settle()
    hand.do("dress")
    dressed(hand)
    view = noted.view()
    height = noted.paper_height()
    assert view.picture == pytest.approx([height * side for side in crop.sides(hand.stage.width() / hand.stage.height())])
    assert len(session.stage.notes) > 5
    covers_nothing(noted.drawn().sound, view.picture)
    session.apply(session.project.with_stage(notes=()), "no notes")
    hand.do("note_scale")
    (bar,) = noted.drawn().notes
    assert heights(hand).min() >= LEGIBLE - 0.01
    figures = [shapely.Polygon(words.corners()) for words in bar.words]
    assert not any(shapely.intersects(a, b) for a, b in itertools.combinations(figures, 2))
    points = np.concatenate([stroke.points for stroke in bar.strokes])
    left, bottom, right, top = view.picture
    assert (points >= [left, bottom]).all() and (points <= [right, top]).all()


def test_each_step_has_one_instruction_and_a_ghost_or_a_reason(large) -> None:
    hand, overlay = large, large.window.overlay
    hand.window.contact_sheet.recall("long")
    hand.settle()
    hand.do("note_dimension")
    assert overlay.hint == "Click the first corner"
    hand.hover(20, 20)  # the sky
    assert "point at the building" in overlay.why and not overlay.preview.notes
    dark = hand.screen()[20:50, 30:200].astype(int).sum(axis=2)
    assert (dark < 200).mean() > 0.2  # it is said beside the pointer
    (face,) = (f for part in hand.window.session.on_stage().parts for f in part.cut_open.faces)
    corners = face.plane.raised(shapely.get_coordinates(face.section.polygons))
    for x in (0.14, 19.4):
        near = corners[np.argmin(np.hypot(corners[:, 0] - x, corners[:, 2]))]
        at = hand.point_on(near)
        hand.hover(*at)
        assert overlay.why == ""
        hand.click(hand.stage, *at)
    hand.hover(hand.stage.width() / 2, hand.stage.height() - 90)
    assert overlay.hint == "Click where the line should sit" and overlay.preview.notes and overlay.why == ""
    hand.press(Qt.Key.Key_Escape)
    hand.press(Qt.Key.Key_Escape)
    hand.do("note_room")
    hand.hover(20, 20)
    assert "No room here" in overlay.why
    hand.press(Qt.Key.Key_Escape)
    assert overlay.hint == overlay.why == overlay.also == ""


def test_a_section_is_dressed_for_its_sheet_and_anew_for_another_scale(hand) -> None:
    window, session, desk = hand.window, hand.window.session, hand.window.desk
    sheet = next(s for s in session.project.sheets if any(f.scene == "dressed" for f in s.frames))
    frame = next(f for f in sheet.frames if f.scene == "dressed")
    desk.open(sheet.id)
    session.pick(blocks=[frame.id])
    page = window.inspector.sheet
    hand.qtbot.waitUntil(page.dress.isVisible)
    assert not page.dressed.isVisible()
    hand.type_into(page.scale.lineEdit(), "1:200")
    hand.qtbot.waitUntil(page.dressed.isVisible)
    assert "larger picture" in page.dressed.text()

    def drawn() -> tuple[list, tuple[float, float, float, float]]:
        """The notes as the sheet shows them, and its box."""
        now = session.project.sheet(sheet.id)
        own = now.block(frame.id)
        assert isinstance(own, SceneFrame)
        paper, what = paper_of_frame(session.project, now, own), wanted(own, session.project)
        assert paper is not None and what is not None and what.height == pytest.approx(paper.height, abs=1e-5)
        view = note_view(what.scene.state, session.on_stage(), hand.stage.noted.facts(), what.scene.frame, what.height)
        return [m for n in what.scene.state.notes if (m := marks_of(n, view)) is not None], paper.box

    window.commands.scenes.recall("dressed")
    hand.qtbot.waitUntil(lambda: session.is_cut)
    with pytest.raises(AssertionError):
        covers_nothing(*drawn())  # at 1:200 words lie over one another
    # One note is moved by hand before, in the scene.
    scene = session.project.scene("dressed")
    level = next(n for n in scene.state.notes if isinstance(n, Level))
    session.apply(note_edits.put_notes(session.project, [level.model_copy(update={"shift": level.shift + 14.0})]), "Moved")
    hand.do("replace_scene")
    moved = session.project.scene("dressed").state.note(level.id)
    assert moved.dressed is None
    desk.open(sheet.id)
    session.pick(blocks=[frame.id])
    hand.qtbot.waitUntil(page.dress.isVisible)
    page.dress.click()
    dressed(hand)
    assert "for 1:200 on sheet A-02" in window.status.text() and "1 left as they were" in window.status.text()
    notes = session.project.scene("dressed").state.notes
    assert moved in notes and sum(isinstance(n, ScaleBar) for n in notes) == 1
    marks, box = drawn()
    covers_nothing([m for m in marks if m.note != moved.id], box)
    floors = [n.anchors[0].on for n in notes if isinstance(n, Level)]
    assert len(floors) == len(set(floors))  # what was kept is not said twice
    assert any(isinstance(n, Dimension) and n.overall for n in notes)
    assert session.stage.notes == notes  # the stage shows the scene, and goes along
    assert not page.dressed.isVisible()
    hand.do("undo")
    assert session.project.scene("dressed").state.notes != notes
