"""Drawings, pages and notes as pictures."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QImage, QPainter

from anatome.linework.drawing import Drawing
from anatome.linework.page import Page
from anatome.linework.plotting import plot, plot_notes, plot_page
from anatome.look.look import Rgb
from anatome.notes.marks import NotesDrawn
from anatome.render.plotter import ScreenPlotter, on_paper

LEAST_SCALE = 1.6
"""Pixels a millimetre under which notes could not be read and are left out: in small pictures."""


def page_image(page: Page, dpi: float) -> NDArray[np.uint8]:
    """Return (h, w, 4) RGBA, a page on white."""
    scale = dpi / 25.4
    size = max(round(page.width * scale), 1), max(round(page.height * scale), 1)
    return _plotted(size, scale, page.height, (255, 255, 255, 255), lambda plotter: plot_page(page, plotter))


def drawing_image(drawing: Drawing, size: tuple[int, int], ground: Rgb) -> NDArray[np.uint8]:
    """Return (h, w, 4) RGBA, a drawing as large as ``size`` (width, height) in pixels, on a ground of one colour."""
    red, green, blue = (round(255 * c) for c in ground)
    scale = size[1] / drawing.height
    return _plotted(size, scale, drawing.height, (red, green, blue, 255), lambda plotter: plot(drawing, plotter))


def notes_image(notes: NotesDrawn, size: tuple[int, int]) -> NDArray[np.uint8]:
    """Return (h, w, 4) RGBA, not premultiplied: the notes over nothing, as large as ``size`` (width, height) in pixels."""
    return _plotted(size, size[1] / notes.height, notes.height, (0, 0, 0, 0), lambda plotter: plot_notes(notes, plotter))


def noted(image: NDArray[np.uint8], notes: NotesDrawn | None) -> NDArray[np.uint8]:
    """Return a picture (h, w, 4) RGBA, not premultiplied, with the notes on it; unchanged where they could not be read."""
    scale = 0.0 if notes is None else image.shape[0] / notes.height
    if notes is None or scale < LEAST_SCALE or not notes.sound:
        return image
    return over_picture(image, notes_image(notes, (image.shape[1], image.shape[0])))


def lines_image(drawing: Drawing, size: tuple[int, int], paper: Rgb) -> NDArray[np.uint8]:
    """Return (h, w, 4) RGBA, not premultiplied: a drawing over nothing, which looks on its paper as it is drawn there."""
    return off_paper(drawing_image(drawing, size, paper), paper)


def off_paper(image: NDArray[np.uint8], paper: Rgb) -> NDArray[np.uint8]:
    """Return a picture (h, w, 4) RGBA without the paper it lies on: as little as makes the same of that paper."""
    found = np.zeros_like(image)
    ground = np.round(255.0 * np.array(paper, np.float32)).astype(np.float32)
    drawn = (image[..., :3] != ground.astype(np.uint8)).any(axis=-1)
    colour = image[drawn][:, :3].astype(np.float32)
    # As much as the channel needs that is farthest from the paper, of the way it could go.
    room = np.where(colour < ground, np.maximum(ground, 1.0), np.maximum(255.0 - ground, 1.0))
    much = (np.abs(colour - ground) / room).max(axis=1, keepdims=True).clip(1 / 255.0, 1.0)
    found[drawn, :3] = np.round((colour - ground * (1.0 - much)) / much).clip(0, 255)
    found[drawn, 3:] = np.round(255.0 * much)
    return found


def over_picture(image: NDArray[np.uint8], over: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return a picture (h, w, 4) RGBA, not premultiplied, with another one over it."""
    alpha, under = over[..., 3:] / np.float32(255), image[..., 3:] / np.float32(255)
    whole = alpha + under * (1 - alpha)
    mixed = over[..., :3] * alpha + image[..., :3] * under * (1 - alpha)
    made = np.concatenate([mixed / np.maximum(whole, 1e-6), whole * 255], axis=-1)
    changed = over[..., 3] > 0
    found = image.copy()
    found[changed] = np.round(made[changed]).astype(np.uint8)
    return found


def _plotted(
    size: tuple[int, int], scale: float, high: float, ground: tuple[int, int, int, int], draw: Callable[[ScreenPlotter], None]
) -> NDArray[np.uint8]:
    """(h, w, 4) RGBA, what is drawn in mm on paper so many mm ``high``, at ``scale`` pixels a mm, over a ground."""
    width, height = size
    held = np.empty((height, width, 4), np.uint8)
    held[:] = ground
    image = QImage(held.data, width, height, 4 * width, QImage.Format.Format_RGBA8888)
    painter = QPainter(image)
    on_paper(painter, scale, high)
    draw(ScreenPlotter(painter))
    painter.end()
    return held
