"""What an office always begins with, as one value: title block, paper, styles of notes, looks with their hatches, templates."""

from __future__ import annotations

from pathlib import Path

from pydantic import Field

from anatome.look.look import Look
from anatome.notes.note import NoteStyle
from anatome.scenes.project import Project, Units
from anatome.scenes.sheet_edits import as_template
from anatome.sheets.sheet import Sheet, Titles
from anatome.value_files import read_value, write_value
from anatome.values import Value

SUFFIX = ".office.json"
SAVED_BY = "The office's defaults to a file"
"""The command that writes such a file."""


class Office(Value):
    """``titles`` has what title blocks always say, not what a project is called or when it was drawn; a new project is in
    ``units`` and begins with a ``look`` and a ``note_style``, and has the other looks and styles to choose from."""

    titles: Titles = Titles()
    paper: tuple[float, float] | None = None
    units: Units = ""
    look: Look | None = None
    looks: tuple[Look, ...] = Field(default=(), max_length=500)
    note_style: NoteStyle = NoteStyle()
    note_styles: tuple[NoteStyle, ...] = Field(default=(), max_length=200)
    templates: tuple[Sheet, ...] = Field(default=(), max_length=200)


NO_OFFICE = Office()


def office_of(project: Project) -> Office:
    """Return what a project has that the next ones are to begin with; its sheets become templates."""
    return Office(
        titles=_lasting(project.titles),
        paper=project.sheets[0].paper if project.sheets else None,
        units=project.units,
        look=project.stage.look,
        looks=project.looks,
        note_style=project.stage.note_style,
        note_styles=project.note_styles,
        templates=tuple(as_template(sheet, project) for sheet in project.sheets),
    )


def begun_with(project: Project, office: Office) -> Project:
    """Return a new project with what its office begins with."""
    stage: dict[str, object] = {"note_style": office.note_style}
    if office.look is not None:
        stage["look"] = office.look
    return with_office(project, office).model_copy(update={"stage": project.stage.model_copy(update=stage)})


def with_office(project: Project, office: Office) -> Project:
    """Return a project with the looks, styles and titles of an office beside its own; what it has already stays, of one name its
    own."""
    own, lasting = project.titles, _lasting(office.titles)
    kept = {name: value for name in Titles.model_fields if (value := getattr(own, name))}
    looks = (*project.looks, *(look for look in office.looks if look.name not in {own.name for own in project.looks}))
    named = {style.name for style in project.note_styles}
    styles = (*project.note_styles, *(style for style in office.note_styles if style.name not in named))
    changes = {"titles": lasting.model_copy(update=kept), "looks": looks, "note_styles": styles}
    return project.model_copy(update={**changes, "units": project.units or office.units})


def read_office(path: Path) -> Office:
    """Return what a file holds. Raises Problem."""
    return read_value(path, Office, "office", SAVED_BY)


def write_office(value: Office, path: Path) -> None:
    """Write it as a file. Raises Problem."""
    write_value(value, path, "office")


def _lasting(titles: Titles) -> Titles:
    """What title blocks say in every project."""
    return titles.model_copy(update={"project": "", "date": ""})
