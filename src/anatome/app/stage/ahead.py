"""Finished pictures drawn ahead: what will be shown next stands at once, whole, when it is shown."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Generator, Sequence
from typing import Protocol

from PySide6.QtWidgets import QWidget

from anatome.app.base.pictures import PictureJob, Pictures
from anatome.app.base.trouble import TROUBLE
from anatome.app.base.work import Progress, Work
from anatome.app.document.recutting import Recut, recut, refine
from anatome.app.document.session import Session, paper_height
from anatome.cuts.dissection import Cutter
from anatome.cuts.pieces import ShownBuilding
from anatome.look.look import Look
from anatome.notes.touching_up import held
from anatome.render.accumulation import Accumulation
from anatome.render.renderer import Renderer
from anatome.render.window import Window
from anatome.scenes.look_edits import drawn_divide, drawn_look
from anatome.scenes.project import StageState
from anatome.scenes.scene_view import View
from anatome.site.standing import seen_figures

SAMPLES = 14
"""Of a finished picture on the stage."""
MOST = 3
"""Pictures kept for when they are shown."""


class DrawsStates(Protocol):
    """The stage, as far as what is drawn ahead for it is concerned."""

    pictures: Pictures

    def key_of(self, state: StageState, shown: ShownBuilding, look: Look) -> object:
        """Return all that decides the finished picture of a state."""

    def full(self) -> tuple[int, int]:
        """Return its size in pixels of the screen."""


class Ahead:
    """Cut on a thread, drawn between what the stage draws for itself."""

    def __init__(self, session: Session, stage: DrawsStates) -> None:
        assert isinstance(stage, QWidget)
        self._session, self._stage = session, stage
        self._work = Work(stage, lambda: session.building)
        self._cutter: Cutter | None = None
        self._job: PictureJob | None = None
        self._wanted: list[StageState] = []
        self._kept: OrderedDict[object, tuple[Accumulation, ShownBuilding]] = OrderedDict()

    @property
    def empty(self) -> bool:
        """Whether nothing was drawn ahead."""
        return not self._kept

    @property
    def busy(self) -> bool:
        """Whether something is being made."""
        return self._work.busy or self._job is not None

    def want(self, states: Sequence[StageState]) -> None:
        """Have these made, one after the other, the next first; what was wanted before is wanted no longer."""
        self._work.cancel()
        if self._job is not None:
            self._job.cancel()
            self._job = None
        self._wanted = list(states)
        self._go_on()

    def drop(self) -> None:
        """Keep nothing, and want nothing."""
        self._kept.clear()
        self.want(())

    def keep(self, key: object, shown: ShownBuilding, made: Accumulation) -> None:
        """Keep a finished picture; its key may hold the id of what is shown, so that is held too."""
        self._kept[key] = made, shown
        self._kept.move_to_end(key)
        while len(self._kept) > MOST:
            self._kept.popitem(last=False)

    def take(self, key: object) -> Accumulation | None:
        """Return a finished picture, once, if it is there."""
        found = self._kept.pop(key, None)
        return None if found is None else found[0]

    def _go_on(self) -> None:
        building = self._session.building
        if not self._wanted or building is None:
            return
        state = self._wanted.pop(0)
        if self._cutter is None or self._cutter.building is not building:
            self._cutter = Cutter(building)
        cutter = self._cutter

        def work(progress: Progress) -> Recut:
            made = recut(cutter, state)
            refine(made)
            return made

        self._work.run(work, lambda made: self._draw(state, made), TROUBLE.report)

    def _draw(self, state: StageState, cut_open: Recut) -> None:
        """Draw what was cut, unless it is there already."""
        s, building = self._session, self._session.building
        assert building is not None
        known = s.keep_cut(cut_open)
        shown, site, full = known.shown, s.project.site, self._stage.full()
        look, divide = drawn_look(state, site, building), drawn_divide(state, site, building)
        key = self._stage.key_of(state, shown, look)
        if key in self._kept:
            self._go_on()
            return
        figures = seen_figures(site.figures, state.hidden, shown)
        touched = held(state.touched_up, shown, state.cuts)
        view = View(state.camera, shown, look, figures=figures, paper=paper_height(state), divide=divide, touched=touched)

        def steps(on: Renderer) -> Generator[float, None, Accumulation]:
            made = Accumulation(on.ctx, on.programs, full)
            for number in range(SAMPLES):
                for _ in made.steps(on, view, Window(*full)):
                    yield number / SAMPLES
            return made

        def drawn(made: Accumulation) -> None:
            self._job = None
            if full == self._stage.full():
                self.keep(key, shown, made)
            self._go_on()

        def failed(error: Exception) -> None:
            self._job = None
            TROUBLE.report(error)

        self._job = self._stage.pictures.draw(steps, drawn, failed)
