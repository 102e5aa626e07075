"""Trying things on: small pictures of what the stage could be, of which one after the other is put on it, kept or taken back."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from anatome.app.base.pictures import PictureJob
from anatome.app.document.session import Session
from anatome.app.stage.stage import Stage
from anatome.scenes.project import Project, StageState


class Round(QObject):
    """One round of it.

    ``began``; ``listed``: what there is to try is known; ``pictured``: the picture of one is there; ``tried_on``: another one, or
    none, is on the stage; ``ended``: the round is over.
    """

    began = Signal()
    listed = Signal()
    pictured = Signal(int)
    tried_on = Signal()
    ended = Signal()

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__()
        self._session, self._stage = session, stage
        self.images: dict[int, QImage] = {}
        self.number: int | None = None
        self.size = (126, 84)
        self._before: Project | None = None
        self._shown: StageState | None = None
        self._job: PictureJob | None = None
        for other_building in (session.opened, session.rebuilt, session.closed):
            other_building.connect(self._forget)
        session.changed.connect(self._watch)

    # What a kind of round says of itself -----------------------------------------------------------------------

    merge = "try"
    """What its steps count as one under."""

    @property
    def count(self) -> int:
        """How many there are to try."""
        raise NotImplementedError

    def name(self, number: int) -> str:
        """Of one of them."""
        raise NotImplementedError

    def short(self, number: int) -> str:
        """Its name under a picture."""
        return self.name(number)

    def words(self, number: int) -> str:
        """Return what is to be said of one of them."""
        return self.name(number)

    def tip(self, number: int) -> str:
        """Return the same at more length."""
        return self.words(number)

    @property
    def title(self) -> str:
        """Of the round."""
        raise NotImplementedError

    def state(self, number: int, before: StageState) -> StageState:
        """Return the stage with one of them."""
        raise NotImplementedError

    def keeps_camera(self) -> bool:
        """Return whether none of them moves the camera."""
        return False

    # A round ---------------------------------------------------------------------------------------------------

    @property
    def active(self) -> bool:
        """Whether a round is under way or shown."""
        return self._before is not None

    def _begin(self) -> None:
        """Begin a round with the stage as it is; the one before is over."""
        self._session.end_step()
        self._before, self._session.looks_freely = self._session.project, True
        aspect, scale = self._stage.aspect, self._stage.devicePixelRatioF()
        self.size = round(84 * aspect * scale), round(84 * scale)
        self.began.emit()

    def _forget(self) -> None:
        if self._job is not None:
            self._job.cancel()
        was = self.active
        if was:
            self._session.looks_freely = False
        self._before = self._shown = self._job = self.number = None
        self.images = {}
        if was:
            self.ended.emit()

    def _failed(self, error: Exception) -> None:
        self.end()
        self._session.failed.emit(error)

    def end(self) -> None:
        """The round is over; what is tried on stays."""
        if self._session.is_open:
            self._session.end_step()
        self._forget()

    # Trying on -------------------------------------------------------------------------------------------------

    def try_on(self, number: int) -> None:
        """Put one on the stage; the one that is on it already is kept."""
        session, before = self._session, self._before
        if before is None or number >= self.count:
            return
        if number == self.number:
            self.keep()
            return
        base = before.stage
        if self.keeps_camera():  # one may look around meanwhile
            base = base.model_copy(update={"camera": session.stage.camera})
        self.number, self._shown = number, self.state(number, base)
        project = session.project.model_copy(update={"stage": self._shown})
        session.apply(project, f"Tried on: {self.name(number)}", keeps_view=self.keeps_camera(), merge=self.merge)
        self.tried_on.emit()

    def keep(self) -> None:
        """What is tried on becomes the stage's own."""
        if self.number is not None:
            said = f"Kept: {self.name(self.number)}"
            self.end()
            self._session.said.emit(said)

    def take_back(self) -> bool:
        """Put the stage back as it was before; with nothing tried on, end the round. Return False when there is none."""
        if not self.active:
            return False
        if self.number is None:
            self.end()
            return True
        self.number = self._shown = None
        self._session.cancel_step(self.merge)
        self.tried_on.emit()
        self._session.said.emit("The stage is as it was before")
        return True

    def _watch(self) -> None:
        """Whoever goes on working with what is tried on has kept it."""
        if self._shown is None:
            return
        stage = self._session.stage
        if stage.model_copy(update={"camera": self._shown.camera}) != self._shown:
            self.end()
