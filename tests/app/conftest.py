"""A real window on the virtual screen."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtGui import QImage, QSurfaceFormat
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QSplitter, QWidget
from pytestqt.qtbot import QtBot
from shiboken6 import isValid

from anatome.app.base import theme, units
from anatome.app.base.work import RUNNING
from anatome.app.document.documents import Ready
from anatome.app.document.recent import settings_folder
from anatome.app.document.recutting import prepare_first, recut
from anatome.app.panels.inspector.page import Fold
from anatome.app.stage.stage import surface_format
from anatome.app.window.main_window import MainWindow
from anatome.cuts.dissection import Cutter
from anatome.look.look import Look
from anatome.model.crossings import crossings
from anatome.printing.kept_lines import KeptLines
from anatome.scenes.project import Project

QSurfaceFormat.setDefaultFormat(surface_format())

SIZE, LARGE = (960, 600), (1280, 800)
SAMPLES = (
    *("app.stage.stage.SAMPLES", "app.stage.ahead.SAMPLES", "app.key_drawings.key_drawing.SAMPLES", "app.trying.looks.SAMPLES"),
    *("app.panels.inspector.small_pictures.SAMPLES", "app.films.shot_pictures.SAMPLES", "app.dialogs.compare_looks.SAMPLES"),
    *("app.before_after.view.SAMPLES", "app.before_after.view.SEND_SAMPLES", "app.send_out.viewpoints.SAMPLES"),
    *("app.commands.scenes.THUMBNAIL_SAMPLES", "page.pictures.SAMPLES", "render.pictures.EXPORT_SAMPLES"),
)
"""Where it is said of how many samples pictures are made."""


class Hand:
    """A hand on mouse and keys, and an eye on the picture."""

    def __init__(self, qtbot: QtBot, window: MainWindow) -> None:
        self.qtbot, self.window, self.stage = qtbot, window, window.stage

    def settle(self) -> None:
        """Wait until the picture and the key plan are as fine as they get."""
        self.qtbot.waitUntil(
            lambda: self.stage.settled and self.window.key_plan.drawn and self.window.key_elevation.drawn, timeout=60_000
        )

    def press(self, key: Qt.Key, modifiers: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        if QApplication.activeWindow() is None:  # a program that ended late had the keyboard
            activate(self.window)
        QTest.keyClick(self.window.focusWidget() or self.stage, key, modifiers)

    def type_into(self, field: QLineEdit, text: str) -> None:
        """Type over what a field shows, and press Return."""
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)

    def click(
        self, widget: QWidget, x: float, y: float, modifiers=Qt.KeyboardModifier.NoModifier, button=Qt.MouseButton.LeftButton
    ) -> None:
        QTest.mouseClick(widget, button, modifiers, QPoint(round(x), round(y)))

    def hover(self, x: float, y: float) -> None:
        QTest.mouseMove(self.stage, QPoint(round(x), round(y)))
        self.qtbot.wait(30)

    def drag(
        self,
        widget: QWidget,
        start,
        end,
        button=Qt.MouseButton.LeftButton,
        release: bool = True,
        modifiers=Qt.KeyboardModifier.NoModifier,
    ) -> None:
        a, b = np.array(start, float), np.array(end, float)
        QTest.mousePress(widget, button, modifiers, QPoint(*map(round, a)))
        for t in np.linspace(0.15, 1.0, 7):
            QTest.mouseMove(widget, QPoint(*map(round, a + t * (b - a))))
            self.qtbot.wait(8)
        if release:
            QTest.mouseRelease(widget, button, modifiers, QPoint(*map(round, b)))

    def do(self, name: str) -> None:
        action = self.window.actions_[name]
        assert action.isEnabled(), name
        action.trigger()

    def send(self, dialog) -> None:
        """Press the button and wait until the file is written, or the dialog says why not."""
        dialog.go.click()

        def over() -> bool:
            return not isValid(dialog) or not dialog.isVisible() or (not dialog.busy and dialog.problem.isVisible())

        self.qtbot.waitUntil(over, timeout=60_000)

    def saved(self) -> None:
        """Wait until saving is over."""
        self.qtbot.waitUntil(lambda: not self.window.documents.is_saving, timeout=30_000)

    def pictured(self) -> None:
        """Wait until every scene has its small picture."""
        session = self.window.session
        self.qtbot.waitUntil(lambda: all(session.pictures.get(s) for s in session.project.scenes), timeout=60_000)

    def now(self) -> np.ndarray:
        """(h, w, 3) of the stage as it is at this moment."""
        return pixels(self.stage.grabFramebuffer())

    def whole(self) -> np.ndarray:
        """(h, w, 3) of all of the window as it is at this moment."""
        return pixels(self.window.picture_of_window())

    def picture(self) -> np.ndarray:
        """(h, w, 3) of the stage without what lies over it."""
        self.settle()
        return self.now()

    def screen(self) -> np.ndarray:
        """(h, w, 3) of the stage with its overlay, as on the screen."""
        self.settle()
        whole = pixels(self.window.picture_of_window())
        at = self.stage.mapTo(self.window, QPoint(0, 0))
        return whole[at.y() : at.y() + self.stage.height(), at.x() : at.x() + self.stage.width()]

    def place(self, x: float, y: float) -> None:
        """Start a section plane and click."""
        self.do("place")
        self.hover(x, y)
        self.click(self.stage, x, y)

    def point_on(self, metres) -> np.ndarray:
        """Where a point of the model is on the stage."""
        return self.stage.viewport.pixels(np.array(metres, float))


def pixels(image: QImage) -> np.ndarray:
    image = image.convertToFormat(QImage.Format.Format_RGB888)
    flat = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return flat[:, : 3 * image.width()].reshape(image.height(), image.width(), 3).copy()


@pytest.fixture(scope="session", autouse=True)
def as_tests_have_it(qapp, own_folders) -> Iterator[None]:
    """How windows look and how finely they draw, for all tests."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("anatome.app.document.lookups.PATIENCE", 20.0)  # what a test asks for next is there
        # Where lines lie and what is filled shows in one sample as well; finished pictures are judged in tests/render.
        for name in SAMPLES:
            patch.setattr(f"anatome.{name}", 1)
        # What a cut would slice is counted in tests/core; here it is enough to see it go up and down.
        patch.setattr("anatome.app.panels.scout_strip.POSITIONS", 80)
        # A hand rests before things are drawn finely; tests need not.
        patch.setattr("anatome.app.stage.stage.SETTLE", 25)
        patch.setattr("anatome.app.stage.stage.FADE", 1e-3)
        patch.setattr("anatome.app.key_drawings.key_drawing.REST", 30)
        # Small pictures of views are for those who wait for them.
        patch.setattr("anatome.app.panels.inspector.small_pictures.REST", 900)
        # Parts of a model that is still read are shown where a test wants that; on a slow machine any model takes long.
        patch.setenv("ANATOME_FIRST_PART", "1000")
        qapp.setStyle("Fusion")
        theme.install_font()
        theme.use(theme.LIGHT)
        yield


class OneWindow:
    """A window for all tests of a run, and the boathouse as it was opened in it. After each test it is put back to how it was:
    since a project is one frozen value, having it open again is handing that value over."""

    def __init__(self, qapp: QApplication) -> None:
        self._app = qapp
        self.window = new_window(SIZE)
        self._views = self.window.commands.view.used
        self._splits = [(split, split.sizes()) for split in self.window.findChildren(QSplitter)]
        self._demo: Ready | None = None
        self._in_order = False

    def hold(self) -> None:
        """From here on a test does with it what it likes."""
        if not self._in_order:
            self.put_back()
        activate(self.window)  # another one may have been there meanwhile
        self._in_order = False

    def demo(self) -> Ready:
        """The boathouse, with all scenes in one plain look, whose colours the tests know; what looks make of a picture is tested
        by itself."""
        if self._demo is None or not self._demo.model.path.exists():
            found: list[Ready] = []
            with pytest.MonkeyPatch.context() as patch:
                patch.setattr(self.window.documents, "show", found.append)
                self.window.commands.files.open_demo()
                wait_for(lambda: found)
            opened, (outside, *_) = found[0], (s for s in found[0].project.scenes if s.id == "outside")
            project = plain(opened.project)
            first = recut(Cutter(opened.building), outside.state)
            prepare_first(opened.building, project, first)
            crossings(opened.building)
            self._demo = replace(opened, project=project, first=first)
        return replace(self._demo, linework=KeptLines(self._demo.model.building, {}))

    def put_back(self) -> None:
        """All as it was at first, with the demo open."""
        window = self.window
        for other in self._app.topLevelWidgets():
            if other is not window and other.isVisible():
                other.close()
        window.documents.cancel()
        window.documents.leave_empty()
        wait_for(lambda: not window.documents.is_saving)
        window.suggester.end()
        window.look_round.end()
        window.desk.close()
        window.stage_input.begin(None)
        window.stage.lined.switch("")
        if window.property("alone"):
            window.toggle_alone()
        window.places.swap(None)
        window.flat_place.stand("away")
        window.flat.hold(None)
        window.show_panels()
        if window.is_dark:
            window.set_dark(False)
        window._settings.clear()
        for fold in window.inspector.findChildren(Fold):
            fold.button.setChecked(fold.open_at_first)
        window.commands.view.used = self._views
        units.UNITS.feet = units.UNITS.inch_papers = False
        (settings_folder() / "recent.json").unlink(missing_ok=True)
        window.resize(*SIZE)
        for split, sizes in self._splits:
            split.setSizes(sizes)
        window.documents.show(self.demo())
        window.pages.setCurrentWidget(window._workspace)
        activate(window)
        wait_for(lambda: not RUNNING)
        self._app.clipboard().clear()
        self._in_order = True


def wait_for(ready: Callable[[], object], seconds: float = 60.0) -> None:
    """Until something is so, with the window at work."""
    until = time.monotonic() + seconds
    while not ready():
        assert time.monotonic() < until, "The window did not get there."
        QApplication.processEvents()
        time.sleep(0.002)


def new_window(size: tuple[int, int]) -> MainWindow:
    window = MainWindow()
    window.may_close = lambda: True  # nobody is there to answer
    window.resize(*size)
    window.show()
    activate(window)
    return window


def activate(window: MainWindow) -> None:
    """Give a window the keyboard. The display ignores who asks with a time before that at which another program, now gone, was
    given it; so the window has its title set, whose answer tells it what time it is."""
    handle = window.windowHandle()

    def is_active() -> bool:
        if not window.isActiveWindow():
            title = handle.title()
            handle.setTitle(title + " ")
            handle.setTitle(title)
            window.activateWindow()
        return window.isActiveWindow()

    for _ in range(3):  # what another one did is told first
        QApplication.processEvents()
        time.sleep(0.005)
    wait_for(is_active, 20)


@pytest.fixture(scope="session")
def one_window(qapp, as_tests_have_it) -> Iterator[OneWindow]:
    one = OneWindow(qapp)
    yield one
    let_go(qapp, one.window)


def let_go(qapp: QApplication, window: MainWindow) -> None:
    window.documents.close()
    window.session.close()
    wait_for(lambda: not RUNNING)
    window.hide()
    window.deleteLater()
    # Now, and not whenever Python comes round to it: it takes an OpenGL context with it.
    qapp.sendPostedEvents(window, QEvent.Type.DeferredDelete.value)


@pytest.fixture
def held(qtbot: QtBot, one_window: OneWindow) -> Iterator[Hand]:
    """The window with the demo open, as it comes."""
    one_window.hold()
    yield Hand(qtbot, one_window.window)
    one_window.put_back()


@pytest.fixture
def empty(held: Hand) -> Hand:
    """The window with nothing open."""
    held.window.session.close()
    return held


@pytest.fixture
def fresh(qtbot: QtBot, qapp, tmp_path_factory, monkeypatch: pytest.MonkeyPatch) -> Iterator[Hand]:
    """A window of its own, as it first comes up, with settings of its own."""
    monkeypatch.setenv("ANATOME_SETTINGS", str(tmp_path_factory.mktemp("settings")))
    window = new_window(LARGE)
    yield Hand(qtbot, window)
    let_go(qapp, window)


def plain(project: Project) -> Project:
    """All scenes, and the stage, as modelled."""

    def dressed(state):
        return state.model_copy(update={"look": Look(surfaces="as modelled", shade=False), "overrides": ()})

    scenes = tuple(s.model_copy(update={"state": dressed(s.state)}) for s in project.scenes)
    return project.model_copy(update={"scenes": scenes, "stage": dressed(project.stage), "scene_as_shown": None})


@pytest.fixture
def hand(held: Hand) -> Hand:
    """The window with the demo open on its first scene. Whoever looks at pictures waits for them: :meth:`Hand.settle`."""
    held.window.contact_sheet.recall("outside")
    return held


@pytest.fixture
def large(hand: Hand) -> Hand:
    """The same in a window as large as it first comes up, settled: for what is told by pixels."""
    hand.window.resize(*LARGE)
    hand.window.places._middle.setSizes([280, 740, 260])
    hand.qtbot.waitUntil(lambda: hand.stage.height() > 500)
    for drawing in (hand.window.key_plan, hand.window.key_elevation):
        drawing.fit()
    hand.settle()
    return hand


@pytest.fixture
def wait_open(empty: Hand) -> Callable[[Path], None]:
    def open_and_wait(path: Path) -> None:
        empty.window.commands.files.open_path(path)
        empty.qtbot.waitUntil(lambda: not empty.window.documents.busy, timeout=60_000)

    return open_and_wait
