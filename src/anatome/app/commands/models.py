"""Models besides the first: added, placed, switched off and on, read anew, taken away."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QFileDialog

from anatome.app.base.ask import Ask
from anatome.app.base.entry import Entry, group
from anatome.app.base.work import Progress, Work
from anatome.app.commands.host import Host
from anatome.app.dialogs.open_options import ask_options
from anatome.app.document.built import Built, built
from anatome.app.document.newer_model import read_model
from anatome.app.document.opened_model import OpenedModel
from anatome.app.stage.placing_model import PlaceModel
from anatome.model.options import MESH_SUFFIXES, MODEL_SUFFIXES, OpenOptions
from anatome.model.several import SEPARATOR, between_origins, by_points
from anatome.problems import Problem
from anatome.scenes import model_edits
from anatome.scenes.edits import new_id
from anatome.scenes.project import ModelReference, OtherModel, Project
from anatome.scenes.whole import models_together

Array = NDArray[np.float64]
Made = tuple[Project, OpenedModel, Built]


class ModelsCommands(QObject):
    """Each step is one to undo; reading and joining runs off the window's thread. ``changed``: something is under way, or no
    longer."""

    changed = Signal()

    def __init__(self, host: Host) -> None:
        super().__init__()
        self._host, self._session = host, host.session
        self._work = Work(self, lambda: self._session.opened_as)

    def entries(self) -> list[Entry]:
        return group(
            "The model",
            "open",
            Entry(
                "add_model",
                "Add a model…",
                "Structure, furniture or surroundings from another file, of any format and unit, with a place of its own",
                self.choose,
            ),
            within="The model",
        )

    @property
    def busy(self) -> bool:
        """Whether one is being read or placed."""
        return self._work.busy

    def choose(self) -> None:
        """Ask for a file."""
        kinds = " ".join(f"*{s}" for s in MODEL_SUFFIXES)
        name, _ = QFileDialog.getOpenFileName(self._host.widget, "Add a model", "", f"Models ({kinds})")
        if name:
            path = Path(name)
            options: OpenOptions | None = OpenOptions(near=True)
            if path.suffix.lower() in MESH_SUFFIXES:
                options = ask_options(self._host.widget, path)
            if options is not None:
                self.add(path, options)

    def add(self, path: Path, options: OpenOptions) -> None:
        """Read a model and put it beside what is open."""
        reference = ModelReference(path=str(path.resolve()), options=options)
        self._read(OtherModel(id=new_id(), name=path.stem[:200], model=reference), f"Added {path.name}")

    def read_anew(self, other: OtherModel) -> None:
        """Read one of them again, as its file is now."""
        self._read(other, f"Read {other.name} anew")

    def _read(self, other: OtherModel, said: str) -> None:
        path, scratch = Path(other.model.path), self._host.documents.scratch()

        def work(progress: Progress, opened: OpenedModel, project: Project) -> tuple[Project, OpenedModel]:
            read = read_model(path, other.model.options, scratch, progress, other.model.digest)
            reference = other.model.model_copy(update={"digest": read.digest})
            made = model_edits.put_model(project, other.model_copy(update={"model": reference}))
            return made, replace(opened, read={**opened.read, other.id: read.first})

        self._session.said.emit(f"Reading {path.name}…")
        self._make(work, said)

    # Changing --------------------------------------------------------------------------------------------------

    def switch(self, other: OtherModel, on: bool) -> None:
        """Have one of them in the pictures, or out of all of them."""
        self._change(other, f"{other.name} is {'on' if on else 'off'}", on=on)

    def ask_place(self, other: OtherModel) -> None:
        """Ask where one stands and what it is called."""

        def do(ask: Ask) -> None:
            shift = tuple(ask.metres(name) for name in ("Along X", "Along Y", "Up"))
            try:
                turn = float(ask.text("Turned, degrees").replace(",", "."))
            except ValueError:
                raise Problem("Type degrees as a number, for example 90.") from None
            if not -360 <= turn <= 360:
                raise Problem("Turn it by at most 360 degrees.")
            name = ask.text("Name") or other.name
            self._change(other, f"Placed {name}", name=name, shift=shift, turn=turn)

        note = "Numbers move it from where its file has it; it turns about its own origin, anticlockwise seen from above."
        ask = Ask(self._host.widget, other.name, note, "Place", do).words("Name", other.name)
        for name, value in zip(("Along X", "Along Y", "Up"), other.shift, strict=True):
            ask.length(name, value)
        ask.words("Turned, degrees", f"{other.turn:g}").open()

    def centre(self, other: OtherModel) -> None:
        """Put the middle of one of them, in plan, at the middle of the first."""
        opened = self._session.opened_model
        read = opened.read.get(other.id)
        if read is not None:
            middle = opened.first.bounds_of(opened.first.subject(np.ones(len(opened.first.elements), bool))).mean(axis=0)
            whole = models_together(opened.first, opened.read, [other.model_copy(update={"on": True})])
            own = whole.element_bounds[len(opened.first.elements) :].reshape(-1, 3)
            apart = middle - (own.min(axis=0) + own.max(axis=0)) / 2
            x, y, z = (np.array(other.shift) + apart * (1, 1, 0)).tolist()
            self._change(other, f"{other.name} stands at the middle", shift=(x, y, z))

    def pick_place(self, other: OtherModel) -> None:
        """Have a point of one of them picked, and where it should be; with a second pair it is turned as well."""
        opened = self._session.opened_model
        read = opened.read.get(other.id)
        if read is None or not other.on:
            self._host.tell("Switch it on first, so that its corners can be clicked.", "Nothing to place")
            return

        def placed(pairs: list[tuple[Array, Array]]) -> None:
            offset = between_origins(read, opened.first)
            shift, turn = by_points(np.array(other.shift), other.turn, offset, pairs)
            self._change(other, f"Placed {other.name}", shift=shift, turn=turn)

        self._host.stage_input.begin(PlaceModel(self._session, other.name, f"{other.id}{SEPARATOR}", placed))

    def _change(self, other: OtherModel, said: str, **changes: object) -> None:
        def work(progress: Progress, opened: OpenedModel, project: Project) -> tuple[Project, OpenedModel]:
            return model_edits.change_model(project, other.id, **changes), opened

        self._make(work, said)

    def take(self, other: OtherModel) -> None:
        """Without one of them."""

        def work(progress: Progress, opened: OpenedModel, project: Project) -> tuple[Project, OpenedModel]:
            return model_edits.take_model(project, other.id), opened

        self._make(work, f"Took {other.name} away")

    def _make(self, work: Callable[[Progress, OpenedModel, Project], tuple[Project, OpenedModel]], said: str) -> None:
        """Join the models off the window's thread, and take the step."""
        session = self._session
        opened, project = session.opened_model, session.project

        def join(progress: Progress) -> Made:
            made, read = work(progress, opened, project)
            building = models_together(read.first, read.read, made.others)
            return made, replace(read, building=building), built(building, made)

        def done(found: Made) -> None:
            made, read, ready = found
            if session.project is not project:
                failed(Problem("Something was changed while the models were put together. Try it again."))
                return
            session.take_model(made, said, read, ready)
            self.changed.emit()

        def failed(error: Exception) -> None:
            self.changed.emit()
            if isinstance(error, Problem):
                self._host.tell(str(error))
            else:
                session.failed.emit(error)

        self._work.run(join, done, failed)
        self.changed.emit()
