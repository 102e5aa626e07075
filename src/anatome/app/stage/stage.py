"""The widget that draws the picture: one coarse sample while things move, many fine ones when they are still."""

from __future__ import annotations

import time
from collections.abc import Callable

import moderngl
import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QSize, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QSurfaceFormat
from PySide6.QtOpenGLWidgets import QOpenGLWidget
from PySide6.QtWidgets import QWidget

from anatome.app.session import Session
from anatome.app.stage.handles import Viewport
from anatome.render.accumulation import Accumulation
from anatome.render.pictures import Ground, PictureMaker
from anatome.render.renderer import Renderer, View, Window

SAMPLES = 14
SETTLE = 130
"""Milliseconds without a change after which the picture is refined."""


def surface_format() -> QSurfaceFormat:
    """The OpenGL the stage asks for."""
    wanted = QSurfaceFormat()
    wanted.setVersion(4, 1)
    wanted.setProfile(QSurfaceFormat.OpenGLContextProfile.CoreProfile)
    wanted.setDepthBufferSize(0)
    wanted.setSwapInterval(0)
    return wanted


class Stage(QOpenGLWidget):
    """Shows the session's stage state. Everything on top of the picture is the overlay's."""

    ready = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFormat(surface_format())
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(320, 240)
        self._session = session
        self._renderer: Renderer | None = None
        self._coarse: Accumulation | None = None
        self._fine: Accumulation | None = None
        self._drawn: tuple[object, ...] | None = None
        self._still = True
        self._done = False
        self._share = 2
        self._settle = QTimer(self, singleShot=True, interval=SETTLE)
        self._settle.timeout.connect(self._be_still)
        self._more = QTimer(self, singleShot=True, interval=0)
        self._more.timeout.connect(self.update)
        session.opened.connect(self._load)
        session.changed.connect(self.touch)
        session.camera_moved.connect(self.touch)
        session.picked_changed.connect(self.touch)

    # What is shown ---------------------------------------------------------------------------------------------

    @property
    def viewport(self) -> Viewport:
        """The camera and the size of the stage in device-independent pixels."""
        return Viewport(self._session.stage.camera, max(self.width(), 1), max(self.height(), 1))

    @property
    def aspect(self) -> float:
        return max(self.width(), 1) / max(self.height(), 1)

    @property
    def settled(self) -> bool:
        """True when the picture is as fine as it gets."""
        return self._done

    def touch(self) -> None:
        """Something may be different: draw coarsely now and finely when it has been still for a moment."""
        self._still = self._done = False
        self._settle.start()
        self.update()

    def _be_still(self) -> None:
        self._still = True
        self.update()

    def _view(self) -> View:
        s = self._session
        return View(s.stage.camera, s.cut_open(), s.stage.look, s.picked_mask())

    # OpenGL ----------------------------------------------------------------------------------------------------

    def initializeGL(self) -> None:
        self._renderer = Renderer(moderngl.create_context())
        self._load()
        self.ready.emit()

    def _load(self) -> None:
        self._drawn = None
        if self._renderer is None:
            return
        self.makeCurrent()
        self._renderer.set_building(self._session.building)

    def _pixels(self) -> QSize:
        return self.size() * self.devicePixelRatioF()

    def _buffer(self, held: Accumulation | None, size: tuple[int, int]) -> Accumulation:
        assert self._renderer is not None
        if held is not None and held.size == size:
            return held
        if held is not None:
            held.release()
        return Accumulation(self._renderer.ctx, self._renderer.programs, size)

    def paintGL(self) -> None:
        if self._renderer is None or not self._session.is_open:
            return
        ctx = self._renderer.ctx
        target = ctx.detect_framebuffer(self.defaultFramebufferObject())
        pixels = self._pixels()
        full = max(pixels.width(), 1), max(pixels.height(), 1)
        view = self._view()
        key = (
            view.camera,
            self._session.stage.cuts,
            self._session.stage.series,
            self._session.stage.treatments,
            self._session.stage.poche,
            self._session.stage.hidden,
            view.look,
            self._session.picked_elements,
            self._session.marked,
            full,
        )
        paper = (*view.look.paper, 1.0)
        if self._still:
            self._fine = self._buffer(self._fine, full)
            if key != self._drawn:
                self._drawn = key
                self._done = False
                self._fine.restart()
            if self._fine.samples < SAMPLES:
                self._fine.add(self._renderer, view, Window(*full))
            self._done = self._fine.samples >= SAMPLES
            if not self._done:
                self._more.start()  # by way of the event loop, so that mouse and keys have their turn between samples
            shown = self._fine
        else:
            self._drawn = None
            part = max(full[0] // self._share, 1), max(full[1] // self._share, 1)
            self._coarse = self._buffer(self._coarse, part)
            began = time.perf_counter()
            self._coarse.restart()
            self._coarse.add(self._renderer, view, Window(*part), coarse=True)
            ctx.finish()
            # A fast card need not be coarse.
            taken = time.perf_counter() - began
            self._share = 1 if taken < 0.015 else 2 if taken > 0.05 else self._share
            shown = self._coarse
        target.viewport = (0, 0, *full)
        shown.show(target, paper)

    # Pictures --------------------------------------------------------------------------------------------------

    def picture(
        self, view: View, size: tuple[int, int], ground: Ground, samples: int, progress: Callable[[float], bool] | None = None
    ) -> NDArray[np.uint8] | None:
        """A finished picture (height, width, 4) drawn on the stage's own context; None before there is one."""
        if self._renderer is None:
            return None

        def told(share: float) -> bool:
            go_on = progress is None or progress(share)
            self.makeCurrent()  # events handled meanwhile may have left another context current
            return go_on

        self.makeCurrent()
        return PictureMaker(self._renderer).picture(view, size, ground, samples, told)


def image_of(pixels: NDArray[np.uint8]) -> QImage:
    """A QImage of (height, width, 4) RGBA."""
    height, width = pixels.shape[:2]
    return QImage(pixels.tobytes(), width, height, 4 * width, QImage.Format.Format_RGBA8888).copy()
