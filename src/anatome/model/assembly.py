"""Putting a building together from what a reader found.

Readers hand over each element as they come to it; :meth:`BuildingAssembly.finish` cleans the lot in a few passes
over whole arrays: coordinates that are not numbers, triangles without area, doubled triangles and doubled vertices
go, with a remark saying how many.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import ArrayLike, NDArray

from anatome.model.building import Building, Element, FailedProduct, Space, Storey, Unit
from anatome.model.place import Place
from anatome.model.textures import BARE, Textures
from anatome.problems import Problem

FAR, HIGHEST, ROUND = 5_000.0, 20_000.0, 100.0
"""Metres from its origin from which on a model is far from it, in plan and in height; it is brought near by whole hundreds."""


class BuildingAssembly:
    """Collects elements, then makes the :class:`Building`."""

    def __init__(self, name: str) -> None:
        self.name = name
        self.storeys: list[Storey] = []
        self.spaces: list[Space] = []
        self.failed: list[FailedProduct] = []
        self.unit = Unit()
        self.remarks: list[str] = []
        self.place: Place | None = None
        self.near = False
        """Whether a model far from its origin is brought near it."""
        self._elements: list[Element] = []
        self._vertices: list[NDArray[np.float64]] = []
        self._triangles: list[NDArray[np.int64]] = []
        self._styles: dict[tuple[tuple[int, int, int, int], int, tuple[float, ...]], int] = {}
        self._images: list[bytes] = []
        self._triangle_styles: list[NDArray[np.int64]] = []
        self._ids: set[str] = set()

    def beginning(self) -> BuildingAssembly:
        """Return another one with the same storeys and spaces, and no element yet."""
        found = BuildingAssembly(self.name)
        found.storeys, found.spaces, found.remarks = list(self.storeys), list(self.spaces), list(self.remarks)
        found.unit, found.place, found.near = self.unit, self.place, self.near
        return found

    @property
    def holds_any(self) -> bool:
        """Whether an element was added."""
        return bool(self._elements)

    def style(self, rgba: Sequence[float], picture: int = BARE, laid: Sequence[float] = ()) -> int:
        """Number of the surface colour given as four floats 0..1, entered once; with a ``picture`` and the eight numbers of how
        it is ``laid`` on, row by row."""
        red, green, blue, alpha = (round(255 * min(max(float(c), 0.0), 1.0)) for c in rgba)
        return self._styles.setdefault(((red, green, blue, alpha), picture, tuple(laid)), len(self._styles))

    def image(self, data: bytes) -> int:
        """Number of a picture for surfaces, a PNG or JPEG file."""
        self._images.append(data)
        return len(self._images) - 1

    def unused_id(self, wanted: str) -> str:
        """``wanted``, or with a number behind it if an element already has that id."""
        candidate, n = wanted, 2
        while candidate in self._ids:
            candidate, n = f"{wanted} {n}", n + 1
        return candidate

    def add(self, element: Element, vertices: ArrayLike, triangles: ArrayLike, style: ArrayLike) -> None:
        """Add one element: (n, 3) metres, (m, 3) indices, and a style number or (m,) of them."""
        faces = np.asarray(triangles, np.int64).reshape(-1, 3)
        self._ids.add(element.id)
        self._elements.append(element)
        self._vertices.append(np.asarray(vertices, np.float64).reshape(-1, 3))
        self._triangles.append(faces)
        self._triangle_styles.append(np.broadcast_to(np.asarray(style, np.int64), (len(faces),)))

    def finish(self) -> Building:
        """Clean and join everything.

        Raises Problem when no triangle is left.
        """
        if not self._elements:
            raise Problem(f"“{self.name}” holds no geometry to draw. Open a file with solids or surfaces in it.")
        vertices = np.concatenate(self._vertices)
        sizes = np.array([len(v) for v in self._vertices])
        offsets = np.concatenate([[0], np.cumsum(sizes)[:-1]])
        counts = np.array([len(t) for t in self._triangles])
        triangles = np.concatenate(self._triangles) + np.repeat(offsets, counts)[:, None]
        styles = np.concatenate(self._triangle_styles)
        owner = np.repeat(np.arange(len(counts)), counts)
        vertex_owner = np.repeat(np.arange(len(sizes)), sizes)

        remarks = list(self.remarks)
        # Column by column: sums and the like over rows of three are slow.
        finite = np.isfinite(vertices)
        bad = ~(finite[:, 0] & finite[:, 1] & finite[:, 2])
        bad_triangle = bad[triangles].any(axis=1) if bad.any() else np.zeros(len(triangles), bool)
        if bad_triangle.any():
            remarks.append(f"{bad_triangle.sum()} triangles had coordinates that are not numbers and were dropped.")
        vertices[bad] = 0.0

        origin = np.zeros(3)
        if self.near:
            origin = _near(vertices[~bad])
            vertices[~bad] -= origin
        used = vertices[triangles[~bad_triangle].ravel()]
        extent = float(np.linalg.norm(np.ptp(used, axis=0))) if len(used) else 0.0
        welded = _weld(vertices, vertex_owner, max(extent * 1e-9, 1e-9))
        triangles = welded[triangles]

        a, b, c = triangles.T
        keep = ~bad_triangle & (a != b) & (b != c) & (c != a)
        keep &= ~_repeats(np.sort(triangles, axis=1), keep)
        dropped = int((~keep & ~bad_triangle).sum())
        if dropped:
            remarks.append(f"{dropped} collapsed or doubled triangles were dropped.")
        areas = np.where(keep, np.linalg.norm(np.cross(vertices[b] - vertices[a], vertices[c] - vertices[a]), axis=1), 0.0)
        # A triangle without area may hold a closed mesh together; an element of nothing else has no surface.
        keep &= np.bincount(owner, weights=areas, minlength=len(counts))[owner] > 0
        triangles, styles, owner = triangles[keep], styles[keep], owner[keep]
        if not len(triangles):
            raise Problem(f"“{self.name}” holds no usable triangles. Check the file in the program that wrote it.")

        used_vertices = np.zeros(len(vertices), bool)
        used_vertices[triangles] = True
        triangles = (np.cumsum(used_vertices) - 1)[triangles]
        left = np.bincount(owner, minlength=len(counts))
        kept = np.flatnonzero(left)
        for i in np.flatnonzero(left == 0):
            e = self._elements[i]
            self.failed.append(FailedProduct(e.id, e.name, e.type, "its shape has no surface"))
        palette = np.array([colour for colour, _, _ in self._styles], np.uint8).reshape(-1, 4)
        textures = None
        if self._images:
            maps = np.array([laid or (0.0,) * 8 for _, _, laid in self._styles]).reshape(-1, 2, 4)
            maps[:, :, 3] += maps[:, :, :3] @ origin
            textures = Textures(tuple(self._images), np.array([p for _, p, _ in self._styles], np.int64), maps)
        return Building(
            name=self.name,
            elements=tuple(self._elements[i] for i in kept),
            vertices=vertices[used_vertices],
            triangles=triangles,
            triangle_start=np.concatenate([[0], np.cumsum(left[kept])]).astype(np.int64),
            triangle_style=styles.astype(np.int64),
            styles=palette,
            storeys=tuple(replace(s, elevation=s.elevation - origin[2]) for s in self.storeys),
            spaces=tuple(replace(s, lower=_from(s.lower, origin), upper=_from(s.upper, origin)) for s in self.spaces),
            unit=self.unit,
            failed=tuple(self.failed),
            remarks=tuple(remarks),
            place=self.place,
            textures=textures,
            origin=(float(origin[0]), float(origin[1]), float(origin[2])),
        )


def _near(vertices: NDArray[np.float64]) -> NDArray[np.float64]:
    """(3,) metres by which a model is brought near its origin: in plan, and where its heights are none above any sea."""
    if not len(vertices):
        return np.zeros(3)
    middle = (vertices.min(axis=0) + vertices.max(axis=0)) / 2
    far = np.abs(middle) > (FAR, FAR, HIGHEST)
    far[:2] = far[:2].any()
    return np.where(far, np.round(middle / ROUND) * ROUND, 0.0)


def _from(place: tuple[float, float, float], origin: NDArray[np.float64]) -> tuple[float, float, float]:
    x, y, z = (np.array(place) - origin).tolist()
    return x, y, z


def _weld(vertices: NDArray[np.float64], owner: NDArray[np.int64], tolerance: float) -> NDArray[np.int64]:
    """(V,) for each vertex the first vertex of the same element at the same place, within the tolerance in metres."""
    with np.errstate(over="ignore", invalid="ignore"):
        # The odd shift keeps round coordinates (0, 2.5, …) away from the borders of the grid.
        cells = np.floor((vertices - vertices.min(axis=0)) / tolerance + 0.317).astype(np.int64)
    key = _mix(np.column_stack([owner, cells]))
    _, first, inverse = np.unique(key, return_index=True, return_inverse=True)
    return np.asarray(first[inverse], np.int64)


def _repeats(sorted_triangles: NDArray[np.int64], valid: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """(T,) True for every triangle that has the same three vertices as an earlier valid one."""
    key = _mix(np.column_stack([sorted_triangles, ~valid]))
    _, first = np.unique(key, return_index=True)
    repeat = np.ones(len(key), bool)
    repeat[first] = False
    return repeat & valid


def _mix(rows: NDArray[np.int64]) -> NDArray[np.uint64]:
    """A 64-bit hash of each row of integers (splitmix64 finaliser, column by column)."""
    h = np.zeros(len(rows), np.uint64)
    with np.errstate(over="ignore"):
        for column in rows.T:
            h = (h ^ column.astype(np.uint64)) + np.uint64(0x9E3779B97F4A7C15)
            h = (h ^ (h >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
            h = (h ^ (h >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
            h ^= h >> np.uint64(31)
    return h
