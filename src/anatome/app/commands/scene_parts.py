"""Parts of scenes, each by itself: saved, recalled, taken over from the stage, put back on to it, given to several scenes."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import replace

from PySide6.QtWidgets import QComboBox, QLineEdit, QWidget

from anatome.app.base.entry import Entry, group
from anatome.app.base.form_dialog import FormDialog
from anatome.app.base.ticks import Ticks
from anatome.app.commands.host import Host
from anatome.app.commands.scenes import SceneCommands
from anatome.problems import Problem
from anatome.scenes import edits, scene_parts
from anatome.scenes.edits import new_id
from anatome.scenes.project import Scene
from anatome.scenes.scene_parts import PARTS, WORDS, Part, in_words
from anatome.scenes.variants import spread


class ScenePartCommands:
    """Works between the stage and the scenes."""

    def __init__(self, host: Host, scenes: SceneCommands) -> None:
        self._host, self._session, self._scenes = host, host.session, scenes

    def entries(self) -> list[Entry]:
        return group(
            "Parts of scenes",
            "frame",
            Entry(
                "save_parts",
                "Save scene by parts…",
                "A scene that remembers only some parts of what the stage shows; the rest stays when it is recalled",
                self.save,
                "Ctrl+Alt+Shift+M",
            ),
            Entry(
                "recall_parts",
                "Parts of another scene…",
                "Have the view, the look or another part of a scene on the stage, and nothing else of it",
                self.recall,
                "Ctrl+Alt+Shift+W",
                needs="scenes",
            ),
            Entry(
                "take_over",
                "Take over…",
                "Bring parts of what the stage has into its scene",
                self.ask_take_over,
                "Ctrl+Shift+V",
                needs="changed",
            ),
            Entry(
                "put_back",
                "Put back…",
                "Have parts of the scene on the stage again as they were saved",
                self.ask_put_back,
                "Ctrl+Alt+Shift+H",
                needs="changed",
            ),
            Entry(
                "give_parts",
                "Parts into several scenes…",
                "Give scenes you choose the look, the view or another part of the stage",
                self.ask_give,
                "Ctrl+Alt+Shift+V",
                needs="scenes",
            ),
            within="Scenes/Parts of scenes",
        )

    @property
    def _aspect(self) -> float:
        return self._host.stage.aspect

    # Done ------------------------------------------------------------------------------------------------------

    def take_over(self, parts: Collection[Part]) -> None:
        """Bring parts of the stage into its scene."""
        scene = self._session.scene
        if scene is None:
            return
        if scene.locked:
            self._session.said.emit(f"“{scene.name}” is locked, and stays as it is. Unlock it first.")
            return
        keeping = scene_parts.taken_over(self._session.project, {scene.id}, parts, self._host.stage.viewport.frame)
        self._scenes.keep_step(spread(keeping, scene.id), scene.id, f"{scene.name} took over: {in_words(parts)}")

    def put_back(self, parts: Collection[Part]) -> None:
        """Have parts of the scene on the stage again."""
        session, scene = self._session, self._session.scene
        if scene is not None:
            project = scene_parts.recalled_parts(session.project, scene, parts, self._aspect)
            session.apply(project, f"As in {scene.name} again: {in_words(parts)}")

    def give(self, ids: Collection[str], parts: Collection[Part]) -> None:
        """Give scenes parts of the stage; locked ones keep theirs."""
        session = self._session
        chosen = [s for s in session.project.scenes if s.id in ids]
        locked = sum(s.locked for s in chosen)
        count = len(chosen) - locked
        keeping = scene_parts.taken_over(session.project, ids, parts, self._host.stage.viewport.frame)
        for scene in chosen:
            keeping = spread(keeping, scene.id)
        stays = f"; {locked} locked keep theirs" if locked else ""
        said = f"{in_words(parts).capitalize()} of the stage in {count} scene{'s' * (count != 1)}{stays}"
        self._scenes.keep_step(keeping, session.project.current_scene or "", said)

    # Asked for -------------------------------------------------------------------------------------------------

    def save(self) -> None:
        """Ask for a name and for the parts a new scene remembers."""

        def run(asked: PartsDialog) -> None:
            scene_id, parts = new_id(), asked.parts()
            name = asked.name.text().strip() or edits.next_scene_name(self._session.project)
            keeping = edits.keep_scene(self._session.project, scene_id, self._host.stage.viewport.frame, name)
            keeping = replace(keeping, project=edits.remember(keeping.project, scene_id, parts))
            self._scenes.keep_step(keeping, scene_id, f"Saved {name}, which remembers: {in_words(parts)}")

        note = "Its picture shows all of the stage. Recalled, it brings only what is ticked; the rest stays as it is then."
        asked = PartsDialog(self._host.widget, "Save scene by parts", "Save", note, PARTS, run)
        asked.name.setText(edits.next_scene_name(self._session.project))
        asked.show_name()
        asked.open()

    def recall(self) -> None:
        """Ask for a scene and for the parts of it the stage gets."""
        session, project = self._session, self._session.project
        scenes = [s for s in project.scenes if s.id != project.current_scene or project.differs_from_scene]

        def run(asked: PartsDialog) -> None:
            scene, parts = scenes[asked.scene.currentIndex()], asked.parts()
            changed = scene_parts.recalled_parts(session.project, scene, parts, self._aspect)
            session.apply(changed, f"From {scene.name}: {in_words(parts)}")

        note = "The stage keeps everything else, and stays that of its own scene."
        asked = PartsDialog(self._host.widget, "Parts of another scene", "Recall", note, ("look", "light"), run)
        asked.show_scene(scenes)
        asked.open()

    def ask_take_over(self) -> None:
        self._ask_differing("Take over", "The scene gets these parts from the stage.", self.take_over)

    def ask_put_back(self) -> None:
        self._ask_differing("Put back", "The stage gets these parts from its scene again.", self.put_back)

    def _ask_differing(self, title: str, note: str, run: Callable[[Collection[Part]], None]) -> None:
        differing = scene_parts.stage_differs_in(self._session.project)
        asked = PartsDialog(self._host.widget, title, title, note, differing, lambda asked: run(asked.parts()))
        asked.narrow(differing)
        asked.open()

    def ask_give(self) -> None:
        """Ask for scenes and for the parts they get from the stage."""
        session = self._session
        scenes = list(session.project.scenes)

        def run(asked: PartsDialog) -> None:
            chosen = {scenes[i].id for i in asked.scenes.ticked()}
            if not chosen:
                raise Problem("Tick the scenes that get these parts.")
            self.give(chosen, asked.parts())

        note = "They get these parts as the stage has them now. All else in them stays."
        asked = PartsDialog(self._host.widget, "Parts into several scenes", "Give", note, ("look", "light"), run)
        pictures = [session.pictures.get(scene) for scene in scenes]
        asked.show_scenes(scenes, pictures, set(session.picked.scenes))
        asked.open()


class PartsDialog(FormDialog):
    """Parts to be ticked, with a name, a scene or several if wanted. ``do`` may raise Problem."""

    def __init__(
        self, parent: QWidget, title: str, go: str, note: str, ticked: Collection[Part], do: Callable[[PartsDialog], None]
    ) -> None:
        super().__init__(parent, title, go, 420, note)
        self._do = do
        self._offered: Sequence[Part] = PARTS
        self.name, self.scene = QLineEdit(), QComboBox()
        self.scenes = Ticks([], 0)
        self.ticks = Ticks([], 0)
        for row in (self.name, self.scene, self.scenes):
            row.hide()
        self._ticked = ticked
        self.form.addRow("Parts", self.ticks)
        self.narrow(PARTS)

    def narrow(self, offered: Iterable[Part]) -> None:
        """Offer these parts alone."""
        self._offered = [part for part in PARTS if part in set(offered)]
        names = [WORDS[part].name for part in self._offered]
        self.ticks.set_names(names, {WORDS[part].name for part in self._offered if part in self._ticked})
        for i, part in enumerate(self._offered):
            self.ticks.item(i).setToolTip(WORDS[part].tip)

    def show_name(self) -> None:
        """Ask for a name."""
        self._show("Name", self.name)

    def show_scene(self, scenes: Sequence[Scene]) -> None:
        """Ask for a scene."""
        self.scene.addItems([scene.name for scene in scenes])
        self._show("Scene", self.scene)

    def show_scenes(self, scenes: Sequence[Scene], pictures: Sequence[bytes | None], ticked: Collection[str]) -> None:
        """Ask for several scenes."""
        self.scenes.set_names([f"{s.name}{'  ·  locked' if s.locked else ''}" for s in scenes], ())
        self.scenes.show_pictures(pictures)
        self.scenes.tick_only(*(i for i, scene in enumerate(scenes) if scene.id in ticked))
        for i, scene in enumerate(scenes):
            self.scenes.allow(i, not scene.locked)
        self._show("Scenes", self.scenes)

    def _show(self, words: str, row: QWidget) -> None:
        self.form.insertRow(0, words, row)
        row.show()

    def parts(self) -> frozenset[Part]:
        """Return the parts that are ticked. Raises Problem where none is."""
        found = frozenset(self._offered[i] for i in self.ticks.ticked())
        if not found:
            raise Problem("Tick at least one part.")
        return found

    def run(self) -> None:
        self._do(self)
