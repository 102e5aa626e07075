"""Pictures on surfaces, as a model brings them.

Where a picture lies on a triangle is an even map from places to the picture. Triangles of one wall have the same map, so a map
belongs to a style, as a colour does, and nothing else of a building knows of pictures.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

BARE = -1
"""The picture of a style that has none."""


@dataclass(frozen=True, eq=False)
class Textures:
    """``images``: PNG or JPEG files. For each of S styles, ``picture`` (S,) which of them it has, or −1, and ``maps`` (S, 2, 4):
    what places in metres (x, y, z, 1) are multiplied with for across and up the picture, which repeats at whole numbers."""

    images: tuple[bytes, ...]
    picture: NDArray[np.int64]
    maps: Array

    def none(self, styles: int) -> Textures:
        """Return no pictures for so many styles."""
        return Textures((), np.full(styles, BARE), np.zeros((styles, 2, 4)))

    def with_these(self, other: Textures) -> Textures:
        """Return the same with the styles of another behind its own, and their pictures."""
        picture = np.where(other.picture == BARE, BARE, other.picture + len(self.images))
        return Textures(
            (*self.images, *other.images),
            np.concatenate([self.picture, picture]),
            np.concatenate([self.maps, other.maps]),
        )

    def with_more(self, styles: int) -> Textures:
        """Return the same with so many more styles, which have no picture."""
        return replace(
            self,
            picture=np.append(self.picture, np.full(styles, BARE)),
            maps=np.concatenate([self.maps, np.zeros((styles, 2, 4))]),
        )


def maps_of(corners: Array, uv: Array) -> Array:
    """Return (n, 2, 4) the even maps of triangles (n, 3, 3) in metres that lay (n, 3, 2) on their corners; those of least
    change across their planes. Rounded, so that triangles of one wall have the same, and shifted by whole pictures towards
    none."""
    first, second = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    # Least squares in the plane: the inverse of its metric.
    a, b, c = (first * first).sum(1), (first * second).sum(1), (second * second).sum(1)
    det = a * c - b * b
    inverse = np.divide(1.0, det, out=np.zeros_like(det), where=det > 1e-24)
    one = (c[:, None] * first - b[:, None] * second) * inverse[:, None]
    other = (a[:, None] * second - b[:, None] * first) * inverse[:, None]
    steps = np.stack([uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]], axis=1)
    linear = steps[:, 0, :, None] * one[:, None, :] + steps[:, 1, :, None] * other[:, None, :]
    linear = np.round(linear, 6)
    shift = uv[:, 0] - np.einsum("nij,nj->ni", linear, corners[:, 0])
    return np.concatenate([linear, np.round(shift - np.floor(shift), 4)[..., None]], axis=2)
