"""The main window: header, panels, stage and contact sheet, and every action."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QEventLoop, QPoint, QPointF, QSettings, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QImage
from PySide6.QtWidgets import (
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QMessageBox,
    QProgressDialog,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from anatome.app import theme
from anatome.app.actions import Actions, header_button
from anatome.app.background import Task
from anatome.app.cutting import Cutting
from anatome.app.documents import Documents
from anatome.app.finder import CommandFinder
from anatome.app.key_drawings.kinds import KeyElevation, KeyElevationPanel, KeyPlan, KeyPlanPanel
from anatome.app.keys import KeysDialog
from anatome.app.open_options import ask_options
from anatome.app.panels.contact_sheet import ContactSheet
from anatome.app.panels.inspector import Inspector
from anatome.app.panels.opening import OpeningPage
from anatome.app.panels.parts import Parts
from anatome.app.panels.scout_strip import ScoutStrip
from anatome.app.panels.welcome import Welcome
from anatome.app.recent import Recent, settings_folder
from anatome.app.recutting import state_key
from anatome.app.send_out.drawings import DrawingDialog, SeriesDialog
from anatome.app.send_out.models import ModelDialog
from anatome.app.send_out.pictures import PictureDialog
from anatome.app.session import Session
from anatome.app.stage.hands import Hands
from anatome.app.stage.overlay import Overlay
from anatome.app.stage.stage import Stage
from anatome.app.trouble import TROUBLE, TroubleDialog
from anatome.app.window_actions import MENUS, TASKS, entries
from anatome.cuts.dissection import Cutter
from anatome.formats.png import png_bytes
from anatome.model.options import MESH_SUFFIXES, MODEL_SUFFIXES
from anatome.render.pictures import view_of
from anatome.render.renderer import View
from anatome.scenes import edits
from anatome.scenes.edits import new_id
from anatome.scenes.project import Scene, StageState
from anatome.scenes.storage import SUFFIX

THUMBNAIL = 360


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
        column.addWidget(row, 1 if isinstance(row, QSplitter | QStackedWidget) else 0)
    return whole


class MainWindow(QMainWindow):
    """Holds the parts together; what they do is in their own modules."""

    def __init__(self) -> None:
        super().__init__()
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.setMinimumSize(960, 600)
        self._settings = QSettings(str(settings_folder() / "window.ini"), QSettings.Format.IniFormat)
        self.session = Session()
        self.recent = Recent()
        self.documents = Documents(self.session, self.recent)
        self.stage = Stage(self.session)
        self.overlay = Overlay(self.session, self.stage)
        self.hands = Hands(self.session, self.stage, self.overlay)
        self.cutting = Cutting(self)
        self.actions_ = Actions(self, entries(self))
        self.key_plan = KeyPlan(self.session, self.stage)
        self.key_plan_panel = KeyPlanPanel(self.session, self.key_plan)
        self.key_elevation = KeyElevation(self.session, self.stage)
        self.key_elevation_panel = KeyElevationPanel(self.key_elevation)
        self.scout = ScoutStrip(self.session)
        self.parts = Parts(self.session)
        self.inspector = Inspector(self.session, self.stage, self.actions_)
        self.contact_sheet = ContactSheet(self.session, self.stage)
        self.welcome = Welcome(self.recent)
        self.opening = OpeningPage()
        self._alone = False
        self._being_pictured: list[StageState] = []
        self._build()
        self._connect()
        self._refresh()

    # Building the window ---------------------------------------------------------------------------------------

    def _build(self) -> None:
        self.header = self._build_header()
        panels = QSplitter(Qt.Orientation.Vertical)
        for panel in (self.key_plan_panel, self.key_elevation_panel, self.parts):
            panels.addWidget(panel)
        panels.setSizes([240, 165, 210])
        panels.setHandleWidth(1)
        self._left = _framed("left", panels)
        self._left.setMinimumWidth(200)
        self._right = _framed("right", self.inspector)
        self._right.setMinimumWidth(220)
        # The scout shares the foot with the scenes, so that the stage keeps its size when a cut is picked.
        foot = QWidget()
        row = QHBoxLayout(foot)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.contact_sheet, 2)
        row.addWidget(self.scout, 5)
        self.scout.setFixedHeight(self.contact_sheet.height())
        self._foot = _framed("foot", foot, (12, 2, 12, 0))
        middle = QSplitter(Qt.Orientation.Horizontal)
        middle.setHandleWidth(1)
        for widget in (self._left, self.stage, self._right):
            middle.addWidget(widget)
        middle.setStretchFactor(1, 1)
        middle.setSizes([280, 740, 260])
        self._workspace = _stacked(middle, self._foot)

        self.pages = QStackedWidget()
        for page in (self.welcome, self.opening, self._workspace):
            self.pages.addWidget(page)
        self.status = QLabel()
        self.status.setObjectName("status")
        self.status.setFixedHeight(26)
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
        bar.addSpacing(10)
        a = self.actions_
        for name in ("undo", "redo"):
            button = header_button(a[name])
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonIconOnly)
            bar.addWidget(button)
        bar.addStretch()
        for name, menu in MENUS.items():
            made = a.menu(self, menu)
            if name == "open":
                made.aboutToShow.connect(partial(self._fill_recent, made))
            bar.addWidget(header_button(a[f"{name}_menu"], made))
            if name == "look":
                bar.addWidget(header_button(a["save_scene"]))
        return header

    def _connect(self) -> None:
        s, d = self.session, self.documents
        s.opened.connect(self._opened)
        for signal in (s.changed, s.camera_moved, s.picked_changed, s.opened):
            signal.connect(self._refresh)
        s.said.connect(self.status.setText)
        d.started.connect(self._opening_started)
        d.progressed.connect(self.opening.show_progress)
        d.finished.connect(self._show_page)
        d.failed.connect(self._open_failed)
        d.save_failed.connect(lambda text: self.tell(text, "This could not be saved"))
        s.failed.connect(TROUBLE.report)
        TROUBLE.told.connect(self.show_trouble)
        self.opening.cancelled.connect(d.cancel)
        self.welcome.open_model.connect(self.choose_model)
        self.welcome.open_project.connect(self.choose_project)
        self.welcome.open_demo.connect(self.open_demo)
        self.welcome.open_recent.connect(lambda path: self.open_path(Path(path)))
        self.hands.task_changed.connect(self.show_task)
        self.key_plan.task_ended.connect(self.show_task)
        s.changed.connect(self.cutting.show_reach)
        self.hands.menu_wanted.connect(self._stage_menu)
        self.contact_sheet.menu_wanted.connect(self._scene_menu)
        self.stage.ready.connect(lambda: QTimer.singleShot(0, self._picture_scenes))

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
        self.open_path(path)

    # State -----------------------------------------------------------------------------------------------------

    def _refresh(self) -> None:
        s = self.session
        present = {"nothing"}
        if s.is_open:
            present |= {"project"}
            present |= {"cut"} if s.cut else set()
            present |= {"series"} if s.stage.series else set()
            present |= {"cut or series"} if s.cut or s.series else set()
            present |= {"scene"} if s.scene else set()
            present |= {"elements"} if s.picked_elements else set()
            present |= {"active"} if s.stage.active_cuts or s.stage.series else set()
            present |= {"hidden"} if s.stage.hidden else set()
            present |= {"undo"} if s.history.undo_label else set()
            present |= {"redo"} if s.history.redo_label else set()
            present |= {"changed"} if s.project.differs_from_scene else set()
            undo, redo = s.history.undo_label, s.history.redo_label
            self.actions_["undo"].setText(f"Undo: {undo}" if undo else "Undo")
            self.actions_["redo"].setText(f"Redo: {redo}" if redo else "Redo")
            name = s.project_path.stem if s.project_path else s.project.name
            self.title.setText(name + (" •" if s.unsaved or s.project_path is None else ""))
            self.title.setToolTip("Not saved yet" if s.unsaved or s.project_path is None else str(s.project_path))
            self.setWindowTitle(f"{name}[*] – Anatome")
            self.setWindowModified(s.unsaved)
            self._show_ticks()
            perspective = s.stage.camera.is_perspective
            self.actions_["projection"].setText("Parallel projection" if perspective else "Perspective")
        else:
            self.setWindowTitle("Anatome")
            self.title.setText("Anatome")
            self.title.setToolTip("")
        self.actions_.enable(present)

    def _show_ticks(self) -> None:
        """Let the on/off commands show how things are."""
        s = self.session
        ticks = {"embed": s.project.model.embedded}
        ticks |= {f"look_{key}": getattr(s.stage.look, key) for key in ("edges", "shade", "ground", "colours")}
        ticks |= {f"cut_{key}": bool(s.cut and getattr(s.cut, key)) for key in ("on", "poche", "graphic", "locked")}
        for name, on in ticks.items():
            action = self.actions_[name]
            action.blockSignals(True)
            action.setChecked(on)
            action.blockSignals(False)

    def _opened(self) -> None:
        self._show_page()
        self.stage.setFocus()
        QTimer.singleShot(0, self._picture_scenes)

    def _show_page(self) -> None:
        if self.documents.busy:
            return
        if not self.session.is_open:
            self.welcome.refresh()
        self.pages.setCurrentWidget(self._workspace if self.session.is_open else self.welcome)

    # Opening and saving ----------------------------------------------------------------------------------------

    def _opening_started(self, name: str) -> None:
        self.opening.begin(name)
        self.pages.setCurrentWidget(self.opening)

    def _open_failed(self, text: str) -> None:
        self._show_page()
        self.tell(text, "This could not be opened")

    def tell(self, text: str, title: str = "This could not be done") -> None:
        """Say what went wrong."""
        box = QMessageBox(QMessageBox.Icon.NoIcon, title, text, QMessageBox.StandardButton.Ok, self)
        box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        box.open()
        self.status.setText(text)

    def show_trouble(self, what: str, details: str) -> None:
        """Tell of an error nobody expected."""
        TroubleDialog(self, what, details, self.session.is_open).open()
        self.status.setText(what)

    def may_close(self) -> bool:
        """Ask what to do with unsaved work; False means stay."""
        if not self.session.unsaved:
            return True
        box = QMessageBox(
            QMessageBox.Icon.NoIcon, "Unsaved work", f"“{self.session.project.name}” has changes that are not saved.", parent=self
        )
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        box.addButton("Leave without saving", QMessageBox.ButtonRole.DestructiveRole)
        stay = box.addButton("Go on working", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        clicked = box.clickedButton()
        box.deleteLater()
        if clicked is stay:
            return False
        return self.save() and self.wait_saved() if clicked is save else True

    def wait_saved(self) -> bool:
        """Wait, with a word about it, until the project is written; False when it could not be."""
        if not self.documents.is_saving:
            return not self.session.unsaved
        waiting = QProgressDialog("Saving the project", "", 0, 0, self)
        waiting.setCancelButton(None)
        waiting.setWindowModality(Qt.WindowModality.WindowModal)
        loop = QEventLoop(self)
        self.documents.saving.connect(loop.quit)
        waiting.show()
        loop.exec()
        waiting.close()
        waiting.deleteLater()
        loop.deleteLater()
        return not self.session.unsaved

    def open_path(self, path: Path) -> None:
        """Open a model or a project, asking about unsaved work and, for mesh files, about axis and unit."""
        if not self.may_close():
            return
        options = None
        if path.suffix.lower() in MESH_SUFFIXES and path.is_file():
            options = ask_options(self, path)
            if options is None:
                return
        self.documents.open(path, options)

    def open_demo(self) -> None:
        if self.may_close():
            self.documents.open_demo()

    def choose_model(self) -> None:
        kinds = " ".join(f"*{s}" for s in MODEL_SUFFIXES)
        self._choose("Open a model", f"Models ({kinds})")

    def choose_project(self) -> None:
        self._choose("Open a project", f"Projects (*{SUFFIX})")

    def _choose(self, title: str, kinds: str) -> None:
        name, _ = QFileDialog.getOpenFileName(self, title, str(self._folder()), kinds)
        if name:
            self.open_path(Path(name))

    def _folder(self) -> Path:
        path = self.session.project_path
        return path.parent if path else Path.home()

    def close_project(self) -> None:
        """Back to the beginning, with nothing open but the ways in."""
        if self.may_close():
            self.session.close()
            self.status.clear()
            self._show_page()
            self._refresh()

    def save(self) -> bool:
        """Save to where the project lies; ask where if nowhere. False when it was not even begun."""
        path = self.session.project_path
        if path is None:
            return self.save_as()
        if self.documents.changed_by_others(path) and not self._may_overwrite(path):
            return False
        return self._save(path)

    def _may_overwrite(self, path: Path) -> bool:
        """Ask about a project file that somebody else wrote meanwhile."""
        box = QMessageBox(
            QMessageBox.Icon.NoIcon,
            "Changed meanwhile",
            f"“{path.name}” was changed or removed by somebody else since you opened or saved it. "
            "Saving replaces what is there now.",
            parent=self,
        )
        other = box.addButton("Save under another name", QMessageBox.ButtonRole.AcceptRole)
        replace = box.addButton("Replace it", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Go on working", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        clicked = box.clickedButton()
        box.deleteLater()
        if clicked is other:
            self.save_as()
        return clicked is replace

    def save_as(self) -> bool:
        suggestion = self._folder() / f"{self.session.project.name}{SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(self, "Save the project", str(suggestion), f"Projects (*{SUFFIX})")
        return bool(name) and self._save(Path(name))

    def _save(self, path: Path) -> bool:
        self.documents.save(path)
        return True

    def set_embed(self, on: bool) -> None:
        """Choose whether the model travels inside the project file from the next saving on."""
        s = self.session
        if s.is_open:
            s.apply(edits.set_embedded(s.project, on), "The model goes inside" if on else "The model stays outside")

    # Cuts and framing ------------------------------------------------------------------------------------------

    def show_task(self, *_: object) -> None:
        """Let the actions show which of them is under way."""
        under_way = {task.name for task in (self.hands.task, self.key_plan.task) if task is not None}
        for task in TASKS:
            action = self.actions_[task]
            action.blockSignals(True)
            action.setChecked(task in under_way)
            action.blockSignals(False)

    def show_panels(self) -> None:
        """Have the panels at the sides in sight."""
        if self._alone:
            self.toggle_alone()
        self._left.show()
        self._right.show()

    def fit(self) -> None:
        s = self.session
        if s.building is not None:
            picked = s.picked_mask()
            bounds = s.building.bounds_of(picked) if picked is not None else s.subject_bounds()
            s.look_from(s.stage.camera.fitted(bounds, self.stage.aspect))

    def look_from(self, name: str) -> None:
        self.inspector.overview.look_from(name)

    def toggle_projection(self) -> None:
        s = self.session
        other = "parallel" if s.stage.camera.is_perspective else "perspective"
        s.look_from(edits.set_projection(s.project, other).stage.camera)  # type: ignore[arg-type]

    def switch_look(self, key: str) -> None:
        look = self.session.stage.look
        changed = look.model_copy(update={key: not getattr(look, key)})
        self.session.apply(
            edits.set_look(self.session.project, changed), f"{key.capitalize()} {'on' if getattr(changed, key) else 'off'}"
        )

    # Parts -----------------------------------------------------------------------------------------------------

    def set_aside(self) -> None:
        s = self.session
        picked = s.picked_elements
        s.apply(edits.hide(s.project, picked), f"Set aside {len(picked)} part{'s' * (len(picked) != 1)}")
        s.pick_elements(frozenset())

    def isolate(self) -> None:
        s = self.session
        if s.building is not None:
            everything = (e.id for e in s.building.elements)
            s.apply(edits.isolate(s.project, s.picked_elements, everything), "Showing only what is picked")

    def bring_back(self) -> None:
        self.session.apply(edits.show_all(self.session.project), "Brought everything back")

    # Scenes ----------------------------------------------------------------------------------------------------

    def save_scene(self) -> None:
        s = self.session
        project = edits.save_scene(s.project, new_id(), self.stage.viewport.frame)
        s.apply(project, f"Saved {project.scenes[-1].name}. Double-click its name to change it")
        self._picture_scenes()

    def _picture_scenes(self) -> None:
        """Scenes without a picture get one, when there is time."""
        s = self.session
        if not s.is_open or s.building is None:
            return
        for scene in s.project.scenes:
            if s.pictures.get(scene) is None and scene.state not in self._being_pictured:
                self._being_pictured.append(scene.state)
                self._picture_scene(scene)

    def _picture_scene(self, scene: Scene) -> None:
        s, building = self.session, self.session.building
        assert building is not None
        size = THUMBNAIL, max(round(THUMBNAIL / scene.aspect), 1)

        def keep(pixels: NDArray[np.uint8]) -> None:
            self._being_pictured.remove(scene.state)
            if s.building is building:
                s.pictures.put(scene, png_bytes(pixels))
                s.thumbnails_changed.emit()

        def failed(error: Exception) -> None:
            self._being_pictured.remove(scene.state)
            TROUBLE.report(error)

        def draw(view: View) -> None:
            if s.building is not building or self.stage.picture(view, size, "paper", keep, failed, 6) is None:
                self._being_pictured.remove(scene.state)

        if state_key(scene.state) == state_key(s.stage) and s.is_cut:
            draw(View(scene.state.camera, s.cut_open(), scene.state.look, None, scene.frame))
        else:
            Task(lambda told: view_of(Cutter(building), scene), draw, failed, self)

    def replace_scene(self, scene_id: str | None = None) -> None:
        s = self.session
        scene = s.project.scene(scene_id) if scene_id else s.scene
        if scene is not None:
            project = edits.replace_scene(s.project, scene.id, self.stage.viewport.frame)
            s.apply(project, f"{scene.name} now shows this")
            self._picture_scenes()

    def return_to_scene(self) -> None:
        scene = self.session.scene
        if scene is not None:
            self.contact_sheet.recall(scene.id)

    def recall_number(self, number: int) -> None:
        scenes = self.session.project.scenes
        if number < len(scenes):
            self.contact_sheet.recall(scenes[number].id)

    def step_scene(self, by: int) -> None:
        """The next or the previous scene."""
        scenes = self.session.project.scenes
        if scenes:
            ids = [s.id for s in scenes]
            current = self.session.project.current_scene
            place = ids.index(current) + by if current in ids else (0 if by > 0 else len(ids) - 1)
            self.contact_sheet.recall(ids[min(max(place, 0), len(ids) - 1)])

    def duplicate_scene(self, scene_id: str) -> None:
        s = self.session
        s.apply(edits.duplicate_scene(s.project, scene_id, new_id()), "Duplicated the scene")

    def delete_scene(self, scene_id: str) -> None:
        scene = self.session.project.scene(scene_id)
        if scene is not None:
            self.session.apply(edits.delete_scene(self.session.project, scene_id), f"Deleted {scene.name}")

    def _scene_menu(self, scene_id: str, at: QPoint) -> None:
        menu = QMenu(self)
        menu.addAction("Recall", lambda: self.contact_sheet.recall(scene_id))
        menu.addAction(theme.icon("arrows-clockwise"), "Replace by what the stage shows", lambda: self.replace_scene(scene_id))
        menu.addAction(
            theme.icon("pencil-simple"), "Rename", lambda: self.contact_sheet.editItem(self.contact_sheet.currentItem())
        )
        menu.addAction(theme.icon("copy"), "Duplicate", lambda: self.duplicate_scene(scene_id))
        menu.addSeparator()
        menu.addAction(theme.icon("trash"), "Delete", lambda: self.delete_scene(scene_id))
        menu.popup(at)

    # Sending out -----------------------------------------------------------------------------------------------

    def send_picture(self) -> None:
        PictureDialog(self, self.session, self.stage, self._folder()).open()

    def send_drawing(self) -> None:
        DrawingDialog(self, self.session, self._folder()).open()

    def send_series(self) -> None:
        SeriesDialog(self, self.session, self._folder()).open()

    def send_model(self) -> None:
        ModelDialog(self, self.session, self._folder()).open()

    # The window itself -----------------------------------------------------------------------------------------

    def toggle_alone(self) -> None:
        """The stage alone, or everything again."""
        self._alone = not self._alone
        self.setProperty("alone", self._alone)
        for widget in (self._left, self._right, self._foot, self.header, self.status):
            widget.setVisible(not self._alone)
        self.scout.refresh()
        self.overlay.bare = self._alone
        self.hands.refresh()

    def toggle_panels(self) -> None:
        """Fold the panels to the edges or unfold them."""
        visible = not self._left.isVisible()
        self._left.setVisible(visible)
        self._right.setVisible(visible)

    def set_dark(self, on: bool) -> None:
        theme.use(theme.DARK if on else theme.LIGHT)
        self._settings.setValue("dark", on)
        self.actions_.dress()
        self.parts.tree.viewport().update()
        self.inspector.refresh()
        self.update()

    def wants_dark(self) -> bool:
        return self._settings.value("dark", False, bool) is True

    def find_command(self) -> None:
        """Reach any command by a few letters."""
        CommandFinder(self, self.actions_).open()

    def show_keys(self) -> None:
        """A list of every key."""
        KeysDialog(self, self.actions_).open()

    def _stage_menu(self, at: QPointF) -> None:
        names = ["set_aside", "isolate", "bring_back", "", "place", "plane_along", "box_picked", "peel", "", "fit"]
        self.actions_.menu(self, names).popup(at.toPoint())

    def step_back(self) -> None:
        """Escape, wherever the focus is."""
        if self.documents.busy:
            self.documents.cancel()
        elif not (self.key_plan.step_back() or self.key_elevation.step_back() or self.hands.step_back()) and self._alone:
            self.toggle_alone()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if paths:
            event.acceptProposedAction()
            QTimer.singleShot(0, lambda: self.open_path(paths[0]))

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.may_close():
            self.documents.close()
            event.accept()
        else:
            event.ignore()

    def picture_of_window(self) -> QImage:
        """The window as it is on the screen."""
        return self.grab().toImage()
