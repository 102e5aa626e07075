"""The shots of a film as blocks in a row, as long as they take: pressed, dragged, trimmed at their ends, copied."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import accumulate

from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
)
from PySide6.QtWidgets import QApplication, QToolTip, QWidget

from anatome.app.base import theme
from anatome.app.base.dragged import dragged_scenes
from anatome.app.base.trouble import never_dies
from anatome.app.document.film_desk import FilmDesk
from anatome.app.document.session import Session
from anatome.app.films.player import ASPECT, Player
from anatome.app.films.shot_pictures import ShotPictures
from anatome.app.films.shot_words import MOVES, SHORT, seconds_words, shot_words
from anatome.filming.words import fields_of_film
from anatome.films.timeline import scene_of
from anatome.scenes import film_edits
from anatome.scenes.film import LONGEST_SHOT, AnyShot, Card
from anatome.scenes.sheet_frames import filled

RULER, PICTURE, WORDS = 14, 50, 18
HIGH = RULER + PICTURE + WORDS + 6
NARROWEST = 74
"""Pixels a block takes at least, however short its shot is."""
GAP = 4
EDGE = 6
"""Pixels at the end of a block that trim it."""
STEP = 0.1
"""Seconds to which a dragged length is rounded."""
SHORTEST = 0.2
FRAME = 1 / 25
"""Seconds the arrow keys go."""
OWN_KEYS = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_Space)


@dataclass
class _Held:
    """What the mouse does: ``goes`` along the ruler, ``moves`` a shot, or ``trims`` it."""

    what: str
    number: int
    start: QPointF
    seconds: float = 0.0
    scale: float = 1.0
    moved: bool = False


class ShotRow(QWidget):
    """``menu_wanted`` says where, after the shot under the pointer was picked."""

    menu_wanted = Signal(QPoint)

    def __init__(self, session: Session, desk: FilmDesk, player: Player, pictures: ShotPictures) -> None:
        super().__init__()
        self._session, self._desk, self._player, self.moments = session, desk, player, pictures
        self._held: _Held | None = None
        self._trims = 0
        self._drop_at: int | None = None
        self._pictures: dict[tuple[int, str], QPixmap] = {}
        self.setMouseTracking(True)
        self.setAcceptDrops(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFixedHeight(HIGH)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(self._menu)
        for signal in (player.moved, player.changed, session.thumbnails_changed, pictures.news):
            signal.connect(self.update)

    # Places ----------------------------------------------------------------------------------------------------

    @property
    def shots(self) -> tuple[AnyShot, ...]:
        film = self._desk.film
        return () if film is None else film.shots

    def sizeHint(self) -> QSize:
        return QSize((NARROWEST + GAP) * len(self.shots) + 12, HIGH)

    def _widths(self) -> list[float]:
        """Pixels of each block: as long as they take, none too narrow to be told apart."""
        shots = self.shots
        if not shots:
            return []
        room = max(self.width() - 12.0, (NARROWEST + GAP) * len(shots)) - GAP * len(shots)
        free, whole = room - NARROWEST * len(shots), sum(shot.seconds for shot in shots)
        return [NARROWEST + free * shot.seconds / whole for shot in shots]

    def _lefts(self) -> list[float]:
        return [6.0 + left + GAP * n for n, left in enumerate([0.0, *accumulate(self._widths())])]

    def box_of(self, number: int) -> QRectF:
        """Return where a block lies."""
        return QRectF(self._lefts()[number], RULER, self._widths()[number], PICTURE + WORDS)

    def x_of(self, seconds: float) -> float:
        """Return the pixel of a moment."""
        film = self._desk.film
        if film is None or not film.shots:
            return 6.0
        number = film.number_at(seconds)
        share = min((seconds - film.begins(number)) / film.shots[number].seconds, 1.0)
        return self._lefts()[number] + share * self._widths()[number]

    def time_at(self, x: float) -> float:
        """Return the moment at a pixel."""
        film = self._desk.film
        if film is None or not film.shots:
            return 0.0
        lefts, widths = self._lefts(), self._widths()
        number = max((n for n in range(len(widths)) if lefts[n] <= x), default=0)
        share = min(max((x - lefts[number]) / widths[number], 0.0), 1.0 - 1e-6)
        return film.begins(number) + share * film.shots[number].seconds

    def number_at(self, at: QPointF) -> int | None:
        """Return the block at a place."""
        return next((n for n in range(len(self.shots)) if self.box_of(n).adjusted(0, 0, GAP, 0).contains(at)), None)

    def _edge_at(self, at: QPointF) -> int | None:
        """The block whose end is taken hold of at a place."""
        for number in range(len(self.shots)):
            box = self.box_of(number)
            if box.top() <= at.y() <= box.bottom() and abs(at.x() - box.right()) <= EDGE:
                return number
        return None

    def _gap_at(self, x: float) -> int:
        """Before which block something would be put."""
        return sum(self.box_of(n).center().x() < x for n in range(len(self.shots)))

    # Painting --------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        with never_dies():
            self._paint_all(painter)
        painter.end()

    def _paint_all(self, painter: QPainter) -> None:
        colours, film = theme.current(), self._desk.film
        if film is None:
            return
        if not film.shots:
            painter.setFont(theme.font(9.5))
            painter.setPen(QColor(colours.ink_faint))
            words = "No shots yet. Press Add, or drag scenes here from the left."
            painter.drawText(self.rect().adjusted(8, 0, -8, 0), int(Qt.AlignmentFlag.AlignVCenter), words)
        else:
            self._paint_ruler(painter)
            for number, shot in enumerate(film.shots):
                self._paint_shot(painter, number, shot)
            self._paint_place(painter)
        if self._drop_at is not None:
            self._paint_drop(painter, self._drop_at)

    def _paint_ruler(self, painter: QPainter) -> None:
        """Seconds, as long as a film's own; fewer where they would touch."""
        colours, film = theme.current(), self._desk.film
        assert film is not None
        painter.setFont(theme.font(7))
        last = -1e9
        for second in range(int(film.seconds) + 1):
            x = self.x_of(float(second))
            if x - last < 4:
                continue
            painter.setPen(QPen(QColor(colours.rule), 1))
            painter.drawLine(QPointF(x, RULER - 4), QPointF(x, RULER - 1))
            if x - last >= 34 or second == 0:
                last = x
                painter.setPen(QColor(colours.ink_faint))
                painter.drawLine(QPointF(x, RULER - 6), QPointF(x, RULER - 1))
                painter.drawText(QRectF(x + 3, 0, 40, RULER - 2), Qt.AlignmentFlag.AlignVCenter, seconds_words(float(second)))

    def _paint_shot(self, painter: QPainter, number: int, shot: AnyShot) -> None:
        colours, box = theme.current(), self.box_of(number)
        picked = number == self._desk.number
        picture = QRectF(box.left(), box.top(), box.width(), PICTURE)
        gone = bool(shot.scene) and self._session.project.scene(shot.scene) is None
        painter.save()
        painter.setClipRect(picture)
        painter.fillRect(picture, QColor(theme.LIGHT.paper))
        if isinstance(shot, Card):
            self._paint_card(painter, picture, number, shot)
        else:
            self._paint_moments(painter, picture, number)
        painter.restore()
        edge = colours.warning if gone else colours.accent if picked else colours.rule
        painter.setPen(QPen(QColor(edge), 2 if picked or gone else 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(picture.adjusted(0.5, 0.5, -0.5, -0.5))
        if picked:  # its end is taken hold of
            grip = QRectF(picture.right() - 4, picture.center().y() - 9, 5, 18)
            painter.fillRect(grip, QColor(colours.accent))
        words = QRectF(box.left() + 1, picture.bottom() + 2, box.width() - 2, WORDS - 2)
        painter.setFont(theme.font(8.5, strong=picked))
        long = seconds_words(shot.seconds)
        room = painter.fontMetrics().horizontalAdvance(long) + 4
        painter.setPen(QColor(colours.ink_faint))
        painter.drawText(words, int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter), long)
        painter.setPen(QColor(colours.ink if picked else colours.ink_soft))
        said = painter.fontMetrics().elidedText(SHORT[shot.word], Qt.TextElideMode.ElideRight, round(words.width() - room))
        painter.drawText(words, int(Qt.AlignmentFlag.AlignVCenter), said)

    def _paint_card(self, painter: QPainter, picture: QRectF, number: int, card: Card) -> None:
        film, project = self._desk.film, self._session.project
        scene = None if film is None else scene_of(film, number, project)
        if film is None or scene is None:
            return
        painter.fillRect(picture, QColor.fromRgbF(*scene.state.look.paper))
        painter.setFont(theme.font(9, strong=True))
        painter.setPen(QColor.fromRgbF(*scene.state.look.ink))
        heading = filled(shot_words(card, project), fields_of_film(film, project))
        flags = int(Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap)
        painter.drawText(picture.adjusted(6, 2, -6, -2), flags, heading)

    def _paint_moments(self, painter: QPainter, picture: QRectF, number: int) -> None:
        """As many moments as there is room for; until they are drawn the picture of the scene."""
        count = max(1, round(picture.width() / (PICTURE * ASPECT)))
        wide = picture.width() / count
        for place in range(count):
            small = self.moments.get(number, (place + 0.5) / count) or self._picture(number)
            if small is not None:
                part = QRectF(picture.left() + place * wide, picture.top(), wide, PICTURE)
                # As much of it as there is room for, from its middle.
                scale = max(part.width() / small.width(), part.height() / small.height())
                across, up = part.width() / scale, part.height() / scale
                painter.drawPixmap(part, small, QRectF((small.width() - across) / 2, (small.height() - up) / 2, across, up))

    def _picture(self, number: int) -> QPixmap | None:
        film = self._desk.film
        scene = None if film is None else scene_of(film, number, self._session.project)
        data = None if scene is None else self._session.pictures.get(scene)
        if scene is None or data is None:
            return None
        key = (self._session.pictures.version, scene.id)
        if key not in self._pictures:
            if self._pictures and next(iter(self._pictures))[0] != key[0]:
                self._pictures.clear()
            made = QPixmap()
            made.loadFromData(data)
            self._pictures[key] = made
        found = self._pictures[key]
        return None if found.isNull() else found

    def _paint_place(self, painter: QPainter) -> None:
        """The moment that is shown."""
        colour, x = (
            QColor(theme.current().accent if self._player.is_shown else theme.current().ink_faint),
            self.x_of(self._player.time),
        )
        painter.setPen(QPen(colour, 1.5))
        painter.drawLine(QPointF(x, RULER - 4), QPointF(x, RULER + PICTURE))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawPolygon(QPolygonF([QPointF(x - 5, RULER - 11), QPointF(x + 5, RULER - 11), QPointF(x, RULER - 3)]))

    def _paint_drop(self, painter: QPainter, at: int) -> None:
        x = self._lefts()[at] - GAP / 2 if self.shots else 6.0
        painter.setPen(QPen(QColor(theme.current().accent), 3))
        painter.drawLine(QPointF(x, RULER - 2), QPointF(x, RULER + PICTURE + WORDS))

    # Mouse -----------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton or not self.shots:
            return
        at = event.position()
        edge, number = self._edge_at(at), self.number_at(at)
        if at.y() < RULER:
            self._held = _Held("goes", -1, at)
            self._player.go_to(self.time_at(at.x()))
        elif edge is not None:
            shot = self.shots[edge]
            self._trims += 1
            # Others keep their length in seconds and give way in pixels: what one drags is seconds at the scale of the press.
            scale = shot.seconds / max(self._widths()[edge], 1.0)
            self._held = _Held("trims", edge, at, shot.seconds, max(scale, 0.01))
            self._session.pick(shot=edge)
        elif number is not None:
            self._held = _Held("moves", number, at)
            self._session.pick(shot=number)
            self._player.go_to(self.time_at(at.x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at, held = event.position(), self._held
        if held is None:
            edge = at.y() >= RULER and self._edge_at(at) is not None
            self.setCursor(Qt.CursorShape.SizeHorCursor if edge or at.y() < RULER else Qt.CursorShape.ArrowCursor)
            return
        if held.what == "goes":
            self._player.go_to(self.time_at(at.x()))
        elif held.what == "trims":
            wanted = held.seconds + (at.x() - held.start.x()) * held.scale
            self._trim(held.number, min(max(round(wanted / STEP) * STEP, SHORTEST), LONGEST_SHOT))
        elif held.moved or abs(at.x() - held.start.x()) >= QApplication.startDragDistance():
            held.moved = True
            self._drop_at = self._gap_at(at.x())
            self.setCursor(Qt.CursorShape.DragCopyCursor if _copies(event) else Qt.CursorShape.ClosedHandCursor)
            self.update()

    def _trim(self, number: int, seconds: float) -> None:
        shot = self.shots[number]
        changed = shot.model_copy(update={"seconds": round(seconds, 3)})
        self._desk.put_shot(changed, f"{MOVES[shot.word][0]}: {seconds_words(seconds)}", f"trim {self._trims}", number)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        held, self._held = self._held, None
        if held is not None and held.moved:
            to, self._drop_at = self._drop_at, None
            self.setCursor(Qt.CursorShape.ArrowCursor)
            if to is not None and _copies(event):
                self._desk.add((self.shots[held.number],), "Copied the shot", to)
            elif to is not None:
                self._desk.move(held.number, to)
        self.update()

    def event(self, event: QEvent) -> bool:
        """Keep the keys of a player from commands of the window, and say what a block is of."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and event.key() in OWN_KEYS:
            event.accept()
            return True
        if event.type() == QEvent.Type.ToolTip:
            at = QPointF(self.mapFromGlobal(self.cursor().pos()))
            number = self.number_at(at)
            if number is not None:
                shot = self.shots[number]
                said = f"{MOVES[shot.word][0]}: {shot_words(shot, self._session.project)}, {seconds_words(shot.seconds)}"
                QToolTip.showText(
                    self.cursor().pos(), f"{said}\nDrag it elsewhere, with Ctrl a copy; drag its end to trim it", self
                )
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows go by a frame, with Shift by a second; Space runs it, or has it stand."""
        film, key = self._desk.film, event.key()
        if film is None or key not in OWN_KEYS:
            super().keyPressEvent(event)
            return
        by = 1.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else FRAME
        if key == Qt.Key.Key_Space:
            self._player.play()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._player.go_to(self._player.time + (by if key == Qt.Key.Key_Right else -by))
        else:
            self._player.go_to(0.0 if key == Qt.Key.Key_Home else film.seconds)

    def _menu(self, at: QPoint) -> None:
        number = self.number_at(QPointF(at))
        if number is not None:
            self._session.pick(shot=number)
            self.menu_wanted.emit(self.mapToGlobal(at))

    # Scenes dropped --------------------------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dragged_scenes(event.mimeData()):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        self._drop_at = self._gap_at(event.position().x())
        event.acceptProposedAction()
        self.update()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        self._drop_at = None
        self.update()

    def dropEvent(self, event: QDropEvent) -> None:
        at, self._drop_at = self._gap_at(event.position().x()), None
        event.setDropAction(Qt.DropAction.CopyAction)
        event.accept()
        project, film = self._session.project, self._desk.film
        if film is None:
            return
        shots: list[AnyShot] = []
        for scene_id in dragged_scenes(event.mimeData()):
            scene = project.scene(scene_id)
            if scene is not None:
                shots += film_edits.arriving(film_edits.insert_shots(film, at, shots), scene)
        if shots:
            self._desk.add(shots, "Added scenes to the film", at)
        self.update()


def _copies(event: QMouseEvent) -> bool:
    return bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
