"""A model without meaning, as a general modeller writes it: guessed, corrected by hand, and used by cuts as any other."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt

from anatome.app.base.ask import Ask
from anatome.app.panels.inspector.reach_box import ReachDialog
from anatome.cuts.plane import Plane
from anatome.cuts.reach import Reach
from anatome.model.building import Building
from anatome.model.meaning import unsaid
from anatome.model.options import OpenOptions
from anatome.model.selection import Selection
from anatome.scenes import edits

CTRL, ALT, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ShiftModifier


def written(building: Building, path: Path) -> Path:
    """Named by numbers, in one group, its colours as materials."""
    lines, corners = ["mtllib m.mtl"], 1
    for number, _ in enumerate(building.elements):
        start, end = building.triangle_start[number : number + 2]
        used, faces = np.unique(building.triangles[start:end], return_inverse=True)
        lines += ["g House", f"o object_{number}", *(f"v {x:.6f} {y:.6f} {z:.6f}" for x, y, z in building.vertices[used])]
        styles = building.triangle_style[start:end]
        for style in np.unique(styles).tolist():
            lines += [f"usemtl c{style}"]
            lines += [f"f {a} {b} {c}" for a, b, c in (faces.reshape(-1, 3)[styles == style] + corners).tolist()]
        corners += len(used)
    path.write_text("\n".join(lines) + "\n")
    colours = ((i, *(c / 255 for c in rgba)) for i, rgba in enumerate(building.styles.tolist()))
    said = (f"newmtl c{i}\nKd {r:.3f} {g:.3f} {b:.3f}\nd {a:.3f}\n" for i, r, g, b, a in colours)
    (path.parent / "m.mtl").write_text("".join(said))
    return path


@pytest.fixture
def bare(held, boathouse: Building, tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    """The boathouse open without any meaning, and the page of meaning."""
    window, session = held.window, held.window.session
    before = session.opened_as
    window.documents.open(written(boathouse, tmp_path / "house.obj"), OpenOptions(up="z", unit="metre"))
    held.qtbot.waitUntil(lambda: session.is_open and session.opened_as is not before, timeout=60_000)
    held.settle()
    held.do("meaning")
    held.qtbot.waitUntil(lambda: window.inspector.meaning.isVisible())
    return held


def built(hand) -> None:
    hand.qtbot.waitUntil(lambda: hand.window.session.is_built, timeout=30_000)


def test_guesses_are_offered_taken_over_and_taken_back_in_one_step(bare) -> None:
    window, session, page = bare.window, bare.window.session, bare.window.inspector.meaning
    count = len(session.building.elements)
    assert f"{count} parts. {count} do not say" in page.facts.text() and len(session.marked) == count
    tinted = bare.picture().astype(int)
    page.guess.click()
    bare.qtbot.waitUntil(lambda: window.commands.meaning.guesses is not None, timeout=30_000)
    names = [page.offered.item(i).text() for i in range(page.offered.count())]
    assert names[:2] == ["Ground floor, at +0.00 m", "Floor 1, at +3.40 m"] and any(name.startswith("Wall") for name in names)
    assert session.project.meanings.is_empty  # offered, not taken
    page.take.click()
    built(bare)
    assert [s.name for s in session.building.storeys] == ["Ground floor", "Floor 1"]
    assert unsaid(session.building).sum() < 0.05 * count and session.building.type_counts["IfcWall"] > 20
    assert "have a type, 2 storeys, 6 rooms" in window.status.text()
    page.rooms.itemAt(0).layout().itemAt(0).widget().click()
    ask = window.findChild(Ask)
    ask.texts["Name"].setText("Boat hall")
    ask.texts["Use"].setText("Storage")
    ask.go.click()
    built(bare)
    hall = session.building.spaces[0]
    assert (hall.name, hall.use, hall.storey) == ("Boat hall", "Storage", 0) and hall.floor_area == pytest.approx(227, abs=1)
    session.undo()
    built(bare)
    bare.qtbot.waitUntil(lambda: len(session.marked) < 0.05 * count)
    assert (np.abs(bare.picture().astype(int) - tinted).max(axis=2) > 12).mean() > 0.1  # no longer tinted
    # What has meaning is used: a storey is cut open, the parts list has it, the key plan offers it.
    assert window.key_plan_panel.choice.count() == 2 and window.parts.model.rowCount() >= 2
    bare.do("meaning")
    assert not page.isVisible() and session.marked == frozenset()
    session.undo()
    built(bare)
    assert session.building.storeys == () and unsaid(session.building).all()
    session.redo()
    built(bare)
    assert len(session.building.storeys) == 2


def test_meaning_by_hand_and_by_rule_changes_what_cuts_do(bare, tmp_path: Path) -> None:
    window, session, page = bare.window, bare.window.session, bare.window.inspector.meaning
    walls = [e.id for e, b in zip(session.building.elements, session.building.element_bounds) if b[1, 2] - b[0, 2] > 6.0][:3]
    session.pick(elements=frozenset(walls))
    choices = [page.who.itemText(i) for i in range(page.who.count())]
    assert choices[0] == "These 3 parts" and "All of the group House" in choices and "All named “object”" in choices
    page.type.setCurrentIndex(page.type.findText("Wall"))
    page.material.setEditText("Clay")
    page.give.click()
    built(bare)
    picked = [session.building.elements[session.building.index_of[i]] for i in walls]
    assert {(e.type, e.material) for e in picked} == {("IfcWall", "Clay")} and "3 parts: wall, of Clay" in window.status.text()
    # A rule for a whole group, switched off and deleted again.
    page.who.setCurrentIndex(page.who.findText("All of the group House"))
    page.layer.setEditText("Old house")
    page.give.click()
    built(bare)
    assert {e.layer for e in session.building.elements} == {"Old house"}
    assert page.rules.count() == 2
    page.who.setCurrentIndex(page.who.findText("All named “object”"))
    page.layer.setEditText("Objects")
    page.give.click()
    built(bare)
    assert page.rules.itemAt(2).itemAt(1).widget().text() == "All named “object”: on layer Objects"
    page.rules.itemAt(2).itemAt(2).widget().click()
    built(bare)
    assert page.rules.count() == 2
    row = page.rules.itemAt(1)
    row.itemAt(0).widget().click()
    built(bare)
    assert {e.layer for e in session.building.elements} == {""}
    # Nothing chosen is told.
    page.give.click()
    assert "Choose a type" in window.status.text()
    # Saved to a file, and loaded where there is none.
    path = tmp_path / "house.meaning.json"
    window.commands.meaning.save(path)
    while not session.project.meanings.is_empty:
        session.undo()
    built(bare)
    window.commands.meaning.load(path)
    built(bare)
    assert session.building.elements[session.building.index_of[walls[0]]].material == "Clay"
    # A cut that reaches only what is of clay fills nothing else.
    bare.do("meaning")
    project = edits.add_plane(session.project, Plane((0.0, 0.0, 1.2), (0.0, 0.0, 1.0)), "c")
    session.apply(project, "Cut")
    session.pick(cut="c")
    window.inspector.cut.reach.modes.buttons["only"].click()
    window.inspector.cut.reach.change(Reach(mode="only", what=Selection(materials=frozenset({"Clay"}))))
    bare.settle()
    cut = {session.building.elements[i].id for face in session.left().faces for i in face.section.element.tolist()}
    assert cut and cut <= set(walls)


def test_picked_parts_are_grouped_and_the_group_is_used(hand) -> None:
    """On the boathouse, which says all else of itself: in the list, for what a cut affects, in labels."""
    window, session = hand.window, hand.window.session
    chairs = [e.id for e in session.building.elements if "chair" in e.name.lower()][:4]
    session.pick(elements=frozenset(chairs))
    hand.press(Qt.Key.Key_S, CTRL | ALT | SHIFT)
    (ask,) = [d for d in window.findChildren(Ask) if d.isVisible()]
    ask.texts["Name"].setText("Club chairs")
    ask.go.click()
    built(hand)
    assert "Group “Club chairs”: 4 parts" in window.status.text()
    window.parts.way.setCurrentIndex(window.parts.way.findData("group"))
    window.parts.fill()
    model = window.parts.model
    assert model.data(model.index(0, 0)) == "Club chairs" and model.data(model.index(0, 1)) == "4"
    window.contact_sheet.recall("long")
    session.pick(cut=session.stage.cuts[0].id)
    dialog = ReachDialog(window, session.building, session.cut.reach)
    groups = dialog.lists["groups"]
    assert [groups.item(i).text() for i in range(groups.count())] == ["Club chairs"]
    groups.item(0).setCheckState(Qt.CheckState.Checked)
    window.inspector.cut.reach.change(dialog.reach())
    hand.settle()
    assert "the group Club chairs (4 parts)" in window.inspector.cut.reach.words.text()
    faces = [session.building.elements[i].id for face in session.left().faces for i in face.section.element.tolist()]
    assert set(faces) <= set(chairs)
    hand.do("meaning")
    page = window.inspector.meaning
    page.groups.itemAt(0).itemAt(0).widget().click()
    assert session.picked.elements == frozenset(chairs)
    page.groups.itemAt(0).itemAt(1).widget().click()
    ask = window.findChild(Ask)
    ask.texts["Name"].setText("Seats")
    ask.go.click()
    built(hand)
    assert session.stage.cuts[0].reach.what.groups == {"Seats"}  # it follows
    faces = [session.building.elements[i].id for face in session.left().faces for i in face.section.element.tolist()]
    assert set(faces) <= set(chairs)
    page.groups.itemAt(0).itemAt(2).widget().click()
    built(hand)
    assert session.project.meanings.is_empty and not any(e.also for e in session.building.elements)
    hand.do("meaning")
