"""A walk through the window with a building, measuring the longest time in which it did not answer."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from anatome.app.send_out.dialog import SendOut
from anatome.app.send_out.pictures import PictureDialog
from anatome.app.window.main_window import MainWindow
from anatome.cuts.plane import Plane
from anatome.scenes import edits

NONE = Qt.KeyboardModifier.NoModifier


class Watchdog(QObject):
    """Notes how late a timer comes that should come at once: so long nothing else could have been served either."""

    def __init__(self) -> None:
        super().__init__()
        self.holds: dict[str, float] = {}
        self.phase = "start"
        self._last = time.perf_counter()
        self._timer = QTimer(self, interval=0)
        self._timer.timeout.connect(self._beat)
        self._timer.start()

    def _beat(self) -> None:
        now = time.perf_counter()
        self.holds[self.phase] = max(self.holds.get(self.phase, 0.0), now - self._last)
        self._last = now

    def now(self, phase: str) -> None:
        """What comes next is called so."""
        self.phase = phase
        self._last = time.perf_counter()

    @property
    def longest(self) -> tuple[str, float]:
        """The longest hold, and when it was."""
        return max(self.holds.items(), key=lambda hold: hold[1])


class Journey:
    """Opens a model or the demo (None), looks round, cuts, hides, searches, keeps a scene, saves, sends out, closes."""

    def __init__(self, window: MainWindow, model: Path | None, folder: Path) -> None:
        self.window, self.model, self.folder = window, model, folder
        self.watchdog = Watchdog()
        self.times: dict[str, float] = {}

    def wait(self, ready: Callable[[], object], most: float = 240.0) -> None:
        until = time.perf_counter() + most
        while not ready():
            QApplication.processEvents()
            if time.perf_counter() > until:
                raise TimeoutError(self.watchdog.phase)

    def rest(self, seconds: float) -> None:
        until = time.perf_counter() + seconds
        self.wait(lambda: time.perf_counter() > until)

    def drag(self, start: tuple[float, float], by: tuple[float, float], steps: int = 8) -> None:
        stage = self.window.stage
        a, b = np.array(start), np.array(start) + by
        QTest.mousePress(stage, Qt.MouseButton.LeftButton, NONE, QPoint(*map(round, a)))
        for i in range(1, steps + 1):
            QTest.mouseMove(stage, QPoint(*map(round, a + (b - a) * i / steps)))
            self.rest(0.05)
        QTest.mouseRelease(stage, Qt.MouseButton.LeftButton, NONE, QPoint(*map(round, b)))
        self.rest(0.05)

    def run(self) -> None:
        """The whole walk."""
        window, session, stage, dog = self.window, self.window.session, self.window.stage, self.watchdog
        self.rest(0.5)
        began = time.perf_counter()
        dog.now("open")
        if self.model is None:
            window.documents.open_demo()
        else:
            window.documents.open(self.model)
        self.wait(lambda: session.is_open and not window.documents.busy)
        self.times["open"] = time.perf_counter() - began
        self.wait(lambda: stage.shows_something)
        self.times["first picture"] = time.perf_counter() - began
        dog.now("refine")
        self.wait(lambda: stage.settled and window.key_plan.drawn and window.key_elevation.drawn)
        self.times["settled"] = time.perf_counter() - began
        dog.now("turn the view")
        self.drag((300, 300), (120, 30))
        dog.now("pick and hide")
        QTest.mouseClick(stage, Qt.MouseButton.LeftButton, NONE, stage.rect().center() + QPoint(0, 40))
        self.rest(0.5)
        if session.picked.elements:
            window.actions_["hide"].trigger()
        self.rest(0.5)
        dog.now("cut")
        assert session.building is not None
        middle = session.building.bounds.mean(axis=0)
        plane = Plane((float(middle[0]), float(middle[1]), float(middle[2])), (0.0, -1.0, 0.0))
        session.apply(edits.add_plane(session.project, plane, "watched"), "Placed a cut")
        session.pick(cut="watched")
        self.rest(1.0)
        self.wait(lambda: session.is_cut)
        dog.now("drag the cut")
        handles = window.overlay.handles
        if handles is not None:
            self.drag(tuple(handles.tip), (60, 60))
        dog.now("scout")
        self.wait(lambda: window.scout.up_to_date)
        self.rest(0.5)
        dog.now("box and undo")
        window.actions_["box_shown"].trigger()
        self.rest(1.0)
        window.actions_["undo"].trigger()
        self.rest(0.5)
        dog.now("keep a scene")
        window.actions_["save_scene"].trigger()
        self.wait(lambda: all(session.pictures.get(scene) for scene in session.project.scenes))
        dog.now("search and isolate")
        window.parts.search.setText("wall 3")
        self.rest(0.5)
        window.parts.search.setText("")
        self.rest(0.3)
        window.parts.tree.setCurrentIndex(window.parts.model.index(0, 0))
        window.actions_["isolate"].trigger()
        self.rest(0.7)
        window.actions_["show_all"].trigger()
        self.rest(0.7)
        dog.now("save")
        window.documents.save(self.folder / "watched.anatome")
        self.wait(lambda: not window.documents.is_saving)
        dog.now("send out")
        window.commands.send_out.picture()
        dialog = next(w for w in QApplication.topLevelWidgets() if isinstance(w, PictureDialog))
        dialog.width_px.setValue(1600)
        target = self.folder / "watched.png"
        dialog.path.setText(str(target))
        self._press(dialog)
        self.wait(target.exists)
        self.rest(0.3)
        dog.now("close")
        window.commands.files.close_project()
        self.rest(0.3)

    @staticmethod
    def _press(dialog: SendOut) -> None:
        dialog.go.click()
