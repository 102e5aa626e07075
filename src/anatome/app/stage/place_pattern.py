"""A pattern or a picture where it lies on a surface, to be dragged there."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from anatome.app.base.drag import Spot
from anatome.app.stage.place_laid import OnFace, PlaceLaid, within_turn
from anatome.app.stage.pointing import meet
from anatome.app.stage.tasks import NOTHING_HERE, Pointer, Preview
from anatome.look.laying import Laying, frame_on, laid_at, part_axis, with_place
from anatome.look.styles import resolve
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]
SAME_FACE = 0.02
"""Metres off the plane of a face within which a press is still on it."""


@dataclass(frozen=True, eq=False)
class PatternOnFace:
    """On the surface of an element through a ``spot`` (3,) with a ``normal``; its own coordinates are metres along two directions
    of that plane, from the spot."""

    laying: Laying
    building: Building
    element: int
    spot: Array
    normal: Array
    viewport: Viewport
    at_home: Callable[[Spot], tuple[int, Array] | None]
    """What a pixel meets: the number of an element and (3,) where."""

    @property
    def _axes(self) -> tuple[Array, Array]:
        first = np.cross([0.0, 0.0, 1.0], self.normal)
        first = np.array([1.0, 0.0, 0.0]) if np.linalg.norm(first) < 1e-6 else first / np.linalg.norm(first)
        return first, np.cross(self.normal, first)

    @property
    def _own(self) -> tuple[Array, float, Array]:
        axis = part_axis(self.building, self.element) if self.laying.by == "part" else np.array([1.0, 0.0, 0.0])
        return self.normal, float(self.building.level_turn[self.element]), axis

    def _told(self, at: Array) -> Array:
        """(3,) a place as patterns are told of it: from the middle of the building."""
        return self.raised(at) - self.building.centre

    @property
    def words(self) -> str:
        return f"{self.laying.turn:.0f}°, × {self.laying.scale:.3g}"

    @property
    def angle(self) -> float:
        return self.laying.turn

    @property
    def grip(self) -> Array:
        return np.zeros(2)

    @property
    def way(self) -> Array:
        across, upward, _ = frame_on(self.laying, *self._own)
        c, s = math.cos(math.radians(self.laying.turn)), math.sin(math.radians(self.laying.turn))
        way = c * across + s * upward
        flat = np.array([float(way @ axis) for axis in self._axes])
        return flat / max(float(np.hypot(*flat)), 1e-9)

    def raised(self, at: Array) -> Array:
        first, second = self._axes
        return np.asarray(self.spot + at[..., :1] * first + at[..., 1:] * second)

    def under(self, at: Spot) -> Array:
        origin, ray = self.viewport.ray(*at)
        arm = origin + ray * float((self.spot - origin) @ self.normal) / float(ray @ self.normal) - self.spot
        return np.array([float(arm @ axis) for axis in self._axes])

    def holds(self, at: Spot) -> bool:
        met = self.at_home(at)
        return met is not None and met[0] == self.element and abs(float((met[1] - self.spot) @ self.normal)) < SAME_FACE

    def said(self, grip: Array, turn: float, times: float, now: Array) -> dict[str, object]:
        wanted = laid_at(self.laying, self._told(grip), *self._own)
        changed = replace(self.laying, turn=self.laying.turn + turn, scale=self.laying.scale * times)
        moved = with_place(changed, self._told(now), wanted, *self._own)
        said: dict[str, object] = {"lay_shift": moved.shift}
        if turn:
            said["lay_turn"] = within_turn(moved.turn)
        if times != 1.0:
            said["lay_scale"] = moved.scale
        return said


@dataclass
class PlacePattern(PlaceLaid):
    """A click on a surface of one of the ``elements`` says where; then what lies there is dragged."""

    elements: frozenset[int] = frozenset()
    seen: Callable[[], Viewport] | None = None
    spot: tuple[int, Array, Array, Viewport] | None = None

    def __post_init__(self) -> None:
        self.lies = self._lies
        self._say()

    def _say(self) -> None:
        if self.spot is None:
            self.hint, self.also = f"Click the surface whose {self.what} is to be moved", "Esc stops"
        else:
            super().__post_init__()

    def see(self, pointer: Pointer) -> None:
        super().see(pointer)
        self.why = ""
        if self.spot is None and pointer.found is None:
            self.why = NOTHING_HERE

    def shown(self) -> Preview | None:
        return None if self.spot is None else super().shown()

    def _lies(self) -> OnFace | None:
        building = self.session.building
        if self.spot is None or building is None or self.seen is None:
            return None
        element, place, normal, home = self.spot
        styles = resolve(self.session.drawn_look(), building)
        whole = self.seen()
        viewport = whole.at_home_of(home.move)

        def met(at: Spot) -> tuple[int, Array] | None:
            found = meet(self.session, whole, at)
            if found is None:
                return None
            hit = self.session.on_stage().parts[found[2]].at_home(found[0])
            return hit.element, np.array(hit.point)

        return PatternOnFace(styles.layings[styles.laying[element]], building, element, place, normal, viewport, met)

    def click(self, pointer: Pointer) -> bool:
        if pointer.found is None or pointer.found[1] is not None or pointer.found[0].element not in self.elements:
            raise Problem("Click a surface of the picked parts, not their cut face.")
        hit = pointer.found[0]
        self.spot = hit.element, np.array(hit.point), np.array(hit.normal), pointer.viewport
        self._say()
        return False
