"""What lies over the stage while scenes are shown: the caption, the pen's strokes, black, and a bar that comes with the mouse."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QToolButton, QWidget

from anatome.app.base import theme
from anatome.app.base.drag import Drag, Pressing, Spot, spot
from anatome.app.document.session import Session
from anatome.app.presenting.presentation import Presentation
from anatome.app.stage.handles import CutHandles
from anatome.app.stage.overlay import caption
from anatome.app.stage.stage import Stage

LINGERS = 2500
"""Milliseconds after the last move of the mouse that bar and pointer stay."""
NIB = 3.5
"""Pixels the pen is wide."""
INK = QColor(theme.LIGHT.accent)
NEXT = (Qt.Key.Key_Right, Qt.Key.Key_Down, Qt.Key.Key_PageDown, Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter)
BACK = (Qt.Key.Key_Left, Qt.Key.Key_Up, Qt.Key.Key_PageUp, Qt.Key.Key_Backspace)
BLACK = (Qt.Key.Key_Period, Qt.Key.Key_B)
"""What a presenter's remote control sends for a black screen (common practice)."""


class _Stroke(Drag):
    """A line drawn on the picture."""

    def __init__(self, start: Spot, curtain: Curtain) -> None:
        super().__init__(start)
        self._curtain = curtain
        curtain.strokes.append([QPointF(*start)])

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._curtain.strokes[-1].append(QPointF(*now))
        self._curtain.update()

    def cancel(self) -> bool:
        self._curtain.strokes.pop()
        self._curtain.update()
        return True


class _Pull(Drag):
    """The cut of the scene, moved for as long as the scene is shown."""

    def __init__(self, start: Spot, presentation: Presentation, handles: CutHandles) -> None:
        super().__init__(start)
        self._presentation, self._handles = presentation, handles

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._presentation.pull(self._handles, self.start, now)

    def cancel(self) -> bool:
        self._presentation.pull(self._handles, self.start, self.start)
        return True


class Curtain(QWidget):
    """Takes mouse and keys while scenes are shown: a drag moves the cut, with the right button or the pen in hand it draws, a
    click goes on."""

    def __init__(self, session: Session, stage: Stage, presentation: Presentation) -> None:
        super().__init__(stage)
        self.setObjectName("curtain")
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.setAttribute(Qt.WidgetAttribute.WA_TranslucentBackground)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._session, self._stage, self._presentation = session, stage, presentation
        self.strokes: list[list[QPointF]] = []
        self._of: object = None
        """The scene the strokes are drawn on."""
        self._pressing = Pressing((self._draws, self._pulls))
        self.bar = _Bar(self, presentation)
        self._quiet = QTimer(self, singleShot=True, interval=LINGERS)
        self._quiet.timeout.connect(self._rest)
        presentation.began.connect(self._begin)
        presentation.ended.connect(self.hide)
        presentation.changed.connect(self._show)
        stage.installEventFilter(self)
        self.hide()

    # Showing ---------------------------------------------------------------------------------------------------

    def _begin(self) -> None:
        self._of = None
        self.setGeometry(self._stage.rect())
        self.show()
        self.raise_()
        self.setFocus()
        self._wake()

    def _show(self) -> None:
        scene = self._presentation.scene
        key = None if scene is None else scene.id
        if key != self._of:
            self._of = key
            self.strokes.clear()
        self.bar.refresh()
        self.update()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Follow the size of the stage."""
        if event.type() == QEvent.Type.Resize and self.isVisible():
            self.setGeometry(self._stage.rect())
            self.strokes.clear()
            self.bar.place()
            QTimer.singleShot(0, self._presentation.show_again)
        return False

    def _wake(self) -> None:
        """The mouse was moved: pointer and bar are there for a while."""
        self.setCursor(Qt.CursorShape.CrossCursor if self.bar.pen.isChecked() else Qt.CursorShape.ArrowCursor)
        self.bar.place()
        self.bar.show()
        self._quiet.start()

    def _rest(self) -> None:
        if self.bar.underMouse() or self._pressing.drag is not None:
            self._quiet.start()
            return
        self.bar.hide()
        self.setCursor(Qt.CursorShape.BlankCursor)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._presentation.black:
            painter.fillRect(self.rect(), QColor("black"))
        else:
            if self._presentation.captions:
                self._paint_caption(painter)
            self._paint_strokes(painter)
        painter.end()

    def _paint_strokes(self, painter: QPainter) -> None:
        style = Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin
        for pen in (
            QPen(QColor(255, 255, 255, 190), NIB + 3.0, Qt.PenStyle.SolidLine, *style),
            QPen(INK, NIB, Qt.PenStyle.SolidLine, *style),
        ):
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for stroke in self.strokes:
                path = QPainterPath(stroke[0])
                for point in stroke[1:]:
                    path.lineTo(point)
                painter.drawPath(path)

    def _paint_caption(self, painter: QPainter) -> None:
        """The name of the scene, and in small print what is drawn."""
        title, what = caption(self._session)
        what = "" if self._presentation.is_under_way else what.split(" · ")[0]
        strong, plain = theme.font(15, strong=True), theme.font(11)
        size = max(QFontMetricsF(strong).horizontalAdvance(title), QFontMetricsF(plain).horizontalAdvance(what))
        paper = self._session.stage.look.paper
        slip = QColor.fromRgbF(*paper, 0.88)
        light = 0.2126 * paper[0] + 0.7152 * paper[1] + 0.0722 * paper[2] > 0.4
        ink = QColor(theme.LIGHT.ink if light else theme.DARK.ink)
        soft = QColor(theme.LIGHT.ink_soft if light else theme.DARK.ink_soft)
        box = QRectF(32, self.height() - 84, size + 32, 58)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(slip)
        painter.drawRoundedRect(box, 6, 6)
        painter.setFont(strong)
        painter.setPen(ink)
        painter.drawText(QPointF(box.left() + 16, box.top() + 26), title)
        painter.setFont(plain)
        painter.setPen(soft)
        painter.drawText(QPointF(box.left() + 16, box.top() + 47), what)

    # Mouse and keys --------------------------------------------------------------------------------------------

    def event(self, event: QEvent) -> bool:
        """No key is a command of the window while scenes are shown."""
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
            return True
        return super().event(event)

    def _draws(self, event: QMouseEvent) -> Drag | None:
        if self._presentation.black or not (event.button() == Qt.MouseButton.RightButton or self.bar.pen.isChecked()):
            return None
        return _Stroke(spot(event.position()), self)

    def _pulls(self, event: QMouseEvent) -> Drag | None:
        start = spot(event.position())
        handles = None if self._presentation.black else self._presentation.handles()
        return Drag(start) if handles is None else _Pull(start, self._presentation, handles)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() in (Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton):
            self._pressing.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._wake()
        self._pressing.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag = self._pressing.release(event)
        if isinstance(drag, _Stroke):
            drag.cancel()  # a point is no stroke
        elif drag is not None:
            self._presentation.go(1)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """It is not the stage's while scenes are shown."""
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        shown, key = self._presentation, event.key()
        acts: dict[int, Callable[[], object]] = {
            **{k: lambda: shown.go(1) for k in NEXT},
            **{k: lambda: shown.go(-1) for k in BACK},
            **{k: lambda: shown.show_black(not shown.black) for k in BLACK},
            Qt.Key.Key_Home: lambda: shown.go_to(0),
            Qt.Key.Key_End: lambda: shown.go_to(shown.place[1] - 1),
            Qt.Key.Key_Tab: self.bar.pen.toggle,
            Qt.Key.Key_Escape: self.step_back,
            Qt.Key.Key_F11: shown.leave,
        }
        if key in acts:
            acts[key]()

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Tab takes the pen in hand."""
        return False

    def step_back(self) -> None:
        """Escape: let go of a drag, end black, wipe the strokes away, lay down the pen; else show no more."""
        if self._pressing.cancel():
            return
        if self._presentation.black:
            self._presentation.show_black(False)
        elif self.strokes:
            self.strokes.clear()
            self.update()
        elif self.bar.pen.isChecked():
            self.bar.pen.setChecked(False)
        else:
            self._presentation.leave()


class _Bar(QFrame):
    """Where one is, and what one can do, in words."""

    def __init__(self, curtain: Curtain, presentation: Presentation) -> None:
        super().__init__(curtain)
        self.setObjectName("presenting")
        self.setCursor(Qt.CursorShape.ArrowCursor)
        self._curtain, self._presentation = curtain, presentation
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 6, 8, 6)
        row.setSpacing(4)
        self.back = self._button("Back", "The scene before  (←)", lambda: presentation.go(-1))
        self.where = QLabel()
        self.where.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.on = self._button("Next", "The next scene  (→, Space, a click on the picture)", lambda: presentation.go(1))
        tip = "Draw on the picture, until the next scene  (Tab; or drag with the right button)"
        self.pen = self._button("Pen", tip, self._take_pen, held=True)
        self.pen.toggled.connect(self._take_pen)
        self.black = self._button("Black", "Nothing on the screen, until a key or a click  (.)", self._black, held=True)
        self.words = self._button("Caption", "The name of the scene at the foot", self._caption, held=True)
        self.end = self._button("End", "The window again, as it was  (Esc)", presentation.leave)
        for group in ((self.back, self.where, self.on), (self.pen, self.black, self.words), (self.end,)):
            for widget in group:
                row.addWidget(widget)
            if self.end not in group:
                row.addSpacing(14)
        self.hide()

    def _button(self, words: str, tip: str, run: Callable[[], object], held: bool = False) -> QToolButton:
        made = QToolButton()
        made.setText(words)
        made.setToolTip(tip)
        made.setCheckable(held)
        made.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        made.clicked.connect(lambda: run())
        return made

    def _take_pen(self, *_: object) -> None:
        drawing = self.pen.isChecked()
        self._curtain.setCursor(Qt.CursorShape.CrossCursor if drawing else Qt.CursorShape.ArrowCursor)

    def _black(self) -> None:
        self._presentation.show_black(self.black.isChecked())

    def _caption(self) -> None:
        self._presentation.show_captions(self.words.isChecked())

    def refresh(self) -> None:
        """Say where one is."""
        number, of = self._presentation.place
        self.where.setText(f"{number} of {of}")
        self.back.setEnabled(number > 1)
        self.on.setEnabled(number < of)
        self.black.setChecked(self._presentation.black)
        self.words.setChecked(self._presentation.captions)
        self.place()

    def place(self) -> None:
        """At the foot, in the middle."""
        size: QSize = self.sizeHint()
        room = self._curtain.size()
        self.setGeometry((room.width() - size.width()) // 2, room.height() - size.height() - 20, size.width(), size.height())
