"""Starting the window."""

from __future__ import annotations

import os
import sys
from dataclasses import dataclass
from pathlib import Path

from anatome.app.base.work import begin_thread, end_work
from anatome.compiled import prepare
from anatome.problems import Problem


@dataclass(frozen=True)
class Start:
    """How to start: what to open, and whether to picture the window and leave."""

    file: Path | None = None
    demo: bool = False
    screenshot: Path | None = None
    size: tuple[int, int] = (1280, 800)
    scene: str | None = None
    dark: bool = False


def run(start: Start) -> int:
    """Open the window and work until it is closed. Raises Problem where there is no display."""
    if sys.platform.startswith("linux") and not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        raise Problem("There is no display to open a window on. Try anatome section or anatome export, which need none.")
    from PySide6.QtGui import QSurfaceFormat
    from PySide6.QtWidgets import QApplication

    from anatome.app.base import theme
    from anatome.app.stage.stage import surface_format

    QSurfaceFormat.setDefaultFormat(surface_format())
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("Anatome")
    app.setStyle("Fusion")
    theme.install_font()
    theme.use(theme.DARK if start.dark else theme.LIGHT)

    from anatome.app.base.trouble import TROUBLE
    from anatome.app.window.main_window import MainWindow

    TROUBLE.install()
    load_ahead()
    window = MainWindow()
    if start.dark or (window.wants_dark() and start.screenshot is None):
        window.set_dark(True)
    width, height = start.size
    screen = app.primaryScreen()
    if start.screenshot is None and screen is not None:
        # With its title bar it still has to lie on the screen.
        room = screen.availableGeometry()
        width, height = min(width, room.width() - 8), min(height, room.height() - 40)
    window.resize(width, height)
    window.show()
    failed: list[str] = []
    window.documents.failed.connect(failed.append)
    if start.demo:
        window.commands.files.open_demo()
    elif start.file is not None and start.screenshot is not None:
        window.documents.open(start.file)  # nobody is there to be asked
    elif start.file is not None:
        window.commands.files.open_path(start.file)
    if start.screenshot is None:
        window.offer_recovery()
    if start.screenshot is not None:
        code = _screenshot(app, window, start, failed)
    else:
        code = app.exec()
    if not end_work():
        # What does not hear that nobody wants it any more is not waited for.
        sys.stdout.flush()
        os._exit(code)
    return code


def load_ahead() -> None:
    """Load what is wanted a moment later and takes long, while the window is put together and the model is read."""

    def load() -> None:
        prepare()
        import scipy.ndimage
        import scipy.spatial  # noqa: F401

    begin_thread("loading ahead", load)


def _screenshot(app: object, window: object, start: Start, failed: list[str]) -> int:
    """Wait until the picture is fine, keep it, and close."""
    from PySide6.QtCore import QElapsedTimer
    from PySide6.QtWidgets import QApplication

    from anatome.app.window.main_window import MainWindow

    assert isinstance(app, QApplication) and isinstance(window, MainWindow) and start.screenshot is not None
    waited = QElapsedTimer()
    waited.start()

    def settle(ready: object) -> None:
        while not ready() and waited.elapsed() < 180_000:  # type: ignore[operator]
            app.processEvents()

    if start.demo or start.file is not None:
        settle(lambda: not (window.documents.busy or window.documents.reading) and (window.session.is_open or failed))
        if failed:
            raise Problem(failed[0])
    if start.scene and window.session.is_open:
        scene = next((s for s in window.session.project.scenes if s.name == start.scene), None)
        if scene is None:
            raise Problem(f"There is no scene “{start.scene}”.")
        window.contact_sheet.recall(scene.id)
    if window.session.is_open:
        settle(lambda: window.stage.settled and window.key_plan.drawn and window.key_elevation.drawn)
    app.processEvents()
    if not window.picture_of_window().save(str(start.screenshot)):
        raise Problem(f"The picture could not be written to “{start.screenshot}”.")
    window.shut()
    return 0
