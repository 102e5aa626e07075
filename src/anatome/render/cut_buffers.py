"""Cut faces on the graphics side: the filled polygons and their outlines."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass, field

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import SteppedSection
from anatome.cuts.dissection import CutFace
from anatome.cuts.plane import Plane
from anatome.cuts.section import Caps
from anatome.look.look import Look
from anatome.model.building import Building
from anatome.render.model_buffers import LINE_TRIANGLES, line_corners
from anatome.view.viewport import Viewport

# Pixels' worth of depth by which cut faces come forward. Nothing stands before a cut face seen from the side that is cut
# away, so it can come far enough that no edge just behind it shows through; built parts win over earth where both fill.
EARTH_NEARER, BUILT_NEARER, OUTLINE_NEARER = 4.0, 4.6, 7.0
OUTLINE_NEARER_FROM_BEHIND = 0.9
KEPT = 256
"""Faces kept uploaded for the next picture; several pictures share the context, the stage's and those of the key drawings."""

_NOTHING = Caps(np.empty((0, 3)), np.empty((0, 3), np.int64), np.empty(0, np.int64))


@dataclass(eq=False)
class FaceBuffers:
    """One cut face as uploaded. A ``free`` one cuts nothing away and shows from both sides.

    Seen flat along ``flat_normal`` only the first ``flat_segments`` of its outlines are drawn: a stepped section then
    reads as one plane, without a line where its steps meet (common practice).
    """

    ctx: moderngl.Context
    plane: Plane
    free: bool
    caps: moderngl.Buffer | None
    outlines: moderngl.Buffer | None
    outline_order: moderngl.Buffer | None
    flat_normal: NDArray[np.float64] | None = None
    flat_segments: int = 0
    _arrays: dict[int, moderngl.VertexArray] = field(default_factory=dict)

    def faces(self, viewport: Viewport) -> bool:
        """Whether the eye is on the side that is cut away."""
        return self.free or viewport.faces(self.plane)

    def draw_caps(self, program: moderngl.Program) -> None:
        """Fill it."""
        if self.caps is not None:
            if program.glo not in self._arrays:
                content = (self.caps, "3f4 4f1 1f4", "position", "colour", "nearer")
                self._arrays[program.glo] = self.ctx.vertex_array(program, [content])
            self._arrays[program.glo].render(moderngl.TRIANGLES)

    def draw_outlines(self, program: moderngl.Program, viewport: Viewport) -> None:
        """Draw its outlines."""
        if self.outlines is None:
            return
        if program.glo not in self._arrays:
            content = (self.outlines, "3f4 3f4 4f1 4f1", "first", "second", "one_side", "other_side")
            self._arrays[program.glo] = self.ctx.vertex_array(
                program, [content], index_buffer=self.outline_order, skip_errors=True
            )
        if self.flat_normal is not None and viewport.is_flat_on(self.flat_normal):
            self._arrays[program.glo].render(moderngl.TRIANGLES, vertices=self.flat_segments * len(LINE_TRIANGLES))
        else:
            self._arrays[program.glo].render(moderngl.TRIANGLES)


class CutBuffers:
    """Uploads cut faces when they are first asked for, and keeps those asked for lately."""

    def __init__(self, ctx: moderngl.Context, building: Building, centre: NDArray[np.float64]) -> None:
        self._ctx = ctx
        self._building = building
        self._centre = centre
        self._kept: OrderedDict[object, tuple[CutFace, FaceBuffers]] = OrderedDict()

    def of(self, faces: Sequence[CutFace], look: Look, numbered: bool = False) -> list[FaceBuffers]:
        """The faces as uploaded, coloured by the look, or by the numbers of their elements. Who holds them may go on drawing
        them."""
        found = []
        for face in faces:
            key = (id(face.section), face.plane, face.cut.poche, face.rules, face.outlined, look, numbered)
            if key not in self._kept:
                # The cut face is held with its buffers, so that an id is not given to another section meanwhile.
                self._kept[key] = face, self._upload(face, look, numbered)
            self._kept.move_to_end(key)
            found.append(self._kept[key][1])
        while len(self._kept) > max(KEPT, len(faces)):
            self._kept.popitem(last=False)
        return found

    def _upload(self, face: CutFace, look: Look, numbered: bool) -> FaceBuffers:
        filled = face.poche
        found = filled.caps if face.cut.poche or not face.free else _NOTHING
        corners = np.zeros((len(found.triangles), 3), [("position", "f4", 3), ("colour", "u1", 4), ("nearer", "f4")])
        corners["position"] = (found.vertices - self._centre)[found.triangles]
        fills = _numbers(found.element) if numbered else self._fills(face, found.element, look)
        corners["colour"] = fills[:, None]
        corners["nearer"] = np.where(self._building.context[found.element], EARTH_NEARER, BUILT_NEARER)[:, None]
        segments = filled.outline_segments[0] if face.outlined else np.empty((0, 2, 3))
        flat_normal, flat_segments = None, 0
        if isinstance(face.cut, SteppedSection):
            flat_normal = np.array(face.cut.line.normal)
            inner = _at_jogs(face, segments, 10 * self._building.tolerance)
            segments, flat_segments = np.concatenate([segments[~inner], segments[inner]]), int((~inner).sum())
        segments = segments - self._centre
        order = np.arange(len(segments))[:, None] * 4 + LINE_TRIANGLES
        return FaceBuffers(
            self._ctx,
            face.plane,
            face.free,
            self._buffer(corners.tobytes()),
            self._buffer(line_corners(segments).tobytes()),
            self._buffer(order.astype(np.uint32).tobytes()),
            flat_normal,
            flat_segments,
        )

    def _buffer(self, data: bytes) -> moderngl.Buffer | None:
        return self._ctx.buffer(data) if data else None

    def _fills(self, face: CutFace, element: NDArray[np.int64], look: Look) -> NDArray[np.uint8]:
        """(n, 4) colours: the poché, or without it the elements' own colours, as a saw would leave them."""
        building = self._building
        if face.cut.poche:
            fills = np.array([(*look.poche, 1.0), (*look.poche_beside, 1.0), (*look.poche_earth, 1.0)])
            which = building.context.astype(int) + building.earth
            return np.asarray(np.round(fills[which[element]] * 255), np.uint8)
        own = building.styles[building.triangle_style[building.triangle_start[element]]].copy()
        if not look.colours:
            own[:] = 250
        own[:, 3] = 255
        return np.asarray(own, np.uint8)


def _numbers(element: NDArray[np.int64]) -> NDArray[np.uint8]:
    """(n, 4) the numbers of elements plus one as colours, with the highest bit of blue set."""
    number = element + 1
    rows = [number & 255, number >> 8 & 255, number >> 16 & 127 | 128, np.full_like(number, 255)]
    return np.stack(rows, axis=1).astype(np.uint8)


def _at_jogs(face: CutFace, segments: NDArray[np.float64], margin: float) -> NDArray[np.bool_]:
    """(S,) which of the outlines of a stepped section's face lie where its steps meet, or are seen end on in a flat view."""
    assert isinstance(face.cut, SteppedSection)
    line = face.cut.line
    if face.plane not in line.planes:
        return np.ones(len(segments), bool)
    places = segments @ line.along
    away = np.abs(places[:, :, None] - np.array(line.jogs)).max(axis=1)
    return np.asarray((away < margin).any(axis=1))
