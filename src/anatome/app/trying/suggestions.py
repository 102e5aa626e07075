"""Making suggestions while the window answers: tried off its thread, looked at and pictured between the stage's own samples."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal

from anatome.app.base.images import image_of
from anatome.app.base.pictures import Pixels
from anatome.app.base.work import Progress, Work
from anatome.app.document.session import Session
from anatome.app.stage.stage import Stage
from anatome.app.trying.round import Round
from anatome.scenes.marks import marks_in
from anatome.scenes.project import StageState
from anatome.scenes.scene_view import View
from anatome.site.standing import seen_figures
from anatome.suggestions.ranking import SIZE, WEIGHTS, Suggestion, Tried, rank, try_all
from anatome.suggestions.subject import Subject
from anatome.view.seen import Seen

LARGER = 2
"""Times as large as they are shown pictures are drawn, once: what is drawn counts, not pixels, so that is quicker than twice."""
PARTS = {"seen": "seen", "clean": "cut cleanly", "full": "frame filled"}


def why(suggestion: Suggestion) -> str:
    """Return how its score comes about."""
    rows = [f"{PARTS[name]}: {value:.2f} × {WEIGHTS[name]:g}" for name, value in suggestion.parts.items()]
    return "\n".join([f"{suggestion.title}. {suggestion.words}", f"Score {suggestion.score:.2f}", *rows])


class Suggester(Round):
    """A round of suggestions. ``progressed``: the share done until they are ranked."""

    progressed = Signal(float)
    merge = "suggestion"

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__(session, stage)
        self.subject: Subject | None = None
        self.found: list[Suggestion] = []
        self._work = Work(self)
        self._work.progressed.connect(lambda share: self.progressed.emit(0.5 * share))

    @property
    def count(self) -> int:
        return len(self.found)

    @property
    def title(self) -> str:
        return f"Suggestions for {self.subject.name}" if self.subject is not None else "Suggestions"

    def name(self, number: int) -> str:
        return self.found[number].title

    def short(self, number: int) -> str:
        return self.found[number].short

    def words(self, number: int) -> str:
        return self.found[number].words

    def tip(self, number: int) -> str:
        return why(self.found[number])

    def state(self, number: int, before: StageState) -> StageState:
        project = self._session.project
        # Another suggestion may be on the stage: its letters are free again.
        return self.found[number].on(before, marks_in(project.model_copy(update={"stage": before})))

    # A round ---------------------------------------------------------------------------------------------------

    def begin(self, subject: Subject) -> None:
        """Look for pictures of a subject."""
        session, building = self._session, self._session.building
        self.end()
        if building is None:
            return
        session.pick()
        self.subject = subject
        self._begin()
        state, aspect = session.stage, self._stage.aspect

        def work(progress: Progress) -> list[Tried]:
            return try_all(building, state, subject, aspect, progress)

        self._work.run(work, lambda tried: self._look(state, tried, []), self._failed)

    def _look(self, state: StageState, tried: Sequence[Tried], seen: list[tuple[Seen, Seen | None]]) -> None:
        """See what can be seen of the next one; when all are through, rank them."""
        subject, pictures = self.subject, self._stage.pictures
        assert subject is not None
        if len(seen) == len(tried):
            self._work.run(lambda progress: rank(subject, tried, seen), lambda found: self._ranked(state, found), self._failed)
            return
        one = tried[len(seen)]
        self.progressed.emit(0.5 + 0.5 * len(seen) / len(tried))

        def with_own(own: Seen) -> None:
            def with_alone(alone: Seen | None) -> None:
                self._look(state, tried, [*seen, (own, alone)])

            if one.alone is None:
                with_alone(None)
            else:
                self._job = pictures.look(View(one.camera, one.alone, state.look), SIZE, with_alone, self._failed)

        self._job = pictures.look(View(one.camera, one.shown, state.look), SIZE, with_own, self._failed)

    def _ranked(self, state: StageState, found: list[Suggestion]) -> None:
        self.found = found
        self.listed.emit()
        self._picture(state, 0)

    def _picture(self, state: StageState, which: int) -> None:
        """Make the small picture of one after the other."""
        if which >= len(self.found):
            return
        one = self.found[which]

        def done(pixels: Pixels) -> None:
            smooth = Qt.TransformationMode.SmoothTransformation
            self.images[which] = image_of(pixels).scaled(*self.size, mode=smooth)
            self.pictured.emit(which)
            self._picture(state, which + 1)

        plain = state.look.model_copy(update={"shade": False, "ground": False})
        figures = seen_figures(self._session.project.site.figures, state.hidden, one.shown)
        view = View(one.camera, one.shown, plain, figures=figures)
        width, height = self.size
        size = LARGER * width, LARGER * height
        self._job = self._stage.pictures.picture(view, size, "paper", done, self._failed, 1)

    def _forget(self) -> None:
        self._work.cancel()
        self.subject = None
        self.found = []
        super()._forget()
