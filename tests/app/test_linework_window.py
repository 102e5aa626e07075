"""Linework sent out from the window."""

from __future__ import annotations

from pathlib import Path

import ezdxf
import numpy as np
import pikepdf
import pypdfium2
import pytest
from lxml import etree
from PySide6.QtCore import Qt
from test_sending_out_pictures import dialog

from anatome.app.send_out.line_layers import PensDialog
from anatome.app.send_out.linework import LineworkDialog
from anatome.linework.kept import packed
from anatome.printing.kept_lines import KeptLines, own_lines
from anatome.scenes import edits
from anatome.scenes.storage import load_project


def page(path: Path) -> np.ndarray:
    """(h, w, 3) 0..255."""
    with pypdfium2.PdfDocument(path) as document:
        return np.array(document[0].render(scale=1.0).to_pil().convert("RGB")).astype(int)


@pytest.mark.long
def test_linework_of_a_scene_at_a_scale_and_with_its_picture_under_it(hand, tmp_path: Path) -> None:
    hand.window.contact_sheet.recall("long")
    hand.settle()
    hand.do("send_linework")
    sending = dialog(LineworkDialog)
    assert sending.scene.currentText() == "Long section" and "315 × 210 mm" in sending.paper.text()
    sending.scale.setCurrentText("1:a lot")
    sending.go.click()
    assert sending.isVisible() and "1:50" in sending.problem.text()
    sending.scale.setCurrentText("1:200")
    assert "1:200 at the cut" in sending.paper.text()
    sending.hidden.setChecked(True)
    sending.tones.setChecked(True)
    sending.under.setChecked(True)
    sending.go.click()
    assert sending.isVisible() and "Choose one" in sending.problem.text()
    sending.under.setChecked(False)
    sending.path.setText(str(tmp_path / "long.svg"))
    hand.send(sending)
    root = etree.parse(str(tmp_path / "long.svg")).getroot()
    names = [g.get("id") for g in root.iter("{http://www.w3.org/2000/svg}g")]
    assert {"Hidden lines", "Outline of the cut", "Tones"} <= set(names) and names.index("Tones") < names.index(
        "Outline of the cut"
    )

    hand.do("send_linework")
    sending = dialog(LineworkDialog)
    sending.under.setChecked(True)
    sending.path.setText(str(tmp_path / "long.dxf"))
    sending.go.click()
    assert sending.isVisible() and "no picture" in sending.problem.text()
    sending.path.setText(str(tmp_path / "over.pdf"))
    hand.send(sending)
    hand.do("send_linework")
    sending = dialog(LineworkDialog)
    sending.path.setText(str(tmp_path / "plain.pdf"))
    hand.send(sending)
    over, plain = page(tmp_path / "over.pdf"), page(tmp_path / "plain.pdf")
    assert over.shape == plain.shape
    # Both have the cut where it is; the one with the picture has tones behind it.
    dark = plain.max(axis=2) < 95
    assert dark.sum() > 2000 and (over.max(axis=2)[dark] < 120).mean() > 0.95
    assert (over.min(axis=2) < 240).mean() > (plain.min(axis=2) < 240).mean() + 0.1
    with pikepdf.open(tmp_path / "over.pdf") as document:
        assert str(document.Root.OCProperties.OCGs[0].Name) == "Picture"


def test_linework_is_cancelled_and_leaves_nothing(hand, tmp_path: Path) -> None:
    hand.do("send_linework")
    sending = dialog(LineworkDialog)
    sending.under.setChecked(True)
    sending.path.setText(str(tmp_path / "gone.pdf"))
    sending.go.click()
    assert sending.busy
    sending.reject()
    assert sending.isVisible() and "cancelled" in sending.problem.text() and not (tmp_path / "gone.pdf").exists()
    sending.reject()


def stage_lines(hand) -> np.ndarray:
    hand.settle()
    return hand.screen().astype(int)


@pytest.mark.usefixtures("large")
def test_the_stage_shows_linework_that_follows_cut_and_camera(hand) -> None:
    window, stage, session = hand.window, hand.stage, hand.window.session
    window.contact_sheet.recall("long")
    plain = stage_lines(hand)
    before = session.project
    hand.do("lined")
    lines = stage_lines(hand)
    assert session.project is before and window.actions_["lined"].isChecked()
    # What is cut stays where it is; the rest is white paper with lines.
    paper = np.array([round(255 * c) for c in session.stage.look.paper])
    inside = stage.viewport.pixels(np.array([[3.0, 6.2, 5.6], [12.0, 6.2, 6.0]])).astype(int)
    spot = (slice(inside[:, 1].min() - 3, inside[:, 1].max() + 3), slice(inside[0, 0], inside[1, 0]))
    assert np.median(np.abs(lines[spot] - paper).max(axis=-1)) < 4 < np.median(np.abs(plain[spot] - paper).max(axis=-1))
    dark = plain.max(axis=2) < 90
    assert (lines.max(axis=2)[dark] < 110).mean() > 0.9
    # While a cut moves there is a quick version with the caps where they are now; when it is still, its lines.
    drawing = stage.lined.drawing(stage.lines_key())
    cut = session.stage.cuts[0]
    session.apply(edits.put_cut(session.project, cut.model_copy(update={"plane": cut.plane.moved(1.0)})), "moved", merge="x")
    hand.qtbot.waitUntil(lambda: session.is_cut, timeout=20_000)
    assert stage.lined.image(stage.lines_key()) is None
    moved = stage_lines(hand)
    assert stage.lined.drawing(stage.lines_key()) not in (None, drawing) and (moved != lines).any(axis=2).sum() > 2000
    session.end_step()
    session.undo()
    assert (stage_lines(hand) == lines).all(axis=2).mean() > 0.995
    # What is picked shows through.
    wall = session.building.elements[0].id
    session.pick(elements=frozenset({wall}))
    assert stage.lined.over(stage.lines_key())
    session.pick()
    hand.do("lined_tones")
    tones = stage_lines(hand)
    assert np.median(np.abs(tones[spot] - paper).max(axis=-1)) > 10 and "linework" in stage.lined.words()
    hand.do("lined_tones")
    assert (np.abs(stage_lines(hand) - plain).max(axis=2) < 6).mean() > 0.99 and not window.actions_["lined"].isChecked()


def test_scenes_keep_their_linework_and_have_it_made_anew(hand, tmp_path: Path) -> None:
    window, session = hand.window, hand.window.session

    def made() -> None:
        hand.qtbot.waitUntil(lambda: not window.line_keeper.busy, timeout=60_000)

    def fresh() -> str:
        return session.linework.freshness(session.scene, session.project.site)

    window.contact_sheet.recall("cross")
    hand.settle()
    assert fresh() == "none" and not session.linework.stored(session.project)
    hand.do("keep_lines")
    assert fresh() == "out of date" and session.project.scene("cross").lines_kept
    made()
    assert fresh() == "current"
    drawing = session.linework.find(own_lines(session.scene, session.project.site))
    assert drawing is not None and len(drawing.strokes) > 3
    listed = window.contact_sheet.scenes

    def said() -> str:
        return listed.index(listed.row_of("cross")).data(Qt.ItemDataRole.ToolTipRole)

    assert "is kept" in said()
    # Another look of the scene: it is out of date, says so, and is made anew without being asked.
    look = session.stage.look.model_copy(update={"cut_weight": 1.0})
    session.apply(edits.set_look(session.project, look), "heavier")
    hand.do("replace_scene")
    hand.qtbot.waitUntil(lambda: "out of date" in said())
    assert fresh() == "out of date"
    made()
    again = session.linework.find(own_lines(session.scene, session.project.site))
    weight = {s.name: s.pen.weight for s in again.strokes}["Outline of the cut"]
    assert fresh() == "current" and weight == 1.0
    # It lies in the project, and is there when that is opened again.
    path = tmp_path / "kept.anatome"
    window.documents.save(path)
    hand.qtbot.waitUntil(lambda: not window.documents.is_saving, timeout=60_000)
    stored = load_project(path)
    assert any(name.startswith("cross/") for name in stored.linework)
    kept = KeptLines(session.model, stored.linework)
    assert packed(kept.find(own_lines(stored.project.scene("cross"), stored.project.site))) == packed(again)
    # Deleting the scene deletes it.
    window.commands.scenes.delete_scene("cross")
    assert not session.linework.stored(session.project)
    session.undo()
    hand.do("keep_lines")
    assert fresh() == "none"


def test_linework_goes_on_layers_of_the_model_which_the_scene_keeps(hand, tmp_path: Path) -> None:
    """By type and kind, under names of one's own, walls in a pen of their own and furniture without lines; a wrong name is told;
    next time the dialog has it all again."""
    session = hand.window.session
    hand.window.contact_sheet.recall("cross")
    hand.do("send_linework")
    sending = dialog(LineworkDialog)
    sending.layers.way.setCurrentIndex(sending.layers.way.findText("Types"))
    sending.layers.names.setText("A-{colour}")
    sending.path.setText(str(tmp_path / "cross.dxf"))
    sending.go.click()
    assert sending.isVisible() and "{model}" in sending.problem.text()
    sending.layers.names.setText("A-{model}-{kind}")
    sending.layers.pens.click()
    table = dialog(PensDialog)
    (row,) = (i for i in range(table.table.rowCount()) if table.table.item(i, 0).text() == "Wall")
    weight = table.table.cellWidget(row, 2)
    weight.setCurrentIndex(weight.findText("0.35 mm"))
    table._colour(row, (0.7, 0.1, 0.1))
    (off,) = (i for i in range(table.table.rowCount()) if table.table.item(i, 0).text() == "Door")
    table.table.item(off, 0).setCheckState(Qt.CheckState.Unchecked)
    table.go.click()
    sending.furniture.setChecked(False)
    hand.send(sending)
    document = ezdxf.readfile(tmp_path / "cross.dxf")
    names = {e.dxf.layer for e in document.modelspace() if e.dxftype() == "LWPOLYLINE"}
    assert "A-Wall-Edges" in names and document.layers.get("A-Wall-Edges").dxf.lineweight == 35
    edges = {name.removeprefix("A-").removesuffix("-Edges") for name in names if name.endswith("-Edges")}
    assert "Door" not in edges and not edges & {"Furniture", "Furnishing element"}
    kept = session.project.scene("cross").line_layers
    assert kept.by == "both" and kept.of == "type" and {pen.name for pen in kept.pens} == {"Wall", "Door"}
    hand.do("send_linework")
    again = dialog(LineworkDialog)
    assert again.layers.value() == kept and again.layers.names.text() == "A-{model}-{kind}" and again.furniture.isChecked()
    again.reject()
    # The same switch in the scene.
    hand.do("furniture_lines")
    assert not hand.window.actions_["furniture_lines"].isChecked() and session.stage.overrides
    hand.do("furniture_lines")
    assert hand.window.actions_["furniture_lines"].isChecked() and not session.stage.overrides
