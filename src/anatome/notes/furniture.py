"""What belongs to the picture rather than to a part: scale bar, north point, section marks."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut
from anatome.lengths import FOOT, scale_words
from anatome.notes.facts import SectionPlace
from anatome.notes.lettering import width
from anatome.notes.marks import NoteMarks, Stroke, Words
from anatome.notes.note import NorthPoint, Placed, ScaleBar, SectionMark, Unit
from anatome.notes.view import GONE, NoteView

Array = NDArray[np.float64]
LONG = 45.0
"""Mm a scale bar is long, about."""
BAR = 1.2
"""Mm a scale bar is high."""
NORTH = 6.0
"""Mm, half the length of a north point."""
ARROW = 4.2
"""Mm, half across the ring of a section mark."""
FACE_ON = 1 - 1e-6
EDGE_ON = 0.05
"""Cosine between sight and normal up to which a plane is seen edge on."""
MOST_OF_PICTURE = 0.06
"""Share of a small picture that is at the most."""
LINE_END = 9.0
"""Mm of a cut's line that are drawn at each end."""
LOOKS_DOWN = 0.2
"""Cosine between sight and vertical from which a picture looks down on the line of a cut."""
RIGHT, UP = np.array([1.0, 0.0]), np.array([0.0, 1.0])


def _flat(text: str, at: Array, height: float, align: float, strong: bool = False, veil: bool = False) -> Words:
    """Words flat on the paper."""
    made = Words(text, at, RIGHT, UP, height, strong, veil)
    return Words(text, at - align * made.length * RIGHT, RIGHT, UP, height, strong, veil)


def _from_corner(note: Placed, view: NoteView) -> tuple[Array, Array]:
    """((2,) mm the place of a note, (2,) the ways inwards)."""
    inwards = np.array([1.0 if "left" in note.corner else -1.0, 1.0 if "lower" in note.corner else -1.0])
    left, bottom, right, top = view.picture
    corner = np.where(inwards > 0, [left, bottom], [right, top])
    return corner + inwards * np.array(note.offset), inwards


def scale_bar_marks(note: ScaleBar, view: NoteView) -> NoteMarks | None:
    """Five parts, every other one filled, of a round number of metres or feet; None where no plane has a scale."""
    if not view.scale:
        return None
    start, inwards = _from_corner(note, view)
    height, veil = view.height(note), view.style.veil
    # Longer where letters are larger than they will be on paper, or its figures would cover each other.
    times = height / (note.height or view.style.height)
    long = bar_length(view.scale, view.style.unit, times)
    start = start - [0.0 if inwards[0] > 0 else long, 0.0 if inwards[1] > 0 else BAR]
    strokes, words = scale_bar(start, view.scale, view.style.unit, view.style.weight, height, veil, times)
    # The scale stands inwards of the bar.
    at = start + ([long + 3.2 * height, 0.0] if inwards[0] > 0 else [-1.2 * height, 0.0])
    words.append(_flat(scale_words(view.scale), at, height, 0.0 if inwards[0] > 0 else 1.0, veil=veil))
    return NoteMarks(note.id, tuple(strokes), tuple(words))


def bar_length(scale: float, unit: Unit, times: float = 1.0) -> float:
    """Mm a scale bar of 1:``scale`` is long, or about so many times as long."""
    one = FOOT if unit == "ft" else 1.0
    return 5 * _round_number(times * LONG / 5 * scale / 1000 / one) * one * 1000 / scale


def scale_bar(
    start: Array, scale: float, unit: Unit, weight: float, height: float, veil: bool = False, times: float = 1.0
) -> tuple[list[Stroke], list[Words]]:
    """Its parts and figures, over and to the right of (2,) mm ``start``, about so many ``times`` as long as usual; capitals are
    ``height`` mm."""
    size = bar_length(scale, unit, times) / 5
    part = size * scale / 1000 / (FOOT if unit == "ft" else 1.0)
    strokes = []
    for i in range(5):
        x = start[0] + i * size
        ring = np.array([[x, start[1]], [x + size, start[1]], [x + size, start[1] + BAR], [x, start[1] + BAR], [x, start[1]]])
        strokes.append(Stroke(ring, weight, filled=i % 2 == 0))
        if i % 2:
            strokes.append(Stroke(ring, weight))
    words = [_flat(f"{i * part:g}", start + [i * size, BAR + 1.0], height, 0.5, veil=veil) for i in (0, 1, 5)]
    end = words[-1]
    words[-1] = Words(f"{end.text} {'ft' if unit == 'ft' else 'm'}", end.at, RIGHT, UP, height, veil=end.veil)
    return strokes, words


def _round_number(about: float) -> float:
    """1, 2 or 5 times a power of ten, the nearest not above; at least a hundredth."""
    power = 10.0 ** math.floor(math.log10(max(about, 0.01)))
    return max(step * power for step in (1.0, 2.0, 5.0) if step * power <= max(about, 0.01) * (1 + 1e-9))


def north_point_marks(note: NorthPoint, view: NoteView) -> NoteMarks | None:
    """Return a needle in the plane of the ground; None where the ground is seen edge on, or north lies along the sight."""
    place, _ = _from_corner(note, view)
    viewport = view.viewport
    angle = math.radians(view.north)
    north = np.array([math.sin(angle), math.cos(angle), 0.0])
    east = np.array([north[1], -north[0], 0.0])
    middle = view.opened.bounds.mean(axis=0)
    step = viewport.metres_per_pixel(middle)
    spots = viewport.pixels(middle + step * np.stack([np.zeros(3), north, east]))
    if not np.isfinite(spots).all():
        return None
    along, across = ((spot - spots[0]) * [1, -1] for spot in spots[1:])
    if abs(along[0] * across[1] - along[1] * across[0]) < 0.05:
        return None

    strokes, letter = needle(place, across, along, NORTH, view.style.weight, view.height(note), view.style.veil)
    return NoteMarks(note.id, tuple(strokes), (letter,))


def needle(
    place: Array, across: Array, along: Array, half: float, weight: float, height: float, veil: bool = False
) -> tuple[list[Stroke], Words]:
    """Return a needle round (2,) mm ``place``, ``half`` mm long from there to its tip: ``along`` (2,) is north, ``across``
    east."""

    def laid(points: list[list[float]]) -> Array:
        flat = np.array(points)
        return np.asarray(place + half * (flat[:, :1] * across + flat[:, 1:] * along))

    turn = np.linspace(0, 2 * np.pi, 49)
    ring = [[0.62 * math.cos(t), 0.62 * math.sin(t)] for t in turn.tolist()]
    dark = [[0.0, 1.0], [0.0, -0.62], [-0.34, -0.52], [0.0, 1.0]]
    other = [[0.0, 1.0], [0.0, -0.62], [0.34, -0.52], [0.0, 1.0]]
    strokes = [Stroke(laid(ring), weight), Stroke(laid(dark), weight, True), Stroke(laid(other), weight)]
    tip = laid([[0.0, 1.0]])[0]
    way = (tip - place) / max(float(np.hypot(*(tip - place))), 1e-9)
    spot = tip + way * (height * 0.5 + 1.2) - [0, height / 2]
    return strokes, _flat("N", spot, height, 0.5, True, veil)


def section_mark_marks(note: SectionMark, view: NoteView) -> NoteMarks | None:
    """At both ends of a cut's line a ring with its letter, or with the drawing's number over that of its sheet, and a filled
    corner that points where it looks, all within the picture; None unless the picture looks down on it, or sees it edge on."""
    cut = next((c for c in view.cuts if c.id == note.cut), None)
    if cut is None:
        return NoteMarks(note.id, gone=GONE)
    viewport = view.viewport
    subject = view.building.bounds_of(view.building.subject(np.ones(len(view.building.elements), bool)))
    drawn = None if cut.encloses else _section_line(cut, subject, view)
    if drawn is None:
        return None
    line, way = drawn
    size = np.array([viewport.width, viewport.height])
    radius = min(ARROW, MOST_OF_PICTURE * float(size.min()))
    kept = _within(line, radius, size)
    if kept is None:
        return None
    said = view.facts.sections.get(note.cut) or SectionPlace(cut.mark, "")
    strokes: list[Stroke] = []
    words: list[Words] = []
    veils = []
    for end, inner in (kept, kept[::-1]):
        inward = (inner - end) / max(float(np.hypot(*(inner - end))), 1e-9)
        veils.append(_ring(end - inward * radius, radius))
        strokes += _section_ring(end, inward, way, radius, view.style.weight, bool(said.sheet))
        words += _section_words(end - inward * radius, said, radius, max(view.height(note), 3.5) * radius / ARROW)
    return NoteMarks(note.id, tuple(strokes), tuple(words), veils=tuple(veils) if view.style.veil else ())


def _ring(middle: Array, radius: float) -> Array:
    """Return (n, 2) points of a circle."""
    turn = np.linspace(0, 2 * np.pi, 49)[:, None]
    return np.asarray(middle + radius * np.hstack([np.cos(turn), np.sin(turn)]))


def _section_line(cut: AnyCut, subject: Array, view: NoteView) -> tuple[Array, Array] | None:
    """Return ((2, 2) mm the ends of the line a cut is in the picture, (2,) unit way it looks there) for a building of (2, 3)
    bounds: of an upright cut seen from above its line on the ground, of one seen edge on its plane. None of any other."""
    axis, viewport = cut.axis, view.viewport
    middle = subject.mean(axis=0)
    sight = viewport.towards(middle)
    from_above = not axis.is_level and abs(float(sight[2])) >= LOOKS_DOWN
    back = viewport.camera.axes[2]
    faced = next((c.axis for c in view.cuts if c.on and abs(float(c.axis.n @ back)) > FACE_ON), None)
    if not from_above and abs(float((sight if faced is None else faced.n) @ axis.n)) > EDGE_ON:
        return None
    corners = np.concatenate(cut.frames(subject)).copy()
    at = middle - axis.n * float(axis.distance(middle))
    if from_above:
        corners[:, 2] = at[2] = float(subject[0, 2])
    if not from_above and faced is not None:  # where it meets the plane that is seen true
        corners -= faced.distance(corners)[:, None] * faced.n
        at = at - float(faced.distance(at)) * faced.n
    flat = viewport.pixels(corners) * [1, -1] + [0, viewport.height]
    looks = viewport.pixels(np.stack([at, at - axis.n * viewport.metres_per_pixel(middle)])) * [1, -1]
    if not (np.isfinite(flat).all() and np.isfinite(looks).all()):
        return None
    way = (looks[1] - looks[0]) / max(float(np.hypot(*(looks[1] - looks[0]))), 1e-9)
    # Of a stepped one the ends of its first and last step.
    along = np.cross([0.0, 0.0, 1.0], axis.n) if from_above else None
    reach = corners @ along if along is not None else flat @ np.array([-way[1], way[0]])
    return flat[[int(np.argmin(reach)), int(np.argmax(reach))]], way


def _within(ends: Array, radius: float, size: Array) -> Array | None:
    """Return (2, 2) mm, the ends of a line moved along it so that the rings at them lie in a picture of (2,) mm; None where the
    line does not go through it."""
    inward = (ends[1] - ends[0]) / max(float(np.hypot(*(ends[1] - ends[0]))), 1e-9)
    outer = ends + np.array([[-radius], [radius]]) * inward  # the middles of the rings
    step = outer[1] - outer[0]
    room = radius * math.sqrt(2.0) + 0.3
    first, last = 0.0, 1.0
    for start, by, high in zip(outer[0].tolist(), step.tolist(), (size - room).tolist()):
        if abs(by) < 1e-9:
            if not room <= start <= high:
                return None
            continue
        near, far = sorted(((room - start) / by, (high - start) / by))
        first, last = max(first, near), min(last, far)
    if first >= last:
        return None
    kept = outer[0] + np.array([[first], [last]]) * step
    return np.asarray(kept + np.array([[radius], [-radius]]) * inward)


def _section_ring(end: Array, inward: Array, way: Array, radius: float, weight: float, parted: bool) -> list[Stroke]:
    """Return the end of the line, a ring beyond it, ``parted`` by a line across, and the triangle that points where it looks."""
    middle = end - inward * radius
    side = np.array([-way[1], way[0]])
    tip = middle + way * radius * math.sqrt(2.0)
    feet = middle + radius / math.sqrt(2.0) * (way + side), middle + radius / math.sqrt(2.0) * (way - side)
    found = [
        Stroke(np.stack([end, end + inward * LINE_END * (radius / ARROW) ** 2]), 3 * weight),
        Stroke(_ring(middle, radius), weight),
        Stroke(_less_ring(np.stack([feet[0], tip, feet[1]]), middle, radius), weight, True),
    ]
    if parted:
        found.append(Stroke(np.stack([middle - [radius, 0.0], middle + [radius, 0.0]]), weight))
    return found


def _less_ring(corner: Array, middle: Array, radius: float) -> Array:
    """Return (n, 2) round the corner (3, 2) that stands out of a ring, so that what is in the ring can be read."""
    start, end = (math.atan2(*(foot - middle)[::-1]) for foot in (corner[2], corner[0]))
    turn = (end - start + math.pi) % (2 * math.pi) - math.pi
    angles = start + turn * np.linspace(0.0, 1.0, 13)[:, None]
    arc = middle + radius * np.hstack([np.cos(angles), np.sin(angles)])
    return np.concatenate([corner, arc, corner[:1]])


def _section_words(middle: Array, said: SectionPlace, radius: float, height: float) -> list[Words]:
    """Return what stands in a ring: one word, or one over the line across and the number of the sheet under it."""
    if not said.sheet:
        return [_flat(said.over, middle - [0, height / 2], height, 0.5, True)]
    upper = _fitted(said.over, 0.62 * radius, 1.35 * radius, True)
    lower = _fitted(said.sheet, 0.46 * radius, 1.45 * radius, False)
    return [
        _flat(said.over, middle + [0, 0.16 * radius], upper, 0.5, True),
        _flat(said.sheet, middle - [0, 0.2 * radius + lower], lower, 0.5),
    ]


def _fitted(text: str, height: float, room: float, strong: bool) -> float:
    """Return the height at which a text is no longer than the room there is, mm."""
    return min(height, room / max(width(text, strong), 1e-9))
