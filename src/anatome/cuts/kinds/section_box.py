"""The section box."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
import shapely

from anatome.cuts.cells import Cell
from anatome.cuts.kinds.base import Array
from anatome.cuts.kinds.box import FACE_NAMES, Box
from anatome.cuts.kinds.enclosing import TURNED, Enclosing
from anatome.cuts.kinds.grip import LEAST, CutField, Grip, Lengths, clearance, name_parts
from anatome.cuts.kinds.key_mark import IN_LINE, DrawingPlane, KeyKnob, KeyMark, MarkStroke
from anatome.cuts.parting import Parting
from anatome.cuts.plane import Plane
from anatome.model.bounds import bounds_round, corners_of


class SectionBox(Enclosing):
    """A box, perhaps turned about the vertical.

    Its grips are ``face 0`` … ``face 5``, its sides, and ``whole``.
    """

    kind: Literal["box"] = "box"
    box: Box
    carve: bool = False
    parting: Parting | None = None

    noun: ClassVar[str] = "Box"

    def cells(self) -> tuple[Cell, ...]:
        return self.box.cells(self.carve)

    def sides(self) -> tuple[tuple[Cell, ...], tuple[Cell, ...]]:
        return self.box.cells(True), self.box.cells(False)

    @property
    def axis(self) -> Plane:
        """The box's front: it looks along the box's own +y."""
        front = self.box.planes[FACE_NAMES.index("front")]
        return front if not self.carve else self.box.planes[FACE_NAMES.index("back")].turned_round()

    @property
    def corners(self) -> Array | None:
        return self.box.corners

    @property
    def centre(self) -> Array | None:
        return np.array(self.box.centre)

    def face_name(self, plane: Plane) -> str:
        return next((n for n, p in zip(FACE_NAMES, self.box.planes) if plane in (p, p.turned_round())), "")

    def moved(self, by: Array) -> SectionBox:
        return self.model_copy(update={"box": self.box.moved(by)})

    def scaled(self, factor: float) -> SectionBox:
        parting = self.parting and self.parting.scaled(factor)
        return self.model_copy(update={"box": self.box.scaled(factor), "parting": parting})

    def stretched(self, low: float, high: float) -> SectionBox:
        return self.moved(np.array([0.0, 0.0, low])).pulled("face 4", np.array([0.0, 0.0, high - low]))

    def _part_way(self, to: SectionBox, share: float) -> SectionBox | None:
        return None if self.carve != to.carve else to.model_copy(update={"box": self.box.part_way(to.box, share)})

    def clear_of(self, bounds: Array) -> SectionBox:
        margin = clearance(bounds)
        corners = np.concatenate([corners_of(bounds), self.box.corners])
        if not self.carve:
            return self.model_copy(update={"box": Box.round_points(corners, self.box.turn, margin)})
        # Out through the side from which the way is shortest, and never down into the ground.
        outwards = [plane.n for plane in self.box.planes[:5]]
        ways = [float((corners_of(bounds) @ n).max() - (self.box.corners @ n).min()) + margin for n in outwards]
        shortest = int(np.argmin(ways))
        return self.moved(outwards[shortest] * max(ways[shortest], 0.0))

    def turned(self, point: Array, degrees: float) -> SectionBox:
        """Turn it about its own vertical, wherever the point lies."""
        return self.model_copy(update={"box": self.box.turned_to(self.box.turn + degrees)})

    @property
    def heading(self) -> float:
        return self.box.turn

    @property
    def can_turn(self) -> bool:
        return True

    def nudge(self, right: float, forward: float, up: float) -> Array:
        """Along its own axes."""
        return np.asarray(np.array([right, forward, up]) @ self.box.axes)

    def frames(self, bounds: Array) -> list[Array]:
        """Return (4, 3) corners of each side, in the order of FACE_NAMES."""
        corners = self.box.corners
        found = []
        for face in range(6):
            axis, upper = face // 2, face % 2 == 0
            own = [i for i in range(8) if bool(i >> axis & 1) == upper]
            found.append(corners[[own[0], own[1], own[3], own[2]]])
        return found

    def grips(self, bounds: Array) -> tuple[Grip, ...]:
        found = [
            Grip(f"face {face}", frame.mean(axis=0), self.box.planes[face].n, frame)
            for face, frame in enumerate(self.frames(bounds))
        ]
        return (*found, Grip("whole", np.array(self.box.centre), None))

    def pulled(self, name: str, by: Array) -> SectionBox:
        kind, number = name_parts(name)
        if kind == "face":
            own = float(by @ self.box.planes[number].n)
            return self.model_copy(update={"box": self.box.with_face_moved(number, own, LEAST)})
        return self.moved(by)

    def value(self, name: str) -> float | None:
        kind, number = name_parts(name)
        if kind == "turn":
            return self.heading
        if kind == "face":
            return self.box.size[number // 2]
        if kind == "size":
            return self.box.size[number]
        return self.box.centre[number if kind == "centre" else 2]

    def travel(self, name: str) -> Array:
        kind, number = name_parts(name)
        return self.box.planes[number].n if kind == "face" else np.eye(3)[number if kind == "centre" else 2]

    def with_value(self, name: str, wanted: float, about: Array) -> SectionBox:
        kind, number = name_parts(name)
        if kind == "size":
            return self.model_copy(update={"box": self.box.resized(number, max(wanted, LEAST))})
        return super().with_value(name, wanted, about)

    def moving_plane(self, name: str) -> Plane | None:
        kind, number = name_parts(name)
        return self.box.planes[number] if kind == "face" else None

    @property
    def scouted(self) -> tuple[str, ...]:
        return tuple(f"face {i}" for i in (3, 2, 1, 0, 4, 5))

    def fields(self) -> tuple[CutField, ...]:
        size = "Along the box's own {}: type it, or pull a side on the stage"
        centre = "{} of the middle of the box, from the model's origin"
        return (
            *(CutField(f"size {i}", "Size", size.format("xyz"[i]), below_zero=False) for i in range(3)),
            *(CutField(f"centre {i}", "Centre", centre.format("xyz"[i])) for i in range(3)),
            TURNED,
        )

    def summary(self, lengths: Lengths) -> str:
        return lengths.sizes(self.box.size, 1)

    def grip_words(self, name: str) -> str:
        kind, number = name_parts(name)
        if kind == "face":
            return f"{FACE_NAMES[number]} side"
        return "box" if kind == "whole" else super().grip_words(name)

    def key_mark(self, view: DrawingPlane, bounds: Array, grow: float, lengths: Lengths) -> KeyMark:
        corners = view.flat(self.box.corners)
        middle = KeyKnob("whole", view.flat(np.array(self.box.centre)))
        strokes, knobs = [], []
        for face, plane in enumerate(self.box.planes):
            outwards = view.flat(plane.n)
            if np.hypot(*outwards) < IN_LINE:
                continue
            own = corners[[i for i in range(8) if bool(i >> (face // 2) & 1) == (face % 2 == 0)]]
            along = np.array([-outwards[1], outwards[0]])
            ends = own[[int(np.argmin(own @ along)), int(np.argmax(own @ along))]]
            strokes.append(MarkStroke(ends, f"face {face}"))
            knobs.append(KeyKnob(f"face {face}", ends.mean(axis=0), outwards, 9.0))
        if len(strokes) < 4:
            # A turned box in an elevation: its silhouette, and only top and bottom can be pulled there.
            hull = shapely.get_coordinates(shapely.MultiPoint(corners).convex_hull)
            strokes.insert(0, MarkStroke(hull, "whole"))
        if view.is_plan:
            corner = corners[7]
            arm = corner - middle.at
            knobs.append(KeyKnob("turn", corner, arm / max(float(np.hypot(*arm)), 1e-9), 14.0))
        return KeyMark(tuple(strokes), (*knobs, middle))

    def seen_face(self, towards: Array, bounds: Array) -> tuple[Plane, Array]:
        """From the side one is on already."""
        sides = [p for p in self.box.planes if not p.is_level]
        plane = max(sides, key=lambda p: float(p.n @ towards))
        return plane, bounds if self.carve else bounds_round(self.box.corners)
