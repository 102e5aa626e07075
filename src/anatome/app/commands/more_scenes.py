"""Scenes made of a scene: for other storeys, in other looks, of other cuts."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtWidgets import QComboBox

from anatome.app.base import units
from anatome.app.base.entry import Entry, group
from anatome.app.base.form_dialog import FormDialog
from anatome.app.base.ticks import Ticks
from anatome.app.commands.host import Host
from anatome.app.commands.scenes import SceneCommands
from anatome.app.document.session import Session
from anatome.cuts.cut import AnyCut
from anatome.look.shipped import shipped_looks
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.scenes import storey_scenes, variants
from anatome.scenes.edits import new_id
from anatome.scenes.project import Scene, StageState
from anatome.scenes.shared_cuts import all_sections
from anatome.scenes.variants import OFFERED
from anatome.view.camera import square_on

CHOSEN = "As ticked"


class MoreSceneCommands:
    """Works on the current scene, or on one that is named."""

    def __init__(self, host: Host, scenes: SceneCommands) -> None:
        self._host, self._session, self._scenes = host, host.session, scenes

    def entries(self) -> list[Entry]:
        return group(
            "More of a scene",
            "frame",
            Entry(
                "scene_up",
                "For the storey above",
                "The scene with its level cuts, boxes, camera and levels moved up to the next storey",
                partial(self.storey, True),
                "Ctrl+Alt+PgUp",
                needs="scene",
            ),
            Entry(
                "scene_down",
                "For the storey below",
                "The same for the storey below",
                partial(self.storey, False),
                "Ctrl+Alt+PgDown",
                needs="scene",
            ),
            Entry(
                "scene_storeys",
                "For all storeys",
                "A scene of each storey that is lived in, in a set",
                self.storeys,
                "Ctrl+Alt+Shift+PgUp",
                needs="scene",
            ),
            Entry(
                "variants_looks",
                "Variants in other looks…",
                "The same in several looks, linked: what is changed in one is changed in all",
                self.in_looks,
                "Ctrl+Alt+Z",
                needs="scene",
            ),
            Entry(
                "variants_cuts",
                "Variants by other cuts…",
                "Several cuts in one look, linked: what is changed in one is changed in all",
                self.by_cuts,
                "Ctrl+Alt+Shift+Z",
                needs="scene",
            ),
            Entry(
                "variants_free",
                "Let go of its variants",
                "The scene is linked no longer, and keeps what it shows",
                self.let_go,
                "Ctrl+Alt+Shift+A",
                needs="variant",
            ),
            within="Scenes/More of a scene",
        )

    @property
    def _building(self) -> Building:
        assert self._session.building is not None
        return self._session.building

    def storey(self, up: bool, scene_id: str | None = None) -> None:
        """Make the scene for the storey above or below, and go there."""
        session, scene = self._session, self._scenes.named(scene_id)
        if scene is None:
            return
        try:
            project, made, left = storey_scenes.next_storey(session.project, scene, self._building, up, new_id)
        except Problem as problem:
            session.said.emit(str(problem))
            return
        out = f". {left} note{'s' * (left != 1)} of the storey before left out" if left else ""
        session.apply(project, f"{made.name}, from {scene.name}{out}")
        self._scenes.recall(made.id)
        self._scenes.picture_scenes()

    def storeys(self) -> None:
        """Make the scene for every storey that is lived in."""
        session, scene = self._session, self._session.scene
        if scene is None:
            return
        try:
            project, made = storey_scenes.all_storeys(session.project, scene, self._building, new_id)
        except Problem as problem:
            session.said.emit(str(problem))
            return
        session.apply(project, f"{len(made)} scene{'s' * (len(made) != 1)} of other storeys, in the set {made[0].set}")
        self._scenes.picture_scenes()

    def in_looks(self) -> None:
        """Ask for looks."""
        if self._session.scene is not None:
            LooksDialog(self._host, self._session.scene, self._scenes).open()

    def by_cuts(self) -> None:
        """Ask for cuts."""
        scene = self._session.scene
        if scene is None:
            return
        own = {cut.id for cut in scene.state.active_cuts}
        cuts = [cut for cut in all_sections(self._session.project) if cut.id not in own]
        if not cuts:
            self._session.said.emit("The project has no other section. Place one, and save it in a scene.")
            return
        CutsDialog(self._host, scene, cuts, self._scenes).open()

    def let_go(self) -> None:
        """Let the current scene be no variant any more."""
        scene = self._session.scene
        if scene is not None:
            self._session.apply(variants.let_go(self._session.project, {scene.id}), f"{scene.name} is by itself from now on")


class LooksDialog(FormDialog):
    """Which looks a scene is in besides its own."""

    def __init__(self, host: Host, scene: Scene, scenes: SceneCommands) -> None:
        note = f"A scene for each, beside {scene.name}. They share everything but look and light; let go of them when you want."
        super().__init__(host.widget, "Variants in other looks", "Make them", 420, note)
        self._session: Session = host.session
        self._scene, self._scenes = scene, scenes
        self._looks = {look.name: look for look in (*shipped_looks().values(), *self._session.project.looks)}
        self.offered = QComboBox()
        self.offered.addItems([*OFFERED, CHOSEN])
        self.looks = Ticks(list(self._looks), 0)
        self.form.addRow("Offered", self.offered)
        self.form.addRow("Looks", self.looks)
        self.offered.setCurrentText("Shaded, in colour, black and white")
        self.offered.currentTextChanged.connect(self._tick)
        self.looks.itemChanged.connect(self._chosen)
        self._ticking = False
        self._tick(self.offered.currentText())

    def _tick(self, name: str) -> None:
        if name in OFFERED:
            self._ticking = True
            names = list(self._looks)
            self.looks.tick_only(*(names.index(look) for look in OFFERED[name]))
            self._ticking = False

    def _chosen(self) -> None:
        if not self._ticking:
            self.offered.setCurrentText(CHOSEN)

    def run(self) -> None:
        names = list(self._looks)
        looks = [self._looks[names[i]] for i in self.looks.ticked()]
        before = len(self._session.project.scenes)
        project = variants.in_looks(self._session.project, self._scene, looks, new_id)
        count = len(project.scenes) - before
        self._session.apply(project, f"{count} variant{'s' * (count != 1)} of {self._scene.name}")
        self._scenes.picture_scenes()


class CutsDialog(FormDialog):
    """Which cuts a scene is made of besides its own."""

    def __init__(self, host: Host, scene: Scene, cuts: Sequence[AnyCut], scenes: SceneCommands) -> None:
        note = f"A scene for each, seen as {scene.name} is. They share everything but cut, view and notes."
        super().__init__(host.widget, "Variants by other cuts", "Make them", 420, note)
        self._session: Session = host.session
        self._scene, self._cuts, self._scenes = scene, cuts, scenes
        self.cuts = Ticks([f"{cut.name}  ·  {cut.summary(units)}" for cut in cuts], len(cuts))
        self.form.addRow("Cuts", self.cuts)

    def _seen(self, state: StageState, cut: AnyCut) -> StageState:
        """Square on to a cut, where the scene is seen square on to its own."""
        if not self._scene.state.cuts_seen_true:
            return state
        bounds = self._session.subject_bounds()
        camera = square_on(cut.axis, bounds, self._scene.aspect, state.camera)
        return state.model_copy(update={"camera": camera, "crop": None})

    def run(self) -> None:
        cuts = [self._cuts[i] for i in self.cuts.ticked()]
        project = variants.by_cuts(self._session.project, self._scene, cuts, self._seen, new_id)
        self._session.apply(project, f"{len(cuts)} variant{'s' * (len(cuts) != 1)} of {self._scene.name}")
        self._scenes.picture_scenes()
