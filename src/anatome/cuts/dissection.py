"""All cuts that are on, applied together: the cut faces to fill, and what is left of every element."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.cells import Cell
from anatome.cuts.clipping import Region, Shapes, passes
from anatome.cuts.contours import GRID, Contours, contours
from anatome.cuts.cut import AnyCut
from anatome.cuts.memory import Memory
from anatome.cuts.plane import Plane
from anatome.cuts.poche import poche
from anatome.cuts.poche_rules import AS_MODELLED, PocheRules
from anatome.cuts.polygons import polygon_parts
from anatome.cuts.section import OpenOutline, Section, reduced, section, within
from anatome.cuts.treatment import ALL_SLICED, BY_CENTRE, KEEP_WHOLE, LEAVE_OUT, SLICE, Treatments
from anatome.model.building import Building
from anatome.model.clusters import Clusters


def shown_elements(building: Building, hidden: Iterable[str]) -> NDArray[np.bool_]:
    """Return (E,) mask of the elements that are not hidden; unknown ids are passed over."""
    mask = np.ones(len(building.elements), bool)
    index = building.index_of
    mask[[index[i] for i in hidden if i in index]] = False
    return mask


@dataclass(frozen=True, eq=False)
class CutFace:
    """One flat face of one cut, with what it slices less what other cuts take away.

    ``name`` says which face of the cut it is; nothing for the face of a section plane. A ``free`` face cuts nothing
    away and shows from both sides; ``outlined`` says whether its outlines are drawn.
    """

    cut: AnyCut
    plane: Plane
    name: str
    section: Section
    building: Building = field(repr=False)
    rules: PocheRules = AS_MODELLED
    free: bool = False
    outlined: bool = True

    @cached_property
    def poche(self) -> Section:
        """What is filled: the section without overlaps, merged by material if the rules say so."""
        return poche(self.building, self.section, self.rules.merge and self.cut.poche)

    @cached_property
    def contours(self) -> Contours:
        """Its lines, by how heavy they are."""
        found = contours(self.building, self.poche)
        return Contours(self.without_seams(found.heavy), self.without_seams(found.thin), self.without_seams(found.ends))

    def without_seams(self, lines: NDArray[np.float64]) -> NDArray[np.float64]:
        """Leave out of lines (n, 2, 3) of the face those along edges over which the cut's surface runs on smoothly."""
        edges = np.array(self.cut.smooth_at).reshape(-1, 2)
        if not len(edges):
            return lines
        # Lines of contours lie on a grid, and so perhaps beside the edge.
        near = np.linalg.norm(lines[:, :, None, :2] - edges, axis=-1) < max(2 * GRID, 10 * self.building.tolerance)
        return np.asarray(lines[~near.all(axis=1).any(axis=1)])

    def built_bounds(self) -> NDArray[np.float64] | None:
        """Return (2, 3) bounds in metres of what is sliced, earth left aside; None where that is nothing."""
        built = self.section.polygons[~self.building.context[self.section.element]]
        if not len(built):
            return None
        left, low, right, high = shapely.total_bounds(built)
        corners = self.plane.raised(np.array([[left, low], [right, low], [right, high], [left, high]]))
        return np.stack([corners.min(axis=0), corners.max(axis=0)])


@dataclass(frozen=True, eq=False)
class Groups:
    """Boxes by the cells that act on them: the ``number`` (n,) of each one's group, −1 where nothing is left, and the
    ``cells`` of each group.
    """

    number: NDArray[np.int64]
    cells: tuple[tuple[Cell, ...], ...]


@dataclass(frozen=True, eq=False)
class CutBuilding:
    """What the cuts make of a building.

    ``shown`` (E,) is True for elements of which something is left, as far as their boxes tell. ``cells`` are all cells
    of all cuts that are on, and ``acting`` (E, C) says which act on which element.
    """

    building: Building
    faces: tuple[CutFace, ...]
    shown: NDArray[np.bool_]
    cells: tuple[Cell, ...]
    acting: NDArray[np.bool_]
    _groups: dict[int, tuple[Clusters, Groups]] = field(default_factory=dict, repr=False)

    def faces_of(self, cut_id: str) -> tuple[CutFace, ...]:
        """Return the faces of one cut."""
        return tuple(f for f in self.faces if f.cut.id == cut_id)

    def removed(self, points: NDArray[np.float64], elements: NDArray[np.int64]) -> NDArray[np.bool_]:
        """Return (n,) True where (n, 3) points on surfaces of elements (n,) are cut away."""
        gone = np.zeros(len(points), bool)
        for i, cell in enumerate(self.cells):
            gone |= self.acting[elements, i] & cell.holds(points, self.building.tolerance)
        return gone

    @cached_property
    def bounds(self) -> NDArray[np.float64]:
        """(2, 3) metres, of all elements of which something is left."""
        return self.building.bounds_of(self.shown)

    def touching(self, element: int) -> tuple[Cell, ...]:
        """Return the cells that act on an element and may take something of it."""
        low, high = self.building.element_bounds[element : element + 1].transpose(1, 0, 2)
        margin = self.building.tolerance
        return tuple(
            cell for cell, acts in zip(self.cells, self.acting[element]) if acts and cell.may_touch_boxes(low, high, margin)[0]
        )

    def groups(self, clusters: Clusters) -> Groups:
        """Return the clusters by the cells they have to be clipped by; of those nothing touches nothing is clipped."""
        kept = self._groups.get(id(clusters))
        if kept is None:
            kept = self._groups[id(clusters)] = clusters, self._grouped(clusters)
        return kept[1]

    def _grouped(self, clusters: Clusters) -> Groups:
        margin = self.building.tolerance
        number = np.where(self.shown[clusters.element], 0, -1)
        if not self.cells:
            return Groups(number, ((),))
        left = np.flatnonzero(number == 0)
        acting = self.acting[clusters.element[left]]
        low, high = clusters.centre[left] - clusters.half[left], clusters.centre[left] + clusters.half[left]
        touched = np.zeros_like(acting)
        gone = np.zeros(len(left), bool)
        for i, cell in enumerate(self.cells):
            near = np.flatnonzero(acting[:, i])
            touched[near, i] = cell.may_touch_boxes(low[near], high[near], margin)
            near = np.flatnonzero(touched[:, i])
            gone[near] |= cell.holds_boxes(low[near], high[near], margin)
        number[left[gone]] = -1
        # Few groups are drawn faster than many: planes go with all they act on, so only whether a cluster is touched at
        # all counts for them. Cells of several planes cost more, so what they do not touch is spared.
        simple = np.array([len(cell.planes) == 1 for cell in self.cells], bool)
        concerned = (touched | (acting & simple & touched.any(axis=1, keepdims=True)))[~gone]
        rows, which = np.unique(np.packbits(concerned, axis=1), axis=0, return_inverse=True)
        number[left[~gone]] = which.ravel()
        flags = np.unpackbits(rows, axis=1, count=len(self.cells)).astype(bool)
        return Groups(number, tuple(tuple(c for c, acts in zip(self.cells, row) if acts) for row in flags))


class Cutter:
    """Cuts one building again and again, and remembers what did not change since."""

    def __init__(self, building: Building) -> None:
        self.building = building
        self._memory = Memory()
        self.keeps = 3
        """Dissections remembered whole: as many as one picture asks for, so that a change of one leaves the others."""
        self._lately: OrderedDict[object, CutBuilding] = OrderedDict()
        self._before: frozenset[Cell] = frozenset()
        self._settled: frozenset[Cell] = frozenset()

    def dissect(
        self,
        cuts: Sequence[AnyCut],
        shown: NDArray[np.bool_],
        treatments: Treatments = ALL_SLICED,
        rules: PocheRules = AS_MODELLED,
        faces: bool = True,
    ) -> CutBuilding:
        """Apply the cuts that are on to the elements of an (E,) mask. Without ``faces`` nothing is sliced and nothing treated."""
        active = tuple(c for c in cuts if c.on)
        key = (active, shown.tobytes(), treatments, rules, faces)
        if key in self._lately:
            self._lately.move_to_end(key)
            return self._lately[key]
        reached = [shown & self.reach_of(cut) for cut in active]
        owner = [number for number, cut in enumerate(active) for _ in cut.cells()]
        cells = tuple(cell for cut in active for cell in cut.cells())
        self._settled, self._before = self._before & set(cells), frozenset(cells)
        acting = np.stack([reached[number] for number in owner], axis=1) if cells else np.zeros((len(shown), 0), bool)

        # By cut and plane: cells of one cut that end in the same plane have one face there.
        faced: dict[tuple[int, Plane], list[Section]] = {}
        for number, cell in enumerate(cells if faces else ()):
            cut = active[owner[number]]
            near = reached[owner[number]] & self._may_have_faces(cut)
            for plane in cell.planes:
                others = tuple(p for p in cell.planes if p is not plane) + cut.face_within(plane)
                found = self._face(plane, others, cell, cells, acting, near, rules)
                if found is not None and (len(found.polygons) or found.open_outlines):
                    faced.setdefault((owner[number], plane), []).append(found)
        made = [
            self.face(active[number], plane, active[number].face_name(plane), self._one(found, plane), rules)
            for (number, plane), found in faced.items()
        ]
        codes = self.codes_of(treatments)
        if codes.any() and made:
            made, shown, acting = self._treat(made, codes, shown, cells, acting)
        low, high = self.building.element_bounds[:, 0], self.building.element_bounds[:, 1]
        left = shown.copy()
        for i, cell in enumerate(cells):
            left &= ~(acting[:, i] & cell.holds_boxes(low, high, self.building.tolerance))
        result = CutBuilding(self.building, tuple(made), left, cells, acting)
        self._lately[key] = result
        while len(self._lately) > self.keeps:
            self._lately.popitem(last=False)
        return result

    def _one(self, found: Sequence[Section], plane: Plane) -> Section:
        """Sections in one plane as one."""
        if len(found) == 1:
            return found[0]
        return self.remember(("one", *map(id, found)), lambda: (found, as_one_plane(found, plane)))[1]

    def _may_have_faces(self, cut: AnyCut) -> NDArray[np.bool_]:
        """(E,) the elements whose boxes reach to where a cut's faces lie."""
        bounds, boxes, margin = cut.face_bounds, self.building.element_bounds, self.building.tolerance
        if bounds is None:
            return np.ones(len(boxes), bool)
        return np.asarray(((boxes[:, 0] <= bounds[1] + margin) & (boxes[:, 1] >= bounds[0] - margin)).all(axis=1))

    def face(
        self, cut: AnyCut, plane: Plane, name: str, found: Section, rules: PocheRules, free: bool = False, outlined: bool = True
    ) -> CutFace:
        """Return a cut face; the same one for the same section, so that its poché is worked out once."""
        key = ("face", cut, plane, name, id(found), rules, free, outlined)
        return self.remember(key, lambda: CutFace(cut, plane, name, found, self.building, rules, free, outlined))

    def free_section(self, plane: Plane, elements: NDArray[np.bool_], rules: PocheRules = AS_MODELLED) -> Section:
        """Return what a plane slices of the elements of an (E,) mask without cutting anything away."""
        return self.remember((plane, elements.tobytes(), rules), lambda: section(self.building, plane, elements, rules))

    def reach_of(self, cut: AnyCut) -> NDArray[np.bool_]:
        """Return (E,) what a cut acts on."""
        return self.remember(("reach", cut.reach), lambda: cut.reach.mask(self.building))

    def codes_of(self, treatments: Treatments) -> NDArray[np.int64]:
        """Return (E,) the treatment of every element."""
        return self.remember(("treatments", treatments), lambda: treatments.codes(self.building))

    def remember(self, key: object, make: Callable[[], Any]) -> Any:
        """Return what was made for this key before, or make it. Where a key holds an id, the value holds the thing itself."""
        return self._memory.remember(key, make)

    def _face(
        self,
        plane: Plane,
        others: tuple[Plane, ...],
        own: Cell,
        cells: tuple[Cell, ...],
        acting: NDArray[np.bool_],
        reached: NDArray[np.bool_],
        rules: PocheRules,
    ) -> Section | None:
        """What a face of a cell slices of the elements its cut reaches, before all ``others``, less what other cells take."""
        margin = self.building.tolerance
        if others:
            # The face of a box ends at its other sides: what lies past them need not be sliced.
            low, high = self.building.element_bounds[:, 0], self.building.element_bounds[:, 1]
            reached = reached & Cell(others).may_touch_boxes(low, high, -margin)
        mask = reached.tobytes()
        raw = self.remember((plane, mask, rules), lambda: section(self.building, plane, reached, rules))
        if others:
            raw = self.remember((plane, others, mask, rules), lambda: within(raw, Cell(others), margin))
        if not len(raw.polygons) and not raw.open_outlines:
            return None
        numbers = np.concatenate([raw.element, np.array([o.element for o in raw.open_outlines], np.int64)])
        rows, which = np.unique(acting[numbers], axis=0, return_inverse=True)
        if len(rows) == 1:
            return self._less(raw, [c for c, acts in zip(cells, rows[0]) if acts and c is not own], margin)
        pieces = []
        for i, row in enumerate(rows):
            members = np.zeros(len(reached), bool)
            members[numbers[which.ravel() == i]] = True
            part = self._chosen(raw, members)
            pieces.append(self._less(part, [c for c, acts in zip(cells, row) if acts and c is not own], margin))
        return self.remember(("joined", *map(id, pieces)), lambda: (pieces, joined(pieces)))[1]

    def _chosen(self, found: Section, elements: NDArray[np.bool_]) -> Section:
        """:func:`chosen`, remembered."""
        return self.remember(("chosen", id(found), elements.tobytes()), lambda: (found, chosen(found, elements)))[1]

    def _less(self, found: Section, cells: Sequence[Cell], margin: float) -> Section:
        """A section without what cells take. The same section comes back as long as nothing that touches it changes."""
        lines = [found.plane.flat(o.points) for o in found.open_outlines]
        shapes = self.remember(("shapes", id(found)), lambda: (found, shapes_of(found, lines)))[1]
        touching = passes(cells, found.plane, shapes, margin)
        if not touching:
            return found
        # Cells that lie where they lay come first, one by one, so that of a drag only the last step is done anew.
        steps = [[pair] for pair in touching if pair[0] in self._settled]
        moving = [pair for pair in touching if pair[0] not in self._settled]
        left = found
        for step in [*steps, moving]:
            if step:
                left = self._less_step(left, step, margin)
        return left

    def _less_step(self, found: Section, step: Sequence[tuple[Cell, Region]], margin: float) -> Section:
        key = ("less", id(found), tuple(cell for cell, _ in step))
        return self.remember(key, lambda: (found, reduced(found, [taken for _, taken in step], margin)))[1]

    def _treat(
        self,
        faces: list[CutFace],
        codes: NDArray[np.int64],
        shown: NDArray[np.bool_],
        cells: Sequence[Cell],
        acting: NDArray[np.bool_],
    ) -> tuple[list[CutFace], NDArray[np.bool_], NDArray[np.bool_]]:
        """Keep whole or leave out the elements that are not to be sliced but would be."""
        crossed = np.zeros(len(shown), bool)
        for face in faces:
            crossed[face.section.element] = True
            crossed[[o.element for o in face.section.open_outlines]] = True
        crossed &= codes != SLICE
        if not crossed.any():
            return faces, shown, acting
        middle = self.building.element_bounds.mean(axis=1)
        before = np.zeros(len(shown), bool)
        for i, cell in enumerate(cells):
            before |= acting[:, i] & cell.holds(middle)
        out = crossed & ((codes == LEAVE_OUT) | ((codes == BY_CENTRE) & before))
        whole = crossed & ((codes == KEEP_WHOLE) | ((codes == BY_CENTRE) & ~before))
        treated = []
        for face in faces:
            if crossed[face.section.element].any() or any(crossed[o.element] for o in face.section.open_outlines):
                kept = self._chosen(face.section, ~crossed)
                face = self.face(face.cut, face.plane, face.name, kept, face.rules)
            treated.append(face)
        return treated, shown & ~out, acting & ~whole[:, None]


def shapes_of(found: Section, lines: Sequence[NDArray[np.float64]]) -> Shapes:
    """Polygons and open lines of a section together."""
    return Shapes.of(np.concatenate([found.polygons, np.array([shapely.LineString(x) for x in lines], object)]))


def chosen(found: Section, elements: NDArray[np.bool_]) -> Section:
    """Return the part of a section that belongs to the elements of an (E,) mask."""
    keep = elements[found.element]
    lines = tuple(o for o in found.open_outlines if elements[o.element])
    gaps = tuple(g for g in found.gaps if elements[g.element])
    return Section(found.plane, found.polygons[keep], found.element[keep], lines, gaps)


def joined(pieces: Sequence[Section]) -> Section:
    """Sections of one plane put together."""
    element = np.concatenate([p.element for p in pieces])
    order = np.argsort(element, kind="stable")
    lines: tuple[OpenOutline, ...] = tuple(o for p in pieces for o in p.open_outlines)
    gaps = tuple(g for p in pieces for g in p.gaps)
    return Section(pieces[0].plane, np.concatenate([p.polygons for p in pieces])[order], element[order], lines, gaps)


def as_one_plane(steps: Sequence[Section], plane: Plane) -> Section:
    """Lay sections of parallel planes over one another, each element in one piece."""
    together = joined(steps)
    polygons, owners = [], []
    for e in np.unique(together.element):
        own = together.polygons[together.element == e]
        # Where steps meet, their outlines differ by rounding only.
        parts = polygon_parts(shapely.union_all(own, grid_size=1e-7) if len(own) > 1 else own[0])
        polygons.append(parts)
        owners.append(np.full(len(parts), e))
    if not polygons:
        return Section(plane, together.polygons, together.element, together.open_outlines, together.gaps)
    return Section(
        plane, np.concatenate(polygons), np.concatenate(owners).astype(np.int64), together.open_outlines, together.gaps
    )
