"""Dimensions as they are drawn: linear ones and chains, angles and radii. Slashes at the ends, the number over the line."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.plane import vector
from anatome.notes.facts import length
from anatome.notes.marks import Measured, MeasuredAngle, MeasuredRadius, NoteMarks, Stroke, Words
from anatome.notes.note import VALUE, Angle, Dimension, Radius
from anatome.notes.view import GONE, AnchorHit, NotePlane, NoteView

Array = NDArray[np.float64]
END_DOT, ARROW, ARROW_WIDE = 0.55, 2.6, 0.18
"""Mm, half across the dot at the end of a dimension, how long an arrow is, and how wide to either side as a share of that (ISO
129-1 has arrows of 15° to 30°; value from memory)."""
SLASH = 1.1
"""Mm a slash at the end of a dimension reaches to either side."""
BEYOND, AWAY = 1.6, 1.2
"""Mm an extension line runs beyond the dimension line, and stays away from what is measured."""
OVER = 0.8
"""Mm from the line up to the words."""
ROW = 1.55
"""From one row of numbers to the next, in heights of a capital."""
ARC = 48
"""Pieces an arc is drawn of, a whole circle of twice as many."""


def all_met(note: Dimension | Angle | Radius, view: NoteView) -> list[AnchorHit] | str | None:
    """Return where its anchors are; in words why there is nothing to hold on to; None where some of it is out of sight."""
    met = [view.met(anchor) for anchor in note.anchors]
    found = [m for m in met if m is not None]
    if len(found) < len(met):
        return GONE
    return found if all(m.left for m in found) else None


def dimension_marks(note: Dimension, view: NoteView) -> NoteMarks | None:
    """Drawn; None where some of what it measures is out of sight."""
    met = all_met(note, view)
    if isinstance(met, str):
        return NoteMarks(note.id, gone=met)
    if met is None:
        return None
    along = np.array(note.along)
    along = along / np.linalg.norm(along)
    offset = np.array(note.offset)
    offset = offset - (offset @ along) * along
    first = met[0].place
    reach = np.array([(m.place - first) @ along for m in met])
    order = np.argsort(reach, kind="stable")
    order = order[np.concatenate([[True], np.diff(reach[order]) > 1e-9])]
    if len(order) < 2:
        return None
    middle = first + offset + along * float(reach[order].mean())
    lie = view.lying(met[0], along, note.plane, middle)
    places = np.stack([met[i].place for i in order])
    line = first + offset + reach[order, None] * along
    out = _outwards(offset, lie)
    made = _Chain(lie, view, view.height(note), out)
    made.extensions(places, line, 1 if note.overall and len(order) > 2 else 0)
    made.line(line, places, note.text)
    if note.overall and len(order) > 2:
        made.line(line[[0, -1]] + out * made.metres * made.step(), places[[0, -1]], note.whole)
    if not np.isfinite(made.points()).all():
        return None
    return NoteMarks(note.id, tuple(made.strokes), tuple(made.words), tuple(made.measured))


def _outwards(offset: Array, lie: NotePlane) -> Array:
    """(3,) the way from what is measured to the line, of unit length; up where it lies on it."""
    size = float(np.linalg.norm(offset))
    if size > 1e-9:
        return offset / size
    return np.array([0.0, 0.0, 1.0]) if lie.up is None else lie.up


class _Chain:
    """Lines of dimensions in one plane, parallel to one another."""

    def __init__(self, lie: NotePlane, view: NoteView, height: float, out: Array) -> None:
        self.lie, self.view, self.height, self.out = lie, view, height, out
        self.metres = lie.metres
        self.strokes: list[Stroke] = []
        self.words: list[Words] = []
        self.measured: list[Measured] = []
        self.rows = 0

    def step(self) -> float:
        """Mm from one line to the next, further out."""
        above = self.lie.up is not None and float(self.out @ self.lie.up) > 0
        return OVER + self.height + 1.6 + (self.rows * ROW * self.height if above else 0.0)

    def points(self) -> Array:
        """Return all that is drawn."""
        return np.concatenate([s.points for s in self.strokes] + [w.corners() for w in self.words])

    def _add(self, points: Array) -> None:
        self.strokes.append(Stroke(self.lie.on_paper(points), self.view.style.weight))

    def extensions(self, places: Array, line: Array, further: int) -> None:
        """From what is measured to the line and a little beyond, from the outermost to a further line."""
        for number, (place, end) in enumerate(zip(places, line)):
            way = end - place
            size = float(np.linalg.norm(way))
            way = way / size if size > 1e-9 else self.out
            beyond = BEYOND + (self.step() if further and number in (0, len(line) - 1) else 0.0)
            start = place + way * self.metres * AWAY if size > self.metres * (AWAY + 0.5) else end
            self._add(np.stack([start, end + way * self.metres * beyond]))

    def line(self, line: Array, places: Array, said: str) -> None:
        """The line with slashes, and over each part what is ``said`` of its length; numbers without room go up a row."""
        lie, view = self.lie, self.view
        along = line[-1] - line[0]
        along = along / np.linalg.norm(along)
        reach = along * self.metres * BEYOND
        self._add(np.stack([line[0] - reach, line[-1] + reach]))
        if lie.right is not None and lie.up is not None:
            self.strokes += _ends(line, along, lie, view)
        taken: list[tuple[float, float, int]] = []
        for i in range(len(line) - 1):
            size = float(np.linalg.norm(line[i + 1] - line[i]))
            text = _filled(said, length(size, view.style))
            middle = (line[i] + line[i + 1]) / 2
            own = NotePlane(lie.viewport, middle, lie.right, lie.up)
            words = own.words(text, np.array([0.0, OVER]), view.style, self.height, 0.5, veil=True)
            here = float((middle - line[0]) @ along) / self.metres
            row = self._row(here, words.length, size / self.metres, taken)
            if row:
                at = np.array([0.0, OVER + row * ROW * self.height])
                words = own.words(text, at, view.style, self.height, 0.5, veil=True)
            self.rows = max(self.rows, row)
            self.words.append(words)
            flat = lie.on_paper(np.stack([places[i], places[i + 1], line[i], line[i + 1]]))
            self.measured.append(Measured(flat[0], flat[1], flat[2], flat[3], words, size))

    def _row(self, here: float, wide: float, room: float, taken: list[tuple[float, float, int]]) -> int:
        """The lowest row in which a number has room beside those that are there."""
        low, high = here - wide / 2 - 0.5, here + wide / 2 + 0.5
        row = 0 if wide < room - 0.8 else 1
        while any(row == r and low < b and a < high for a, b, r in taken):
            row += 1
        taken.append((low, high, row))
        return row


def _ends(line: Array, along: Array, lie: NotePlane, view: NoteView) -> list[Stroke]:
    """What stands at the ends of the parts of a line: slashes, dots, or arrows from within."""
    assert lie.right is not None and lie.up is not None
    weight, metres = view.style.weight, lie.metres
    if view.style.ends == "slash":
        slash = metres * SLASH * (lie.right + lie.up)
        return [Stroke(lie.on_paper(np.stack([end - slash, end + slash])), 2.5 * weight) for end in line]
    if view.style.ends == "dot":
        turn = np.linspace(0, 2 * np.pi, 17)[:, None]
        ring = metres * END_DOT * (np.cos(turn) * lie.right + np.sin(turn) * lie.up)
        return [Stroke(lie.on_paper(end + ring), weight, True) for end in line]
    across = np.cross(np.cross(lie.right, lie.up), along)
    found = []
    for number, end in enumerate(line):
        for way in [along] * (number < len(line) - 1) + [-along] * (number > 0):
            found.append(Stroke(lie.on_paper(arrow(end, metres * way, metres * across)), weight, True))
    return found


def arrow(tip: Array, way: Array, across: Array) -> Array:
    """Return (4, 2) or (4, 3) the outline of an arrow back from its tip, closed; ``way`` and ``across`` are a mm along and beside
    it."""
    foot, half = tip + ARROW * way, ARROW * ARROW_WIDE * across
    return np.stack([tip, foot + half, foot - half, tip])


def angle_marks(note: Angle, view: NoteView) -> NoteMarks | None:
    """Return an arc between the two ways, with its degrees."""
    met = all_met(note, view)
    if isinstance(met, str):
        return NoteMarks(note.id, gone=met)
    if met is None:
        return None
    corner, a, b = (m.place for m in met)
    first, second = a - corner, b - corner
    sizes = float(np.linalg.norm(first)), float(np.linalg.norm(second))
    if min(sizes) < 1e-9:
        return None
    first, second = first / sizes[0], second / sizes[1]
    across = second - (second @ first) * first
    if float(np.linalg.norm(across)) < 1e-9:
        return None
    across = across / np.linalg.norm(across)
    whole = math.acos(min(max(float(first @ second), -1.0), 1.0))
    turn = np.linspace(0.0, whole, max(int(ARC * whole / np.pi), 8))[:, None]
    arc = corner + note.radius * (np.cos(turn) * first + np.sin(turn) * across)
    middle = corner + note.radius * (np.cos(whole / 2) * first + np.sin(whole / 2) * across)
    chord = arc[-1] - arc[0]
    lie = view.lying(met[0], chord / np.linalg.norm(chord), vector(np.cross(first, across)), middle)
    weight, height = view.style.weight, view.height(note)
    strokes = [Stroke(lie.on_paper(arc), weight)]
    over = lie.metres * BEYOND
    for way, size in ((first, sizes[0]), (second, sizes[1])):
        if size < note.radius + over:  # what is measured does not reach that far
            strokes.append(Stroke(lie.on_paper(np.stack([corner + way * size, corner + way * (note.radius + over)])), weight))
    strokes += _slashes(lie, arc[[0, -1]], weight)
    outside = bool(lie.up is not None and (middle - corner) @ lie.up > 0)
    at = np.array([0.0, OVER if outside else -OVER - height])
    words = lie.words(_filled(note.text, f"{math.degrees(whole):.1f}°"), at, view.style, height, 0.5, veil=True)
    flat = lie.on_paper(np.stack([corner, corner + first * note.radius, corner + second * note.radius, middle]))
    measured = MeasuredAngle(flat[0], flat[1], flat[2], flat[3], words, math.degrees(whole))
    return NoteMarks(note.id, tuple(strokes), (words,), angle=measured).if_seen()


def circle_through(points: Sequence[Array]) -> tuple[Array, float] | None:
    """Return ((3,) centre, radius) of the circle through three places; None where they lie on a line. (From the law of sines:
    the circumradius is a·b·c / 4 areas; the centre in barycentric coordinates a²(b² + c² − a²).)"""
    a, b, c = points
    sides = np.array([np.sum((b - c) ** 2), np.sum((c - a) ** 2), np.sum((a - b) ** 2)])
    weights = sides * (sides.sum() - 2 * sides)
    whole = float(weights.sum())  # sixteen times the square of the area
    if whole <= 1e-18 * float(sides.max()) ** 2:
        return None
    centre = (weights[0] * a + weights[1] * b + weights[2] * c) / whole
    return centre, float(np.linalg.norm(a - centre))


def radius_marks(note: Radius, view: NoteView) -> NoteMarks | None:
    """Return a line from the centre to the second anchor, or through the centre to the far side, with an arrow and its
    length."""
    met = all_met(note, view)
    if isinstance(met, str):
        return NoteMarks(note.id, gone=met)
    if met is None:
        return None
    places = [m.place for m in met]
    circle = circle_through(places)
    if circle is None:
        return None
    centre, radius = circle
    way = (places[1] - centre) / radius
    start = centre - way * radius if note.diameter else centre
    normal = np.cross(places[1] - places[0], places[2] - places[0])
    lie = view.lying(met[0], way, vector(normal / np.linalg.norm(normal)), (start + places[1]) / 2)
    weight = view.style.weight
    strokes = [Stroke(lie.on_paper(np.stack([start, places[1]])), weight), *_arrow(lie, places[1], way, weight)]
    if note.diameter:
        strokes += _arrow(lie, start, -way, weight)
    size = 2 * radius if note.diameter else radius
    text = _filled(note.text, f"{'⌀' if note.diameter else 'R'} {length(size, view.style)}")
    words = lie.words(text, np.array([0.0, OVER]), view.style, view.height(note), 0.5, veil=True)
    flat = lie.on_paper(np.stack([centre, places[1]]))
    measured = MeasuredRadius(flat[0], flat[1], words, size, note.diameter)
    return NoteMarks(note.id, tuple(strokes), (words,), radius=measured).if_seen()


def _filled(said: str, value: str) -> str:
    """One line of words with what is measured in the place of its field."""
    return " ".join(said.replace(VALUE, value).split()) or value


def _arrow(lie: NotePlane, tip: Array, way: Array, weight: float) -> list[Stroke]:
    if lie.up is None:
        return []
    back, side = lie.metres * 2.6 * way, lie.metres * 0.55 * lie.up
    return [Stroke(lie.on_paper(np.stack([tip, tip - back + side, tip - back - side, tip])), weight, True)]


def _slashes(lie: NotePlane, ends: Array, weight: float) -> list[Stroke]:
    if lie.right is None or lie.up is None:
        return []
    slash = lie.metres * SLASH * (lie.right + lie.up)
    return [Stroke(lie.on_paper(np.stack([end - slash, end + slash])), 2.5 * weight) for end in ends]
