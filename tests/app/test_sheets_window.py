"""Sheets in the window: laid out, moved by hand, lined up, kept up to date with their scenes, sent out."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pikepdf
import pypdfium2
import pytest
import shapely
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QDropEvent
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog
from test_sending_out_pictures import dialog

from anatome.app.send_out.layers import LayersDialog
from anatome.app.send_out.printing import _take_paper
from anatome.app.send_out.sheets import SheetsDialog
from anatome.cuts.plane import Plane
from anatome.cuts.series import SerialSections
from anatome.scenes import edits
from anatome.scenes.sheet_frames import bar_scale, frame_box, level_on_sheet, scale_of
from anatome.sheets.sheet import SceneFrame, TextBlock
from helpers import close_to

CONTROL = Qt.KeyboardModifier.ControlModifier


def drawn(hand) -> None:
    """Wait until every frame of the open sheet shows what it should."""
    hand.qtbot.waitUntil(lambda: not hand.window.sheet_contents.busy, timeout=120_000)
    assert not hand.window.sheet_contents.problems


def pixels(hand) -> np.ndarray:
    """(h, w, 3) of the sheet as it is seen."""
    image = hand.window.sheet_view.grab().toImage()
    image = image.convertToFormat(image.Format.Format_RGB888)
    flat = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return flat[:, : 3 * image.width()].reshape(image.height(), image.width(), 3).astype(int)


def middle(hand, block) -> QPointF:
    return hand.window.sheet_view.rect_of(hand.window.sheet_view.box(block)).center()


def drop_scene(hand, scene: str, at: tuple[float, float]) -> None:
    """Drop a scene from its row on to a place of the sheet, mm."""
    row, view = hand.window.contact_sheet, hand.window.sheet_view
    dragged = row.scenes.mimeData([row.scenes.index(row.scenes.row_of(scene))])
    buttons, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    drop = QDropEvent(view.in_window(*at), Qt.DropAction.MoveAction, dragged, buttons, none)
    assert hand.window.sheet_input.eventFilter(view, drop) and drop.isAccepted()
    assert drop.dropAction() == Qt.DropAction.IgnoreAction


@pytest.mark.usefixtures("large")
def test_scenes_are_laid_out_moved_cropped_lined_up_and_follow_their_scenes(hand) -> None:
    window, session, desk, view = hand.window, hand.window.session, hand.window.desk, hand.window.sheet_view
    hand.pictured()
    hand.do("new_sheet")
    assert desk.sheet is not None and view.isVisible() and window.sheet_strip.isVisible()
    assert view.size() == hand.stage.size() and window.inspector.sheet.isVisible()
    for scene, at in (("long", (150.0, 200.0)), ("cross", (320.0, 120.0))):
        drop_scene(hand, scene, at)
    long, cross = desk.sheet.frames
    assert window.session.picked.blocks == (cross.id,) and window.inspector.sheet.frame_part.isVisible()
    drawn(hand)
    # Both are on the paper, with what is cut.
    seen = pixels(hand)
    for frame in (long, cross):
        rect = view.rect_of(view.box(frame)).toRect()
        part = seen[rect.top() : rect.bottom(), rect.left() : rect.right()]
        assert (part.max(axis=2) < 110).mean() > 0.01
    # Moved by hand; Ctrl keeps it free of what it would be drawn to. One step.
    start = middle(hand, long)
    hand.drag(view, (start.x(), start.y()), (start.x() + 40, start.y() - 24))
    moved = desk.sheet.block(long.id)
    by = np.subtract(moved.at, long.at)
    assert np.abs(by - np.array([40, 24]) * view.pixel).max() < 8 * view.pixel
    session.undo()
    assert desk.sheet.block(long.id) == long
    window.session.pick(blocks=[cross.id])
    # A scale makes it as large as that; a side that is pulled crops it, and moves nothing else.
    window.inspector.sheet.scale.setCurrentText("1:150")
    window.inspector.sheet.scale.lineEdit().editingFinished.emit()
    frame = desk.sheet.block(cross.id)
    scene = session.project.scene("cross")
    assert frame.scale == 150.0 and scale_of(frame, scene) == pytest.approx(150.0)
    whole = frame_box(frame, scene)
    handle = view.handles()["left"]
    hand.drag(view, (handle.x(), handle.y()), (handle.x() + 30, handle.y() + 4))
    cropped = desk.sheet.block(cross.id)
    box = frame_box(cropped, scene)
    assert (
        box[2] == pytest.approx(whole[2])
        and box[0] == pytest.approx(whole[0] + 30 * view.pixel, abs=0.3)
        and cropped.crop[0] > 0.02
    )
    # Lined up on the ground floor.
    view.setFocus()
    hand.click(view, middle(hand, long).x(), middle(hand, long).y())
    hand.click(view, middle(hand, cropped).x(), middle(hand, cropped).y(), modifiers=CONTROL)
    assert window.session.picked.blocks == (long.id, cross.id)
    hand.do("on_storey")
    centre = session.subject_bounds().mean(axis=0)
    pairs = [(desk.sheet.block(i), session.project.scene(n)) for i, n in ((long.id, "long"), (cross.id, "cross"))]
    heights = [level_on_sheet(block, scene, centre, 0.0) for block, scene in pairs]
    assert heights[0] == pytest.approx(heights[1], abs=1e-6)
    # The scene changes: the sheet says so, and follows.
    drawn(hand)
    before = pixels(hand)
    state = session.project.scene("long").state
    hidden = frozenset(e.id for e in session.building.elements if "ROOF" in e.layer)
    changed = session.project.scene("long").model_copy(update={"state": state.model_copy(update={"hidden": hidden})})
    scenes = tuple(changed if s.id == "long" else s for s in session.project.scenes)
    session.apply(session.project.model_copy(update={"scenes": scenes}), "Another long section")
    assert not window.sheet_contents.shown(long.id)[1]
    marked = pixels(hand)
    drawn(hand)
    assert window.sheet_contents.shown(long.id)[1]
    after = pixels(hand)
    rect = view.rect_of(view.box(desk.sheet.block(long.id))).toRect()
    inside = slice(rect.top() + 40, rect.bottom()), slice(rect.left(), rect.right())
    assert (np.abs(after[inside] - before[inside]).max(axis=2) > 30).mean() > 0.03
    assert (np.abs(marked[inside] - before[inside]).max(axis=2) > 30).mean() < 0.02  # the old one meanwhile
    # A scene that is gone leaves a frame that says so; Delete takes it off, Escape leads back to the stage.
    session.apply(edits.delete_scene(session.project, "long"), "Deleted it")
    assert close_to(pixels(hand), np.array([0xA6, 0x6A, 0x0B]), 30).sum() > 30
    window.session.pick(blocks=[long.id])
    hand.do("block_take")
    assert desk.sheet.block(long.id) is None and len(desk.sheet.frames) == 1
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_Escape)
    assert desk.sheet is None and not view.isVisible() and not window.sheet_strip.isVisible()
    hand.do("show_sheets")
    assert desk.sheet is not None
    # A double click leads to the scene on the stage.
    spot = middle(hand, desk.sheet.frames[0]).toPoint()
    QTest.mouseDClick(view, Qt.MouseButton.LeftButton, pos=spot)
    assert desk.sheet is None and session.project.current_scene == "cross"


@pytest.mark.long
def test_sheets_are_made_in_one_step_written_on_and_sent_out(hand, tmp_path: Path) -> None:
    window, session, desk = hand.window, hand.window.session, hand.window.desk
    window.contact_sheet.recall("long")
    hand.do("sheet_looks")
    assert [f.look for f in desk.sheet.frames][1:] == ["White model", "Hatched by material", "Night blue"]
    drawn(hand)
    seen = pixels(hand)
    means = []
    for frame in desk.sheet.frames:
        rect = window.sheet_view.rect_of(window.sheet_view.box(frame)).toRect()
        sky = seen[rect.top() + 30 : rect.center().y() - 60, rect.left() + 3 : rect.right() - 3]
        means.append(sky.reshape(-1, 3).mean(axis=0))
    assert means[3].mean() < 120 < means[1].mean()  # night beside white
    hand.do("new_sheet")
    hand.do("sheet_text")
    page = window.inspector.sheet
    page.words.setFocus()
    page.words.selectAll()
    QTest.keyClicks(page.words, "Hall of {project}")
    window.sheet_view.setFocus()
    (block,) = desk.sheet.blocks
    assert isinstance(block, TextBlock) and block.text == "Hall of {project}"
    window.session.pick()
    page.name.setFocus()
    hand.type_into(page.name, "Notes")
    page.paper.setCurrentIndex(page.paper.findData("A4"))
    page.paper.activated.emit(page.paper.currentIndex())
    page.lies.buttons["upright"].click()
    assert desk.sheet.name == "Notes" and desk.sheet.paper == (210.0, 297.0)
    count = len(session.project.scenes)
    hand.do("sheet_storeys")
    assert len(session.project.scenes) == count + 2 and len(desk.sheet.frames) == 2
    # A scale bar at their scale and a north point beside it, neither over anything.
    hand.do("sheet_scale_bar")
    hand.do("sheet_north")
    bar, north = desk.sheet.blocks[-2:]
    boxes = [shapely.box(*window.sheet_view.box(b)) for b in desk.sheet.blocks]
    assert not any(a.intersects(b) for i, a in enumerate(boxes) for b in boxes[:i])
    scales = {scale_of(f, session.project.scene(f.scene)) for f in desk.sheet.frames}
    assert [bar_scale(bar, desk.sheet)] == pytest.approx(list(scales)) and north.turn is None
    page.by_plan.click()
    page.north_turn.setValue(90)
    page.north_turn.editingFinished.emit()
    assert desk.sheet.block(north.id).turn == 90.0
    window.session.pick(blocks=[bar.id])
    page.bar_scale.setCurrentText("1:20")
    page.bar_scale.activated.emit(0)
    assert desk.sheet.block(bar.id).scale == 20.0 and "1:20" in page.facts.text()
    hand.do("send_sheets")
    sending = dialog(SheetsDialog)
    for i in range(sending.sheets.count()):
        names = sending.sheets.item(i).text()
        keep = "Notes" in names or "Plans" in names
        sending.sheets.item(i).setCheckState(Qt.CheckState.Checked if keep else Qt.CheckState.Unchecked)
    sending.dpi.setValue(72)
    sending.path.setText(str(tmp_path / "sheets.doc"))
    sending.go.click()
    assert sending.isVisible() and ".pdf" in sending.problem.text()
    sending.path.setText(str(tmp_path / "sheets.pdf"))
    hand.send(sending)
    with pikepdf.open(tmp_path / "sheets.pdf") as document, document.open_outline() as outline:
        assert [item.title[3:] for item in outline.root] == ["Notes", "Plans"]
    hand.do("send_sheets")
    sending = dialog(SheetsDialog)
    sending.way.setCurrentIndex(sending.way.findData("png"))
    names = [sending.sheets.item(i).text() for i in range(sending.sheets.count())]
    sending.sheets.set_names(names, {names[-2]})
    sending.dpi.setValue(72)
    sending.path.setText(str(tmp_path / "papers"))
    hand.send(sending)
    (paper,) = (tmp_path / "papers").iterdir()
    assert Image.open(paper).size == (595, 842)
    assert isinstance(desk.sheet.frames[0], SceneFrame)


def test_series_stand_in_rows_and_templates_take_other_scenes(hand, tmp_path: Path, monkeypatch) -> None:
    window, session, desk = hand.window, hand.window.session, hand.window.desk
    low = session.subject_bounds()[0]
    series = SerialSections(
        id="s", name="Through the house", mark="S", plane=Plane((low[0] + 3, 0, 0), (-1, 0, 0)), offsets=(0.0, 6.0, 12.0)
    )
    session.apply(session.project.with_stage(series=(series,)), "a series")
    count = len(session.project.scenes)
    hand.do("sheet_series")
    made = session.project.scenes[count:]
    assert [s.name for s in made] == ["Section S1", "Section S2", "Section S3"]
    assert [f.scene for f in desk.sheet.frames] == [s.id for s in made] and len({f.scale for f in desk.sheet.frames}) == 1
    # Each is cut where the series is, seen square on, all framed alike.
    for scene, plane in zip(made, series.planes()):
        (cut,) = scene.state.active_cuts
        assert cut.plane == plane and scene.state.true_plane() == plane and scene.aspect == made[0].aspect
    session.undo()
    assert len(session.project.scenes) == count
    # A template has the places; scenes that are on no sheet fill them, and one dropped on an empty frame.
    desk.open("sections")
    rooms = [window.sheet_view.box(f) for f in desk.sheet.frames]
    path = tmp_path / "two.sheet.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(path), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(path), ""))
    hand.do("sheet_to_template")
    hand.do("sheet_from_template")
    used = {f.scene for s in session.project.sheets[:-1] for f in s.frames}
    assert len(desk.sheet.frames) == len(rooms) and not used & {f.scene for f in desk.sheet.frames}
    for frame, room in zip(desk.sheet.frames, rooms):
        own = window.sheet_view.box(frame)
        assert shapely.box(*room).buffer(0.01).covers(shapely.box(*own))
    first = desk.sheet.frames[0]
    desk.put_blocks([first.model_copy(update={"scene": "", "room": (120.0, 80.0)})], "emptied")
    left, bottom, right, top = window.sheet_view.box(desk.sheet.block(first.id))
    drop_scene(hand, "cross", ((left + right) / 2, (bottom + top) / 2))
    assert desk.sheet.block(first.id).scene == "cross"
    path.write_text("{}")
    said: list[str] = []
    monkeypatch.setattr(window, "tell", lambda text, title="": said.append(text))
    hand.do("sheet_from_template")
    assert "holds no sheet" in said[0]


@pytest.mark.long
def test_layers_are_cut_of_what_is_picked(hand, tmp_path: Path) -> None:
    session = hand.window.session
    walls = [e.id for e in session.building.elements if e.type == "IfcWall"]
    session.pick(elements=frozenset(walls))
    hand.do("send_layers")
    sending = dialog(LayersDialog)
    assert sending.of.currentText() == "What is picked"
    sending.scale.setValue(20)
    sending.path.setText(str(tmp_path / "card"))
    hand.send(sending)
    assert "does not fit" in sending.problem.text() and sending.isVisible()
    sending.scale.setValue(100)
    sending.thickness.setValue(5)
    sending.kind.setCurrentIndex(sending.kind.findData(".dxf"))
    hand.send(sending)
    files = sorted((tmp_path / "card").iterdir())
    assert files and all(f.suffix == ".dxf" for f in files) and "layers on" in hand.window.status.text()


def test_a_sheet_is_laid_out_on_a_grid_revised_listed_and_printed(hand, tmp_path: Path, monkeypatch) -> None:
    window, session, desk, view = hand.window, hand.window.session, hand.window.desk, hand.window.sheet_view
    hand.pictured()
    hand.do("new_sheet")
    page = window.inspector.sheet
    page.more.button.setChecked(True)
    page.more.grid.setCurrentIndex(page.more.grid.findData(50.0))
    page.more.grid.activated.emit(page.more.grid.currentIndex())
    hand.type_into(page.more.revision, "B")
    hand.type_into(page.more.date, "2026-11-30")
    assert desk.sheet.grid == 50.0 and desk.sheet.revision == "B" and desk.sheet.date == "2026-11-30"
    drop_scene(hand, "long", (150.0, 200.0))
    (frame,) = desk.sheet.frames
    # An edge of it or its middle comes to lie on a line of the grid: 20 and 10 mm from the edge of the paper, then every 50.
    start = middle(hand, frame)
    lines = [[20 + 50 * i for i in range(9)], [10 + 50 * i for i in range(6)]]
    left, bottom, _, _ = view.box(frame)
    to = np.array([70.0 + 6 * view.pixel, 110.0 + 5 * view.pixel]) - [left, bottom]
    hand.drag(view, (start.x(), start.y()), (start.x() + to[0] / view.pixel, start.y() - to[1] / view.pixel))
    box = view.box(desk.sheet.block(frame.id))
    for own, grid in (((box[0], box[2], (box[0] + box[2]) / 2), lines[0]), ((box[1], box[3], (box[1] + box[3]) / 2), lines[1])):
        assert min(abs(edge - line) for edge in own for line in grid) < 1e-6
    # A corner that is pulled is drawn to it as well.
    handle = view.handles()["upper right"]
    aim = view.in_window(320.0 + 4 * view.pixel, box[3])
    hand.drag(view, (handle.x(), handle.y()), (aim.x(), handle.y()))
    assert view.box(desk.sheet.block(frame.id))[2] == pytest.approx(320.0, abs=1e-6)
    # The grid is seen and not printed; the ground is both.
    session.pick()
    page.more.ground._chosen((0.9, 0.8, 0.6))
    drawn(hand)
    spot = view.in_window(30.0, 280.0).toPoint()
    tint = pixels(hand)[spot.y(), spot.x()]
    assert np.abs(tint.astype(int) - [230, 204, 153]).max() < 4
    on_line = view.in_window(70.0, 283.0).toPoint()
    assert (
        pixels(hand)[on_line.y() - 1 : on_line.y() + 2, on_line.x() - 1 : on_line.x() + 2].astype(int).sum(axis=2)
        < tint.sum() - 8
    ).any()
    # The list of sheets has this one's revision.
    hand.do("sheet_contents")
    block = desk.blocks[0]
    assert (
        block.kind == "contents" and "3" not in page.title.text() and f"{len(session.project.sheets)} sheets" in page.facts.text()
    )
    # Every scene on a sheet in one step.
    path = tmp_path / "one.sheet.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(path), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(path), ""))
    hand.do("sheet_to_template")
    before = session.project
    hand.do("sheets_from_template")
    placed = [f.scene for s in session.project.sheets for f in s.frames]
    assert {s.id for s in session.project.scenes} <= set(placed) and desk.sheet.id == session.project.sheets[
        len(before.sheets)
    ].id
    session.undo()
    assert session.project.sheets == before.sheets
    # To a printer, which here is a file: as large as the paper, with what is on it.
    desk.open(before.sheets[-1].id)

    def printer(parent, paper, title):
        made = QPrinter(QPrinter.PrinterMode.HighResolution)
        made.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
        made.setOutputFileName(str(tmp_path / "printed.pdf"))
        _take_paper(made, paper)
        return made

    monkeypatch.setattr("anatome.app.send_out.sheets.ask_printer", printer)
    hand.do("send_sheets")
    sending = dialog(SheetsDialog)
    sending.way.setCurrentIndex(sending.way.findData("print"))
    sending.way.activated.emit(sending.way.currentIndex())
    assert sending.go.text() == "Print…" and not sending.path.isVisible()
    sending.dpi.setValue(72)
    hand.send(sending)
    assert "Printed 1 sheet" in window.status.text()
    document = pypdfium2.PdfDocument(tmp_path / "printed.pdf")
    assert len(document) == 1 and np.allclose(np.array(document[0].get_size()) / 72 * 25.4, before.sheets[-1].paper, atol=0.6)
    image = np.array(document[0].render(scale=0.5).to_pil().convert("RGB")).astype(int)
    assert np.abs(image[3, 3] - [230, 204, 153]).max() < 4 and (image.max(axis=2) < 110).mean() > 0.01
    # In pieces to be glued together.
    hand.do("send_sheets")
    sending = dialog(SheetsDialog)
    sending.way.setCurrentIndex(sending.way.findData("A4"))
    sending.dpi.setValue(72)
    sending.path.setText(str(tmp_path / "pieces.pdf"))
    hand.send(sending)
    pieces = pypdfium2.PdfDocument(tmp_path / "pieces.pdf")
    assert len(pieces) >= 4 and sorted(np.round(np.array(pieces[0].get_size()) / 72 * 25.4)) == [210, 297]
