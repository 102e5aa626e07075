"""The drawing of a view: its lines with the hidden ones removed, and what is cut as areas, in millimetres on paper."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.deep_earth import with_deep_earth
from anatome.cuts.dissection import CutFace
from anatome.cuts.moves import STAYS, places_through
from anatome.cuts.pieces import Opened, Placed
from anatome.cuts.section import Section
from anatome.cuts.surface import split
from anatome.linework.divided import Side, clipped_layer, put_together, sides
from anatome.linework.drawing import Area, Drawing, Layer, Ring, Strokes
from anatome.linework.feature_lines import BETWEEN, EDGE, GHOST, NOBODY, ROUND, SILHOUETTE, TRAVEL, Lines, both, feature_lines
from anatome.linework.flat_tones import tone_layer
from anatome.linework.hidden import seen_stretches
from anatome.linework.joining import joined
from anatome.linework.occluders import Occluders, hiding_corners, in_picture, occluders
from anatome.linework.one_plane import left_of_stretches
from anatome.look.divide import Divide
from anatome.look.hatches import hatch_lines
from anatome.look.look import DEEPEST, FADES_OVER, UNSAID_PAPER, Look, Rgb
from anatome.look.styles import LineStyle, Styles, resolve
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.site.drawing import OUTLINE_INK, STROKE_INK
from anatome.site.site import Figure
from anatome.site.standing import Standing, standing
from anatome.trace.scene import scene_of
from anatome.view.camera import Camera
from anatome.view.viewport import Frame, Viewport

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]
Told = Callable[[float], bool]

WHOLE = Frame()
BIAS = 2e-6
"""Share of the size of all by which lines are taken to lie nearer, so that the faces they bound do not hide them."""
NOTHING = "There is nothing to draw in this picture. Show something, or move the camera."
BANDS = 5
"""Steps in which lines get thinner and lighter with depth."""
HIDDEN_INK, DASH, GAP = 0.42, 1.6, 1.0
"""Of hidden lines: how strong, and millimetres of a dash and of the gap after it."""
FIGURE, WITHIN = 10, 11
"""Two more kinds of line: outlines of people and trees, and strokes within them."""
INKS = {FIGURE: OUTLINE_INK, WITHIN: STROKE_INK, TRAVEL: 0.6, GHOST: 0.45}
DASHES = {GHOST: (0.5, 0.9)}
"""Of what is hidden and faintly drawn, mm: dotted, as it is in pictures."""
BEYOND = {
    TRAVEL: "Travel lines",
    GHOST: "Ghosts",
    WITHIN: "Within figures",
    FIGURE: "People and trees",
    EDGE: "Edges",
    SILHOUETTE: "Silhouettes",
}


@dataclass(frozen=True, eq=False)
class LineView:
    """What is drawn: what is opened, in a look that is put to work, through a frame, on paper so many millimetres high; beyond a
    ``divide``, if there is one, in its other look, put to work too."""

    camera: Camera
    opened: Opened
    look: Look
    frame: Frame = WHOLE
    figures: tuple[Figure, ...] = ()
    paper: float = UNSAID_PAPER
    divide: Divide | None = None

    def viewport(self) -> Viewport:
        """Of the paper, in millimetres."""
        return Viewport(self.camera, self.frame.sized(self.paper * self.frame.aspect, self.paper))


def view_drawing(
    view: LineView,
    title: str,
    scale: float = 0.0,
    beyond: bool = True,
    hidden: bool = False,
    progress: Told | None = None,
    tones: bool = False,
) -> Drawing:
    """The linework of a view: with what lies ``beyond`` the cut, with ``hidden`` lines dashed, with flat ``tones``, if wanted.

    ``progress`` is told the share done and may return False to stop, which raises Problem; so does a view that shows nothing.
    """
    divide = view.divide
    pair = None if divide is None else sides(divide, view.viewport(), view.opened.cut_open.building)
    if divide is None or pair is None:
        return _drawn(view, title, scale, beyond, hidden, progress, tones)
    made = []
    for number, (look, side) in enumerate(zip((view.look, divide.other), pair)):
        share = None if progress is None else _half(progress, number)
        made.append(_drawn(replace(view, look=look), title, scale, beyond, hidden, share, tones, side))
    if not any(drawing.strokes or drawing.layers for drawing in made):
        raise Problem(NOTHING)
    return put_together(made[0], made[1], divide, view.viewport(), (view.look.paper, divide.other.paper))


def _half(progress: Told, number: int) -> Told:
    """The progress of one of two drawings."""
    return lambda share: progress((number + share) / 2)


def _drawn(
    view: LineView,
    title: str,
    scale: float,
    beyond: bool,
    hidden: bool,
    progress: Told | None,
    tones: bool,
    side: Side | None = None,
) -> Drawing:
    """The drawing in one look, or what of it lies on a side of a divide."""
    work = _Work(view, side)
    lines = feature_lines(view.opened, view.look, work.styles, work.viewport, beyond)
    _go_on(progress, 0.15)
    figures = work.figure_lines() if beyond else lines.some(np.empty(0, np.int64))
    drawn = work.clipped(both(lines, figures))
    if not len(drawn.ends) and not tones and side is None:
        raise Problem(NOTHING)
    _go_on(progress, 0.2)
    hiding = work.hiding()
    _go_on(progress, 0.35)
    flat = work.flat(drawn)
    of, stretch = seen_stretches(flat, hiding, None if progress is None else lambda share: progress(0.35 + 0.5 * share))
    strokes = work.strokes(drawn, flat, of, stretch)
    if hidden or view.look.hidden_lines:
        rest, gaps = left_of_stretches(len(flat), of, stretch)
        strokes = (*work.hidden_strokes(drawn, flat, rest, gaps), *strokes)
    _go_on(progress, 0.9)
    areas, hatches = work.areas(hiding)
    layers = _layers(view.opened.cut_open.building, areas, view.look)
    if tones and beyond:
        scene = scene_of(view.opened, work.styles)
        seen = work.pieces(flat, of, stretch) if view.look.edges and side is None else _all_edges(view)
        blank = _faded(areas, work.viewport.width)
        own = tone_layer(seen, scene, work.viewport, view.look, work.building, work.standing, work.depths[0], blank)
        layers = (own if side is None else work.tones_of_side(own), *layers)
    made = (hatches, *strokes) if hatches.lines else strokes
    size, look = work.viewport, view.look
    paper = look.paper if sum(look.paper) < sum(look.ink) else None
    return Drawing(title, size.width, size.height, scale, 0.0, view.look.ink, layers, made, paper)


def _go_on(progress: Told | None, share: float) -> None:
    if progress is not None and not progress(share):
        raise Problem("The linework was cancelled; nothing was written.")


class _Work:
    """What the steps of one drawing have in common."""

    def __init__(self, view: LineView, side: Side | None = None) -> None:
        self.view, self.viewport, self.side = view, view.viewport(), side
        self.building: Building = view.opened.cut_open.building
        self.styles: Styles = resolve(view.look, self.building)
        self.standing: tuple[Standing, ...] = tuple(standing(view.figures, self.viewport))
        bounds = view.opened.bounds
        reach = 0.1 * (bounds[1] - bounds[0]) + 3.0  # trees stand beyond what is built
        self.depths = self.viewport.depth_range(np.stack([bounds[0] - reach, bounds[1] + reach]))
        self.bias = max(BIAS * float(np.linalg.norm(bounds[1] - bounds[0])), 2e-6)
        depth = self.viewport.flat(np.stack(np.meshgrid(*bounds.T), axis=-1).reshape(-1, 3))[1]
        self.near, self.far = max(float(np.nanmin(depth)), 0.0), float(np.nanmax(depth))

    def hiding(self) -> Occluders:
        """What hides lines."""
        return occluders(self.viewport, hiding_corners(self.view.opened, self.styles, self.standing), self.depths)

    def figure_lines(self) -> Lines:
        """The outlines and strokes of people and trees."""
        found, kinds = [np.empty((0, 2, 3))], [np.empty(0, np.int64)]
        for figure in self.standing:
            for kind, flat in ((WITHIN, figure.drawing.inner), (FIGURE, figure.drawing.borders)):
                found.append(figure.raised(flat))
                kinds.append(np.full(len(flat), kind))
        ends = np.concatenate(found)
        return Lines(ends, np.concatenate(kinds), np.full(len(ends), NOBODY))

    def clipped(self, lines: Lines) -> Lines:
        """What of lines lies in the picture, before the eye, on the side that is drawn."""
        lines = lines if self.side is None else self.side.of(lines)
        rows = lines.ends @ self.viewport.matrix[:, :3].T + self.viewport.matrix[:, 3]
        x, y, depth, w = np.moveaxis(rows, -1, 0)
        low, high = np.zeros(len(x)), np.ones(len(x))
        aside = None if self.side is None else self.side.values(lines.ends)
        for inside in (w + x, w - x, w + y, w - y, depth - self.depths[0], *([] if aside is None else [aside])):
            a, b = inside[:, 0], inside[:, 1]
            with np.errstate(divide="ignore", invalid="ignore"):
                at = a / (a - b)
            low = np.where((a < 0) & (b >= 0), np.maximum(low, at), low)
            high = np.where((a >= 0) & (b < 0), np.minimum(high, at), high)
            high = np.where((a < 0) & (b < 0), -1.0, high)
        kept = high - low > 1e-12
        a, arm = lines.ends[kept, 0], lines.ends[kept, 1] - lines.ends[kept, 0]
        ends = np.stack([a + arm * low[kept, None], a + arm * high[kept, None]], axis=1)
        return Lines(ends, lines.kind[kept], lines.element[kept])

    def flat(self, lines: Lines) -> Array:
        """(n, 6) where the ends of lines are in the picture."""
        return in_picture(self.viewport, lines.ends, self.depths, self.bias).reshape(-1, 6)

    def _on_paper(self, flat: Array) -> Array:
        """(..., 2) millimetres from the lower left of (..., 2) places −1..1."""
        return np.asarray((flat + 1) / 2 * [self.viewport.width, self.viewport.height])

    # Lines -----------------------------------------------------------------------------------------------------

    def pieces(self, flat: Array, of: Numbers, stretch: Array) -> Array:
        """(m, 2, 2) millimetres, the stretches of lines."""
        a, b = self._on_paper(flat[of][:, :2]), self._on_paper(flat[of][:, 3:5])
        return np.stack([a + (b - a) * stretch[:, :1], a + (b - a) * stretch[:, 1:]], axis=1)

    def strokes(self, lines: Lines, flat: Array, of: Numbers, stretch: Array) -> tuple[Strokes, ...]:
        """What is seen, by kind: far lines first, the heavy ones of the cut last."""
        look, styles = self.view.look, self.styles
        ends = self.pieces(flat, of, stretch)
        kind = lines.kind[of]
        depth = self.viewport.flat(lines.ends.mean(axis=1))[1][of]
        away = np.clip((depth - self.near) / max(self.far - self.near, 1e-9), 0.0, 1.0)
        band = np.minimum((away * BANDS).astype(np.int64), BANDS - 1) if look.recede > 0 else np.zeros(len(of), np.int64)
        element = lines.element[of]
        style = np.where(element >= 0, styles.line[element], 0)
        found = []
        for b in range(BANDS - 1, -1, -1):
            for which, name in BEYOND.items():
                for s, own in enumerate(styles.line_styles):
                    chosen = (kind == which) & (band == b) & (style == s)
                    if chosen.any():
                        shown = f"{name}, {_far(b)}" if look.recede > 0 else name
                        shown += f", {s}" if s else ""
                        found.append(self._beyond(shown, which, b, own, ends[chosen]))
        for which, name, weight in ((BETWEEN, "Between parts", look.part_weight), (ROUND, "Round the cut", look.cut_weight)):
            whole, _ = joined(ends[kind == which], np.zeros(int((kind == which).sum()), np.int64))
            found.append(Strokes(name, weight, look.ink, tuple(whole)))
        return tuple(kind for kind in found if len(kind.lines))

    def _beyond(self, name: str, kind: int, band: int, style: LineStyle, ends: Array) -> Strokes:
        look = self.view.look
        away = (band + 0.5) / BANDS if look.recede > 0 else 0.0
        weight = style.weight or look.edge_weight
        weight *= look.silhouette_weight / look.edge_weight if kind == SILHOUETTE else 1.0
        weight *= 1 - 0.5 * look.recede * away
        strength = (1 - 0.4 * look.recede * away) * (1 - min(look.haze * away, 0.92))
        whole, _ = joined(ends, np.zeros(len(ends), np.int64))
        strength *= INKS.get(kind, 1.0)
        return Strokes(
            name, round(weight, 3), _mixed(look.paper, style.colour or look.line_ink, strength), tuple(whole), DASHES.get(kind)
        )

    def hidden_strokes(self, lines: Lines, flat: Array, of: Numbers, stretch: Array) -> tuple[Strokes, ...]:
        """What is not seen of edges, dashed."""
        look = self.view.look
        chosen = lines.kind[of] == EDGE
        whole, _ = joined(self.pieces(flat, of[chosen], stretch[chosen]), np.zeros(int(chosen.sum()), np.int64))
        ink = _mixed(look.paper, look.line_ink, HIDDEN_INK)
        return (Strokes("Hidden lines", round(0.7 * look.edge_weight, 3), ink, tuple(whole), (DASH, GAP)),) if len(whole) else ()

    # Areas -----------------------------------------------------------------------------------------------------

    def areas(self, hiding: Occluders) -> tuple[list[Area], Strokes]:
        """What is cut, as far as it is seen, and its hatches as lines."""
        areas: list[Area] = []
        hatches: list[Ring] = []
        for part in self.view.opened.parts:
            matrix = np.array(part.move)
            viewport = self.viewport.at_home_of(part.move if part.move != STAYS else None)
            for face in part.cut_open.faces:
                if face.cut.poche and (face.free or viewport.faces(face.plane)):
                    self._face(part, face, matrix, hiding, areas, hatches)
        look = self.view.look
        return areas, Strokes("Hatches", look.hatch_weight, look.mixed(look.hatch_ink), tuple(hatches))

    def _face(
        self, part: Placed, face: CutFace, matrix: Array, hiding: Occluders, areas: list[Area], hatches: list[Ring]
    ) -> None:
        look, plane = self.view.look, face.plane
        filled = with_deep_earth(self.building, face.poche, DEEPEST) if look.earth_to_frame else face.poche
        bounds = shapely.box(0.0, 0.0, self.viewport.width, self.viewport.height)

        def on_paper(points: Array) -> Array:
            there = in_picture(self.viewport, places_through(matrix, plane.raised(points)), self.depths)
            return self._on_paper(there[..., :2])

        corners = places_through(matrix, plane.raised(np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]])))
        shapes = shapely.transform(self._on_side(filled, corners), on_paper)
        shapes = shapely.intersection(shapely.make_valid(shapes), bounds)
        shapes = _less_what_hides(shapes, self._nearer_than(corners, shapes, hiding))
        base = plane.flat(self.building.centre)
        middle = places_through(matrix, plane.raised(shapely.get_coordinates(filled.polygons).mean(axis=0)[None]))[0]
        millimetre = self.viewport.metres_per_pixel(middle)
        fades = self._fades(shapes[self.building.earth[filled.element]]) if not plane.is_level else None
        for number, (shape, element) in enumerate(zip(shapes.tolist(), filled.element.tolist())):
            polygons = [p for p in shapely.get_parts(shape).tolist() if p.geom_type == "Polygon" and p.area > 1e-6]
            if not polygons:
                continue
            named = self.building.elements[element]
            rings = tuple(tuple(np.asarray(r.coords) for r in (p.exterior, *p.interiors)) for p in polygons)
            red, green, blue, _ = (self.styles.fill[element] / 255.0).tolist()
            areas.append(Area(named.id, named.name, rings, (red, green, blue), fades if self.building.earth[element] else None))
            hatch = self.styles.hatch_of(element)
            if hatch is not None:
                own = hatch_lines(hatch, filled.polygons[number], millimetre if hatch.unit == "mm" else 1.0, base)
                lines = shapely.linestrings(on_paper(own)) if len(own) else np.empty(0, object)
                for line in shapely.get_parts(shapely.intersection(lines, shapely.multipolygons(polygons))).tolist():
                    if line.geom_type == "LineString" and not line.is_empty:
                        hatches.append(shapely.get_coordinates(line))

    def _on_side(self, filled: Section, corners: Array) -> NDArray[np.object_]:
        """The polygons of a face, in its plane, as far as they are on the side that is drawn; ``corners`` as they are shown."""
        shapes, side = filled.polygons, self.side
        if side is None or not len(shapes):
            return shapes
        if side.elements is not None:
            return np.where(side.elements[filled.element], shapes, shapely.Polygon())
        left, low, right, high = shapely.total_bounds(shapes).tolist()
        half = side.of_plane(corners, (left, low, right, high))
        return shapes if half is None else shapely.intersection(shapes, half)

    def tones_of_side(self, tones: Layer) -> Layer:
        """The flat tones of the side that is drawn. Beyond a depth they are those of the first look."""
        side, divide = self.side, self.view.divide
        if side is None or divide is None:
            return tones
        if side.elements is not None:
            number = {e.id: i for i, e in enumerate(self.building.elements)}
            mine = np.append(side.elements, side.nobodys)
            return replace(tones, areas=tuple(a for a in tones.areas if mine[number.get(a.element_id, -1)]))
        other = self.view.look is divide.other
        if divide.by == "depth":
            return replace(tones, areas=()) if other else tones
        return clipped_layer(tones, divide, self.viewport, other)

    def _fades(self, earth: NDArray[np.object_]) -> tuple[float, float] | None:
        """Between which heights on paper earth fades, if it does in this look."""
        look = self.view.look
        if not look.earth_fades or look.earth_to_frame or not len(earth):
            return None
        low, high = shapely.total_bounds(earth)[[1, 3]].tolist()
        return (low, low + FADES_OVER * (high - low)) if np.isfinite([low, high]).all() else None

    def _nearer_than(self, corners: Array, shapes: NDArray[np.object_], hiding: Occluders) -> NDArray[np.object_]:
        """On paper, what lies before the plane of three places, near some shapes, by as much as lines are taken to lie nearer."""
        p, q, r = in_picture(self.viewport, corners, self.depths, 2 * self.bias)
        normal = np.cross(q - p, r - p)
        left, low, right, high = shapely.total_bounds(shapes) if len(shapes) else (0.0, 0.0, 0.0, 0.0)
        if abs(normal[2]) < 1e-15 or not np.isfinite([left, low, right, high]).all():
            return np.empty(0, object)
        triangles = hiding.corners
        offset = float(normal @ p)
        # Before the plane is where z is less than its.
        above = (triangles @ normal - offset) * np.sign(normal[2]) < -1e-12 * abs(normal[2])
        paper = self._on_paper(triangles[..., :2])
        near = (paper.max(axis=1) > [left, low]).all(axis=1) & (paper.min(axis=1) < [right, high]).all(axis=1)
        chosen = triangles[above.any(axis=1) & near]
        unit = normal / np.linalg.norm(normal) * np.sign(normal[2])
        nearer = split(chosen, unit, float(unit @ p))[1][0]
        made = shapely.polygons(self._on_paper(nearer[..., :2])) if len(nearer) else np.empty(0, object)
        return made[shapely.area(made) > 1e-9] if len(made) else made


def _less_what_hides(shapes: NDArray[np.object_], before: NDArray[np.object_]) -> NDArray[np.object_]:
    if not len(before) or not len(shapes):
        return shapes
    tree = shapely.STRtree(before)
    which, what = tree.query(shapes, predicate="intersects")
    found = shapes.copy()
    for number in np.unique(which).tolist():
        hiding = shapely.union_all(before[what[which == number]], grid_size=1e-5)
        found[number] = shapely.difference(shapes[number], hiding)
    return found


def _all_edges(view: LineView) -> Array:
    """(m, 2, 2) mm, what is seen of the lines of a view whose look draws none beyond the cut: faces end there all the same."""
    work = _Work(replace(view, look=view.look.model_copy(update={"edges": True})))
    lines = feature_lines(view.opened, work.view.look, work.styles, work.viewport)
    drawn = work.clipped(both(lines, work.figure_lines()))
    flat = work.flat(drawn)
    return work.pieces(flat, *seen_stretches(flat, work.hiding()))


def _faded(areas: list[Area], width: float) -> shapely.Geometry:
    """Where earth fades into the paper, and all under it: nothing else is seen there."""
    faded = [area for area in areas if area.fades is not None]
    if not faded:
        return shapely.Polygon()
    shapes = [shapely.Polygon(rings[0], rings[1:]) for area in faded for rings in area.polygons]
    low = max(area.fades[0] for area in faded if area.fades is not None)
    return shapely.union_all([*shapely.make_valid(shapes), shapely.box(0.0, 0.0, width, low)])


def _layers(building: Building, areas: list[Area], look: Look) -> tuple[Layer, ...]:
    """A layer for each type of what is cut, ground and neighbours first."""
    kind = {element.id: element.type for element in building.elements}
    names = sorted({kind[area.element_id] for area in areas})
    names.sort(key=lambda name: look.poche_of(name) == look.poche)
    return tuple(Layer(name, tuple(a for a in areas if kind[a.element_id] == name)) for name in names)


def _far(band: int) -> str:
    return ("near", "less near", "middle", "far", "farthest")[band]


def _mixed(paper: Rgb, ink: Rgb, strength: float) -> Rgb:
    r, g, b = (p + (i - p) * strength for p, i in zip(paper, ink))
    return r, g, b
