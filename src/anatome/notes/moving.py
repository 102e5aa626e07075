"""Notes moved on the paper: along with a hand, into line, evenly apart, out of one another's way."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.plane import vector
from anatome.notes.drawn import marks_of
from anatome.notes.free_room import overlaps
from anatome.notes.labels import LANDING, label_lie
from anatome.notes.marks import NoteMarks
from anatome.notes.note import AnyNote, Dimension, Label, Level, NorthPoint, ScaleBar, Shape
from anatome.notes.view import NoteView

Array = NDArray[np.float64]
STEP, ROUNDS = 0.6, 60
"""How far apart places are that a note is tried at, in heights of a capital, and after how many each way it is given up."""
COLUMN, ELBOW = 14.0, 6.0
"""Mm from the picture to a column of labels, and from their words to the bend of their leaders."""
ROOM_BETWEEN = 0.9
"""Heights of a capital between labels of a column."""
WAYS = ((0.0, 1.0), (0.0, -1.0), (1.0, 0.0), (-1.0, 0.0))


def moved(note: AnyNote, view: NoteView, by: Array) -> AnyNote:
    """Return a note moved by (2,) mm on the paper, as far as it can be: the line of a dimension goes across itself, a level
    along its line. What nothing holds on to stays."""
    if isinstance(note, ScaleBar | NorthPoint):
        inwards = np.array([1.0 if "left" in note.corner else -1.0, 1.0 if "lower" in note.corner else -1.0])
        return note.model_copy(update={"offset": _pair(np.array(note.offset) + inwards * by)})
    if isinstance(note, Shape) and note.points:
        return note.model_copy(update={"points": tuple(_pair(np.array(point) + by) for point in note.points)})
    if not isinstance(note, Dimension | Label | Level):
        return note
    met = view.met(note.anchors[0])
    if met is None:
        return note
    if isinstance(note, Dimension):
        along = np.array(note.along)
        middle = met.place + np.array(note.offset)
        lie = view.lying(met, along, note.plane, middle)
        if lie.up is None:
            return note
        _, up = lie.axes(np.zeros(2))
        size = float(up @ up)
        if size < 1e-6:
            return note
        return note.model_copy(update={"offset": vector(np.array(note.offset) + lie.up * lie.metres * float(by @ up) / size)})
    if isinstance(note, Level):
        return note.model_copy(update={"shift": note.shift + float(by[0]) * (1.0 if _reads_right(note, view) else -1.0)})
    right, up = label_lie(note, met, view).axes(np.array(note.offset))
    flat = np.linalg.lstsq(np.stack([right, up], axis=1), by, rcond=None)[0]
    return note.model_copy(update={"offset": _pair(np.array(note.offset) + flat)})


def _reads_right(note: Level, view: NoteView) -> bool:
    """Whether a longer line leads to the right on the paper."""
    longer = note.model_copy(update={"shift": abs(note.shift) + 5.0})
    plain = note.model_copy(update={"shift": abs(note.shift)})
    first, second = marks_of(plain, view), marks_of(longer, view)
    if first is None or second is None or not len(first.points):
        return True
    return bool(second.points[:, 0].mean() >= first.points[:, 0].mean())


def _pair(values: Array) -> tuple[float, float]:
    return float(values[0]), float(values[1])


def handle_of(marks: NoteMarks) -> Array:
    """Return (2,) mm, the place a note is lined up by: the middle of its first words."""
    return np.asarray(marks.words[0].corners().mean(axis=0) if marks.words else marks.points.mean(axis=0))


def way_of(direction: str, handles: Array) -> Array:
    """Return (2,) of unit length: “across” the paper, “upright”, or “along” the line between the two of (n, 2) places that lie
    farthest apart."""
    if direction != "along":
        return np.array([1.0, 0.0] if direction == "across" else [0.0, 1.0])
    away = np.linalg.norm(handles[:, None] - handles[None], axis=2)
    a, b = np.unravel_index(int(np.argmax(away)), away.shape)
    arm = handles[b] - handles[a]
    size = float(np.linalg.norm(arm))
    return arm / size if size > 1e-9 else np.array([1.0, 0.0])


def aligned(notes: Sequence[AnyNote], view: NoteView, direction: str) -> tuple[AnyNote, ...]:
    """In line with the first of them, each moved the shortest way to the line that runs through it."""
    seen, handles = _seen(notes, view)
    if len(seen) < 2:
        return tuple(notes)
    way = way_of(direction, handles)
    first = handles[0]
    moves = {}
    for note, handle in zip(seen, handles):
        away = first - handle
        moves[note.id] = away - (away @ way) * way
    return tuple(moved(note, view, moves[note.id]) if note.id in moves else note for note in notes)


def spread(notes: Sequence[AnyNote], view: NoteView, direction: str) -> tuple[AnyNote, ...]:
    """As far from one to the next everywhere, the outermost two left where they are."""
    seen, handles = _seen(notes, view)
    if len(seen) < 3:
        return tuple(notes)
    way = way_of(direction, handles)
    reach = handles @ way
    order = np.argsort(reach, kind="stable")
    wanted = np.linspace(reach[order[0]], reach[order[-1]], len(seen))
    moves = {seen[i].id: (wanted[place] - reach[i]) * way for place, i in enumerate(order)}
    return tuple(moved(note, view, moves[note.id]) if note.id in moves else note for note in notes)


def in_columns(notes: Sequence[AnyNote], view: NoteView, content: tuple[float, float]) -> tuple[AnyNote, ...]:
    """Return labels with leaders in two columns, left and right of ``content`` (the mm between which the picture has something),
    as far as they have room in the picture: on the side their anchors lie nearer to, in the order of these from above, none over
    another, their leaders bent once. Other notes stay."""
    chosen = [n for n in notes if isinstance(n, Label) and n.leader and n.plane is None]
    there = [(note, met) for note in chosen if (met := view.met(note.anchors[0])) is not None]
    spots = {note.id: view.flat(met).on_paper(met.place) for note, met in there}
    found: dict[str, AnyNote] = {}
    left, _, right, _ = view.picture
    for side in (-1.0, 1.0):
        own = [n for n, _ in there if (float(spots[n.id][0]) < sum(content) / 2) == (side < 0)]
        own.sort(key=lambda note: -float(spots[note.id][1]))
        sizes = [_size(note, view) for note in own]
        room = max((wide for wide, _ in sizes), default=0.0) + 2 * LANDING
        edge = max(content[0] - COLUMN, left + room) if side < 0 else min(content[1] + COLUMN, right - room)
        above = np.inf
        for note, (wide, high) in zip(own, sizes):
            x, y = spots[note.id].tolist()
            middle = min(y, above - high / 2)
            above = middle - high / 2 - ROOM_BETWEEN * view.height(note)
            # What lies further out than the column has its words beside it, on the same side if there is room.
            across = side * max(side * (edge - x), 2 * ELBOW)
            if not left <= x + across + side * (wide + LANDING) <= right:
                across = -side * 2 * ELBOW
            bend = (across - np.sign(across) * ELBOW, middle - y)
            found[note.id] = note.model_copy(update={"offset": (across, middle - y), "bends": (bend,)})
    return tuple(found.get(note.id, note) for note in notes)


def _size(note: AnyNote, view: NoteView) -> tuple[float, float]:
    """Mm that the words of a note are wide and high."""
    marks = marks_of(note, view)
    if marks is None or not marks.words:
        return 0.0, view.height(note)
    wide, high = np.ptp(np.concatenate([own.corners() for own in marks.words]), axis=0).tolist()
    return wide, high


def kept_apart(notes: Sequence[AnyNote], view: NoteView, others: Sequence[AnyNote] = ()) -> tuple[AnyNote, ...]:
    """Return each moved to the nearest place where its words cover no others'; the first stay in place. Up or down first, since
    words are wide and low; to the sides what cannot move so."""
    fixed = [marks for note in others if (marks := marks_of(note, view)) is not None and marks.words]
    found: list[AnyNote] = []
    for note in notes:
        placed = next(_places(note, view, fixed), note)
        found.append(placed)
        marks = marks_of(placed, view)
        if marks is not None and marks.words:
            fixed.append(marks)
    return tuple(found)


def _places(note: AnyNote, view: NoteView, fixed: Sequence[NoteMarks]) -> Iterator[AnyNote]:
    """A note where its words cover none of some others, the nearest place first."""
    step = STEP * view.height(note)
    for number in range(ROUNDS):
        for way in WAYS if number else WAYS[:1]:
            tried = moved(note, view, number * step * np.array(way))
            marks = marks_of(tried, view)
            if marks is None or not any(overlaps(marks, other) for other in fixed):
                yield tried


def _seen(notes: Sequence[AnyNote], view: NoteView) -> tuple[list[AnyNote], Array]:
    seen, handles = [], []
    for note in notes:
        marks = marks_of(note, view)
        if marks is not None and not marks.gone:
            seen.append(note)
            handles.append(handle_of(marks))
    return seen, np.array(handles).reshape(-1, 2)
