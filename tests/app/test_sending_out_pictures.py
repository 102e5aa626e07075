"""Pictures in layers, in passes, proofs and many at once, from the dialogs to the files."""

from __future__ import annotations

import zipfile
from pathlib import Path

import numpy as np
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from anatome.app.send_out.batch import BatchDialog
from anatome.app.send_out.pictures import PictureDialog, Proof


def dialog(kind: type[QWidget]) -> QWidget:
    return next(w for w in QApplication.topLevelWidgets() if isinstance(w, kind) and w.isVisible())


def pixels(path: Path) -> np.ndarray:
    with Image.open(path) as opened:
        return np.array(opened.convert("RGBA"))


def test_a_proof_layers_and_passes(hand, tmp_path: Path) -> None:
    """The proof shows the same picture; layers hold it; passes register with it and are a file each."""
    hand.window.contact_sheet.recall("long")
    hand.picture()
    hand.do("send_picture")
    sending = dialog(PictureDialog)
    sending.width_px.setValue(480)
    sending.ground.setCurrentIndex(sending.ground.findData("white"))
    QTest.mouseClick(sending.proof, Qt.MouseButton.LeftButton)
    hand.qtbot.waitUntil(lambda: any(isinstance(w, Proof) for w in QApplication.topLevelWidgets()), timeout=60_000)
    proof = dialog(Proof)
    assert proof.shown.pixmap().width() == 120 and "480 × 320 take about" in proof.words.text()
    proof.accept()
    sending.way.setCurrentIndex(sending.way.findData("layers"))
    assert sending.path.text().endswith(".ora")
    sending.path.setText(str(tmp_path / "long.ora"))
    hand.send(sending)
    with zipfile.ZipFile(tmp_path / "long.ora") as file, file.open("mergedimage.png") as merged:
        whole = np.array(Image.open(merged).convert("RGB")).astype(int)

    hand.do("send_picture")
    sending = dialog(PictureDialog)
    sending.width_px.setValue(480)
    sending.ground.setCurrentIndex(sending.ground.findData("white"))
    sending.way.setCurrentIndex(sending.way.findData("passes"))
    for box in sending.passes.values():
        box.setChecked(False)
    sending.path.setText(str(tmp_path / "long.png"))
    sending.go.click()
    assert sending.isVisible() and "at least one pass" in sending.problem.text()
    for key in ("colour", "cut-fill", "elements"):
        QTest.mouseClick(sending.passes[key], Qt.MouseButton.LeftButton)
    hand.send(sending)
    assert {p.name for p in tmp_path.glob("long, *")} == {
        f"long, {end}" for end in ("colour.png", "cut-fill.png", "elements.png", "passes.json")
    }
    colour, fill = pixels(tmp_path / "long, colour.png"), pixels(tmp_path / "long, cut-fill.png")
    assert colour.shape == fill.shape == (320, 480, 4)
    solid = fill[..., 3] == 255
    assert 0.05 < solid.mean() < 0.5
    # The fill is what the picture shows there, but where lines lie over it.
    same = np.abs(colour[..., :3].astype(int) - fill[..., :3]).max(axis=2)[solid] <= 2
    assert same.mean() > 0.85
    assert np.abs(whole - colour[..., :3])[solid].mean() < 3


def test_many_pictures_and_a_cancel(hand, tmp_path: Path) -> None:
    """Ticked scenes in ticked looks; a name that means nothing is said at once; what was written before a cancel stays."""
    hand.do("send_batch")
    sending = dialog(BatchDialog)
    for row in range(2, sending.scenes.count()):
        sending.scenes.item(row).setCheckState(Qt.CheckState.Unchecked)
    sending.looks.item(3).setCheckState(Qt.CheckState.Checked)
    assert "4 pictures" in sending.example.text() and sending.pattern.text() == "{number} {scene}, {look}"
    sending.pattern.setText("{client}")
    assert not sending.go.isEnabled() and "no “{client}”" in sending.example.text()
    sending.pattern.setText("{look}/{scene}")
    sending.width_px.setValue(150)
    sending.path.setText(str(tmp_path / "many"))
    hand.send(sending)
    names = sorted(p.name for p in (tmp_path / "many").glob("*.png"))
    assert len(names) == 4 and "Warm paper and ink_Long section.png" in names
    plain, warm = (pixels(tmp_path / "many" / n) for n in names if n.endswith("Long section.png"))
    assert np.abs(plain.astype(int) - warm).max() > 40

    # The same once more: only what has changed is drawn.
    before = {p.name: p.stat().st_mtime_ns for p in (tmp_path / "many").glob("*.png")}
    session, scene = hand.window.session, hand.window.session.project.scenes[1]
    other = scene.model_copy(update={"state": scene.state.model_copy(update={"hidden": frozenset({"x"})})})
    session.apply(
        session.project.model_copy(update={"scenes": (session.project.scenes[0], other, *session.project.scenes[2:])}), "x"
    )
    hand.do("send_again")
    hand.qtbot.waitUntil(lambda: "2 had not changed" in hand.window.status.text(), timeout=60_000)
    after = {p.name: p.stat().st_mtime_ns for p in (tmp_path / "many").glob("*.png")}
    drawn = {name for name in after if after[name] != before[name]}
    assert before.keys() == after.keys() and drawn == {name for name in names if name.endswith("Long section.png")}

    hand.do("send_batch")
    sending = dialog(BatchDialog)
    assert not sending.changed.isChecked()
    sending.width_px.setValue(150)
    sending.path.setText(str(tmp_path / "some"))
    sending.go.click()
    hand.qtbot.waitUntil(lambda: any((tmp_path / "some").glob("*.png")), timeout=60_000)
    sending.reject()
    hand.qtbot.waitUntil(lambda: "cancelled" in sending.problem.text(), timeout=10_000)  # at once, or after the one being written
    assert sending.isVisible() and not sending.busy
    written = sorted((tmp_path / "some").glob("*.png"))
    hand.qtbot.wait(300)
    assert sorted((tmp_path / "some").glob("*.png")) == written and 0 < len(written) < 13
    sending.reject()
