"""Cut faces on the graphics side: the filled polygons and their outlines."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass, field

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.deep_earth import with_deep_earth
from anatome.cuts.dissection import CutFace
from anatome.cuts.flat_view import at_seams
from anatome.cuts.plane import Plane
from anatome.cuts.section import Caps, Section
from anatome.look.hatch_lines import frame_of
from anatome.look.hatches import Hatch
from anatome.look.look import DEEPEST, FADES_OVER, Look
from anatome.look.styles import Rooms, Styles, resolve
from anatome.model.building import Building
from anatome.render.hatch_textures import HatchTextures
from anatome.render.laid_pictures import LaidPictures
from anatome.render.model_buffers import LINE_TRIANGLES, line_corners
from anatome.view.viewport import Viewport

# Pixels' worth of depth by which cut faces come forward. Nothing stands before a cut face seen from the side that is cut
# away, so it can come far enough that no edge just behind it shows through; built parts win over earth where both fill.
EARTH_NEARER, BUILT_NEARER, OUTLINE_NEARER = 4.0, 4.6, 7.0
OUTLINE_NEARER_FROM_BEHIND = 0.9
KEPT = 256
"""Faces kept uploaded for the next picture; several pictures share the context, the stage's and those of the key drawings."""

_NONE = np.empty(0, np.int64)
_NOTHING = Caps(np.empty((0, 3)), np.empty((0, 3), np.int64), _NONE, _NONE)
_NO_LINES = np.empty((0, 2, 3))
KEPT_FAMILIES = 16


CORNER = np.dtype([("position", "<f4", 3), ("colour", "u1", 4), ("nearer", "<f4"), ("hatching", "<f4", 4), ("fading", "<f4", 2)])
CONTENT = "3f4 4f1 1f4 4f4 2f4"
NAMES = ("position", "colour", "nearer", "hatching", "fading")


@dataclass(eq=False)
class Lines:
    """Lines of a cut face as uploaded; seen flat along the normal of a stepped section only the first ``flat`` of them are
    drawn, so that it reads as one plane, without a line where its steps meet (common practice)."""

    ctx: moderngl.Context
    corners: moderngl.Buffer | None
    order: moderngl.Buffer | None
    flat: int | None = None
    _arrays: dict[int, moderngl.VertexArray] = field(default_factory=dict)

    def draw(self, program: moderngl.Program, is_flat: bool) -> None:
        """Draw them all, or seen flat."""
        if self.corners is None:
            return
        if program.glo not in self._arrays:
            content = (self.corners, "3f4 3f4 4f1 4f1", "first", "second", "one_side", "other_side")
            self._arrays[program.glo] = self.ctx.vertex_array(program, [content], index_buffer=self.order, skip_errors=True)
        if is_flat and self.flat is not None:
            self._arrays[program.glo].render(moderngl.TRIANGLES, vertices=self.flat * len(LINE_TRIANGLES))
        else:
            self._arrays[program.glo].render(moderngl.TRIANGLES)


@dataclass(eq=False)
class FaceBuffers:
    """One cut face as uploaded: its fill, its ``heavy`` lines and its ``thin`` ones, and where earth ``ends`` that fades there. A
    ``free`` one cuts nothing away and shows from both sides; ``middle`` (3,) lies on it, metres."""

    ctx: moderngl.Context
    plane: Plane
    free: bool
    caps: moderngl.Buffer | None
    heavy: Lines
    thin: Lines
    ends: Lines
    middle: NDArray[np.float64]
    flat_normal: NDArray[np.float64] | None = None
    _arrays: dict[int, moderngl.VertexArray] = field(default_factory=dict)

    def faces(self, viewport: Viewport) -> bool:
        """Return whether the eye is on the side that is cut away."""
        return self.free or viewport.faces(self.plane)

    def is_flat(self, viewport: Viewport) -> bool:
        """Return whether it is a step of a section that is seen flat."""
        return self.flat_normal is not None and viewport.is_flat_on(self.flat_normal)

    def draw_caps(self, program: moderngl.Program) -> None:
        """Fill it."""
        if self.caps is not None:
            if program.glo not in self._arrays:
                self._arrays[program.glo] = self.ctx.vertex_array(program, [(self.caps, CONTENT, *NAMES)], skip_errors=True)
            self._arrays[program.glo].render(moderngl.TRIANGLES)


class CutBuffers:
    """Uploads cut faces when they are first asked for, and keeps those asked for lately."""

    def __init__(self, ctx: moderngl.Context, building: Building, centre: NDArray[np.float64]) -> None:
        self._ctx = ctx
        self._building = building
        self._centre = centre
        self.laid = LaidPictures(ctx, building, centre)
        self._kept: OrderedDict[object, tuple[CutFace, FaceBuffers]] = OrderedDict()
        self._families: OrderedDict[tuple[Hatch, ...], HatchTextures] = OrderedDict()

    def of(self, faces: Sequence[CutFace], look: Look, numbered: bool = False, rough: bool = False) -> list[FaceBuffers]:
        """Return the faces as uploaded, filled as the look has it, or with the numbers of their elements. Who holds them may go
        on drawing them. ``rough`` ones have one outline for all parts, which is quicker made."""
        found = []
        for face in faces:
            key = (id(face.section), face.plane, face.cut.poche, face.rules, face.outlined, look, numbered, rough)
            if key not in self._kept:
                # The cut face is held with its buffers, so that an id is not given to another section meanwhile.
                self._kept[key] = face, self._upload(face, look, numbered, rough)
            self._kept.move_to_end(key)
            found.append(self._kept[key][1])
        while len(self._kept) > max(KEPT, len(faces)):
            self._kept.popitem(last=False)
        return found

    def rooms(self, rooms: Rooms) -> moderngl.Texture:
        """Boxes and colours of rooms as surface.frag reads them."""
        rows = np.zeros((max(len(rooms.boxes), 1), 3, 4), np.float32)
        rows[: len(rooms.boxes), :2, :3] = rooms.boxes - self._centre
        rows[: len(rooms.boxes), 2, :3] = rooms.colours
        made = self._ctx.texture((3, len(rows)), 4, data=rows.tobytes(), dtype="f4")
        made.filter = moderngl.NEAREST, moderngl.NEAREST
        return made

    def families(self, hatches: tuple[Hatch, ...]) -> HatchTextures:
        """Return the lines of hatches as hatching.glsl reads them."""
        if hatches not in self._families:
            self._families[hatches] = HatchTextures(self._ctx, hatches)
            while len(self._families) > KEPT_FAMILIES:
                self._families.popitem(last=False)
        return self._families[hatches]

    def _upload(self, face: CutFace, look: Look, numbered: bool, rough: bool) -> FaceBuffers:
        filled = face.poche
        if look.earth_to_frame and face.cut.poche and not numbered:
            filled = with_deep_earth(self._building, filled, DEEPEST)
        found = filled.caps if face.cut.poche or not face.free else _NOTHING
        styles = resolve(look, self._building)
        corners = np.zeros((len(found.triangles), 3), CORNER)
        corners["position"] = (found.vertices - self._centre)[found.triangles]
        fills = _numbers(found.element) if numbered else self._fills(face, found.element, styles)
        corners["colour"] = fills[:, None]
        context = self._building.context[found.element]
        corners["nearer"] = np.where(context, EARTH_NEARER, BUILT_NEARER)[:, None]
        corners["hatching"][..., 2] = -1.0
        if not numbered:
            if face.cut.poche and len(styles.hatches):
                self._hatched(filled, found, styles, corners)
            if look.earth_fades and not look.earth_to_frame and face.cut.poche:
                self._faded(filled, found, corners)
        lines = face.contours if not rough and not numbered and face.outlined else None
        if lines is None:
            heavy = face.without_seams(filled.outline_segments[0]) if face.outlined else _NO_LINES
            thin = ends = _NO_LINES
        else:
            heavy = lines.heavy
            thin, ends = lines.thin, lines.ends
            if look.earth_to_frame:
                ends = _NO_LINES
            elif not look.earth_fades:
                thin, ends = np.concatenate([thin, ends]), _NO_LINES
        flat_normal = face.cut.flat_normal
        middle = found.vertices.mean(axis=0) if len(found.vertices) else np.array(face.plane.origin)
        return FaceBuffers(
            self._ctx,
            face.plane,
            face.free,
            self._buffer(corners.tobytes()),
            self._lines(face, heavy, flat_normal is not None),
            self._lines(face, thin, flat_normal is not None),
            self._lines(face, ends, False),
            middle,
            flat_normal,
        )

    def _lines(self, face: CutFace, segments: NDArray[np.float64], stepped: bool) -> Lines:
        flat = None
        if stepped:
            inner = at_seams(face, segments)
            segments, flat = np.concatenate([segments[~inner], segments[inner]]), int((~inner).sum())
        segments = segments - self._centre
        order = (np.arange(len(segments))[:, None] * 4 + LINE_TRIANGLES).astype(np.uint32)
        return Lines(self._ctx, self._buffer(line_corners(segments).tobytes()), self._buffer(order.tobytes()), flat)

    def _hatched(self, filled: Section, found: Caps, styles: Styles, corners: NDArray[np.void]) -> None:
        """Tell every corner where it lies in the frame of its hatch."""
        base = filled.plane.flat(self._centre)
        flat = filled.plane.flat(found.vertices)
        for polygon in np.unique(found.polygon).tolist():
            hatch = styles.hatch_of(int(filled.element[polygon]))
            if hatch is None:
                continue
            turned, origin = frame_of(hatch, filled.polygons[polygon], base)
            own = found.polygon == polygon
            arm = flat[found.triangles[own]] - origin
            c, s = np.cos(turned), np.sin(turned)
            corners["hatching"][own, :, 0] = arm @ [c, s]
            corners["hatching"][own, :, 1] = arm @ [-s, c]
            corners["hatching"][own, :, 2] = styles.hatch[filled.element[polygon]]

    def _faded(self, filled: Section, found: Caps, corners: NDArray[np.void]) -> None:
        """Let earth fade from where it ends upwards, in a face that is not level."""
        earth = self._building.earth[filled.element]
        if filled.plane.is_level or not earth.any():
            return
        own = earth[found.polygon]
        heights = found.vertices[found.triangles[own]][..., 2] - self._centre[2]
        if len(heights):
            low, high = float(heights.min()), float(heights.max())
            corners["fading"][own] = low, low + FADES_OVER * (high - low)

    def _buffer(self, data: bytes) -> moderngl.Buffer | None:
        return self._ctx.buffer(data) if data else None

    def _fills(self, face: CutFace, element: NDArray[np.int64], styles: Styles) -> NDArray[np.uint8]:
        """(n, 4) colours: the poché, or without it the elements' own colours, as a saw would leave them."""
        if face.cut.poche:
            return styles.fill[element]
        building = self._building
        style = np.where(styles.surface >= 0, styles.surface, building.triangle_style[building.triangle_start[:-1]])
        own = styles.palette[style[element]].copy()
        own[:, 3] = 255
        return np.asarray(own, np.uint8)


def _numbers(element: NDArray[np.int64]) -> NDArray[np.uint8]:
    """(n, 4) the numbers of elements plus one as colours, with the highest bit of blue set."""
    number = element + 1
    rows = [number & 255, number >> 8 & 255, number >> 16 & 127 | 128, np.full_like(number, 255)]
    return np.stack(rows, axis=1).astype(np.uint8)
