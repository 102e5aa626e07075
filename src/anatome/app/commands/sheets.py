"""Sheets: making them, what their title blocks say, laying scenes out in one step."""

from __future__ import annotations

import base64
from collections.abc import Callable, Sequence
from datetime import date
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from anatome.app.base.ask import Ask
from anatome.app.base.entry import Entry, group
from anatome.app.base.papers import layout_scales, usual_paper
from anatome.app.commands.asking import written_where_asked
from anatome.app.commands.host import Host
from anatome.app.commands.own_picture import read_picture
from anatome.app.commands.scenes import SceneCommands
from anatome.app.document.office import office
from anatome.look.shipped import shipped_looks
from anatome.problems import Problem
from anatome.scenes import sheet_edits
from anatome.scenes.edits import new_id
from anatome.scenes.plans import plan_scenes
from anatome.scenes.project import Project
from anatome.scenes.scene_sets import together
from anatome.scenes.series_scenes import series_scenes
from anatome.sheets.sheet import Sheet, Titles
from anatome.value_files import read_value, write_value

FOUR = ("White model", "Hatched by material", "Night blue")
"""Beside its own, the looks of one cut in four."""
SUFFIX = ".sheet.json"
KIND = f"Templates of sheets (*{SUFFIX})"


class SheetCommands:
    """Works on the sheets of the project."""

    def __init__(self, host: Host, scenes: SceneCommands) -> None:
        self._host, self._session, self._desk, self._scenes = host, host.session, host.desk, scenes

    def entries(self) -> list[Entry]:
        return [*self._sheets(), *self._laid()]

    def _sheets(self) -> list[Entry]:
        return group(
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
                ticked=lambda: self._desk.sheet is not None,
            ),
            Entry("next_sheet", "Next sheet", "Open the next one", partial(self.step, 1), needs="sheet"),
            Entry("copy_sheet", "Duplicate the sheet", "A copy as a template of the next", self.duplicate, needs="sheet"),
            Entry(
                "sheet_from_template",
                "New sheet from a template…",
                "Its frames get the scenes that are on no sheet yet",
                self.ask_template,
            ),
            Entry(
                "sheets_from_template",
                "Sheets of all scenes from a template…",
                "As many sheets like it as it takes for every scene to be on one",
                partial(self.ask_template, True),
                needs="scenes",
            ),
            Entry(
                "sheet_to_template",
                "Save as a template…",
                "Paper, border, places of scenes, words and legends as a small file of JSON, for other projects",
                self.save_template,
                needs="sheet",
            ),
            Entry("take_sheet", "Delete the sheet", "Its scenes stay", self.take_sheet, needs="sheet"),
            Entry("title_fields", "Title block…", "Office, project, who drew it, date, logo", self.ask_titles),
        )

    def _laid(self) -> list[Entry]:
        return group(
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
                "sheet_series",
                "Series in rows",
                "Every section of the serial sections, as a scene and in rows at one scale, with their labels",
                self.series_in_rows,
                needs="series",
            ),
            Entry(
                "sheet_looks",
                "This cut in four looks",
                "The current scene in its own look and three others, edge to edge",
                self.four_looks,
                needs="scene",
            ),
        )

    # Sheets ----------------------------------------------------------------------------------------------------

    def _new(self, name: str) -> Sheet:
        """A sheet on the paper of the one made last."""
        last = self._session.project.sheets[-1] if self._session.project.sheets else None
        more: dict[str, object] = {"paper": office().paper or usual_paper()}
        if last is not None:
            more = {"paper": last.paper, "bordered": last.bordered, "title_block": last.title_block}
        return Sheet.model_validate({"id": new_id(), "name": name, **more})

    def before_and_after(self, pictures: Sequence[bytes], aspect: float, words: str) -> None:
        """A sheet with pictures of before and after a change of the model, and in words what has changed."""
        told = [base64.b64encode(picture).decode() for picture in pictures]
        sheet = sheet_edits.side_by_side(self._new("Before and after"), told, aspect, ("Before", f"After: {words}"), new_id)
        self._add(sheet, "Before and after on a sheet")

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

    def save_template(self) -> None:
        """Ask where, and write the open sheet without its scenes."""
        sheet = self._desk.sheet
        if sheet is None:
            return
        template = sheet_edits.as_template(sheet, self._session.project)

        def write(path: Path) -> None:
            write_value(template, path, "sheet")

        failed = "The template could not be saved"
        path = written_where_asked(self._host, "Save as a template", sheet.name, SUFFIX, KIND, write, failed)
        if path is not None:
            self._session.said.emit(f"Saved the template to {path}")

    def ask_template(self, for_all: bool = False) -> None:
        """Ask which, and make a sheet of it, or as many as all scenes take."""
        name, _ = QFileDialog.getOpenFileName(self._host.widget, "New sheet from a template", "", KIND)
        if name:
            self.take_template(Path(name), for_all)

    def take_template(self, path: Path, for_all: bool = False) -> None:
        """A sheet like the one in a file; ``for_all`` scenes as many as they take."""
        try:
            template = read_value(path, Sheet, "sheet", "Save as a template")
        except Problem as problem:
            self._host.tell(str(problem), "This template could not be used")
            return
        if not for_all:
            self.add_like(template)
            return
        before = self._session.project
        project = sheet_edits.sheets_from_template(template, before, new_id)
        count = len(project.sheets) - len(before.sheets)
        self._session.apply(project, f"{count} sheet{'s' * (count != 1)} like {template.name}")
        self._desk.open(project.sheets[len(before.sheets)].id)

    def add_like(self, template: Sheet) -> None:
        """A sheet like a template, with scenes that are on no sheet yet."""
        self._add(sheet_edits.from_template(template, self._session.project, new_id), f"A sheet like {template.name}")

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

    def lay_out(self, name: str, lay: Callable[[Sheet], Sheet], project: Project | None = None) -> None:
        """On the open sheet if it is empty, else on a new one."""
        open_one = self._desk.sheet
        sheet = open_one if open_one is not None and not open_one.blocks else self._new(name)
        try:
            self._add(lay(sheet), f"Laid out: {name}", project)
        except Problem as problem:
            self._host.tell(str(problem), "This could not be laid out")

    def all_scenes(self) -> None:
        scenes = self._session.project.scenes
        self.lay_out("All scenes", lambda sheet: sheet_edits.scenes_in_rows(sheet, scenes, new_id))

    def at_one_scale(self) -> None:
        """Those that show a plane true, or are seen in parallel."""
        project = self._session.project
        scenes = [s for s in project.scenes if s.state.true_plane() is not None]
        if not scenes:
            self._session.said.emit("No scene shows a cut square on, so there is no scale to hold.")
            return
        self.lay_out("Sections", lambda sheet: sheet_edits.at_one_scale(sheet, scenes, new_id, project, scales=layout_scales()))

    def storeys(self) -> None:
        """A plan of each storey as a scene, and all of them on a sheet."""
        s = self._session
        assert s.building is not None
        try:
            plans = plan_scenes(s.project, s.building, new_id)
        except Problem as problem:
            self._host.tell(str(problem), "This could not be laid out")
            return
        project = together(s.project.model_copy(update={"scenes": (*s.project.scenes, *plans)}))
        self.lay_out(
            "Plans", lambda sheet: sheet_edits.at_one_scale(sheet, plans, new_id, project, scales=layout_scales()), project
        )
        self._scenes.picture_scenes()

    def series_in_rows(self) -> None:
        """The sections of the picked series, or the first there is, as scenes and on a sheet."""
        s = self._session
        series = s.series or (s.stage.series[0] if s.stage.series else None)
        if series is None or s.building is None:
            return
        try:
            made = series_scenes(s.project, s.building, series, new_id)
        except Problem as problem:
            self._host.tell(str(problem), "This could not be laid out")
            return
        project = together(s.project.model_copy(update={"scenes": (*s.project.scenes, *made)}))
        self.lay_out(
            series.name, lambda sheet: sheet_edits.at_one_scale(sheet, made, new_id, project, scales=layout_scales()), project
        )
        self._scenes.picture_scenes()

    def four_looks(self) -> None:
        s, shipped = self._session, shipped_looks()
        scene = s.scene
        if scene is not None:
            looks = [scene.state.look, *(shipped[name] for name in FOUR if name != scene.state.look.name)]
            self.lay_out(f"{scene.name} in {len(looks)} looks", lambda sheet: sheet_edits.in_looks(sheet, scene, looks, new_id))

    def change_sheet(self, said: str, **changes: object) -> None:
        """The open sheet, otherwise."""
        sheet = self._desk.sheet
        if sheet is not None:
            self._desk.put(Sheet.model_validate(dict(sheet) | changes), said)
