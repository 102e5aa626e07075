"""Cuts and views worth trying for a subject: sections at clean positions, corners carved, storeys opened, rooms boxed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut, SectionBox, SectionPlane, SteppedSection
from anatome.cuts.directions import own_directions
from anatome.cuts.kinds.box import Box
from anatome.cuts.kinds.stepped_line import SteppedLine
from anatome.cuts.plane import COMPASS, Plane
from anatome.cuts.reach import EVERYTHING, Reach
from anatome.cuts.scout import scout
from anatome.model.bounds import bounds_round, corners_of
from anatome.model.building import Building
from anatome.model.kinds import FURNITURE_TYPES, RAILING_TYPES
from anatome.model.selection import Selection
from anatome.scenes.storey_edits import OPENED_AT
from anatome.suggestions.subject import Subject
from anatome.view.projections import Corner

Array = NDArray[np.float64]

CORNERS: tuple[Corner, ...] = ((-1, -1), (1, -1), (1, 1), (-1, 1))
STANDING = (*FURNITURE_TYPES, *RAILING_TYPES, "IfcStair", "IfcStairFlight")
"""What stands in a room and is looked at when its walls are carved away."""
INSIDE = 0.02
"""Metres by which the near sides of a box stand inside a room, so that its near walls are left out."""
ROUND = 0.35
"""Metres round a room that a box takes in: its far walls."""
SAME_STEP = 0.4
"""Metres by which steps of a section must differ to be two."""


@dataclass(frozen=True, eq=False)
class Candidate:
    """``cuts`` and how to look at them: square on to ``faces``, a plane, or from a ``corner``."""

    kind: str
    title: str
    short: str
    cuts: tuple[AnyCut, ...]
    faces: Plane | None = None
    corner: Corner = (-1, -1)


@dataclass(frozen=True, eq=False)
class UprightFrame:
    """The building's own upright frame: ``turn`` degrees, rows of ``axes`` (3, 3)."""

    turn: float
    axes: Array

    def inward(self, points: Array) -> Array:
        """Points (n, 3) in the building's own frame."""
        return np.asarray(points @ self.axes.T)

    def box(self, low: Array, high: Array) -> Box:
        """Return a box between two corners (3,) given in the frame."""
        middle = (low + high) / 2 @ self.axes
        size = np.maximum(high - low, 0.1)
        centre = (float(middle[0]), float(middle[1]), float(middle[2]))
        return Box(centre, (float(size[0]), float(size[1]), float(size[2])), self.turn)


def frame_of(building: Building, shown: NDArray[np.bool_]) -> UprightFrame:
    """Return the frame most walls run along; of two turns a right angle apart the one nearest to the model's own axes."""
    turn = own_directions(building, shown)[0]
    turn = turn - 90.0 if turn > 45.0 else turn
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    return UprightFrame(turn, np.array([[c, s, 0.0], [-s, c, 0.0], [0.0, 0.0, 1.0]]))


def candidates(building: Building, subject: Subject, shown: NDArray[np.bool_]) -> list[Candidate]:
    """Return all that is worth trying for a subject in what is shown, an (E,) mask."""
    built = shown & ~building.context
    frame = frame_of(building, built)
    corners = building.element_bounds[built].reshape(-1, 3)
    outer = frame.inward(corners)
    house, wanted = bounds_round(outer), bounds_round(frame.inward(corners_of(subject.bounds)))
    return _told_apart(
        [
            *_sections(building, subject, built, frame, wanted),
            *_carved(building, subject, frame, house, wanted),
            *_storeys(building, subject, built, frame),
            *_boxes(building, subject, frame, wanted),
            *_stepped(building, subject, frame),
        ]
    )


def _told_apart(found: list[Candidate]) -> list[Candidate]:
    """The same, those of one name with a number behind it."""
    names = Counter(one.short for one in found)
    met: Counter[str] = Counter()
    told = []
    for one in found:
        met[one.short] += 1
        again = f" {met[one.short]}" if names[one.short] > 1 else ""
        told.append(replace(one, title=one.title + again, short=one.short + again))
    return told


def _from(frame: UprightFrame, corner: Corner) -> str:
    """Where one stands who looks from a corner, in words; +Y counts as north."""
    x, y, _ = np.array([*corner, 0.0]) @ frame.axes
    return COMPASS[round(float(np.degrees(np.arctan2(y, x))) / 45.0) % 8]


def _room_at(building: Building, subject: Subject, plane: Plane) -> str:
    """What a section goes through: what is wanted, or of a whole building the largest room it crosses; nothing without names."""
    if not subject.whole:
        return subject.name
    crossed = []
    for space in building.spaces:
        away = plane.distance(corners_of(np.array([space.lower, space.upper])))
        if space.name and away.min() < 0 < away.max():
            crossed.append((float(np.prod(np.subtract(space.upper, space.lower))), space.name))
    return max(crossed)[1] if crossed else ""


def _plane(frame: UprightFrame, axis: int, offset: float, sign: int, middle: Array) -> Plane:
    normal = frame.axes[axis] * sign
    origin = frame.axes[axis] * offset + (middle - frame.axes[axis] * float(middle @ frame.axes[axis]))
    return Plane((float(origin[0]), float(origin[1]), float(origin[2])), (float(normal[0]), float(normal[1]), 0.0))


def _sections(
    building: Building, subject: Subject, built: NDArray[np.bool_], frame: UprightFrame, wanted: Array
) -> Iterator[Candidate]:
    """Perspective sections both ways along both axes of the building, at the cleanest positions within the subject."""
    middle = subject.bounds.mean(axis=0)
    for axis in (1, 0):
        found = scout(building, _plane(frame, axis, 0.0, 1, middle), built, samples=60)
        low, high = wanted[0, axis], wanted[1, axis]
        within = [offset for offset in found.suggestions if low < offset < high]
        if not within and len(found.offsets):
            # Nothing is clean there: as near to the middle as no face is shaved.
            clear = [o for o in found.offsets if low < o < high and all(abs(o - g) > 0.05 for g in found.grazes)]
            within = sorted(clear or [(low + high) / 2], key=lambda o: abs(o - (low + high) / 2))[:1]
        for offset in within[: 2 if subject.whole else 1]:
            for sign in (1, -1):
                plane = _plane(frame, axis, float(offset), sign, middle)
                cut = SectionPlane(id="", name="", mark="", plane=plane)
                room = _room_at(building, subject, plane)
                title = f"Perspective section{f' through {room}' if room else ''} looking {plane.compass}"
                yield Candidate("section", title, f"{room or 'Section'}, {plane.compass}", (cut,), faces=plane)


def _stands_within(building: Building, subject: Subject) -> Reach:
    """What carving leaves: the wanted parts, and what stands in the wanted room. Of the whole building nothing in particular."""
    if subject.whole:
        return EVERYTHING
    middles = building.element_bounds.mean(axis=1)
    inside = ((middles > subject.bounds[0]) & (middles < subject.bounds[1])).all(axis=1)
    loose = np.array([e.type in STANDING for e in building.elements], bool)
    ids = [building.elements[i].id for i in np.flatnonzero(subject.elements | (inside & loose)).tolist()]
    return Reach(mode="all but", what=Selection(elements=frozenset(ids))) if ids else EVERYTHING


def _carved(building: Building, subject: Subject, frame: UprightFrame, house: Array, wanted: Array) -> Iterator[Candidate]:
    """A corner of the building carved out before the subject; of the whole building a quarter."""
    reach = _stands_within(building, subject)
    for corner in CORNERS:
        low, high = house[0] - 1.0, house[1] + 1.0
        for axis, side in enumerate(corner):
            inner = wanted[:, axis].mean() if subject.whole else wanted[1 if side < 0 else 0, axis] + 0.05 * side
            if side < 0:
                high[axis] = inner
            else:
                low[axis] = inner
        low[2] = wanted[0, 2] + (0.3 if subject.whole else 0.02)
        cut = SectionBox(id="", name="", mark="", box=frame.box(low, high), carve=True, reach=reach)
        quarter = _from(frame, corner)
        yield Candidate("carved", f"Corner carved out, seen from the {quarter}", f"Carved, {quarter}", (cut,), corner=corner)


def _storeys(building: Building, subject: Subject, built: NDArray[np.bool_], frame: UprightFrame) -> Iterator[Candidate]:
    """A storey opened from above: that of the subject, or each that has walls."""
    walled = {
        e.storey for e, is_in in zip(building.elements, built) if is_in and e.storey is not None and e.type.startswith("IfcWall")
    }
    walled |= {s.storey for s in building.spaces if s.storey is not None}
    storeys = sorted(walled, key=lambda s: building.storeys[s].elevation)
    low, high = subject.bounds[:, 2]
    for number in storeys:
        floor = building.storeys[number].elevation
        if not subject.whole and not low - 0.5 <= floor <= high - 0.5:
            continue
        plane = Plane((0.0, 0.0, floor + OPENED_AT), (0.0, 0.0, 1.0))
        cut = SectionPlane(id="", name="", mark="", plane=plane)
        name = building.storeys[number].name
        for corner in CORNERS[: 1 if subject.whole else 2]:
            quarter = _from(frame, corner)
            title = f"{name} opened from above, seen from the {quarter}"
            yield Candidate("storey", title, name if subject.whole else f"{name}, {quarter}", (cut,), corner=corner)
        if not subject.whole:
            return


def _boxes(building: Building, subject: Subject, frame: UprightFrame, wanted: Array) -> Iterator[Candidate]:
    """A box round the room or the parts with the near walls left out, open at the top."""
    if subject.whole:
        return
    room = bool(len(subject.rooms))
    for corner in CORNERS:
        low, high = wanted[0].copy(), wanted[1].copy()
        for axis, side in enumerate(corner):
            near, far = (INSIDE, ROUND) if room else (-1.0, 1.0)
            low[axis] += near if side < 0 else -far
            high[axis] += far if side < 0 else -near
        low[2] -= ROUND
        high[2] += -0.05 if room else 1.0
        cut = SectionBox(id="", name="", mark="", box=frame.box(low, high))
        quarter = _from(frame, corner)
        name = f"Box round {subject.name}" + (", near walls left out" if room else "")
        yield Candidate("box", f"{name}, seen from the {quarter}", f"Boxed, {quarter}", (cut,), corner=corner)


def _stepped(building: Building, subject: Subject, frame: UprightFrame) -> Iterator[Candidate]:
    """A stepped section that joins what is wanted; of a whole building the stairs and the two largest rooms."""
    things = subject.things
    if subject.whole:
        stairs = [i for i, e in enumerate(building.elements) if e.type in ("IfcStair", "IfcStairFlight")][:1]
        sizes = np.prod(np.ptp(subject.rooms, axis=1), axis=1) if len(subject.rooms) else np.zeros(0)
        things = np.concatenate([building.element_bounds[stairs].mean(axis=1), things[np.argsort(-sizes)[:2]]])
    if not 2 <= len(things) <= 12:
        return
    for axis in (1, 0):
        made = 0
        for sign in (1, -1):
            normal = frame.axes[axis] * sign
            line = SteppedLine((float(normal[0]), float(normal[1]), 0.0), (0.0,), ())
            along, offset = things @ line.along, things @ np.array(line.normal)
            order = np.argsort(along)
            steps: list[tuple[float, float]] = []
            for i in order:
                if not steps or abs(offset[i] - steps[-1][1]) > SAME_STEP:
                    steps.append((float(along[i]), float(offset[i])))
            jogs = tuple((a[0] + b[0]) / 2 for a, b in pairwise(steps))
            if len(steps) < 2 or (np.diff(jogs) <= 0.1).any():
                continue
            line = SteppedLine(line.normal, tuple(s[1] for s in steps), jogs)
            cut = SteppedSection(id="", name="", mark="", line=line)
            made += 1
            yield Candidate(
                "stepped",
                f"Stepped section looking {line.planes[0].compass}",
                f"Stepped, {line.planes[0].compass}",
                (cut,),
                faces=max(line.planes, key=lambda p: p.offset),
            )
        if made:
            return  # along the longer way first
