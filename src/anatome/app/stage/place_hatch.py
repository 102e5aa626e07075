"""A hatch where it lies on the stage, to be dragged there."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.app.base import units
from anatome.app.base.drag import Spot
from anatome.app.document.session import Session
from anatome.app.stage.place_laid import within_turn
from anatome.cuts.dissection import CutFace
from anatome.cuts.pieces import Placed
from anatome.look.hatch_lines import frame_of, level_on_paper, place_in, roomiest, with_place
from anatome.look.hatches import Hatch
from anatome.look.look import Rule
from anatome.look.styles import resolve
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class HatchOnFace:
    """On the area of an element, in the plane of a face of a piece, as a viewport sees it; ``rule`` is what is said of it."""

    hatch: Hatch
    rule: Rule | None
    polygon: shapely.Geometry
    face: CutFace
    viewport: Viewport
    millimetre: float
    level: float

    @property
    def _frame(self) -> tuple[float, Array, float, float]:
        base = self.face.plane.flat(self.face.building.centre)
        return (self.millimetre if self.hatch.unit == "mm" else 1.0), base, self.millimetre, self.level

    @property
    def words(self) -> str:
        apart = self.hatch.finest
        return f"{self.hatch.turn:.0f}°, " + (f"{apart:.2g} mm" if self.hatch.unit == "mm" else units.length(apart, 3))

    @property
    def angle(self) -> float:
        return (self.rule.hatch_angle if self.rule is not None else None) or 0.0

    @property
    def grip(self) -> Array:
        return roomiest(self.polygon)

    @property
    def way(self) -> Array:
        turned = frame_of(self.hatch, self.polygon, self._frame[1], self.level)[0]
        return np.array([math.cos(turned), math.sin(turned)])

    def raised(self, at: Array) -> Array:
        return self.face.plane.raised(at)

    def under(self, at: Spot) -> Array:
        origin, ray = self.viewport.ray(*at)
        plane = self.face.plane
        return np.asarray(plane.flat(origin - ray * float(plane.distance(origin)) / float(ray @ plane.n)))

    def holds(self, at: Spot) -> bool:
        return bool(shapely.covers(self.polygon, shapely.Point(self.under(at))))

    def place_of(self, at: Array) -> Array:
        """Return where a place of the plane lies in the hatch."""
        return place_in(self.hatch, self.polygon, at, *self._frame)

    def said(self, grip: Array, turn: float, times: float, now: Array) -> dict[str, object]:
        changed = self.hatch.scaled(times).model_copy(update={"turn": self.hatch.turn + turn})
        moved = with_place(changed, self.polygon, now, self.place_of(grip) * times, *self._frame)
        said: dict[str, object] = {"hatch_shift": moved.shift}
        if turn:
            said["hatch_angle"] = within_turn(self.angle + turn)
        if times != 1.0:
            said["hatch_scale"] = ((self.rule.hatch_scale if self.rule is not None else None) or 1.0) * times
        return said


def largest_cut(parts: Sequence[Placed], viewport: Viewport, element: int) -> tuple[shapely.Geometry, CutFace, Viewport] | None:
    """Return (the largest area that is cut of an element where a viewport sees it filled, its face, how that is seen at home);
    None where there is none."""
    best, found = 0.0, None
    for part in parts:
        seen = viewport.at_home_of(part.move)
        for face in part.cut_open.faces:
            if face.cut.poche and seen.faces(face.plane):
                for polygon in face.poche.polygons[face.poche.element == element]:
                    if polygon.area > best:
                        best, found = polygon.area, (polygon, face, seen)
    return found


def hatch_on_stage(
    session: Session, viewport: Viewport, element: int, paper_height: float, rule: Rule | None = None
) -> HatchOnFace | None:
    """Return the hatch of an element on the largest area the stage shows of it that is cut; None where there is none."""
    building = session.building
    hatch = None if building is None else resolve(session.drawn_look(), building).hatch_of(element)
    if hatch is None:
        return None
    found = largest_cut(session.on_stage().parts, viewport, element)
    if found is None:
        return None
    polygon, face, seen = found
    plane = face.plane
    middle = plane.raised(roomiest(polygon))
    millimetre = seen.metres_per_pixel(middle) * viewport.height / paper_height
    square = seen.pixels(np.stack([middle, middle + plane.axes[0], middle + plane.axes[1]])) * [1.0, -1.0]
    return HatchOnFace(hatch, rule, polygon, face, seen, millimetre, level_on_paper(square))
