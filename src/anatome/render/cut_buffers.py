"""Cut faces on the graphics side: the filled polygons and their outlines."""

from __future__ import annotations

from collections.abc import Sequence

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cutting import CutFace
from anatome.look.look import Look, earth_mask
from anatome.model.building import Building
from anatome.render.building_buffers import LINE_TRIANGLES, line_corners

# Pixels' worth of depth by which cut faces stand before what they touch; built parts win over earth where both fill.
EARTH_NEARER, BUILT_NEARER, OUTLINE_NEARER = 0.6, 1.2, 2.4


class CutBuffers:
    """Uploads cut faces when they change."""

    def __init__(self, ctx: moderngl.Context, building: Building, centre: NDArray[np.float64]) -> None:
        self._ctx = ctx
        self._building = building
        self._centre = centre
        self._earth = earth_mask(building)
        self._key: object = None
        self._caps: moderngl.Buffer | None = None
        self._outlines: moderngl.Buffer | None = None
        self._outline_order: moderngl.Buffer | None = None
        self.cap_corners = 0
        self.outline_count = 0

    def update(self, faces: Sequence[CutFace], look: Look) -> None:
        """Take over the cut faces, coloured by the look."""
        key = (tuple((id(f.section), f.cut.poche) for f in faces), look)
        if key == self._key:
            return
        self._key, self._held = key, tuple(faces)  # held, so that an id is not given to another section meanwhile
        layout = [("position", "f4", 3), ("colour", "u1", 4), ("nearer", "f4")]
        caps, outlines = [np.zeros(0, layout)], [np.zeros((0, 2, 3), "f4")]
        for face in faces:
            found = face.section.caps
            earth = self._earth[found.element]
            corners = np.zeros((len(found.triangles), 3), layout)
            corners["position"] = (found.vertices - self._centre)[found.triangles]
            corners["colour"] = self._fills(face, found.element, earth, look)[:, None]
            corners["nearer"] = np.where(earth, EARTH_NEARER, BUILT_NEARER)[:, None]
            caps.append(corners.ravel())
            outlines.append((face.section.outline_segments[0] - self._centre).astype("f4"))
        cap_data, outline_data = np.concatenate(caps), np.concatenate(outlines)
        self.release()
        self.cap_corners, self.outline_count = len(cap_data), len(outline_data)
        if self.cap_corners:
            self._caps = self._ctx.buffer(cap_data.tobytes())
        if self.outline_count:
            self._outlines = self._ctx.buffer(line_corners(outline_data).tobytes())
            corners = np.arange(self.outline_count)[:, None] * 4 + LINE_TRIANGLES
            self._outline_order = self._ctx.buffer(corners.astype(np.uint32).tobytes())

    def _fills(self, face: CutFace, element: NDArray[np.int64], earth: NDArray[np.bool_], look: Look) -> NDArray[np.uint8]:
        """(n, 4) colours: the poché, or without it the elements' own colours, as a saw would leave them."""
        if face.cut.poche:
            two = np.array([(*look.poche, 1.0), (*look.poche_earth, 1.0)])
            return np.asarray(np.round(two[earth.astype(int)] * 255), np.uint8)
        building = self._building
        own = building.styles[building.triangle_style[building.triangle_start[element]]].copy()
        if not look.colours:
            own[:] = 250
        own[:, 3] = 255
        return np.asarray(own, np.uint8)

    def draw_caps(self, program: moderngl.Program) -> None:
        """Fill the cut faces."""
        if self._caps is not None:
            array = self._ctx.vertex_array(program, [(self._caps, "3f4 4f1 1f4", "position", "colour", "nearer")])
            array.render(moderngl.TRIANGLES)
            array.release()

    def draw_outlines(self, program: moderngl.Program) -> None:
        """Draw the outlines of the cut faces."""
        if self._outlines is not None:
            array = self._ctx.vertex_array(
                program, [(self._outlines, "3f4 3f4", "first", "second")], index_buffer=self._outline_order
            )
            array.render(moderngl.TRIANGLES)
            array.release()

    def release(self) -> None:
        """Give the memory back."""
        for buffer in (self._caps, self._outlines, self._outline_order):
            if buffer is not None:
                buffer.release()
        self._caps = self._outlines = self._outline_order = None
