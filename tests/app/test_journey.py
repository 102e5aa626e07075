"""One user's way through the whole of it, with mouse and keys in the real window."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QFileDialog

from anatome.app.panels.welcome import Welcome
from anatome.app.send_out.drawings import DrawingDialog
from anatome.app.send_out.pictures import PictureDialog
from anatome.look.look import Look
from anatome.scenes import edits
from anatome.scenes.storage import load_project
from anatome.words import plain_type
from helpers import POCHE, POCHE_EARTH, close_to, poche_mask, projected, svg_polygons

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.mark.long
def test_from_the_first_minute_to_the_client(fresh, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    hand, window = fresh, fresh.window
    session = window.session
    assert isinstance(window.pages.currentWidget(), Welcome)
    window.welcome.open_demo.emit()
    hand.qtbot.waitUntil(lambda: session.is_open, timeout=60_000)
    hand.settle()
    demo_from_the_river(hand)
    # In a plain look, of which the fills are known; looks are tried by themselves.
    session.apply(edits.set_look(session.project, Look(surfaces="as modelled")), "Plain")
    uncut = hand.picture()

    # Place a section plane on the river front by hovering and clicking.
    hand.do("place")
    assert session.cut is None
    target = hand.point_on((4.6, -0.13, 4.0))
    before = hand.screen()
    hand.hover(*target)
    assert (np.abs(hand.screen().astype(int) - before).max(axis=2) > 20).mean() > 0.005  # the preview shows
    assert (hand.picture() == uncut).all()  # but nothing is cut yet
    hand.click(hand.stage, *target)
    cut = session.cut
    assert cut is not None and cut.name == f"Section {cut.mark}" and cut.plane.normal == pytest.approx((0, -1, 0), abs=1e-6)

    # Drag its handle inward: a live cut, and one step to undo.
    handles = window.overlay.handles
    hand.drag(hand.stage, handles.tip, handles.tip + (handles.tip - handles.foot) * 1.6)
    moved = session.cut.plane.position
    assert 1.0 < moved < 12.0
    cut_open = hand.picture()
    poche = close_to(cut_open, POCHE).mean(), close_to(uncut, POCHE).mean()
    assert poche[0] > poche[1] + 0.008
    hand.press(Qt.Key.Key_Z, CTRL)
    assert session.cut.plane.position == pytest.approx(cut.plane.position)
    hand.press(Qt.Key.Key_Z, CTRL | Qt.KeyboardModifier.ShiftModifier)
    assert session.cut.plane.position == moved

    # Type a position at the handle; turn it by its ring and by typing degrees; turn it round and back.
    hand.stage.setFocus()
    for key in (Qt.Key.Key_6, Qt.Key.Key_Period, Qt.Key.Key_2):
        hand.press(key)
    hand.press(Qt.Key.Key_Return)
    assert session.cut.plane.position == pytest.approx(6.2)
    ring = window.overlay.handles.ring
    hand.drag(hand.stage, ring[0], ring[6])
    assert abs(session.cut.plane.heading - 90) > 5
    window.inspector.cut.place.fields["turn"].setFocus()
    window.inspector.cut.place.fields["turn"].selectAll()
    hand.qtbot.keyClicks(window.inspector.cut.place.fields["turn"], "90")
    hand.press(Qt.Key.Key_Return)
    assert session.cut.plane.heading == pytest.approx(90)
    hand.do("turn_round")
    assert session.cut.plane.normal == pytest.approx((0, 1, 0), abs=1e-9)
    hand.do("turn_round")
    window.inspector.cut.place.fields["move"].entered.emit(6.2)

    # Frame a perspective section and save it, then an axonometric view of the same cut.
    hand.do("square_on")
    assert session.stage.camera.axes[2] == pytest.approx(session.cut.plane.n, abs=1e-9)
    hand.do("save_scene")
    section_picture = hand.picture()
    hand.do("view Axonometric, front left")
    hand.do("save_scene")
    axonometric_picture = hand.picture()
    scenes = session.project.scenes
    assert [s.name for s in scenes[-2:]] == ["Scene 21", "Scene 22"]
    hand.pictured()
    assert (np.abs(section_picture.astype(int) - axonometric_picture).max(axis=2) > 12).mean() > 0.2

    # Try things out; both scenes come back exactly, pixel by pixel, by key and by click.
    hand.drag(hand.stage, (300, 300), (420, 330))
    window.inspector.overview.look.switches["edges"].click()
    session.pick(cut=session.stage.cuts[0].id)
    hand.do("cut_on")
    assert session.project.differs_from_scene
    window.contact_sheet.recall(scenes[-2].id)
    assert (hand.picture() == section_picture).all() and not session.project.differs_from_scene
    sheet = window.contact_sheet
    last = sheet.scenes.index(sheet.scenes.row_of(scenes[-1].id))
    sheet.scrollTo(last)
    place = sheet.visualRect(last).center()
    hand.click(sheet.viewport(), place.x(), place.y())
    assert (hand.picture() == axonometric_picture).all()
    accent = np.array([0x2F, 0x7F, 0x73])
    assert close_to(hand.screen(), accent).mean() < 2e-4  # no frame of a plane in a recalled scene

    # Keep it, come back tomorrow.
    path = tmp_path / "club.anatome"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    hand.do("save")
    hand.saved()
    assert path.exists() and not session.unsaved and len(load_project(path).thumbnails) == len(session.project.scenes)
    hand.do("close_project")
    assert isinstance(window.pages.currentWidget(), Welcome)
    window.commands.files.open_path(path)
    hand.qtbot.waitUntil(lambda: session.is_open, timeout=60_000)
    assert window.recent.entries()[0] == path
    window.contact_sheet.recall(session.project.scenes[-2].id)
    assert (hand.picture() == section_picture).all()

    # Send out the picture and the drawing of the cut.
    hand.do("send_picture")
    dialog = next(w for w in QApplication.topLevelWidgets() if isinstance(w, PictureDialog))
    dialog.scene.setCurrentIndex(dialog.scene.count() - 2)
    dialog.width_px.setValue(900)
    dialog.path.setText(str(tmp_path / "section.png"))
    hand.send(dialog)
    with Image.open(tmp_path / "section.png") as opened:
        picture = np.array(opened)
    assert picture.shape[1] == 900 and picture.shape[0] == round(900 / hand.stage.aspect)
    assert picture.shape[2] == 4 and picture[3, 3, 3] == 0
    session.pick(cut=session.stage.cuts[0].id)
    face = session.left().faces[0]
    inside, _ = projected(face.section, session.stage.camera, (picture.shape[1], picture.shape[0]))
    # Fill, or a line over it, or what lies between the two at its edge: nothing there is lighter than the fill of earth.
    filled = poche_mask(picture) | (picture[..., :3] <= POCHE_EARTH + 10).all(axis=2)
    assert inside.sum() > 5000 and filled[inside].mean() > 0.995

    hand.do("send_drawing")
    drawing = next(w for w in QApplication.topLevelWidgets() if isinstance(w, DrawingDialog))
    drawing.scale.setCurrentText("1:20")
    drawing.path.setText(str(tmp_path / "section.svg"))
    hand.send(drawing)
    shapes = svg_polygons(tmp_path / "section.svg")
    building = session.building
    for e in np.unique(face.poche.element):
        element = building.elements[e]
        computed = face.poche.areas[face.poche.element == e].sum()
        on_paper = shapes[f"{plain_type(element.type)}/{element.id}"].area * (20 / 1000) ** 2
        assert on_paper == pytest.approx(computed, rel=1e-5, abs=1e-9)


def demo_from_the_river(hand) -> np.ndarray:
    hand.window.contact_sheet.recall("outside")
    return hand.picture()
