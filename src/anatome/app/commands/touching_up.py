"""Touching up linework: lines hidden, dashed, heavier or lighter, masked; lines and areas of one's own."""

from __future__ import annotations

from collections.abc import Collection
from functools import partial

from anatome.app.base.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.app.stage.touch_up import MaskLines, TouchLines
from anatome.app.stage.writing.shapes import DrawShape
from anatome.notes.touching_up import AnyTouchUp
from anatome.scenes import note_edits
from anatome.scenes.touch_edits import put_touch_up, take_touch_ups

WAYS = (
    ("touch_hide", "hide", "Hide lines", "Click lines that are not to be drawn; Shift: all lines of a part", "Ctrl+Alt+Shift+1"),
    ("touch_dash", "dash", "Dash lines", "Click lines that are to be dashed; Shift: all lines of a part", "Ctrl+Alt+Shift+2"),
    ("touch_heavier", "heavier", "Heavier lines", "Click lines that are to be heavier, one step of the row each time", ""),
    ("touch_lighter", "lighter", "Lighter lines", "Click lines that are to be lighter, one step of the row each time", ""),
)


class TouchUpCommands:
    """Works on the lines of the stage."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session

    def entries(self) -> list[Entry]:
        """Return what there is, in the order of the menu."""
        touching = [Entry(name, text, tip, partial(self.touch, name, way), key, task=True) for name, way, text, tip, key in WAYS]
        return group(
            "Touch up",
            "note",
            *touching,
            Entry("touch_mask", "Mask lines", "Draw a shape without lines in it", self.mask, "Ctrl+Alt+Shift+3", task=True),
            Entry(
                "draw_line",
                "Draw a line",
                "Corner by corner, in the plane of the cut, on the building or on the paper",
                partial(self.draw, "draw_line", False),
                "Ctrl+Alt+Shift+4",
                task=True,
            ),
            Entry(
                "draw_area",
                "Draw an area",
                "Filled or hatched, corner by corner",
                partial(self.draw, "draw_area", True),
                "Ctrl+Alt+Shift+5",
                task=True,
            ),
            Entry(
                "touch_back",
                "Take all touching up back",
                "Lines are drawn as they would be",
                lambda: self.take([one.id for one in self._session.stage.touched_up]),
                needs="touched up",
            ),
            within="Touch up lines",
        )

    def touch(self, name: str, way: str) -> None:
        """Begin to touch up lines in a way, or stop."""
        stage, stage_input = self._host.stage, self._host.stage_input
        if stage_input.task is not None and stage_input.task.name == name:
            stage_input.begin(None)
            return
        view, found = stage.view_of_lines, stage_input.see_again
        stage_input.begin(TouchLines(self._session, name=name, way=way, noted=stage.noted, view=view, found=found))

    def mask(self) -> None:
        """Begin to draw a mask, or stop."""
        stage_input = self._host.stage_input
        if stage_input.task is not None and stage_input.task.name == "touch_mask":
            stage_input.begin(None)
            return
        stage_input.begin(MaskLines(self._session, noted=self._host.stage.noted))

    def draw(self, name: str, closed: bool) -> None:
        """Begin to draw lines, or areas, or stop."""
        stage_input = self._host.stage_input
        if stage_input.task is not None and stage_input.task.name == name:
            stage_input.begin(None)
            return
        if not self._session.stage.notes_shown:
            self._session.apply(note_edits.show_notes(self._session.project, True), "Notes are shown")
        stage_input.begin(DrawShape(self._session, name=name, closed=closed, noted=self._host.stage.noted))

    def take(self, ids: Collection[str]) -> None:
        """Have lines as they would be."""
        count = len(ids)
        if count:
            words = "line as it was" if count == 1 else "lines as they were"
            self._session.apply(take_touch_ups(self._session.project, ids), f"{count} {words}")

    def change(self, one: AnyTouchUp, said: str) -> None:
        """Have one otherwise."""
        self._session.apply(put_touch_up(self._session.project, one), said)
