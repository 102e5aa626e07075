"""What is put on a sheet, and what is done with what is picked on it: lined up with one another and on the building."""

from __future__ import annotations

import base64
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from anatome.app.base.ask import Ask
from anatome.app.base.entry import Entry, group
from anatome.app.base.papers import layout_scales
from anatome.app.base.units import UNITS
from anatome.app.commands.host import Host
from anatome.app.commands.own_picture import read_picture
from anatome.lengths import scale_words
from anatome.printing.pages import size_of
from anatome.problems import Problem
from anatome.scenes import sheet_edits
from anatome.scenes.edits import new_id
from anatome.scenes.project import Project
from anatome.sheets.layout import free_place, lined_up, spread_out
from anatome.sheets.paper import free_area
from anatome.sheets.sheet import (
    AnyBlock,
    ContentsBlock,
    KeyPlanBlock,
    LegendBlock,
    NorthBlock,
    PictureBlock,
    ScaleBarBlock,
    SceneFrame,
    Sheet,
    TextBlock,
)

APART = 2.4
"""Mm between what is put on a sheet and what is there."""
EDGES = (
    ("left", "Left edges in line"),
    ("right", "Right edges in line"),
    ("top", "Upper edges in line"),
    ("bottom", "Lower edges in line"),
)


class OnSheetCommands:
    """Works on the blocks of the open sheet."""

    def __init__(self, host: Host) -> None:
        self._host, self._session, self._desk = host, host.session, host.desk

    def entries(self) -> list[Entry]:
        return [*self._put_on(), *self._picked()]

    def _put_on(self) -> list[Entry]:
        return group(
            "On the sheet",
            "sheet",
            Entry(
                "sheet_text",
                "Text",
                "Text on the sheet; {project}, {scale} and other fields are filled",
                partial(self._add_block, TextBlock, "Text on the sheet", text="{project}"),
                needs="sheet",
            ),
            Entry("sheet_picture", "Picture from a file…", "A picture of your own", self.add_picture, needs="sheet"),
            Entry(
                "sheet_legend",
                "Legend of materials",
                "What is cut on this sheet, with fills and hatches",
                partial(self._add_block, LegendBlock, "A legend of materials"),
                needs="sheet",
            ),
            Entry(
                "sheet_contents",
                "List of sheets",
                "All sheets of the project: number, title, scale, revision, date",
                partial(self._add_block, ContentsBlock, "A list of sheets"),
                needs="sheet",
            ),
            Entry(
                "sheet_key_plan",
                "Key plan",
                "A small plan with the lines of the sections on this sheet",
                partial(self._add_block, KeyPlanBlock, "A key plan with the sections on this sheet"),
                needs="sheet",
            ),
            Entry(
                "sheet_scale_bar",
                "Scale bar",
                "At the scale the scenes on the sheet are held at",
                self.add_scale_bar,
                needs="sheet",
            ),
            Entry(
                "sheet_north",
                "North point",
                "Turned as the first plan on the sheet has it",
                partial(self._add_block, NorthBlock, "A north point"),
                needs="sheet",
            ),
            Entry("sheet_guide_x", "Guide upright…", "A line frames are drawn to", partial(self.add_guide, "x"), needs="sheet"),
            Entry("sheet_guide_y", "Guide across…", "A line frames are drawn to", partial(self.add_guide, "y"), needs="sheet"),
            Entry("sheet_no_guides", "No guides", "Take all guides away", self.no_guides, needs="sheet"),
            within="Put on the sheet",
        )

    def _picked(self) -> list[Entry]:
        return group(
            "What is picked on it",
            "sheet",
            Entry(
                "on_storey",
                "On one storey line",
                "Sections side by side: the ground floor of all in one line with the first picked",
                self.on_storey,
                needs="frames",
            ),
            Entry(
                "on_axis",
                "On one axis",
                "One over the other: the middle of the building over that in the first",
                self.on_axis,
                needs="frames",
            ),
            Entry(
                "on_place",
                "One over another, to the hair",
                "The same place of the building at the same place",
                self.on_place,
                needs="frames",
            ),
            Entry(
                "sheet_same_scale",
                "Same scale for all",
                "All sections and parallel views on the sheet at the largest usual scale that fits, side by side",
                partial(self.lay_out, True),
                needs="frames there",
            ),
            Entry(
                "sheet_line_up",
                "Line up all scenes",
                "Side by side as large as they are, their storeys in one line",
                partial(self.lay_out, False),
                needs="frames there",
            ),
            *(
                Entry(
                    f"sheet_{edge}",
                    words,
                    f"{words} with the first picked",
                    partial(self.line_up, edge),
                    needs="blocks picked",
                )
                for edge, words in EDGES
            ),
            Entry(
                "sheet_spread_x",
                "Spread across",
                "The same gaps from side to side",
                partial(self.spread, True),
                needs="blocks picked",
            ),
            Entry(
                "sheet_spread_y",
                "Spread up and down",
                "The same gaps one over the other",
                partial(self.spread, False),
                needs="blocks picked",
            ),
            Entry("block_front", "To the front", "Over everything on the sheet", self.to_front, needs="block"),
            Entry("block_take", "Delete from the sheet", "The scene itself stays", self.take_blocks, "Del", "trash", "block"),
            within="What is picked on it",
        )

    # On the sheet ----------------------------------------------------------------------------------------------

    def _add_block(self, kind: type[AnyBlock], said: str, **values: object) -> None:
        """Put something on the open sheet where there is room, low and to the left, and pick it."""
        sheet = self._desk.sheet
        if sheet is not None:
            block = kind.model_validate({"id": new_id(), **values})
            left, bottom, right, top = self._host.sheet_view.box(block)
            taken = [self._host.sheet_view.box(b) for b in sheet.blocks]
            room = sheet_edits.inset(free_area(sheet))
            at = free_place((right - left, top - bottom), taken, room, APART)
            block = block.model_copy(update={"at": at})
            self._desk.put_blocks([block], said)
            self._session.pick(blocks=[block.id])

    def add_scale_bar(self) -> None:
        """In the units the window speaks."""
        self._add_block(ScaleBarBlock, "A scale bar", unit="ft" if UNITS.feet else "m")

    def add_picture(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self._host.widget, "Picture from a file", "", "Pictures (*.png *.jpg *.jpeg)")
        if path:
            self.put_picture(Path(path))

    def put_picture(self, path: Path) -> None:
        """A picture on the open sheet."""
        sheet = self._desk.sheet
        if sheet is None:
            return
        try:
            data = read_picture(path)
        except Problem as problem:
            self._host.tell(str(problem), "This picture could not be read")
            return
        wide, high = size_of(data)
        told = f"Put {path.name} on the sheet"
        self._add_block(PictureBlock, told, data=base64.b64encode(data).decode(), aspect=wide / high)

    def add_guide(self, axis: str) -> None:
        """At so many mm from the left or the lower edge."""
        sheet = self._desk.sheet
        if sheet is None:
            return
        words = "From the left edge, mm" if axis == "x" else "From the lower edge, mm"

        def do(ask: Ask) -> None:
            try:
                at = float(ask.text(words).replace(",", "."))
            except ValueError:
                raise Problem("Type a number of millimetres, for example 120.") from None
            guides = (*sheet.guides, (axis, at))
            self._desk.put(Sheet.model_validate(dict(sheet) | {"guides": guides}), "A guide")

        ask = Ask(self._host.widget, "A guide", "Frames that are moved are drawn to it. It is never printed.", "Set", do)
        ask.words(words, f"{sheet.paper[0 if axis == 'x' else 1] / 2:g}").open()

    def no_guides(self) -> None:
        sheet = self._desk.sheet
        if sheet is not None and sheet.guides:
            self._desk.put(sheet.model_copy(update={"guides": ()}), "No guides")

    # What is picked --------------------------------------------------------------------------------------------

    def take_blocks(self) -> None:
        sheet = self._desk.sheet
        if sheet is not None and self._session.picked.blocks:
            count = len(self._session.picked.blocks)
            self._desk.put(
                sheet_edits.take_blocks(sheet, self._session.picked.blocks),
                f"Took {count} off the sheet" if count > 1 else "Took it off the sheet",
            )

    def to_front(self) -> None:
        sheet = self._desk.sheet
        if sheet is not None:
            own = self._desk.blocks
            rest = sheet_edits.take_blocks(sheet, self._session.picked.blocks)
            self._desk.put(rest.model_copy(update={"blocks": (*rest.blocks, *own)}), "To the front")

    def _place(self, place: Callable[[Project, Sequence[SceneFrame]], list[SceneFrame]], said: str) -> None:
        try:
            self._desk.put_blocks(place(self._session.project, self._desk.frames), said)
        except Problem as problem:
            self._session.said.emit(str(problem))

    def lay_out(self, one_scale: bool) -> None:
        """All scenes of the open sheet side by side."""
        sheet = self._desk.sheet
        if sheet is None:
            return
        try:
            found = sheet_edits.laid_out(self._session.project, sheet, one_scale, layout_scales())
        except Problem as problem:
            self._session.said.emit(str(problem))
            return
        scale = next((f.scale for f in found.frames if f.scale), None)
        self._desk.put(found, f"All at {scale_words(scale)}" if one_scale and scale else "Lined up")

    def on_storey(self) -> None:
        centre, building = self._session.subject_bounds().mean(axis=0), self._session.building
        assert building is not None
        above = [s.elevation for s in building.storeys if s.elevation >= -0.1]
        level = min(above) if above else float(self._session.subject_bounds()[0, 2])
        self._place(lambda p, f: sheet_edits.on_one_level(p, f, centre, level), "On one storey line")

    def on_axis(self) -> None:
        centre = self._session.subject_bounds().mean(axis=0)
        self._place(lambda p, f: sheet_edits.on_one_axis(p, f, centre), "On one axis")

    def on_place(self) -> None:
        centre = self._session.subject_bounds().mean(axis=0)
        self._place(lambda p, f: sheet_edits.on_one_place(p, f, centre), "One over another")

    def line_up(self, edge: str) -> None:
        """With the first picked."""
        self._shift(lined_up([self._host.sheet_view.box(b) for b in self._desk.blocks], edge), "In line")

    def spread(self, across: bool) -> None:
        self._shift(spread_out([self._host.sheet_view.box(b) for b in self._desk.blocks], across), "Spread")

    def _shift(self, moves: list[tuple[float, float]], said: str) -> None:
        self._desk.put_blocks([sheet_edits.moved(b, by) for b, by in zip(self._desk.blocks, moves)], said)

    def change_blocks(self, said: str, **changes: object) -> None:
        """The picked blocks, otherwise; each takes of the changes what it has. Values no block can have change nothing."""
        found = []
        for block in self._desk.blocks:
            own = {k: v for k, v in changes.items() if k in type(block).model_fields}
            if own:
                found.append(type(block).model_validate(dict(block) | own))
        if found:
            self._desk.put_blocks(found, said)
