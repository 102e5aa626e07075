"""A building on the graphics side: its surfaces and edges, which stay, and a table with a row for each element, which changes."""

from __future__ import annotations

from collections.abc import Iterator

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.look.styles import Styles
from anatome.model.building import Building

ROW = 1024
"""Rows of a table a line of its texture holds; the shaders know it too."""
SLICE = 400_000
"""Bytes times ten or so that are handed over at a time, so that a window can answer between."""

LINE_TRIANGLES = np.array([0, 1, 2, 2, 1, 3], np.uint32)
"""The two triangles of a line's quad, by corner."""
LINE = np.dtype([("first", "<f4", 3), ("second", "<f4", 3), ("one_side", "u1", 4), ("other_side", "u1", 4)])

PICKED, PATTERN = 1, 2
"""In the mark of the table of elements: whether it is picked, and the number of its pattern and one more, so many times."""
MOST_PATTERNS = 120


def line_corners(segments: NDArray[np.floating], normals: NDArray[np.int8] | None = None) -> NDArray[np.void]:
    """Return (4 n,) vertices for line.vert, four for each of (n, 2, 3) segments.

    Four real vertices are drawn much faster in software than four corners of an instance.
    """
    made = np.zeros(len(segments), LINE)
    made["first"], made["second"] = segments[:, 0], segments[:, 1]
    # A byte each, shifted to 0 … 255; the shader shifts them back.
    both = np.full((len(segments), 2, 3), 128, np.uint8) if normals is None else normals.view(np.uint8) + np.uint8(128)
    made["one_side"][:, :3], made["other_side"][:, :3] = both[:, 0], both[:, 1]
    return np.repeat(made, 4)


class ModelBuffers:
    """Vertex data in single precision, relative to the building's own centre."""

    def __init__(self, ctx: moderngl.Context, building: Building) -> None:
        self.building = building
        self.centre = building.centre
        self._ctx = ctx
        clusters = building.clusters
        self.boxes = (clusters.centre - self.centre).astype(np.float32), clusters.half.astype(np.float32)
        self._arrays: dict[tuple[str, int], moderngl.VertexArray] = {}
        self._commands: dict[str, moderngl.Buffer] = {}
        mesh, edges = building.display_mesh, building.feature_edges
        self._surface = ctx.buffer(reserve=max(mesh.vertices.nbytes, 1))
        self._surface_order = ctx.buffer(reserve=max(mesh.triangles.nbytes, 1))
        self._edges = ctx.buffer(reserve=max(4 * LINE.itemsize * len(edges.ends), 1))
        self._edge_quads = ctx.buffer(reserve=max(24 * len(edges.ends), 1))
        self._edge_lines = ctx.buffer(reserve=max(8 * len(edges.ends), 1))
        self._palette = table_of(ctx, building.styles)
        self._styles: Styles | None = None
        self._unpicked = self._marks = np.zeros((len(building.elements), 4), np.uint8)
        self._elements = table_of(ctx, self._marks, "u1")

    def upload(self) -> Iterator[float]:
        """Hand the data over, a little at a time; yields the share done."""
        mesh, edges, building = self.building.display_mesh, self.building.feature_edges, self.building
        steps = [(self._surface, mesh.vertices), (self._surface_order, mesh.triangles)]
        total = sum(len(data) for _, data in steps) + len(edges.ends)
        done = 0
        for buffer, data in steps:
            size = data.itemsize * int(np.prod(data.shape[1:], initial=1))
            for start in range(0, len(data), SLICE):
                buffer.write(np.ascontiguousarray(data[start : start + SLICE]).tobytes(), offset=start * size)
                done += min(SLICE, len(data) - start)
                yield done / total
        for start in range(0, len(edges.ends), SLICE // 4):
            end = min(start + SLICE // 4, len(edges.ends))
            segments = building.vertices[edges.ends[start:end]] - self.centre
            self._edges.write(line_corners(segments, edges.normals[start:end]).tobytes(), offset=4 * LINE.itemsize * start)
            corner = 4 * np.arange(start, end, dtype=np.uint32)[:, None]
            self._edge_quads.write((corner + LINE_TRIANGLES).tobytes(), offset=24 * start)
            self._edge_lines.write((corner + np.array([0, 2], np.uint32)).tobytes(), offset=8 * start)
            done += end - start
            yield done / total

    def dress(self, styles: Styles, picked: NDArray[np.bool_] | None) -> None:
        """Have the colours of a look, and the elements of an (E,) mask marked as picked: four bytes an element.

        What has another style than its own says so by that style's number plus one.
        """
        if styles is not self._styles:
            self._styles = styles
            if len(styles.palette) > self._palette.width * self._palette.height:
                self._palette = table_of(self._ctx, styles.palette)
            else:
                _fill(self._palette, styles.palette)
            other = (styles.surface + 1).astype(np.uint32)
            pattern = PATTERN * (np.minimum(styles.pattern, MOST_PATTERNS) + 1).astype(np.uint32)
            columns = np.stack([pattern, other, other >> 8, other >> 16], axis=1)
            self._unpicked = (columns & 255).astype(np.uint8)
        marks = self._unpicked.copy()
        if picked is not None:
            marks[picked, 0] |= PICKED
        if not np.array_equal(marks, self._marks):
            self._marks = marks
            _fill(self._elements, marks)

    def use_tables(self) -> dict[str, int]:
        """Bind the tables; returns the uniforms that say where."""
        self._elements.use(1)
        self._palette.use(2)
        return {"elements": 1, "palette": 2}

    def array(self, what: str, program: moderngl.Program) -> moderngl.VertexArray:
        """``surfaces``, ``quads`` or ``lines``, to be drawn with a program."""
        key = (what, program.glo)
        if key not in self._arrays:
            if what == "surfaces":
                content = (self._surface, "3f4 4f1 1u4 1u4", "position", "normal", "element", "style")
                order = self._surface_order
            else:
                content = (self._edges, "3f4 3f4 4f1 4f1", "first", "second", "one_side", "other_side")
                order = self._edge_quads if what == "quads" else self._edge_lines
            self._arrays[key] = self._ctx.vertex_array(program, [content], index_buffer=order, skip_errors=True)
        return self._arrays[key]


def table_of(ctx: moderngl.Context, rows: NDArray[np.uint8], dtype: str = "f1") -> moderngl.Texture:
    """Return a texture with a texel for each of (n, 4) rows."""
    made = ctx.texture((ROW, max(1, -(-len(rows) // ROW))), 4, dtype=dtype)
    made.filter = moderngl.NEAREST, moderngl.NEAREST
    _fill(made, rows)
    return made


def _fill(texture: moderngl.Texture, rows: NDArray[np.uint8]) -> None:
    whole = np.zeros((texture.width * texture.height, 4), np.uint8)
    whole[: len(rows)] = rows
    texture.write(whole.tobytes())
