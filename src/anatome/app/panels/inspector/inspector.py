"""Chooses the page for what is picked."""

from __future__ import annotations

from functools import cached_property, partial
from typing import TypeVar

from PySide6.QtCore import QSettings, Qt, QTimer
from PySide6.QtWidgets import QFrame, QScrollArea, QWidget

from anatome.app.base.actions import Actions
from anatome.app.base.calm_fields import CalmFields
from anatome.app.commands.all import Commands
from anatome.app.document.desk import Desk
from anatome.app.document.film_desk import FilmDesk
from anatome.app.document.picked import Picked
from anatome.app.document.session import Session
from anatome.app.panels.inspector.changes_page import ChangesPage
from anatome.app.panels.inspector.cut_page import CutPage
from anatome.app.panels.inspector.detail_page import DetailPage
from anatome.app.panels.inspector.elements_page import ElementsPage
from anatome.app.panels.inspector.figure_page import FigurePage
from anatome.app.panels.inspector.film_page import FilmPage
from anatome.app.panels.inspector.later import LaterFold, make_next
from anatome.app.panels.inspector.many_scenes_page import ManyScenesPage
from anatome.app.panels.inspector.meaning_page import MeaningPage
from anatome.app.panels.inspector.notes_page import NotesPage
from anatome.app.panels.inspector.overview import Overview
from anatome.app.panels.inspector.page import Page, bare_column, remember_folds
from anatome.app.panels.inspector.series_page import SeriesPage
from anatome.app.panels.inspector.settings import Setting, go_to, settings_of
from anatome.app.panels.inspector.sheet_page import SheetPage
from anatome.app.panels.inspector.soundness_page import SoundnessPage
from anatome.app.sheets.contents import SheetContents
from anatome.app.stage.stage import Stage
from anatome.app.stage.stage_input import StageInput

P = TypeVar("P", bound=Page)


class Inspector(QScrollArea):
    """Scrolls where a page is taller than the window. Pages are made when they are first shown."""

    def __init__(
        self,
        session: Session,
        stage: Stage,
        stage_input: StageInput,
        actions: Actions,
        commands: Commands,
        desk: Desk,
        film_desk: FilmDesk,
        contents: SheetContents,
        settings: QSettings,
    ) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._session, self._stage, self._stage_input = session, stage, stage_input
        self._actions, self._commands = actions, commands
        self._desk, self._film_desk, self._contents, self._settings = desk, film_desk, contents, settings
        self._current: Page | None = None
        self._left_at: dict[Page, int] = {}
        self._calm = CalmFields(self)
        pages = QWidget()
        self._column = bare_column(pages, 0)
        self.setWidget(pages)
        self.overview = self._with(Overview(session, stage, stage_input, actions, commands))
        for signal in (session.opened, session.changed, session.picked_changed):
            signal.connect(self.refresh)
        session.camera_moved.connect(self.overview.refresh_camera)

    # Pages -----------------------------------------------------------------------------------------------------

    def _with(self, page: P) -> P:
        page.hide()
        self._column.addWidget(page)
        self._tend(page)
        return page

    def _tend(self, holder: QWidget) -> None:
        """Have sections as they were left, and fields calm, also in what is made later."""
        remember_folds(holder, self._settings)
        self._calm.watch(holder)
        for fold in holder.findChildren(LaterFold):
            fold.grown.connect(partial(self._tend, fold.content))

    @cached_property
    def cut(self) -> CutPage:
        """The picked cut."""
        return self._with(CutPage(self._session, self._stage, self._actions, self._commands.apart))

    @cached_property
    def series(self) -> SeriesPage:
        """The picked serial sections."""
        return self._with(SeriesPage(self._session, self._actions))

    @cached_property
    def elements(self) -> ElementsPage:
        """The picked parts."""
        return self._with(ElementsPage(self._session, self._stage, self._stage_input, self._actions))

    @cached_property
    def figure(self) -> FigurePage:
        """The picked person or tree."""
        return self._with(FigurePage(self._session, self._actions, self._commands.site))

    @cached_property
    def detail(self) -> DetailPage:
        """The picked detail."""
        return self._with(DetailPage(self._session, self._stage.noted, self._actions, self._commands.details))

    @cached_property
    def notes(self) -> NotesPage:
        """The picked notes."""
        return self._with(NotesPage(self._session, self._stage, self._actions, self._commands.notes))

    @cached_property
    def many_scenes(self) -> ManyScenesPage:
        """The picked scenes."""
        return self._with(ManyScenesPage(self._session, self._actions))

    @cached_property
    def meaning(self) -> MeaningPage:
        """What parts of the model are."""
        return self._with(MeaningPage(self._session, self._actions, self._commands.meaning))

    @cached_property
    def soundness(self) -> SoundnessPage:
        """Parts that are no sound solids."""
        return self._with(SoundnessPage(self._session, self._actions, self._commands.soundness))

    @cached_property
    def changes(self) -> ChangesPage:
        """What has changed in the model."""
        return self._with(ChangesPage(self._session, self._commands.changes))

    @cached_property
    def sheet(self) -> SheetPage:
        """The open sheet."""
        return self._with(SheetPage(self._session, self._desk, self._contents, self._actions, self._commands))

    @cached_property
    def film(self) -> FilmPage:
        """The open film, or the picked shot."""
        return self._with(FilmPage(self._session, self._film_desk, self._actions, self._commands.films))

    def _wanted(self) -> Page:
        """The page of what is picked: what lies over the stage first, what is alone last."""
        picked, commands = self._session.picked, self._commands
        if picked.scenes:
            return self.many_scenes
        if self._desk.sheet is not None:
            return self.sheet
        filming = self._film_desk.film is not None
        if filming and picked.shot is not None:
            return self.film
        if commands.meaning.is_open:
            return self.meaning
        if commands.soundness.is_open:
            return self.soundness
        if commands.changes.is_open:
            return self.changes
        if self._session.cut is not None:
            return self.cut
        if self._session.series is not None:
            return self.series
        if picked.elements:
            return self.elements
        if self._session.figure is not None:
            return self.figure
        if self._session.detail is not None:
            return self.detail
        if self._session.notes:
            return self.notes
        return self.film if filming and picked == Picked() else self.overview

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the picked thing as it is now."""
        if not self._session.is_open:
            return
        page = self._wanted()
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

    def make_next(self) -> bool:
        """Make the next section of what can be set now, and return whether one was left."""
        return any(make_next(page) for page in self._of_settings())

    def settings(self) -> list[Setting]:
        """Return what can be set now: of the page that is shown, and of the picture as a whole."""
        return [setting for page in self._of_settings() for setting in settings_of(page)]

    def _of_settings(self) -> dict[Page, None]:
        return dict.fromkeys(page for page in (self._current, self.overview) if page is not None)

    def show_own_look(self) -> None:
        """Unfold how the picked parts look, and have the keyboard there."""
        self.refresh()
        fold = self.elements.own_look_fold
        go_to(Setting(fold.name, "", "", self.elements.own_look.who), self, self.elements)

    def go_to(self, setting: Setting) -> None:
        """Show a setting where it stands, and have the keyboard there."""
        page = next(page for page in self.findChildren(Page) if page.isAncestorOf(setting.widget))
        if page is self.overview:
            self._desk.close()
            self._session.pick()
        go_to(setting, self, page)
