"""What notes are drawn on: a picture on paper, and where on it the places and planes of the building lie."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut
from anatome.cuts.moves import STAYS, Move
from anatome.cuts.pieces import Placed, ShownBuilding
from anatome.cuts.plane import Vector
from anatome.look.hatches import Hatch, shipped_hatches
from anatome.model.building import Building
from anatome.notes.anchors import Anchor, place_of
from anatome.notes.facts import Facts
from anatome.notes.marks import Stroke, Words
from anatome.notes.note import AnyNote, NoteStyle
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]
GONE = "What it was set to is no longer in the model, or its cut is gone or off"
UPRIGHT = 0.02
"""Share of a line by which it must lean to the left to be read from the other end."""


@dataclass(frozen=True, eq=False)
class NotePlane:
    """How a note lies on the paper: from a ``place`` (3,) along unit vectors ``right`` and ``up`` of a plane, a mm on paper where
    the plane is seen true; without them flat in the picture."""

    viewport: Viewport
    place: Array
    right: Array | None = None
    up: Array | None = None

    @property
    def metres(self) -> float:
        """Of the model, that a mm on paper is at the place, seen true."""
        return self.viewport.metres_per_pixel(self.place)

    def on_paper(self, points: Array) -> Array:
        """Return (..., 2) mm on paper of (..., 3) places of the model."""
        return self.viewport.pixels(points) * [1, -1] + [0, self.viewport.height]

    def spread(self, flat: Array) -> Array:
        """Return (..., 2) mm on paper of (..., 2) mm to the right and up from the place, as the note lies."""
        if self.right is None or self.up is None:
            return np.asarray(self.on_paper(self.place) + flat)
        return self.on_paper(self.in_space(flat))

    def in_space(self, flat: Array) -> Array:
        """Return (..., 3) the same in the model, of a note that lies in a plane."""
        assert self.right is not None and self.up is not None
        return np.asarray(self.place + self.metres * (flat[..., :1] * self.right + flat[..., 1:] * self.up))

    def axes(self, at: Array) -> tuple[Array, Array]:
        """Return (2,), (2,) what a mm to the right and a mm up are on the paper, at (2,) mm from the place."""
        here = self.spread(at)
        return self.spread(at + [0.01, 0]) / 0.01 - here / 0.01, self.spread(at + [0, 0.01]) / 0.01 - here / 0.01

    def words(
        self, text: str, at: Array, style: NoteStyle, height: float, align: float = 0.0, strong: bool = False, veil: bool = False
    ) -> Words:
        """Return a line of text whose base line runs through (2,) mm from the place; ``align`` of its length lies to the left
        of it."""
        right, up = self.axes(at)
        made = Words(text, at, right, up, height, strong, veil and style.veil)
        return Words(text, self.spread(at) - align * made.length * right, right, up, height, strong, veil and style.veil)

    def stroke(self, flat: Array, weight: float, filled: bool = False) -> Stroke:
        """Through (n, 2) mm from the place."""
        return Stroke(self.spread(np.asarray(flat, float)), weight, filled)


@dataclass(frozen=True, eq=False)
class AnchorHit:
    """Where an anchor is: its ``place`` at home, the ``part`` of what is shown it belongs to, whether anything is left there."""

    place: Array
    part: Placed | None
    left: bool


@dataclass(frozen=True, eq=False)
class NoteView:
    """What is shown, through a ``viewport`` in mm of paper, of a building with its ``facts`` as its cuts leave it."""

    viewport: Viewport
    opened: ShownBuilding
    cuts: Sequence[AnyCut]
    style: NoteStyle
    facts: Facts
    north: float = 0.0
    """Degrees clockwise from +Y to north, seen from above."""
    scale: float = 0.0
    """The 50 of 1:50 in the plane that is seen true."""
    least: float = 0.0
    """Mm its capitals are at least, whatever is said of them: so that they can be read where the paper is shown small."""
    hatches: Mapping[str, Hatch] = field(default_factory=shipped_hatches, repr=False)
    """By name, that areas may have."""
    within: tuple[float, float, float, float] | None = None
    """Mm (left, bottom, right, top) of the crop in it, if that is not all of it."""
    _met: dict[Anchor, AnchorHit | None] = field(default_factory=dict, repr=False)
    _moved: dict[Move, Viewport] = field(default_factory=dict, repr=False)

    def styled(self, note: AnyNote) -> NoteView:
        """Return the same for a note: in its own style, if it has one, in the units of all."""
        if note.style is None:
            return self
        units = {name: getattr(self.style, name) for name in ("unit", "decimals", "fraction")}
        return replace(self, style=note.style.model_copy(update=units))

    @property
    def building(self) -> Building:
        """What the facts are of."""
        return self.facts.building

    @property
    def picture(self) -> tuple[float, float, float, float]:
        """Mm (left, bottom, right, top) of what becomes of it when it is sent out."""
        return self.within or (0.0, 0.0, self.viewport.width, self.viewport.height)

    def height(self, note: AnyNote) -> float:
        """Mm of its capitals."""
        style = note.style or self.style
        return max(note.height or style.height, self.least)

    def met(self, anchor: Anchor) -> AnchorHit | None:
        """Return where an anchor is now, or None if what it holds on to is gone."""
        if anchor not in self._met:
            self._met[anchor] = self._find(anchor)
        return self._met[anchor]

    def _find(self, anchor: Anchor) -> AnchorHit | None:
        place = place_of(anchor, self.building, self.cuts)
        if place is None:
            return None
        number = self.building.index_of.get(anchor.on)
        parts = self.opened.parts if number is not None or anchor.detail else self._of_storey(anchor.on)
        parts = [part for part in parts if part.detail == anchor.detail]
        if anchor.detail and not parts:
            return None
        for part in parts:
            left = part.cut_open
            if number is None:
                # The air of a room goes when any cut takes it.
                if not any(acts.any() and cell.holds(place, 1e-6) for cell, acts in zip(left.cells, left.acting.T)):
                    return AnchorHit(place, part, True)
            elif left.shown[number] and not left.removed(place[None], np.array([number]))[0]:
                return AnchorHit(place, part, True)
        return AnchorHit(place, parts[0] if parts else None, False)

    def _of_storey(self, name: str) -> Sequence[Placed]:
        """What is shown, first of all that with the most parts of the storey of this id, or of the storey of this space: names of
        rooms and levels go with the storey they are of."""
        parts, building = self.opened.parts, self.building
        if len(parts) < 2:
            return parts
        storey = next((i for i, s in enumerate(building.storeys) if s.id == name), None)
        if storey is None:
            storey = next((s.storey for s in building.spaces if s.id == name), None)
        of_it = np.array([storey is not None and e.storey == storey for e in building.elements], bool)
        return sorted(parts, key=lambda part: -int((part.cut_open.shown & of_it).sum()))

    def through(self, met: AnchorHit) -> Viewport:
        """Return the picture, asked about places at home of what an anchor belongs to."""
        if met.part is None or met.part.move == STAYS:
            return self.viewport
        move = met.part.move
        if move not in self._moved:
            self._moved[move] = self.viewport.at_home_of(move)
        return self._moved[move]

    def flat(self, met: AnchorHit, at: Array | None = None) -> NotePlane:
        """Flat in the picture, from the place of an anchor or another one."""
        return NotePlane(self.through(met), met.place if at is None else at)

    def lying(self, met: AnchorHit, along: Array, plane: Vector | None, at: Array | None = None) -> NotePlane:
        """Along a direction in the plane with a normal, or as square to the view as can be; never mirrored, never upside down."""
        viewport, place = self.through(met), met.place if at is None else at
        towards = viewport.towards(place)
        normal = _across(towards if plane is None else np.array(plane), along)
        if normal is None:
            normal = _across(towards, along)
        if normal is None:  # along the line of sight: there is nothing to be read
            return NotePlane(viewport, place)
        if normal @ towards < 0:
            normal = -normal
        up = np.cross(normal, along)
        ends = NotePlane(viewport, place).on_paper(np.stack([place, place + along * viewport.metres_per_pixel(place)]))
        x, y = ends[1] - ends[0]
        lean = UPRIGHT * float(np.hypot(x, y))
        if x < -lean or (x <= lean and y < 0):
            return NotePlane(viewport, place, -along, -up)
        return NotePlane(viewport, place, along, up)


def _across(normal: Array, along: Array) -> Array | None:
    """The part of a normal across a direction, of unit length; None where it runs along it."""
    found = normal - (normal @ along) * along
    size = float(np.linalg.norm(found))
    return None if size < 1e-6 else found / size
