"""What notes are drawn of: strokes, filled areas and words, in mm on paper, x to the right and y up from the lower edge."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import PlainSerializer, PlainValidator

from anatome.notes.lettering import BELOW, width

Array = NDArray[np.float64]


def _vector(told: object) -> Array:
    return np.asarray(told, np.float64).reshape(2)


Vector2 = Annotated[Array, PlainValidator(_vector), PlainSerializer(np.ndarray.tolist)]
"""(2,) mm on paper, or a way on it."""
ROOM = 0.35
"""Round words, in heights of a capital, that other words keep clear of."""
VEIL, VEIL_ROOM = 0.78, 0.3
"""How much of what lies behind words is covered, and how far round them, in heights of a capital."""


@dataclass(frozen=True, eq=False)
class Stroke:
    """A line through (n, 2) points, ``weight`` mm wide, of ``dashes`` and gaps in mm or whole; ``filled`` ones have no line. It
    has the ink of all notes, or its own."""

    points: Array
    weight: float
    filled: bool = False
    ink: tuple[float, float, float] | None = None
    dashes: tuple[float, float] | None = None


@dataclass(frozen=True, eq=False)
class Words:
    """A line of text. ``at`` (2,) is the left end of its base line; ``right`` and ``up`` (2,) are what a mm along it and a mm up
    its letters are on the paper: at right angles and of unit length unless it lies in a plane seen aslant. Capitals are
    ``height`` mm high."""

    text: str
    at: Vector2
    right: Vector2
    up: Vector2
    height: float
    strong: bool = False
    veil: bool = False

    @classmethod
    def level(cls, text: str, at: tuple[float, float], height: float, strong: bool = False) -> Words:
        """Return a line of text that runs to the right."""
        return cls(text, np.array(at), np.array([1.0, 0.0]), np.array([0.0, 1.0]), height, strong)

    @cached_property
    def length(self) -> float:
        """Mm along its own base line."""
        return width(self.text, self.strong) * self.height

    @property
    def is_flat(self) -> bool:
        """Whether its letters are as they are drawn, only turned."""
        turned = np.array([-self.right[1], self.right[0]])
        return bool(np.abs(self.up - turned).max() < 1e-6 and abs(np.hypot(*self.right) - 1) < 1e-6)

    def corners(self, room: float = 0.0) -> Array:
        """Return (4, 2) round it, grown by so many heights of a capital: lower left, then anticlockwise."""
        grow = room * self.height
        low, high = -BELOW * self.height - grow, self.height + grow
        flat = np.array([[-grow, low], [self.length + grow, low], [self.length + grow, high], [-grow, high]])
        return np.asarray(self.at + flat[:, :1] * self.right + flat[:, 1:] * self.up)


@dataclass(frozen=True, eq=False)
class Measured:
    """One length that is told: from ``start`` to ``end`` (2,), on a line from ``line`` to ``line_end`` (2,), what it says, and
    the metres it is."""

    start: Array
    end: Array
    line: Array
    line_end: Array
    words: Words
    metres: float


@dataclass(frozen=True, eq=False)
class MeasuredAngle:
    """An angle at ``corner`` (2,) between the ways to ``start`` and ``end`` (2,), on an arc through ``middle`` (2,); what it
    says, and the ``degrees`` it is."""

    corner: Array
    start: Array
    end: Array
    middle: Array
    words: Words
    degrees: float

    @property
    def is_true(self) -> bool:
        """Whether the paper shows it as it is: not where it lies in a plane seen aslant."""
        a, b = self.start - self.corner, self.end - self.corner
        sizes = float(np.hypot(*a)), float(np.hypot(*b))
        if min(sizes) < 1e-9 or abs(sizes[0] - sizes[1]) > 1e-3 * sizes[0]:
            return False
        shown = np.degrees(np.arccos(np.clip(a @ b / (sizes[0] * sizes[1]), -1.0, 1.0)))
        return bool(abs(shown - self.degrees) < 0.05)


@dataclass(frozen=True, eq=False)
class MeasuredRadius:
    """From ``centre`` (2,) to a place ``on`` (2,) a circle; what it says, and the ``metres`` it is, across all of it if it is a
    ``diameter``."""

    centre: Array
    on: Array
    words: Words
    metres: float
    diameter: bool


@dataclass(frozen=True, eq=False)
class NoteMarks:
    """One note as it is drawn, over ``veils`` of paper, (n, 2) rings, and those of its words. Where ``gone`` says something, what
    it held on to is there no more: it is told while one works, and left out of pictures and drawings."""

    note: str
    strokes: tuple[Stroke, ...] = ()
    words: tuple[Words, ...] = ()
    measured: tuple[Measured, ...] = ()
    gone: str = ""
    angle: MeasuredAngle | None = None
    radius: MeasuredRadius | None = None
    veils: tuple[Array, ...] = ()
    ink: tuple[float, float, float] | None = None
    """Its own, instead of that of all notes."""

    @cached_property
    def points(self) -> Array:
        """(n, 2) all it is made of."""
        parts = [stroke.points for stroke in self.strokes] + [words.corners() for words in self.words]
        return np.concatenate(parts) if parts else np.empty((0, 2))

    def if_seen(self) -> NoteMarks | None:
        """Nothing of what lies behind the eye."""
        return self if np.isfinite(self.points).all() else None

    def distance(self, at: Array) -> float:
        """Mm from a place to the nearest of it; nothing on its words."""
        found = [np.inf]
        for words in self.words:
            corners = words.corners(ROOM)
            inside = all(_left(a, b, at) for a, b in zip(corners, np.roll(corners, -1, axis=0)))
            found.append(0.0 if inside else float(np.linalg.norm(corners - at, axis=1).min()))
        found += [_to_line(stroke.points, at) for stroke in self.strokes]
        return min(found)


@dataclass(frozen=True, eq=False)
class NotesDrawn:
    """All notes of a picture on paper ``height`` mm high, and the colours of ink and paper."""

    width: float
    height: float
    notes: tuple[NoteMarks, ...]
    ink: tuple[float, float, float]
    paper: tuple[float, float, float] = field(default=(1.0, 1.0, 1.0))

    @property
    def sound(self) -> tuple[NoteMarks, ...]:
        """Those that hold on to something."""
        return tuple(note for note in self.notes if not note.gone)


def _left(a: Array, b: Array, at: Array) -> bool:
    return bool((b[0] - a[0]) * (at[1] - a[1]) - (b[1] - a[1]) * (at[0] - a[0]) >= 0)


def _to_line(points: Array, at: Array) -> float:
    if len(points) < 2:
        return np.inf
    start, arm = points[:-1], np.diff(points, axis=0)
    share = np.einsum("ij,ij->i", at - start, arm) / np.maximum(np.einsum("ij,ij->i", arm, arm), 1e-12)
    return float(np.linalg.norm(start + share.clip(0, 1)[:, None] * arm - at, axis=1).min())
