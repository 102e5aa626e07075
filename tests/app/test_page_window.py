"""The client's page made in the window: what is done in each scene is said, how large it will be; what was stopped goes on."""

from __future__ import annotations

import io
import json
import re
from html import unescape
from pathlib import Path

import numpy as np
from PIL import Image
from PySide6.QtTest import QTest

from anatome.app.send_out.page import PageDialog
from anatome.app.send_out.viewpoints import ViewpointsDialog
from anatome.formats.bcf import read_bcf


def dialog_of(hand) -> PageDialog:
    hand.do("send_page")
    return next(d for d in hand.window.findChildren(PageDialog) if d.isVisible())


def small(hand, dialog: PageDialog, path: Path, *scenes: str) -> None:
    names = [scene.name for scene in hand.window.session.project.scenes]
    dialog.scenes.tick_only(*(names.index(name) for name in scenes))
    dialog.wide.setValue(320)
    dialog.frames.setValue(3)
    dialog.zoom.setChecked(False)
    dialog.path.setText(str(path))


def test_a_page_is_said_made_stopped_and_made_again(hand, tmp_path: Path) -> None:
    path, dialog = tmp_path / "river.html", dialog_of(hand)
    small(hand, dialog, path, "Long section", "From the river", "Exploded axonometric")
    names = [scene.name for scene in hand.window.session.project.scenes]
    hand.qtbot.waitUntil(lambda: dialog.guess.text().startswith("9 pictures, about 0."), timeout=60_000)
    dialog.scenes.setCurrentRow(names.index("Long section"))
    assert (
        dialog.scene_name.text() == "Long section"
        and dialog.shows.currentText() == "Drag the cut"
        and not dialog.look.isVisible()
    )
    dialog.words.setFocus()
    QTest.keyClicks(dialog.words, "Through the boats")
    dialog.scenes.setCurrentRow(names.index("From the river"))
    dialog.shows.setCurrentIndex(dialog.shows.findData("looks"))
    dialog.shows.activated.emit(dialog.shows.currentIndex())
    assert dialog.look.isVisible()
    dialog.look.setCurrentText("White model")
    dialog.look.activated.emit(dialog.look.currentIndex())
    dialog.page_title.setText("The boats & the river")
    hand.qtbot.waitUntil(lambda: dialog.guess.text().startswith("8 pictures"), timeout=60_000)
    before = hand.window.session.project

    dialog.go.click()
    folder = tmp_path / "river.html.pictures"
    hand.qtbot.waitUntil(lambda: (folder / "0002.png").exists(), timeout=60_000)
    dialog.reject()
    assert dialog.isVisible() and "what is drawn so far is used" in dialog.problem.text() and not path.exists()
    hand.qtbot.wait(100)
    kept = {p.name: p.stat().st_mtime_ns for p in folder.glob("*.png")}
    assert 2 <= len(kept) < 8
    hand.send(dialog)
    assert path.exists() and not folder.exists() and "Wrote a page of 0." in hand.window.status.text()
    assert hand.window.session.project is before

    text = path.read_text(encoding="utf-8")
    assert unescape(re.search("<h1>(.*?)</h1>", text)[1]) == "The boats & the river" and "<p>Through the boats</p>" in text
    shown = re.findall(r'<h2 id="h\d">(.*?)</h2>.*?<figure data-shows="(\w+)"', text)
    assert shown == [("From the river", "looks"), ("Long section", "frames"), ("Exploded axonometric", "frames")]
    words = [json.loads(unescape(found)) for found in re.findall(r'data-words="(.*?)"', text)]
    assert words[0] == ["As it is", "White model"] and words[2] == ["Together", "50 % open", "100 % open"]
    assert "Section A at 6.20 m" in words[1] and len(set(words[1])) == 3


def test_what_cannot_be_on_a_page_is_said_and_picked_scenes_are_ticked(hand, tmp_path: Path) -> None:
    scenes = hand.window.session.project.scenes
    hand.window.session.pick(scenes=(scenes[1].id, scenes[3].id))
    dialog = dialog_of(hand)
    assert dialog.scenes.ticked() == [1, 3] and dialog.films.ticked() == []
    small(hand, dialog, tmp_path / "page.html", "Ground floor plan")
    dialog.scenes.setCurrentRow(dialog.scenes.ticked()[0])
    dialog.shows.setCurrentIndex(dialog.shows.findData("apart"))
    dialog.shows.activated.emit(dialog.shows.currentIndex())
    hand.qtbot.waitUntil(lambda: "Nothing is drawn apart" in dialog.problem.text(), timeout=60_000)
    hand.send(dialog)
    assert dialog.isVisible() and "Nothing is drawn apart in “Ground floor plan”" in dialog.problem.text()
    dialog.scenes.tick_only()
    dialog.go.click()
    assert "Tick one at least" in dialog.problem.text()
    dialog.path.setText(str(tmp_path / "page.pdf"))
    dialog.go.click()
    assert "ends with .html" in dialog.problem.text() and not list(tmp_path.iterdir())
    dialog.reject()


def test_scenes_go_out_as_viewpoints_and_viewpoints_come_in_as_scenes(hand, tmp_path: Path) -> None:
    session, path = hand.window.session, tmp_path / "looked at.bcf"
    hand.do("send_viewpoints")
    (dialog,) = hand.window.findChildren(ViewpointsDialog)
    names = [scene.name for scene in session.project.scenes]
    dialog.scenes.tick_only(names.index("Long section"), names.index("The wing by itself"))
    dialog.path.setText(str(path))
    hand.send(dialog)
    assert "Wrote 2 viewpoints" in hand.window.status.text() and [p.name for p in tmp_path.iterdir()] == ["looked at.bcf"]
    views = {view.title: view for view in read_bcf(path)}
    with Image.open(io.BytesIO(views["Long section"].snapshot)) as picture:
        assert picture.width == 1000
    before = len(names)
    hand.window.commands.viewpoints.take(path)
    hand.qtbot.waitUntil(lambda: len(session.project.scenes) == before + 2, timeout=30_000)
    new = session.project.scenes[-2:]
    assert {scene.set for scene in new} == {"looked at"} and {scene.name for scene in new} == {
        "Long section",
        "The wing by itself",
    }
    # The long section comes back as the same picture, cut by the same cut.
    own = session.project.scenes[names.index("Long section")]
    again = next(scene for scene in new if scene.name == "Long section")
    pictures = []
    for scene in (own, again):
        hand.window.contact_sheet.recall(scene.id)
        pictures.append(hand.picture().astype(int))
    assert (np.abs(pictures[0] - pictures[1]).max(axis=2) > 12).mean() < 0.01
    hand.do("undo")
    (tmp_path / "bad.bcf").write_bytes(b"no zip")
    told: list[str] = []
    hand.window.tell = lambda text, title="": told.append(text)
    hand.window.commands.viewpoints.take(tmp_path / "bad.bcf")
    hand.qtbot.waitUntil(lambda: bool(told), timeout=30_000)
    del hand.window.tell
    assert "is no BCF file" in told[0]
