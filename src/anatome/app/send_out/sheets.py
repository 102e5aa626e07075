"""Sheets sent out: as one PDF with bookmarks, a PDF each, or pictures."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtPrintSupport import QPrinter
from PySide6.QtWidgets import QComboBox, QFileDialog, QWidget

from anatome.app.base.pictures import Pictures
from anatome.app.base.ticks import Ticks
from anatome.app.base.work import Progress
from anatome.app.document.session import Session
from anatome.app.send_out import dialog
from anatome.app.send_out.dialog import SendOut
from anatome.app.send_out.printing import ask_printer, print_pages
from anatome.app.send_out.sizes import dots_box
from anatome.app.sheets.frame_drawer import FrameDrawer
from anatome.cuts.dissection import Cutter
from anatome.files import check_folder, distinct_names
from anatome.formats.pdf import boxes_in, pages_bytes, tiles_bytes
from anatome.formats.pictures_out import png_bytes
from anatome.linework.page import Page
from anatome.printing.contents import all_wanted, legends_of
from anatome.printing.pages import FrameResult, page_of
from anatome.printing.tiles import tiles_of
from anatome.printing.wanted import FrameRequest
from anatome.problems import Problem
from anatome.render.drawings import page_image
from anatome.scenes.project import Project
from anatome.scenes.sheet_frames import number_of
from anatome.sheets.sheet import SceneFrame, Sheet
from anatome.site.sunlight import north_of
from anatome.view.crop import PAPERS

WAYS = (
    ("one", "One PDF, with bookmarks"),
    ("each", "A PDF each, into a folder"),
    ("png", "A picture each, into a folder"),
    ("A3", "One PDF in pieces of A3, to be glued together"),
    ("A4", "One PDF in pieces of A4, to be glued together"),
    ("print", "To a printer"),
)
IN_ONE = ("one", "A3", "A4")
"""Ways that end in one file."""
DRAWN = 0.9
"""Share of the time that goes to drawing."""


class SheetsDialog(SendOut):
    """What several frames show is drawn once. Of the sheets an ``opened`` one is ticked at first, else all."""

    def __init__(self, parent: QWidget, session: Session, pictures: Pictures, folder: Path, opened: Sheet | None = None) -> None:
        named = f"{session.project.name}, {'sheets' if opened is None else opened.name}"
        super().__init__(parent, "Send out sheets", "Write sheets", folder, named, ".pdf", "PDF (*.pdf)")
        self._session = session
        self._drawer = FrameDrawer(session, pictures, self)
        self._drawer.progressed.connect(self._show_drawn)
        self._number = 0
        self._printer: QPrinter | None = None
        project = session.project
        self.sheets = Ticks([f"{number_of(s, project)} {s.name}" for s in project.sheets], len(project.sheets))
        self.sheets.setMinimumHeight(110)
        if opened is not None:
            self.sheets.tick_only(project.sheets.index(opened))
        self.form.addRow("Sheets", self.sheets)
        self.way = QComboBox()
        for key, words in WAYS:
            self.way.addItem(words, key)
        self.form.addRow("As", self.way)
        self.dpi = dots_box()
        self.dpi.setToolTip("Of the pictures on them; lines and words are always sharp in a PDF")
        self.dpi.setValue(200)
        self.form.addRow("Pictures at", self.dpi)
        self.form.addRow("Into", self.file_row)
        self.way.currentIndexChanged.connect(self._show_way)
        self._todo: list[FrameRequest] = []
        self._made: list[tuple[FrameRequest, FrameResult]] = []

    def _show_way(self) -> None:
        path = Path(self.path.text())
        way = self.way.currentData()
        one = way in (*IN_ONE, "print")
        self.form.setRowVisible(self.file_row, way != "print")
        self.go.setText("Print…" if way == "print" else "Write sheets")
        self.path.setText(str(path.with_suffix(".pdf") if one else path.with_suffix("")))

    def browse(self) -> None:
        if self.way.currentData() in IN_ONE:
            super().browse()
            return
        name = QFileDialog.getExistingDirectory(self, self.windowTitle(), self.path.text())
        if name:
            self.path.setText(name)

    def write(self, path: Path) -> None:
        project = self._session.project
        chosen = [project.sheets[i] for i in self.sheets.ticked()]
        if not chosen:
            raise Problem("Tick at least one sheet.")
        way = self.way.currentData()
        if way in IN_ONE and path.suffix.lower() != ".pdf":
            raise Problem(f"All sheets in one are written as .pdf, not “{path.suffix}”. Change the end of the file's name.")
        if way in ("each", "png"):
            check_folder(path)
        self._printer = ask_printer(self, chosen[0].paper, project.name) if way == "print" else None
        if way == "print" and self._printer is None:
            return
        building = self._session.building
        assert building is not None
        self._todo, self._made = [], []
        for sheet in chosen:
            for what in all_wanted(project, sheet, building).values():
                if what not in self._todo:
                    self._todo.append(what)
        self._next(path, project, chosen, 0)

    def _next(self, path: Path, project: Project, chosen: list[Sheet], number: int) -> None:
        """Draw one after the other, then write."""
        if number == len(self._todo):
            self._write(path, project, chosen)
            return
        what, self._number = self._todo[number], number

        def done(made: FrameResult) -> None:
            self._made.append((what, made))
            self._next(path, project, chosen, number + 1)

        self._under_way = self._drawer
        self._drawer.draw(what, float(self.dpi.value()), done, self.not_written)

    def _show_drawn(self, share: float) -> None:
        self.show_share(DRAWN * (self._number + share) / len(self._todo))

    def _write(self, path: Path, project: Project, chosen: list[Sheet]) -> None:
        way, dpi, made, building = self.way.currentData(), float(self.dpi.value()), self._made, self._session.building
        assert building is not None

        def page(sheet: Sheet) -> Page:
            own: dict[str, FrameResult] = {}
            shown = []
            for block_id, what in all_wanted(project, sheet, building).items():
                own[block_id] = next(m for w, m in made if w == what)
                shown += [what] if isinstance(sheet.block(block_id), SceneFrame) else []
            return page_of(
                project, sheet, own, legends_of(Cutter(building), shown, sheet), north=north_of(project.site, building)
            )

        def work(progress: Progress) -> dialog.Outcome:
            pages = [page(sheet) for sheet in chosen]
            said = f"Wrote {len(pages)} sheet{'s' * (len(pages) != 1)} to {path}{boxes_in(pages)}"
            if self._printer is not None:
                return dialog.Outcome({}, print_pages(self._printer, pages, progress))
            if way in ("A3", "A4"):
                pieces = [tile for one in pages for tile in tiles_of(one, PAPERS[way])]
                content = tiles_bytes(project.name, pieces, project.titles.drawn)
                return dialog.Outcome({path: content}, f"{said}, in {len(pieces)} pieces of {way}")
            if way == "one":
                return dialog.Outcome({path: pages_bytes(project.name, pages, project.titles.drawn)}, said)
            files, ending = {}, ".pdf" if way == "each" else ".png"
            for number, (one, name) in enumerate(zip(pages, distinct_names([one.title for one in pages]))):
                content = (
                    pages_bytes(one.title, [one], project.titles.drawn) if way == "each" else png_bytes(page_image(one, dpi), dpi)
                )
                files[path / f"{name}{ending}"] = content
                if not progress(DRAWN + (1 - DRAWN) * (number + 1) / len(pages)):
                    break
            return dialog.Outcome(files, said, path)

        self.work_on(work)
