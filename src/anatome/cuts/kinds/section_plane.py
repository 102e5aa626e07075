"""The section plane."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from anatome.cuts.cells import Cell
from anatome.cuts.kinds.base import DEPTH, FAR_END, Array, BaseCut
from anatome.cuts.kinds.grip import (
    LEAST,
    CutField,
    Grip,
    Lengths,
    clearance,
    depth_clear_of,
    far_end,
    far_grips,
    part_way,
    plane_frame,
    times,
)
from anatome.cuts.kinds.key_mark import DrawingPlane, KeyKnob, KeyMark, MarkStroke, line_of
from anatome.cuts.parting import Parting
from anatome.cuts.plane import Plane, vector
from anatome.values import FARTHEST

POSITION = CutField("move", "Position", "Where the cut stands, from the model's origin")
DIRECTION = CutField(
    "turn", "Direction", "Where the cut looks, anticlockwise from +X. Type degrees to turn it", unit="°", step=1.0
)

TILT = CutField("tilt", "Tilt", "0° upright, 90° looks straight down, below 0 up. Type degrees to tilt it", unit="°", step=1.0)


class SectionPlane(BaseCut):
    """One plane; with a ``depth`` in metres only what lies so far beyond it is left.

    Its grips are ``move``, along its normal, and ``far``, the end of the depth.
    """

    kind: Literal["plane"] = "plane"
    plane: Plane
    depth: float | None = Field(default=None, gt=0, le=FARTHEST)
    parting: Parting | None = None

    def cells(self) -> tuple[Cell, ...]:
        front = Cell((self.plane,))
        return (front,) if self.depth is None else (front, Cell((far_end(self.plane, self.depth),)))

    def sides(self) -> tuple[tuple[Cell, ...], tuple[Cell, ...]]:
        return (Cell((self.plane,)),), (Cell((self.plane.turned_round(),)),)

    @property
    def axis(self) -> Plane:
        return self.plane

    def face_name(self, plane: Plane) -> str:
        return "" if plane == self.plane else FAR_END

    def moved(self, by: Array) -> SectionPlane:
        return self.model_copy(update={"plane": Plane(tuple(np.array(self.plane.origin) + by), self.plane.normal)})

    def scaled(self, factor: float) -> SectionPlane:
        plane = Plane(vector(np.array(self.plane.origin) * factor), self.plane.normal)
        parting = self.parting and self.parting.scaled(factor)
        return self.model_copy(update={"plane": plane, "depth": times(self.depth, factor), "parting": parting})

    def turned(self, point: Array, degrees: float) -> SectionPlane:
        return self.model_copy(update={"plane": self.plane.turned_about(point, degrees)})

    def tilted(self, point: Array, axis: Array, degrees: float) -> SectionPlane:
        return self.model_copy(update={"plane": self.plane.tilted_about(point, axis, degrees)})

    @property
    def can_tilt(self) -> bool:
        return True

    def with_value(self, name: str, wanted: float, about: Array) -> SectionPlane:
        if name == "tilt":
            return self.model_copy(update={"plane": self.plane.at_tilt(about, wanted)})
        return super().with_value(name, wanted, about)

    def _part_way(self, to: SectionPlane, share: float) -> SectionPlane | None:
        plane = self.plane.part_way(to.plane, share)
        return None if plane is None else to.model_copy(update={"plane": plane, "depth": part_way(self.depth, to.depth, share)})

    def clear_of(self, bounds: Array) -> SectionPlane:
        margin = clearance(bounds)
        plane = self.plane.beyond(bounds, margin)
        return self.model_copy(update={"plane": plane, "depth": depth_clear_of(plane, self.depth, bounds, margin)})

    def turned_round(self) -> SectionPlane:
        return self.model_copy(update={"plane": self.plane.turned_round()})

    def frames(self, bounds: Array) -> list[Array]:
        return [plane_frame(self.plane, bounds)]

    def grips(self, bounds: Array) -> tuple[Grip, ...]:
        frame = plane_frame(self.plane, bounds)
        return (Grip("move", frame.mean(axis=0), -self.plane.n, frame), *far_grips(self.plane, self.depth, bounds))

    def pulled(self, name: str, by: Array) -> SectionPlane:
        if name == "far" and self.depth is not None:
            return self.model_copy(update={"depth": max(self.depth + float(by @ -self.plane.n), LEAST)})
        return self.moved(self.plane.n * float(by @ self.plane.n))

    def value(self, name: str) -> float | None:
        if name in ("turn", "tilt"):
            return self.heading if name == "turn" else self.plane.tilt
        return self.depth if name == "far" else self.plane.position

    def travel(self, name: str) -> Array:
        return -self.plane.n if name == "far" else self.plane.positive

    def moving_plane(self, name: str) -> Plane | None:
        if name == "far":
            return self.plane.moved(-(self.depth or 0.0))
        return self.plane if name == "move" else None

    @property
    def scouted(self) -> tuple[str, ...]:
        return ("move",)

    def fields(self) -> tuple[CutField, ...]:
        return (POSITION, *((DIRECTION,) if self.can_turn else ()), TILT, DEPTH)

    def summary(self, lengths: Lengths) -> str:
        return lengths.length(self.plane.position, 2)

    def key_mark(self, view: DrawingPlane, bounds: Array, grow: float, lengths: Lengths) -> KeyMark:
        line = line_of(self.plane, view, bounds, grow)
        if line is None:
            kind = "level" if view.is_plan else "faces this side"
            return KeyMark(note=f"{self.mark}  {kind}, at {lengths.length(self.plane.position, 2, signed=True)}")
        looks = -view.flat(self.plane.n)
        looks = looks / np.hypot(*looks)
        strokes = [MarkStroke(line, "move")]
        if self.depth is not None:
            far = line_of(self.plane.moved(-self.depth), view, bounds, grow)
            if far is not None:
                strokes.append(MarkStroke(far, "far", faint=True))
        edge_on = abs(float(self.plane.n @ view.towards)) < 1e-3
        hold = "turn" if view.is_plan else "tilt" if edge_on else "move"
        return KeyMark(tuple(strokes), tuple(KeyKnob(hold, end, looks, 13.0) for end in line))
