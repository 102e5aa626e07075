"""A seeded random walk through the window: does what people do, in any order, and looks after each step that nothing broke.

``python -m benchmarks.walk [ACTIONS [SEED]]`` under a screen; the tests take some hundred steps of it.
"""

from __future__ import annotations

import os
import random
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QEvent, QEventLoop
from PySide6.QtWidgets import QApplication

from anatome.app.window.main_window import MainWindow
from anatome.cuts.plane import Plane
from anatome.look.shipped import shipped_looks
from anatome.model.building import Building
from anatome.notes.anchors import anchored
from anatome.notes.note import Label
from anatome.scenes import edits
from anatome.scenes.note_edits import put_notes
from anatome.scenes.project import Project

MOMENT = 5
"""Milliseconds after which no further event is begun: there may be no end of them."""
PAUSE = 0.012
"""Seconds between two actions, in which the window works."""


def megabytes() -> float:
    """What of the memory of this process is in use."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * 4096 / 1e6


class Walk:
    """Actions on a window with a project open. ``holds`` are the seconds each action kept the window from answering, by its name;
    ``memory`` what was in use after each."""

    def __init__(self, window: MainWindow, seed: int, folder: Path) -> None:
        self.window, self.session, self._folder = window, window.session, folder
        self._rng = random.Random(seed)
        self.holds: dict[str, float] = {}
        self.memory: list[float] = []
        self.done: list[str] = []

    def run(self, count: int) -> None:
        """Take so many actions."""
        names = list(self._actions())
        for _ in range(count):
            name = self._rng.choice(names)
            began = time.perf_counter()
            self._actions()[name]()
            held = time.perf_counter() - began
            self.spin(PAUSE, name, held)
            self.done.append(name)
            self.memory.append(megabytes())

    def spin(self, seconds: float, name: str, held: float = 0.0) -> None:
        """Let the window do what there is to do; what takes long counts for the action before."""
        until = time.perf_counter() + seconds
        while True:
            began = time.perf_counter()
            QApplication.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, MOMENT)
            QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)  # which a loop of its own would do
            held = max(held, time.perf_counter() - began)
            if time.perf_counter() >= until:
                break
            time.sleep(0.001)
        self.holds[name] = max(self.holds.get(name, 0.0), held)

    def settle(self) -> None:
        """Until the window has nothing more to do."""
        until = time.monotonic() + 60
        while not (self.window.stage.settled and self.window.key_plan.drawn) and time.monotonic() < until:
            self.spin(0.02, "settling")

    # What is done ----------------------------------------------------------------------------------------------

    def _actions(self) -> dict[str, Callable[[], object]]:
        return {
            "recall": self._recall,
            "look from": self._look_from,
            "cut": self._cut,
            "move a cut": self._move_cut,
            "pick a cut": self._pick_cut,
            "box": lambda: self._do("box_shown"),
            "delete a cut": lambda: self._do("delete_cut"),
            "hide": self._hide,
            "show all": lambda: self._do("show_all"),
            "look": self._look,
            "save scene": self._save_scene,
            "delete a scene": self._delete_scene,
            "undo": self.session.undo,
            "redo": self.session.redo,
            "note": self._note,
            "sheet": self._sheet,
            "pick parts": self._pick_parts,
            "save": self._save,
            "theme": lambda: self.window.set_dark(not self.window.is_dark),
            "resize": lambda: self.window.resize(self._rng.randint(960, 1200), self._rng.randint(600, 760)),
            "escape": self.window.step_back,
        }

    @property
    def _building(self) -> Building:
        assert self.session.building is not None
        return self.session.building

    def _do(self, name: str) -> None:
        if self.window.actions_[name].isEnabled():
            self.window.actions_[name].trigger()

    def _cut(self) -> None:
        if len(self.session.stage.cuts) >= 5:
            return
        middle = self.session.subject_bounds().mean(axis=0)
        x, y, z = (float(v) + self._rng.uniform(-2, 2) for v in middle)
        normal = self._rng.choice([(1.0, 0.0, 0.0), (0.0, -1.0, 0.0), (0.0, 0.0, 1.0)])
        cut = edits.new_id()
        self.session.apply(edits.add_plane(self.session.project, Plane((x, y, z), normal), cut), "Cut")
        self.session.pick(cut=cut)

    def _recall(self) -> None:
        scenes = self.session.project.scenes
        if scenes:
            self.window.commands.scenes.recall(self._rng.choice(scenes).id)

    def _look_from(self) -> None:
        camera = self.session.stage.camera
        self.session.look_from(camera.orbited(self._rng.uniform(-40, 40), self._rng.uniform(-15, 15)))

    def _pick_cut(self) -> None:
        cuts = self.session.stage.cuts
        if cuts:
            self.session.pick(cut=self._rng.choice(cuts).id)

    def _move_cut(self) -> None:
        cut = self.session.cut
        if cut is not None and not cut.locked:
            moved = cut.moved(cut.axis.n * self._rng.uniform(-0.5, 0.5))
            self.session.apply(edits.put_cut(self.session.project, moved), "Moved", merge="walk")

    def _hide(self) -> None:
        elements = self._building.elements
        ids = {self._rng.choice(elements).id for _ in range(3)}
        self.session.apply(edits.hide(self.session.project, ids), "Hidden")

    def _look(self) -> None:
        look = self._rng.choice(list(shipped_looks().values()))
        self.session.apply(edits.set_look(self.session.project, look), "Look")

    def _save_scene(self) -> None:
        if len(self.session.project.scenes) < 24:
            self._do("save_scene")

    def _delete_scene(self) -> None:
        scenes = self.session.project.scenes
        if len(scenes) > 6:
            self.window.commands.scenes.delete_scene(self._rng.choice(scenes).id)

    def _note(self) -> None:
        building = self._building
        element = self._rng.choice(building.elements)
        place = building.element_bounds[building.index_of[element.id]].mean(axis=0)
        note = Label(id=edits.new_id(), anchors=(anchored(building, place, element.id),), text="{name}")
        self.session.apply(put_notes(self.session.project, [note]), "Label")

    def _sheet(self) -> None:
        sheets = self.session.project.sheets
        if self.window.desk.sheet is not None:
            self.window.desk.close()
        elif sheets:
            self.window.desk.open(self._rng.choice(sheets).id)

    def _pick_parts(self) -> None:
        elements = self._building.elements
        self.session.pick(elements=frozenset({self._rng.choice(elements).id}))

    def _save(self) -> None:
        if not self.window.documents.is_saving:
            self.window.documents.save(self._folder / "walk.anatome")


def same(a: Project, b: Project) -> bool:
    """Whether two projects are one, but for where the stage is seen from and what saving says of the file."""
    keep = {"name": "", "model": a.model}
    return edits.set_camera(a, b.stage.camera).model_copy(update=keep) == b.model_copy(update=keep)


def main() -> None:
    """Walk, and print what was slow and what memory did."""
    from PySide6.QtGui import QSurfaceFormat

    from anatome.app.base import theme
    from anatome.app.base.trouble import TROUBLE
    from anatome.app.stage.stage import surface_format

    count, seed = (int(sys.argv[i]) if len(sys.argv) > i else default for i, default in ((1, 1000), (2, 1)))
    os.environ["ANATOME_SETTINGS"] = os.environ["ANATOME_STATE"] = tempfile.mkdtemp()
    QSurfaceFormat.setDefaultFormat(surface_format())
    app = QApplication([])
    app.setStyle("Fusion")
    theme.install_font()
    theme.use(theme.LIGHT)
    TROUBLE.install()
    window = MainWindow()
    window.may_close = lambda: True  # type: ignore[method-assign]
    window.show()
    window.commands.files.open_demo()
    while not window.session.is_open:
        app.processEvents()
    walk = Walk(window, seed, Path(tempfile.mkdtemp()))
    walk.settle()
    for done in range(0, count, 100):
        walk.run(min(100, count - done))
        print(f"{len(walk.done)} actions, {walk.memory[-1]:.0f} MB, {len(TROUBLE._known)} errors", flush=True)
    for name, seconds in sorted(walk.holds.items(), key=lambda item: -item[1])[:12]:
        print(f"{1000 * seconds:6.0f} ms  {name}")
    os._exit(0)


if __name__ == "__main__":
    main()
