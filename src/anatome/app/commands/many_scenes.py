"""What is done with several scenes at once: sets, names, locks, looks, sheets, sending out; and the page that shows all."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QLabel, QLineEdit

from anatome.app.base.entry import Entry, group
from anatome.app.base.form_dialog import FormDialog
from anatome.app.commands.host import Host
from anatome.app.commands.scene_parts import ScenePartCommands
from anatome.app.commands.send_out import SendOutCommands
from anatome.app.commands.sheets import SheetCommands
from anatome.app.document.session import Session
from anatome.problems import Problem
from anatome.scenes import scene_sets, sheet_edits
from anatome.scenes.edits import new_id
from anatome.scenes.project import Project, Scene
from anatome.scenes.scene_sets import FIELDS, set_names

USUAL = "Section {mark}"


class ManySceneCommands:
    """Works on the picked scenes."""

    def __init__(self, host: Host, sheets: SheetCommands, send_out: SendOutCommands, parts: ScenePartCommands) -> None:
        self._host, self._session, self._sheets, self._send_out, self._parts = host, host.session, sheets, send_out, parts

    def entries(self) -> list[Entry]:
        many = "scenes picked"
        return [
            *group(
                "Scenes",
                "frame",
                Entry(
                    "scene_page",
                    "All scenes",
                    "A page of large pictures over the stage: in sets, searched, put in order; several picked at once",
                    self._host.toggle_scene_page,
                    "F4",
                    "selection-all",
                ),
                within="Scenes",
            ),
            *group(
                "Picked scenes",
                "frame",
                Entry("scenes_set", "Into a set…", "A name they stand under, and fold", self.into_set, "Ctrl+Q", needs=many),
                Entry(
                    "scenes_name",
                    "Name by a pattern…",
                    "All of them at once, from their sections, storeys, looks or numbers",
                    self.name,
                    "Ctrl+R",
                    "pencil-simple",
                    many,
                ),
                Entry("scenes_lock", "Lock or unlock", "What is locked stays as it is", self.lock, needs=many),
                Entry("scenes_look", "Give them the stage’s look", "Locked ones keep theirs", self.give_look, needs=many),
                Entry(
                    "scenes_lines",
                    "Keep their linework, or not",
                    "Lines are drawn anew when a scene changes",
                    self.lines,
                    needs=many,
                ),
                Entry("scenes_sheet", "On to a sheet", "The open one, or a new one", self.on_sheet, icon="files", needs=many),
                Entry("scenes_send", "Send out…", "A picture of each", self._send_out.batch, icon="export", needs=many),
                Entry("scenes_delete", "Delete the scenes", "Locked ones stay", self.delete, "Del", "trash", many),
                within="Scenes/Picked scenes",
            ),
        ]

    @property
    def scenes(self) -> list[Scene]:
        """The picked ones in their order."""
        picked = self._session.picked.scenes
        return [scene for scene in self._session.project.scenes if scene.id in picked]

    def _many(self) -> str:
        count = len(self.scenes)
        return f"{count} scene{'s' * (count != 1)}"

    def into_set(self) -> None:
        SetDialog(self._host, self.scenes).open()

    def name(self) -> None:
        NameDialog(self._host, self.scenes).open()

    def lock(self) -> None:
        """Lock all, or unlock them if all are locked."""
        lock = not all(scene.locked for scene in self.scenes)
        ids = [scene.id for scene in self.scenes]
        said = f"{'Locked' if lock else 'Unlocked'} {self._many()}"
        self._session.apply(scene_sets.lock_scenes(self._session.project, ids, lock), said)

    def lines(self) -> None:
        """Have all keep their linework, or none if all do."""
        keep = not all(scene.lines_kept for scene in self.scenes)
        ids = [scene.id for scene in self.scenes]
        said = f"{self._many()} {'keep' if keep else 'no longer keep'} linework"
        self._session.apply(scene_sets.keep_lines_of(self._session.project, ids, keep), said)

    def give_look(self) -> None:
        self._parts.give({scene.id for scene in self.scenes}, {"look", "light"})

    def on_sheet(self) -> None:
        scenes = self.scenes
        self._host.leave_scene_page()
        self._sheets.lay_out(f"{len(scenes)} scenes", lambda sheet: sheet_edits.scenes_in_rows(sheet, scenes, new_id))

    def delete(self) -> None:
        ids = [scene.id for scene in self.scenes]
        self._session.attempt(lambda project: scene_sets.delete_scenes(project, ids), f"Deleted {self._many()}")


class SetDialog(FormDialog):
    """Asks under which name some scenes stand together."""

    def __init__(self, host: Host, scenes: list[Scene]) -> None:
        note = "Scenes of a set stand together under its name, and fold together. Without a name they are in no set."
        super().__init__(host.widget, "Into a set", "Put there", 380, note)
        self._session: Session = host.session
        self._ids = [scene.id for scene in scenes]
        self.set = QComboBox(editable=True)
        self.set.addItems(list(set_names(self._session.project)))
        own = {scene.set for scene in scenes}
        self.set.setEditText(own.pop() if len(own) == 1 else "")
        self.form.addRow("Set", self.set)

    def run(self) -> None:
        name = self.set.currentText().strip()
        count = len(self._ids)
        said = f"{count} scene{'s' * (count != 1)} in the set {name}" if name else f"{count} scenes in no set"
        self._session.apply(scene_sets.into_set(self._session.project, self._ids, name), said)


class NameDialog(FormDialog):
    """Asks for a pattern, and shows what comes of it."""

    def __init__(self, host: Host, scenes: list[Scene]) -> None:
        fields = ", ".join(f"{{{name}}}: {words}" for name, words in FIELDS.items())
        super().__init__(host.widget, "Name by a pattern", "Name them", 460, f"Words, and fields in braces. {fields}.")
        self._session: Session = host.session
        self._ids = [scene.id for scene in scenes]
        self.pattern = QLineEdit(USUAL)
        self.example = QLabel()
        self.example.setProperty("role", "soft")
        self.example.setWordWrap(True)
        self.form.addRow("Pattern", self.pattern)
        self.form.addRow("", self.example)
        self.pattern.textChanged.connect(self._show)
        self._show()

    def _named(self) -> Project:
        building = self._session.building
        assert building is not None
        return scene_sets.named_by(self._session.project, self._ids, self.pattern.text(), building)

    def _show(self) -> None:
        try:
            project = self._named()
        except Problem as problem:
            self.example.setText(str(problem))
            return
        names = [scene.name for scene in project.scenes if scene.id in self._ids]
        more = f" and {len(names) - 4} more" if len(names) > 4 else ""
        self.example.setText(", ".join(f"“{name}”" for name in names[:4]) + more)

    def run(self) -> None:
        self._session.apply(self._named(), f"Named {len(self._ids)} scenes by “{self.pattern.text().strip()}”")
