"""What a mesh file holds, as objects: a name, the groups it stands in, and pieces of surface, each of one material."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import mapbox_earcut
import numpy as np
from numpy.typing import NDArray

DEFAULT_COLOUR = (0.84, 0.82, 0.79, 1.0)


@dataclass(frozen=True, eq=False)
class MeshPiece:
    """(n, 3) ``vertices`` in the file's units, (m, 3) ``faces``, ``colours`` 0..1, one or one for each face; the name of its
    material; and if it has a ``picture``, that and (m, 3, 2) where the corners of its faces are ``laid`` on it."""

    vertices: NDArray[np.float64]
    faces: NDArray[np.int64]
    colours: NDArray[np.float64]
    material: str = ""
    picture: Any = None
    laid: NDArray[np.float64] | None = None

    @property
    def area(self) -> float:
        """Of its faces, in square units of the file."""
        corners = self.vertices[self.faces]
        with np.errstate(invalid="ignore", over="ignore"):
            across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        return float(np.nansum(np.linalg.norm(across, axis=1))) / 2


@dataclass(frozen=True, eq=False)
class MeshObject:
    """An object of a file: what one modelled as one thing, however many materials it has. ``groups`` it stands in, the outermost
    first; its ``layer``, its ``type`` and its ``id`` where files have them."""

    name: str
    pieces: tuple[MeshPiece, ...]
    groups: tuple[str, ...] = ()
    layer: str = ""
    type: str = "Part"
    id: str = ""

    @property
    def material(self) -> str:
        """The name of the material that has most of its surface."""
        areas: dict[str, float] = {}
        for piece in self.pieces:
            areas[piece.material] = areas.get(piece.material, 0.0) + piece.area
        return min(areas, key=lambda name: (-round(areas[name], 9), name), default="")

    @property
    def vertices(self) -> NDArray[np.float64]:
        """(n, 3) of all pieces."""
        return np.concatenate([piece.vertices for piece in self.pieces])

    @property
    def faces(self) -> NDArray[np.int64]:
        """(m, 3) of all pieces, numbered through."""
        starts = np.cumsum([0, *(len(piece.vertices) for piece in self.pieces)])
        return np.concatenate([piece.faces + start for piece, start in zip(self.pieces, starts.tolist())])


@dataclass(frozen=True, eq=False)
class MeshFile:
    """What a file holds: its ``objects``, which axis it says points ``up`` and how many ``metres`` its unit is, if it says so;
    and ``remarks`` on what could not be had."""

    objects: tuple[MeshObject, ...]
    up: Literal["y", "z"] | None = None
    metres: float | None = None
    remarks: tuple[str, ...] = ()


def triangles_of(
    vertices: NDArray[np.float64], rings: Sequence[Sequence[int]], holes: Sequence[Sequence[int]] = ()
) -> NDArray[np.int64]:
    """Return (m, 3) triangles of flat polygons, given as numbers of their corners among (n, 3) vertices, wound as those are;
    ``holes`` lie in the first of them."""
    found = [_triangles(vertices, ring, holes if number == 0 else ()) for number, ring in enumerate(rings)]
    return np.concatenate([np.empty((0, 3), np.int64), *found])


def _triangles(vertices: NDArray[np.float64], ring: Sequence[int], holes: Sequence[Sequence[int]]) -> NDArray[np.int64]:
    numbers = np.array(ring, np.int64)
    if len(numbers) < 3:
        return np.empty((0, 3), np.int64)
    if len(numbers) == 3 and not holes:
        return numbers.reshape(1, 3)
    corners = vertices[numbers]
    # Newell's normal is that of the whole outline, however uneven (Tampieri, Graphics Gems III).
    after = np.roll(corners, -1, axis=0)
    normal = np.cross(corners - corners[0], after - corners[0]).sum(axis=0)
    dropped = int(np.argmax(np.abs(normal)))
    if normal[dropped] == 0:
        return np.empty((0, 3), np.int64)
    kept = [(1, 2), (2, 0), (0, 1)][dropped]
    whole = np.concatenate([numbers, *(np.array(hole, np.int64) for hole in holes)])
    ends = np.cumsum([len(numbers), *(len(hole) for hole in holes)]).astype(np.uint32)
    flat = np.ascontiguousarray(vertices[whole][:, kept])
    triangles = whole[np.asarray(mapbox_earcut.triangulate_float64(flat, ends), np.int64).reshape(-1, 3)]
    if not len(triangles):
        return triangles
    # Earcut winds as it likes; the outline says which side is out.
    a, b, c = (vertices[triangles[:, i]] for i in range(3))
    turned = np.cross(b - a, c - a)[:, dropped] * normal[dropped] < 0
    triangles[turned] = triangles[turned][:, ::-1]
    return triangles
