"""Touching up: what a hand changes of linework, kept by what it belongs to, so that it is there when lines are drawn anew."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from anatome.cuts.cut import AnyCut
from anatome.cuts.moves import STAYS, home, places_through
from anatome.cuts.pieces import Placed, ShownBuilding
from anatome.look.line_layers import PATTERNS, Dashes
from anatome.look.look import Rgb, Weight
from anatome.look.pens import Pen
from anatome.model.building import Building
from anatome.notes.anchors import Anchor, anchored, place_of
from anatome.notes.setting import on_face
from anatome.values import Value

Array = NDArray[np.float64]
IN_FACE = 1e-3
"""Metres from the plane of a cut within which a place lies in it."""


class LineTouchUp(Value):
    """A line of a part, from one anchor to the other, or with one anchor all lines of the part it is on: not drawn at all, or in
    another pen, each thing of it only if it is said."""

    kind: Literal["line"] = "line"
    id: str
    anchors: tuple[Anchor, ...] = Field(min_length=1, max_length=2)
    hidden: bool = False
    weight: Weight | None = None
    dashes: Dashes | None = None
    colour: Rgb | None = None

    @property
    def is_of_part(self) -> bool:
        """Whether it is of all lines of a part."""
        return len(self.anchors) == 1

    def pen(self, pen: Pen) -> Pen:
        """Return how a line of a pen is drawn."""
        dashes = pen.dashes if self.dashes is None else PATTERNS[self.dashes]
        return Pen(self.weight or pen.weight, self.colour or pen.ink, dashes)


class Mask(Value):
    """A shape in which no lines are drawn; fills go on."""

    kind: Literal["mask"] = "mask"
    id: str
    anchors: tuple[Anchor, ...] = Field(min_length=3, max_length=200)


TouchUp = Annotated[LineTouchUp | Mask, Field(discriminator="kind")]
AnyTouchUp = LineTouchUp | Mask


def anchor_of_line(opened: ShownBuilding, place: Array, element: int, of_cut: bool) -> Anchor:
    """Return an anchor at (3,) the end of a line of an element, where it is shown; of a line round what is cut it goes along with
    the cut."""
    building = opened.cut_open.building
    part = next((own for own in opened.parts if own.cut_open.shown[element]), opened.parts[0])
    at_home = places_through(home(part.move), place)
    if of_cut:
        faces = [own for own in part.cut_open.faces if abs(float(own.plane.distance(at_home))) < IN_FACE]
        face = next((own for own in faces if (own.section.element == element).any()), None)
        if face is not None:
            return on_face(building, face, at_home, element)
    return anchored(building, at_home, building.elements[element].id)


@dataclass(frozen=True, eq=False)
class HeldTouchUp:
    """A touching up in a picture: where its anchors are shown, (n, 3) metres, nothing where what they hold on to is gone; and
    the number of the ``element`` it is of, −1 for none."""

    of: AnyTouchUp
    places: Array | None
    element: int


def held(touched: Sequence[AnyTouchUp], opened: ShownBuilding, cuts: Sequence[AnyCut]) -> tuple[HeldTouchUp, ...]:
    """Return each touching up as it is in what is opened, in their order."""
    building = opened.cut_open.building
    return tuple(HeldTouchUp(one, _places(one, opened, cuts), building.index_of.get(one.anchors[0].on, -1)) for one in touched)


def _places(one: AnyTouchUp, opened: ShownBuilding, cuts: Sequence[AnyCut]) -> Array | None:
    building = opened.cut_open.building
    found = []
    for anchor in one.anchors:
        place = place_of(anchor, building, cuts)
        if place is None:
            return None
        part = _shows(opened, building, anchor)
        found.append(place if part is None or part.move == STAYS else places_through(np.array(part.move), place))
    return np.stack(found)


def _shows(opened: ShownBuilding, building: Building, anchor: Anchor) -> Placed | None:
    """The piece that shows what an anchor is on."""
    number = building.index_of.get(anchor.on)
    parts = [part for part in opened.parts if part.detail == anchor.detail]
    return next((part for part in parts if number is not None and part.cut_open.shown[number]), parts[0] if parts else None)
