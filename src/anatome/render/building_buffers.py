"""A building on the graphics side: its surfaces, its edges, and which of them are drawn."""

from __future__ import annotations

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.dissection import Part
from anatome.model.building import Building
from anatome.model.edges import feature_edges
from anatome.view.camera import Camera

CLEAR_BELOW = 250
"""Surfaces with an alpha under this, of 255, are drawn as glass."""


LINE_TRIANGLES = np.array([0, 1, 2, 2, 1, 3])
"""The two triangles of a line's quad, by corner."""


def line_corners(segments: NDArray[np.float64]) -> NDArray[np.float32]:
    """(4 n, 6) vertices for line.vert, four for each of (n, 2, 3) segments.

    Four real vertices are drawn much faster in software than four corners of an instance.
    """
    return np.repeat(segments.astype(np.float32).reshape(-1, 6), 4, axis=0)


class BuildingBuffers:
    """Vertex data that stay, and index lists that follow the mask of what is drawn.

    Positions are stored relative to the centre of the building, so that single precision is enough even for a model
    far from its origin.
    """

    def __init__(self, ctx: moderngl.Context, building: Building) -> None:
        self.building = building
        self.centre = building.bounds.mean(axis=0)
        self._ctx = ctx
        triangles = building.triangles
        corners = building.vertices[triangles] - self.centre
        normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        lengths = np.linalg.norm(normals, axis=1, keepdims=True)
        normals = normals / np.where(lengths > 0, lengths, 1.0)

        data = np.zeros((len(triangles), 3), [("position", "f4", 3), ("normal", "u1", 4), ("colour", "u1", 4)])
        data["position"] = corners
        data["normal"][..., :3] = np.round(normals * 127 + 128)[:, None]  # a byte each; the shader shifts them back
        data["colour"] = building.styles[building.triangle_style][:, None]
        self._surface = ctx.buffer(data.tobytes())
        self._clear = building.styles[building.triangle_style, 3] < CLEAR_BELOW
        self._element = building.element_of_triangle
        self._indices = {
            name: ctx.buffer(reserve=4, dynamic=True) for name in ("solid", "clear", "picked", "sharp", "silhouette")
        }
        self._ranges: dict[str, list[tuple[int, int]]] = {name: [] for name in self._indices}
        self._arrays: dict[tuple[str, int], moderngl.VertexArray] = {}

        self._feature = feature_edges(building)
        both = np.concatenate([self._feature.sharp, self._feature.smooth])
        self._edges = ctx.buffer(line_corners(building.vertices[both] - self.centre).tobytes() or bytes(24))
        self._smooth_middle = (building.vertices[self._feature.smooth].mean(axis=1) - self.centre).astype(np.float32)
        self._parts: tuple[Part, ...] | None = None
        self._part_of = np.empty(0, np.int64)
        self._picked: NDArray[np.bool_] | None = None
        self._silhouette_key: object = None

    def show(self, parts: tuple[Part, ...]) -> None:
        """Draw the elements of these parts from now on, each part in a range of its own."""
        same = self._parts is not None and len(parts) == len(self._parts)
        if same and all((new.elements == old.elements).all() for new, old in zip(parts, self._parts or ())):
            return
        self._parts = parts
        # (E,) the part each element is in, or -1.
        self._part_of = np.full(len(self.building.elements), -1)
        for number, part in enumerate(parts):
            self._part_of[part.elements] = number
        self._fill("solid", ~self._clear)
        self._fill("clear", self._clear)
        self._fill_lines("sharp", np.arange(len(self._feature.sharp)), self._feature.sharp_element)
        self._fill_picked()
        self._silhouette_key = None

    def ranges(self, name: str) -> list[tuple[int, int]]:
        """For each part, where its corners begin in a list and how many there are."""
        return self._ranges[name]

    def look_from(self, camera: Camera) -> None:
        """Choose the smooth edges that are silhouettes for a camera: one of their faces shows, the other does not."""
        key = (camera.eye, camera.target, camera.projection)
        if key == self._silhouette_key or self._parts is None:
            return
        self._silhouette_key = key
        back = camera.axes[2].astype(np.float32)
        if camera.projection == "parallel":
            facing = self._feature.smooth_normals @ back
        else:
            to_eye = (np.array(camera.eye) - self.centre).astype(np.float32) - self._smooth_middle
            facing = np.einsum("ijk,ik->ij", self._feature.smooth_normals, to_eye)
        turning = np.flatnonzero(facing[:, 0] * facing[:, 1] <= 0)
        self._fill_lines("silhouette", turning, self._feature.smooth_element, len(self._feature.sharp))

    def pick(self, elements: NDArray[np.bool_] | None) -> None:
        """Mark the elements of an (E,) mask as picked, or none."""
        self._picked = elements
        self._fill_picked()

    def _fill_picked(self) -> None:
        self._fill("picked", np.zeros(len(self._element), bool) if self._picked is None else self._picked[self._element])

    def _fill(self, name: str, triangles: NDArray[np.bool_]) -> None:
        numbers = np.flatnonzero(triangles)
        self._write(name, numbers[:, None] * 3 + np.arange(3), self._part_of[self._element[numbers]])

    def _fill_lines(self, name: str, segments: NDArray[np.int64], element: NDArray[np.int64], shift: int = 0) -> None:
        self._write(name, (segments + shift)[:, None] * 4 + LINE_TRIANGLES, self._part_of[element[segments]])

    def _write(self, name: str, corners: NDArray[np.int64], part: NDArray[np.int64]) -> None:
        """Upload index rows (n, k) sorted by the part (n,) they belong to; those in none are left out."""
        order = np.argsort(part, kind="stable")
        part = part[order]
        bounds = np.searchsorted(part, np.arange(len(self._parts or ()) + 1)) * corners.shape[1]
        self._ranges[name] = [(int(low), int(high - low)) for low, high in zip(bounds[:-1], bounds[1:])]
        corners = corners[order]
        if corners.size:
            self._indices[name].orphan(4 * corners.size)
            self._indices[name].write(corners.astype(np.uint32).tobytes())

    def draw_surfaces(self, name: str, program: moderngl.Program, part: int) -> None:
        """Draw the ``solid``, ``clear`` or ``picked`` triangles of a part."""
        self._draw(name, program, part, (self._surface, "3f4 4f1 4f1", "position", "normal", "colour"))

    def draw_edges(self, name: str, program: moderngl.Program, part: int) -> None:
        """Draw the ``sharp`` edges or the ``silhouette`` of a part."""
        self._draw(name, program, part, (self._edges, "3f4 3f4", "first", "second"))

    def _draw(
        self, name: str, program: moderngl.Program, part: int, content: tuple[moderngl.Buffer, str, *tuple[str, ...]]
    ) -> None:
        key = (name, program.glo)
        if key not in self._arrays:
            self._arrays[key] = self._ctx.vertex_array(program, [content], index_buffer=self._indices[name], skip_errors=True)
        first, count = self._ranges[name][part]
        self._arrays[key].render(moderngl.TRIANGLES, vertices=count, first=first)

    def release(self) -> None:
        """Give the memory back."""
        for array in self._arrays.values():
            array.release()
        for buffer in (self._surface, self._edges, *self._indices.values()):
            buffer.release()
