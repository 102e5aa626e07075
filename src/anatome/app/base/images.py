"""Pixels as images of the window."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QImage


def image_of(pixels: NDArray[np.uint8]) -> QImage:
    """Return a QImage of (height, width, 4) RGBA."""
    height, width = pixels.shape[:2]
    return QImage(pixels.tobytes(), width, height, 4 * width, QImage.Format.Format_RGBA8888).copy()


def pixels_of(image: QImage) -> NDArray[np.uint8]:
    """Return (height, width, 4) RGBA of a QImage."""
    whole = image.convertToFormat(QImage.Format.Format_RGBA8888)
    flat = np.frombuffer(whole.constBits(), np.uint8).reshape(whole.height(), whole.bytesPerLine())
    return flat[:, : 4 * whole.width()].reshape(whole.height(), whole.width(), 4).copy()
