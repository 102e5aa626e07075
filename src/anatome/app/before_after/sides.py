"""The two sides of a change of the model, put to work off the window's thread: the stage's state before, and after."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

from PySide6.QtCore import QObject

from anatome.app.base.work import Progress, Work
from anatome.app.document.newer_model import Compared, NewerModel
from anatome.app.document.recutting import state_key
from anatome.app.document.session import Session
from anatome.cuts.dissection import Cutter
from anatome.model.building import Building
from anatome.scenes.change_look import tinted
from anatome.scenes.project import Project, StageState
from anatome.scenes.scene_view import View, view_of, written_on
from anatome.scenes.whole import whole_of
from anatome.site.site import Site
from anatome.view.camera import Camera


@dataclass(frozen=True, eq=False)
class Sides:
    """What the stage shows, ``before`` the change and ``after`` it; ``cameras`` says of one on the stage where it is in each."""

    before: View
    after: View
    states: tuple[StageState, StageState]
    site: Site
    cameras: Callable[[Camera], tuple[Camera, Camera]]

    def seen_from(self, camera: Camera, written: bool) -> list[View]:
        """Return both from where a camera on the stage is in each, with what is ``written`` on them if wanted."""
        views = [replace(v, camera=c) for v, c in zip((self.before, self.after), self.cameras(camera), strict=True)]
        return [written_on(v, s, self.site) for v, s in zip(views, self.states, strict=True)] if written else views


class SideMaker(QObject):
    """Makes them of what is compared; keeps the cutters, so that another look or place of the camera costs little."""

    def __init__(self, session: Session, newer: NewerModel) -> None:
        super().__init__()
        self._session, self._newer = session, newer
        self._work = Work(self, lambda: session.opened_as)
        self._cutters: tuple[Cutter, Cutter] | None = None
        self._key: object = None
        self._made: Sides | None = None
        self._held: object = None
        """What the key names by id."""

    def forget(self) -> None:
        """Let go of all of it."""
        self._work.cancel()
        self._cutters = self._key = self._made = self._held = None

    def make(self, tints: bool, done: Callable[[Sides], None], failed: Callable[[Exception], None]) -> None:
        """Put the stage as it is now to work on both sides, in the tints of what changed or in its look."""
        session, compared, building = self._session, self._newer.compared, self._session.building
        if compared is None or building is None:
            return
        stage, project, taken = session.stage, session.project, self._newer.is_taken
        shown = stage.look, stage.overrides, stage.divide
        written = stage.notes, stage.note_style, stage.notes_shown
        key = (id(compared), id(building), taken, tints, state_key(stage), shown, written, id(project.site))
        if key == self._key and self._made is not None:
            done(self._made)
            return

        def work(progress: Progress) -> tuple[Sides, tuple[Cutter, Cutter]]:
            states = _states(compared, project, stage, taken)
            cutters = self._cutters_for(compared, building, taken)
            views = [
                view_of(cutter, tinted(state, ids) if tints else state, site=project.site)
                for cutter, state, ids in zip(cutters, states, (compared.was, compared.now), strict=True)
            ]
            return Sides(views[0], views[1], states, project.site, partial(_cameras, compared, taken)), cutters

        def made(found: tuple[Sides, tuple[Cutter, Cutter]]) -> None:
            self._key, self._held, (self._made, self._cutters) = key, (compared, building, project), found
            done(found[0])

        self._work.run(work, made, failed)

    def _cutters_for(self, compared: Compared, building: Building, taken: bool) -> tuple[Cutter, Cutter]:
        """Of the two buildings; what is open is the side it is on."""
        known = self._cutters
        if known is not None and known[1 if taken else 0].building is building:
            return known
        if taken:
            return Cutter(whole_of(compared.before.building, compared.of)), Cutter(building)
        return Cutter(building), Cutter(compared.change.after)


def _states(compared: Compared, project: Project, stage: StageState, taken: bool) -> tuple[StageState, StageState]:
    """What the stage shows on either side; of a scene that went along, what it showed before."""
    if not taken:
        return stage, compared.change.along(stage)
    was = compared.of.scene(project.current_scene)
    back = compared.change.back(stage)
    if was is None or project.differs_from_scene:
        return back, stage
    return was.state.model_copy(update={"camera": back.camera, "crop": stage.crop}), stage


def _cameras(compared: Compared, taken: bool, camera: Camera) -> tuple[Camera, Camera]:
    change = compared.change
    return (change.carried_back(camera), camera) if taken else (camera, change.carried_on(camera))
