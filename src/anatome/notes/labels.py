"""Levels, labels with and without leaders, and names of rooms, as they are drawn."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.notes.dimensions import arrow
from anatome.notes.lettering import LEADING, width
from anatome.notes.marks import NoteMarks, Stroke, Words
from anatome.notes.note import Label, Level
from anatome.notes.view import GONE, AnchorHit, NotePlane, NoteView

Array = NDArray[np.float64]
UP = np.array([0.0, 0.0, 1.0])
TRIANGLE = 0.55
"""Half the width of a level's mark, in heights of a capital; it is as high as a capital."""
DOT = 0.55
"""Mm, half across the dot at the end of a leader."""
LANDING = 2.2
"""Mm between a leader and its words."""


def level_marks(note: Level, view: NoteView) -> NoteMarks | None:
    """Return a thin line at the height with a triangle on it and the words beside; None where it is out of sight."""
    met = view.met(note.anchors[0])
    if met is None:
        return NoteMarks(note.id, gone=GONE)
    if not met.left:
        return None
    lie = _upright(note, met, view)
    height, weight = view.height(note), view.style.weight
    text = view.facts.fill(note.text, note.anchors[0].on, float(met.place[2]), view.style)
    side = 1.0 if note.shift >= 0 else -1.0
    if lie.right is not None and lie.right @ _level_way(np.array(note.plane)) < 0:
        side = -side  # seen from behind
    start = abs(note.shift)
    half = TRIANGLE * height
    long = start + 2 * half + 1.2 + width(text) * height
    tip = side * (start + half)
    words = lie.words(
        text, np.array([side * (start + 2 * half + 1.2), 0.8]), view.style, height, 0.0 if side > 0 else 1.0, veil=True
    )
    mark = [[tip, 0.0], [tip + half, height * 0.95], [tip - half, height * 0.95], [tip, 0.0]]
    strokes = (lie.stroke(np.array([[0.0, 0.0], [side * long, 0.0]]), weight), lie.stroke(np.array(mark), weight, True))
    return NoteMarks(note.id, strokes, (words,)).if_seen()


def _level_way(normal: Array) -> Array:
    """(3,) the level direction to the right in an upright plane, seen from the side its normal points to."""
    way = np.cross(UP, normal)
    return np.asarray(way / np.linalg.norm(way))


def _upright(note: Level, met: AnchorHit, view: NoteView) -> NotePlane:
    """Upright in its plane, or flat in the picture."""
    if note.plane is None or abs(note.plane[2]) > 0.9:
        return view.flat(met)
    return view.lying(met, _level_way(np.array(note.plane)), note.plane)


def label_marks(note: Label, view: NoteView) -> NoteMarks | None:
    """Words where they stand, with a leader through all that they speak of; None where some of it is out of sight."""
    met = [view.met(anchor) for anchor in note.anchors]
    found = [m for m in met if m is not None]
    if len(found) < len(met):
        return NoteMarks(note.id, gone=GONE)
    if not all(m.left for m in found):
        return None
    lie = label_lie(note, found[0], view)
    lines = label_lines(note, found, view)
    words, rule = _block(note, lie, lines, view)
    strokes = list(_leader(note, lie, found, rule, view)) if note.leader else []
    return NoteMarks(note.id, tuple(strokes), tuple(words)).if_seen()


def label_lie(note: Label, met: AnchorHit, view: NoteView) -> NotePlane:
    """Return how a label lies: in a plane, to the right as the picture is, or flat in it."""
    if note.plane is None:
        return view.flat(met)
    normal = np.array(note.plane)
    along = np.cross(UP, normal)
    if np.linalg.norm(along) < 1e-3:  # a floor: along the axis of the model that runs more across the picture
        ends = view.flat(met).on_paper(met.place + np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]]) * view.flat(met).metres)
        first, second = np.abs((ends[1:] - ends[0])[:, 0])
        along = np.array([1.0, 0, 0]) if first >= second - 1e-9 else np.array([0, 1.0, 0])
    return view.lying(met, along / np.linalg.norm(along), note.plane)


def label_lines(note: Label, met: list[AnchorHit], view: NoteView) -> list[str]:
    """Return what it says, line by line."""

    def filled(number: int) -> str:
        return view.facts.fill(note.text, note.anchors[number].on, float(met[number].place[2]), view.style)

    if note.each:
        return [filled(number).replace("\n", ", ") for number in range(len(met))]
    return filled(0).split("\n")


def _block(note: Label, lie: NotePlane, lines: list[str], view: NoteView) -> tuple[list[Words], Array]:
    """The words, and (2, 2) mm the two ends of the upright beside them, the upper one first."""
    height, (x, y) = view.height(note), note.offset
    step = LEADING * height
    deep = (len(lines) - 1) * step + height
    if not note.leader:
        top = y + deep / 2 - height
        rows = [np.array([x, top - i * step]) for i in range(len(lines))]
        strong = len(lines) > 1 and not note.each
        return [
            lie.words(text, at, view.style, height, 0.5, strong and i == 0, veil=True)
            for i, (text, at) in enumerate(zip(lines, rows))
        ], np.array([[x, y], [x, y]])
    side = 1.0 if x >= 0 else -1.0
    rows = [np.array([x + side * LANDING, y - height / 2 - i * step]) for i in range(len(lines))]
    words = [lie.words(text, at, view.style, height, 0.0 if side > 0 else 1.0, veil=True) for text, at in zip(lines, rows)]
    ends = np.array([[x, y + height * 0.7], [x, y - deep + height * 0.3]])
    return words, ends if len(lines) > 1 else np.array([[x, y], [x, y]])


def _leader(note: Label, lie: NotePlane, met: list[AnchorHit], rule: Array, view: NoteView) -> list[Stroke]:
    """From the upright beside the words to the nearest of the anchors, through all of them, a dot at each."""
    weight = view.style.weight
    places = np.array([lie.on_paper(m.place) for m in met])
    upright = lie.spread(rule)
    from_end = np.linalg.norm(upright[:, None] - places[None, [0, -1]], axis=2)
    end, first = np.unravel_index(int(np.argmin(from_end)), from_end.shape)
    ordered = places if first == 0 else places[::-1]
    bends = lie.spread(np.array(note.bends)) if note.bends else np.empty((0, 2))
    stem = np.concatenate([upright[end][None], bends])
    if note.fan:
        strokes = [Stroke(stem, weight)] if len(bends) else []
        strokes += [Stroke(np.stack([stem[-1], place]), weight) for place in places]
    else:
        strokes = [Stroke(np.concatenate([stem, ordered]), weight)]
    if np.abs(upright[0] - upright[1]).max() > 1e-9:
        strokes.append(Stroke(upright, weight))
    else:
        side = 1.0 if note.offset[0] >= 0 else -1.0
        strokes.append(
            Stroke(lie.spread(np.array([note.offset, (note.offset[0] + side * LANDING * 0.65, note.offset[1])])), weight)
        )
    if view.style.ends == "arrow":
        last = strokes[0].points if not note.fan else None
        for place in places:
            before = stem[-1] if note.fan or last is None else last[max(int(np.abs(last - place).sum(axis=1).argmin()) - 1, 0)]
            strokes.append(_arrow(before, place, weight))
        return strokes
    turn = np.linspace(0, 2 * np.pi, 17)[:, None]
    ring = DOT * np.hstack([np.cos(turn), np.sin(turn)])
    strokes += [Stroke(place + ring, weight, True) for place in places]
    return strokes


def _arrow(before: Array, tip: Array, weight: float) -> Stroke:
    """A filled arrow at the end of a leader."""
    way = tip - before
    size = float(np.hypot(*way))
    way = way / size if size > 1e-9 else np.array([1.0, 0.0])
    return Stroke(arrow(tip, -way, np.array([-way[1], way[0]])), weight, True)
