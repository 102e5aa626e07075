"""The office's defaults: kept of a project, used in another, taken to a colleague."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from anatome.app.base.ask import Ask
from anatome.app.base.entry import Entry, group
from anatome.app.commands.asking import written_where_asked
from anatome.app.commands.host import Host
from anatome.app.commands.sheets import SheetCommands
from anatome.app.document.office import keep_office, office, office_trouble
from anatome.problems import Problem
from anatome.scenes.office import NO_OFFICE, SAVED_BY, SUFFIX, Office, office_of, read_office, with_office, write_office

KIND = f"Defaults of an office (*{SUFFIX})"


class OfficeCommands:
    """Works on what new projects begin with."""

    def __init__(self, host: Host, sheets: SheetCommands) -> None:
        self._host, self._session, self._sheets = host, host.session, sheets

    def entries(self) -> list[Entry]:
        """Return what there is, in the order of the menu."""
        return group(
            "The office",
            "open",
            Entry(
                "office_keep",
                "Begin new projects like this one",
                "Its title block, paper, styles of notes, looks, hatches, and its sheets as templates are the office's defaults",
                self.keep,
            ),
            Entry(
                "office_use",
                "Use the office's defaults here",
                "Its title block, looks and styles beside those of this project",
                self.use,
            ),
            Entry("office_sheet", "New sheet like the office's…", "One of its templates", self.ask_sheet),
            Entry("office_save", f"{SAVED_BY}…", "One small file, for a colleague", self.save, needs="nothing"),
            Entry("office_load", "The office's defaults from a file…", "In place of those there are", self.load, needs="nothing"),
            within="The office's defaults",
        )

    def keep(self) -> None:
        """What this project has is what new ones begin with."""
        self._keep(office_of(self._session.project), "New projects begin like this one")

    def _keep(self, value: Office, said: str) -> None:
        try:
            keep_office(value)
        except Problem as problem:
            self._host.tell(str(problem), "The office's defaults could not be kept")
            return
        self._session.said.emit(f"{said}: {words_of(value)}")

    def use(self) -> None:
        """Have them in the open project."""
        value = office()
        if value == NO_OFFICE:
            none = "There are no defaults of an office yet. Keep those of a project, or take them from a file."
            self._session.said.emit(office_trouble() or none)
            return
        self._session.apply(with_office(self._session.project, value), f"The office's defaults: {words_of(value)}")

    def ask_sheet(self) -> None:
        """A sheet like one of its templates."""
        templates = office().templates
        if not templates:
            none = "The office has no templates yet. They are kept with a project that has sheets."
            self._session.said.emit(office_trouble() or none)
            return

        def do(ask: Ask) -> None:
            self._sheets.add_like(templates[ask.number("Template")])

        ask = Ask(self._host.widget, "New sheet like the office's", "", "Make the sheet", do)
        ask.choice("Template", [(sheet.name, number) for number, sheet in enumerate(templates)]).open()

    def save(self) -> None:
        """Ask where, and write them."""
        value = office() if office() != NO_OFFICE or not self._session.is_open else office_of(self._session.project)
        failed = "The office's defaults could not be saved"
        path = written_where_asked(self._host, SAVED_BY, "Office", SUFFIX, KIND, lambda path: write_office(value, path), failed)
        if path is not None:
            self._session.said.emit(f"Saved the office's defaults to {path}: {words_of(value)}")

    def load(self) -> None:
        """Ask which, and keep them."""
        name, _ = QFileDialog.getOpenFileName(self._host.widget, "The office's defaults from a file", "", KIND)
        if name:
            self.take(Path(name))

    def take(self, path: Path) -> None:
        """Keep those in a file."""
        try:
            value = read_office(path)
        except Problem as problem:
            self._host.tell(str(problem), "These defaults could not be used")
            return
        self._keep(value, "Kept as the office's defaults")


def words_of(value: Office) -> str:
    """Return what there is, in words."""
    looks, styles, templates = len(value.looks), len(value.note_styles), len(value.templates)
    return ", ".join(
        [
            "title block",
            f"{looks} look{'s' * (looks != 1)}",
            f"{styles} style{'s' * (styles != 1)} of notes",
            f"{templates} template{'s' * (templates != 1)}",
        ]
    )
