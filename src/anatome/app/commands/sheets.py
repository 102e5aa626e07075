"""Sheets: making them, laying scenes out in one step, lining frames up with one another and on the building."""

from __future__ import annotations

import base64
from collections.abc import Callable, Sequence
from datetime import date
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from anatome.app.ask import Ask
from anatome.app.commands.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.app.commands.scenes import SceneCommands
from anatome.look.shipped import shipped_looks
from anatome.printing.pages import size_of
from anatome.problems import Problem
from anatome.scenes import sheet_edits
from anatome.scenes.edits import new_id
from anatome.scenes.plans import plan_scenes
from anatome.scenes.project import Project
from anatome.sheets.layout import lined_up, spread_out
from anatome.sheets.paper import free_area
from anatome.sheets.sheet import KeyPlanBlock, LegendBlock, PictureBlock, SceneFrame, Sheet, TextBlock, Titles

EDGES = (
    ("left", "Left edges in line"),
    ("right", "Right edges in line"),
    ("top", "Upper edges in line"),
    ("bottom", "Lower edges in line"),
)
FOUR = ("White model", "Hatched by material", "Night blue")
"""Beside its own, the looks of one cut in four."""
LARGEST_LOGO = 4_000_000
"""Bytes of a picture that goes into a project."""


class SheetCommands:
    """Works on the sheets of the project."""

    def __init__(self, host: Host, scenes: SceneCommands) -> None:
        self._host, self._session, self._desk, self._scenes = host, host.session, host.desk, scenes

    def entries(self) -> list[Entry]:
        return [
            *group(
                "Sheets",
                "sheet",
                Entry("new_sheet", "New sheet", "An empty paper with border and title block", self.new, "Ctrl+Alt+T", "plus"),
                Entry(
                    "show_sheets",
                    "Sheets in place of the stage",
                    "Open the sheet that was open last, or go back to the stage",
                    self.toggle,
                    "F8",
                    needs="sheets",
                    checkable=True,
                ),
                Entry("next_sheet", "Next sheet", "Open the next one", partial(self.step, 1), needs="sheet"),
                Entry("copy_sheet", "Another like this", "A copy as a template of the next", self.duplicate, needs="sheet"),
                Entry("take_sheet", "Take the sheet away", "Its scenes stay", self.take_sheet, needs="sheet"),
                Entry("title_fields", "What title blocks say…", "Office, project, who drew it, date, logo", self.ask_titles),
            ),
            *group(
                "Laid out in one step",
                "sheet",
                Entry(
                    "sheet_all",
                    "All scenes on a sheet",
                    "As large as they can be, with their names",
                    self.all_scenes,
                    needs="scenes",
                ),
                Entry(
                    "sheet_scale",
                    "Sections at one scale",
                    "All scenes that show a plane true, at the largest usual scale that fits",
                    self.at_one_scale,
                    needs="scenes",
                ),
                Entry(
                    "sheet_storeys",
                    "Storeys in a row",
                    "A plan of each storey, as scenes and on a sheet at one scale",
                    self.storeys,
                ),
                Entry(
                    "sheet_looks",
                    "This cut in four looks",
                    "The current scene in its own look and three others, edge to edge",
                    self.four_looks,
                    needs="scene",
                ),
            ),
            *group(
                "On the sheet",
                "sheet",
                Entry(
                    "sheet_text",
                    "Words",
                    "Words on the sheet; {project}, {scale} and other fields are filled",
                    self.add_text,
                    needs="sheet",
                ),
                Entry("sheet_picture", "Picture from a file…", "A picture of your own", self.add_picture, needs="sheet"),
                Entry(
                    "sheet_legend",
                    "Legend of materials",
                    "What is cut on this sheet, with fills and hatches",
                    self.add_legend,
                    needs="sheet",
                ),
                Entry(
                    "sheet_key_plan",
                    "Key plan",
                    "A small plan with the lines of the sections on this sheet",
                    self.add_key_plan,
                    needs="sheet",
                ),
                Entry(
                    "sheet_guide_x", "Guide upright…", "A line frames are drawn to", partial(self.add_guide, "x"), needs="sheet"
                ),
                Entry(
                    "sheet_guide_y", "Guide across…", "A line frames are drawn to", partial(self.add_guide, "y"), needs="sheet"
                ),
                Entry("sheet_no_guides", "No guides", "Take all guides away", self.no_guides, needs="sheet"),
                within="Put on the sheet",
            ),
            *group(
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
                Entry("block_take", "Take it off the sheet", "The scene itself stays", self.take_blocks, "Del", "trash", "block"),
                within="What is picked on it",
            ),
        ]

    def ticks(self) -> dict[str, bool]:
        """Which of the on/off commands are on."""
        return {"show_sheets": self._desk.sheet is not None}

    # Sheets ----------------------------------------------------------------------------------------------------

    def _new(self, name: str) -> Sheet:
        """A sheet on the paper of the one made last."""
        last = self._session.project.sheets[-1] if self._session.project.sheets else None
        more = {} if last is None else {"paper": last.paper, "bordered": last.bordered, "title_block": last.title_block}
        return Sheet.model_validate({"id": new_id(), "name": name, **more})

    def _add(self, sheet: Sheet, said: str, project: Project | None = None) -> None:
        project = project or self._session.project
        if not project.sheets and project.titles == Titles():
            project = sheet_edits.set_titles(project, Titles(date=date.today().isoformat()))
        self._session.apply(sheet_edits.put_sheet(project, sheet), said)
        self._desk.open(sheet.id)

    def new(self) -> None:
        self._add(self._new(f"Sheet {len(self._session.project.sheets) + 1}"), "A new sheet")

    def toggle(self) -> None:
        """The sheets, or the stage."""
        if self._desk.sheet is not None:
            self._desk.close()
        else:
            self._desk.open_last()

    def step(self, by: int) -> None:
        sheets, sheet = self._session.project.sheets, self._desk.sheet
        if sheet is not None:
            self._desk.open(sheets[(sheets.index(sheet) + by) % len(sheets)].id)

    def duplicate(self, sheet_id: str | None = None) -> None:
        sheet = self._session.project.sheet(sheet_id) or self._desk.sheet
        if sheet is not None:
            project = sheet_edits.duplicate_sheet(self._session.project, sheet.id, new_id)
            self._session.apply(project, f"Another sheet like {sheet.name}")
            self._desk.open(project.sheets[project.sheets.index(sheet) + 1].id)

    def take_sheet(self, sheet_id: str | None = None) -> None:
        sheet = self._session.project.sheet(sheet_id) or self._desk.sheet
        if sheet is not None:
            self._session.apply(sheet_edits.take_sheet(self._session.project, sheet.id), f"Took {sheet.name} away")

    def ask_titles(self) -> None:
        """What all title blocks say."""
        titles = self._session.project.titles
        ask = Ask(
            self._host.widget,
            "What title blocks say",
            "On all sheets of the project. Name, number and scale are each sheet's own.",
            "Set",
            self._set_titles,
        )
        ask.words("Office", titles.organisation)
        ask.words("Project", titles.project, "Nothing: the project's name")
        ask.words("Drawn by", titles.drawn)
        ask.words("Date", titles.date)
        ask.words(
            "Logo",
            "",
            "The path of a picture (PNG or JPEG), which goes into the project; nothing keeps the one there is, – takes it away",
        )
        ask.open()

    def _set_titles(self, ask: Ask) -> None:
        titles = self._session.project.titles
        logo = titles.logo
        path = ask.text("Logo")
        if path in ("-", "–"):
            logo = ""
        elif path:
            logo = base64.b64encode(read_picture(Path(path).expanduser())).decode()
        found = Titles(
            organisation=ask.text("Office")[:200],
            project=ask.text("Project")[:200],
            drawn=ask.text("Drawn by")[:200],
            date=ask.text("Date")[:100],
            logo=logo,
        )
        self._session.apply(sheet_edits.set_titles(self._session.project, found), "Title blocks say so now")

    # In one step -----------------------------------------------------------------------------------------------

    def _laid_out(self, name: str, lay: Callable[[Sheet], Sheet], project: Project | None = None) -> None:
        """On the open sheet if it is empty, else on a new one."""
        open_one = self._desk.sheet
        sheet = open_one if open_one is not None and not open_one.blocks else self._new(name)
        try:
            self._add(lay(sheet), f"Laid out: {name}", project)
        except Problem as problem:
            self._host.tell(str(problem), "This could not be laid out")

    def all_scenes(self) -> None:
        scenes = self._session.project.scenes
        self._laid_out("All scenes", lambda sheet: sheet_edits.scenes_in_rows(sheet, scenes, new_id))

    def at_one_scale(self) -> None:
        """Those that show a plane true, or are seen in parallel."""
        project = self._session.project
        scenes = [s for s in project.scenes if s.state.true_plane() is not None]
        if not scenes:
            self._session.said.emit("No scene shows a cut square on, so there is no scale to hold.")
            return
        self._laid_out("Sections", lambda sheet: sheet_edits.at_one_scale(sheet, scenes, new_id, project))

    def storeys(self) -> None:
        """A plan of each storey as a scene, and all of them on a sheet."""
        s = self._session
        assert s.building is not None
        try:
            plans = plan_scenes(s.project, s.building, new_id)
        except Problem as problem:
            self._host.tell(str(problem), "This could not be laid out")
            return
        project = s.project.model_copy(update={"scenes": (*s.project.scenes, *plans)})
        self._laid_out("Plans", lambda sheet: sheet_edits.at_one_scale(sheet, plans, new_id, project), project)
        self._scenes.picture_scenes()

    def four_looks(self) -> None:
        s, shipped = self._session, shipped_looks()
        scene = s.scene
        if scene is not None:
            looks = [scene.state.look, *(shipped[name] for name in FOUR if name != scene.state.look.name)]
            self._laid_out(f"{scene.name} in {len(looks)} looks", lambda sheet: sheet_edits.in_looks(sheet, scene, looks, new_id))

    # On the sheet ----------------------------------------------------------------------------------------------

    def add_text(self) -> None:
        sheet = self._desk.sheet
        if sheet is not None:
            left, bottom, _, _ = free_area(sheet)
            block = TextBlock(id=new_id(), at=(left + 10, bottom + 10), text="{project}")
            self._desk.put_blocks([block], "Words on the sheet")
            self._desk.pick([block.id])

    def add_legend(self) -> None:
        sheet = self._desk.sheet
        if sheet is not None:
            left, bottom, _, _ = free_area(sheet)
            block = LegendBlock(id=new_id(), at=(left + 10, bottom + 10))
            self._desk.put_blocks([block], "A legend of materials")
            self._desk.pick([block.id])

    def add_key_plan(self) -> None:
        sheet = self._desk.sheet
        if sheet is not None:
            left, bottom, _, _ = free_area(sheet)
            block = KeyPlanBlock(id=new_id(), at=(left + 10, bottom + 10))
            self._desk.put_blocks([block], "A key plan with the sections on this sheet")
            self._desk.pick([block.id])

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
        left, bottom, _, _ = free_area(sheet)
        block = PictureBlock(id=new_id(), at=(left + 10, bottom + 10), data=base64.b64encode(data).decode(), aspect=wide / high)
        self._desk.put_blocks([block], f"Put {path.name} on the sheet")
        self._desk.pick([block.id])

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
        if sheet is not None and self._desk.picked:
            count = len(self._desk.picked)
            self._desk.put(
                sheet_edits.take_blocks(sheet, self._desk.picked),
                f"Took {count} off the sheet" if count > 1 else "Took it off the sheet",
            )

    def to_front(self) -> None:
        sheet = self._desk.sheet
        if sheet is not None:
            own = self._desk.blocks
            rest = sheet_edits.take_blocks(sheet, self._desk.picked)
            self._desk.put(rest.model_copy(update={"blocks": (*rest.blocks, *own)}), "To the front")

    def _place(self, place: Callable[[Project, Sequence[SceneFrame]], list[SceneFrame]], said: str) -> None:
        try:
            self._desk.put_blocks(place(self._session.project, self._desk.frames), said)
        except Problem as problem:
            self._session.said.emit(str(problem))

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

    def change_sheet(self, said: str, **changes: object) -> None:
        """The open sheet, otherwise."""
        sheet = self._desk.sheet
        if sheet is not None:
            self._desk.put(Sheet.model_validate(dict(sheet) | changes), said)


def read_picture(path: Path) -> bytes:
    """A PNG or JPEG small enough to go into a project. Raises Problem."""
    try:
        data = path.read_bytes()
        size_of(data)
    except OSError as error:
        raise Problem(f"“{path.name}” is no picture that can be read. Choose a PNG or a JPEG.") from error
    if len(data) > LARGEST_LOGO:
        raise Problem(
            f"“{path.name}” is larger than {LARGEST_LOGO // 1_000_000} MB. Save it smaller first; it goes into the project."
        )
    return data
