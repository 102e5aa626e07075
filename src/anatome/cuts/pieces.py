"""Parts of the building shown displaced: exploded storeys, halves moved apart, one of them mirrored, details beside it.

A piece is a set of elements, or what some cells leave of them, and a move. Everything is sliced at home and moved
afterwards: a cut made in the displaced picture is its cells moved home, a line of sight is moved home, and what it meets is
moved back. So no cutter, no picking and no drawing knows of pieces.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property, partial

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.cells import Cell
from anatome.cuts.cut import AnyCut
from anatome.cuts.details import Detail, line_between
from anatome.cuts.dissection import CutBuilding, CutFace, Cutter
from anatome.cuts.exploding import Exploded
from anatome.cuts.fitting import left_boxes
from anatome.cuts.kinds.base import Taking
from anatome.cuts.moves import STAYS, Move, followed_by, home, places_through, plane_through, shifted, times_of
from anatome.cuts.picking import pick, pick_all
from anatome.cuts.plane import Plane, vector
from anatome.cuts.poche_rules import AS_MODELLED, PocheRules
from anatome.cuts.treatment import ALL_SLICED, BY_CENTRE, KEEP_WHOLE, Treatments
from anatome.model.bounds import bounds_round, corners_of
from anatome.model.building import Building
from anatome.model.raycast import Hit

Array = NDArray[np.float64]


class CellsCut(Taking):
    """A cut known only by its cells: where pieces part, or a cut of the displaced picture moved home."""

    taken: tuple[Cell, ...]
    smooth: tuple[tuple[float, float], ...] = ()

    def cells(self) -> tuple[Cell, ...]:
        """Return what is cut away."""
        return self.taken

    @property
    def axis(self) -> Plane:
        """The plane of its first face."""
        return self.taken[0].planes[0]

    @property
    def smooth_at(self) -> tuple[tuple[float, float], ...]:
        return self.smooth


@dataclass(frozen=True, eq=False)
class Piece:
    """``elements`` (E,) mask, None for all; ``parted`` are the cuts that take what other pieces have; the ``move`` it is
    shown with; the number of the ``group`` it belongs to, −1 for what stays."""

    move: Move
    elements: NDArray[np.bool_] | None = None
    parted: tuple[AnyCut | CellsCut, ...] = ()
    group: int = -1


@dataclass(frozen=True, eq=False)
class Placed:
    """What is left of a piece, at home, and the move it is shown with; of a detail its id."""

    cut_open: CutBuilding
    move: Move
    detail: str = ""

    @property
    def bounds(self) -> Array:
        """(2, 3) metres, where it is shown."""
        return bounds_round(places_through(np.array(self.move), corners_of(self.cut_open.bounds)))

    @cached_property
    def left(self) -> Array:
        """(n, 3) metres, corners round all that cuts leave of it, where it is shown; else those of its bounds."""
        found = self.left_corners(self.cut_open.shown)
        return found if len(found) else corners_of(self.bounds)

    def there(self, hit: Hit) -> Hit:
        """Something met at home, where it is shown."""
        return _hit_through(np.array(self.move), hit)

    def at_home(self, hit: Hit) -> Hit:
        """Something met where it is shown, at home."""
        return _hit_through(home(self.move), hit)

    def left_corners(self, among: NDArray[np.bool_]) -> Array:
        """Return (n, 3) metres, the corners of what cuts leave of the boxes of the elements of an (E,) mask, where it is
        shown."""
        return places_through(np.array(self.move), corners_of(left_boxes(self.cut_open, among)).reshape(-1, 3))


def _hit_through(matrix: Array, hit: Hit) -> Hit:
    point, times = places_through(matrix, np.array(hit.point)), times_of(matrix)
    normal = matrix[:3, :3] @ np.array(hit.normal) / times
    return Hit(times * hit.distance, vector(point), vector(normal), hit.element)


@dataclass(frozen=True, eq=False)
class ShownBuilding:
    """What a picture shows: the building ``cut_open`` as it stands, or if there are any its ``pieces``, each where its move
    puts it, with travel ``lines`` (S, 2, 3) between them; and ``ghosts``, what is hidden and yet faintly drawn."""

    cut_open: CutBuilding
    pieces: tuple[Placed, ...] = ()
    ghosts: tuple[Placed, ...] = ()
    lines: NDArray[np.float64] = field(default_factory=lambda: np.empty((0, 2, 3)))

    @cached_property
    def parts(self) -> tuple[Placed, ...]:
        """Its pieces, or all of it as the only one."""
        return self.pieces or (Placed(self.cut_open, STAYS),)

    @property
    def at_home(self) -> bool:
        """Whether nothing of it is displaced."""
        return all(part.move == STAYS for part in self.parts)

    @property
    def bounds(self) -> Array:
        """(2, 3) metres of all that is shown, where it is shown."""
        return bounds_round(np.concatenate([part.bounds for part in self.parts]))

    def left_corners(self, among: NDArray[np.bool_]) -> Array:
        """Return (n, 3) metres, corners round what cuts leave of the elements of an (E,) mask, where it is shown; round all
        that is shown where that is nothing."""
        found = np.concatenate([part.left_corners(among) for part in self.parts])
        return found if len(found) else corners_of(self.bounds)


def cut_places(shown: ShownBuilding) -> Array:
    """Return (n, 3) metres, the corners of all that is cut of what is built, where it is shown; (0, 3) where nothing is."""
    found = [np.empty((0, 3))]
    for part in shown.parts:
        context = part.cut_open.building.context
        for face in part.cut_open.faces:
            built = face.poche.polygons[~context[face.poche.element]]
            found.append(places_through(np.array(part.move), face.plane.raised(shapely.get_coordinates(built))))
    return np.concatenate(found)


def uncut(building: Building) -> ShownBuilding:
    """Return all of a building as it stands."""
    return ShownBuilding(Cutter(building).dissect([], np.ones(len(building.elements), bool)))


def parts(cut: AnyCut) -> bool:
    """Return whether a cut parts the building instead of taking away."""
    return cut.on and cut.parting is not None


def group_of(cutter: Cutter, exploded: Exploded) -> NDArray[np.int64]:
    """Return (E,) the number of the group of each element, −1 for what stays; the same while only distances change."""
    key = "groups", tuple(group.what for group in exploded.groups)
    return cutter.remember(key, lambda: exploded.group_of(cutter.building))


def pieces_of(
    cutter: Cutter,
    shown: NDArray[np.bool_],
    cuts: Sequence[AnyCut],
    exploded: Exploded | None,
    opening: float,
    treatments: Treatments = ALL_SLICED,
) -> tuple[Piece, ...]:
    """Return the pieces that partings and groups make of the elements of an (E,) mask, opened by a share; none when closed.

    Each parting makes two of every piece: what it would leave stays, what it would take is moved; of a box the inside is moved.
    An element that is to be kept whole goes with the part its middle is in.
    """
    building = cutter.building
    parting = [cut for cut in cuts if parts(cut)]
    if opening == 0.0 or not (parting or (exploded and any(g.distance for g in exploded.groups))):
        return ()
    middles = building.element_bounds.mean(axis=1)
    whole = np.isin(cutter.codes_of(treatments), (KEEP_WHOLE, BY_CENTRE))
    centre = building.subject_bounds(shown).mean(axis=0)
    pieces = [Piece(STAYS)]
    if exploded is not None:
        number = group_of(cutter, exploded)
        moves = [shifted(exploded.moved(i, opening)) for i in range(len(exploded.groups))]
        pieces = [Piece(STAYS, number < 0), *(Piece(move, number == i, (), i) for i, move in enumerate(moves))]
    for cut in parting:
        assert cut.parting is not None
        stays, goes = (_with_cells(cut, cells) for cells in cut.sides())
        reached = cutter.reach_of(cut)
        # Whatever is kept whole lies on one side only, that of its middle.
        gone = np.logical_or.reduce([cell.holds(middles) for cell in stays.cells()])
        move = cut.parting.move(cut.axis, centre if cut.centre is None else cut.centre, opening)
        halves = []
        for piece in pieces:
            elements = np.ones(len(reached), bool) if piece.elements is None else piece.elements
            halves.append(Piece(piece.move, elements & ~(whole & gone & reached), (*piece.parted, stays), piece.group))
            moved = elements & reached & ~(whole & ~gone)
            halves.append(Piece(followed_by(move, piece.move), moved, (*piece.parted, goes), piece.group))
        pieces = halves
    return tuple(piece for piece in pieces if piece.elements is None or (shown & piece.elements).any())


def _with_cells(cut: AnyCut, cells: tuple[Cell, ...]) -> CellsCut:
    """The cut with all its switches, known by other cells."""
    return CellsCut(**{name: getattr(cut, name) for name in Taking.model_fields}, taken=cells, smooth=cut.smooth_at)


def placed(
    cutter: Cutter,
    pieces: Sequence[Piece],
    cuts: Sequence[AnyCut],
    shown: NDArray[np.bool_],
    displaced: Sequence[AnyCut] = (),
    treatments: Treatments = ALL_SLICED,
    rules: PocheRules = AS_MODELLED,
    faces: bool = True,
) -> tuple[Placed, ...]:
    """Return every piece as the cuts leave it. ``cuts`` act on the building at home, ``displaced`` ones on the displaced
    picture.

    Without ``faces`` nothing is sliced: for what is only drawn faintly.
    """
    found = []
    for piece in pieces:
        back = home(piece.move)
        own: list[AnyCut | CellsCut] = [*cuts, *piece.parted]
        for cut in displaced:
            cells = tuple(Cell(tuple(plane_through(back, plane) for plane in cell.planes)) for cell in cut.cells())
            own.append(_with_cells(cut, cells))
        elements = shown if piece.elements is None else shown & piece.elements
        found.append(Placed(cutter.dissect(own, elements, treatments, rules, faces), piece.move))  # type: ignore[arg-type]
    return tuple(found)


def details_of(
    cutter: Cutter,
    details: Sequence[Detail],
    cuts: Sequence[AnyCut],
    shown: NDArray[np.bool_],
    treatments: Treatments = ALL_SLICED,
    rules: PocheRules = AS_MODELLED,
) -> tuple[tuple[Placed, ...], Array]:
    """Return (every detail of which something is there, as its own cuts leave it; (S, 2, 3) the lines to where they stand).

    ``cuts`` are all there are, those that are off too.
    """
    building, found, lines = cutter.building, [], []
    for detail in details:
        members = shown & cutter.remember(("detail", detail.what), partial(detail.members, building))
        if not members.any():
            continue
        own = [cut.model_copy(update={"on": True, "parting": None}) for cut in cuts if cut.id in detail.cuts]
        home_box = building.bounds_of(members)
        one = Placed(cutter.dissect(own, members, treatments, rules), detail.move(home_box.mean(axis=0)), detail.id)
        found.append(one)
        if detail.line:
            lines.append(line_between(home_box, one.bounds))
    return tuple(found), np.array(lines).reshape(-1, 2, 3)


def all_placed(pieces: Sequence[Placed], origin: Array, direction: Array) -> list[tuple[Hit, CutFace | None, int]]:
    """Return every element a ray meets in the displaced picture, the nearest in front; as :func:`pick_placed` gives them."""
    found = []
    for number, piece in enumerate(pieces):
        for hit, face in pick_all(piece.cut_open, *_ray_home(piece, origin, direction)):
            found.append((piece.there(hit), face, number))
    return sorted(found, key=lambda met: met[0].distance)


def pick_placed(pieces: Sequence[Placed], origin: Array, direction: Array) -> tuple[Hit, CutFace | None, int] | None:
    """Return the nearest thing a ray meets in the displaced picture, the cut face if it is one, and the number of the piece.

    ``direction`` has unit length; point and normal of the hit are where it is shown.
    """
    nearest: tuple[Hit, CutFace | None, int] | None = None
    for number, piece in enumerate(pieces):
        found = pick(piece.cut_open, *_ray_home(piece, origin, direction))
        there = None if found is None else piece.there(found[0])
        if found is None or there is None or (nearest is not None and there.distance >= nearest[0].distance):
            continue
        nearest = there, found[1], number
    return nearest


def _ray_home(piece: Placed, origin: Array, direction: Array) -> tuple[Array, Array]:
    """A ray in the picture as it meets a piece at home: where it begins, and its unit direction."""
    back = home(piece.move)
    return places_through(back, origin), back[:3, :3] @ direction / times_of(back)
