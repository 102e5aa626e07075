"""Parts of the building shown displaced: exploded storeys, halves moved apart, one of them mirrored.

A piece is a set of elements, or what some cells leave of them, and a move. Everything is sliced at home and moved
afterwards: a cut made in the displaced picture is its cells moved home, a line of sight is moved home, and what it meets is
moved back. So no cutter, no picking and no drawing knows of pieces.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cells import Cell
from anatome.cuts.cut import AnyCut, CutSwitches
from anatome.cuts.dissection import CutFace, Cutter, Dissection
from anatome.cuts.picking import pick
from anatome.cuts.plane import Plane
from anatome.cuts.poche_rules import AS_MODELLED, PocheRules
from anatome.cuts.treatment import ALL_SLICED, Treatments
from anatome.model.bounds import corners_of
from anatome.model.raycast import Hit
from anatome.problems import Problem

Array = NDArray[np.float64]
Move = tuple[tuple[float, float, float, float], ...]
"""A (4, 4) matrix by rows that shifts, turns or mirrors, and keeps lengths."""

STAYS: Move = ((1.0, 0.0, 0.0, 0.0), (0.0, 1.0, 0.0, 0.0), (0.0, 0.0, 1.0, 0.0), (0.0, 0.0, 0.0, 1.0))


def move_of(matrix: Array) -> Move:
    """A move from a (4, 4) array. Raises Problem for one that does not keep lengths."""
    matrix = np.asarray(matrix, float)
    turn = matrix[:3, :3]
    if (
        matrix.shape != (4, 4)
        or not np.isfinite(matrix).all()
        or np.abs(turn @ turn.T - np.eye(3)).max() > 1e-9
        or (matrix[3] != [0, 0, 0, 1]).any()
    ):
        raise Problem("A piece of the building can be shifted, turned and mirrored, but not stretched.")
    return tuple((float(a), float(b), float(c), float(d)) for a, b, c, d in matrix)


def shifted(by: Sequence[float]) -> Move:
    """A shift by (3,) metres."""
    matrix = np.eye(4)
    matrix[:3, 3] = by
    return move_of(matrix)


def mirrored(plane: Plane) -> Move:
    """A reflection in a plane."""
    n = plane.n
    matrix = np.eye(4)
    matrix[:3, :3] -= 2 * np.outer(n, n)
    matrix[:3, 3] = 2 * plane.offset * n
    return move_of(matrix)


def followed_by(first: Move, second: Move) -> Move:
    """One move and then another."""
    return move_of(np.array(second) @ np.array(first))


def home(move: Move) -> Array:
    """(4, 4) the way back: the inverse of an isometry."""
    matrix = np.array(move)
    back = np.eye(4)
    back[:3, :3] = matrix[:3, :3].T
    back[:3, 3] = -matrix[:3, :3].T @ matrix[:3, 3]
    return back


def plane_through(matrix: Array, plane: Plane) -> Plane:
    """A plane moved by an isometry (4, 4)."""
    origin = matrix[:3, :3] @ np.array(plane.origin) + matrix[:3, 3]
    normal = matrix[:3, :3] @ plane.n
    return Plane((float(origin[0]), float(origin[1]), float(origin[2])), (float(normal[0]), float(normal[1]), float(normal[2])))


class CellsCut(CutSwitches):
    """A cut known only by its cells: where pieces part, or a cut of the displaced picture moved home."""

    taken: tuple[Cell, ...]

    def cells(self) -> tuple[Cell, ...]:
        """What is cut away."""
        return self.taken

    @property
    def axis(self) -> Plane:
        """The plane of its first face."""
        return self.taken[0].planes[0]

    def face_name(self, plane: Plane) -> str:
        """Its faces have no names."""
        return ""


@dataclass(frozen=True, eq=False)
class Piece:
    """``elements`` (E,) mask, None for all; ``without`` the cells that other pieces have; the ``move`` it is shown with."""

    move: Move
    elements: NDArray[np.bool_] | None = None
    without: tuple[Cell, ...] = ()


@dataclass(frozen=True, eq=False)
class Placed:
    """What is left of a piece, at home, and the move it is shown with."""

    cut_open: Dissection
    move: Move

    @property
    def bounds(self) -> Array:
        """(2, 3) metres, where it is shown."""
        corners = corners_of(self.cut_open.bounds)
        matrix = np.array(self.move)
        moved = corners @ matrix[:3, :3].T + matrix[:3, 3]
        return np.stack([moved.min(axis=0), moved.max(axis=0)])


def placed(
    cutter: Cutter,
    pieces: Sequence[Piece],
    cuts: Sequence[AnyCut],
    shown: NDArray[np.bool_],
    displaced: Sequence[AnyCut] = (),
    treatments: Treatments = ALL_SLICED,
    rules: PocheRules = AS_MODELLED,
) -> tuple[Placed, ...]:
    """Every piece as the cuts leave it. ``cuts`` act on the building at home, ``displaced`` ones on the displaced picture."""
    found = []
    for number, piece in enumerate(pieces):
        back = home(piece.move)
        own: list[AnyCut | CellsCut] = list(cuts)
        if piece.without:
            own.append(CellsCut(id=f"piece {number}", name="Parting", mark="", taken=piece.without))
        for cut in displaced:
            cells = tuple(Cell(tuple(plane_through(back, plane) for plane in cell.planes)) for cell in cut.cells())
            switches = {name: getattr(cut, name) for name in CutSwitches.model_fields}
            own.append(CellsCut(**switches, taken=cells))
        elements = shown if piece.elements is None else shown & piece.elements
        found.append(Placed(cutter.dissect(own, elements, treatments, rules), piece.move))  # type: ignore[arg-type]
    return tuple(found)


def pick_placed(pieces: Sequence[Placed], origin: Array, direction: Array) -> tuple[Hit, CutFace | None, int] | None:
    """The nearest thing a ray meets in the displaced picture, the cut face if it is one, and the number of the piece.

    ``direction`` has unit length; point and normal of the hit are where it is shown.
    """
    nearest: tuple[Hit, CutFace | None, int] | None = None
    for number, piece in enumerate(pieces):
        back, matrix = home(piece.move), np.array(piece.move)
        found = pick(piece.cut_open, back[:3, :3] @ origin + back[:3, 3], back[:3, :3] @ direction)
        if found is None or (nearest is not None and found[0].distance >= nearest[0].distance):
            continue
        hit, face = found
        point = matrix[:3, :3] @ np.array(hit.point) + matrix[:3, 3]
        normal = matrix[:3, :3] @ np.array(hit.normal)
        moved = Hit(hit.distance, (point[0], point[1], point[2]), (normal[0], normal[1], normal[2]), hit.element)
        nearest = moved, face, number
    return nearest
