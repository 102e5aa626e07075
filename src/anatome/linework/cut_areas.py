"""What is cut as areas on paper, as far as it is seen, with its hatches as lines."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.deep_earth import with_deep_earth
from anatome.cuts.dissection import CutFace
from anatome.cuts.moves import STAYS, places_through
from anatome.cuts.pieces import Placed
from anatome.cuts.section import Section
from anatome.cuts.surface import split
from anatome.linework.drawing import Area, Layer, Line, Ring, Strokes
from anatome.linework.occluders import Occluders, in_picture
from anatome.linework.on_paper import OnPaper
from anatome.linework.patterns import pattern_on_paper, seen_true
from anatome.linework.sorting import Sorting
from anatome.look.hatch_lines import hatch_lines, level_on_paper
from anatome.look.hatches import Hatch
from anatome.look.look import DEEPEST, FADES_OVER, Look, Rgb, hex_of
from anatome.look.pens import LineKind, hatch_wash, name_of
from anatome.model.building import Building
from anatome.model.kinds import CONTEXT_TYPES
from anatome.words import plain_type

Array = NDArray[np.float64]


UNIT_SQUARE = np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0], [1.0, 1.0]])


class CutAreas:
    """Of a view on paper, less what is ``hiding`` them."""

    def __init__(self, on: OnPaper, hiding: Occluders, sorting: Sorting) -> None:
        self._on, self._hiding, self._sorting = on, hiding, sorting

    def drawn(self) -> tuple[list[Area], tuple[Strokes, ...]]:
        """Return what is cut, as far as it is seen, and its hatches as lines: of faces that are seen true apart from others."""
        areas: list[Area] = []
        hatches = HatchLines({}, {})
        for part in self._on.view.opened.parts:
            matrix = np.array(part.move)
            viewport = self._on.viewport.at_home_of(part.move if part.move != STAYS else None)
            for face in part.cut_open.faces:
                filled = face.cut.poche and len(face.poche.polygons) > 0
                if filled and (face.free or viewport.faces(face.plane)):
                    self._face(part, face, matrix, areas, hatches)
        return areas, hatch_strokes(self._on.view.look, hatches, self._sorting)

    def _face(self, part: Placed, face: CutFace, matrix: Array, areas: list[Area], hatches: HatchLines) -> None:
        look, plane = self._on.view.look, face.plane
        filled = with_deep_earth(self._on.building, face.poche, DEEPEST) if look.earth_to_frame else face.poche
        bounds = shapely.box(0.0, 0.0, self._on.viewport.width, self._on.viewport.height)

        def on_paper(points: Array) -> Array:
            there = in_picture(self._on.viewport, places_through(matrix, plane.raised(points)), self._on.depths)
            return self._on.on_paper(there[..., :2])

        corners = places_through(matrix, plane.raised(np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]])))
        shapes = shapely.transform(self._on_side(filled, corners), on_paper)
        shapes = shapely.intersection(shapely.make_valid(shapes), bounds)
        shapes = _less_what_hides(shapes, self._nearer_than(corners, shapes))
        square = on_paper(UNIT_SQUARE)
        is_true, level = seen_true(square), level_on_paper(square)
        base = plane.flat(self._on.building.centre)
        middle = places_through(matrix, plane.raised(shapely.get_coordinates(filled.polygons).mean(axis=0)[None]))[0]
        millimetre = self._on.viewport.metres_per_pixel(middle)
        fades = self._fades(shapes[self._on.building.earth[filled.element]]) if not plane.is_level else None
        for number, (shape, element) in enumerate(zip(shapes.tolist(), filled.element.tolist())):
            polygons = [p for p in shapely.get_parts(shape).tolist() if p.geom_type == "Polygon" and p.area > 1e-6]
            if not polygons:
                continue
            named = self._on.building.elements[element]
            rings = tuple(tuple(np.asarray(r.coords) for r in (p.exterior, *p.interiors)) for p in polygons)
            red, green, blue, _ = (self._on.styles.fill[element] / 255.0).tolist()
            hatch = self._on.styles.hatch_of(element)
            own_fades = fades if self._on.building.earth[element] else None
            area = Area(named.id, named.name, rings, (red, green, blue), own_fades)
            if hatch is not None:
                unit = millimetre if hatch.unit == "mm" else 1.0
                # A tile is no pattern of lines without end.
                as_pattern = is_true and hatch.tile is None
                if as_pattern:
                    pattern = pattern_on_paper(hatch, filled.polygons[number], unit, base, square, millimetre)
                    area = replace(area, pattern=pattern, pattern_of=pattern_name(hatch, self._number(element)))
                own = hatch_lines(hatch, filled.polygons[number], unit, base, millimetre, level)
                lines = shapely.linestrings(on_paper(own)) if len(own) else np.empty(0, object)
                for line in shapely.get_parts(shapely.intersection(lines, shapely.multipolygons(polygons))).tolist():
                    if line.geom_type == "LineString" and not line.is_empty:
                        hatches.add(hatch, as_pattern, shapely.get_coordinates(line), self._number(element))
            areas.append(area)

    def _number(self, element: int) -> int:
        return int(self._sorting.numbers(np.array([element]))[0])

    def _on_side(self, filled: Section, corners: Array) -> NDArray[np.object_]:
        """The polygons of a face, in its plane, as far as they are on the side that is drawn; ``corners`` as they are shown."""
        shapes, side = filled.polygons, self._on.side
        if side is None or not len(shapes):
            return shapes
        if side.elements is not None:
            return np.where(side.elements[filled.element], shapes, shapely.Polygon())
        left, low, right, high = shapely.total_bounds(shapes).tolist()
        half = side.of_plane(corners, (left, low, right, high))
        return shapes if half is None else shapely.intersection(shapes, half)

    def _fades(self, earth: NDArray[np.object_]) -> tuple[float, float] | None:
        """Between which heights on paper earth fades, if it does in this look."""
        look = self._on.view.look
        if not look.earth_fades or look.earth_to_frame or not len(earth):
            return None
        low, high = shapely.total_bounds(earth)[[1, 3]].tolist()
        return (low, low + FADES_OVER * (high - low)) if np.isfinite([low, high]).all() else None

    def _nearer_than(self, corners: Array, shapes: NDArray[np.object_]) -> NDArray[np.object_]:
        """On paper, what lies before the plane of three places, near some shapes, by as much as lines are taken to lie nearer."""
        p, q, r = in_picture(self._on.viewport, corners, self._on.depths, 2 * self._on.bias)
        normal = np.cross(q - p, r - p)
        left, low, right, high = shapely.total_bounds(shapes) if len(shapes) else (0.0, 0.0, 0.0, 0.0)
        if abs(normal[2]) < 1e-15 or not np.isfinite([left, low, right, high]).all():
            return np.empty(0, object)
        triangles = self._hiding.corners
        offset = float(normal @ p)
        # Before the plane is where z is less than its.
        above = (triangles @ normal - offset) * np.sign(normal[2]) < -1e-12 * abs(normal[2])
        paper = self._on.on_paper(triangles[..., :2])
        near = (paper.max(axis=1) > [left, low]).all(axis=1) & (paper.min(axis=1) < [right, high]).all(axis=1)
        chosen = triangles[above.any(axis=1) & near]
        unit = normal / np.linalg.norm(normal) * np.sign(normal[2])
        nearer = split(chosen, unit, float(unit @ p))[1][0]
        made = shapely.polygons(self._on.on_paper(nearer[..., :2])) if len(nearer) else np.empty(0, object)
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


HatchPen = tuple[Rgb | None, float | None, int]
"""The ink and the weight a hatch has of its own, and the number of the layer it is sorted on to."""


@dataclass(frozen=True)
class HatchLines:
    """Lines of hatches by the pen they have of their own: those that are no patterns, and those that are."""

    aslant: dict[HatchPen, list[Ring]]
    true: dict[HatchPen, list[Ring]]

    def add(self, hatch: Hatch, is_pattern: bool, line: Ring, number: int = 0) -> None:
        """Put a line to the others of its pen and layer."""
        (self.true if is_pattern else self.aslant).setdefault((hatch.ink, hatch.weight, number), []).append(line)


def pattern_name(hatch: Hatch, number: int = 0) -> str:
    """Return what areas call the pattern of a hatch, and the strokes that are its lines."""
    return _pattern_name((hatch.ink, hatch.weight, number))


def _pattern_name(pen: HatchPen) -> str:
    ink, weight, number = pen
    return f"{number} {'' if ink is None else hex_of(ink)} {weight or ''}"


def _kind_name(ink: Rgb | None, weight: float | None, is_pattern: bool) -> str:
    own = ("" if ink is None else f", {hex_of(ink)}") + ("" if weight is None else f", {weight:g} mm")
    return name_of(LineKind.HATCH) + own + ("" if is_pattern else ", aslant")


def hatch_strokes(look: Look, hatches: HatchLines, sorting: Sorting | None = None) -> tuple[Strokes, ...]:
    """Return the lines of hatches as strokes, those of one pen and layer together."""
    found: list[Strokes | None] = []
    for lines, is_pattern in ((hatches.aslant, False), (hatches.true, True)):
        for own in sorted(lines, key=lambda own: (own[0] or (), own[1] or 0.0, own[2])):
            ink, weight, number = own
            pen, kind = hatch_wash(look, ink, weight).on(look.paper), _kind_name(ink, weight, is_pattern)
            drawn, patterns = tuple(lines[own]), _pattern_name(own) if is_pattern else ""
            if sorting is None:
                found.append(Strokes(kind, pen, drawn, LineKind.HATCH, patterns))
            else:
                found.append(sorting.strokes(kind, number, pen, drawn, LineKind.HATCH, patterns=patterns))
    return tuple(one for one in found if one is not None)


def faded(areas: list[Area], width: float) -> shapely.Geometry:
    """Return where earth fades into the paper, and all under it: nothing else is seen there."""
    faded = [area for area in areas if area.fades is not None]
    if not faded:
        return shapely.Polygon()
    shapes = [shapely.Polygon(rings[0], rings[1:]) for area in faded for rings in area.polygons]
    low = max(area.fades[0] for area in faded if area.fades is not None)
    return shapely.union_all([*shapely.make_valid(shapes), shapely.box(0.0, 0.0, width, low)])


def layers_of(
    building: Building, areas: Sequence[Area], lines: Sequence[Line] = (), sorting: Sorting | None = None
) -> tuple[Layer, ...]:
    """Return a layer for each kind of what is cut, called as people say it, or as lines are sorted; ground and neighbours first,
    so that what is built lies over them."""
    types = {element.id: element.type for element in building.elements}
    drawn = {area.element_id for area in areas} | {line.element_id for line in lines}
    kind = {element: plain_type(types[element]) for element in drawn}
    if sorting is not None and sorting.by_model:
        places = {element: building.index_of[element] for element in drawn}
        named = {element: sorting.model(int(sorting.numbers(np.array([at]))[0])) for element, at in places.items()}
        kind = {element: sorting.layers.name("Fills", model) for element, model in named.items()}
    classes: dict[str, set[str]] = {}
    for element, name in kind.items():
        classes.setdefault(name, set()).add(types[element])
    names = sorted(classes, key=lambda name: (classes[name].isdisjoint(CONTEXT_TYPES), name))
    return tuple(
        Layer(
            name,
            tuple(area for area in areas if kind[area.element_id] == name),
            tuple(line for line in lines if kind[line.element_id] == name),
            classes=tuple(sorted(classes[name])),
        )
        for name in names
    )
