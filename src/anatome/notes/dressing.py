"""Dressing a section or a plan: one step writes what is usual on it, and nothing covers anything.

On a section: storey levels, heights of storeys and of the whole, clear heights, widths of the rooms cut, their names, the layers
of the build-ups cut, a scale bar. On a plan: the whole both ways, clear widths, names, where sections are cut, north, a scale
bar. Each piece is an ordinary note afterwards.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from itertools import chain

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut
from anatome.cuts.dissection import CutFace
from anatome.cuts.flat_view import main_face
from anatome.cuts.plane import vector
from anatome.notes.anchors import Anchor, anchored
from anatome.notes.cut_rooms import LEAST, OPENED, WAYS, BuildUpLayer, CutFaceRooms, CutRoom, through_another
from anatome.notes.drawn import marks_of
from anatome.notes.dressed_before import SaidBefore
from anatome.notes.free_room import Box, FreeRoom
from anatome.notes.note import AnyNote, Corner, Dimension, Label, Level, NorthPoint, ScaleBar, SectionMark
from anatome.notes.view import NoteView
from anatome.problems import Problem

Array = NDArray[np.float64]
Stack = tuple[CutRoom, str, tuple[BuildUpLayer, ...]]
"""A room, the way one looks from it, and the layers met there."""
GAP = 9.0
"""Mm between the building and the first line beside it."""
SHORTEST = 9.0
"""Mm on paper under which a clear length is not worth a dimension of its own."""
UNDER = (8.0, 11.0, 14.0)
"""Mm between the building and a scale bar under it."""
MOST_BUILD_UPS = 6
CORNERS: tuple[Corner, ...] = ("lower right", "lower left", "upper left", "upper right")
SHARES = (0.28, 0.72, 0.16, 0.84, 0.4, 0.6, 0.5)
"""Where in a room a dimension is tried, as shares of its clear width or height."""


@dataclass(frozen=True)
class Dressed:
    """The notes, and in words what found no room or nothing to say."""

    notes: tuple[AnyNote, ...]
    left_out: tuple[str, ...] = ()


def dress(
    view: NoteView,
    cut: AnyCut,
    faces: Iterable[CutFace],
    new_id: Callable[[], str],
    others: Iterable[AnyNote],
    seen: Box | None = None,
    also: NoteView | None = None,
) -> Dressed:
    """Return what is usual on a picture of a cut, given its faces, beside the notes there are and without what those say; all of
    it within what is ``seen`` of the picture, in mm, and where nothing covers anything in a second view ``also``. Raises Problem
    where the cut slices nothing or is seen edge on."""
    own = [face for face in faces if face.cut.id == cut.id]
    face = main_face(cut, own)
    if face is None or face.built_bounds() is None:
        raise Problem(f"{cut.name} slices nothing of the building. Move it to where there is something to write on.")
    towards = view.viewport.towards(view.opened.bounds.mean(axis=0))
    if abs(towards @ face.plane.n) < 0.15:
        raise Problem(f"{cut.name} is seen almost edge on. Put the camera square on to it first.")
    others = tuple(others)
    views = [(view, FreeRoom(seen or _paper(view))), *([(also, FreeRoom(_paper(also)))] if also is not None else [])]
    work = _Dressing(view, cut, face, new_id, SaidBefore(others), views)
    for note in others:
        work.take(note)
    work.plan() if face.plane.is_level else work.section()
    high = view.viewport.height
    notes = tuple(note.model_copy(update={"dressed": high}) for note in work.notes)
    return Dressed(notes, tuple(dict.fromkeys(work.left_out)))


def _paper(view: NoteView) -> Box:
    return (0.0, 0.0, view.viewport.width, view.viewport.height)


@dataclass
class _Dressing:
    view: NoteView
    cut: AnyCut
    face: CutFace
    new_id: Callable[[], str]
    before: SaidBefore
    views: list[tuple[NoteView, FreeRoom]]
    notes: list[AnyNote] = field(default_factory=list)
    left_out: list[str] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.plane = self.face.plane
        self.normal = self.plane.normal
        self.found = self.face.poche
        self.u, self.v = self.plane.axes
        self.building = self.view.building
        built = self.found.polygons[~self.building.context[self.found.element]]
        left, low, right, high = shapely.total_bounds(built)
        self.low, self.high = np.array([left, low]), np.array([right, high])
        self.metres = self.view.viewport.metres_per_pixel(self.plane.raised((self.low + self.high) / 2))
        self.rooms = CutFaceRooms(self.building, self.found)

    # Placing ---------------------------------------------------------------------------------------------------

    def first(self, tries: Iterable[AnyNote], otherwise: str = "") -> AnyNote | None:
        """Keep the first of some notes for which there is room, unless it was said before; in words what is missing if there is
        none."""
        for note in tries:
            if self.before.has(note):
                return None
            if self.has_room(note):
                self.take(note)
                self.notes.append(note)
                return note
        if otherwise:
            self.left_out.append(otherwise)
        return None

    def anchor(self, flat: Array, on: str = "") -> Anchor:
        """At (2,) metres in the plane, going along with the cut."""
        return anchored(
            self.building, self.plane.raised(flat), on, cut=self.cut.id, face=self.cut.face_name(self.plane), along=self.normal
        )

    def element_id(self, number: int) -> str:
        return self.building.elements[number].id

    # Sections --------------------------------------------------------------------------------------------------

    def section(self) -> None:
        """What is usual on an upright cut."""
        rooms = self.rooms.rooms()
        self.heights()
        self.levels()
        for room in rooms:
            self.name(room)
        for room in rooms:
            self.clear(room, "up", "clear heights")
        for room in rooms:
            self.clear(room, "right", "widths of rooms")
        self.build_ups(rooms)
        self.scale_bar()

    def storey_heights(self) -> list[tuple[float, str]]:
        """Return (level, id) of the storeys the cut shows, from below."""
        found = [(s.elevation, s.id) for s in self.building.storeys if self.low[1] - 0.05 <= s.elevation <= self.high[1] + 0.05]
        return sorted(found)

    def levels(self) -> None:
        """Beside the building, at the side where all of them have room; else on the lines of the floors within."""
        storeys = self.storey_heights()
        wide = self.high[0] - self.low[0]
        outside = [(1.0, shift) for shift in (GAP, GAP + 16, 2.0)] + [(0.0, -shift) for shift in (GAP, GAP + 16, 2.0)]
        ways = [(text, share, shift) for text in ("{level}  {name}", "{level}") for share, shift in outside]
        inside = [("{level}", share, 2.0) for share in (0.06, 0.12, 0.2, 0.3, 0.45, 0.6, 0.7, 0.8, 0.88)]

        def level(height: float, storey: str, way: tuple[str, float, float]) -> AnyNote:
            text, share, shift = way
            anchor = self.anchor(np.array([self.low[0] + share * wide, height]), storey)
            return Level(id=self.new_id(), anchors=(anchor,), text=text, plane=self.normal, shift=shift)

        for way in ways:
            row = [level(height, storey, way) for height, storey in storeys]
            if all(self.has_room(note) for note in row):
                for note in row:
                    self.first([note])
                return
        for height, storey in storeys:
            self.first([level(height, storey, way) for way in (*ways, *inside)], "levels of storeys")

    def has_room(self, note: AnyNote) -> bool:
        """Return whether a note covers nothing and is within the picture, in all views."""
        for view, room in self.views:
            marks = marks_of(note, view)
            if marks is None or marks.gone or not room.has(marks):
                return False
        return True

    def take(self, note: AnyNote) -> None:
        """It stands there now."""
        for view, room in self.views:
            if (marks := marks_of(note, view)) is not None:
                room.take(marks)

    def heights(self) -> None:
        """A chain of storeys with the whole, at the left side or, if there is no room, at the right."""
        levels = [(height, storey) for height, storey in self.storey_heights()]
        low, high = self.extreme(1, False), self.extreme(1, True)
        ends = [(low[0][1], low[1]), *levels, (high[0][1], high[1])]
        kept: list[tuple[float, str]] = []
        for height, on in sorted(ends, key=lambda e: e[0]):
            if kept and height - kept[-1][0] < 0.02:
                kept[-1] = kept[-1] if any(kept[-1][1] == s for _, s in levels) else (height, on)
                continue
            kept.append((height, on))
        self.beside(
            lambda x: [self.anchor(np.array([x, height]), on) for height, on in kept],
            (0.0, 1.0),
            (self.low[0], self.high[0]),
            -self.u,
            "heights of storeys",
        )

    def beside(
        self,
        anchors: Callable[[float], list[Anchor]],
        way: tuple[float, float],
        sides: tuple[float, float],
        out: Array,
        what: str,
    ) -> None:
        """A chain with the whole, beside the building at the first side that has room."""
        along = way[0] * self.u + way[1] * self.v

        def tries() -> Iterator[AnyNote]:
            for gap in (GAP, GAP - 3, GAP + 7):
                for side, sign in zip(sides, (1.0, -1.0)):
                    offset = sign * out * gap * self.metres
                    yield Dimension(
                        id=self.new_id(),
                        anchors=tuple(anchors(side)),
                        along=vector(along),
                        plane=self.normal,
                        offset=vector(offset),
                        overall=True,
                    )

        self.first(tries(), what)

    def extreme(self, axis: int, highest: bool) -> tuple[Array, str]:
        """Return ((2,) a corner of what is built that lies farthest one way, the id of its part)."""
        built = ~self.building.context[self.found.element]
        polygons, owners = self.found.polygons[built], self.found.element[built]
        points, number = shapely.get_coordinates(polygons, return_index=True)
        best = int(np.argmax(points[:, axis]) if highest else np.argmin(points[:, axis]))
        return points[best], self.element_id(int(owners[number[best]]))

    # Rooms -----------------------------------------------------------------------------------------------------

    def name(self, room: CutRoom) -> None:
        """In the middle of the air of a room, or beside it."""
        left, right = room.bound("left")[0], room.bound("right")[0]
        low, high = room.bound("down")[1], room.bound("up")[1]
        places = [
            np.array([left + x * (right - left), low + y * (high - low)]) for y in (0.5, 0.62, 0.38) for x in (0.5, 0.36, 0.64)
        ]
        self.first(
            (
                Label(
                    id=self.new_id(),
                    anchors=(self.anchor(place, room.space.id),),
                    text=text,
                    leader=False,
                    plane=self.normal,
                )
                for text in ("{name}\n{area}", "{name}")
                for place in places
            ),
            "names of rooms",
        )

    def clear(self, room: CutRoom, way: str, what: str) -> None:
        """The clear length of a room, upwards or across, where there is room for it in the room; best from wall to wall."""
        back = {"up": "down", "right": "left"}[way]
        if (room.clear(way) + room.clear(back)) / self.metres < SHORTEST or self.before.has_clear(room, way, self.plane):
            return
        across = ("left", "right") if way == "up" else ("down", "up")
        start, end = room.bound(across[0]), room.bound(across[1])
        found: list[tuple[bool, AnyNote]] = []
        for share in SHARES:
            place = start + share * (end - start)
            behind = {w: self.rooms.behind(place, w) for w in (way, back)}
            if not all(behind.values()):
                continue
            first, last = behind[back][0], behind[way][0]
            if first.start + last.start < LEAST:
                continue
            ends = [place + layer.start * np.array(WAYS[w]) for layer, w in ((first, back), (last, way))]
            between = ends[0] + np.linspace(0.02, 0.98, 25)[:, None] * (ends[1] - ends[0])
            if through_another(self.building, room.space, self.plane.raised(between)):
                continue  # over a wall that ends under it, or through an opening of the floor
            owners = [self.building.elements[layer.element] for layer in (first, last)]
            note = Dimension(
                id=self.new_id(),
                anchors=tuple(self.anchor(spot, owner.id) for spot, owner in zip(ends, owners)),
                along=vector(WAYS[way][0] * self.u + WAYS[way][1] * self.v),
                plane=self.normal,
                offset=(0.0, 0.0, 0.0),
            )
            found.append((any(owner.type in OPENED for owner in owners), note))
        if found:
            self.first((note for _, note in sorted(found, key=lambda f: f[0])), what)

    # Build-ups -------------------------------------------------------------------------------------------------

    def build_ups(self, rooms: list[CutRoom]) -> None:
        """A leader through the layers of each build-up that is cut, the rarer ones left out where they say the same."""
        known: set[tuple[str, ...]] = set()
        stacks: list[Stack] = []
        for room in rooms:
            for way in ("up", "left", "right", "down"):
                layers = tuple(layer for layer in room.behind[way] if not self.building.context[layer.element])
                key = tuple(self.material(layer) for layer in layers)
                if layers and key not in known and all(key):
                    known.add(key)
                    stacks.append((room, way, layers))
        stacks.sort(key=lambda stack: -len(stack[2]))
        layered = [stack for stack in stacks if len(stack[2]) > 1]
        stacks = self.without_parts(layered) if len(layered) > 1 else stacks
        for room, way, layers in stacks[:MOST_BUILD_UPS]:
            self.build_up(room, way, layers)

    def without_parts(self, stacks: list[Stack]) -> list[Stack]:
        """Without build-ups of which a longer one has all materials."""
        kept: list[Stack] = []
        for stack in stacks:
            own = {self.material(layer) for layer in stack[2]}
            if not any(own <= {self.material(layer) for layer in other[2]} for other in kept):
                kept.append(stack)
        return kept

    def told_apart(self, layers: list[BuildUpLayer]) -> list[BuildUpLayer]:
        """Without those that say what the one before them says: tiles over tiles."""
        said = [(self.material(x), round(1000 * self.view.facts.thickness(x.element))) for x in layers]
        return [layer for i, layer in enumerate(layers) if i == 0 or said[i] != said[i - 1]]

    def material(self, layer: BuildUpLayer) -> str:
        return self.building.elements[layer.element].material

    def build_up(self, room: CutRoom, way: str, layers: tuple[BuildUpLayer, ...]) -> None:
        """One leader with the layers in order, its words where nothing else is, best over air or beside the building."""
        ahead = np.array(WAYS[way])
        aside = np.array([ahead[1], -ahead[0]])

        def tries() -> Iterator[tuple[float, AnyNote]]:
            for shift in (0.0, 0.6, -0.6, 1.2, -1.2, 2.4, -2.4):
                start = room.place + shift * aside
                again = self.rooms.behind(start, way)
                if tuple(self.material(x) for x in again if not self.building.context[x.element]) != tuple(
                    self.material(x) for x in layers
                ):
                    continue
                own = self.told_apart([x for x in again if not self.building.context[x.element]])
                spots = [start + (x.start + x.end) / 2 * ahead for x in own]
                anchors = tuple(self.anchor(spot, self.element_id(x.element)) for spot, x in zip(spots, own))
                for up in (-16.0, 16.0, -28.0, 28.0, -8.0, 8.0, 42.0, -42.0):
                    for across in (12.0, -12.0, 26.0, -26.0, 44.0, -44.0):
                        note = Label(
                            id=self.new_id(),
                            anchors=anchors,
                            text="{material} {thickness}",
                            each=True,
                            offset=(across, up),
                            plane=self.normal,
                        )
                        yield abs(across) + abs(up) + 4 * abs(shift), note

        ranked = sorted(tries(), key=lambda t: t[0])
        free = (note for _, note in ranked if self.over_nothing(note))
        self.first(chain(free, (note for _, note in ranked)), "layers of build-ups")

    def over_nothing(self, note: AnyNote) -> bool:
        """Return whether the words of a note lie over nothing that is cut."""
        marks = marks_of(note, self.view)
        if marks is None:
            return False
        corners = np.concatenate([w.corners() for w in marks.words])
        low, high = corners.min(axis=0), corners.max(axis=0)
        flat = self.on_paper()
        return not any(shapely.intersects(flat, shapely.box(*low, *high)))

    def on_paper(self) -> NDArray[np.object_]:
        """Return (P,) what is cut, in mm on paper."""
        if not hasattr(self, "_flat"):
            viewport = self.view.viewport

            def flat(points: Array) -> Array:
                return viewport.pixels(self.plane.raised(points)) * [1, -1] + [0, viewport.height]

            simple = shapely.simplify(self.found.polygons, self.metres * 0.2)
            self._flat = shapely.make_valid(shapely.transform(simple, flat))
        return self._flat

    # Plans and paper -------------------------------------------------------------------------------------------

    def plan(self) -> None:
        """What is usual on a level cut."""
        rooms = self.rooms.rooms()
        for axis, way, sides, out in (
            (0, (1.0, 0.0), (self.low[1], self.high[1]), -self.v),
            (1, (0.0, 1.0), (self.low[0], self.high[0]), -self.u),
        ):
            ends = [self.extreme(axis, False), self.extreme(axis, True)]
            inner = self.bounds_along(rooms, axis)
            self.beside(
                lambda side, ends=ends, axis=axis, inner=inner: self.in_a_row(ends, axis, side, inner),  # type: ignore[misc]
                way,
                sides,
                out,
                "the whole both ways",
            )
        for room in rooms:
            self.name(room)
        for room in rooms:
            self.clear(room, "right", "widths of rooms")
            self.clear(room, "up", "depths of rooms")
        for other in self.view.cuts:
            if other.id != self.cut.id and other.on and not other.axis.is_level and not other.encloses:
                self.first([SectionMark(id=self.new_id(), cut=other.id)], "where sections are cut")
        self.first(
            NorthPoint(id=self.new_id(), corner=corner) for corner in ("upper right", "upper left", "lower right", "lower left")
        )
        self.scale_bar()

    def bounds_along(self, rooms: list[CutRoom], axis: int) -> list[tuple[float, str]]:
        """Return (metres along an axis of the plane, id) of the walls that bound rooms, as far as they run across it."""
        ways = ("left", "right") if axis == 0 else ("down", "up")
        found = []
        for room in rooms:
            for way in ways:
                found.append((float(room.bound(way)[axis]), self.element_id(room.behind[way][0].element)))
        return sorted(found)

    def in_a_row(self, ends: list[tuple[Array, str]], axis: int, side: float, inner: list[tuple[float, str]]) -> list[Anchor]:
        """Anchors along one side of the building: its ends, and between them the bounds of rooms."""
        places = [(float(ends[0][0][axis]), ends[0][1])]
        for at, on in inner:
            if at - places[-1][0] > 6.0 * self.metres and ends[1][0][axis] - at > 6.0 * self.metres:
                places.append((at, on))
        places.append((float(ends[1][0][axis]), ends[1][1]))
        spots = [np.array([at, side]) if axis == 0 else np.array([side, at]) for at, _ in places]
        return [self.anchor(spot, on) for spot, (_, on) in zip(spots, places)]

    def scale_bar(self) -> None:
        """Under the building, at its right or its left, best over nothing that is cut; else in the first corner that has room."""
        if not self.view.scale:
            return
        near = list(self.bars_under())
        free = [bar for bar in near if self.over_nothing(bar)]
        self.first([*free, *near, *(ScaleBar(id=self.new_id(), corner=corner) for corner in CORNERS)], "scale bars")

    def bars_under(self) -> Iterator[ScaleBar]:
        """Yield scale bars under the building, the nearest first."""
        corners = self.plane.raised(np.array([self.low, self.high]))
        wide = self.view.viewport.width
        ends = self.view.viewport.pixels(corners) * [1, -1] + [0, self.view.viewport.height]
        (left, bottom), (right, _) = np.minimum(*ends), np.maximum(*ends)
        places: tuple[tuple[Corner, float], ...] = (("lower right", wide - float(right)), ("lower left", float(left)))
        for gap in UNDER:
            for corner, aside in places:
                yield ScaleBar(id=self.new_id(), corner=corner, offset=(aside, float(bottom) - gap))
