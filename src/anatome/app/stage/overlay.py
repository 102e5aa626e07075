"""What lies over the picture: the frames and handles of cuts, the preview of a new one, and the caption."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, QSizeF, Qt, QTimer
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from anatome.app.base import theme, units
from anatome.app.base.trouble import never_dies
from anatome.app.document.session import Session
from anatome.app.stage.crop_frame import PARTS, CropFrame
from anatome.app.stage.details import frame_of
from anatome.app.stage.figures import outlines_of
from anatome.app.stage.handles import CutHandles
from anatome.app.stage.previews import (
    ACCENT,
    INK,
    PAPER,
    SLATE,
    paint_knob,
    paint_notes,
    paint_outlines,
    paint_preview,
    paint_slip,
    polygon,
)
from anatome.app.stage.stage import Stage
from anatome.app.stage.tasks import Preview
from anatome.compiled import is_ready
from anatome.cuts.cut import AnyCut
from anatome.cuts.pieces import parts
from anatome.lengths import scale_words as written_scale
from anatome.site.standing import standing
from anatome.view.crop import height_at
from anatome.view.viewport import Viewport

LATE = 400
"""Milliseconds after which it is said that a cut is under way."""
SHOWS_THROUGH = 0.55
"""How solid linework is while parts are picked."""


class OverPicture(Protocol):
    """Somebody with an ``image`` over the picture for a while, as solid as ``faint`` says."""

    @property
    def image(self) -> QImage | None:
        """Over all of the stage; None: nothing."""

    @property
    def faint(self) -> float:
        """From 0 to 1."""


class Overlay(QWidget):
    """Transparent to the mouse; the hands on the stage tell it what to show."""

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__(stage)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.setAttribute(Qt.WidgetAttribute.WA_TranslucentBackground)
        self.setStyleSheet("background: transparent")
        self._session, self._stage, self._noted = session, stage, stage.noted
        self.handles: CutHandles | None = None
        self.held: str | None = None
        self.preview: Preview | None = None
        self.rectangle: QRectF | None = None
        self.rectangle_encloses = True
        self.rectangle_of = ""
        self.hint = ""
        self.also = ""
        self.why = ""
        self.word = ""
        """What a click would pick, where the pointer rests."""
        self.pointer = QPointF()
        """Where the pointer was when ``why`` or the word was said."""
        self.snap = ""
        self.bare = False
        self.captioned = True
        self._late = QTimer(self, singleShot=True, interval=LATE)
        self._late.timeout.connect(self._be_late)
        self._is_late = False
        self._reading = ""
        self.over: tuple[OverPicture, ...] = ()
        """Who may have something that lies over the picture."""
        session.shown_for_now.connect(self.update)
        for signal in (session.changed, session.camera_moved, session.picked_changed, session.recut):
            signal.connect(self.update)
        for signal in (session.changed, session.recut):
            signal.connect(self._watch_cut)
        for own in (stage.noted.news, stage.lined.news):
            own.connect(self.update)

    def _watch_cut(self) -> None:
        """A cut that is not there for a while is said to be under way."""
        if not self._session.is_open or self._session.is_cut:
            self._late.stop()
            self._is_late = False
        elif not self._is_late and not self._late.isActive():
            self._late.start()

    def say_reading(self, share: float | None) -> None:
        """Say how far the model is read of which a part is shown; None: nothing is read any more."""
        said = "" if share is None else f"Reading the rest… {100 * share:.0f} %"
        if said != self._reading:
            self._reading = said
            self.update()

    def _be_late(self) -> None:
        self._is_late = self._session.is_open and not self._session.is_cut
        self.update()

    @property
    def said(self) -> str:
        """What is said at the top of the stage: what the task in hand asks for, or that a cut takes its time."""
        if not self.hint and self._reading:
            return self._reading
        if self._is_late and not self._session.is_cut:
            return "Cutting…" if is_ready() else "Getting ready: the first cut on a machine takes some seconds…"
        return self.hint

    def paintEvent(self, event: QPaintEvent) -> None:
        session = self._session
        if not session.is_open or session.building is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        with never_dies():
            self._paint_all(painter)
        painter.end()

    def _paint_all(self, painter: QPainter) -> None:
        session = self._session
        assert session.building is not None
        self._paint_lines(painter)
        self._paint_before(painter)
        frame = None if session.stage.crop is None else CropFrame(session.stage.crop, QSizeF(self.size()))
        if frame is not None:
            self._paint_crop(painter, frame, session.picked.crop)
        viewport = Viewport.of(session.stage.camera, self.width(), self.height())
        self._paint_notes(painter)
        if not self.bare:
            bounds = session.subject_bounds()
            for cut in session.stage.cuts:
                if cut.graphic:
                    self._paint_frame(painter, viewport, cut, bounds)
            self._paint_series(painter, viewport)
            self._paint_figure(painter, viewport)
            self._paint_detail_frame(painter, viewport)
            if self.preview is not None:
                paint_preview(painter, viewport, self.preview, bounds, self.size())
            elif self.handles is not None:
                self._paint_handles(painter, self.handles)
        if self.rectangle is not None:
            self._paint_rectangle(painter, self.rectangle)
        if self.captioned:
            self._paint_caption(painter)
        if frame is not None and session.picked.crop and not self.bare:
            self._paint_crop_handles(painter, frame)  # over everything that lies on the picture
        if self.said:
            self._paint_hint(painter)
        if self.why:
            paint_slip(painter, self.size(), self.why, self.pointer + QPointF(16, 14))
        elif self.word and not self.bare:
            paint_slip(painter, self.size(), self.word, self.pointer + QPointF(14, 16), quiet=True)

    def _paint_lines(self, painter: QPainter) -> None:
        """The linework of the stage in the place of its picture, once it is drawn."""
        stage = self._stage
        if stage.shows_unlined and not stage.lined.mode and (over := stage.lined.latest) is not None:
            painter.drawImage(QRectF(self.rect()), over)  # those of the picture that is seen, until another is
        lines = stage.lined.image(stage.lines_key()) if stage.lined.mode else None
        if lines is not None:
            # What is picked is tinted in the picture under it, and shows through.
            painter.setOpacity(SHOWS_THROUGH if self._session.picked.elements else 1.0)
            painter.drawImage(QRectF(self.rect()), lines)
            painter.setOpacity(1.0)

    def _paint_before(self, painter: QPainter) -> None:
        """The picture before the one that is shown, while it fades, or the words of a film."""
        for one in self.over:
            if one.image is not None:
                painter.setOpacity(one.faint)
                painter.drawImage(QRectF(self.rect()), one.image)
        painter.setOpacity(1.0)

    def _paint_notes(self, painter: QPainter) -> None:
        """What is written on the picture, what is picked of it in the accent; and what a task would write."""
        if not self._session.stage.is_written_on and (self.preview is None or not self.preview.notes):
            return
        picked = () if self.bare else self._session.picked.notes
        paint_notes(painter, self._noted.drawn(), self.height(), picked, self.preview.notes if self.preview is not None else ())

    def _paint_rectangle(self, painter: QPainter, box: QRectF) -> None:
        """What is being picked with: a whole line for what it encloses, a broken one for what it touches."""
        fill = QColor(ACCENT)
        fill.setAlpha(22)
        style = Qt.PenStyle.SolidLine if self.rectangle_encloses else Qt.PenStyle.DashLine
        painter.setPen(QPen(ACCENT, 1.0, style))
        painter.setBrush(fill)
        painter.drawRect(box.translated(0.5, 0.5))  # on whole pixels, so that its line is crisp
        painter.setFont(theme.font(9))
        painter.setPen(ACCENT)
        words = ("encloses" if self.rectangle_encloses else "touches") + self.rectangle_of
        painter.drawText(box.adjusted(6, 4, -6, -4), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, words)

    def _paint_crop(self, painter: QPainter, frame: CropFrame, held: bool) -> None:
        """The line of the crop; while it is held, what lies outside is dimmed, and thirds and middle help to compose."""
        box = frame.box
        if held or frame.crop.line or self.bare:
            outside = QPainterPath()
            outside.setFillRule(Qt.FillRule.OddEvenFill)
            outside.addRect(QRectF(self.rect()))
            outside.addRect(box)
            # Shown to others, what surrounds the picture is its own paper.
            veil = QColor(PAPER) if self.captioned else QColor.fromRgbF(*self._session.stage.look.paper)
            veil.setAlpha(255 if self.bare else 185 if held else 110)
            painter.fillPath(outside, veil)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(ACCENT if held else INK, 1.4 if held else 0.8))
            if not self.bare:
                painter.drawRect(box)
        if not held or self.bare:
            return
        faint = QColor(INK)
        faint.setAlpha(70)
        painter.setPen(QPen(faint, 0.8, Qt.PenStyle.DotLine))
        for share in (1 / 3, 2 / 3):
            x, y = box.left() + share * box.width(), box.top() + share * box.height()
            painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
        middle = box.center()
        painter.setPen(QPen(faint, 1.0))
        painter.drawLine(middle - QPointF(6, 0), middle + QPointF(6, 0))
        painter.drawLine(middle - QPointF(0, 6), middle + QPointF(0, 6))

    def _paint_crop_handles(self, painter: QPainter, frame: CropFrame) -> None:
        """The line of a crop in hand and what it is pulled by."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(ACCENT, 1.4))
        painter.drawRect(frame.box)
        painter.setPen(QPen(PAPER, 1.5))
        painter.setBrush(ACCENT)
        for part in PARTS:
            painter.drawEllipse(frame.handle(part), 6.0, 6.0)

    # Cuts ------------------------------------------------------------------------------------------------------

    def _paint_frame(self, painter: QPainter, viewport: Viewport, cut: AnyCut, bounds: NDArray[np.float64]) -> None:
        picked = cut.id == self._session.picked.cut
        colour = QColor(ACCENT)
        colour.setAlpha(255 if picked else 120)
        painter.setPen(QPen(colour, 1.6 if picked else 1.0, Qt.PenStyle.SolidLine if cut.on else Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        outlines = [viewport.pixels(frame) for frame in cut.frames(bounds)]
        outlines = [points for points in outlines if np.isfinite(points).all()]
        if not outlines:
            return
        for points in outlines:
            painter.drawPolygon(polygon(points))
        box = mark_box(np.concatenate(outlines), self.width(), self.height())
        painter.setBrush(colour if picked else PAPER)
        painter.drawEllipse(box)
        painter.setFont(theme.font(8.5, strong=True))
        painter.setPen(PAPER if picked else colour)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, cut.mark)

    def _paint_series(self, painter: QPainter, viewport: Viewport) -> None:
        """The labels of serial sections where they do not lie over one another, and the outline of the picked one."""
        session = self._session
        series = session.series
        picked = series.label(session.picked.member) if series is not None and session.picked.member is not None else None
        labels: list[tuple[str, QRectF, bool]] = []
        for face in session.on_stage().cut_open.faces:
            segments = face.without_seams(face.section.outline_segments[0])
            if not face.free or not len(segments):
                continue
            own = series is not None and face.cut.id == series.id and face.name == picked
            points = viewport.pixels(segments)
            if own:
                painter.setPen(QPen(ACCENT, 2.4))
                painter.drawLines([QLineF(*a, *b) for a, b in points[np.isfinite(points).all(axis=(1, 2))].tolist()])
            seen = points[:, 0][[viewport.holds(p, 24.0) for p in points[:, 0]]]
            if len(seen):
                x, y = seen[np.argmin(seen[:, 0])]
                labels.append((face.name, QRectF(x - 38, y - 9, 34, 18), own))
        painter.setFont(theme.font(8.5, strong=True))
        placed: list[QRectF] = []
        for name, box, own in sorted(labels, key=lambda label: not label[2]):
            if any(box.intersects(other) for other in placed):
                continue
            placed.append(box)
            painter.setPen(QPen(ACCENT, 1.0))
            painter.setBrush(ACCENT if own else PAPER)
            painter.drawRoundedRect(box, 4, 4)
            painter.setPen(PAPER if own else ACCENT)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)

    def _paint_handles(self, painter: QPainter, handles: CutHandles) -> None:
        if handles.cut.locked:
            return
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for name, path in (("turn", handles.ring), ("tilt", handles.arch)):
            if path is not None:
                held = self.held == name
                painter.setPen(QPen(QColor(255, 255, 255, 150), 5.0 if held else 4.0))
                painter.drawPolyline(polygon(path))
                thin = 1.1 if name == "tilt" else 1.6
                painter.setPen(QPen(ACCENT, 2.6 if held else thin))
                painter.drawPolyline(polygon(path))
        for knob in reversed(handles.knobs):
            paint_knob(painter, knob, self.held == knob.name)
        if self.snap:
            knob = handles.knob(self.held or "") or handles.knobs[0]
            paint_slip(painter, self.size(), self.snap, QPointF(*knob.tip) + QPointF(16, 6))

    def _paint_figure(self, painter: QPainter, viewport: Viewport) -> None:
        """The picked person or tree."""
        picked = [f for f in self._session.figures() if f.id == self._session.picked.figure]
        for one in standing(picked, viewport):
            paint_outlines(painter, viewport, outlines_of(one))

    def _paint_detail_frame(self, painter: QPainter, viewport: Viewport) -> None:
        """Corners round the picked detail."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(ACCENT, 1.6))
        for corner in frame_of(self._session, viewport):
            painter.drawPolyline(polygon(corner))

    # Words -----------------------------------------------------------------------------------------------------

    def _paint_caption(self, painter: QPainter) -> None:
        title, rest = caption(self._session)
        rest = ", ".join(words for words in (rest, self._stage.lined.words()) if words)
        strong, plain = theme.font(9.5, strong=True), theme.font(9.5)
        title_width = QFontMetricsF(strong).horizontalAdvance(title + "  ")
        rest = QFontMetricsF(plain).elidedText(rest, Qt.TextElideMode.ElideRight, max(self.width() - 48 - title_width, 0.0))
        width = title_width + QFontMetricsF(plain).horizontalAdvance(rest)
        baseline = self.height() - 18
        # A slip of the picture's own paper keeps the words legible on whatever lies under them.
        slip = QColor(PAPER)
        slip.setAlpha(225)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(slip)
        painter.drawRoundedRect(QRectF(12, baseline - 17, width + 16, 25), 4, 4)
        painter.setFont(strong)
        painter.setPen(INK)
        painter.drawText(QPointF(20, baseline), title)
        painter.setFont(plain)
        painter.setPen(QColor(theme.LIGHT.ink_soft))
        painter.drawText(QPointF(20 + title_width, baseline), rest)

    def _paint_hint(self, painter: QPainter) -> None:
        """The one instruction of the step, and in small print under it what else can be done."""
        also = self.also if self.said == self.hint else ""
        large, small = theme.font(10.5, strong=True), theme.font(9)
        width = max(
            QFontMetricsF(large).horizontalAdvance(self.said), QFontMetricsF(small).horizontalAdvance(also) if also else 0.0
        )
        box = QRectF((self.width() - width) / 2 - 16, 12, width + 32, 46 if also else 30)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(SLATE)
        painter.drawRoundedRect(box, 6, 6)
        painter.setPen(PAPER)
        painter.setFont(large)
        painter.drawText(QRectF(box.left(), box.top() + 4, box.width(), 22), Qt.AlignmentFlag.AlignCenter, self.said)
        if also:
            painter.setFont(small)
            painter.setPen(QColor(226, 222, 212, 205))
            painter.drawText(QRectF(box.left(), box.top() + 24, box.width(), 18), Qt.AlignmentFlag.AlignCenter, also)


def mark_box(points: NDArray[np.float64], width: float, height: float) -> QRectF:
    """Return where the disc with a cut's mark stands: outside the corner furthest up and left, but always in the picture."""
    corner = points[np.argmin(points[:, 0] + points[:, 1])]
    x, y = min(max(corner[0] - 14, 14), width - 14), min(max(corner[1] - 14, 14), height - 40)
    return QRectF(x - 10, y - 10, 20, 20)


def scale_words(session: Session) -> str:
    """Return the scale that is held and the paper it takes, as a caption has them."""
    crop = session.stage.crop
    if crop is None or crop.scale is None:
        return ""
    plane = session.true_plane()
    paper = crop.paper(height_at(session.stage.camera, plane))
    assert paper is not None
    where = " at the cut" if plane is not None else " at what is looked at" if session.stage.camera.is_perspective else ""
    return f", {written_scale(crop.scale)}{where}, {units.paper(paper)}"


def apart_words(session: Session) -> str:
    """Return what is drawn apart, as a caption has it."""
    stage = session.stage
    if stage.opening == 0.0 or not stage.is_apart:
        return ""
    marks = [cut.name for cut in stage.cuts if parts(cut)]
    return (", exploded" if stage.exploded is not None else "") + (f", parted along {' and '.join(marks)}" if marks else "")


def caption(session: Session) -> tuple[str, str]:
    """Return the words at the foot of the stage, as on a drawing: a title, and what it is."""
    stage = session.stage
    scene = session.scene
    marks = [c.name for c in stage.active_cuts]
    what = stage.drawn + apart_words(session) + scale_words(session)
    what += ", ray-traced" if stage.still else ""
    marks += [s.name for s in stage.series if s.on]
    subject = marks[0] if len(marks) == 1 else (f"{len(marks)} cuts" if marks else "Whole building")
    hidden = len(stage.hidden)
    aside = f" · {hidden} hidden" if hidden else ""
    if scene is None:
        return subject, f"{what}{aside}"
    state = " · changed since it was saved" if session.project.differs_from_scene else " · locked" if scene.locked else ""
    return scene.name, f"{subject}, {what}{aside}{state}"
