"""Small pictures of what the stage could show, made one after the other when it has time, and buttons that show them."""

from __future__ import annotations

from PySide6.QtCore import QObject, QPoint, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QWidget

from anatome.app.base import theme
from anatome.app.base.images import image_of
from anatome.app.base.pictures import Pixels
from anatome.app.base.trouble import TROUBLE
from anatome.app.document.session import Session
from anatome.app.stage.stage import Stage
from anatome.scenes.scene_view import View

SAMPLES, CAPTION = 3, 18
REST = 250
"""Milliseconds after the last change before pictures are made anew."""
OUT_OF_DATE = 0.35
"""How solid a picture is that is no longer true."""


class SmallPictures(QObject):
    """Makes pictures by name, on the stage's context between its own samples, and keeps them while they are true. ``ready``: that
    of a name is there."""

    ready = Signal(str)

    def __init__(self, session: Session, stage: Stage, size: QSize, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._stage, self.size = session, stage, size
        self._kept: dict[str, tuple[object, QImage]] = {}
        self._wanted: list[str] = []
        self._busy = False
        self._rest = QTimer(self, singleShot=True, interval=REST)
        self._rest.timeout.connect(self._next)
        for other_building in (session.opened, session.closed):
            other_building.connect(self._forget)

    def key(self, name: str) -> object:
        """Return all that decides the picture of a name."""
        raise NotImplementedError

    def view(self, name: str) -> View:
        """Return what it is a picture of."""
        raise NotImplementedError

    def _forget(self) -> None:
        self._kept.clear()
        self._wanted.clear()
        self._busy = False  # the stage gives up its pictures too

    def image(self, name: str) -> QImage | None:
        """Return the picture of a name, perhaps as it was a moment ago; a new one is asked for where it is no longer true."""
        if not self._session.is_open:
            return None
        kept = self._kept.get(name)
        if (kept is None or kept[0] != self.key(name)) and name not in self._wanted:
            self._wanted.append(name)
            self._rest.start()
        return kept[1] if kept else None

    def is_true(self, name: str) -> bool:
        """Return whether the picture of a name shows the stage as it is now."""
        kept = self._kept.get(name)
        return self._session.is_open and kept is not None and kept[0] == self.key(name)

    def _next(self) -> None:
        session = self._session
        if self._busy or not self._wanted or not session.is_open:
            return
        if not (session.is_cut and self._stage.settled):
            self._rest.start()  # the stage comes first
            return
        name = self._wanted.pop(0)
        key = self.key(name)
        scale = self._stage.devicePixelRatioF()
        size = round(self.size.width() * scale), round(self.size.height() * scale)

        def done(pixels: Pixels) -> None:
            self._busy = False
            self._kept[name] = key, image_of(pixels)
            self.ready.emit(name)
            self._next()

        def failed(error: Exception) -> None:
            self._busy = False
            TROUBLE.report(error)

        self._busy = self._stage.pictures.picture(self.view(name), size, "paper", done, failed, SAMPLES) is not None


class PictureButton(QAbstractButton):
    """One of them with words under it."""

    def __init__(self, name: str, pictures: SmallPictures, size: QSize) -> None:
        super().__init__()
        self._pictures, self._size = pictures, size
        self.setFixedSize(size.width(), size.height() + CAPTION)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)
        pictures.ready.connect(self._ready)
        self.name = name
        self.words = (name, name)
        """What stands under it, and what does where that finds no room."""

    def show_name(self, name: str, words: str, shorter: str, tip: str) -> None:
        """Stand for this name from now on."""
        self.name, self.words = name, (words, shorter)
        self.setAccessibleName(words)
        self.setToolTip(tip)
        self.update()

    def _ready(self, name: str) -> None:
        if name == self.name:
            self.update()

    @property
    def drawn(self) -> bool:
        """Whether its picture is there."""
        return self._pictures.image(self.name) is not None

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, colours = QPainter(self), theme.current()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box = QRectF(0.5, 0.5, self._size.width() - 1, self._size.height() - 1)
        painter.fillRect(box, QColor(theme.LIGHT.paper))
        image = self._pictures.image(self.name)
        if image is not None:
            # One that is being drawn anew is pale, so that it is not taken for what a click would show.
            painter.setOpacity(1.0 if self._pictures.is_true(self.name) else OUT_OF_DATE)
            painter.drawImage(box, image)
            painter.setOpacity(1.0)
        strong = self.underMouse() or self.hasFocus() or self.isChecked()
        painter.setPen(QPen(QColor(colours.accent if strong else colours.rule), 1.5 if strong else 1.0))
        painter.drawRect(box)
        painter.setFont(theme.font(8.5))
        painter.setPen(QColor(colours.ink if strong else colours.ink_soft))
        under = QRectF(0, self._size.height() + 1, self._size.width(), CAPTION - 1)
        words, wide = self.words[0], int(under.width())
        if painter.fontMetrics().horizontalAdvance(words) > wide:
            words = self.words[1]
        words = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, wide)
        painter.drawText(under, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop, words)


def stand_at(sheet: QWidget, at: QPoint) -> None:
    """Show a sheet of them with its upper right corner there, on the screen, as far as there is room."""
    sheet.adjustSize()
    room = sheet.screen().availableGeometry()
    x = min(max(at.x() - sheet.width(), room.left() + 4), room.right() - sheet.width() - 4)
    y = min(max(at.y(), room.top() + 4), room.bottom() - sheet.height() - 4)
    sheet.move(x, y)
    sheet.show()
