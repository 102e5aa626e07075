"""The crop's line on the stage: where it lies, where it is held, and what pulling it does."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSizeF

from anatome.view.crop import Crop

HIT = 13.0
"""Pixels round a handle in which it is held."""
LINE_HIT = 6.0
SMALLEST = 48.0
"""Pixels a crop is wide and high at least."""
PARTS = {
    "upper left": (0.0, 0.0),
    "top": (0.5, 0.0),
    "upper right": (1.0, 0.0),
    "right": (1.0, 0.5),
    "lower right": (1.0, 1.0),
    "bottom": (0.5, 1.0),
    "lower left": (0.0, 1.0),
    "left": (0.0, 0.5),
}
"""Where a handle is, in shares of the rectangle."""
WHOLE = "whole"


@dataclass(frozen=True)
class CropFrame:
    """A crop on a stage of a size in pixels."""

    crop: Crop
    size: QSizeF

    @property
    def box(self) -> QRectF:
        """Where it lies."""
        high = self.size.height()
        width, height = self.crop.width * high, self.crop.height * high
        x = self.size.width() / 2 + self.crop.at[0] * high
        y = high / 2 - self.crop.at[1] * high
        return QRectF(x - width / 2, y - height / 2, width, height)

    def handle(self, part: str) -> QPointF:
        """Return the middle of a handle."""
        box, (x, y) = self.box, PARTS[part]
        return QPointF(box.left() + x * box.width(), box.top() + y * box.height())

    def under(self, at: QPointF) -> str | None:
        """Return the handle at a place, ``whole`` for the line between them, or None."""
        for part in PARTS:
            off = self.handle(part) - at
            if max(abs(off.x()), abs(off.y())) <= HIT:
                return part
        return WHOLE if self.on_line(at) else None

    def on_line(self, at: QPointF) -> bool:
        """Return whether a place is on the line."""
        box, out = self.box, LINE_HIT
        return box.adjusted(-out, -out, out, out).contains(at) and not box.adjusted(out, out, -out, -out).contains(at)

    def pulled(self, part: str, dx: float, dy: float) -> Crop:
        """Return the crop with a handle moved by pixels; a fixed proportion stays, about the side or corner across."""
        box = QRectF(self.box)
        if part == WHOLE:
            return self._from(box.translated(dx, dy))
        x, y = PARTS[part]
        if x == 0.0:
            box.setLeft(min(box.left() + dx, box.right() - SMALLEST))
        if x == 1.0:
            box.setRight(max(box.right() + dx, box.left() + SMALLEST))
        if y == 0.0:
            box.setTop(min(box.top() + dy, box.bottom() - SMALLEST))
        if y == 1.0:
            box.setBottom(max(box.bottom() + dy, box.top() + SMALLEST))
        if not self.crop.free:
            box = self._in_proportion(box, x, y)
        return self._from(box)

    def _in_proportion(self, box: QRectF, x: float, y: float) -> QRectF:
        """A pulled box brought back to the crop's proportion; what lies across from the hand stays."""
        aspect = self.crop.aspect
        width = box.height() * aspect if x == 0.5 else box.width() if y == 0.5 else max(box.width(), box.height() * aspect)
        height = width / aspect
        left = box.center().x() - width / 2 if x == 0.5 else box.right() - width if x == 0.0 else box.left()
        top = box.center().y() - height / 2 if y == 0.5 else box.bottom() - height if y == 0.0 else box.top()
        return QRectF(left, top, width, height)

    def _from(self, box: QRectF) -> Crop:
        high = self.size.height()
        middle = box.center()
        at = (middle.x() - self.size.width() / 2) / high, (high / 2 - middle.y()) / high
        aspect = self.crop.aspect if not self.crop.free else box.width() / box.height()
        return self.crop.model_copy(update={"aspect": aspect, "height": box.height() / high, "at": at})
