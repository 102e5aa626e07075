"""The building as a value: elements over shared triangle arrays.

Coordinates are metres, right-handed, Z up, float64 throughout, so a georeferenced model keeps its millimetres.
Triangles of one element are contiguous and never share a vertex with another element, which lets the cutter work
on all elements at once and still keep their outlines apart.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from anatome.model.clusters import Clusters, build_clusters
from anatome.model.display import DisplayMesh, display_mesh
from anatome.model.edges import FeatureEdges, feature_edges
from anatome.model.kinds import CONTEXT_TYPES, EARTH_TYPES
from anatome.model.place import Place
from anatome.model.solids import Links, bodies_meet, enclosed_volumes, link_triangles
from anatome.model.textures import Textures

CLEAR_BELOW = 250
"""Surfaces with an alpha under this, of 255, are drawn as glass."""


@dataclass(frozen=True, slots=True)
class Element:
    """One part of the building: a wall, a rafter, a boat.

    ``id`` is the IFC GlobalId or the node name and is unique within a building; ``storey`` is an index into
    :attr:`Building.storeys`, or None. ``group`` names the groups of its file that it stands in, the outermost first, with
    :data:`WITHIN` between them; ``also`` names those a project puts it into.
    """

    id: str
    name: str
    type: str
    material: str = ""
    layer: str = ""
    storey: int | None = None
    group: str = ""
    also: tuple[str, ...] = ()

    @property
    def groups(self) -> tuple[str, ...]:
        """Every group it stands in: those of the project, and those of its file by their whole paths, the outermost first."""
        return (*self.also, *groups_round(self.group))


WITHIN = " / "


def groups_round(group: str) -> tuple[str, ...]:
    """Return the group and those round it, the outermost first, each by its whole path; none where there is no group.

    >>> groups_round("House / Roof")
    ('House', 'House / Roof')
    """
    names = group.split(WITHIN) if group else []
    return tuple(WITHIN.join(names[: i + 1]) for i in range(len(names)))


@dataclass(frozen=True, slots=True)
class Storey:
    """A storey; ``elevation`` is the height of its floor in metres in model coordinates."""

    id: str
    name: str
    elevation: float


@dataclass(frozen=True, slots=True)
class Space:
    """A room: its name, what it is used for, the box it fills, as ((x, y, z) lower, (x, y, z) upper) in metres, and the m² of its
    floor, where the model does not say them those of the box."""

    id: str
    name: str
    storey: int | None
    lower: tuple[float, float, float]
    upper: tuple[float, float, float]
    use: str = ""
    floor: float | None = None

    @property
    def floor_area(self) -> float:
        """Square metres."""
        (x0, y0, _), (x1, y1, _) = self.lower, self.upper
        return (x1 - x0) * (y1 - y0) if self.floor is None else self.floor


@dataclass(frozen=True, slots=True)
class FailedProduct:
    """A product whose shape could not be made, with the reason in plain words."""

    id: str
    name: str
    type: str
    reason: str


@dataclass(frozen=True, slots=True)
class Unit:
    """The length unit of the file, and how many metres one of it is; ``why`` it was guessed, where the file does not say."""

    name: str = "metre"
    metres: float = 1.0
    why: str = ""


@dataclass(frozen=True, eq=False)
class Building:
    """A whole model, ready to be cut and drawn.

    ``vertices``        (V, 3) float64, metres.
    ``triangles``       (T, 3) int64 indices into ``vertices``, wound anticlockwise seen from outside.
    ``triangle_start``  (E + 1,) int64; triangles of element ``i`` are ``triangle_start[i]:triangle_start[i + 1]``.
    ``triangle_style``  (T,) int64 indices into ``styles``.
    ``styles``          (S, 4) uint8 RGBA surface colours.
    ``textures``        the pictures some styles have.
    ``origin``          where its own lies as the file has it, metres: a model far from its origin is brought near.
    """

    name: str
    elements: tuple[Element, ...]
    vertices: NDArray[np.float64]
    triangles: NDArray[np.int64]
    triangle_start: NDArray[np.int64]
    triangle_style: NDArray[np.int64]
    styles: NDArray[np.uint8]
    storeys: tuple[Storey, ...] = ()
    spaces: tuple[Space, ...] = ()
    unit: Unit = field(default_factory=Unit)
    failed: tuple[FailedProduct, ...] = ()
    remarks: tuple[str, ...] = ()
    place: Place | None = None
    textures: Textures | None = None
    origin: tuple[float, float, float] = (0.0, 0.0, 0.0)

    def otherwise(self, **said: object) -> Building:
        """Return the same geometry of which something else is ``said``: its elements, storeys, spaces or colours. What is derived
        from the geometry stays."""
        found = replace(self, **said)  # type: ignore[arg-type]
        for name in (*DERIVED, "normals", "bounds", "size", "tolerance"):
            if name in self.__dict__:
                found.__dict__[name] = self.__dict__[name]  # where a cached property keeps its value
        return found

    @cached_property
    def element_of_triangle(self) -> NDArray[np.int64]:
        """(T,) the element each triangle belongs to."""
        return np.repeat(np.arange(len(self.elements)), np.diff(self.triangle_start))

    @cached_property
    def bounds(self) -> NDArray[np.float64]:
        """(2, 3) lower and upper corner in metres."""
        return np.stack([self.vertices.min(axis=0), self.vertices.max(axis=0)])

    @cached_property
    def element_bounds(self) -> NDArray[np.float64]:
        """(E, 2, 3) lower and upper corner of every element, metres."""
        corners = self.vertices[self.triangles]
        starts = self.triangle_start[:-1]
        return np.stack(
            [
                np.minimum.reduceat(corners.min(axis=1), starts),
                np.maximum.reduceat(corners.max(axis=1), starts),
            ],
            axis=1,
        )

    @cached_property
    def size(self) -> float:
        """Length of the diagonal of the bounds, metres."""
        return float(np.linalg.norm(self.bounds[1] - self.bounds[0]))

    @cached_property
    def tolerance(self) -> float:
        """Distance in metres below which two points count as one; follows the size of the model."""
        return float(np.clip(self.size * 1e-8, 1e-9, 1e-4))

    # Derived from the geometry: what DERIVED names is worked out where the model is read, and kept with it.

    @cached_property
    def normals(self) -> NDArray[np.float64]:
        """(T, 3) unit normals; zero for triangles without area."""
        corners = self.vertices[self.triangles]
        found = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        lengths = np.linalg.norm(found, axis=1, keepdims=True)
        return np.asarray(found / np.where(lengths > 0, lengths, 1.0))

    @cached_property
    def centre(self) -> NDArray[np.float64]:
        """(3,) a point in the midst of the parts, metres; a few that lie far off do not draw it away."""
        return np.asarray(np.median(self.element_bounds.mean(axis=1), axis=0))

    @cached_property
    def clusters(self) -> Clusters:
        """Index of small groups of neighbouring triangles, for cutting, picking and drawing; clear ones apart."""
        clear = self.styles[self.triangle_style, 3] < CLEAR_BELOW
        return build_clusters(self.vertices, self.triangles, self.element_of_triangle, len(self.elements), clear)

    @cached_property
    def links(self) -> Links:
        """Which triangles meet along their edges, for following a cut from one to the next."""
        return link_triangles(self.triangles, len(self.vertices), self.element_of_triangle, len(self.elements))

    @cached_property
    def plain_solids(self) -> NDArray[np.bool_]:
        """(E,) True for closed elements without bodies that overlap: their signed areas add up to what is filled."""
        least = self.tolerance  # bodies that only touch share no area
        meets = bodies_meet(self.triangles, self.vertices, self.element_of_triangle, len(self.elements), least)
        return self.links.closed & ~meets

    @cached_property
    def outward(self) -> NDArray[np.bool_]:
        """(E,) True for closed elements with all faces turned outwards: their inside is never seen."""
        return self.links.closed & (enclosed_volumes(self.vertices[self.triangles], self.triangle_start) > 0)

    @cached_property
    def feature_edges(self) -> FeatureEdges:
        """The edges worth drawing."""
        return feature_edges(self.vertices, self.triangles, self.normals, self.element_of_triangle, len(self.elements))

    @cached_property
    def display_mesh(self) -> DisplayMesh:
        """The triangles as the graphics card takes them."""
        return display_mesh(
            self.vertices,
            self.triangles,
            self.normals,
            self.element_of_triangle,
            self.triangle_style,
            self.clusters.order,
            self.centre,
        )

    # What the elements are -------------------------------------------------------------------------------------

    @cached_property
    def earth(self) -> NDArray[np.bool_]:
        """(E,) True for ground and water and what grows there rather than building."""
        mask = np.array([e.type in EARTH_TYPES for e in self.elements], bool)
        mask.flags.writeable = False
        return mask

    @cached_property
    def context(self) -> NDArray[np.bool_]:
        """(E,) True for ground, and for neighbours that stand as blocks round the building."""
        mask = np.array([e.type in CONTEXT_TYPES for e in self.elements], bool)
        mask.flags.writeable = False
        return mask

    @cached_property
    def index_of(self) -> dict[str, int]:
        """Element id → element index."""
        return {element.id: i for i, element in enumerate(self.elements)}

    @cached_property
    def type_counts(self) -> dict[str, int]:
        """Element type → how many, most frequent first."""
        return dict(Counter(element.type for element in self.elements).most_common())

    @cached_property
    def name_rank(self) -> NDArray[np.int64]:
        """(E,) the place of each element among all by name."""
        names = [e.name.lower() for e in self.elements]
        rank = np.empty(len(names), np.int64)
        rank[sorted(range(len(names)), key=names.__getitem__)] = np.arange(len(names))
        return rank

    @cached_property
    def space_of(self) -> NDArray[np.int64]:
        """(E,) the smallest space that holds the middle of each element, or −1."""
        found = np.full(len(self.elements), -1)
        middles = self.element_bounds.mean(axis=1)
        sizes = [float(np.prod(np.subtract(s.upper, s.lower))) for s in self.spaces]
        for i in sorted(range(len(sizes)), key=sizes.__getitem__, reverse=True):
            space = self.spaces[i]
            found[((middles >= space.lower) & (middles <= space.upper)).all(axis=1)] = i
        return found

    @cached_property
    def level_turn(self) -> NDArray[np.float64]:
        """(E,) radians within an eighth of a turn: how far from the axes of the model the level edges of each element run, on the
        whole; 0 where they run in no direction."""
        edges = self.feature_edges
        arm = self.vertices[edges.ends[:, 1]] - self.vertices[edges.ends[:, 0]]
        length = np.hypot(arm[:, 0], arm[:, 1])
        level = (np.abs(arm[:, 2]) < 0.05 * length) & (edges.sharp if edges.sharp.any() else True)
        # Four times the angle is the same for all four ways along two axes, so it can be added up.
        four = length[level] * np.exp(4j * np.arctan2(arm[level, 1], arm[level, 0]))
        element, count = edges.element[level], len(self.elements)
        whole = np.bincount(element, four.real, count) + 1j * np.bincount(element, four.imag, count)
        sure = np.abs(whole) > 0.3 * np.bincount(element, length[level], count)
        turn = np.where(sure, np.angle(whole) / 4, 0.0)
        return np.where(np.abs(turn) < 1e-4, 0.0, turn)

    @cached_property
    def uses(self) -> tuple[str, ...]:
        """What spaces are used for, in order."""
        return tuple(sorted({s.use or s.name for s in self.spaces}))

    def room_name(self, space: Space) -> str:
        """Return what a room is called, with its storey where several have its name, and its number where that is not enough."""
        name = space.name or "Room"
        alike = [s for s in self.spaces if (s.name or "Room") == name]
        beside = [s for s in alike if s.storey == space.storey]
        if space.storey is not None and len(beside) < len(alike):
            name = f"{name}, {self.storeys[space.storey].name}"
        return name if len(beside) < 2 else f"{name} {beside.index(space) + 1}"

    @cached_property
    def in_storey(self) -> NDArray[np.bool_]:
        """(E,) True for elements that stand in a storey."""
        return np.array([e.storey is not None for e in self.elements], bool)

    def measures_of(self, element: int) -> tuple[float, float | None]:
        """Return the area of all faces of an element in m², and the volume it encloses in m³, None where it is not closed."""
        start, end = self.triangle_start[element : element + 2]
        corners = self.vertices[self.triangles[start:end]]
        normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        area = float(np.linalg.norm(normals, axis=1).sum() / 2)
        if not self.plain_solids[element]:
            return area, None
        return area, abs(float(enclosed_volumes(corners, np.array([0, len(corners)]))[0]))

    def bounds_of(self, elements: NDArray[np.bool_] | None = None) -> NDArray[np.float64]:
        """Return (2, 3) bounds of the elements in a mask of shape (E,); of everything when None or when none is set."""
        if elements is None or not elements.any():
            return self.bounds
        boxes = self.element_bounds[elements]
        return np.stack([boxes[:, 0].min(axis=0), boxes[:, 1].max(axis=0)])

    def subject_bounds(self, shown: NDArray[np.bool_]) -> NDArray[np.float64]:
        """Return (2, 3) bounds in metres of what a picture of the parts of an (E,) mask is about."""
        part = self.subject(shown)
        return self.bounds_of(part) if part.any() else self.bounds

    def subject(self, shown: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """Return (E,) mask of what a picture is about: of the parts of an (E,) mask those that stand in storeys.

        Where the model has no storeys, all that is shown but ground and neighbours; where that is nothing, all that is shown.
        """
        built = shown & ~self.context
        return next((part for part in (built & self.in_storey, built) if part.any()), shown)


DERIVED = (
    *("element_bounds", "centre", "clusters", "links", "plain_solids", "outward", "feature_edges", "display_mesh"),
    "element_of_triangle",
)
"""Properties of a building that take a while to work out and are stored with it."""
