"""Panels and dialogs one by one, with mouse and keys."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QFileDialog, QLineEdit, QMenu, QMessageBox, QPushButton, QWidget

from anatome.app.base.calm_fields import KNOWN
from anatome.app.commands.all import MENUS
from anatome.app.document.recent import Recent
from anatome.app.panels.inspector.later import LaterFold
from anatome.app.panels.inspector.page import Fold, Page
from anatome.app.send_out.drawings import DrawingDialog
from anatome.app.send_out.pictures import PictureDialog
from anatome.app.stage.overlay import mark_box
from anatome.app.window.finder import Finder
from anatome.app.window.keys import KeysDialog
from anatome.app.window.main_window import MainWindow
from anatome.cuts.cut import SectionPlane
from anatome.cuts.kinds.grip import plane_frame
from anatome.cuts.plane import Plane
from anatome.demo.shipped import PROJECT
from anatome.look.shipped import first_look
from anatome.scenes.storage import load_project
from anatome.words import plain_type
from helpers import close_to, poche_mask

FRONT = (4.6, -0.13, 4.0)


def dialog(kind: type[QWidget]) -> QWidget:
    return next(w for w in QApplication.topLevelWidgets() if isinstance(w, kind) and w.isVisible())


def wheel(widget: QWidget, at, steps: int) -> None:
    place = QPointF(*at)
    QApplication.sendEvent(
        widget,
        QWheelEvent(
            place,
            widget.mapToGlobal(place),
            QPoint(),
            QPoint(0, 120 * steps),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        ),
    )


# Inspector -----------------------------------------------------------------------------------------------------


def test_the_cut_page_names_marks_and_measures(hand) -> None:
    session, page = hand.window.session, hand.window.inspector.cut
    hand.place(*hand.point_on(FRONT))
    page.place.fields["move"].entered.emit(6.2)
    for line, text in ((page.name, "Through the stair"), (page.mark, "S")):
        line.setFocus()
        line.selectAll()
        QTest.keyClicks(line, text)
        QTest.keyClick(line, Qt.Key.Key_Return)
    assert (session.cut.name, session.cut.mark) == ("Through the stair", "S")
    face = session.left().faces[0]
    page.list.fill()
    assert page.words.text() == "Looks north."
    assert page.list.total.text() == f"{len(np.unique(face.poche.element))} parts, {face.poche.areas.sum():.2f} m² in all"
    # The wheel over a number does nothing until the pointer is on it or it has the focus.
    wheel(page.place.fields["move"], (10, 8), 1)
    page.place.fields["move"].setFocus()
    wheel(page.place.fields["move"], (10, 8), 2)
    wheel(page.place.fields["move"], (10, 8), 1)
    assert session.cut.plane.position == pytest.approx(6.30)
    hand.do("undo")
    assert session.cut.plane.position == pytest.approx(6.2)  # a run of the wheel is one step
    hand.do("redo")
    page.place.fields["move"].entered.emit(6.25)
    QTest.keyClick(page.place.fields["move"], Qt.Key.Key_Down)
    assert session.cut.plane.position == pytest.approx(6.20)
    page.place.fields["move"].selectAll()
    QTest.keyClicks(page.place.fields["move"], "somewhere")
    QTest.keyClick(page.place.fields["move"], Qt.Key.Key_Return)
    assert session.cut.plane.position == pytest.approx(6.20) and page.place.fields["move"].property("bad")
    QTest.keyClick(page.place.fields["move"], Qt.Key.Key_Escape)
    assert page.place.fields["move"].text() == "6.200 m" and not page.place.fields["move"].property("bad")


@pytest.mark.parametrize(
    "normal, words",
    [
        ((0, -1, 0), "Looks north"),
        ((1, 0, 0), "Looks west"),
        ((-1, -1, 0), "Looks north-east"),
        ((0, 0, 1), "Looks down"),
        ((0, 0, -1), "Looks up"),
        ((0, 1, 1), "Looks south, tilted 45° down"),
    ],
)
def test_directions_in_words(normal, words: str) -> None:
    assert SectionPlane(id="c", name="C", mark="C", plane=Plane((0, 0, 0), normal)).direction == words


@pytest.mark.usefixtures("large")
def test_the_page_of_the_picture_fits_and_its_sections_stay_as_they_were_left(hand, qtbot) -> None:
    window, overview = hand.window, hand.window.inspector.overview
    window.contact_sheet.recall("long")
    hand.settle()
    bar = window.inspector.verticalScrollBar()
    assert bar.maximum() == 0 and overview.framing.isVisible() and not overview.crop.isVisible()
    crop = next(fold for fold in overview.findChildren(Fold) if fold.name == "Crop and paper")
    QTest.mouseClick(crop.button, Qt.MouseButton.LeftButton)
    assert overview.crop.isVisible()
    qtbot.waitUntil(lambda: bar.maximum() > 0)
    other = MainWindow()
    qtbot.addWidget(other)
    assert next(f for f in other.inspector.overview.findChildren(Fold) if f.name == "Crop and paper").open
    QTest.mouseClick(crop.button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bar.maximum() == 0)


def test_what_nobody_looks_at_is_not_made(fresh) -> None:
    """A page when something is picked, a section when it is unfolded; how its own sections were left is known then."""
    window, session, qtbot = fresh.window, fresh.window.session, fresh.qtbot
    inspector, overview = window.inspector, window.inspector.overview
    assert inspector.findChildren(Page) == [overview]
    window._settings.setValue("fold Colours", True)
    window.commands.files.open_demo()
    qtbot.waitUntil(lambda: session.is_open and not window.documents.busy, timeout=60_000)
    section = next(fold for fold in overview.findChildren(Fold) if fold.name == "Look")
    assert not section.content.findChildren(QComboBox)
    QTest.mouseClick(section.button, Qt.MouseButton.LeftButton)
    assert overview.look.name.text() == session.stage.look.name and overview.look.name.isVisible()
    assert overview.look.swatches["paper"].isVisible() and all(box.property(KNOWN) for box in section.findChildren(QComboBox))
    finder = Finder(window, window._findables)
    finder.open()
    qtbot.waitUntil(lambda: all(fold.is_made for fold in overview.findChildren(LaterFold)))
    finder.reject()
    session.pick(cut=session.stage.cuts[0].id)
    assert set(inspector.findChildren(Page)) == {overview, inspector.cut} and inspector.cut.isVisible()


@pytest.mark.usefixtures("large")
def test_the_overview_frames_and_dresses_the_picture(hand) -> None:
    session, page = hand.window.session, hand.window.inspector.overview
    target = np.array(session.stage.camera.target)
    before = session.stage.camera.height
    page.framing.fields["field"].entered.emit(20.0)
    assert session.stage.camera.field == 20 and session.stage.camera.height == pytest.approx(before)
    assert np.array(session.stage.camera.target) == pytest.approx(target)
    page.parallel.click()
    assert session.stage.camera.projection == "parallel" and page.parallel.isChecked()
    hand.click(next(b for b in page.chooser.front if b.name == "Front"), 5, 5)
    assert session.stage.camera.axes[2] == pytest.approx([0, -1, 0], abs=1e-9)
    hand.do("view Top")
    assert session.stage.camera.axes[2] == pytest.approx([0, 0, 1], abs=1e-9)
    coloured = hand.picture()
    surfaces = page.look.choices["surfaces"]
    surfaces.setCurrentIndex(surfaces.findData("white"))
    surfaces.activated.emit(surfaces.currentIndex())
    assert session.stage.look.surfaces == "white"
    plain = hand.picture()
    spread = np.ptp(plain.astype(int), axis=2)
    assert np.ptp(coloured.astype(int), axis=2).mean() > 2 * spread.mean()
    hand.do("view Axonometric, front left")
    session.look_from(session.stage.camera.zoomed(0.3, target))  # the ground shows beyond the terrain
    page.look.switches["shade"].click()  # which scenes of tests have not
    for key in ("edges", "ground", "shade"):
        before = hand.picture()
        page.look.switches[key].click()
        lighter = hand.picture().astype(int) - before  # none of them adds anything dark
        assert (lighter > 8).any(axis=2).mean() > 0.002 and (lighter < -8).any(axis=2).mean() < 0.002, key
    assert session.history.undo_label == "Soft shade off"


def test_picked_parts_are_explained(hand) -> None:
    session, page = hand.window.session, hand.window.inspector.elements
    walls = [e for e in session.building.elements if e.type == "IfcWall"]
    session.pick(elements=frozenset({walls[0].id}))
    assert page.title.text() == walls[0].name and "Timber frame" in page.facts.text() and walls[0].id in page.measures.text()
    session.pick(elements=frozenset(w.id for w in walls))
    assert page.title.text() == f"{len(walls)} parts" and f"{len(walls)} wall" in page.facts.text()
    assert plain_type("IfcStairFlight") == "Stair flight" and plain_type("Part") == "Part"


# The stage -----------------------------------------------------------------------------------------------------


def test_picking_a_cut_again_by_its_mark_its_frame_or_its_face(hand) -> None:
    session, overlay = hand.window.session, hand.window.overlay
    hand.place(*hand.point_on(FRONT))
    hand.window.inspector.cut.place.fields["move"].entered.emit(6.2)
    cut_id = session.cut.id
    frame = plane_frame(session.cut.plane, session.building.subject_bounds(session.shown()))
    corners = hand.stage.viewport.pixels(frame)
    session.pick()
    assert overlay.handles is None
    disc = mark_box(corners, hand.stage.width(), hand.stage.height()).center()
    hand.click(hand.stage, disc.x(), disc.y())
    assert session.picked.cut == cut_id
    session.pick()
    face = session.left().faces[0].section
    largest = face.polygons[np.argmax(face.areas)].representative_point()
    place = hand.point_on(face.plane.raised(np.array([largest.x, largest.y])))
    QTest.mouseDClick(hand.stage, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(*map(round, place)))
    assert session.picked.cut == cut_id


def test_a_right_click_offers_what_to_do_with_a_part(hand) -> None:
    hand.click(hand.stage, *hand.point_on(FRONT), button=Qt.MouseButton.RightButton)
    menu = next(w for w in QApplication.topLevelWidgets() if isinstance(w, QMenu) and w.isVisible())
    assert [a.text() for a in menu.actions() if a.text()][:2] == ["Hide", "Isolate"]
    menu.actions()[0].trigger()
    menu.close()
    assert len(hand.window.session.stage.hidden) == 1


@pytest.mark.usefixtures("large")
def test_the_coarse_picture_while_moving_is_the_fine_one_in_the_rough(hand) -> None:
    session = hand.window.session
    before = hand.picture()
    with hand.qtbot.waitSignal(hand.stage.drawn, timeout=10_000):
        session.look_from(session.stage.camera.orbited(5, 0))
    assert not hand.stage.settled
    rough = hand.now().astype(int)
    fine = hand.picture()
    assert (np.abs(rough - fine).max(axis=2) > 12).mean() > 0.01 and np.abs(rough - fine).mean() < 12
    assert np.abs(rough - fine).mean() < 0.7 * np.abs(before.astype(int) - fine).mean()  # it is of where the camera is now
    assert (hand.picture() == fine).all()


# Contact sheet and welcome -------------------------------------------------------------------------------------


def test_scenes_are_renamed_in_place_and_offered_a_menu(hand) -> None:
    session, sheet = hand.window.session, hand.window.contact_sheet
    sheet.setCurrentIndex(sheet.scenes.index(2))
    sheet.setFocus()
    QTest.keyClick(sheet, Qt.Key.Key_F2)
    editor = sheet.findChild(QLineEdit)
    editor.selectAll()
    QTest.keyClicks(editor, "Seen from above")
    QTest.keyClick(editor, Qt.Key.Key_Return)
    hand.qtbot.waitUntil(lambda: session.project.scenes[2].name != "Axonometric cutaway")
    assert session.project.scenes[2].name == "Seen from above"
    scene = session.project.scenes[2].id
    hand.window.menus.scene(scene, QPoint(200, 200))
    menu = next(w for w in QApplication.topLevelWidgets() if isinstance(w, QMenu) and w.isVisible())
    assert [a.text() for a in menu.actions() if a.text()] == [
        "Recall",
        "Replace by what the stage shows",
        "Rename",
        "Duplicate",
        "Lock",
        "Keep its linework",
        "Delete",
    ]
    menu.actions()[3].trigger()
    menu.close()
    assert [s.name for s in session.project.scenes][2:4] == ["Seen from above", "Seen from above copy"]
    first, copy = session.project.scenes[2:4]
    assert session.pictures.get(copy) and session.pictures.get(copy) == session.pictures.get(first)


def test_lately_opened_projects_come_back_as_pictures(empty, tmp_path: Path) -> None:
    path = tmp_path / "club.anatome"
    path.write_bytes(PROJECT.read_bytes())
    Recent().add(path)
    empty.window.welcome.refresh()
    button = next(b for b in empty.window.welcome.findChildren(QPushButton) if b.text().strip() == "club")
    assert not button.icon().isNull()
    button.click()
    empty.qtbot.waitUntil(lambda: empty.window.session.is_open, timeout=60_000)
    assert empty.window.session.project_path == path
    path.unlink()
    assert path not in Recent().entries()


# Sending out and saving ----------------------------------------------------------------------------------------


def test_dialogs_say_what_is_wrong_and_stay_open(hand, tmp_path: Path) -> None:
    hand.window.contact_sheet.recall("long")
    hand.do("send_drawing")
    drawing = dialog(DrawingDialog)
    drawing.scale.setCurrentText("one to fifty")
    hand.send(drawing)
    assert drawing.isVisible() and "not a scale" in drawing.problem.text()
    drawing.scale.setCurrentText("1:100")
    drawing.path.setText(str(tmp_path / "no" / "cut.svg"))
    hand.send(drawing)
    assert drawing.isVisible() and "could not be written" in drawing.problem.text()
    drawing.reject()
    hand.do("send_picture")
    picture = dialog(PictureDialog)
    assert picture.height_px.value() == round(4000 / 1.5)
    picture.height_px.setValue(300)
    picture.height_px.editingFinished.emit()
    assert picture.width_px.value() == 450
    picture.ground.setCurrentIndex(1)
    picture.path.setText(str(tmp_path / "long.png"))
    hand.send(picture)
    with Image.open(tmp_path / "long.png") as made:
        pixels = np.array(made)
    assert pixels.shape == (300, 450, 3) and poche_mask(pixels).mean() > 0.1


def test_the_model_can_stay_outside_the_project(hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    window = hand.window
    inside, outside = tmp_path / "inside.anatome", tmp_path / "outside.anatome"
    assert window.actions_["embed"].isChecked()  # as the demo project is
    (tmp_path / "boathouse.ifc").write_text("another model of that name")
    for path, embed in ((inside, True), (outside, False)):
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, path=path: (str(path), ""))
        if window.actions_["embed"].isChecked() is not embed:
            window.actions_["embed"].trigger()
        assert window.commands.files.save_as()
        hand.saved()
    assert load_project(inside).model and load_project(outside).model is None
    assert (tmp_path / "boathouse.ifc").read_text() == "another model of that name"
    assert (tmp_path / "boathouse 2.ifc").exists() and outside.stat().st_size < inside.stat().st_size
    window.commands.files.open_path(outside)
    hand.qtbot.waitUntil(lambda: not window.documents.busy, timeout=60_000)
    assert window.session.project_path == outside and len(window.session.building.elements) > 600
    (tmp_path / "boathouse 2.ifc").unlink()
    window.commands.files.open_path(outside)
    hand.qtbot.waitUntil(lambda: any(w.isVisible() for w in window.findChildren(QMessageBox)), timeout=30_000)
    box = next(w for w in window.findChildren(QMessageBox) if w.isVisible())
    assert "is not there" in box.text() and window.session.is_open
    box.close()


@pytest.mark.parametrize(
    "choice, leaves, saves", [("Save", True, True), ("Leave without saving", True, False), ("Go on working", False, False)]
)
def test_unsaved_work_is_asked_about(hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, choice, leaves, saves) -> None:
    window, path = hand.window, tmp_path / "club.anatome"
    window.commands.files.write(path)
    hand.saved()
    before = path.read_bytes()
    window.commands.view.toggle_projection()
    assert MainWindow.may_close(window)  # looking round is nothing to save
    hand.place(*hand.point_on(FRONT))
    assert "•" in window.windowTitle() and "•" in window.title.text()

    def answer(box: QMessageBox) -> int:
        button = next(b for b in box.buttons() if b.text() == choice)
        monkeypatch.setattr(QMessageBox, "clickedButton", lambda self: button)
        return 0

    monkeypatch.setattr(QMessageBox, "exec", answer)
    assert MainWindow.may_close(window) is leaves
    assert (path.read_bytes() != before) is saves


# The whole window ----------------------------------------------------------------------------------------------


def test_every_action_is_in_a_menu_or_the_header_and_has_words(empty) -> None:
    actions = empty.window.actions_
    header = {"undo", "redo", "save_scene"}

    def words_in(menu: QMenu) -> list[str]:
        return [w for a in menu.actions() for w in (words_in(a.menu()) if a.menu() else [a.text()])]

    def all_menus(menu: QMenu) -> list[QMenu]:
        return [menu, *(inner for a in menu.actions() if a.menu() for inner in all_menus(a.menu()))]

    menus = {name: button.menu() for name, button in empty.window.menu_buttons.items()}
    for menu in (inner for top in menus.values() for inner in all_menus(top)):
        words = [a.text() for a in menu.actions() if not a.isSeparator()]
        assert len(words) == len(set(words)) <= 18 and menu.sizeHint().height() < 700, words
    shown = {name: words_in(menu) for name, menu in menus.items()}
    assert list(shown) == list(MENUS)
    for entry in actions.entries():
        assert entry.tip and entry.text
        if entry.name not in header and not entry.name.startswith("scene ") and entry.name != "step_back":
            assert entry.text in shown[entry.menu], entry.name
    keys = [k.toString() for e in actions.entries() for k in actions[e.name].shortcuts()]
    # Delete is for what is picked, of which there is only one at a time.
    assert sorted(k for k in keys if keys.count(k) > 1) == ["Del"] * 7
    assert not [k for k in keys if len(k) == 1]  # no letter alone, so that numbers can be typed at a cut
    empty.window.show_keys()
    assert dialog(KeysDialog).height() < 760


def test_no_page_of_the_inspector_is_wider_than_its_place(large) -> None:
    """In every scene, with all sections unfolded and each kind of thing picked, nothing is cut off at the side."""
    window, session = large.window, large.window.session
    inspector = window.inspector

    def check(what: str) -> None:
        while inspector.make_next():
            pass
        for fold in inspector.findChildren(Fold):
            fold.button.setChecked(True)
        QApplication.processEvents()
        wide = inspector.viewport().width()
        for widget in inspector.findChildren(QWidget):
            if widget.isVisible() and inspector.widget().isAncestorOf(widget):
                right = widget.mapTo(inspector.viewport(), QPoint(widget.width(), 0)).x()
                assert right <= wide + 1, (what, type(widget).__name__, right, wide, getattr(widget, "text", str)())

    for scene in session.project.scenes:
        window.contact_sheet.recall(scene.id)
        check(scene.name)
        stage = session.stage
        things = [{"cut": cut.id} for cut in (*stage.cuts, *stage.series)]
        things += [{"notes": [stage.notes[0].id]}] if stage.notes else []
        for picked in things:
            session.pick(**picked)
            check(f"{scene.name}: {picked}")
    session.pick(elements=frozenset(e.id for e in session.building.elements if e.type == "IfcDoor"))
    check("parts")
    session.pick(figure=session.project.site.figures[0].id)
    check("a figure")
    for fold in inspector.findChildren(Fold):
        fold.button.setChecked(fold.open_at_first)


@pytest.mark.long
@pytest.mark.parametrize("scale, size", [("1", "960x600"), ("2", "1280x800")])
def test_the_window_as_pictured_by_the_command(scale: str, size: str, tmp_path: Path) -> None:
    """A small window, and one at twice the pixels: nothing is lost, and the cut is there in both."""
    target = tmp_path / "window.png"
    environment = os.environ | {"QT_SCALE_FACTOR": scale}
    words = ["demo", "--screenshot", str(target), "--size", size, "--scene", "Long section"]
    done = subprocess.run([sys.executable, "-m", "anatome", *words], env=environment, capture_output=True, text=True, timeout=240)
    assert done.returncode == 0, done.stderr
    with Image.open(target) as made:
        pixels = np.array(made.convert("RGBA"))
    width, height = (int(n) * int(scale) for n in size.split("x"))
    assert pixels.shape[:2] == (height, width)
    middle = pixels[:, int(0.3 * width) : int(0.7 * width)]
    cut = np.round(np.array(first_look().poche) * 255)
    assert close_to(middle, cut).mean() > 0.012
