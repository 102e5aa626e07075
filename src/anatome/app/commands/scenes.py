"""Scenes: keeping, recalling, replacing them, and their small pictures."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QTimer

from anatome.app.base.entry import Entry, group
from anatome.app.base.pictures import Making, in_picture
from anatome.app.base.trouble import TROUBLE
from anatome.app.base.work import Progress
from anatome.app.commands.host import Host
from anatome.app.document.recutting import state_key
from anatome.app.document.session import Following
from anatome.cuts.dissection import Cutter
from anatome.formats.pictures_out import png_bytes
from anatome.look.look import UNSAID_PAPER
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.render.stills import lit
from anatome.scenes import edits
from anatome.scenes.edits import new_id
from anatome.scenes.look_edits import drawn_divide, drawn_look
from anatome.scenes.project import Scene, StageState
from anatome.scenes.scene_view import View, view_of
from anatome.scenes.shared_cuts import Keeping
from anatome.site.site import Site

THUMBNAIL, THUMBNAIL_SAMPLES = 360, 8
REST = 2500
"""Milliseconds after the last change of the site until scenes are pictured with it."""


class SceneCommands:
    """Works on the session's scenes."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session
        self._failed: list[StageState] = []
        self._making = Making(host.widget, host.stage.pictures, lambda: self._session.building)
        self._rest = QTimer(host.widget, singleShot=True, interval=REST)
        self._rest.timeout.connect(self.picture_scenes)
        host.session.changed.connect(self.picture_later)
        for other_building in (host.session.opened, host.session.rebuilt, host.session.closed):
            other_building.connect(self._forget)

    def entries(self) -> list[Entry]:
        return [
            *group(
                "Scenes",
                "frame",
                Entry(
                    "save_scene",
                    "Save scene",
                    "Keep what the stage shows as a scene",
                    self.save_scene,
                    "Ctrl+M",
                    "stack",
                    menu="header",
                ),
                Entry(
                    "save_flat",
                    "Save the section as a scene",
                    "Keep the flat drawing of the picked cut as a scene, at its scale; the stage stays as it is",
                    self.save_flat,
                    "Shift+F7",
                    "stack",
                ),
                Entry("scene_back", "Previous scene", "Recall the scene before", partial(self.step_scene, -1), "PgUp"),
                Entry("scene_on", "Next scene", "Recall the next scene", partial(self.step_scene, 1), "PgDown"),
                Entry(
                    "return_to_scene",
                    "Return to the scene",
                    "Show the current scene as it was saved",
                    self.return_to_scene,
                    "Ctrl+0",
                    "arrow-counter-clockwise",
                    "changed",
                ),
                Entry(
                    "replace_scene",
                    "Replace the scene",
                    "Let the current scene show what the stage shows now",
                    self.replace_scene,
                    "Ctrl+Shift+M",
                    "arrows-clockwise",
                    "changed",
                ),
                Entry(
                    "lock_scene",
                    "Lock the scene",
                    "Nothing changes it by accident: neither its view nor what it shows. Once more unlocks it",
                    self.lock,
                    "Ctrl+Alt+K",
                    needs="scene",
                    ticked=lambda: self._session.scene is not None and self._session.scene.locked,
                ),
                Entry(
                    "free_stage",
                    "Let go of the scene",
                    "The stage shows the same and is no scene’s own: what is tried on it changes none",
                    self.free,
                    "Ctrl+Alt+Shift+U",
                    needs="scene",
                ),
                within="Scenes",
            ),
            *group(
                "Scenes",
                "frame",
                Entry(
                    "keep_lines",
                    "Keep the scene’s linework",
                    "Its lines are kept in the project, and drawn anew behind your back when it changes",
                    self.keep_lines,
                    "Ctrl+Alt+Shift+K",
                    needs="scene",
                    ticked=lambda: self._session.scene is not None and self._session.scene.lines_kept,
                ),
                within="Scenes",
            ),
            *(
                Entry(f"scene {i}", f"Scene {i}", f"Recall scene {i}", partial(self.recall_number, i - 1), f"Ctrl+{i}")
                for i in range(1, 10)
            ),
        ]

    def named(self, scene_id: str | None) -> Scene | None:
        """Return a scene by its id, or the current one."""
        return self._session.scene if scene_id is None else self._session.project.scene(scene_id)

    def keep_lines(self, scene_id: str | None = None) -> None:
        """Let a scene, or the current one, keep its linework, or keep it no longer."""
        s, scene = self._session, self.named(scene_id)
        if scene is not None:
            keep = not scene.lines_kept
            said = f"{scene.name} keeps its linework" if keep else f"{scene.name} keeps no linework"
            s.apply(edits.keep_lines(s.project, scene.id, keep), said)

    def recall(self, scene_id: str) -> None:
        """Show a scene as it was saved."""
        self._session.recall_scene(scene_id, self._host.stage.aspect)

    def save_scene(self) -> None:
        name = edits.next_scene_name(self._session.project)
        self._keep(new_id(), f"Saved {name}", "Double-click its name to change it")

    def save_flat(self) -> None:
        """Keep the flat drawing of the picked cut as a scene."""
        s, flat = self._session, self._host.flat
        if flat.cut is None:
            s.said.emit("There is no cut to draw flat. Place one first.")
            return
        scene_id, name = new_id(), f"{flat.cut.name}, flat"
        keeping = edits.keep_beside(s.project, scene_id, flat.state().camera, flat.crop(), flat.viewport.frame, name)
        self.keep_step(keeping, scene_id, f"Saved {name}")

    def _keep(self, scene_id: str, said: str, else_said: str = "") -> None:
        """Keep the stage as a scene, and say which others followed; or why it cannot be."""
        try:
            keeping = edits.keep_scene(self._session.project, scene_id, self._host.stage.viewport.frame)
        except Problem as problem:
            self._session.said.emit(str(problem))
            return
        self.keep_step(keeping, scene_id, said, else_said)

    def keep_step(self, keeping: Keeping, scene_id: str, said: str, else_said: str = "") -> None:
        """Take a step in which a scene kept something of the stage, and say which others followed."""
        s, before = self._session, self._session.project
        words, led = keeping.words or else_said, keeping.led
        s.following = Following(before, scene_id, led) if led else None
        s.apply(keeping.project, f"{said}. {words}" if words else said)
        if led:
            s.offered.emit("only_here", "Only here")
        self.picture_scenes()

    def lock(self, scene_id: str | None = None) -> None:
        """Lock a scene, or the current one, or unlock it."""
        s, scene = self._session, self.named(scene_id)
        if scene is not None:
            said = f"{scene.name} is {'unlocked' if scene.locked else 'locked'}"
            s.apply(edits.lock_scene(s.project, scene.id, not scene.locked), said)

    def free(self) -> None:
        """Let the stage be no scene's own."""
        s = self._session
        if s.scene is not None:
            name = s.scene.name
            s.apply(s.project.model_copy(update={"current_scene": None}), f"The stage is free. {name} stays as it was saved")

    def picture_later(self) -> None:
        """Have scenes pictured anew when what stands round the building was left alone for a while."""
        s = self._session
        if s.is_open and not all(s.pictures.is_current(scene) for scene in s.project.scenes):
            self._rest.start()

    def _forget(self) -> None:
        self._failed = []
        self._making.cancel()

    def picture_scenes(self) -> None:
        """Scenes without a picture of how they are now get one, when there is time."""
        s = self._session
        if not s.is_open or s.building is None or not s.is_built:
            return
        if not self._host.stage.pictures.ready:
            self._rest.start()
            return
        self._failed = []
        if not self._making.busy:
            self._picture_next()

    def _picture_next(self) -> None:
        """Make the small picture of one scene after the other."""
        s = self._session
        due = (scene for scene in s.project.scenes if not s.pictures.is_current(scene) and scene.state not in self._failed)
        scene = next(due, None)
        if scene is None:
            return
        building, site = s.building, s.project.site
        assert building is not None
        size = THUMBNAIL, max(round(THUMBNAIL / scene.aspect), 1)
        prepare = self._prepared(scene, building, site, size)

        def keep(picture: bytes) -> None:
            if s.project.site is site:
                s.pictures.put(scene, picture)
                s.thumbnails_changed.emit()
            if s.is_built:
                self._picture_next()

        def failed(error: Exception) -> None:
            self._failed.append(scene.state)
            TROUBLE.report(error)
            self._picture_next()

        steps = partial(in_picture, size=size, ground="paper", samples=6)
        self._making.make(prepare, steps, lambda progress, pixels: png_bytes(pixels), keep, failed)

    def _prepared(self, scene: Scene, building: Building, site: Site, size: tuple[int, int]) -> Callable[[Progress], View]:
        """What cuts a scene open, or what the stage has cut open already."""
        s = self._session
        if state_key(scene.state) == state_key(s.stage) and s.is_cut and not scene.state.still:
            look, divide = drawn_look(scene.state, site, building), drawn_divide(scene.state, site, building)
            paper = scene.paper[1] if scene.paper else UNSAID_PAPER
            view = View(scene.state.camera, s.on_stage(), look, scene.frame, s.figures(), paper, divide)
            return lambda progress: view
        samples = min(scene.state.still, THUMBNAIL_SAMPLES)
        return lambda progress: lit(view_of(Cutter(building), scene, site=site), size, samples, progress)

    def replace_scene(self, scene_id: str | None = None) -> None:
        s = self._session
        scene = s.project.scene(scene_id) if scene_id else s.scene
        if scene is not None:
            self._keep(scene.id, f"{scene.name} now shows this")

    def return_to_scene(self) -> None:
        scene = self._session.scene
        if scene is not None:
            self.recall(scene.id)

    def recall_number(self, number: int) -> None:
        scenes = self._session.project.scenes
        if number < len(scenes):
            self.recall(scenes[number].id)

    def step_scene(self, by: int) -> None:
        """The next or the previous scene."""
        scenes = self._session.project.scenes
        if scenes:
            ids = [s.id for s in scenes]
            current = self._session.project.current_scene
            place = ids.index(current) + by if current in ids else (0 if by > 0 else len(ids) - 1)
            self.recall(ids[min(max(place, 0), len(ids) - 1)])

    def duplicate_scene(self, scene_id: str, notes: bool = True) -> None:
        """A copy beside it, with what is written on it or without."""
        s, said = self._session, "Duplicated the scene" if notes else "Duplicated the scene without its notes"
        s.apply(edits.duplicate_scene(s.project, scene_id, new_id(), notes), said)

    def delete_scene(self, scene_id: str) -> None:
        scene = self._session.project.scene(scene_id)
        if scene is not None:
            self._session.attempt(lambda project: edits.delete_scene(project, scene_id), f"Deleted {scene.name}")
