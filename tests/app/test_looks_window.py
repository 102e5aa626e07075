"""Looks in the real window: tried on in the foot, changed in the inspector, taken to a file and back."""

from __future__ import annotations

import io
from dataclasses import replace
from pathlib import Path

import ezdxf
import numpy as np
import pytest
import shapely
from PIL import Image
from PySide6.QtCore import QDateTime, QPoint, Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QColorDialog, QFileDialog

from anatome.app.base.ask import Ask
from anatome.app.base.swatch import Swatch
from anatome.app.dialogs.compare_looks import CompareLooks
from anatome.formats.dxf import dxf_bytes
from anatome.formats.svg import svg_bytes
from anatome.linework.cut_drawing import cut_drawing
from anatome.look.files import read_look, write_look
from anatome.look.look import Look
from anatome.look.shipped import shipped_looks
from anatome.model.selection import Selection
from anatome.scenes import edits
from anatome.scenes.look_edits import keep_look
from conftest import Hand, pixels
from helpers import POCHE_EARTH, close_to


def test_looks_are_tried_on_taken_back_and_kept(hand) -> None:
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("cross")
    hand.settle()
    before, steps, picture = session.stage, session.history.undo_label, hand.picture()
    hand.press(Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    tried, strip = window.look_round, window.looks
    assert strip.isVisible() and not window.contact_sheet.isVisible() and strip.title.text() == "Looks"
    hand.qtbot.waitUntil(lambda: len(tried.images) == tried.count, timeout=60_000)
    assert [look.name for look in tried.looks][: len(shipped_looks())] == list(shipped_looks())
    assert len({bytes(image.constBits()) for image in tried.images.values()}) == tried.count  # no two look alike

    def click(name: str) -> None:
        number = [look.name for look in tried.looks].index(name)
        strip.row.scrollToItem(strip.row.item(number))
        at = strip.row.visualItemRect(strip.row.item(number)).center()
        hand.click(strip.row.viewport(), at.x(), at.y())

    click("Night blue")
    look = shipped_looks()["Night blue"]
    assert session.stage.look == look and session.stage.cuts == before.cuts
    night = hand.picture()
    paper = np.round(np.array(look.paper) * 255)
    # The paper is dark at the foot, and becomes the sky's colour upwards; the cut stands out pale.
    assert close_to(night[-3:], paper, 6).any() and close_to(night, np.round(np.array(look.poche) * 255)).sum() > 1_000
    assert np.abs(night.astype(int) - picture).max(axis=2).mean() > 60
    # One may look round meanwhile, and go from one to the next; it stays one step.
    hand.do("view Axonometric, front left")
    camera = session.stage.camera
    click("Hatched by material")
    assert session.stage.camera == camera and session.stage.look.name == "Hatched by material"
    hand.press(Qt.Key.Key_Escape)
    assert session.stage.look == before.look and tried.active and session.history.undo_label == steps
    click("White model")
    click("White model")
    assert not tried.active and window.contact_sheet.isVisible() and session.stage.look == shipped_looks()["White model"]
    hand.do("undo")
    assert session.stage.look == before.look
    # A scene keeps what it was saved with, whatever is tried on.
    assert session.project.scene("cross").state.look == before.look


def test_a_look_is_changed_saved_and_loaded(hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    window, session = hand.window, hand.window.session
    box = window.inspector.overview.look
    for fold in box.folds:
        fold.button.click()
    window.contact_sheet.recall("cross")
    session.pick()
    for key, value in (("hatch", "only"), ("cut_weight", 1.0), ("surfaces", "white")):
        choice = box.choices[key]
        choice.setCurrentIndex(choice.findData(value))
        choice.activated.emit(choice.currentIndex())
    hand.type_into(box.numbers["shadows"], "35")
    hand.type_into(box.numbers["sun_height"], "120")
    look = session.stage.look
    assert (look.hatch, look.cut_weight, look.surfaces, look.shadows, look.sun_height) == ("only", 1.0, "white", 0.35, 90.0)
    shaded = hand.picture()
    hand.type_into(box.numbers["shadows"], "0")
    assert hand.picture().astype(int).sum() > shaded.astype(int).sum()
    hand.do("undo")
    path = tmp_path / "mine.look.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    hand.do("save_look")
    box.switches["edges"].click()
    assert not session.stage.look.edges
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    hand.do("load_look")
    assert session.stage.look == look.model_copy(update={"name": "mine"}) and box.name.text() == "mine"
    box.switches["shade"].click()
    assert session.stage.look.name == "mine, changed"
    told = []
    monkeypatch.setattr(window, "tell", lambda text, title="": told.append(text))
    path.write_text("{}")
    hand.do("load_look")
    assert "holds no look" in told[0] and session.stage.look.name == "mine, changed"


def choose(choice, value: object) -> None:
    choice.setCurrentIndex(choice.findData(value))
    choice.activated.emit(choice.currentIndex())


def test_the_picture_is_divided_by_a_line_drawn_on_it(hand) -> None:
    """Two clicks; left of the line the picture stays as it was, right of it it is that of the other look; Esc and undo."""
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("long")
    session.pick()
    before = hand.picture().astype(int)
    hand.do("divide")
    hand.press(Qt.Key.Key_Escape)
    assert session.stage.divide is None
    hand.do("divide")
    width, height = hand.stage.width(), hand.stage.height()
    for x, y in ((width // 2, height - 30), (width // 2, 30)):
        QTest.mouseClick(hand.stage, Qt.MouseButton.LeftButton, pos=QPoint(x, y))
    divide = session.stage.divide
    assert divide is not None and divide.other == shipped_looks()["Ink lines only"]
    after = hand.picture().astype(int)
    off = np.abs(after - before).max(axis=2)
    assert (off[:-60, : width // 2 - 6] > 6).mean() < 0.002 and (off[:, width // 2 + 6 :] > 6).mean() > 0.6
    box = window.inspector.overview.look.divide
    box.refresh()
    choose(box.way, None)
    assert session.stage.divide is None and (np.abs(hand.picture().astype(int) - before).max(axis=2) > 6).mean() < 0.002
    hand.do("undo")
    assert session.stage.divide == divide


def chosen(hand, swatch: Swatch, code: str) -> None:
    """Choose a colour as one does: press, pick, accept."""
    hand.window.inspector.ensureWidgetVisible(swatch)
    hand.qtbot.waitUntil(swatch.isVisible)
    hand.qtbot.wait(50)
    hand.click(swatch, swatch.width() / 2, swatch.height() / 2)
    dialog = next(w for w in QApplication.topLevelWidgets() if isinstance(w, QColorDialog) and w.isVisible())
    dialog.setCurrentColor(QColor(code))
    dialog.accept()


def test_cut_concrete_gets_its_own_colour_where_it_is_clicked(large) -> None:
    """Fill, hatch, its scale and its colour of this material, in this look; drawings have them too."""
    hand, window, session = large, large.window, large.window.session
    window.contact_sheet.recall("long")
    hand.settle()
    name, before = "Plain", hand.picture()
    session.apply(edits.set_look(session.project, session.stage.look.model_copy(update={"name": name})), "Named")
    face = next(f for part in session.on_stage().parts for f in part.cut_open.faces)
    number = next(i for i, e in enumerate(face.poche.element.tolist()) if session.building.elements[e].material == "Concrete")
    at = hand.point_on(face.plane.raised(shapely.get_coordinates(face.poche.polygons[number].representative_point())[0]))
    hand.click(hand.stage, *at)
    box = window.inspector.elements.own_look
    assert session.picked.at_cut and box.cut.open and not box.beyond.open and "Concrete" in box.who.currentText()
    chosen(hand, box.fill, "#d8d0b0")
    choose(box.hatch.choice, "diagonal")
    hand.type_into(box.hatch.apart, "4.4")
    chosen(hand, box.hatch.ink, "#b02010")
    (rule,) = session.stage.look.rules
    assert rule.who == Selection(materials=frozenset({"Concrete"})) and session.stage.look.name == f"{name}, changed"
    assert (rule.hatch, rule.hatch_scale) == ("diagonal", 2.0)
    session.pick()
    after = hand.picture()
    assert close_to(after, (0xD8, 0xD0, 0xB0), 4).sum() > 1_000 and not close_to(before, (0xD8, 0xD0, 0xB0), 4).any()
    red = (after[..., 0].astype(int) - after[..., 1] > 25) & (np.abs(after.astype(int) - before).max(axis=2) > 20)
    assert red.sum() > 100
    drawing = cut_drawing(session.building, face.poche, 50, session.drawn_look(), "section")
    own = next(s for s in drawing.strokes if "#B02010" in s.name)
    assert own.name == "Hatches, #B02010" and own.pen.ink == pytest.approx(rule.hatch_colour) and len(own.lines) > 20
    assert b"#b02010" in svg_bytes(drawing).lower()
    layer = ezdxf.read(io.StringIO(dxf_bytes(drawing).decode())).layers.get(own.name)
    assert layer.dxf.true_color == 0xB02010
    # It is listed under the look, switched and deleted there; each was one step.
    item = window.inspector.overview.look.rules.rows.item(0)
    assert item.text().startswith("Concrete") and not item.icon().isNull()
    item.setCheckState(Qt.CheckState.Unchecked)
    assert not close_to(hand.picture(), (0xD8, 0xD0, 0xB0), 4).any()
    for _ in range(5):
        hand.do("undo")
    assert session.stage.look.rules == () and session.stage.look.name == name


@pytest.mark.usefixtures("large")
def test_parts_get_a_look_of_their_own_in_this_scene(hand) -> None:
    """A colour laid over the look shows, is listed, switched off and deleted; the look itself is as it was."""
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("long")
    look = session.stage.look
    session.pick(elements=frozenset({next(e.id for e in session.building.elements if e.type == "IfcWall")}))
    hand.do("override")
    own = window.inspector.elements.own_look
    hand.qtbot.waitUntil(lambda: window.focusWidget() is own.who)
    own.cut.button.setChecked(True)
    own.who.setCurrentIndex(own.who.findText("All of the type Wall"))
    own.where.buttons["scene"].click()
    assert not own.reset.isEnabled()
    chosen(hand, own.fill, "#b4442f")
    session.pick()
    red = np.array([0xB4, 0x44, 0x2F])
    assert close_to(hand.picture(), red).sum() > 200 and session.stage.look == look
    box = window.inspector.overview.look.overrides
    item = box.rows.item(0)
    assert "Wall" in item.text()
    item.setCheckState(Qt.CheckState.Unchecked)
    assert not close_to(hand.picture(), red).any() and len(session.stage.overrides) == 1
    box.to_delete.click()
    assert session.stage.overrides == () and not box.isVisible()
    hand.do("undo")
    assert len(session.stage.overrides) == 1
    # What is laid over a scene's look stays with that scene.
    window.contact_sheet.recall("cross")
    assert session.stage.overrides == ()


def test_a_texture_is_laid_on_parts_with_lines_of_their_own(hand, tmp_path: Path) -> None:
    """A picture from a file on all walls, half a metre wide; the look has it afterwards, and steps take both back."""
    session = hand.window.session
    hand.window.contact_sheet.recall("outside")
    before = hand.picture()
    Image.new("RGB", (40, 40), (20, 200, 220)).save(tmp_path / "tiles.png")
    (tmp_path / "notes.png").write_text("no picture")
    session.pick(elements=frozenset({next(e.id for e in session.building.elements if e.type == "IfcCovering")}))
    own = hand.window.inspector.elements.own_look
    own.who.setCurrentIndex(own.who.findText("All of the type Covering"))
    own.where.buttons["scene"].click()
    own.texture.take(tmp_path / "notes.png")
    assert "no picture" in own.warning.text() and own.warning.isVisible() and not session.stage.overrides
    own.texture.take(tmp_path / "tiles.png")
    hand.type_into(own.texture.wide, "0.5")
    choose(own.weight, 0.70)
    chosen(hand, own.line_colour, "#22262b")
    own.where.buttons["look"].click()
    session.pick()
    rule = session.stage.overrides[-1]
    assert (rule.picture, rule.line_weight, session.stage.look.pictures[0].metres) == ("tiles", 0.70, 0.5)
    shown = hand.picture().astype(int)
    blue = (shown[..., 2] - shown[..., 0] > 90) & (shown[..., 1] - shown[..., 0] > 90)
    assert blue.mean() > 0.005 and not ((before[..., 2].astype(int) - before[..., 0]) > 90).any()
    for _ in range(4):
        hand.do("undo")
    assert session.stage.look.pictures == () and not session.stage.overrides


def test_a_changed_look_is_changed_for_all_or_kept_as_a_new_one(hand) -> None:
    window, session = hand.window, hand.window.session
    box = window.inspector.overview.look
    named = Look(name="Plain")
    session.apply(
        session.project.model_copy(
            update={
                "scenes": tuple(
                    s.model_copy(update={"state": s.state.model_copy(update={"look": named})}) if s.id in ("long", "cross") else s
                    for s in session.project.scenes
                )
            }
        ),
        "Two scenes with one look",
    )
    window.contact_sheet.recall("long")
    session.pick()
    assert not window.shared_look.isVisible()
    choose(box.choices["cut_weight"], 1.0)
    assert window.shared_look.isVisible() and "Long section" in window.shared_look.words.text()
    window.shared_look.for_all.click()
    scenes = {s.id: s.state.look for s in session.project.scenes}
    assert scenes["long"].cut_weight == scenes["cross"].cut_weight == 1.0 and scenes["cutaway"].cut_weight == 0.5
    assert not session.project.differs_from_scene and not window.shared_look.isVisible()
    choose(box.choices["cut_weight"], 0.7)
    hand.do("keep_look")
    ask = next(w for w in QApplication.topLevelWidgets() if isinstance(w, Ask) and w.isVisible())
    ask.texts["Name"].setText("White model")
    ask.go.click()
    assert ask.isVisible() and "already" in ask.problem.text()
    ask.texts["Name"].setText("Bolder")
    ask.go.click()
    assert session.project.looks[0].name == session.stage.look.name == "Bolder"
    hand.do("looks")
    assert window.look_round.looks[0].name == "Bolder"
    hand.do("looks")


def test_the_sun_by_day_and_hour(hand) -> None:
    """The model says where it stands; another hour is another picture; a place that is typed turns the sun."""
    window, session = hand.window, hand.window.session
    overview = window.inspector.overview
    window.contact_sheet.recall("outside")
    choose(overview.look.sun, "moment")
    assert session.stage.look.sun_moment and "high" in overview.look.sun_note.text()
    afternoon = hand.picture().astype(int)
    overview.look.moment.setDateTime(QDateTime(2026, 6, 21, 8, 30, 0))
    assert session.stage.look.sun_moment == "2026-06-21T08:30"
    assert (np.abs(hand.picture().astype(int) - afternoon).max(axis=2) > 12).mean() > 0.05
    assert "As the model's file says" in overview.site.place_note.text()
    turn = session.drawn_look().sun_turn
    hand.type_into(overview.site.fields["place north"], "70")
    assert session.project.site.place.north == 70.0
    assert (session.drawn_look().sun_turn - turn) % 360 == pytest.approx(90.0, abs=0.1)
    overview.look.moment.setDateTime(QDateTime(2026, 12, 21, 23, 0, 0))
    assert "set" in overview.look.sun_note.text() and session.drawn_look().shadows == 0.0


@pytest.mark.usefixtures("large")
def test_hatches_of_ones_own(hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A file of them goes to the look of the stage; they are offered for parts, drawn, and go with the look to its file."""
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("long")
    session.pick()
    before = hand.picture().astype(int)
    path = tmp_path / "mine.json"
    told: list[str] = []
    monkeypatch.setattr(window, "tell", lambda text, title="": told.append(text))
    path.write_text('{"format": "anatome-hatches", "version": 1, "hatches": [{"name": "", "families": []}]}')
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    hand.do("load_hatches")
    assert "docs/hatches.md" in told[0] and session.stage.look.hatches == ()
    family = '{"angle": 30, "spacing": 1.5}'
    own = f'{{"name": "rammed", "words": "Rammed earth", "families": [{family}]}}'
    path.write_text(f'{{"format": "anatome-hatches", "version": 1, "hatches": [{own}]}}')
    hand.do("load_hatches")
    assert [hatch.name for hatch in session.stage.look.hatches] == ["rammed"]
    slab = next(e for e in session.building.elements if e.name.startswith("River bank"))
    session.pick(elements=frozenset({slab.id}))
    own = hand.window.inspector.elements.own_look
    choose(own.hatch.choice, own.hatch.choice.itemData(own.hatch.choice.findText("Rammed earth")))
    session.pick()
    after = hand.picture().astype(int)
    earth = close_to(before, POCHE_EARTH)
    assert earth.sum() > 5_000 and 0.05 < (np.abs(after - before).max(axis=2) > 20)[earth].mean() < 0.6
    write_look(session.stage.look, tmp_path / "mine.look.json")
    assert read_look(tmp_path / "mine.look.json").hatches == session.stage.look.hatches


def test_looks_side_by_side_and_ones_own_renamed_and_dropped(hand) -> None:
    session = hand.window.session
    session.apply(keep_look(session.project, "Mine", frozenset(shipped_looks())), "kept")
    hand.do("save_scene")
    hand.settle()
    hand.do("compare_looks")
    compare = next(w for w in QApplication.topLevelWidgets() if isinstance(w, CompareLooks))
    names = [compare.list.item(i).text() for i in range(compare.list.count())]
    assert names[0] == "Mine" and compare.list.ticked() == [0, 1] and len(compare.pictures) == 2
    compare.list.item(names.index("Night blue")).setCheckState(Qt.CheckState.Checked)
    compare.list.item(1).setCheckState(Qt.CheckState.Unchecked)
    hand.qtbot.waitUntil(lambda: all(not b.icon().isNull() for b in compare.pictures), timeout=60_000)
    mine, night = (pixels(b.icon().pixmap(b.iconSize()).toImage()).mean() for b in compare.pictures)
    assert [b.text() for b in compare.pictures] == ["Mine", "Night blue"] and night < mine - 60
    compare.list.setCurrentRow(0)
    QTest.mouseClick(compare.rename, Qt.MouseButton.LeftButton)
    ask = next(w for w in QApplication.topLevelWidgets() if isinstance(w, Ask) and w.isVisible())
    ask.texts["Name"].setText("Night blue")
    ask.go.click()
    assert ask.isVisible() and "already" in ask.problem.text()
    ask.texts["Name"].setText("Ours")
    ask.go.click()
    assert [look.name for look in session.project.looks] == ["Ours"] and session.stage.look.name == "Ours"
    assert session.scene.state.look.name == "Ours" and not session.project.differs_from_scene
    assert compare.list.item(0).text() == "Ours"
    QTest.mouseClick(compare.drop, Qt.MouseButton.LeftButton)
    assert session.project.looks == () and session.stage.look.name == "Ours"
    compare.list.item([compare.list.item(i).text() for i in range(compare.list.count())].index("Night blue")).setCheckState(
        Qt.CheckState.Checked
    )
    picture = next(b for b in compare.pictures if b.text() == "Night blue")
    hand.click(picture, 40, 40)
    assert session.stage.look.name == "Night blue"


def test_a_pencil_section_is_drawn_by_hand_once_it_is_still_and_sent_out_as_it_is_seen(large: Hand) -> None:
    hand, window, session = large, large.window, large.window.session
    window.contact_sheet.recall("long")
    hand.settle()
    plain = hand.screen().astype(int)
    hand.press(Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    tried, strip = window.look_round, window.looks
    number = [look.name for look in tried.looks].index("Pencil section")
    strip.row.scrollToItem(strip.row.item(number))
    at = strip.row.visualItemRect(strip.row.item(number)).center()
    hand.click(strip.row.viewport(), at.x(), at.y())
    hand.click(strip.row.viewport(), at.x(), at.y())
    assert session.stage.look == shipped_looks()["Pencil section"] and not hand.stage.shows_unlined
    hand.settle()
    assert hand.stage.shows_unlined and "by hand" not in window.overlay.said
    drawn = hand.screen().astype(int)
    assert np.abs(drawn - plain).max(axis=2).mean() > 10
    # What is seen is what is sent out: the picture of that very view, as large as the stage.
    view = replace(window.stage._view(), unlined=False, picked=None)
    made: list[np.ndarray] = []
    hand.stage.pictures.picture(view, hand.stage.full(), "paper", made.append, pytest.fail)
    hand.qtbot.waitUntil(lambda: bool(made), timeout=60_000)
    bare: list[np.ndarray] = []
    hand.stage.pictures.picture(replace(view, unlined=True), hand.stage.full(), "paper", bare.append, pytest.fail)
    hand.qtbot.waitUntil(lambda: bool(bare), timeout=60_000)
    high = slice(60, made[0].shape[0] - 60)  # without caption and hints
    off, lines = (np.abs(drawn[high, :, :3] - other[0][high, :, :3].astype(int)).max(axis=2) for other in (made, bare))
    assert (off > 40).mean() < 0.004 and (lines > 40).mean() > 0.03
    # While it moves the graphics side draws its lines; another hand draws others.
    QTest.mousePress(hand.stage, Qt.MouseButton.RightButton, pos=QPoint(300, 300))
    QTest.mouseMove(hand.stage, QPoint(340, 310))
    hand.qtbot.waitUntil(lambda: not hand.stage.shows_unlined)
    QTest.mouseRelease(hand.stage, Qt.MouseButton.RightButton, pos=QPoint(340, 310))
    hand.do("undo")
    hand.settle()
    again = hand.screen().astype(int)
    assert (np.abs(again - drawn).max(axis=2) > 40).mean() < 0.002
    box = window.inspector.overview.look
    for fold in box.folds:
        fold.button.click()
    hand.type_into(box.numbers["hand"], "7")
    assert session.stage.look.hand == 7 and session.stage.look.name == "Pencil section, changed"
    hand.settle()
    assert (np.abs(hand.screen().astype(int) - again).max(axis=2) > 40).mean() > 0.005
