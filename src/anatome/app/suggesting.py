"""Making suggestions while the window answers: tried off its thread, looked at and pictured between the stage's own samples."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QImage

from anatome.app.background import Task, Told
from anatome.app.session import Session
from anatome.app.stage.stage import PictureJob, Stage, image_of
from anatome.render.renderer import View
from anatome.scenes.project import Project, StageState
from anatome.site.standing import seen_figures
from anatome.suggestions.ranking import SIZE, Suggestion, Tried, rank, try_all
from anatome.suggestions.subject import Subject
from anatome.view.seen import Seen

LARGER = 2
"""Times as large as they are shown pictures are drawn, once: what is drawn counts, not pixels, so that is quicker than twice."""
MERGE = "suggestion"


class Suggester(QObject):
    """One round of suggestions.

    ``began``; ``progressed``: the share done; ``ranked``: they are chosen; ``pictured``: the picture of one is there;
    ``tried_on``: another one, or none, is on the stage; ``ended``: the round is over.
    """

    began = Signal()
    progressed = Signal(float)
    ranked = Signal()
    pictured = Signal(int)
    tried_on = Signal()
    ended = Signal()

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__()
        self._session, self._stage = session, stage
        self.subject: Subject | None = None
        self.found: list[Suggestion] = []
        self.images: dict[int, QImage] = {}
        self.number: int | None = None
        self._round = 0
        self._before: Project | None = None
        self._shown: StageState | None = None
        self._task: Task | None = None
        self._job: PictureJob | None = None
        self.size = (126, 84)
        for other_building in (session.opened, session.rebuilt, session.closed):
            other_building.connect(self._forget)
        session.changed.connect(self._watch)

    @property
    def active(self) -> bool:
        """Whether a round is under way or shown."""
        return self.subject is not None

    # A round ---------------------------------------------------------------------------------------------------

    def begin(self, subject: Subject) -> None:
        """Look for pictures of a subject."""
        self.end()
        session, building = self._session, self._session.building
        if building is None:
            return
        session.pick_cut(None)
        session.end_step()
        self.subject, self._before = subject, session.project
        state, aspect, number = session.stage, self._stage.aspect, self._round
        scale = self._stage.devicePixelRatioF()
        self.size = round(84 * aspect * scale), round(84 * scale)
        self.began.emit()

        def work(told: Told) -> list[Tried]:
            return try_all(building, state, subject, aspect, lambda share: told(0.5 * share))

        def done(tried: list[Tried]) -> None:
            if number == self._round:
                self._look(state, tried, [])

        self._task = Task(work, done, self._failed, self)
        self._task.progressed.connect(lambda share: self.progressed.emit(share) if number == self._round else None)

    def _failed(self, error: Exception) -> None:
        self.end()
        self._session.failed.emit(error)

    def _look(self, state: StageState, tried: Sequence[Tried], seen: list[tuple[Seen, Seen | None]]) -> None:
        """See what can be seen of the next one; when all are through, rank them."""
        subject, number = self.subject, self._round
        assert subject is not None
        if len(seen) == len(tried):
            self._task = Task(lambda told: rank(subject, tried, seen), self._ranked(state, number), self._failed, self)
            return
        one = tried[len(seen)]
        self.progressed.emit(0.5 + 0.5 * len(seen) / len(tried))

        def with_own(own: Seen) -> None:
            def with_alone(alone: Seen | None) -> None:
                if number == self._round:
                    self._look(state, tried, [*seen, (own, alone)])

            if number != self._round:
                return
            if one.alone is None:
                with_alone(None)
            else:
                self._job = self._stage.look(View(one.camera, one.alone, state.look), SIZE, with_alone, self._failed)

        self._job = self._stage.look(View(one.camera, one.shown, state.look), SIZE, with_own, self._failed)

    def _ranked(self, state: StageState, number: int) -> Callable[[list[Suggestion]], None]:
        def done(found: list[Suggestion]) -> None:
            if number == self._round:
                self.found = found
                self.ranked.emit()
                self._picture(state, 0)

        return done

    def _picture(self, state: StageState, which: int) -> None:
        """Make the small picture of one after the other."""
        number = self._round
        if which >= len(self.found):
            return
        one = self.found[which]

        def done(pixels: object) -> None:
            if number == self._round:
                smooth = Qt.TransformationMode.SmoothTransformation
                self.images[which] = image_of(pixels).scaled(*self.size, mode=smooth)  # type: ignore[arg-type]
                self.pictured.emit(which)
                self._picture(state, which + 1)

        plain = state.look.model_copy(update={"shade": False, "ground": False})
        figures = seen_figures(self._session.project.site.figures, state.hidden, one.shown)
        view = View(one.camera, one.shown, plain, figures=figures)
        width, height = self.size
        size = LARGER * width, LARGER * height
        self._job = self._stage.picture(view, size, "paper", done, self._failed, 1)

    def _forget(self) -> None:
        self._round += 1
        if self._task is not None:
            self._task.cancel()
        if self._job is not None:
            self._job.cancel()
        was = self.active
        self.subject = self._before = self._shown = self._task = self._job = self.number = None
        self.found, self.images = [], {}
        if was:
            self.ended.emit()

    def end(self) -> None:
        """The round is over; what is tried on stays."""
        if self._session.is_open:
            self._session.end_step()
        self._forget()

    # Trying on -------------------------------------------------------------------------------------------------

    def try_on(self, number: int) -> None:
        """Put a suggestion on the stage; the one that is on it already is kept."""
        session, before = self._session, self._before
        if before is None or number >= len(self.found):
            return
        if number == self.number:
            self.keep()
            return
        suggestion = self.found[number]
        self.number, self._shown = number, suggestion.on(before.stage)
        project = session.project.model_copy(update={"stage": self._shown})
        session.apply(project, f"Tried on: {suggestion.title}", moves_camera=True, merge=MERGE)
        self.tried_on.emit()

    def keep(self) -> None:
        """What is tried on becomes the stage's own."""
        if self.number is not None:
            said = f"Kept: {self.found[self.number].title}"
            self.end()
            self._session.said.emit(said)

    def take_back(self) -> bool:
        """The stage as it was before; with nothing tried on, the end of the round. False when there is no round."""
        if not self.active:
            return False
        if self.number is None:
            self.end()
            return True
        self.number = self._shown = None
        self._session.cancel_step(MERGE)
        self.tried_on.emit()
        return True

    def _watch(self) -> None:
        """Whoever goes on working with what is tried on has kept it."""
        if self._shown is None:
            return
        stage = self._session.stage
        if stage.model_copy(update={"camera": self._shown.camera}) != self._shown:
            self.end()
