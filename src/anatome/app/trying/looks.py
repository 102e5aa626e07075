"""Looks as small pictures of the present stage, tried on one after the other."""

from __future__ import annotations

from anatome.app.base.images import image_of
from anatome.app.base.pictures import Pixels
from anatome.app.document.session import Session
from anatome.app.stage.stage import Stage
from anatome.app.trying.round import Round
from anatome.look.look import Look
from anatome.look.shipped import shipped_looks
from anatome.scenes.project import StageState
from anatome.scenes.scene_view import View

SAMPLES = 2


class LookRound(Round):
    """A round of the looks that come with Anatome and those of the project."""

    merge = "look"

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__(session, stage)
        self._looks: list[Look] = []

    def begin(self) -> None:
        """Show them all with the stage as it is."""
        if self._session.building is None:
            return
        looks = [*self._session.project.looks, *shipped_looks().values()]
        own = [scene.state.look for scene in self._session.project.scenes] + [self._session.stage.look]
        for look in own:
            if look not in looks:
                looks.append(look)
        self.end()
        self._begin()
        self._looks = looks
        self.listed.emit()
        self._picture(0)

    @property
    def looks(self) -> tuple[Look, ...]:
        """In the order in which they are shown."""
        return tuple(self._looks)

    @property
    def count(self) -> int:
        return len(self._looks)

    @property
    def title(self) -> str:
        return "Looks"

    def name(self, number: int) -> str:
        return self._looks[number].name or "Own look"

    def state(self, number: int, before: StageState) -> StageState:
        return before.model_copy(update={"look": self._looks[number]})

    def keeps_camera(self) -> bool:
        return True

    def _picture(self, which: int) -> None:
        """Make the small picture of one after the other, the shown view in each."""
        session = self._session
        if which >= self.count or not session.is_open:
            return

        def done(pixels: Pixels) -> None:
            self.images[which] = image_of(pixels)
            self.pictured.emit(which)
            self._picture(which + 1)

        camera = session.stage.camera
        look = session.drawn_look(self._looks[which])
        view = View(camera, session.on_stage(), look, figures=session.figures(), paper=session.paper_height())
        self._job = self._stage.pictures.picture(view, self.size, "paper", done, self._failed, SAMPLES)
