"""Chooses the page for what is picked."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QFrame, QScrollArea, QWidget

from anatome.app.base.actions import Actions
from anatome.app.base.calm_fields import CalmFields
from anatome.app.commands.all import Commands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.changes_page import ChangesPage
from anatome.app.panels.inspector.cut_page import CutPage
from anatome.app.panels.inspector.detail_page import DetailPage
from anatome.app.panels.inspector.elements_page import ElementsPage
from anatome.app.panels.inspector.figure_page import FigurePage
from anatome.app.panels.inspector.film_page import FilmPage
from anatome.app.panels.inspector.many_scenes_page import ManyScenesPage
from anatome.app.panels.inspector.meaning_page import MeaningPage
from anatome.app.panels.inspector.model_page import ModelPage
from anatome.app.panels.inspector.notes_page import NotesPage
from anatome.app.panels.inspector.overview import Overview
from anatome.app.panels.inspector.page import Page, bare_column
from anatome.app.panels.inspector.series_page import SeriesPage
from anatome.app.panels.inspector.settings import Setting, go_to, settings_of
from anatome.app.panels.inspector.sheet_page import SheetPage
from anatome.app.panels.inspector.soundness_page import SoundnessPage
from anatome.app.stage.stage import Stage
from anatome.app.stage.stage_input import StageInput


class Inspector(QScrollArea):
    """Scrolls where a page is taller than the window."""

    def __init__(
        self,
        session: Session,
        stage: Stage,
        stage_input: StageInput,
        actions: Actions,
        commands: Commands,
        sheet: SheetPage,
        film: FilmPage,
        let_go: Callable[[], None],
    ) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._session, self._let_go = session, let_go
        self.overview = Overview(session, stage, stage_input, actions, commands)
        self.cut = CutPage(session, stage, actions, commands.apart)
        self.series = SeriesPage(session, actions)
        self.elements = ElementsPage(session, stage, stage_input, actions)
        self.figure = FigurePage(session, actions, commands.site)
        self.detail = DetailPage(session, stage.noted, actions, commands.details)
        self.sheet, self.film = sheet, film
        self.notes = NotesPage(session, stage, actions, commands.notes)
        self.many_scenes = ManyScenesPage(session, actions)
        self.meaning = MeaningPage(session, actions, commands.meaning)
        self.soundness = SoundnessPage(session, actions, commands.soundness)
        self.changes = ChangesPage(session, commands.changes)
        self._current: Page | None = None
        self._left_at: dict[Page, int] = {}
        self._calm = CalmFields(self)
        pages = QWidget()
        column = bare_column(pages, 0)
        for page in self._all():
            page.hide()
            column.addWidget(page)
        self.setWidget(pages)
        for signal in (session.opened, session.changed, session.picked_changed):
            signal.connect(self.refresh)
        session.camera_moved.connect(self.overview.refresh_camera)

    def _all(self) -> tuple[Page, ...]:
        picked = self.cut, self.series, self.elements, self.figure, self.detail, self.notes, self.many_scenes
        return self.overview, *picked, *self._about_model, self.sheet, self.film

    @property
    def _about_model(self) -> tuple[ModelPage, ...]:
        return self.meaning, self.soundness, self.changes

    def refresh(self) -> None:
        """Show the picked thing as it is now."""
        session = self._session
        if not session.is_open:
            return
        page: Page = self.overview
        if session.picked.scenes:
            page = self.many_scenes
        elif self.sheet.is_wanted:
            page = self.sheet
        elif session.picked.shot is not None and self.film.is_wanted:
            page = self.film
        elif any(about.is_wanted for about in self._about_model):
            page = next(about for about in self._about_model if about.is_wanted)
        elif session.cut is not None:
            page = self.cut
        elif session.series is not None:
            page = self.series
        elif session.picked.elements:
            page = self.elements
        elif session.figure is not None:
            page = self.figure
        elif session.detail is not None:
            page = self.detail
        elif session.notes:
            page = self.notes
        elif self.film.is_wanted:
            page = self.film
        page.refresh()
        self._calm.watch(page)
        if page is not self._current:
            if self._current is not None:
                self._left_at[self._current] = self.verticalScrollBar().value()
                self._current.hide()
            self._current = page
            page.show()
            # Each page is found as it was left.
            QTimer.singleShot(0, self, partial(self._scroll_to, page))

    def _scroll_to(self, page: Page) -> None:
        if page is self._current:
            self.verticalScrollBar().setValue(self._left_at.get(page, 0))

    def settings(self) -> list[Setting]:
        """Return what can be set now: of the page that is shown, and of the picture as a whole."""
        pages = dict.fromkeys(page for page in (self._current, self.overview) if page is not None)
        return [setting for page in pages for setting in settings_of(page)]

    def show_own_look(self) -> None:
        """Unfold how the picked parts look, and have the keyboard there."""
        self.refresh()
        fold = self.elements.own_look_fold
        go_to(Setting(fold.name, "", "", self.elements.own_look.who), self, self.elements)

    def go_to(self, setting: Setting) -> None:
        """Show a setting where it stands, and have the keyboard there."""
        page = next(page for page in self._all() if page.isAncestorOf(setting.widget))
        if page is self.overview:
            self._let_go()
            self._session.pick()
        go_to(setting, self, page)
