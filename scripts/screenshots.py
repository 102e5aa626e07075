"""The pictures in docs/screenshots: the window as one would have it in front of one.

``scripts/screenshots [NAME …]`` makes all of them, or those named.
"""

from __future__ import annotations

import math
import os
import shutil
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import ifcopenshell
import ifcopenshell.api.geometry
import ifcopenshell.api.root
import ifcopenshell.util.placement
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage, QPainter, QSurfaceFormat
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

os.environ["ANATOME_SETTINGS"] = os.environ["ANATOME_STATE"] = tempfile.mkdtemp()

from anatome.app.base import theme
from anatome.app.stage.stage import surface_format
from anatome.app.window.main_window import MainWindow
from anatome.scenes import edits
from anatome.scenes.scene_sets import into_set

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"
SIZE = (1280, 800)
PATIENCE = 180.0


class Eye:
    """A window that is looked at."""

    def __init__(self) -> None:
        self.window = MainWindow()
        self.window.may_close = lambda: True  # type: ignore[method-assign]
        self.window.resize(*SIZE)
        self.window.show()
        self.spin(0.5)

    def spin(self, seconds: float = 0.1) -> None:
        """Let the window do what there is to do."""
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            QApplication.processEvents()
            time.sleep(0.005)

    def wait(self, ready: Callable[[], object]) -> None:
        """Until something is so."""
        until = time.monotonic() + PATIENCE
        while not ready():
            if time.monotonic() > until:
                raise TimeoutError("The window did not get there.")
            self.spin(0.02)

    def settle(self) -> None:
        """Until all drawings are as fine as they get."""
        w = self.window
        self.spin(0.2)
        self.wait(lambda: w.stage.settled and w.key_plan.drawn and w.key_elevation.drawn and w.scout.up_to_date)
        chooser = w.inspector.overview.chooser
        self.wait(lambda: not chooser.isVisible() or all(button.drawn for button in chooser.front))
        self.spin(0.2)

    def demo(self) -> None:
        self.window.commands.files.open_demo()
        self.wait(lambda: self.window.session.is_open)
        self.settle()

    def recall(self, scene: str) -> None:
        self.window.contact_sheet.recall(scene)
        self.settle()

    def do(self, name: str) -> None:
        self.window.actions_[name].trigger()
        self.spin(0.2)

    def picture(self) -> QImage:
        """The window, and what has popped up over it."""
        image = self.window.picture_of_window()
        painter = QPainter(image)
        for top in QApplication.topLevelWidgets():
            if top.isVisible() and top.windowType() == Qt.WindowType.Popup:
                painter.drawPixmap(top.pos() - self.window.mapToGlobal(QPoint(0, 0)), top.grab())
        painter.end()
        return image

    def click(self, widget: QWidget, x: float, y: float) -> None:
        QTest.mouseMove(widget, QPoint(round(x), round(y)))
        self.spin(0.1)
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(round(x), round(y)))
        self.spin(0.1)

    def hover(self, widget: QWidget, x: float, y: float) -> None:
        QTest.mouseMove(widget, QPoint(round(x), round(y)))
        self.spin(0.3)


def scene(name: str) -> Callable[[Eye], None]:
    """One that is just a scene recalled."""
    return lambda eye: eye.recall(name)


def picked(name: str, cut: str) -> Callable[[Eye], None]:
    """A scene with one of its cuts picked."""

    def show(eye: Eye) -> None:
        eye.recall(name)
        eye.window.session.pick(cut=cut)
        eye.settle()

    return show


def looks(eye: Eye) -> None:
    eye.recall("corner")
    eye.do("looks")
    tried = eye.window.look_round
    eye.wait(lambda: len(tried.images) == tried.count)
    number = [look.name for look in tried.looks].index("Washed axonometric")
    tried.try_on(number)
    row = eye.window.looks.row
    row.scrollToItem(row.item(number), row.ScrollHint.PositionAtCenter)
    eye.settle()


def suggestions(eye: Eye) -> None:
    eye.recall("outside")
    session = eye.window.session
    stairs = [e.id for e in session.building.elements if e.type == "IfcStairFlight"]
    session.pick(elements=frozenset(stairs))
    eye.do("suggest_picked")
    round_ = eye.window.suggester
    eye.wait(lambda: round_.count and len(round_.images) == round_.count)
    round_.try_on(1)
    eye.settle()


def section_line(eye: Eye) -> None:
    eye.recall("outside")
    eye.do("grow_plan")
    eye.settle()
    eye.do("plane_line")
    plan = eye.window.key_plan
    eye.click(plan, 0.2 * plan.width(), 0.55 * plan.height())
    eye.hover(plan, 0.62 * plan.width(), 0.52 * plan.height())


def notes(eye: Eye) -> None:
    eye.recall("dressed")
    session = eye.window.session
    session.pick(notes=[next(n.id for n in session.stage.notes if n.kind == "dimension")])
    eye.settle()


def sheet(name: str) -> Callable[[Eye], None]:
    """A sheet with all of its frames drawn."""

    def show(eye: Eye) -> None:
        eye.window.desk.open(name)
        eye.wait(lambda: not eye.window.sheet_contents.busy)
        eye.spin(0.5)

    return show


def scenes(eye: Eye) -> None:
    """All scenes as a page, some of them in sets, two picked."""
    session = eye.window.session
    for ids, name in ((("long", "cross", "stepped", "sheet"), "Sections"), (("cutaway", "oblique", "exploded"), "Axonometrics")):
        session.apply(into_set(session.project, ids, name), "A set")
    session.apply(edits.lock_scene(session.project, "cross", True), "Locked")
    eye.wait(lambda: all(session.pictures.get(scene) for scene in session.project.scenes))
    eye.do("scene_page")
    eye.window.scene_page.size_slider.setValue(112)
    session.pick(scenes=["long", "sheet"])
    eye.spin(0.5)


def dark(eye: Eye) -> None:
    """The dark theme, with the section flat beside the picture."""
    eye.window.set_dark(True)
    picked("cross", "across")(eye)
    eye.do("flat_beside")
    eye.wait(lambda: eye.window.flat.drawn)
    eye.settle()


def linework(eye: Eye) -> None:
    """The stage as a drawing over flat tones."""
    eye.recall("corner")
    eye.do("lined_tones")
    eye.settle()


def presented(eye: Eye) -> None:
    """A scene shown full screen, with a stroke of the pen, and the bar that comes with the mouse."""
    eye.recall("cross")
    eye.do("present")
    curtain = eye.window.curtain
    eye.spin(0.5)
    eye.wait(lambda: eye.window.stage.settled)
    across, down = curtain.width(), curtain.height()
    start = QPoint(round(0.36 * across), round(0.36 * down))
    QTest.mousePress(curtain, Qt.MouseButton.RightButton, pos=start)
    for step in range(40):
        turn = 2 * math.pi * step / 36
        at = start + QPoint(round(0.06 * across * math.sin(turn)), round(0.07 * down * (1 - math.cos(turn))))
        QTest.mouseMove(curtain, at)
    QTest.mouseRelease(curtain, Qt.MouseButton.RightButton, pos=start)
    eye.spin(0.3)


def before_after(eye: Eye) -> None:
    """A next state of the model, in which boats lie elsewhere and a wall is gone, wiped over the one that is
    open."""
    eye.recall("long")
    session, newer = eye.window.session, eye.window.newer
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "boathouse.ifc"
        model = ifcopenshell.open(str(session.opened_model.path))
        for boat in [p for p in model.by_type("IfcFurniture") if p.Name.startswith(("Eight", "Four"))][:3]:
            here = ifcopenshell.util.placement.get_local_placement(boat.ObjectPlacement)
            here[:3, 3] += [1.5, 0.0, 0.0]
            ifcopenshell.api.geometry.edit_object_placement(model, product=boat, matrix=here)
        wall = next(p for p in model.by_type("IfcWall") if p.Name.startswith("West wall"))
        ifcopenshell.api.root.remove_product(model, product=wall)
        model.write(str(path))
        newer.compare(path)
        eye.wait(lambda: newer.compared is not None)
        eye.do("model_changes")
        eye.do("before_after")
        eye.wait(lambda: eye.window.before_after.settled)
    eye.spin(0.3)


def film(eye: Eye) -> None:
    """The building half grown, with the shots of the film at the foot."""
    eye.recall("outside")
    eye.do("show_films")
    player, row = eye.window.player, eye.window.film_strip.row
    eye.wait(lambda: player.timeline is not None)
    player.go_to(7.4)
    eye.window.session.pick(shot=1)
    eye.wait(lambda: all(row.moments.get(n, 0.5) is not None for n in (1, 2, 3, 4)))
    eye.settle()
    eye.spin(6.0)  # the other moments of the strip


def client_page() -> None:
    """A page for the client, in a browser, with the cut dragged a little on."""
    from selenium import webdriver
    from selenium.webdriver.chrome.service import Service
    from selenium.webdriver.common.by import By

    from anatome.cli import main as anatome
    from anatome.demo.shipped import PROJECT

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "boathouse.html"
        scenes = [word for name in ("Axonometric cutaway", "Exploded axonometric") for word in ("--scene", name)]
        anatome(["page", str(PROJECT), *scenes, "--frames", "9", "--no-zoom", "--out", str(path)])
        options = webdriver.ChromeOptions()
        options.binary_location = shutil.which("chromium") or ""
        for switch in (
            "headless=new",
            "no-sandbox",
            "disable-gpu",
            "no-first-run",
            "disable-background-networking",
            "hide-scrollbars",
        ):
            options.add_argument(f"--{switch}")
        browser = webdriver.Chrome(options=options, service=Service(shutil.which("chromedriver")))
        size = {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}
        browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
        browser.get(path.as_uri())
        section = browser.find_element(By.ID, "s1")
        browser.execute_script("arguments[0].scrollIntoView({behavior: 'instant'})", section)
        slider = section.find_element(By.TAG_NAME, "input")
        browser.execute_script("arguments[0].value = 4; arguments[0].dispatchEvent(new Event('input'))", slider)
        time.sleep(1.0)
        browser.save_screenshot(str(FOLDER / "page.png"))
        browser.quit()


PICTURES: dict[str, Callable[[Eye], None]] = {
    "section": scene("long"),
    "still": scene("still"),
    "cut": picked("long", "along"),
    "axonometric": scene("cutaway"),
    "suggestions": suggestions,
    "drawing_a_section_line": section_line,
    "box": picked("corner", "corner"),
    "dark": dark,
    "looks": looks,
    "exploded": scene("exploded"),
    "before_after": before_after,
    "presented": presented,
    "film": film,
    "notes": notes,
    "linework": linework,
    "sheets": sheet("sections"),
    "scenes": scenes,
}


def main() -> None:
    QSurfaceFormat.setDefaultFormat(surface_format())
    app = QApplication([])
    app.setStyle("Fusion")
    theme.install_font()
    theme.use(theme.LIGHT)
    wanted = sys.argv[1:] or [*PICTURES, "welcome", "page"]
    for name in wanted:
        if name == "page":
            client_page()
            print(name, flush=True)
            continue
        eye = Eye()
        if name != "welcome":
            eye.demo()
            PICTURES[name](eye)
        eye.picture().save(str(FOLDER / f"{name}.png"))
        print(name, flush=True)
        if name == "dark":  # both are remembered
            eye.window.set_dark(False)
            eye.window.flat_place.stand("away")
        eye.window.documents.close()
        eye.spin(0.5)
        eye.window.hide()
    os._exit(0)  # threads that no one waits for


if __name__ == "__main__":
    main()
