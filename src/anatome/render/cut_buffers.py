"""Cut faces on the graphics side: the filled polygons and their outlines."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import SteppedSection
from anatome.cuts.dissection import CutFace
from anatome.cuts.plane import Plane
from anatome.cuts.section import Caps
from anatome.look.look import Look
from anatome.model.building import Building
from anatome.model.kinds import earth_mask
from anatome.render.building_buffers import LINE_TRIANGLES, line_corners
from anatome.render.programs import set_uniforms
from anatome.view.camera import Camera

# Pixels' worth of depth by which cut faces come forward. Nothing stands before a cut face seen from the side that is cut
# away, so it can come far enough that no edge just behind it shows through; built parts win over earth where both fill.
EARTH_NEARER, BUILT_NEARER, OUTLINE_NEARER = 4.0, 4.6, 7.0
OUTLINE_NEARER_FROM_BEHIND = 0.9

_NOTHING = Caps(np.empty((0, 3)), np.empty((0, 3), np.int64), np.empty(0, np.int64))


@dataclass
class _Face:
    """One cut face as uploaded. A ``free`` one cuts nothing away and shows from both sides.

    Seen flat along ``flat_normal`` only the first ``flat_segments`` of its outlines are drawn: a stepped section then
    reads as one plane, without a line where its steps meet (common practice).
    """

    plane: Plane
    free: bool
    caps: moderngl.Buffer | None
    outlines: moderngl.Buffer | None
    outline_order: moderngl.Buffer | None
    flat_normal: NDArray[np.float64] | None = None
    flat_segments: int = 0

    def release(self) -> None:
        for buffer in (self.caps, self.outlines, self.outline_order):
            if buffer is not None:
                buffer.release()

    def is_flat(self, camera: Camera) -> bool:
        """Whether a stepped section is seen as one plane."""
        if self.flat_normal is None or camera.projection != "parallel":
            return False
        return bool(abs(camera.axes[2] @ self.flat_normal) > 1 - 1e-6)

    def faces(self, camera: Camera) -> bool:
        """Whether the eye is on the side that is cut away."""
        if self.free:
            return True
        if camera.projection == "parallel":
            return bool(camera.axes[2] @ self.plane.n > 0)
        return bool(self.plane.distance(np.array(camera.eye)) > 0)


class CutBuffers:
    """Uploads cut faces when they change."""

    def __init__(self, ctx: moderngl.Context, building: Building, centre: NDArray[np.float64]) -> None:
        self._ctx = ctx
        self._building = building
        self._centre = centre
        self._earth = earth_mask(building)
        self._faces: dict[object, tuple[CutFace, _Face]] = {}
        self._drawn: list[_Face] = []

    def update(self, faces: Sequence[CutFace], look: Look) -> None:
        """Take over the cut faces, coloured by the look. What was uploaded before and is still wanted stays."""
        wanted = {(id(f.section), f.plane, f.cut.poche, f.rules, f.outlined, look): f for f in faces}
        for key in [k for k in self._faces if k not in wanted]:
            self._faces.pop(key)[1].release()
        for key, face in wanted.items():
            if key not in self._faces:
                # The cut face is held with its buffers, so that an id is not given to another section meanwhile.
                self._faces[key] = face, self._upload(face, look)
        self._drawn = [self._faces[key][1] for key in wanted]

    def _upload(self, face: CutFace, look: Look) -> _Face:
        filled = face.poche
        found = filled.caps if face.cut.poche or not face.free else _NOTHING
        earth = self._earth[found.element]
        corners = np.zeros((len(found.triangles), 3), [("position", "f4", 3), ("colour", "u1", 4), ("nearer", "f4")])
        corners["position"] = (found.vertices - self._centre)[found.triangles]
        corners["colour"] = self._fills(face, found.element, earth, look)[:, None]
        corners["nearer"] = np.where(earth, EARTH_NEARER, BUILT_NEARER)[:, None]
        segments = filled.outline_segments[0] if face.outlined else np.empty((0, 2, 3))
        flat_normal, flat_segments = None, 0
        if isinstance(face.cut, SteppedSection):
            flat_normal = np.array(face.cut.line.normal)
            inner = _at_jogs(face, segments, 10 * self._building.tolerance)
            segments, flat_segments = np.concatenate([segments[~inner], segments[inner]]), int((~inner).sum())
        segments = segments - self._centre
        order = np.arange(len(segments))[:, None] * 4 + LINE_TRIANGLES
        return _Face(
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

    def draw_caps(self, program: moderngl.Program, camera: Camera) -> None:
        """Fill the cut faces turned to the camera; from behind, the parts that are cut hide their own cut faces."""
        for face in self._drawn:
            if face.caps is not None and face.faces(camera):
                array = self._ctx.vertex_array(program, [(face.caps, "3f4 4f1 1f4", "position", "colour", "nearer")])
                array.render(moderngl.TRIANGLES)
                array.release()

    def draw_outlines(self, program: moderngl.Program, camera: Camera) -> None:
        """Draw the outlines of the cut faces."""
        for face in self._drawn:
            if face.outlines is None:
                continue
            set_uniforms(program, nearer=OUTLINE_NEARER if face.faces(camera) else OUTLINE_NEARER_FROM_BEHIND)
            content = [(face.outlines, "3f4 3f4", "first", "second")]
            array = self._ctx.vertex_array(program, content, index_buffer=face.outline_order)
            if face.is_flat(camera):
                array.render(moderngl.TRIANGLES, vertices=face.flat_segments * len(LINE_TRIANGLES))
            else:
                array.render(moderngl.TRIANGLES)
            array.release()

    def release(self) -> None:
        """Give the memory back."""
        for _, face in self._faces.values():
            face.release()
        self._faces, self._drawn = {}, []


def _at_jogs(face: CutFace, segments: NDArray[np.float64], margin: float) -> NDArray[np.bool_]:
    """(S,) which of the outlines of a stepped section's face lie where its steps meet, or are seen end on in a flat view."""
    assert isinstance(face.cut, SteppedSection)
    line = face.cut.line
    if face.plane not in line.planes:
        return np.ones(len(segments), bool)
    places = segments @ line.along
    away = np.abs(places[:, :, None] - np.array(line.jogs)).max(axis=1)
    return np.asarray((away < margin).any(axis=1))
