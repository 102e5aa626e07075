"""Cutting files for models built of layers: outlines at a thickness of material, nested on sheets, with what is engraved."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.plane import Plane, vector
from anatome.cuts.section import section
from anatome.linework.drawing import Drawing, Ring, Strokes
from anatome.look.look import Rgb
from anatome.look.pens import Pen
from anatome.model.building import Building
from anatome.notes.letter_lines import letter_lines
from anatome.notes.lettering import width
from anatome.problems import Problem

Array = NDArray[np.float64]
HAIRLINE = 0.01
"""Mm: what laser cutters take for a line to cut (common practice)."""
CUT: Rgb = (1.0, 0.0, 0.0)
ENGRAVE: Rgb = (0.0, 0.0, 1.0)
"""Red is cut, blue is engraved (common practice)."""
LEAST = 2.0
"""Mm that a part is wide, at least: what is thinner breaks, and is left out and told."""
MOST_LAYERS = 400
LABEL = 4.0
"""Mm that capitals of a label are high, where there is room."""
READABLE = 1.0
AWAY = 1.5
"""Mm that a hole for a dowel stays from an edge."""


@dataclass(frozen=True)
class LayerSettings:
    """How a model is built: the 200 of 1:200, mm of material, mm of a sheet of it and of the gap between parts; with the outline
    of the next layer engraved on each, and holes of so many mm for dowels, if wanted; only the outermost outlines if not
    ``hollow``."""

    scale: float = 200.0
    thickness: float = 3.0
    sheet: tuple[float, float] = (600.0, 400.0)
    gap: float = 3.0
    next_outline: bool = True
    dowel: float = 0.0
    hollow: bool = True

    @property
    def spacing(self) -> float:
        """Metres of the model a layer is thick."""
        return self.thickness * self.scale / 1000.0

    def check(self) -> None:
        """Raises Problem for what cannot be built."""
        if not (math.isfinite(self.scale) and self.scale > 0):
            raise Problem("A scale is a number above 0, for example 200 for 1:200.")
        if not 0.1 <= self.thickness <= 200:
            raise Problem("Material is from 0.1 mm to 200 mm thick.")
        if not all(20 <= side <= 10_000 for side in self.sheet):
            raise Problem("A sheet of material is from 20 mm to 10 m long.")
        if not (0 <= self.gap <= 100 and 0 <= self.dowel <= 50):
            raise Problem("The gap between parts is at most 100 mm, a dowel at most 50 mm thick.")


@dataclass(frozen=True, eq=False)
class LayerPart:
    """One piece of material: its ``label``, its ``shape`` in mm with holes, and (n, 2) lines that are engraved on it."""

    label: str
    shape: shapely.Polygon
    engraved: tuple[Ring, ...]


@dataclass(frozen=True, eq=False)
class CuttingFiles:
    """A drawing for each sheet of material, how many ``layers`` and ``parts`` there are, and in words what was ``left_out``."""

    drawings: tuple[Drawing, ...]
    layers: int
    parts: tuple[LayerPart, ...]
    left_out: tuple[str, ...]


def cutting_files(
    building: Building,
    elements: NDArray[np.bool_],
    normal: tuple[float, float, float],
    how: LayerSettings,
    title: str = "",
    progress: Callable[[float], bool] | None = None,
) -> CuttingFiles:
    """Slice the elements of an (E,) mask across a direction, the first layer lowest along it, and nest what that gives.

    Raises Problem for what cannot be built, where a part is larger than a sheet, or when it is cancelled.
    """
    how.check()
    if not elements.any():
        raise Problem("There is nothing to build of layers. Show or pick some parts first.")
    shapes = _layers(building, elements, normal, how, progress)
    found, left_out = _parts(shapes, how)
    if not found:
        raise Problem(f"At 1:{how.scale:g} nothing of it is {LEAST:g} mm wide. Choose a larger scale.")
    drawings = _nested(found, how, title)
    return CuttingFiles(drawings, len(shapes), tuple(found), tuple(left_out))


def _layers(
    building: Building,
    elements: NDArray[np.bool_],
    normal: tuple[float, float, float],
    how: LayerSettings,
    progress: Callable[[float], bool] | None,
) -> list[shapely.Geometry]:
    """What each layer is, in mm; cut in the middle of its thickness, so that as much is too much as is missing."""
    way = np.array(normal) / np.linalg.norm(normal)
    reach = building.vertices[building.triangles[elements[building.element_of_triangle]]].reshape(-1, 3) @ way
    low, high = float(reach.min()), float(reach.max())
    count = max(math.ceil((high - low) / how.spacing - 1e-6), 1)
    if count > MOST_LAYERS:
        raise Problem(f"That would be {count} layers; {MOST_LAYERS} is the most. Choose thicker material or a smaller scale.")
    found = []
    for number in range(count):
        at = low + (number + 0.5) * how.spacing
        plane = Plane(vector(way * min(at, high - 1e-6)), vector(way))
        cut = section(building, plane, elements)
        whole = shapely.union_all(shapely.make_valid(cut.polygons), grid_size=1e-5)
        mm = shapely.transform(whole, lambda points: points * 1000.0 / how.scale)
        found.append(shapely.simplify(mm if how.hollow else _filled(mm), 0.01))
        if progress is not None and not progress(0.8 * (number + 1) / count):
            raise Problem("The cutting files were cancelled; nothing was written.")
    return found


def _filled(shape: shapely.Geometry) -> shapely.Geometry:
    parts = [p for p in shapely.get_parts(shape).tolist() if p.geom_type == "Polygon"]
    return shapely.union_all([shapely.Polygon(p.exterior) for p in parts])


def _parts(shapes: Sequence[shapely.Geometry], how: LayerSettings) -> tuple[list[LayerPart], list[str]]:
    """The pieces of all layers with what is engraved on them; and what is too thin, in words."""
    found: list[LayerPart] = []
    thin = unlabelled = 0
    holes = _dowels(shapes, how)
    for number, shape in enumerate(shapes):
        pieces = [p for p in shapely.get_parts(shape).tolist() if p.geom_type == "Polygon" and p.area > 0]
        kept = [p for p in pieces if not shapely.is_empty(shapely.buffer(p, -LEAST / 2))]
        thin += len(pieces) - len(kept)
        kept.sort(key=lambda p: -p.area)
        above = shapes[number + 1] if how.next_outline and number + 1 < len(shapes) else None
        for place, piece in enumerate(kept):
            label = f"{number + 1}" if len(kept) == 1 else f"{number + 1}.{place + 1}"
            engraved: list[Ring] = []
            if above is not None:
                lines = shapely.intersection(shapely.boundary(above), shapely.buffer(piece, -0.05))
                merged = shapely.line_merge(lines) if not shapely.is_empty(lines) else lines
                engraved += [shapely.get_coordinates(p) for p in shapely.get_parts(merged).tolist() if p.length > 0.5]
            words = _label(piece, label)
            unlabelled += not words
            engraved += words
            cut = shapely.difference(piece, holes[number]) if holes else piece
            for own in (p for p in shapely.get_parts(cut).tolist() if p.geom_type == "Polygon"):
                found.append(LayerPart(label, own, tuple(engraved)))
    told = []
    if thin:
        told.append(f"{thin} pieces thinner than {LEAST:g} mm")
    if unlabelled:
        told.append(f"the labels of {unlabelled} small pieces")
    return found, told


def _label(piece: shapely.Polygon, label: str) -> list[Ring]:
    """A label in the widest place of a piece, as lines; nothing where it could not be read."""
    line = shapely.maximum_inscribed_circle(piece)
    points = shapely.get_coordinates(line)
    radius = float(np.linalg.norm(points[-1] - points[0]))
    long = width(label)
    height = min(LABEL, 1.7 * radius / math.hypot(long, 1.0))
    if height < READABLE:
        return []
    return letter_lines(label, points[0] - [long * height / 2, height / 2], height)


def _dowels(shapes: Sequence[shapely.Geometry], how: LayerSettings) -> list[shapely.Geometry]:
    """Round holes for each layer, through it and the next at the same place: where the last ones were, if there is room."""
    if how.dowel <= 0:
        return []
    room = how.dowel / 2 + AWAY
    holes: list[list[Array]] = [[] for _ in shapes]
    for number in range(len(shapes) - 1):
        common = shapely.intersection(shapes[number], shapes[number + 1])
        for piece in (p for p in shapely.get_parts(common).tolist() if p.geom_type == "Polygon"):
            inner = shapely.buffer(piece, -room)
            if shapely.is_empty(inner):
                continue
            spots = [h for h in holes[number] if shapely.intersects(inner, shapely.Point(h))]
            if not spots:
                # As far apart as the piece allows, so that it does not turn.
                ends = shapely.get_coordinates(shapely.oriented_envelope(inner))
                if len(ends) >= 4:
                    middles = (ends[0] + ends[1]) / 2, (ends[2] + ends[3]) / 2
                    sides = (ends[1] + ends[2]) / 2, (ends[3] + ends[0]) / 2
                    far = max((middles, sides), key=lambda p: float(np.linalg.norm(p[0] - p[1])))
                else:
                    far = (ends[0], ends[-1])
                near = [shapely.get_coordinates(shapely.shortest_line(inner, shapely.Point(e)))[0] for e in far]
                spots = near if np.linalg.norm(near[0] - near[1]) > 3 * how.dowel else near[:1]
            for spot in spots:
                for layer in (number, number + 1):
                    if not any(np.linalg.norm(spot - h) < 1e-6 for h in holes[layer]):
                        holes[layer].append(spot)
    return [shapely.union_all([shapely.buffer(shapely.Point(h), how.dowel / 2, quad_segs=16) for h in own]) for own in holes]


# Nesting ------------------------------------------------------------------------------------------------------

FINE = 100
"""Parts of a mm in which boxes are packed: the packer counts in whole numbers."""


def _nested(parts: Sequence[LayerPart], how: LayerSettings, title: str) -> tuple[Drawing, ...]:
    """All parts on as few sheets as the packer finds, each by its box, turned by a right angle where that is better."""
    import rectpack

    wide, high = how.sheet
    gap = how.gap
    packer = rectpack.newPacker(rotation=True)
    boxes = np.array([p.shape.bounds for p in parts])
    sizes = boxes[:, 2:] - boxes[:, :2]
    fits = (sizes.max(axis=1) <= max(wide, high) - 2 * gap) & (sizes.min(axis=1) <= min(wide, high) - 2 * gap)
    if not fits.all():
        worst = parts[int(np.argmin(fits))]
        size = sizes[int(np.argmin(fits))]
        raise Problem(
            f"Layer {worst.label} is {size[0]:.0f} × {size[1]:.0f} mm and does not fit on a sheet of {wide:g} × {high:g} mm. "
            "Choose a smaller scale or larger sheets."
        )
    for number, (x, y) in enumerate(sizes.tolist()):
        packer.add_rect(math.ceil((x + gap) * FINE), math.ceil((y + gap) * FINE), number)
    packer.add_bin(math.floor((wide - gap) * FINE), math.floor((high - gap) * FINE), float("inf"))
    packer.pack()
    sheets: dict[int, tuple[list[Ring], list[Ring]]] = {}
    for sheet, x, y, w, _, number in packer.rect_list():
        part, box = parts[number], boxes[number]
        turned = abs(w - math.ceil((sizes[number, 0] + gap) * FINE)) > 1
        cut, engraved = sheets.setdefault(sheet, ([], []))
        for lines, into in ((_rings(part.shape), cut), (part.engraved, engraved)):
            for line in lines:
                flat = line - box[:2]
                if turned:  # a quarter anticlockwise, and back into its place
                    flat = np.stack([sizes[number, 1] - flat[:, 1], flat[:, 0]], axis=1)
                into.append(flat + [x / FINE + gap, y / FINE + gap])
    drawings = []
    for sheet in sorted(sheets):
        cut, engraved = sheets[sheet]
        strokes = [Strokes("Engrave", Pen(HAIRLINE, ENGRAVE), tuple(engraved))] if engraved else []
        strokes.append(Strokes("Cut", Pen(HAIRLINE, CUT), tuple(cut)))
        name = f"{title}, sheet {sheet + 1} of {len(sheets)}".removeprefix(", ")
        drawings.append(Drawing(name, wide, high, how.scale, 0.0, (0.0, 0.0, 0.0), (), tuple(strokes)))
    return tuple(drawings)


def _rings(shape: shapely.Polygon) -> list[Ring]:
    return [shapely.get_coordinates(ring) for ring in (shape.exterior, *shape.interiors)]
