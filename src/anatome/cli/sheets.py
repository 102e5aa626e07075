"""``anatome sheets``: the sheets of a project as one PDF, a PDF each, or pictures."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path

from anatome.cli.told import open_project
from anatome.cuts.dissection import Cutter
from anatome.files import distinct_names, make_folder, write_whole
from anatome.formats.project_files import OpenedProject
from anatome.linework.page import Page
from anatome.problems import Problem
from anatome.scenes.project import Project
from anatome.scenes.sheet_frames import number_of
from anatome.scenes.whole import meant
from anatome.sheets.sheet import SceneFrame, Sheet
from anatome.site.sunlight import north_of
from anatome.view.crop import PAPERS


def run(options: argparse.Namespace) -> int:
    """Draw what the sheets show, and write them. Raises Problem."""
    if not (options.pdf or options.each or options.png):
        raise Problem(
            "Say where the sheets go: --pdf FILE for all in one, --each FOLDER for a PDF each, --png FOLDER for pictures."
        )
    if options.pieces and not options.pdf:
        raise Problem("Pieces are pages of one PDF: say where it goes with --pdf FILE.")
    if not 20 <= options.dpi <= 1200:
        raise Problem(f"A sheet has 20 to 1200 dots an inch; “{options.dpi:g}” is not that.")
    opened = open_project(options.project)
    project = opened.stored.project
    sheets = chosen(project, options.sheet)
    pages = drawn(opened, sheets, options.dpi)
    _write(options, project, sheets, pages)
    return 0


def chosen(project: Project, names: list[str]) -> list[Sheet]:
    """Return the sheets with some names or numbers, or all. Raises Problem."""
    if not project.sheets:
        raise Problem("The project has no sheets yet. Make some in the window.")
    if not names:
        return list(project.sheets)
    found = []
    for name in names:
        own = [s for s in project.sheets if name in (s.name, number_of(s, project))]
        if not own:
            said = ", ".join(f"“{s.name}”" for s in project.sheets)
            raise Problem(f"There is no sheet “{name}”. There is {said}.")
        found += own
    return found


def drawn(opened: OpenedProject, sheets: list[Sheet], dpi: float) -> list[Page]:
    """Pages of them; what several frames show is drawn once."""
    from anatome.formats.pictures_out import png_bytes
    from anatome.printing.contents import all_wanted, legends_of, lines_of, view_for
    from anatome.printing.kept_lines import KeptLines
    from anatome.printing.pages import FrameResult, page_of
    from anatome.printing.wanted import FrameRequest
    from anatome.render.pictures import PictureMaker

    project, cutter = opened.stored.project, Cutter(opened.building)
    kept = KeptLines(meant(opened.model, project), opened.stored.linework)
    maker: PictureMaker | None = None
    known: list[tuple[FrameRequest, FrameResult]] = []
    pages = []
    for sheet in sheets:
        made: dict[str, FrameResult] = {}
        shown = []
        for block_id, what in all_wanted(project, sheet, opened.building).items():
            shown += [what] if isinstance(sheet.block(block_id), SceneFrame) else []
            done = next((m for w, m in known if w == what), None)
            if done is None:
                facts = opened.facts(what.scene.state.notes)
                lines = lines_of(cutter, what, facts, None, kept) if what.has_lines else None
                picture = None
                if what.has_picture:
                    maker = maker or PictureMaker.standalone(opened.building)
                    picture = png_bytes(maker.picture(view_for(cutter, what, facts, dpi), what.size(dpi), "paper"))
                done = FrameResult(picture, lines)
                known.append((what, done))
            made[block_id] = done
        legends, north = legends_of(cutter, shown, sheet), north_of(project.site, opened.building)
        pages.append(page_of(project, sheet, made, legends, north=north))
        print(f"{pages[-1].title}: {len(sheet.frames)} scenes", flush=True)
    return pages


def _write(options: argparse.Namespace, project: Project, sheets: list[Sheet], pages: list[Page]) -> None:
    from anatome.formats.pdf import boxes_in, pages_bytes, tiles_bytes
    from anatome.formats.pictures_out import png_bytes
    from anatome.printing.tiles import tiles_of
    from anatome.render.drawings import page_image

    written: list[Path] = []

    def write(path: Path, content: bytes) -> None:
        write_whole(path, content)
        written.append(path)

    if options.pdf and options.pieces:
        pieces = [tile for page in pages for tile in tiles_of(page, PAPERS[options.pieces])]
        write(options.pdf, tiles_bytes(project.name, pieces, project.titles.drawn))
    elif options.pdf:
        write(options.pdf, pages_bytes(project.name, pages, project.titles.drawn))
    ways: list[tuple[Path | None, str, Callable[[Page], bytes]]] = [
        (options.each, ".pdf", lambda page: pages_bytes(page.title, [page], project.titles.drawn)),
        (options.png, ".png", lambda page: png_bytes(page_image(page, options.dpi), options.dpi)),
    ]
    for folder, ending, content in ways:
        if folder is not None:
            make_folder(folder)
            for page, name in zip(pages, distinct_names([page.title for page in pages])):
                write(folder / f"{name}{ending}", content(page))
    print(f"{len(sheets)} sheets in {', '.join(map(str, written))}{boxes_in(pages)}")
