"""The main window: header, panels, stage and contact sheet. What one can do in it is in commands/."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QImage, QKeyEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QPushButton,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from anatome.app.base import theme, units
from anatome.app.base.actions import Actions, header_button, menu_button
from anatome.app.base.picture_row import PictureRow
from anatome.app.base.trouble import TROUBLE
from anatome.app.before_after.view import BeforeAfter
from anatome.app.commands.all import MENUS, Commands
from anatome.app.commands.site import FOOTPRINT_SUFFIXES
from anatome.app.dialogs.steps import StepsDialog
from anatome.app.document.desk import Desk
from anatome.app.document.documents import Documents
from anatome.app.document.film_desk import FilmDesk
from anatome.app.document.newer_model import NewerModel
from anatome.app.document.preferences import cache_gigabytes, preferences
from anatome.app.document.present import present
from anatome.app.document.recent import Recent
from anatome.app.document.session import Session
from anatome.app.document.spoken_units import SpokenUnits
from anatome.app.films.player import Player
from anatome.app.films.shot_pictures import ShotPictures
from anatome.app.films.strip import FilmStrip
from anatome.app.key_drawings.flat_drawing import FlatDrawing
from anatome.app.key_drawings.flat_panel import FlatPanel
from anatome.app.key_drawings.kinds import KeyElevation, KeyElevationPanel, KeyPlan, KeyPlanPanel
from anatome.app.panels.contact_sheet import ContactSheet
from anatome.app.panels.inspector import Inspector
from anatome.app.panels.inspector.parts_strip import PartsStrip
from anatome.app.panels.inspector.shared_look import SharedLook
from anatome.app.panels.opening import OpeningPage
from anatome.app.panels.parts import Parts
from anatome.app.panels.scenes.pull import HEIGHT as PULL_HEIGHT
from anatome.app.panels.scenes.pull import PullEdge
from anatome.app.panels.scenes.scene_list import SceneList
from anatome.app.panels.scenes.scene_page import ScenePage
from anatome.app.panels.scout_strip import ScoutStrip
from anatome.app.panels.try_strip import TryStrip
from anatome.app.panels.welcome import Welcome
from anatome.app.presenting.curtain import Curtain
from anatome.app.presenting.presentation import Presentation
from anatome.app.sheets.contents import SheetContents
from anatome.app.sheets.line_keeper import LineKeeper
from anatome.app.sheets.sheet_input import SheetInput
from anatome.app.sheets.strip import SheetStrip
from anatome.app.sheets.view import SheetView
from anatome.app.stage.overlay import Overlay
from anatome.app.stage.passage import Passage
from anatome.app.stage.stage import Stage
from anatome.app.stage.stage_input import StageInput
from anatome.app.stage.step_pictures import StepPictures
from anatome.app.trying.looks import LookRound
from anatome.app.trying.suggestions import Suggester
from anatome.app.window.finder import Finder
from anatome.app.window.finding import Findables
from anatome.app.window.flat_place import FlatPlace
from anatome.app.window.journaling import Journaling
from anatome.app.window.keys import KeysDialog
from anatome.app.window.own_keys import OwnKeys
from anatome.app.window.places import Places
from anatome.app.window.popup_menus import PopupMenus
from anatome.app.window.questions import Questions
from anatome.app.window.settings_dialog import SettingsDialog
from anatome.app.window.status_line import StatusLine
from anatome.formats.opening import limit_cache
from anatome.sheets.sheet import SceneFrame, TextBlock


def _framed(name: str, content: QWidget, margins: tuple[int, int, int, int] = (0, 0, 0, 0)) -> QFrame:
    """The content in a frame that the style sheet knows by name."""
    frame = QFrame()
    frame.setObjectName(name)
    layout = QVBoxLayout(frame)
    layout.setContentsMargins(*margins)
    layout.addWidget(content)
    return frame


def _stacked(*rows: QWidget) -> QWidget:
    """Rows one under the other without gaps; the tallest kind of widget takes the room there is."""
    whole = QWidget()
    column = QVBoxLayout(whole)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(0)
    for row in rows:
        column.addWidget(row, 1 if isinstance(row, QSplitter | QStackedWidget | QScrollArea) else 0)
    return whole


class MainWindow(QMainWindow):
    """Holds the parts together; what they do is in their own modules."""

    def __init__(self) -> None:
        super().__init__()
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.setMinimumSize(960, 600)
        self._settings = preferences()
        self.session = Session()
        self.spoken = SpokenUnits(self.session)
        self.recent = Recent()
        self.documents = Documents(self.session, self.recent)
        self.stage = Stage(self.session)
        self.step_pictures = StepPictures(self.session, self.stage)
        self.overlay = Overlay(self.session, self.stage)
        self.passage = Passage(self.session, self.stage)
        self.stage_input = StageInput(self.session, self.stage, self.overlay)
        self.key_plan = KeyPlan(self.session, self.stage)
        self.key_plan_panel = KeyPlanPanel(self.session, self.key_plan)
        self.key_elevation = KeyElevation(self.session, self.stage)
        self.key_elevation_panel = KeyElevationPanel(self.key_elevation)
        self.flat = FlatDrawing(self.session, self.stage, self.stage_input)
        self.journaling = Journaling(self.session, self.documents, self.stage)
        self.desk = Desk(self.session)
        self.sheet_contents = SheetContents(self.session, self.stage, self.desk)
        self.sheet_view = SheetView(self.session, self.stage, self.desk, self.sheet_contents)
        self.sheet_input = SheetInput(self.session, self.desk, self.sheet_view)
        self.newer = NewerModel(self.session, self.documents.scratch)
        self.before_after = BeforeAfter(self.session, self.stage, self.newer)
        self.film_desk = FilmDesk(self.session)
        self.player = Player(self.session, self.stage, self.film_desk, self.passage)
        self.overlay.over = (self.passage, self.player)
        self.suggester = Suggester(self.session, self.stage)
        self.look_round = LookRound(self.session, self.stage)
        self.commands = Commands(self)
        self.actions_ = Actions(self, self.commands.entries())
        self.own_keys = OwnKeys(self.actions_)
        self.flat_panel = FlatPanel(self.session, self.flat, self.actions_["save_flat"])
        limit_cache(cache_gigabytes() * 10**9)
        self.scout = ScoutStrip(self.session)
        self.parts = Parts(self.session, self.actions_)
        self.inspector = Inspector(
            *(self.session, self.stage, self.stage_input, self.actions_, self.commands),
            *(self.desk, self.film_desk, self.sheet_contents, self._settings),
        )
        self.shared_look = SharedLook(self.session, self.actions_)
        self.parts_strip = PartsStrip(self.session, self.commands.scene_parts)
        self._findables = Findables(*(self.session, self.desk, self.actions_, self.commands, self.inspector, self.show_panels))
        self.sheet_strip = SheetStrip(self.session, self.desk, self.sheet_contents)
        adding = self.actions_.menu(self, [replace(e, within="") for e in self.commands.films.adding()])
        moments = ShotPictures(self.session, self.film_desk, self.player, self.stage.pictures)
        self.film_strip = FilmStrip(self.session, self.film_desk, self.player, moments, self.actions_, adding)
        self.line_keeper = LineKeeper(self.session, self.stage.pictures)
        self.contact_sheet = ContactSheet(self.session, self.stage)
        self.scene_page = ScenePage(self.session, self.stage)
        nothing = "No cut shows it. Show what is hidden, or pick something else."
        self.suggestions = TryStrip(self.suggester, "Trying cuts and views…", nothing)
        self.suggester.progressed.connect(self.suggestions.show_progress)
        self.looks = TryStrip(self.look_round)
        self.menus = PopupMenus(
            *(self, self.session, self.desk, self.actions_, self.commands, self.contact_sheet, self.sheet_strip)
        )
        self.status = StatusLine(self.actions_)
        self.questions = Questions(self, self.session, self.documents, self.status, self.commands.files)
        self.welcome = Welcome(self.recent)
        self.opening = OpeningPage()
        self.presentation = Presentation(self.session, self.stage, self.passage)
        self.curtain = Curtain(self.session, self.stage, self.presentation)
        self._alone = False
        self._before_presenting = (False, False)
        """Whether the stage was alone, and the window full screen."""
        self._build()
        self._connect()
        self._refresh()

    # Building the window ---------------------------------------------------------------------------------------

    def _build(self) -> None:
        self.header = self._build_header()
        panels = QSplitter(Qt.Orientation.Vertical)
        middle = QSplitter(Qt.Orientation.Horizontal)
        self.flat_place = FlatPlace(middle, self.key_elevation_panel, self.flat_panel, self._settings)
        for place in (self.key_plan_panel, self.flat_place.small, self.parts):
            panels.addWidget(place)
        panels.setSizes([205, 143, 258])
        panels.setHandleWidth(1)
        self._left = _framed("left", panels)
        self._left.setMinimumWidth(200)
        self._right = _framed("right", _stacked(self.inspector, self.shared_look, self.parts_strip))
        self._right.setMinimumWidth(262)  # what its pages need
        # The scout shares the foot with the scenes, so that the stage keeps its size when a cut is picked.
        foot = QWidget()
        row = QHBoxLayout(foot)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        self.pull = PullEdge()
        scenes = self.scenes_at_foot = QWidget()
        column = QVBoxLayout(scenes)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.pull)
        column.addWidget(self.contact_sheet)
        row.addWidget(scenes, 4)
        row.addWidget(self.sheet_strip, 3)
        row.addWidget(self.scout, 10)
        row.addWidget(self.film_strip, 10)
        self.sheet_strip.hide()
        for strip in (self.suggestions, self.looks):
            strip.setFixedHeight(self.contact_sheet.height() + PULL_HEIGHT)
            row.addWidget(strip, 14)
            strip.hide()
        for beside in (self.scout, self.film_strip):
            beside.setFixedHeight(self.contact_sheet.height() + PULL_HEIGHT)
        self._foot = _framed("foot", foot, (12, 0, 12, 0))
        middle.setHandleWidth(1)
        for widget in (self._left, self.stage, self._right):
            middle.addWidget(widget)
        middle.setStretchFactor(1, 1)
        middle.setSizes([280, 738, 262])
        self.places = Places(middle, panels, self.stage, self._settings)
        for panel in (self.key_plan_panel, self.key_elevation_panel):
            panel.grow_wanted.connect(partial(self.places.swap, panel))
        self.flat_place.begin()
        self._workspace = _stacked(middle, self._foot)

        self.pages = QStackedWidget()
        for page in (self.welcome, self.opening, self._workspace):
            self.pages.addWidget(page)
        self.setCentralWidget(_stacked(self.header, self.pages, self.status))

    def _build_header(self) -> QFrame:
        header = QFrame()
        header.setObjectName("header")
        bar = QHBoxLayout(header)
        bar.setContentsMargins(16, 6, 12, 6)
        bar.setSpacing(2)
        self.title = QLabel("Anatome")
        self.title.setProperty("role", "title")
        bar.addWidget(self.title)
        self.newer_mark = QPushButton("Newer model")
        self.newer_mark.setProperty("role", "warning")
        self.newer_mark.setToolTip("The model's file holds something else than what is open. See what has changed")
        self.newer_mark.clicked.connect(self.actions_["model_changes"].trigger)
        self.newer_mark.hide()
        bar.addSpacing(6)
        bar.addWidget(self.newer_mark)
        bar.addSpacing(10)
        a = self.actions_
        for name in ("undo", "redo"):
            button = header_button(a[name])
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonIconOnly)
            bar.addWidget(button)
        bar.addStretch()
        self.menu_buttons: dict[str, QToolButton] = {}
        for name, (words, tip, icon, _) in MENUS.items():
            made = a.menu(self, a.in_menu(name))
            if name == "open":
                made.aboutToShow.connect(partial(self._fill_recent, made))
            self.menu_buttons[name] = menu_button(words, tip, icon, made)
            bar.addWidget(self.menu_buttons[name])
            if name == "look":
                bar.addWidget(header_button(a["save_scene"]))
        return header

    def _connect(self) -> None:
        s, d = self.session, self.documents
        s.opened.connect(self._opened)
        for may_say_others in (s.opened, s.changed, s.closed):
            may_say_others.connect(self.spoken.follow)
        self.spoken.changed.connect(self._say_anew)
        s.rebuilt.connect(self._refresh)
        s.closed.connect(self._closed)
        for signal in (s.changed, s.camera_moved, s.picked_changed, s.opened):
            signal.connect(self._refresh)
        s.said.connect(self.status.say)
        s.offered.connect(self.status.offer)
        self.presentation.ended.connect(self._presented)
        d.started.connect(self._opening_started)
        d.progressed.connect(self._show_progress)
        d.finished.connect(self._show_page)
        d.failed.connect(self._open_failed)
        d.save_failed.connect(lambda text: self.tell(text, "This could not be saved"))
        s.failed.connect(TROUBLE.report)
        self.journaling.failed.connect(s.said)
        TROUBLE.told.connect(self.questions.show_trouble)
        self.opening.cancelled.connect(d.cancel)
        self.welcome.leave_empty.connect(d.leave_empty)
        d.waiting_changed.connect(self._wait_for_model)
        self.welcome.open_model.connect(self.commands.files.choose_model)
        self.welcome.open_project.connect(self.commands.files.choose_project)
        self.welcome.open_demo.connect(self.commands.files.open_demo)
        self.welcome.open_recent.connect(lambda path: self.commands.files.open_path(Path(path)))
        self.stage_input.task_changed.connect(self.show_task)
        self.key_plan.task_ended.connect(self.show_task)
        s.changed.connect(self.commands.cuts.show_reach)
        for pictured in (self.stage_input, self.flat):
            pictured.menu_wanted.connect(self.menus.stage)
        self.contact_sheet.menu_wanted.connect(self.menus.scene)
        for tried, other in ((self.suggester, self.look_round), (self.look_round, self.suggester)):
            tried.began.connect(other.end)
            tried.began.connect(self._show_rounds)
            tried.ended.connect(self._show_rounds)
        self.session.picked_changed.connect(self._hand_over_keys)
        self.desk.changed.connect(self._show_desk)
        self.film_desk.changed.connect(self._show_film)
        self.player.moved.connect(self.overlay.update)
        self.film_strip.menu_wanted.connect(self.menus.shot)
        for signal in (self.desk.changed, self.film_desk.changed, self.session.picked_changed, self.sheet_contents.news):
            signal.connect(self.inspector.refresh)
        self.contact_sheet.recalled.connect(self._leave_papers)
        self.scene_page.recalled.connect(self.contact_sheet.recall)
        self.scene_page.recalled.connect(self._leave_papers)
        self.scene_page.list.menu_wanted.connect(self.menus.scene)
        self.newer.noticed.connect(lambda: self.newer_mark.setVisible(self.newer.newer is not None))
        self.before_after.save_wanted.connect(self.commands.changes.choose_save)
        self.before_after.sheet_wanted.connect(self.commands.changes.on_sheet)
        self.pull.pressed.connect(self.toggle_scene_page)
        self.pull.pulled.connect(self._pull_scenes)
        self.sheet_input.edit_wanted.connect(self._edit_block)
        self.sheet_input.menu_wanted.connect(self.menus.sheet)
        self.sheet_strip.menu_wanted.connect(self.menus.sheet_in_row)
        for scenes in (self.contact_sheet, self.scene_page.list):
            self.line_keeper.news.connect(scenes.look_again)
        self.stage.lined.switched.connect(self._refresh)
        self.stage.ready.connect(lambda: QTimer.singleShot(0, self.commands.scenes.picture_scenes))

    def _fill_recent(self, menu: QMenu) -> None:
        for action in menu.actions():
            if action.data() == "recent":
                menu.removeAction(action)
        for path in self.recent.entries()[:6]:
            action = menu.addAction(path.name)
            action.triggered.connect(partial(self._open_recent, path))
            action.setData("recent")
            action.setToolTip(str(path))

    def _open_recent(self, path: Path, *_: object) -> None:
        self.commands.files.open_path(path)

    # State -----------------------------------------------------------------------------------------------------

    def _refresh(self) -> None:
        s = self.session
        if s.is_open:
            undo, redo = s.history.undo_label, s.history.redo_label
            self.actions_["undo"].setText(f"Undo: {undo}" if undo else "Undo")
            self.actions_["redo"].setText(f"Redo: {redo}" if redo else "Redo")
            name = s.project_path.stem if s.project_path else s.project.name
            unsaved = s.unsaved  # what was just opened or read has nothing to lose yet
            marked = f"{name} •" if unsaved else name
            if self.documents.only_looks:
                marked += " (open elsewhere)"
            self.title.setText(marked)
            saved = "Not saved yet" if unsaved or s.project_path is None else str(s.project_path)
            elsewhere = "Another window has it open, and may save over it. Here it can be saved under another name"
            self.title.setToolTip(elsewhere if self.documents.only_looks else saved)
            self.setWindowTitle(f"{marked} – Anatome")
        else:
            waiting = self.documents.waiting
            self.setWindowTitle(f"{waiting.path.stem} – Anatome" if waiting else "Anatome")
            self.title.setText(waiting.path.stem if waiting else "Anatome")
            self.title.setToolTip(str(waiting.path) if waiting else "")
        there = present(s, self.desk, self.film_desk)
        self.actions_.refresh(there)
        for name, (_, _, _, needs) in MENUS.items():
            self.menu_buttons[name].setEnabled(needs in there)

    @property
    def keyboard_home(self) -> QWidget:
        """Who has the keyboard when nothing is typed: the open sheet, else the stage."""
        return self.stage if self.desk.sheet is None else self.sheet_view

    def _hand_over_keys(self) -> None:
        """What was picked by a button in a panel is moved by the arrow keys all the same."""
        if self.session.picked.cut is not None and isinstance(self.focusWidget(), QPushButton | PictureRow | SceneList):
            self.keyboard_home.setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Keys nobody wanted are the stage's: arrows move what is picked wherever it was picked."""
        if self.desk.sheet is not None or not self.session.is_open or not self.stage_input.key(event):
            super().keyPressEvent(event)

    def _opened(self) -> None:
        self._show_page()
        self.stage.setFocus()
        QTimer.singleShot(0, self.commands.scenes.picture_scenes)

    def _closed(self) -> None:
        self.status.say("")
        self._show_page()
        self._refresh()

    def _wait_for_model(self) -> None:
        waiting = self.documents.waiting
        self.welcome.wait_for(waiting.path.stem if waiting else None)
        self._show_page()
        self._refresh()

    def _show_page(self) -> None:
        if self.documents.busy:
            return
        if not self.documents.reading:
            self.overlay.say_reading(None)
        if not self.session.is_open:
            self.welcome.refresh()
        self.pages.setCurrentWidget(self._workspace if self.session.is_open else self.welcome)

    def _opening_started(self, name: str) -> None:
        self.opening.begin(name)
        self.pages.setCurrentWidget(self.opening)

    def _show_progress(self, share: float, doing: str) -> None:
        self.opening.show_progress(share, doing)
        self.overlay.say_reading(share if self.documents.reading else None)

    def _open_failed(self, text: str) -> None:
        self._show_page()
        self.tell(text, "This could not be opened")

    def offer_recovery(self) -> None:
        """Ask about work that was not saved when the program last ended, if there is any."""
        self.questions.offer_recovery()

    def tell(self, text: str, title: str = "This could not be done") -> None:
        """Say what went wrong."""
        self.questions.tell(text, title)

    def may_close(self) -> bool:
        """Ask what to do with unsaved work; False means stay."""
        return self.questions.may_close()

    def show_task(self, *_: object) -> None:
        """Let the actions show which of them is under way."""
        under_way = {task.name for task in (self.stage_input.task, self.key_plan.task) if task is not None}
        self.actions_.show_tasks(under_way)

    def show_panels(self) -> None:
        """Have the panels at the sides in sight."""
        if self._alone:
            self.toggle_alone()
        self._left.show()
        self._right.show()

    def show_own_look(self) -> None:
        """The part of the inspector that says how the picked parts look."""
        self.desk.close()
        self.show_panels()
        self.inspector.show_own_look()

    def _show_desk(self) -> None:
        """A sheet stands in the place of the stage, and its row beside the scenes; or neither."""
        on = self.desk.sheet is not None
        if on:
            self.film_desk.close()
            self.scene_page.leave()
            self.before_after.leave()
            self.stage_input.begin(None)
            self.session.pick()
            if self.places.grown is not None:
                self.places.swap(None)
        self.flat_place.keep_back(on)
        self.sheet_strip.setVisible(on)
        self.sheet_strip.refresh()
        self._refresh()

    def _show_film(self) -> None:
        """The shots of a film beside the scenes, or none."""
        on = self.film_desk.film is not None
        if on:
            self._leave_papers()
            self.before_after.leave()
            self.stage_input.begin(None)
        self._show_foot()
        self.film_strip.refresh()
        self._refresh()

    def _show_foot(self) -> None:
        """What shares the foot with the scenes: a film before the scout; nothing while something is tried on."""
        self.film_strip.setVisible(self.film_desk.film is not None and not self.property("suggesting"))
        self.setProperty("filming", self.film_desk.film is not None)
        self.scout.refresh()

    def _edit_block(self, block_id: str) -> None:
        """A double click: words are typed in the inspector, a scene comes on the stage."""
        sheet = self.desk.sheet
        block = None if sheet is None else sheet.block(block_id)
        if isinstance(block, TextBlock):
            self.show_panels()
            self.inspector.sheet.words.setFocus()
            self.inspector.sheet.words.selectAll()
        elif isinstance(block, SceneFrame) and self.session.project.scene(block.scene) is not None:
            self.desk.close()
            self.commands.scenes.recall(block.scene)

    # The window itself -----------------------------------------------------------------------------------------

    def toggle_alone(self) -> None:
        """The stage alone, or everything again."""
        self.places.swap(None)
        self._alone = not self._alone
        self.setProperty("alone", self._alone)
        for widget in (self._left, self._right, self._foot, self.header, self.status):
            widget.setVisible(not self._alone)
        self.flat_place.keep_back(self._alone)
        self.scout.refresh()
        self.overlay.bare = self._alone
        self.stage_input.refresh()

    def present(self, scenes: Sequence[str] = ()) -> None:
        """Show some scenes full screen, or all of them."""
        if self.presentation.is_on or not self.session.is_open or not self.session.project.scenes:
            return
        self._leave_papers()
        for tried in (self.suggester, self.look_round):
            tried.take_back()
        self.player.let_go()
        self.key_plan.begin(None)
        self.stage_input.begin(None)
        self.session.pick()
        self._before_presenting = self._alone, self.isFullScreen()
        if not self._alone:
            self.toggle_alone()
        self.overlay.captioned = False
        self.showFullScreen()
        self.presentation.begin(scenes)

    def _presented(self) -> None:
        """Have the window as it was."""
        alone, full_screen = self._before_presenting
        self.overlay.captioned = True
        if not full_screen:
            self.showNormal()
        if not alone and self._alone:
            self.toggle_alone()
        self.keyboard_home.setFocus()

    def _show_rounds(self) -> None:
        """What is tried on takes the foot while it is shown."""
        rounds = ((self.suggester, self.suggestions), (self.look_round, self.looks))
        for tried, strip in rounds:
            if tried.active and not strip.isVisible():
                strip.begin()
            strip.setVisible(tried.active)
        any_active = any(tried.active for tried, _ in rounds)
        self.scenes_at_foot.setVisible(not any_active)
        self.setProperty("suggesting", any_active)
        self._show_foot()

    def grow_plan(self) -> None:
        """The key plan and the stage change places."""
        self.show_panels()
        self.places.swap(self.key_plan_panel)

    def grow_elevation(self) -> None:
        """The key elevation and the stage change places."""
        self.show_panels()
        self.places.swap(self.key_elevation_panel)

    @property
    def flat_is_beside(self) -> bool:
        """Whether the flat drawing of the picked cut stands beside the stage."""
        return self.flat_place.place == "beside"

    def toggle_flat(self) -> None:
        """The picked cut flat beside the stage, or back among the key drawings."""
        self.places.swap(None)
        self.flat_place.toggle_beside()

    def toggle_panels(self) -> None:
        """Fold the panels to the edges or unfold them."""
        self.places.swap(None)
        visible = not self._left.isVisible()
        self._left.setVisible(visible)
        self._right.setVisible(visible)

    def toggle_scene_page(self) -> None:
        """All scenes as a page over the stage, or the stage again."""
        self._pull_scenes(not self.scene_page.isVisible())

    def leave_scene_page(self) -> None:
        """Have the stage in sight."""
        self.scene_page.leave()

    def _pull_scenes(self, up: bool) -> None:
        if not up:
            self.scene_page.leave()
        elif self.session.is_open:
            self._leave_papers()
            if self._alone:
                self.toggle_alone()
            if self.places.grown is not None:
                self.places.swap(None)
            self.stage_input.begin(None)
            self.session.pick()
            self.before_after.leave()
            self.scene_page.open()

    def open_before_after(self) -> None:
        """What has changed in the model, in the place of the stage."""
        self._leave_papers()
        if self.places.grown is not None:
            self.places.swap(None)
        self.stage_input.begin(None)
        self.before_after.open()

    def _leave_papers(self, *_: object) -> None:
        """Close what lies over the stage."""
        self.desk.close()
        self.scene_page.leave()

    @property
    def widget(self) -> QWidget:
        """What dialogs stand over."""
        return self

    @property
    def is_dark(self) -> bool:
        """Whether the dark theme is on."""
        return theme.current() is theme.DARK

    def set_dark(self, on: bool) -> None:
        theme.use(theme.DARK if on else theme.LIGHT)
        self._settings.setValue("dark", on)
        self.actions_.dress()
        for name, (_, _, icon, _) in MENUS.items():
            self.menu_buttons[name].setIcon(theme.icon(icon))
        self._refresh()
        self.parts.tree.viewport().update()
        self.inspector.refresh()
        self.update()

    def _say_anew(self) -> None:
        self.inspector.refresh()
        self._refresh()
        if self.session.is_open:
            self.key_plan_panel.fill()
            self.session.changed.emit()  # everything says its numbers anew
            self.session.said.emit("Feet and inches" if units.UNITS.feet else "Metric")

    def wants_dark(self) -> bool:
        return self._settings.value("dark", False, bool) is True

    def show_steps(self) -> None:
        """What was done, as a list one can jump in."""
        StepsDialog(self, self.session, self.step_pictures).show()

    def find_command(self) -> None:
        """Reach any command, setting, scene, look or part by a few letters."""
        Finder(self, self._findables).open()

    def show_settings(self) -> None:
        """The settings, on one page."""
        SettingsDialog(self, self.actions_, self.own_keys).open()

    def show_keys(self) -> None:
        """A list of every key."""
        KeysDialog(self, self.actions_).open()

    def step_back(self) -> None:
        """Escape, wherever the focus is."""
        if self.documents.busy:
            self.documents.cancel()
        elif self.presentation.is_on:
            self.curtain.step_back()
        elif self.scene_page.step_back() or self.before_after.step_back():
            return
        elif self.desk.sheet is not None:
            self.sheet_input.step_back()
        elif (
            self.key_plan.step_back()
            or self.key_elevation.step_back()
            or self.flat.step_back()
            or self.stage_input.step_back()
            or self.suggester.take_back()
            or self.look_round.take_back()
        ):
            return
        elif self.player.is_shown:
            self.player.let_go()
        elif self._alone:
            self.toggle_alone()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if paths:
            event.acceptProposedAction()
            footprints = self.session.is_open and paths[0].suffix.lower() in FOOTPRINT_SUFFIXES
            take = self.commands.site.ask_neighbours if footprints else self.commands.files.open_path
            QTimer.singleShot(0, lambda: take(paths[0]))

    def shut(self) -> None:
        """Let go of all that is open; who had to be asked was asked."""
        self.newer.close()
        self.journaling.stop()
        self.documents.close()
        self.session.close()
        self._settings.sync()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.may_close():
            self.shut()
            event.accept()
        else:
            event.ignore()

    def picture_of_window(self) -> QImage:
        """Return the window as it is on the screen."""
        return self.grab().toImage()
