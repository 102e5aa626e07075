"""Every menu, page, list and dialog is whole on small screens: nothing cut off, overlapping or beyond; what is short has tips."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from cut_off import faults, menu_faults
from PySide6.QtCore import QSize
from PySide6.QtWidgets import QApplication, QDialog

from anatome.app.panels.inspector.page import Fold
from anatome.cuts.series import SerialSections
from anatome.scenes import edits
from anatome.sheets.sheet import KeyPlanBlock, LegendBlock, NorthBlock, PictureBlock, ScaleBarBlock, TextBlock

SCREENS = (1280, 768), *(pytest.param(screen, marks=pytest.mark.long) for screen in ((1280, 800), (1366, 768)))
"""The first is as narrow as the one and as low as the other: what is whole there is whole on both."""
DIALOGS = (
    *("send_picture", "send_batch", "send_linework", "send_drawing", "send_sheets", "send_layers", "send_model", "send_maquette"),
    *("send_series", "find", "keys", "suggest", "series", "plane_storey", "copy_cut", "box_space", "box_storey", "go_to"),
    *("compare_looks", "keep_look", "title_fields"),
)
"""Commands that open one."""
SCALED = "ANATOME_TEST_SCALED"
"""Set in the process that has larger pixels."""


def pages(hand) -> Iterator[str]:
    """Show every page of the inspector, each with all of its sections open."""
    window, session = hand.window, hand.window.session
    for scene in session.project.scenes:
        window.contact_sheet.recall(scene.id)
        session.pick()
        yield scene.name
        for cut in session.stage.cuts:
            session.pick(cut=cut.id)
            yield f"{scene.name}, {cut.name}"
        for note in session.stage.notes[:: max(len(session.stage.notes) // 4, 1)]:
            session.pick(notes=[note.id])
            yield f"{scene.name}, {note.kind}"
    window.contact_sheet.recall("long")
    series = SerialSections(id="s", name="Serial sections", mark="S", plane=session.stage.cuts[0].axis, offsets=(0.0, 1.0, 2.0))
    session.apply(edits.put_series(session.project, series), "Series")
    session.pick(cut="s")
    yield "series"
    elements = session.building.elements
    for kind in ("IfcDoor", "IfcSlab"):
        own = [e.id for e in elements if e.type == kind]
        session.pick(elements=frozenset(own[:1]), at_cut=True)
        yield kind
        session.pick(elements=frozenset(own))
        yield f"{kind}, all"
    session.pick(figure=session.project.site.figures[0].id)
    yield "a figure"
    hand.do("crop")
    session.pick()
    yield "a crop"


def sheet_pages(hand) -> Iterator[str]:
    """The same of a sheet with one of everything on it."""
    session, desk = hand.window.session, hand.window.desk
    desk.open(session.project.sheets[0].id)
    yield "paper"
    blocks = [
        *(TextBlock(id="t", text="{project}"), LegendBlock(id="l"), KeyPlanBlock(id="k"), ScaleBarBlock(id="b")),
        *(NorthBlock(id="n"), PictureBlock(id="p", data="")),
    ]
    desk.put_blocks(blocks, "One of everything")
    sheet = desk.sheet
    assert sheet is not None
    for block in sheet.blocks:
        session.pick(blocks=[block.id])
        yield f"sheet, {block.kind}"
    session.pick(blocks=[b.id for b in sheet.blocks])
    yield "sheet, all"
    desk.close()


def walked(hand, screen: QSize) -> list[str]:
    """Go through all of it on a screen, and say what is wrong."""
    window = hand.window
    window.resize(screen)
    found: list[str] = []

    def look(what: str) -> None:
        while window.inspector.make_next():
            pass
        for fold in window.inspector.findChildren(Fold):
            fold.button.setChecked(True)
        own = ["not looked at yet"]
        for _ in range(40):  # what is laid out anew once a cut is there has its time
            QApplication.processEvents()
            own = faults(window, screen)
            if not own:
                break
            hand.qtbot.wait(20)
        found.extend(f"{what}: {fault}" for fault in own)

    for name in pages(hand):
        look(name)
    for name in sheet_pages(hand):
        look(name)
    for words, button in window.menu_buttons.items():
        found.extend(f"{words}: {fault}" for fault in menu_faults(button.menu(), screen))
    window.contact_sheet.recall("long")
    window.session.pick(cut=window.session.stage.cuts[0].id)
    for name in DIALOGS:
        if not window.actions_[name].isEnabled():
            continue
        hand.do(name)
        QApplication.processEvents()
        for dialog in [w for w in QApplication.topLevelWidgets() if isinstance(w, QDialog) and w.isVisible()]:
            for _ in range(3):
                QApplication.processEvents()
            found.extend(f"dialog {name}: {fault}" for fault in faults(dialog, screen))
            dialog.close()
    return list(dict.fromkeys(found))


@pytest.mark.parametrize("screen", SCREENS, ids=str)
def test_all_of_it_is_whole(hand, screen: tuple[int, int]) -> None:
    folds = {fold: fold.open for fold in hand.window.inspector.findChildren(Fold)}
    try:
        found = walked(hand, QSize(*screen))
    finally:
        for fold, was in folds.items():
            fold.button.setChecked(was)
    assert not found, f"{len(found)} faults:\n" + "\n".join(found[:60])


@pytest.mark.long
@pytest.mark.skipif(SCALED in os.environ, reason="this is that process")
def test_all_of_it_is_whole_at_one_and_a_half() -> None:
    """The same in a process whose pixels are half as large again."""
    own = {**os.environ, "QT_SCALE_FACTOR": "1.5", SCALED: "1"}
    run = [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", "-m", "not long", __file__]
    done = subprocess.run(run, env=own, cwd=Path(__file__).parents[2], capture_output=True, text=True, timeout=900)
    assert done.returncode == 0, done.stdout[-6000:]
