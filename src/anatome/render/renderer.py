"""Draws one sample of the picture of a building into a framebuffer.

The renderer is given a context, in a window or without one, and knows nothing of either. What it draws is
premultiplied by its alpha over nothing, so that the same samples serve a picture on paper and one with clear ground.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.dissection import Dissection
from anatome.look.look import Look
from anatome.model.building import Building
from anatome.render.building_buffers import BuildingBuffers
from anatome.render.cut_buffers import CutBuffers
from anatome.render.footprint import footprint
from anatome.render.part_clip import PartClip
from anatome.render.programs import Programs, set_uniforms
from anatome.render.targets import SampleTarget
from anatome.view.camera import Camera

EDGE_NEARER = 0.9
LIGHT = np.array([-0.42, 0.62, 0.66])
"""Towards the light in camera coordinates: from over the viewer's left shoulder, so that a cut face is never in the dark."""
PICKED_TINT = (0.184, 0.498, 0.451, 0.30)


@dataclass(frozen=True, eq=False)
class View:
    """All that decides the picture. ``picked`` is an (E,) mask."""

    camera: Camera
    cut_open: Dissection
    look: Look
    picked: NDArray[np.bool_] | None = None


@dataclass(frozen=True)
class Window:
    """The part of a picture to draw: pixels of the whole, and the tile in it (x, y from the lower left)."""

    width: int
    height: int
    tile: tuple[int, int, int, int] | None = None

    def clip(self, jitter: tuple[float, float]) -> tuple[float, float, float, float]:
        """Scale and shift of clip coordinates that fit the tile to the target, moved by ``jitter`` pixels."""
        x, y, w, h = self.tile or (0, 0, self.width, self.height)
        sx, sy = self.width / w, self.height / h
        return (
            sx,
            sy,
            sx - 1 - 2 * x / w + 2 * jitter[0] / w,
            sy - 1 - 2 * y / h + 2 * jitter[1] / h,
        )


def widest_probe(height: int) -> float:
    """How many pixels soft shade may look around in a picture of this height."""
    return 0.055 * height


class Renderer:
    """Holds a building's buffers on a context and draws views of it."""

    def __init__(self, ctx: moderngl.Context) -> None:
        self.ctx = ctx
        self.programs = Programs(ctx)
        self._clip = PartClip(ctx, self.programs)
        self._buffers: BuildingBuffers | None = None
        self._cuts: CutBuffers | None = None
        self._picked: NDArray[np.bool_] | None = None
        self._screen: moderngl.VertexArray | None = None
        self._ground_key: object = None
        self._footprint: moderngl.Texture | None = None
        self._footprint_box = np.zeros(4)

    def set_building(self, building: Building | None) -> None:
        """Draw this building from now on."""
        if self._buffers is not None:
            self._buffers.release()
        if self._cuts is not None:
            self._cuts.release()
        self._buffers = self._cuts = None
        self._picked = self._ground_key = None
        if building is not None:
            self._buffers = BuildingBuffers(self.ctx, building)
            self._cuts = CutBuffers(self.ctx, building, self._buffers.centre)

    def draw(
        self, sample: SampleTarget, view: View, window: Window, jitter: tuple[float, float], number: int | None = None
    ) -> None:
        """Clear the target and draw one sample of the view into it.

        With the ``number`` of the sample, soft shade is drawn too if the look has it.
        """
        target = sample.framebuffer
        ctx, buffers, cuts = self.ctx, self._buffers, self._cuts
        target.use()
        target.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        if buffers is None or cuts is None:
            return
        buffers.show(view.cut_open.parts)
        buffers.look_from(view.camera)
        self._clip.update(view.cut_open.parts, buffers.centre)
        cuts.update(view.cut_open.faces, view.look)
        self._update_picked(buffers, view.picked)
        common = self._common(view, window, jitter, buffers)

        ctx.enable_only(moderngl.DEPTH_TEST)
        ctx.depth_func = "<="
        try:
            self._draw_surfaces(view, window, common, buffers)
            if view.look.shade and number is not None:
                self._draw_shade(sample, view, window, common, number, buffers.building)
            self._draw_rest(view, window, common, buffers, cuts)
        finally:
            ctx.polygon_offset = 0.0, 0.0
            target.depth_mask = True
            ctx.enable_only(moderngl.NOTHING)

    def _draw_surfaces(self, view: View, window: Window, common: dict[str, Any], buffers: BuildingBuffers) -> None:
        look = view.look
        # Lines lie in the plane of the screen; what they run along recedes under half their width. Surfaces are pushed
        # back by as much, so that a line is never half buried where one looks along a face.
        self.ctx.polygon_offset = max(1.0, 0.65 * look.edge_width * window.height / 800.0), 1.0
        self._surfaces("solid", "surface.frag", view, common, buffers)

    def _surfaces(
        self, name: str, fragment: str, view: View, common: dict[str, Any], buffers: BuildingBuffers, **more: Any
    ) -> None:
        """Draw one of the lists of triangles, part by part, each cut by what concerns it."""
        light = LIGHT / np.linalg.norm(LIGHT)
        uniforms = {**common, "nearer": 0.0, "light": tuple(light), "calm": 0.22 if view.look.colours else 1.0, **more}
        for number, program in self._clip.each("surface.vert", fragment, uniforms, buffers.ranges(name)):
            buffers.draw_surfaces(name, program, number)

    def _lines(self, name: str, common: dict[str, Any], buffers: BuildingBuffers, **more: Any) -> None:
        for number, program in self._clip.each("line.vert", "line.frag", {**common, **more}, buffers.ranges(name)):
            buffers.draw_edges(name, program, number)

    def _draw_shade(
        self, sample: SampleTarget, view: View, window: Window, common: dict[str, Any], number: int, building: Building
    ) -> None:
        """Darken what is drawn so far where something stands close by."""
        ctx = self.ctx
        program = self.programs.get("screen.vert", "ambient.frag")
        projection = np.frombuffer(common["projection"], "f4").reshape(4, 4).T.astype(float)
        x, y, w, h = window.tile or (0, 0, window.width, window.height)
        set_uniforms(
            program,
            **common,
            unprojection=np.linalg.inv(projection).T.astype("f4").tobytes(),
            depth=0,
            tile=(float(x), float(y)),
            size=(float(w), float(h)),
            radius=min(1.6, 0.05 * building.size),
            widest=widest_probe(window.height),
            strength=view.look.shade_strength,
            number=number,
        )
        sample.colour_only.use()
        sample.depth.use(0)
        ctx.enable_only(moderngl.BLEND)
        ctx.blend_func = moderngl.DST_COLOR, moderngl.ZERO
        if self._screen is None:
            self._screen = ctx.vertex_array(program, [])
        self._screen.render(moderngl.TRIANGLES, vertices=3)
        ctx.enable_only(moderngl.DEPTH_TEST)
        sample.framebuffer.use()

    def _draw_rest(
        self,
        view: View,
        window: Window,
        common: dict[str, Any],
        buffers: BuildingBuffers,
        cuts: CutBuffers,
    ) -> None:
        """Cut faces, lines, ground and glass."""
        ctx, look = self.ctx, view.look
        grown = window.height / 800.0
        ctx.polygon_offset = max(1.0, 0.6 * look.cut_width * grown), 1.0
        cap = self.programs.get("cap.vert", "cap.frag")
        set_uniforms(cap, **common)
        cuts.draw_caps(cap, view.camera)
        ctx.polygon_offset = 0.0, 0.0

        ctx.enable(moderngl.BLEND)
        ctx.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        if look.edges:
            for name, factor in (("sharp", 1.0), ("silhouette", 1.3)):
                # A line cannot be thinner than a pixel; it can be fainter.
                width = look.edge_width * factor * grown
                self._lines(
                    name,
                    common,
                    buffers,
                    ink=(*look.ink, min(width, 1.0)),
                    width=max(width, 1.0),
                    nearer=EDGE_NEARER,
                    cut_lines=False,
                    fades_under=9.0 * grown,
                )
        line = self.programs.get("line.vert", "line.frag")
        set_uniforms(
            line,
            **common,
            ink=(*look.ink, 1.0),
            fades_under=0.0,
            width=max(look.cut_width * grown, 1.0),
            cut_lines=True,
        )
        cuts.draw_outlines(line, view.camera)

        self._target_mask(False)
        if look.ground:
            self._draw_ground(view, common, buffers)
        self._surfaces("clear", "surface.frag", view, common, buffers)
        self._surfaces("picked", "tint.frag", view, common, buffers, nearer=0.5, tint=PICKED_TINT)
        self._target_mask(True)

    def _target_mask(self, on: bool) -> None:
        if self.ctx.fbo is not None:
            self.ctx.fbo.depth_mask = on

    def _common(self, view: View, window: Window, jitter: tuple[float, float], buffers: BuildingBuffers) -> dict[str, Any]:
        camera, centre = view.camera, buffers.centre
        bounds = buffers.building.bounds
        reach = 0.75 * (bounds[1] - bounds[0])
        near, far = camera.depth_range(np.stack([bounds[0] - reach, bounds[1] + reach]))
        matrix = camera.view_matrix()
        matrix[:3, 3] += matrix[:3, :3] @ centre
        projection = camera.projection_matrix(window.width / window.height, near, far)
        pixel = camera.height / window.height
        if camera.projection == "perspective":
            pixel /= camera.distance
        return {
            "view": matrix.T.astype("f4").tobytes(),
            "projection": projection.T.astype("f4").tobytes(),
            "window": window.clip(jitter),
            "picture": (float(window.width), float(window.height)),
            "pixel": pixel,
            "parallel": camera.projection == "parallel",
            "plane_count": 0,
        }

    def _update_picked(self, buffers: BuildingBuffers, picked: NDArray[np.bool_] | None) -> None:
        same = picked is self._picked or (
            picked is not None and self._picked is not None and bool((picked == self._picked).all())
        )
        if not same:
            buffers.pick(picked)
            self._picked = picked

    def _draw_ground(self, view: View, common: dict[str, Any], buffers: BuildingBuffers) -> None:
        building, centre = buffers.building, buffers.centre
        shown = view.cut_open.shown
        low, high = building.bounds_of(shown)
        level = float(low[2]) - 0.002 * building.size
        # From below the ground would only hide the building.
        if view.camera.axes[2][2] < 0.01 or (view.camera.projection == "perspective" and view.camera.eye[2] < level):
            return
        key = (view.cut_open.cells, shown.tobytes())
        if key != self._ground_key:
            self._ground_key = key
            shadow, self._footprint_box = footprint(building, shown, view.cut_open.cells)
            if self._footprint is not None:
                self._footprint.release()
            self._footprint = self.ctx.texture(shadow.shape[::-1], 1, shadow.tobytes(), dtype="f4")
            self._footprint.filter = moderngl.LINEAR, moderngl.LINEAR
            self._footprint.repeat_x = self._footprint.repeat_y = False
        radius = 0.75 * float(np.linalg.norm((high - low)[:2])) + 0.5
        middle = (low + high)[:2] / 2 - centre[:2]
        around = np.linspace(0, 2 * np.pi, 65)
        rim = np.column_stack([np.cos(around), np.sin(around)]) * radius
        flat = np.concatenate([[[0.0, 0.0]], rim])
        fan = np.column_stack([flat + middle, np.full(len(flat), level - centre[2])]).astype("f4")
        program = self.programs.get("ground.vert", "ground.frag")
        box = self._footprint_box - np.concatenate([centre[:2], centre[:2]])
        set_uniforms(
            program, **common, radius=radius, middle=tuple(middle), footprint_box=tuple(box), footprint=0, ink=view.look.ink
        )
        assert self._footprint is not None
        self._footprint.use(0)
        buffer = self.ctx.buffer(fan.tobytes())
        array = self.ctx.vertex_array(program, [(buffer, "3f4", "position")])
        array.render(moderngl.TRIANGLE_FAN)
        array.release()
        buffer.release()
