"""Hatches as small pictures, as large as on paper."""

from __future__ import annotations

import numpy as np
import shapely
from PySide6.QtCore import QLineF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QImage, QPainter, QPen, QPixmap

from anatome.look.hatch_lines import hatch_lines
from anatome.look.hatches import Hatch
from anatome.look.look import Rgb

SIZE = QSize(30, 18)
PIXELS = 3.2
"""Of a millimetre."""
OF_METRE = 20.0
"""Mm that a metre of the model is in a small picture, as at 1:50."""
SHARP = 2


def hatch_icon(hatch: Hatch | None, fill: Rgb = (1.0, 1.0, 1.0), ink: Rgb = (0.13, 0.15, 0.17), size: QSize = SIZE) -> QIcon:
    """Return a hatch over a fill in a thin frame; without a hatch the fill alone."""
    image = QImage(size * SHARP, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(QColor.fromRgbF(*fill))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(SHARP, SHARP)
    if hatch is not None:
        wide, high = size.width() / PIXELS, size.height() / PIXELS
        lines = hatch_lines(hatch, shapely.box(0, 0, wide, high), 1.0 if hatch.unit == "mm" else OF_METRE)
        places = (lines * [1.0, -1.0] + [0.0, high]) * PIXELS
        painter.setPen(QPen(QColor.fromRgbF(*(hatch.ink or ink)), max(PIXELS * (hatch.weight or 0.13), 0.7)))
        painter.drawLines([QLineF(*a, *b) for a, b in np.asarray(places).tolist()])
    painter.setPen(QPen(QColor(0, 0, 0, 60), 1.0))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(QRectF(0.5, 0.5, size.width() - 1, size.height() - 1))
    painter.end()
    pixmap = QPixmap.fromImage(image)
    pixmap.setDevicePixelRatio(SHARP)
    made = QIcon(pixmap)
    made.addPixmap(pixmap, QIcon.Mode.Selected)  # not tinted in the row that is chosen
    return made
