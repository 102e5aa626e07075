"""Opening and saving, as the window's commands do it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox

from anatome.app.base import units
from anatome.app.base.ask import Ask
from anatome.app.base.entry import Entry, group
from anatome.app.base.work import in_words
from anatome.app.commands.host import Host
from anatome.app.dialogs.open_options import ask_options
from anatome.app.document.newer_model import Compared
from anatome.model.options import IFC_SUFFIXES, MESH_SUFFIXES, MODEL_SUFFIXES, OpenOptions
from anatome.model.units import UNITS, plural
from anatome.scenes import edits
from anatome.scenes.storage import SUFFIX
from anatome.view.camera import first_camera

WITH_UNIT = "What scenes show goes along with the unit; with another axis upright, their cuts have to be placed anew."


class FileCommands:
    """Open, save, close."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session

    def entries(self) -> list[Entry]:
        return [*self._opening(), *self._saving(), *self._undoing()]

    def _opening(self) -> list[Entry]:
        return group(
            "Files",
            "open",
            Entry(
                "open_model",
                "Open a model…",
                "Open IFC, glTF, OBJ, STL, PLY, COLLADA, 3D DXF, USD or CityJSON",
                self.choose_model,
                "Ctrl+O",
                "buildings",
                "nothing",
            ),
            Entry(
                "open_project",
                "Open a project…",
                "Open an Anatome project",
                self.choose_project,
                "Ctrl+Shift+O",
                "files",
                "nothing",
            ),
            Entry(
                "new_project",
                "New project without a model…",
                "Give a project its name and place now, and put a model into it later",
                self.new_project,
                "Ctrl+Alt+N",
                needs="nothing",
            ),
            Entry("demo", "Try the boathouse", "Open the demo building", self.open_demo, "", "house-line", "nothing"),
        )

    def _saving(self) -> list[Entry]:
        return group(
            "Saving",
            "open",
            Entry("save", "Save", "Save the project", self.save, "Ctrl+S", "floppy-disk"),
            Entry("save_as", "Save as…", "Save the project under another name", self.save_as, "Ctrl+Shift+S"),
            Entry(
                "embed",
                "Keep the model inside the project",
                "The project file then needs nothing beside it",
                self.toggle_embed,
                ticked=lambda: self._session.project.model.embedded,
            ),
            Entry(
                "open_before",
                "Open the version before",
                "As the project was before it was last saved, as a project of its own",
                self.open_before,
            ),
            Entry(
                "unit",
                "Unit and upright axis…",
                "Of the open model, where its file does not say or says something else: how large it is, which way is up",
                self.ask_unit,
            ),
            Entry(
                "stop_reading",
                "Stop reading",
                "Of a large model that is still being read: stay with the parts there are",
                self.stop_reading,
            ),
            Entry("close_project", "Close the project", "Back to the ways in", self.close_project, "Ctrl+W"),
        )

    def _undoing(self) -> list[Entry]:
        s = self._session
        return group(
            "Undoing",
            "",
            Entry("undo", "Undo", "Take back the last step", s.undo, "Ctrl+Z", "arrow-u-up-left", "undo"),
            Entry("redo", "Redo", "Do it again", s.redo, "Ctrl+Shift+Z|Ctrl+Y", "arrow-u-up-right", "redo"),
            Entry(
                "steps",
                "What was done…",
                "All steps with small pictures; a click goes back to one, or forth again",
                self._host.show_steps,
                "Ctrl+Alt+8",
                menu="look",
                within="The window",
            ),
            Entry(
                "step_back",
                "Step back",
                "Give up what is under way, or let go of what is picked",
                self._host.step_back,
                "Esc",
                needs="nothing",
            ),
        )

    @property
    def folder(self) -> Path:
        """Where files are offered to be written."""
        path = self._session.project_path
        return path.parent if path else Path.home()

    def open_path(self, path: Path) -> None:
        """Open a model or a project, asking about unsaved work and, for mesh files, about axis and unit."""
        if not self._host.may_close():
            return
        options = None
        if path.suffix.lower() in MESH_SUFFIXES and path.is_file():
            options = ask_options(self._host.widget, path)
            if options is None:
                return
        self._host.documents.open(path, options)

    def open_demo(self) -> None:
        if self._host.may_close():
            self._host.documents.open_demo()

    def ask_unit(self) -> None:
        """Ask in which unit the open model is drawn, each with how large it is then, and which of its axes points up."""
        building, options = self._session.model, self._session.opened_model.options
        if self._is_ifc:
            self._session.said.emit("An IFC file says itself in which unit it is, and Z points up in it")
            return
        size = (building.bounds[1] - building.bounds[0]) / building.unit.metres
        choices: list[tuple[str, object]] = [
            (f"{plural(name).capitalize()}: {units.sizes((size * metres).tolist(), 1)}", name) for name, metres in UNITS.items()
        ]
        at = next((i for i, (_, name) in enumerate(choices) if name == building.unit.name), 0)
        axes: list[tuple[str, object]] = [("As it is now", options.up), ("Z points up", "z"), ("Y points up", "y")]
        Ask(self._host.widget, "Unit and upright axis", WITH_UNIT, "Use it", self._use_unit).choice(
            "Lengths", choices, at, "How large the building is with each"
        ).choice("Upright", axes).open()

    @property
    def _is_ifc(self) -> bool:
        return Path(self._session.project.model.path).suffix.lower() in IFC_SUFFIXES

    def _use_unit(self, ask: Ask) -> None:
        session = self._session
        before = session.opened_model.options
        options = OpenOptions.model_validate(
            {"unit": ask.chosen("Lengths"), "up": ask.chosen("Upright"), "near": before.near or before.unit is None}
        )

        def failed(error: Exception) -> None:
            self._host.tell(in_words(error))

        def done(found: Compared) -> None:
            if not session.project.scenes:
                bounds = session.subject_bounds()
                session.follow(first_camera(bounds, self._host.stage.aspect))
            size = found.model.building.bounds[1] - found.model.building.bounds[0]
            session.said.emit(f"The model is {units.sizes(size.tolist(), 1)} now")

        session.said.emit("Reading the model anew…")
        self._host.newer.reopen(options, done, failed)

    def open_before(self) -> None:
        if self._host.may_close():
            self._host.documents.open_before()

    def new_project(self) -> None:
        """Ask where, and begin a project without a model there."""
        if not self._host.may_close():
            return
        suggestion = self.folder / f"New project{SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(self._host.widget, "New project", str(suggestion), f"Projects (*{SUFFIX})")
        if name:
            self._host.documents.begin(Path(name))

    def choose_model(self) -> None:
        kinds = " ".join(f"*{s}" for s in MODEL_SUFFIXES)
        self._choose("Open a model", f"Models ({kinds})")

    def choose_project(self) -> None:
        self._choose("Open a project", f"Projects (*{SUFFIX})")

    def _choose(self, title: str, kinds: str) -> None:
        name, _ = QFileDialog.getOpenFileName(self._host.widget, title, str(self.folder), kinds)
        if name:
            self.open_path(Path(name))

    def stop_reading(self) -> None:
        """Stay with the parts of a model there are."""
        if self._host.documents.reading:
            self._host.documents.cancel()
        else:
            self._session.said.emit("Nothing is being read")

    def close_project(self) -> None:
        """Back to the beginning, with nothing open but the ways in."""
        if self._host.may_close():
            self._session.close()

    def save(self) -> bool:
        """Save to where the project lies; ask where if nowhere. False when it was not even begun."""
        path = self._session.project_path
        if path is None:
            return self.save_as()
        if self._host.documents.changed_by_others(path) and not self._may_overwrite(path):
            return False
        return self.write(path)

    def _may_overwrite(self, path: Path) -> bool:
        """Ask about a project file that somebody else wrote meanwhile."""
        box = QMessageBox(
            QMessageBox.Icon.NoIcon,
            "Changed meanwhile",
            f"“{path.name}” was changed or removed by somebody else since you opened or saved it. "
            "Saving replaces what is there now.",
            parent=self._host.widget,
        )
        other = box.addButton("Save under another name", QMessageBox.ButtonRole.AcceptRole)
        replace = box.addButton("Replace it", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Go on working", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        clicked = box.clickedButton()
        box.deleteLater()
        if clicked is other:
            self.save_as()
        return clicked is replace

    def save_as(self) -> bool:
        suggestion = self.folder / f"{self._session.project.name}{SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(self._host.widget, "Save the project", str(suggestion), f"Projects (*{SUFFIX})")
        return bool(name) and self.write(Path(name))

    def write(self, path: Path) -> bool:
        self._host.documents.save(path)
        return True

    def toggle_embed(self) -> None:
        """Choose whether the model travels inside the project file from the next saving on."""
        on = not self._session.project.model.embedded
        self._session.apply(
            edits.set_embedded(self._session.project, on), "The model goes inside" if on else "The model stays outside"
        )
