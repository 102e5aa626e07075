"""What a mesh file holds, as objects: a name, the groups it stands in, and pieces of surface, each of one material."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

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
    first."""

    name: str
    pieces: tuple[MeshPiece, ...]
    groups: tuple[str, ...] = ()

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
