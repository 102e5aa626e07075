"""One picture of a building: what of it is drawn, and the passes that draw it."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.kept_lines import kept_crossings
from anatome.cuts.moves import STAYS
from anatome.cuts.pieces import Placed
from anatome.look.hatch_lines import level_on_paper
from anatome.look.look import TOWARDS_LIGHT
from anatome.look.pens import LineKind, Wash, wash_of
from anatome.look.styles import resolve
from anatome.model.clusters import Clusters
from anatome.model.crossings import known
from anatome.render import laid_pictures
from anatome.render.cell_clip import CellClip
from anatome.render.cut_buffers import OUTLINE_NEARER, OUTLINE_NEARER_FROM_BEHIND
from anatome.render.draw_list import DrawList, Run, Sight, draw_list
from anatome.render.figure_buffers import FigureBuffers
from anatome.render.ground import ground_mesh
from anatome.render.light import Light
from anatome.render.loose_lines import LooseLines
from anatome.render.occlusion import DepthPyramid
from anatome.render.programs import set_uniforms
from anatome.render.screen_passes import ScreenPass, Strip, strips
from anatome.render.shared import SeenBefore, Shared, shade_coarseness, widest_probe
from anatome.render.targets import SampleTarget
from anatome.render.window import Window
from anatome.site.site import GROUND_ID
from anatome.view.viewport import Viewport

Mask = NDArray[np.bool_]

EDGE_NEARER = 0.9
VEIL = 0.38
"""How much of what lies behind a ghost its veil of paper takes."""
FADES = {LineKind.EDGE: 9.0, LineKind.HIDDEN: 26.0, LineKind.GHOST: 60.0}
"""Pixels under which edges grow fainter, at a picture height of 800; of ghosts only the long ones are seen."""
PATTERN_LINE = 0.9
"""Pixels at least across a line of a pattern."""
PICKED_TINT = (0.184, 0.498, 0.451, 0.58)
STEP_TRIANGLES, STEP_LINES = 60_000, 30_000
"""What is drawn at a time: some ten milliseconds in software."""
STEP_PROBED, STEP_SMOOTHED = 60_000, 150_000
"""Pixels of ambient occlusion at a time."""
SMALLEST, SMALLEST_MOVING = 0.3, 1.0
"""Pixels under which a cluster is left out, and its edges when the picture moves."""
SHORTEST_MOVING = 6.0
"""Pixels under which edges are left out when the picture moves; they would be faint."""
ROUNDING = 4e-7
"""Share of a distance from the centre by which a place in single precision may be off."""
OCCLUDE_FROM = 4000
"""Clusters in the picture from which looking for hidden ones costs less than drawing them."""


@dataclass(frozen=True, eq=False)
class Listed:
    """Runs of draws, and the buffer their commands are in."""

    runs: tuple[Run, ...]
    commands: moderngl.Buffer | None


class Picture:
    """The building, or a piece of it, in a view at one size. Samples of it differ only by jitter."""

    def __init__(self, shared: Shared, part: Placed, bounds: NDArray[np.float64], before: SeenBefore) -> None:
        cut_open, moved = part.cut_open, part.move != STAYS
        self._ctx, self._programs, self._model = shared.ctx, shared.programs, shared.model
        self._look, self._window, self._moving = shared.look, shared.window, shared.moving
        self._shared = shared
        self._crossing: LooseLines | None = None
        self._world = shared.viewport
        self._viewport = viewport = shared.viewport.at_home_of(part.move if moved else None)
        self._cut_open, self._before, self._numbered = cut_open, before, shared.numbered
        self._grown = viewport.height / 800.0
        self._millimetre = viewport.height / shared.paper
        self._styles = resolve(self._look, self._model.building)
        self._families = shared.cuts.families(self._styles.hatches)
        self._patterns = shared.cuts.families(self._styles.patterns)
        self._rooms = shared.cuts.rooms(self._styles.rooms)
        building, centre = self._model.building, self._model.centre
        margin = 0.75 * (bounds[1] - bounds[0])  # the soft ground reaches beyond the building
        self._recede = self._ends(bounds)
        self._depth = self._world.depth_range(np.stack([bounds[0] - margin, bounds[1] + margin]))
        self._play = max(1e-5, ROUNDING * float(np.abs(cut_open.bounds - centre).max()))
        self._faces = shared.cuts.of(cut_open.faces, self._look, shared.numbered, shared.moving)
        self._groups = cut_open.groups(building.clusters)
        self._edge_groups = cut_open.groups(building.feature_edges.clusters)
        self._clip = CellClip(self._ctx, self._groups.cells, centre)
        self._edge_clip = CellClip(self._ctx, self._edge_groups.cells, centre)
        self._choose()
        # What is displaced stands on no ground, and what stands on earth not on paper.
        earth = building.index_of.get(GROUND_ID)
        on_paper = not moved and (earth is None or not cut_open.shown[earth])
        if self._look.earth_fades:  # and what fades into it lies on none
            on_paper = on_paper and not any(building.earth[face.section.element].any() for face in cut_open.faces)
        self._ground = self._ground_arrays() if self._look.ground and not self._moving and on_paper else None

    def _ends(self, bounds: NDArray[np.float64]) -> tuple[float, float]:
        """Depths of the near and the far end of what is shown, metres."""
        corners = np.stack(np.meshgrid(*bounds.T), axis=-1).reshape(-1, 3)
        depth = self._world.flat(corners)[1]
        return max(float(depth.min()), 0.0), float(depth.max())

    @property
    def depth_range(self) -> tuple[float, float]:
        """The near and far depth it is drawn with, metres."""
        return self._depth

    # What is drawn ---------------------------------------------------------------------------------------------

    def _choose(self) -> None:
        """The clusters that lie in the picture and are large enough to show, as masks."""
        building, matrix = self._model.building, self._viewport.matrix.copy()
        sx, sy, zx, zy = self._window.clip((0.0, 0.0))
        # A pixel more on every side, for the jitter.
        _, _, w, h = self._window.part
        matrix[0], matrix[1] = (sx * matrix[0] + zx * matrix[3]) / (1 + 2 / w), (sy * matrix[1] + zy * matrix[3]) / (1 + 2 / h)
        sight = Sight(matrix, self._viewport.pixel, self._depth)
        clusters, edges = building.clusters, building.feature_edges
        diagonal = 2 * np.linalg.norm(clusters.half, axis=1)
        seen = self._seen(sight, clusters, self._groups.number, diagonal, SMALLEST_MOVING if self._moving else SMALLEST)
        clear = (clusters.kind == 1) | self._styles.clear[clusters.element]
        self._solid_seen, self._clear_seen = seen & ~clear, seen & clear
        self._edges_seen = np.zeros(len(edges.longest), bool)
        if self._styles.lined.any():
            shortest = SHORTEST_MOVING * self._grown if self._moving else SMALLEST
            self._edges_seen = self._seen(sight, edges.clusters, self._edge_groups.number, edges.longest, shortest)
            self._edges_seen &= self._styles.lined[edges.clusters.element]
        self._occludes = int(self._solid_seen.sum()) > OCCLUDE_FROM
        self._finer = 1.0
        self._coarser = 1.0  # times as large as its own are the pixels that what hides its lines was drawn in
        self._glass_seen, self._lines_seen = self._clear_seen, self._edges_seen

    @staticmethod
    def _seen(
        sight: Sight, clusters: Clusters, group: NDArray[np.int64], size: NDArray[np.floating], smallest: float
    ) -> NDArray[np.bool_]:
        """(C,) the clusters that are left, lie in the picture and of whose ``size`` (C,) in metres some pixels are seen."""
        left = np.flatnonzero(group >= 0)
        centre, half = clusters.centre[left], clusters.half[left]
        seen = sight.sees(centre, half)
        seen[seen] = sight.pixels(size[left][seen], centre[seen], half[seen]) >= smallest
        found = np.zeros(len(group), bool)
        found[left[seen]] = True
        return found

    def _solids(self, chosen: NDArray[np.bool_]) -> Listed:
        clusters = self._model.building.clusters
        # What is closed shows its outside only, so half of its triangles need not be filled.
        key = 2 * self._groups.number + self._model.building.outward[clusters.element]
        return self._listed(draw_list(clusters, chosen, key, 3, STEP_TRIANGLES))

    def _glasses(self, chosen: NDArray[np.bool_]) -> Listed:
        return self._listed(draw_list(self._model.building.clusters, chosen, 2 * self._groups.number, 3, STEP_TRIANGLES))

    def _lines(self, chosen: NDArray[np.bool_]) -> Listed:
        clusters = self._model.building.feature_edges.clusters
        # By the cells that clip them, and in these by how they are drawn.
        kinds = len(self._styles.line_styles)
        key = self._edge_groups.number * kinds + self._styles.line[clusters.element]
        return self._listed(draw_list(clusters, chosen, key, 2 if self._moving else 6, STEP_LINES))

    def _listed(self, found: DrawList) -> Listed:
        return Listed(found.runs, self._ctx.buffer(found.commands.tobytes()) if len(found.commands) else None)

    def _not_hidden(self, sample: SampleTarget, window: Window, jitter: tuple[float, float]) -> NDArray[np.bool_]:
        """(C,) the clusters in the picture that what is drawn so far does not hide."""
        width, height = sample.size
        depth = np.frombuffer(sample.depth.read(alignment=1), np.float32).reshape(height, width)
        sx, sy, zx, zy = window.clip(jitter)
        matrix = self._near_centre(self._viewport.clip_matrix(*self._depth))
        matrix[0], matrix[1] = sx * matrix[0] + zx * matrix[3], sy * matrix[1] + zy * matrix[3]
        numbers = np.flatnonzero(self._solid_seen | self._clear_seen)
        centre, half = self._model.boxes
        hidden = DepthPyramid(depth).hides(matrix, centre[numbers], half[numbers])
        shown = np.zeros(len(self._solid_seen), bool)
        shown[numbers[~hidden]] = True
        return shown

    # Drawing ---------------------------------------------------------------------------------------------------

    # Each of these draws a part of one sample in steps. Whoever takes a step finds the context as others left it and leaves
    # it plain.

    def _step(
        self,
        sample: SampleTarget,
        work: Callable[[], None],
        flags: int = moderngl.NOTHING,
        offset: tuple[float, float] = (0.0, 0.0),
    ) -> None:
        ctx = self._ctx
        sample.framebuffer.use()
        sample.framebuffer.depth_mask = True
        ctx.enable_only(moderngl.DEPTH_TEST | flags)
        ctx.depth_func = "<="
        ctx.front_face = "cw" if self._viewport.mirrors else "ccw"
        ctx.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        ctx.polygon_offset = offset
        try:
            work()
            if self._is_large:
                ctx.finish()
        finally:
            ctx.polygon_offset = 0.0, 0.0
            ctx.front_face = "ccw"
            sample.framebuffer.depth_mask = True
            ctx.enable_only(moderngl.NOTHING)

    def surfaces(self, sample: SampleTarget, jitter: tuple[float, float], picked: Mask | None) -> Iterator[None]:
        """Draw what is solid, the picked elements (E,) tinted."""
        common = self._common(jitter)
        # Lines lie in the plane of the screen; what they run along recedes under half their width. Surfaces are pushed
        # back by as much, so that a line is never half buried where one looks along a face.
        pushed = (0.0, 0.0) if self._numbered else (self._pushed, 1.0)

        def draw(listed: Listed) -> Iterator[None]:
            for run in listed.runs:
                work = partial(self._surfaces, common, listed.commands, run, picked)
                self._step(sample, work, moderngl.CULL_FACE if run.key % 2 else moderngl.NOTHING, pushed)
                yield

        self._glass_seen, self._lines_seen = self._clear_seen, self._edges_seen
        if not self._occludes:
            yield from draw(self._solids(self._solid_seen))
            return
        # First what was seen last time, then of the rest what that does not hide.
        before = self._before.clusters_of(len(self._solid_seen))
        yield from draw(self._solids(self._solid_seen & before))
        shown = self._not_hidden(sample, self._window, jitter)
        yield
        yield from draw(self._solids(self._solid_seen & shown & ~before))
        self._before.clusters = shown
        building = self._model.building
        of_element = np.zeros(len(building.elements), bool)
        of_element[building.clusters.element[shown]] = True
        self._glass_seen = self._clear_seen & shown
        self._lines_seen = self._edges_seen & of_element[building.feature_edges.clusters.element]

    def shade(self, sample: SampleTarget, jitter: tuple[float, float], number: int, light: Light) -> Iterator[None]:
        """Ambient occlusion on all that is drawn so far, whichever piece it belongs to."""
        if not self._look.shade:
            return
        coarse = shade_coarseness(self._window.height)
        (probed, probed_target), (smooth, smooth_target) = sample.shade(coarse)
        uniforms = {
            **self.screen_uniforms(jitter, number),
            "coarse": coarse,
            "radius": min(1.6, 0.05 * self._model.building.size),
            "widest": widest_probe(self._window.height),
        }
        strength = self._look.shade_strength
        passes = (
            ScreenPass("ambient.frag", probed_target, {1: smooth}, STEP_PROBED),
            ScreenPass("shade_smooth.frag", smooth_target, {1: probed}, STEP_SMOOTHED, {"fine": 0.0, "strength": 1.0}),
        )

        def work(target: moderngl.Framebuffer, before: moderngl.Texture, count: int) -> Iterator[Strip]:
            last = ScreenPass("shade_smooth.frag", target, {1: smooth}, STEP_SMOOTHED, {"fine": 1.0, "strength": strength})
            return strips(self._ctx, self._programs, sample, (*passes, last), uniforms)

        yield from self.over(sample, light.darken(sample, number, work))

    def over(self, sample: SampleTarget, work: Iterator[Strip]) -> Iterator[None]:
        """Passes over what is drawn so far, strip by strip."""
        for strip in work:
            self._step(sample, strip)
            yield

    def screen_uniforms(self, jitter: tuple[float, float], number: int) -> dict[str, Any]:
        """Return what passes over the picture so far need to know of it."""
        common = self._common(jitter, self._world)
        matrix = np.frombuffer(common["matrix"], "f4").reshape(4, 4).T.astype(float)
        x, y, w, h = self._window.part
        return {
            **common,
            "unprojection": np.linalg.inv(matrix).T.astype("f4").tobytes(),
            "depth": 0,
            "shade": 1,
            "pushed": self._pushed,
            "tile": (float(x), float(y)),
            "size": (float(w), float(h)),
            "number": number,
        }

    def cut_faces(self, sample: SampleTarget, jitter: tuple[float, float]) -> Iterator[None]:
        """Fill what is cut."""
        if self._faces:
            common = self._common(jitter)
            pushed = max(1.0, 0.6 * self._look.cut_weight * self._millimetre), 1.0
            self._step(sample, lambda: self._caps(common), offset=pushed)
            yield

    def edges(self, sample: SampleTarget, jitter: tuple[float, float]) -> Iterator[None]:
        """Creases, borders and silhouettes."""
        common = self._common(jitter)
        lines = self._lines(self._lines_seen)
        for run in lines.runs:
            self._step(sample, partial(self._edges, common, lines.commands, run), moderngl.BLEND)
            yield
        if not self._moving and self._styles.lined.any() and known(self._model.building):
            if self._crossing is None:
                kept, _ = kept_crossings(self._cut_open, self._styles.lined)
                self._crossing = LooseLines(self._ctx, self._programs, kept - self._model.centre)
            wash, fades = wash_of(self._look, LineKind.EDGE), FADES[LineKind.EDGE] * self._grown
            draw = partial(self._crossing.draw, common, wash, wash.weight * self._millimetre, EDGE_NEARER, fades)
            self._step(sample, draw, moderngl.BLEND)
            yield

    def see_lines_of(self, other: Picture) -> None:
        """Have the edges in sight that are so in the same picture with fewer pixels, whose surfaces were drawn."""
        self._lines_seen = other._lines_seen
        self._coarser = self._window.height / other._window.height

    def hidden_lines(self, sample: SampleTarget, jitter: tuple[float, float]) -> Iterator[None]:
        """Edges behind surfaces, dashed, where the look has them."""
        if not self._look.hidden_lines or self._moving:
            return
        common = self._common(jitter)
        lines = self._lines(self._edges_seen)
        for run in lines.runs:
            self._step(sample, partial(self._behind, common, sample, lines.commands, run), moderngl.BLEND)
            yield

    def _behind(self, common: dict[str, Any], sample: SampleTarget, commands: moderngl.Buffer | None, run: Run) -> None:
        sample.framebuffer.depth_mask = False
        self._ctx.depth_func = ">"
        self._edges(common, commands, run, LineKind.HIDDEN)

    def outlines(self, sample: SampleTarget, jitter: tuple[float, float]) -> Iterator[None]:
        """Draw the lines round what is cut and between its parts."""
        if self._faces:
            common = self._common(jitter)
            self._step(sample, lambda: self._outlines(common), moderngl.BLEND)
            yield

    def travel_lines(self, sample: SampleTarget, jitter: tuple[float, float], lines: NDArray[np.float64]) -> Iterator[None]:
        """Draw (S, 2, 3) thin lines between pieces, where they are shown."""
        if len(lines):
            common = self._common(jitter, self._world)
            loose = LooseLines(self._ctx, self._programs, lines - self._model.centre)
            wash = wash_of(self._look, LineKind.TRAVEL)
            width = max(wash.weight * self._millimetre, 1.0)
            self._step(sample, partial(loose.draw, common, wash, width, EDGE_NEARER), moderngl.BLEND)
            yield

    def soft_ground(self, sample: SampleTarget, jitter: tuple[float, float]) -> Iterator[None]:
        """Draw the darkness under the building."""
        if self._ground is not None:
            common = self._common(jitter)
            self._step(sample, lambda: self._soft_ground(common, sample), moderngl.BLEND)
            yield

    def figures(self, sample: SampleTarget, jitter: tuple[float, float], figures: FigureBuffers) -> Iterator[None]:
        """People and trees, where they are shown, without their lines."""
        common = self._common(jitter, self._world)
        for draw in figures.fills(self._programs, common):
            self._step(sample, draw, moderngl.BLEND)
            yield

    def figure_lines(self, sample: SampleTarget, jitter: tuple[float, float], figures: FigureBuffers) -> Iterator[None]:
        """Draw the strokes and borders of people and trees."""
        common = self._common(jitter, self._world)
        for draw in figures.lines(self._programs, common, self._millimetre):
            self._step(sample, draw, moderngl.BLEND)
            yield

    def glass(self, sample: SampleTarget, jitter: tuple[float, float], picked: Mask | None) -> Iterator[None]:
        """Draw what is seen through."""
        common = self._common(jitter)
        clear = self._glasses(self._glass_seen)
        for run in clear.runs:
            self._step(sample, partial(self._glass, common, sample, clear.commands, run, picked), moderngl.BLEND)
            yield

    def veil(self, sample: SampleTarget, jitter: tuple[float, float], picked: Mask | None) -> Iterator[None]:
        """Ghosts: a veil of paper over what lies behind them, one however many of their faces lie behind one another."""
        common = self._common(jitter)
        runs = self._solids(self._solid_seen | self._clear_seen)
        for blind in (True, False):
            for run in runs.runs:
                self._step(sample, partial(self._veil, common, runs.commands, run, picked, blind), moderngl.BLEND)
                yield

    def _veil(
        self,
        common: dict[str, Any],
        commands: moderngl.Buffer | None,
        run: Run,
        picked: Mask | None,
        blind: bool,
    ) -> None:
        if blind:
            self._ctx.blend_func = moderngl.ZERO, moderngl.ONE  # depth only
        self._surfaces({**common, "veil": (*self._look.paper, VEIL)}, commands, run, picked)

    def dotted(self, sample: SampleTarget, jitter: tuple[float, float]) -> Iterator[None]:
        """Draw the outlines of ghosts, dotted."""
        common = self._common(jitter)
        lines = self._lines(self._edges_seen)
        for run in lines.runs:
            self._step(sample, partial(self._edges, common, lines.commands, run, LineKind.GHOST), moderngl.BLEND)
            yield

    def has_finer_lines(self, times: float) -> None:
        """Be under lines whose pixels are so many times smaller: surfaces need be pushed back by that much less."""
        self._finer = times

    @property
    def _pushed(self) -> float:
        """Pixels' worth of their slope by which surfaces are pushed back, for the sake of lines."""
        if self._finer > 1.0:
            return 1.0 / self._finer
        return max(1.0, 0.65 * self._look.edge_weight * self._millimetre)

    @property
    def _is_large(self) -> bool:
        """Whether it takes many steps: then each is waited for, so that none runs into the next."""
        return len(self._solid_seen) > OCCLUDE_FROM

    def _common(self, jitter: tuple[float, float], viewport: Viewport | None = None) -> dict[str, Any]:
        viewport = viewport or self._viewport
        window, centre = self._window, self._model.centre
        matrix = self._near_centre(viewport.clip_matrix(*self._depth))
        eye = viewport.eye.copy()
        eye[:3] -= eye[3] * centre
        light = viewport.from_camera(TOWARDS_LIGHT)
        return {
            "matrix": matrix.T.astype("f4").tobytes(),
            "depth_row": tuple(self._near_centre(viewport.matrix)[2]),
            "clip_depth": viewport.clip_depth(*self._depth),
            "divisor": viewport.divisor,
            "eye": tuple(eye),
            "window": window.clip(jitter),
            "picture": (float(window.width), float(window.height)),
            # Depth is in metres of the picture, also of what is drawn larger in it.
            "pixel": self._world.pixel,
            "play": self._play,
            "light": tuple(light / np.linalg.norm(light)),
            "up": tuple(viewport.upright()),
            "tones": self._look.tones,
            "tint": PICKED_TINT,
            "veil": (0.0, 0.0, 0.0, 0.0),
            "numbered": float(self._numbered),
            "dotted": 0.0,
            "dash": 0.5,
            "recede": (*self._recede, self._look.recede, 0.0 if self._numbered else self._look.haze),
        }

    def _near_centre(self, matrix: NDArray[np.float64]) -> NDArray[np.float64]:
        """The matrix for places relative to the centre of the building."""
        found = matrix.copy()
        found[:, 3] += matrix[:, :3] @ self._model.centre
        return found

    def _run(self, clip: CellClip, group: int, common: dict[str, Any], what: str, shaders: tuple[str, ...], **more: Any) -> Any:
        program = clip.program(self._programs, group, *shaders)
        set_uniforms(program, **common, **more)
        return self._model.array(what, program)

    def _surfaces(self, common: dict[str, Any], commands: moderngl.Buffer | None, run: Run, picked: Mask | None) -> None:
        self._model.dress(self._styles, picked)  # another picture may have marked others between two steps
        group = run.key // 2
        tables = self._model.use_tables()
        shaders: tuple[str, ...] = ("surface.vert", "surface.frag")
        look, plain = self._look, self._numbered or common["veil"][3] > 0
        fine: dict[str, Any] = {}
        rooms = len(self._styles.rooms.boxes)
        pictured = laid_pictures.wanted(self._styles)
        detailed = not self._moving and (pictured or look.haze or common.get("reflects"))
        if not plain and (rooms or detailed):
            shaders += ("FINE",)
            patterns = self._patterns.use()
            self._rooms.use(4)
            laid = self._shared.cuts.laid.use(self._styles) if pictured else laid_pictures.NONE
            fine = {
                **laid,
                **patterns,
                "rooms": 4,
                "room_count": rooms,
                "pattern_ink": (*look.ink, look.pattern_ink),
                "pattern_line": max(PATTERN_LINE, look.hatch_weight * self._millimetre),
                "haze": (*look.paper, look.haze),
                "sky": (*(look.sky or (1.0, 1.0, 1.0)), look.reflections if common.get("reflects") else 0.0),
            }
        array = self._run(self._clip, group, common, "surfaces", shaders, **tables, **fine)
        array.render_indirect(commands, moderngl.TRIANGLES, count=run.count, first=run.first)
        self._clip.stop(group)

    def _glass(
        self,
        common: dict[str, Any],
        sample: SampleTarget,
        commands: moderngl.Buffer | None,
        run: Run,
        picked: Mask | None,
    ) -> None:
        sample.framebuffer.depth_mask = False
        self._surfaces({**common, "reflects": self._look.reflections}, commands, run, picked)

    def _edges(self, common: dict[str, Any], commands: moderngl.Buffer | None, run: Run, kind: LineKind = LineKind.EDGE) -> None:
        """Edges with their own styles; how thin and light they get with depth is the shader's part."""
        look = self._look
        group, number = divmod(run.key, len(self._styles.line_styles))
        wash = wash_of(look, kind, self._styles.line_styles[number])
        width = wash.weight * self._millimetre
        array = self._run(
            self._edge_clip,
            group,
            {**common, **self._dashes(wash)},
            "lines" if self._moving else "quads",
            ("line.vert", "line.frag", *(("THIN",) if self._moving else ())),
            ink=(*wash.colour, wash.strength * min(1.0, width) if self._moving else wash.strength),
            width=width,
            silhouette=wash_of(look, LineKind.SILHOUETTE).weight / look.edge_weight,
            nearer=EDGE_NEARER,
            fades_under=FADES[kind] * self._grown,
            faintest=0.0 if self._moving or kind == LineKind.GHOST else 0.2,
        )
        mode = moderngl.LINES if self._moving else moderngl.TRIANGLES
        array.render_indirect(commands, mode, count=run.count, first=run.first)
        self._edge_clip.stop(group)

    def _dashes(self, wash: Wash) -> dict[str, float]:
        """What the shader is told of dashes: half of a dash and its gap in pixels, and the share of both that is drawn."""
        dash, gap = wash.dashes or (0.0, 0.0)
        return {"dotted": 0.5 * (dash + gap) * self._millimetre, "dash": dash / (dash + gap) if dash else 0.5}

    def _caps(self, common: dict[str, Any]) -> None:
        """Fill the cut faces turned to the eye; from behind, the parts that are cut hide their own cut faces."""
        program = self._programs.get("cap.vert", "cap.frag", "PLANES 0")
        hatch = wash_of(self._look, LineKind.HATCH)
        own = self._families.use()
        set_uniforms(program, **common, **own, hatch_ink=(*hatch.colour, hatch.strength), hatch_weight=hatch.weight)
        for face in self._faces:
            if face.faces(self._viewport):
                # On paper a millimetre is as many metres as the picture has pixels for it, where the face lies.
                metres = self._viewport.metres_per_pixel(face.middle) * self._millimetre
                u, v = face.plane.axes
                places = self._viewport.pixels(np.stack([face.middle, face.middle + u, face.middle + v])) * [1.0, -1.0]
                level = level_on_paper(places)
                set_uniforms(program, millimetre=metres, level=(math.cos(level), math.sin(level)))
                face.draw_caps(program)

    def _outlines(self, common: dict[str, Any]) -> None:
        """The thin lines of cut faces, and the heavy ones over them."""
        program = self._programs.get("line.vert", "line.frag", "PLANES 0")
        # What is cut does not recede.
        common = {**common, "recede": (*self._recede, 0.0, 0.0)}
        set_uniforms(program, **common, silhouette=1.0, fades_under=0.0, faintest=0.0)
        # Where earth has faded away no edge of its model is left.
        self._ctx.blend_func = moderngl.ONE, moderngl.ZERO
        set_uniforms(program, ink=(0.0, 0.0, 0.0, 0.0), width=self._look.edge_weight * self._millimetre + 2.0)
        for face in self._faces:
            if face.faces(self._viewport):
                set_uniforms(program, nearer=OUTLINE_NEARER * self._coarser)
                face.ends.draw(program, False)
        self._ctx.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        for kind in (LineKind.BETWEEN, LineKind.ROUND):
            wash = wash_of(self._look, kind)
            set_uniforms(program, ink=(*wash.colour, wash.strength), width=max(wash.weight * self._millimetre, 1.0))
            for face in self._faces:
                nearer = OUTLINE_NEARER if face.faces(self._viewport) else OUTLINE_NEARER_FROM_BEHIND
                set_uniforms(program, nearer=nearer * self._coarser)
                (face.thin if kind == LineKind.BETWEEN else face.heavy).draw(program, face.is_flat(self._viewport))

    # Soft ground -----------------------------------------------------------------------------------------------

    def _ground_arrays(self) -> tuple[moderngl.Buffer, moderngl.Buffer] | None:
        building, cut_open, viewport = self._model.building, self._cut_open, self._viewport
        bounds = cut_open.bounds
        level = float(bounds[0][2]) - 0.002 * float(np.linalg.norm(bounds[1] - bounds[0]))
        # From below the ground would only hide the building.
        if viewport.eye[2] - viewport.eye[3] * level < 0.01:
            return None
        places, dark, triangles = ground_mesh(building, cut_open.shown, cut_open.cells, level)
        if not len(triangles):
            return None
        corners = np.zeros(len(places), [("position", "f4", 3), ("darkness", "f4")])
        corners["position"], corners["darkness"] = places - self._model.centre, dark
        return self._ctx.buffer(corners.tobytes()), self._ctx.buffer(triangles.tobytes())

    def _soft_ground(self, common: dict[str, Any], sample: SampleTarget) -> None:
        assert self._ground is not None
        sample.framebuffer.depth_mask = False
        program = self._programs.get("ground.vert", "ground.frag", "PLANES 0")
        set_uniforms(program, **common, ink=self._look.ink)
        corners, triangles = self._ground
        array = self._ctx.vertex_array(program, [(corners, "3f4 1f4", "position", "darkness")], index_buffer=triangles)
        array.render(moderngl.TRIANGLES)
