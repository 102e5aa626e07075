"""The section prism."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

import numpy as np

from anatome.cuts.cells import Cell
from anatome.cuts.kinds.base import Array
from anatome.cuts.kinds.enclosing import TURNED, Enclosing
from anatome.cuts.kinds.grip import LEAST, CutField, Grip, Lengths, clearance, name_parts
from anatome.cuts.kinds.key_mark import DrawingPlane, KeyKnob, KeyMark, MarkStroke
from anatome.cuts.kinds.prism import Prism
from anatome.cuts.parting import Parting
from anatome.cuts.plane import Plane
from anatome.model.bounds import bounds_round
from anatome.problems import Problem

LEVELS = (
    CutField("bottom", "Bottom", "The level it reaches down to"),
    CutField("top", "Top", "The level it reaches up to"),
)


class SectionPrism(Enclosing):
    """An upright prism on an outline, or a round one, from a level to a level.

    Its grips are ``side i`` and ``corner i``, of a round one ``radius``; ``top``, ``bottom`` and ``whole``.
    """

    kind: Literal["prism"] = "prism"
    prism: Prism
    carve: bool = False
    parting: Parting | None = None

    noun: ClassVar[str] = "Prism"

    @property
    def _is_round(self) -> bool:
        return self.prism.radius is not None

    def _with(self, prism: Prism) -> SectionPrism:
        return self.model_copy(update={"prism": prism})

    def cells(self) -> tuple[Cell, ...]:
        return self.prism.inside if self.carve else self.prism.outside

    def sides(self) -> tuple[tuple[Cell, ...], tuple[Cell, ...]]:
        return self.prism.inside, self.prism.outside

    @property
    def axis(self) -> Plane:
        """Its front, or where it carves its back: it looks north, or as nearly so as it has a side."""
        wanted = -1.0 if not self.carve else 1.0
        side = max(self.prism.sides, key=lambda plane: wanted * plane.normal[1])
        return side.turned_round() if self.carve else side

    @property
    def corners(self) -> Array | None:
        return self.prism.solid_corners

    @property
    def centre(self) -> Array | None:
        return self.prism.centre

    def face_name(self, plane: Plane) -> str:
        for name, own in zip(("top", "bottom"), self.prism.ends):
            if plane in (own, own.turned_round()):
                return name
        if self._is_round:
            return "round"
        return next((f"side {i + 1}" for i, own in enumerate(self.prism.sides) if plane in (own, own.turned_round())), "")

    @property
    def face_bounds(self) -> Array | None:
        return bounds_round(self.prism.solid_corners)

    def face_within(self, plane: Plane) -> tuple[Plane, ...]:
        """Return a round one has as many faces as sides, and each would be trimmed by all others."""
        inside = self.prism.inside
        if self.carve or len(inside) > 1:
            return ()
        return tuple(own for own in inside[0].planes if own not in (plane, plane.turned_round()))

    def is_flat(self, plane: Plane) -> bool:
        return not self._is_round or plane.is_level

    @property
    def smooth_at(self) -> tuple[tuple[float, float], ...]:
        return tuple((float(x), float(y)) for x, y in self.prism.ring) if self._is_round else ()

    def moved(self, by: Array) -> SectionPrism:
        return self._with(self.prism.moved(by))

    def scaled(self, factor: float) -> SectionPrism:
        parting = self.parting and self.parting.scaled(factor)
        return self.model_copy(update={"prism": self.prism.scaled(factor), "parting": parting})

    def stretched(self, low: float, high: float) -> SectionPrism:
        return self.moved(np.array([0.0, 0.0, low])).pulled("top", np.array([0.0, 0.0, high - low]))

    def _part_way(self, to: SectionPrism, share: float) -> SectionPrism | None:
        prism = None if self.carve != to.carve else self.prism.part_way(to.prism, share)
        return None if prism is None else to._with(prism)

    def clear_of(self, bounds: Array) -> SectionPrism:
        """Up and away where it carves; where it keeps its inside, larger than what it would take."""
        margin = clearance(bounds)
        if self.carve:
            return self.moved(np.array([0.0, 0.0, max(float(bounds[1][2]) - self.prism.low + margin, 0.0)]))
        return self._with(self.prism.holding(bounds, margin))

    def turned(self, point: Array, degrees: float) -> SectionPrism:
        """Turn it about its own vertical, wherever the point lies."""
        return self._with(self.prism.turned(degrees))

    @property
    def heading(self) -> float:
        """How its first side lies."""
        first, second = self.prism.ring[:2]
        return math.degrees(math.atan2(*(second - first)[::-1]))

    @property
    def can_turn(self) -> bool:
        return not self._is_round

    def nudge(self, right: float, forward: float, up: float) -> Array:
        return np.array([right, forward, up])

    # Where it is held ------------------------------------------------------------------------------------------

    def frames(self, bounds: Array) -> list[Array]:
        """Return the outline below and above, and sides; of a round one four of them."""
        below, above = np.split(self.prism.solid_corners, 2)
        count = len(below)
        shown = range(0, count, count // 4) if self._is_round else range(count)
        walls = [np.array([below[i], below[(i + 1) % count], above[(i + 1) % count], above[i]]) for i in shown]
        return [above, below, *walls]

    def grips(self, bounds: Array) -> tuple[Grip, ...]:
        prism, centre, found = self.prism, self.prism.centre, []
        if prism.radius is not None:
            found.append(Grip("radius", centre + [prism.radius, 0, 0], np.array([1.0, 0, 0])))
        else:
            for i, side in enumerate(prism.sides):
                a, b = prism.ring[i], prism.ring[(i + 1) % len(prism.ring)]
                frame = np.array([[*a, prism.low], [*b, prism.low], [*b, prism.high], [*a, prism.high]])
                found.append(Grip(f"side {i}", frame.mean(axis=0), side.n, frame))
        for name, plane in zip(("top", "bottom"), prism.ends):
            found.append(Grip(name, np.array([*centre[:2], abs(plane.offset) * np.sign(plane.origin[2])]), plane.n))
        return (*found, Grip("whole", centre, None))

    def pulled(self, name: str, by: Array) -> SectionPrism:
        """As far as the outline stays one: a pull that would let it cross itself does nothing."""
        try:
            return self._with(self._pulled(name, by))
        except Problem:
            return self

    def _pulled(self, name: str, by: Array) -> Prism:
        kind, number = name_parts(name)
        prism = self.prism
        if kind == "top":
            return Prism(prism.corners, prism.low, max(prism.high + float(by[2]), prism.low + LEAST), prism.radius)
        if kind == "bottom":
            return Prism(prism.corners, min(prism.low + float(by[2]), prism.high - LEAST), prism.high, prism.radius)
        if kind == "radius" and prism.radius is not None:
            return Prism(prism.corners, prism.low, prism.high, max(prism.radius + float(by[0]), LEAST))
        if kind == "side":
            return prism.with_side_moved(number, float(by @ prism.sides[number].n))
        return prism.with_corner_moved(number, by[:2]) if kind == "corner" else prism.moved(by)

    def value(self, name: str) -> float | None:
        kind, number = name_parts(name)
        prism = self.prism
        if kind == "side":
            return prism.sides[number].position
        if kind == "centre":
            return float(prism.centre[number])
        known = {"turn": self.heading, "bottom": prism.low, "top": prism.high, "radius": prism.radius}
        return known.get(kind, float(prism.centre[2]))

    def travel(self, name: str) -> Array:
        kind, number = name_parts(name)
        if kind == "side":
            return self.prism.sides[number].positive
        return np.eye(3)[{"radius": 0, "centre": number}.get(kind, 2)]

    def moving_plane(self, name: str) -> Plane | None:
        kind, number = name_parts(name)
        if kind == "side":
            return self.prism.sides[number]
        return dict(zip(("top", "bottom"), self.prism.ends)).get(kind)

    @property
    def scouted(self) -> tuple[str, ...]:
        sides = () if self._is_round else tuple(f"side {i}" for i in range(len(self.prism.sides)))
        return (*sides, "top", "bottom")

    # What it says ----------------------------------------------------------------------------------------------

    def fields(self) -> tuple[CutField, ...]:
        tip = "{} of its middle, from the model's origin"
        centre = tuple(CutField(f"centre {i}", "Centre", tip.format("xy"[i])) for i in range(2))
        if self._is_round:
            return (CutField("radius", "Radius", "Type it, or pull it on the stage", below_zero=False), *centre, *LEVELS)
        return (*centre, *LEVELS, TURNED)

    def summary(self, lengths: Lengths) -> str:
        if self.prism.radius is not None:
            return f"⌀ {lengths.length(2 * self.prism.radius, 2)}"
        return f"{len(self.prism.corners)} corners"

    def grip_words(self, name: str) -> str:
        kind, number = name_parts(name)
        if kind == "side":
            return f"side {number + 1}"
        return {"whole": "prism", "top": "top", "bottom": "bottom", "radius": "radius"}.get(kind) or super().grip_words(name)

    # How it is shown -------------------------------------------------------------------------------------------

    def key_mark(self, view: DrawingPlane, bounds: Array, grow: float, lengths: Lengths) -> KeyMark:
        return self._in_plan(view) if view.is_plan else self._in_elevation(view)

    def _in_plan(self, view: DrawingPlane) -> KeyMark:
        ring, prism = view.flat(self.prism.solid_corners)[: len(self.prism.ring)], self.prism
        middle = KeyKnob("whole", view.flat(prism.centre))
        if prism.radius is not None:
            east = np.array([1.0, 0.0])
            return KeyMark(
                (MarkStroke(np.vstack([ring, ring[:1]]), "radius"),),
                (KeyKnob("radius", middle.at + prism.radius * east, east, 9.0), middle),
            )
        strokes = [MarkStroke(np.stack([a, b]), f"side {i}") for i, (a, b) in enumerate(zip(ring, np.roll(ring, -1, axis=0)))]
        corners = [KeyKnob(f"corner {i}", corner) for i, corner in enumerate(ring)]
        arm = ring[0] - middle.at
        turn = KeyKnob("turn", ring[0], arm / max(float(np.hypot(*arm)), 1e-9), 26.0)
        return KeyMark(tuple(strokes), (*corners, turn, middle))

    def _in_elevation(self, view: DrawingPlane) -> KeyMark:
        (left, low), (right, high) = bounds_round(view.flat(self.prism.solid_corners))
        strokes, knobs = [], []
        for hold, level, up in (("bottom", low, -1.0), ("top", high, 1.0)):
            strokes.append(MarkStroke(np.array([[left, level], [right, level]]), hold))
            knobs.append(KeyKnob(hold, np.array([(left + right) / 2, level]), np.array([0.0, up]), 9.0))
        strokes += [MarkStroke(np.array([[x, low], [x, high]]), "whole") for x in (left, right)]
        return KeyMark(tuple(strokes), (*knobs, KeyKnob("whole", np.array([(left + right) / 2, (low + high) / 2]))))

    def seen_face(self, towards: Array, bounds: Array) -> tuple[Plane, Array]:
        """From the side one is on already."""
        plane = max(self.prism.sides, key=lambda side: float(side.n @ towards))
        return plane, bounds if self.carve else bounds_round(self.prism.solid_corners)
