"""Where a cut is held and pulled, the same on the stage, in the key drawings and by numbers.

A grip has a name: ``move`` (a plane along its normal, a stepped section as a whole), ``far`` (the end of the depth),
``face 0`` … ``face 5`` (a side of a box), ``whole`` (a box), ``step i`` and ``jog i`` (of a stepped section). ``turn``
is not a grip but is understood wherever a name is: it turns the cut about the vertical.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.box import FACE_NAMES
from anatome.cuts.cut import AnyCut, SectionBox, SectionPlane, SteppedSection
from anatome.cuts.plane import Plane
from anatome.cuts.snapping import Stop, nearest_stop

Array = NDArray[np.float64]

LEAST_DEPTH = 0.01
"""Metres below which neither a depth nor a side of a box can be pulled."""
MARGIN = 0.04
"""Share of the building by which the frame of a plane is larger than it."""


@dataclass(frozen=True, eq=False)
class Grip:
    """``at`` (3,) metres; ``along`` (3,) the unit direction it travels in and its stem points to, None: moved anywhere.

    ``frame`` (4, 3) is the rectangle within which ``at`` may be put elsewhere to be within reach, or None.
    """

    name: str
    at: Array
    along: Array | None
    frame: Array | None = None

    @property
    def travels(self) -> bool:
        """Whether it keeps to a line."""
        return self.along is not None


def corners_of(bounds: Array) -> Array:
    """(8, 3) corners of (2, 3) bounds."""
    return np.array([[bounds[i][0], bounds[j][1], bounds[k][2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)])


def plane_frame(plane: Plane, bounds: Array, margin: float = MARGIN) -> Array:
    """(4, 3) corners of the rectangle on the plane that spans the (2, 3) bounds and a little more."""
    flat = plane.flat(corners_of(bounds))
    low, high = flat.min(axis=0), flat.max(axis=0)
    grow = margin * float((high - low).max())
    return _rectangle(plane, low - grow, high + grow)


def _rectangle(plane: Plane, low: Array, high: Array) -> Array:
    return plane.raised(np.array([[low[0], low[1]], [high[0], low[1]], [high[0], high[1]], [low[0], high[1]]]))


def _step_frames(cut: SteppedSection, bounds: Array) -> list[Array]:
    """(4, 3) of each step between its jogs, the outer ones as far as the bounds reach."""
    corners = corners_of(bounds)
    along, grow = corners @ cut.line.along, MARGIN * float(np.ptp(bounds, axis=0).max())
    low, high = float(along.min()) - grow, float(along.max()) + grow
    ends = [min([low, *cut.line.jogs]), *cut.line.jogs, max([high, *cut.line.jogs])]
    frames = []
    for plane, left, right in zip(cut.line.planes, ends[:-1], ends[1:]):
        foot = plane.n * plane.offset
        a, b = foot + cut.line.along * left, foot + cut.line.along * right
        bottom, top = bounds[0][2] - grow, bounds[1][2] + grow
        frames.append(np.array([[*a[:2], bottom], [*b[:2], bottom], [*b[:2], top], [*a[:2], top]]))
    return frames


def box_faces(cut: SectionBox) -> list[Array]:
    """(4, 3) corners of each side of a box, in the order of FACE_NAMES."""
    corners = cut.box.corners
    found = []
    for face in range(6):
        axis, upper = face // 2, face % 2 == 0
        own = [i for i in range(8) if bool(i >> axis & 1) == upper]
        found.append(corners[[own[0], own[1], own[3], own[2]]])
    return found


def frames(cut: AnyCut, bounds: Array) -> list[Array]:
    """Closed outlines (n, 3) by which a cut is shown while working, for a building of (2, 3) bounds."""
    if isinstance(cut, SectionBox):
        return box_faces(cut)
    if isinstance(cut, SteppedSection):
        return _step_frames(cut, bounds)
    return [plane_frame(cut.plane, bounds)]


def grips(cut: AnyCut, bounds: Array) -> tuple[Grip, ...]:
    """All grips of a cut, the most used first. Stems point where a cut looks; those of a box point outwards."""
    found: list[Grip] = []
    if isinstance(cut, SectionBox):
        for face, frame in enumerate(box_faces(cut)):
            found.append(Grip(f"face {face}", frame.mean(axis=0), cut.box.planes[face].n, frame))
        return (*found, Grip("whole", np.array(cut.box.centre), None))
    if isinstance(cut, SteppedSection):
        own = _step_frames(cut, bounds)
        looks = -np.array(cut.line.normal)
        for i, frame in enumerate(own):
            found.append(Grip(f"step {i}", frame.mean(axis=0), looks, frame))
        for i, jog in enumerate(cut.line.jogs):
            between = (cut.line.offsets[i] + cut.line.offsets[i + 1]) / 2
            at = cut.line.along * jog + np.array(cut.line.normal) * between + [0, 0, bounds[:, 2].mean()]
            found.append(Grip(f"jog {i}", at, cut.line.along))
        deepest = min(cut.line.planes, key=lambda p: p.offset)
        return (*found, *_far_grip(deepest, cut.depth, bounds))
    frame = plane_frame(cut.plane, bounds)
    return (Grip("move", frame.mean(axis=0), -cut.plane.n, frame), *_far_grip(cut.plane, cut.depth, bounds))


def _far_grip(plane: Plane, depth: float | None, bounds: Array) -> list[Grip]:
    if depth is None:
        return []
    frame = plane_frame(plane.moved(-depth), bounds)
    return [Grip("far", frame.mean(axis=0), -plane.n, frame)]


def pulled(cut: AnyCut, name: str, by: Array) -> AnyCut:
    """The cut with one grip pulled by (3,) metres; what does not lie along the grip's direction is passed over.

    A cut that is locked stays as it is.
    """
    if cut.locked:
        return cut
    kind, number = _parts(name)
    if isinstance(cut, SectionBox):
        if kind == "face":
            own = float(by @ cut.box.planes[number].n)
            return cut.model_copy(update={"box": cut.box.with_face_moved(number, own, LEAST_DEPTH)})
        return cut.moved(by)
    looks = -cut.axis.n
    if kind == "far" and cut.depth is not None:
        return cut.model_copy(update={"depth": max(cut.depth + float(by @ looks), LEAST_DEPTH)})
    if isinstance(cut, SteppedSection):
        if kind == "step":
            return cut.model_copy(update={"line": cut.line.with_step_moved(number, -float(by @ looks))})
        if kind == "jog":
            place = cut.line.jogs[number] + float(by @ cut.line.along)
            return cut.model_copy(update={"line": cut.line.with_jog_at(number, place)})
    return cut.moved(cut.axis.n * float(by @ cut.axis.n))


def turned(cut: AnyCut, about: Array, degrees: float) -> AnyCut:
    """Turned about the vertical through a (3,) point, a box about its own; not if it is locked."""
    return cut if cut.locked else cut.turned(about, degrees)


def heading(cut: AnyCut) -> float:
    """Where a cut looks, degrees anticlockwise from X; for a box how it is turned."""
    return cut.box.turn if isinstance(cut, SectionBox) else cut.axis.heading


def can_turn(cut: AnyCut) -> bool:
    """Whether turning about the vertical makes a difference."""
    return isinstance(cut, SectionBox) or not cut.axis.is_level


def value(cut: AnyCut, name: str) -> float:
    """The number that stands at a grip: a position, a depth, the size of a box from side to side, or degrees."""
    kind, number = _parts(name)
    if kind == "turn":
        return heading(cut)
    if isinstance(cut, SectionBox):
        return cut.box.size[number // 2] if kind == "face" else cut.box.centre[2]
    if kind == "far":
        return cut.depth or 0.0
    if isinstance(cut, SteppedSection):
        if kind == "jog":
            return cut.line.jogs[number]
        return cut.line.planes[number].position
    return cut.plane.position


def with_value(cut: AnyCut, name: str, wanted: float, about: Array) -> AnyCut:
    """The cut with that number made what is ``wanted``; turned about a (3,) point where it is an angle."""
    kind, number = _parts(name)
    missing = wanted - value(cut, name)
    if kind == "turn":
        return turned(cut, about, missing)
    if isinstance(cut, SectionBox):
        along = cut.box.planes[number].n if kind == "face" else np.array([0.0, 0.0, 1.0])
        return pulled(cut, name, along * missing)
    if kind == "jog" and isinstance(cut, SteppedSection):
        return pulled(cut, name, cut.line.along * missing)
    if kind == "far":
        return pulled(cut, name, -cut.axis.n * missing)
    plane = cut.line.planes[number] if isinstance(cut, SteppedSection) else cut.axis
    return pulled(cut, name, plane.n * (plane.at_position(wanted).offset - plane.offset))


def words(cut: AnyCut, name: str) -> str:
    """What a grip is called in the status line and beside its number."""
    kind, number = _parts(name)
    if kind == "face":
        return f"{FACE_NAMES[number]} side"
    if kind == "step" or kind == "jog":
        return f"{kind} {number + 1}"
    return {"far": "depth", "turn": "direction", "whole": "box"}.get(kind, "position")


def moving_plane(cut: AnyCut, name: str) -> Plane | None:
    """The plane that goes where a grip goes, to be snapped; None where there is none."""
    kind, number = _parts(name)
    if isinstance(cut, SectionBox):
        return cut.box.planes[number] if kind == "face" else None
    if kind == "far":
        return cut.axis.moved(-(cut.depth or 0.0)) if isinstance(cut, SectionPlane) else None
    if isinstance(cut, SteppedSection):
        if kind == "jog":
            along = cut.line.along
            place = along * cut.line.jogs[number]
            return Plane((float(place[0]), float(place[1]), 0.0), (float(along[0]), float(along[1]), 0.0))
        return cut.line.planes[number]
    return cut.plane if kind == "move" else None


def snapped(cut: AnyCut, name: str, stops: Sequence[Stop], within: float) -> tuple[AnyCut, Stop | None]:
    """The cut with the grip at the nearest stop, if there is one within metres; ``stops`` are along its moving plane."""
    plane = moving_plane(cut, name)
    if plane is None:
        return cut, None
    stop = nearest_stop(list(stops), plane.offset, within)
    if stop is None:
        return cut, None
    return pulled(cut, name, plane.n * (stop.offset - plane.offset)), stop


def nudged(cut: AnyCut, right: float, forward: float, up: float) -> AnyCut:
    """Moved by metres as keys say: a box along its own axes, any other cut ``forward`` to where it looks.

    ``up`` moves a level cut and lifts a box.
    """
    if cut.locked:
        return cut
    if isinstance(cut, SectionBox):
        return cut.moved(np.array([right, forward, up]) @ cut.box.axes)
    if cut.axis.is_level:
        return cut.moved(np.array([0.0, 0.0, up + forward]))
    return cut.moved(-cut.axis.n * (forward + up))


def rounded_turn(cut: AnyCut, swing: float, directions: Sequence[float], step: float = 15.0) -> float:
    """The degrees to turn by so that the cut lies in steps of ``step`` or in one of the model's own directions."""
    wanted = heading(cut) + swing
    candidates = [round(wanted / step) * step]
    candidates += [d + 90.0 * round((wanted - d) / 90.0) for d in directions]
    best = min(candidates, key=lambda c: abs(c - wanted))
    return best - heading(cut)


def _parts(name: str) -> tuple[str, int]:
    kind, _, number = name.partition(" ")
    return kind, int(number) if number else 0


def drawn_direction(a: Array, b: Array, directions: Sequence[float], step: float = 15.0) -> Array:
    """(2,) the end of a line from ``a`` towards ``b`` kept to steps of 15° or to the model's own directions."""
    arm = b - a
    angle = math.degrees(math.atan2(arm[1], arm[0]))
    candidates = [round(angle / step) * step]
    candidates += [d + 90.0 * round((angle - d) / 90.0) for d in directions]
    best = math.radians(min(candidates, key=lambda c: abs(c - angle)))
    unit = np.array([math.cos(best), math.sin(best)])
    return np.asarray(a + unit * float(arm @ unit))
