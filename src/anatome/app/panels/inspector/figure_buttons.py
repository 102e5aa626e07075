"""People and trees as a row of small pictures to choose from."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QGridLayout, QToolButton, QWidget

from anatome.app.base import theme, units
from anatome.app.stage.figures import Array, picture_of
from anatome.site.kinds import KINDS, Kind

COLUMNS = 6
SIZE = QSize(33, 44)


class FigureButton(QToolButton):
    """The outline of a kind, in the ink of the theme."""

    def __init__(self, kind: Kind) -> None:
        super().__init__()
        self._kind = kind.name
        self._outlines: tuple[Array, ...] = ()
        self.setFixedSize(SIZE)
        self.setCheckable(True)
        self.setToolTip(f"{kind.words}, {units.length(kind.height, 2)} at first")
        self.setAccessibleName(kind.words)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self._outlines:
            QTimer.singleShot(0, self, self._draw)  # a tree takes a while to draw: one after another
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = theme.current()
        box = QRectF(self.rect()).adjusted(4, 5, -4, -5)
        low = min(float(o[:, 0].min()) for o in self._outlines), min(float(o[:, 1].min()) for o in self._outlines)
        high = max(float(o[:, 0].max()) for o in self._outlines), max(float(o[:, 1].max()) for o in self._outlines)
        scale = min(box.width() / (high[0] - low[0]), box.height() / (high[1] - low[1]))
        middle = (low[0] + high[0]) / 2
        ink = QColor(colours.accent if self.isChecked() else colours.ink_soft)
        fill = QColor(ink)
        fill.setAlpha(150)
        painter.setPen(QPen(ink, 1.0))
        painter.setBrush(fill)
        for outline in self._outlines:
            corners = [QPointF(box.center().x() + (x - middle) * scale, box.bottom() - (y - low[1]) * scale) for x, y in outline]
            painter.drawPolygon(QPolygonF(corners))
        painter.end()

    def _draw(self) -> None:
        self._outlines = self._outlines or picture_of(self._kind)
        self.update()


class FigureButtons(QWidget):
    """All kinds, people first. ``run`` is told which one was clicked."""

    def __init__(self, run: Callable[[str], None]) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(2)
        self.buttons: dict[str, FigureButton] = {}
        for place, kind in enumerate(KINDS.values()):
            made = FigureButton(kind)
            made.clicked.connect(lambda _=False, name=kind.name: run(name))
            grid.addWidget(made, place // COLUMNS, place % COLUMNS)
            self.buttons[kind.name] = made
        grid.setColumnStretch(COLUMNS, 1)
        grid.setAlignment(Qt.AlignmentFlag.AlignLeft)

    def show_kind(self, kind: str | None) -> None:
        """Have the button of a kind down, or none."""
        for name, button in self.buttons.items():
            button.setChecked(name == kind)
