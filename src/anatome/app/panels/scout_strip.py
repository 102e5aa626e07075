"""The scout: what every position along the picked cut's axis would slice. Click or drag in it to move the cut."""

from __future__ import annotations

from collections import Counter

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QToolTip, QVBoxLayout, QWidget

from anatome.app.base import theme, units
from anatome.app.base.trouble import never_dies
from anatome.app.base.work import Work
from anatome.app.document.session import Session
from anatome.cuts.grips import pulled
from anatome.cuts.plane import Plane
from anatome.cuts.scout import KINDS, POSITIONS, Mark, Scouting, scout
from anatome.cuts.treatment import SLICE
from anatome.scenes import edits

COLOURS = {
    "Stairs": "#7A5C8E",
    "Doors": "#A85D5D",
    "Windows": "#5B87A6",
    "Columns": "#6B6F75",
    "Railings": "#7F8C43",
    "Furniture": "#B98C7B",
    "Lengthwise": "#A66A0B",
}
"""Muted, and none of them the accent, which is kept for the cut itself."""
GUTTER = 84
ROW = 9
PROFILE = 27
ONE = {"Stairs": "stair", "Doors": "door", "Windows": "window", "Columns": "column", "Railings": "railing"}
NEAR = 6.0
CLEAN = "A clean position: it opens much and slices nothing lengthwise"


class ScoutStrip(QWidget):
    """Heading and chart; shown while a cut is picked."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.found: Scouting | None = None
        self._key: object = None
        self._work = Work(self, lambda: session.building)
        self._grip = "move"
        title = QLabel("Scout")
        title.setToolTip("Shows, along the cut's axis, what each position would slice")
        title.setProperty("role", "section")
        self.side = QComboBox()
        self.side.setProperty("role", "slim")
        self.side.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.side.setToolTip("The side of the cut that is scouted and moved here")
        self.side.activated.connect(lambda i: self._choose(self.side.itemData(i)))
        self.readout = QLabel()
        self.readout.setProperty("role", "soft")
        head = QHBoxLayout()
        head.setSpacing(10)
        head.addWidget(title)
        head.addWidget(self.side)
        head.addWidget(self.readout, 1)
        self.chart = Chart(self)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 1, 0, 1)
        column.setSpacing(0)
        column.addLayout(head)
        column.addWidget(self.chart, 1)
        self._later = QTimer(self, singleShot=True, interval=140)
        self._later.timeout.connect(self.look)
        self.hide()
        for signal in (session.opened, session.changed, session.picked_changed):
            signal.connect(self.refresh)

    @property
    def up_to_date(self) -> bool:
        """Whether what is shown is of the cut as it lies now."""
        return not self._later.isActive() and not self._work.busy

    @property
    def plane(self) -> Plane | None:
        """The plane that is scouted, where it stands now."""
        cut = self._session.cut
        return None if cut is None else cut.moving_plane(self._grip)

    def _choose(self, grip: str) -> None:
        self._grip = grip
        self.refresh()

    def refresh(self) -> None:
        """Follow the picked cut; look anew when its direction, its reach or the building differ."""
        cut = self._session.cut
        busy = any(self.window().property(what) for what in ("alone", "suggesting", "filming"))
        self.setVisible(cut is not None and not busy)
        if cut is None:
            return
        names = list(cut.scouted)
        if self._grip not in names:
            self._grip = names[0]
        if [self.side.itemData(i) for i in range(self.side.count())] != names:
            self.side.clear()
            for name in names:
                self.side.addItem(cut.grip_words(name).capitalize(), name)
        self.side.setVisible(len(names) > 1)
        self.side.setCurrentIndex(names.index(self._grip))
        if self._wanted() != self._key:
            self._later.start()
        self._say(None)
        self.chart.update()

    def _wanted(self) -> object:
        cut, plane, stage = self._session.cut, self.plane, self._session.stage
        if cut is None or plane is None:
            return None
        return tuple(np.round(plane.normal, 9)), cut.reach, stage.hidden, stage.treatments, id(self._session.building)

    def look(self) -> None:
        """Scout the axis of the picked cut."""
        session, cut, plane = self._session, self._session.cut, self.plane
        if cut is None or plane is None or session.building is None:
            return
        building = session.building
        self._key = self._wanted()
        reached = session.shown() & cut.reach.mask(building)
        sliced = session.stage.treatments.codes(building) == SLICE
        key, memory = ("scout", self._key), session.lookups.memory
        self._work.cancel()
        known = memory.known(key)
        if known is not None:
            self._show(known)
            return

        def look() -> Scouting:
            return scout(building, plane, reached, sliced, POSITIONS)

        self._work.run(lambda told: memory.remember(key, look), self._show, session.failed.emit)

    def _show(self, found: Scouting) -> None:
        self.found = found
        self._say(None)
        self.chart.update()

    def go_to(self, offset: float, merge: str) -> None:
        """Move the cut to an offset along its axis."""
        cut, plane = self._session.cut, self.plane
        if cut is None or plane is None:
            return
        if cut.locked:
            self._session.said.emit(f"{cut.name} is locked. Unlock it in the inspector to move it.")
            return
        changed = pulled(cut, self._grip, plane.n * (offset - plane.offset))
        self._session.apply(edits.put_cut(self._session.project, changed), f"Moved {cut.name}", merge=merge)

    def _say(self, offset: float | None) -> None:
        """What a cut at an offset, or where it stands, would slice."""
        found, plane = self.found, self.plane
        if found is None or plane is None or not len(found.offsets):
            self.readout.setText("")
            return
        here = plane.offset if offset is None else offset
        built, earth = (
            float(np.interp(here, found.offsets, a, left=0.0, right=0.0)) for a in (found.areas - found.earth, found.earth)
        )
        parts = [
            units.length(plane.at_offset(here).position, 2),
            f"{units.area(built, 1)} cut" + f" and {units.area(earth, 0)} round it" * (earth > 0.5),
        ]
        for kind, marks in found.at(here).items():
            count = len({m.element for m in marks})
            name = ONE.get(kind, kind.lower()) if count == 1 else kind.lower()
            parts.append(f"{count} cut lengthwise" if kind == "Lengthwise" else f"{count} {name}")
        if any(abs(here - g) < 0.015 for g in found.grazes):
            parts.append("grazes a face")
        self.readout.setText("  ·  ".join(parts))

    def hover(self, offset: float | None) -> None:
        """Say what the pointer is on."""
        self._say(offset)


class Chart(QWidget):
    """The area profile, a row of marks for each kind, grazes, suggestions and the cut itself."""

    def __init__(self, strip: ScoutStrip) -> None:
        super().__init__()
        self._strip = strip
        self._drags = 0
        self._dragging = False
        self._spanned: tuple[Scouting, tuple[float, float, float]] | None = None
        self._painted: tuple[object, QPixmap] | None = None
        self.setMouseTracking(True)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setMinimumHeight(PROFILE + 2 * ROW)

    def _rows(self) -> list[tuple[str, list[Mark]]]:
        found = self._strip.found
        if found is None:
            return []
        rows = [(kind, [m for m in found.marks if m.kind == kind]) for kind in KINDS]
        rows.append(("Lengthwise", list(found.lengthwise)))
        return [(kind, marks) for kind, marks in rows if marks]

    # Places ----------------------------------------------------------------------------------------------------

    def _span(self) -> tuple[float, float, float]:
        """The lowest and highest position shown, and the sign between offsets and positions."""
        found = self._strip.found
        assert found is not None
        if self._spanned is None or self._spanned[0] is not found:
            # Positions count along the strongest axis, whichever way the plane looks (Plane.position).
            sign = 1.0 if max(found.plane.normal, key=abs) > 0 else -1.0
            step = float(found.offsets[1] - found.offsets[0]) if len(found.offsets) > 1 else 1.0
            low, high = sorted((sign * (float(found.offsets[0]) - step), sign * (float(found.offsets[-1]) + step)))
            self._spanned = found, (low, high, sign)
        return self._spanned[1]

    def x_of(self, offset: float) -> float:
        """Pixels of an offset."""
        low, high, sign = self._span()
        return GUTTER + (sign * offset - low) / max(high - low, 1e-9) * (self.width() - GUTTER - 6)

    def offset_at(self, x: float) -> float:
        """Return the offset at a place in the chart."""
        low, high, sign = self._span()
        return sign * (low + (x - GUTTER) / max(self.width() - GUTTER - 6, 1) * (high - low))

    # Painting --------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        found, plane = self._strip.found, self._strip.plane
        if found is None or plane is None or not len(found.offsets):
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        with never_dies():
            painter.drawPixmap(0, 0, self._background(found))
            self._paint_cut(painter, found, plane)
        painter.end()

    def _background(self, found: Scouting) -> QPixmap:
        """All but the cut itself, which alone moves while one drags."""
        key = (id(found), self.size(), self.devicePixelRatioF(), theme.current().name)
        if self._painted is None or self._painted[0] != key:
            picture = QPixmap(self.size() * self.devicePixelRatioF())
            picture.setDevicePixelRatio(self.devicePixelRatioF())
            picture.fill(Qt.GlobalColor.transparent)
            painter = QPainter(picture)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_profile(painter, found)
            self._paint_rows(painter)
            painter.end()
            self._painted = key, picture
        return self._painted[1]

    def _paint_profile(self, painter: QPainter, found: Scouting) -> None:
        colours = theme.current()
        base = float(PROFILE)
        painter.setFont(theme.font(8))
        painter.setPen(QColor(colours.ink_soft))
        built = found.areas - found.earth
        # Where a wall is cut along its length the area leaps; the rest should still be told apart.
        usual = built[built > 0]
        most = min(float(built.max()), 2.5 * float(np.median(usual))) if len(usual) else 1.0
        painter.drawText(QRectF(0, PROFILE - 17, GUTTER - 8, 16), Qt.AlignmentFlag.AlignLeft, "Area")
        painter.drawText(
            QRectF(0, PROFILE - 17, GUTTER - 8, 16),
            Qt.AlignmentFlag.AlignRight,
            units.area(most, 0 if most >= 10 else 2),
        )
        # The building's own area: earth would hide it.
        tall = (PROFILE - 12) / max(most, 1e-9)
        heights = np.minimum(built, most) * tall
        points = [QPointF(self.x_of(o), base - h) for o, h in zip(found.offsets.tolist(), heights.tolist())]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(colours.ink_faint))
        painter.drawPolygon(QPolygonF([QPointF(points[0].x(), base), *points, QPointF(points[-1].x(), base)]))
        painter.setPen(QPen(QColor(colours.rule), 1))
        painter.drawLine(QPointF(GUTTER, base), QPointF(self.width() - 6, base))
        painter.setPen(QPen(QColor(colours.warning), 1))
        for graze in found.grazes:
            x = self.x_of(graze)
            painter.drawLine(QPointF(x, base - 5), QPointF(x, base))

    def _paint_rows(self, painter: QPainter) -> None:
        colours = theme.current()
        painter.setFont(theme.font(7))
        rows = self._rows()
        row = min(float(ROW), (self.height() - PROFILE - 5) / max(len(rows), 1))
        for number, (kind, marks) in enumerate(rows):
            y = PROFILE + 4 + number * row
            painter.setPen(QColor(colours.ink_soft))
            painter.drawText(
                QRectF(0, y - 3, GUTTER - 8, ROW + 5), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, kind
            )
            painter.setPen(Qt.PenStyle.NoPen)
            # Many lie over one another; together they show as one band that is stronger where there are more.
            tone = QColor(COLOURS[kind])
            if theme.current() is theme.DARK:
                tone = tone.lighter(140)
            tone.setAlpha(150)
            painter.setBrush(tone)
            # More than a few over one another cannot be told apart, and thousands take long to paint.
            places = (sorted((self.x_of(mark.low), self.x_of(mark.high))) for mark in marks)
            bars = Counter((round(2 * a), max(round(2 * b), round(2 * a) + 3)) for a, b in places)
            for (a, b), many in bars.items():
                for _ in range(min(many, 4)):
                    painter.drawRect(QRectF(a / 2, y + 1, (b - a) / 2, row - 3))

    def _paint_cut(self, painter: QPainter, found: Scouting, plane: Plane) -> None:
        accent, paper = QColor(theme.current().accent), QColor(theme.current().paper)
        painter.setPen(QPen(accent, 1.4))
        painter.setBrush(paper)
        for offset in found.suggestions:
            painter.drawPolygon(_diamond(self.x_of(offset), 6.0, 4.5))
        x = self.x_of(plane.offset)
        if GUTTER - 2 <= x <= self.width():
            painter.setPen(QPen(accent, 2.0))
            painter.drawLine(QPointF(x, 6), QPointF(x, self.height()))
            painter.setBrush(accent)
            painter.setPen(QPen(paper, 1.2))
            painter.drawPolygon(_diamond(x, 6.0, 6.5))

    # Mouse and keys -----------------------------------------------------------------------------------------------------

    def _offset(self, event: QMouseEvent) -> float:
        """Where the pointer is, drawn to a suggestion close by unless Ctrl is held."""
        found = self._strip.found
        assert found is not None
        x = event.position().x()
        if not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            near = min(found.suggestions, key=lambda s: abs(self.x_of(s) - x), default=None)
            if near is not None and abs(self.x_of(near) - x) <= NEAR:
                return near
        return self.offset_at(min(max(x, GUTTER), self.width() - 6.0))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._strip.found is not None and event.button() == Qt.MouseButton.LeftButton:
            self._drags += 1
            self._dragging = True
            self._strip.go_to(self._offset(event), f"scout {self._drags}")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        found = self._strip.found
        if found is None or not len(found.offsets):
            return
        offset = self._offset(event)
        if self._dragging:
            self._strip.go_to(offset, f"scout {self._drags}")
        self._strip.hover(offset)
        if offset in found.suggestions:
            QToolTip.showText(
                event.globalPosition().toPoint(), "A clean position: it opens much and slices nothing lengthwise", self
            )

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._dragging:
            self._dragging = False
            self._strip._session.end_step()

    def leaveEvent(self, event: QEvent) -> None:
        self._strip.hover(None)


def _diamond(x: float, y: float, size: float) -> QPolygonF:
    return QPolygonF([QPointF(x, y - size), QPointF(x + size, y), QPointF(x, y + size), QPointF(x - size, y)])
