"""Standard views and projections as small pictures of the building itself, those taken last in front."""

from __future__ import annotations

from PySide6.QtCore import QObject, QPoint, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QFrame, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from anatome.app.base import theme
from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.images import image_of
from anatome.app.base.pictures import Pixels
from anatome.app.base.trouble import TROUBLE
from anatome.app.commands.view import ViewCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import bare_column, label
from anatome.app.stage.stage import Stage
from anatome.scenes.scene_view import View
from anatome.view.camera import CORNERS, FACES
from anatome.view.projections import DRAWN, TRUE

PICTURE = QSize(96, 64)
FRONT = QSize(69, 46)
SAMPLES = 3
CAPTION, COLUMNS = 18, 7
GROUPS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("From a side", tuple(FACES)),
    ("From a corner", tuple(CORNERS)),
    ("Drawn as, from the corner you are next to", tuple(DRAWN)),
    ("True to the cut", tuple(TRUE)),
)
REST = 250
"""Milliseconds after the last change before pictures are made anew."""


def short(name: str) -> str:
    """Return a view's name as it stands under its picture."""
    plain = name.removeprefix("Axonometric, ").replace(", true to the cut, to the", ",").replace(" along the cut, from the", ",")
    return plain.capitalize().replace(" and 60°", "/60°")


OUT_OF_DATE = 0.35
"""How solid a picture is that is no longer true."""


class ViewPictures(QObject):
    """Makes the pictures, on the stage's context between its own samples, and keeps them while they are true."""

    ready = Signal(str)

    def __init__(self, session: Session, stage: Stage, views: ViewCommands, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._stage, self._views = session, stage, views
        self._kept: dict[str, tuple[object, QImage]] = {}
        self._wanted: list[str] = []
        self._busy = False
        self._rest = QTimer(self, singleShot=True, interval=REST)
        self._rest.timeout.connect(self._next)
        for other_building in (session.opened, session.closed):
            other_building.connect(self._forget)

    def _forget(self) -> None:
        self._kept.clear()
        self._wanted.clear()
        self._busy = False  # the stage gives up its pictures too

    def image(self, name: str) -> QImage | None:
        """Return the picture of a view, perhaps as it was a moment ago; a new one is asked for where it is no longer true."""
        if not self._session.is_open:
            return None
        kept = self._kept.get(name)
        if (kept is None or kept[0] != self._key(name)) and name not in self._wanted:
            self._wanted.append(name)
            self._rest.start()
        return kept[1] if kept else None

    def is_true(self, name: str) -> bool:
        """Return whether the picture of a view shows the stage as it is now."""
        kept = self._kept.get(name)
        return self._session.is_open and kept is not None and kept[0] == self._key(name)

    def _key(self, name: str) -> object:
        stage = self._session.stage
        look = (
            self._session.drawn_look(),
            stage.cuts,
            stage.hidden,
            stage.series,
            stage.treatments,
            stage.poche,
            *stage.apart_key,
        )
        return id(self._session.building), look, self._views.camera_for(name, PICTURE.width() / PICTURE.height())

    def _next(self) -> None:
        session = self._session
        if self._busy or not self._wanted or not session.is_open:
            return
        if not (session.is_cut and self._stage.settled):
            self._rest.start()  # the stage comes first
            return
        name = self._wanted.pop(0)
        key = self._key(name)
        camera = self._views.camera_for(name, PICTURE.width() / PICTURE.height())
        plain = session.drawn_look().model_copy(update={"shade": False, "ground": False})
        scale = self._stage.devicePixelRatioF()
        size = round(PICTURE.width() * scale), round(PICTURE.height() * scale)

        def done(pixels: Pixels) -> None:
            self._busy = False
            self._kept[name] = key, image_of(pixels)
            self.ready.emit(name)
            self._next()

        def failed(error: Exception) -> None:
            self._busy = False
            TROUBLE.report(error)

        view = View(camera, session.on_stage(), plain)
        self._busy = self._stage.pictures.picture(view, size, "paper", done, failed, SAMPLES) is not None


class ViewButton(QAbstractButton):
    """One view: its picture with its name under it."""

    def __init__(self, name: str, pictures: ViewPictures, size: QSize) -> None:
        super().__init__()
        self._pictures, self._size = pictures, size
        self.setFixedSize(size.width(), size.height() + CAPTION)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)
        pictures.ready.connect(self._ready)
        self.show_view(name)

    def show_view(self, name: str) -> None:
        """Stand for this view from now on."""
        self.name = name
        self.setAccessibleName(name)
        self.setToolTip(f"{name}, in parallel projection, fitted to what is shown")
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
        strong = self.underMouse() or self.hasFocus()
        painter.setPen(QPen(QColor(colours.accent if strong else colours.rule), 1.5 if strong else 1.0))
        painter.drawRect(box)
        painter.setFont(theme.font(8.5))
        painter.setPen(QColor(colours.ink if strong else colours.ink_soft))
        under = QRectF(0, self._size.height() + 1, self._size.width(), CAPTION - 1)
        words, wide = short(self.name), int(under.width())
        if painter.fontMetrics().horizontalAdvance(words) > wide:
            words = words.split(", ")[0]
        words = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, wide)
        painter.drawText(under, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop, words)


class ViewSheet(QFrame):
    """All views, to choose one of."""

    chosen = Signal(str)

    def __init__(self, pictures: ViewPictures, views: ViewCommands, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setObjectName("sheet")
        self._views = views
        self._of_cut: list[QWidget] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 14)
        column.setSpacing(6)
        self.buttons: dict[str, ViewButton] = {}
        for words, names in GROUPS:
            heading = label(words, "section")
            column.addWidget(heading)
            grid = QGridLayout()
            grid.setSpacing(8)
            grid.setColumnStretch(COLUMNS, 1)
            for i, name in enumerate(names):
                button = ViewButton(name, pictures, PICTURE)
                button.clicked.connect(lambda _=False, name=name: self._choose(name))
                grid.addWidget(button, i // COLUMNS, i % COLUMNS)
                self.buttons[name] = button
                if name in TRUE:
                    self._of_cut += [heading, button]
            column.addLayout(grid)
            column.addSpacing(4)

    def _choose(self, name: str) -> None:
        self.close()
        self.chosen.emit(name)

    def open_at(self, at: QPoint) -> None:
        """Stand with the upper right corner there, on the screen."""
        for widget in self._of_cut:
            widget.setVisible(self._views.front is not None)
        self.adjustSize()
        room = self.screen().availableGeometry()
        x = min(max(at.x() - self.width(), room.left() + 4), room.right() - self.width() - 4)
        y = min(max(at.y(), room.top() + 4), room.bottom() - self.height() - 4)
        self.move(x, y)
        self.show()
        next(iter(self.buttons.values())).setFocus()


class ViewChooser(QWidget):
    """The views taken last, and the way to all others."""

    def __init__(self, session: Session, stage: Stage, actions: Actions, views: ViewCommands) -> None:
        super().__init__()
        self._actions, self._views = actions, views
        self.pictures = ViewPictures(session, stage, views, self)
        column = bare_column(self, 3)
        row = QHBoxLayout()
        row.setSpacing(5)
        self.front = [ViewButton(name, self.pictures, FRONT) for name in views.used[:3]]
        for button in self.front:
            button.clicked.connect(lambda _=False, button=button: self._take(button.name))
            row.addWidget(button)
        row.addStretch()
        column.addLayout(row)
        self.all = panel_button(actions["all_views"])
        column.addWidget(self.all)
        views.sheet_wanted.connect(self.open_sheet)
        self.sheet = ViewSheet(self.pictures, views, self)
        self.sheet.chosen.connect(self._take)
        for signal in (session.opened, session.changed, session.recut, session.camera_moved):
            signal.connect(self._show_front)

    def _take(self, name: str) -> None:
        self._actions[f"view {name}"].trigger()

    def open_sheet(self) -> None:
        """Show all views."""
        self.sheet.open_at(self.mapToGlobal(QPoint(self.width(), 0)))

    def _show_front(self) -> None:
        for button, name in zip(self.front, self._views.used):
            button.show_view(name)
