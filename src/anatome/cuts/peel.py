"""Peel: several parallel planes, each reaching one layer of a build-up, drawn back step by step."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut, SectionPlane
from anatome.cuts.directions import element_axis
from anatome.cuts.plane import Plane
from anatome.cuts.reach import Reach
from anatome.model.building import Building, Element
from anatome.model.raycast import elements_along
from anatome.model.selection import Selection
from anatome.problems import Problem

ABOVE, BELOW = 0.35, 0.5
"""Metres over and under the face of a picked part within which the layers of its build-up lie."""
AROUND, PROBES = 0.7, 48
"""Radius in metres and number of the probes that look into a build-up: its battens and rafters stand apart."""
BUILD_UP_TYPES = (
    "IfcCovering", "IfcMember", "IfcSlab", "IfcRoof", "IfcWall", "IfcWallStandardCase", "IfcPlate", "IfcBeam",
    "IfcBuildingElementProxy", "IfcBuildingElementPart", "IfcCurtainWall",
)  # fmt: skip
LINEAR_TYPES = ("IfcMember", "IfcBeam")


@dataclass(frozen=True)
class BuildUpLayer:
    """What one plane of a peel reaches: ``name`` for people, how many elements, and how far out it lies (metres)."""

    name: str
    what: Selection
    count: int
    out: float


def outward(building: Building, index: int) -> NDArray[np.float64]:
    """Return (3,) the direction in which an element's largest faces look, upwards rather than down, outwards rather than in."""
    start, end = building.triangle_start[index : index + 2]
    a, b, c = np.moveaxis(building.vertices[building.triangles[start:end]], 1, 0)
    doubled = np.cross(b - a, c - a)
    lengths = np.linalg.norm(doubled, axis=1, keepdims=True)
    unit = doubled / np.where(lengths > 0, lengths, 1.0)
    lying = np.abs(unit[:, 2]) > 0.2
    if building.elements[index].type in LINEAR_TYPES and lying.any():
        # The sides of a rafter are larger than its top, but the build-up lies over and under it.
        lengths = np.where(lying[:, None], lengths, 0.0)
    agreeing = np.abs(unit @ unit[np.argsort(-lengths[:, 0])[:24]].T) > 0.999
    normal = unit[np.argsort(-lengths[:, 0])[int(np.argmax((agreeing * lengths).sum(axis=0)))]]
    if abs(normal[2]) > 0.05:
        return np.asarray(normal * np.sign(normal[2]))
    away = building.element_bounds[index].mean(axis=0) - building.bounds.mean(axis=0)
    return np.asarray(normal if normal @ away >= 0 else -normal)


def build_up(
    building: Building, index: int, shown: NDArray[np.bool_], point: NDArray[np.float64] | None = None
) -> list[BuildUpLayer]:
    """Return the layers about a picked element, the outermost first.

    Probes into the build-up round a (3,) ``point`` on it, or round its middle, find what lies over and under it. That
    is grouped by layer, or where the model has no layers by type and material; each group stands for all its like in
    the same storey.
    """
    normal = outward(building, index)
    middle = building.element_bounds[index].mean(axis=0) if point is None else point
    usual = np.array([e.type in BUILD_UP_TYPES for e in building.elements], bool)
    usual[index] = True
    away: dict[str, list[float]] = {}
    storey = building.elements[index].storey
    for place in _disc(middle, normal):
        met = elements_along(building, place + normal * ABOVE, -normal, shown & usual, ABOVE + BELOW)
        for element, distance in met.items():
            if building.elements[element].storey == storey:
                away.setdefault(_group(building.elements[element]), []).append(distance)
    away.setdefault(_group(building.elements[index]), [ABOVE])
    layers = []
    for name, distances in away.items():
        if not name:
            continue
        members = frozenset(
            e.id for i, e in enumerate(building.elements) if shown[i] and e.storey == storey and _group(e) == name
        )
        layers.append(BuildUpLayer(name, Selection(elements=members), len(members), ABOVE - float(np.median(distances))))
    return sorted(layers, key=lambda layer: -layer.out)


def _disc(middle: NDArray[np.float64], normal: NDArray[np.float64]) -> NDArray[np.float64]:
    """(PROBES, 3) points spread evenly round a point, at right angles to a direction (sunflower spiral)."""
    u = np.cross(normal, [1.0, 0.0, 0.0] if abs(normal[0]) < 0.9 else [0.0, 1.0, 0.0])
    u /= np.linalg.norm(u)
    v = np.cross(normal, u)
    k = np.arange(PROBES)
    radius, angle = AROUND * np.sqrt((k + 0.5) / PROBES), k * np.pi * (3 - np.sqrt(5))
    return np.asarray(middle + (radius * np.cos(angle))[:, None] * u + (radius * np.sin(angle))[:, None] * v)


def _group(element: Element) -> str:
    return element.layer or " ".join(filter(None, (element.type, element.material)))


def peel_planes(layers: list[BuildUpLayer], plane: Plane, spacing: float) -> list[tuple[Plane, Reach]]:
    """Return a plane and its reach for each layer: the innermost at ``plane``, each further out ``spacing`` metres behind it.

    Raises Problem when there is nothing to peel or the spacing is not above 0.
    """
    if len(layers) < 2:
        raise Problem("A peel needs at least two layers. Pick a part of a roof or a wall that is made of several.")
    if not spacing > 0:
        raise Problem("The spacing of a peel is a length above 0, for example 0.60 m.")
    steps = range(len(layers) - 1, -1, -1)
    return [(plane.moved(-spacing * step), Reach(mode="only", what=layer.what)) for step, layer in zip(steps, layers)]


def peel_plane(building: Building, index: int) -> Plane:
    """Return where a peel starts if nobody says: across the length of the part, through its middle, looking away from X and
    Y."""
    axis = element_axis(building, index)
    along = axis.along if axis.along @ np.array([1.0, 1.0, 0.0]) >= 0 else -axis.along
    middle = axis.middle
    return Plane((float(middle[0]), float(middle[1]), float(middle[2])), (float(along[0]), float(along[1]), 0.0))


def planes_of(cuts: Iterable[AnyCut], peel: str) -> list[SectionPlane]:
    """Find the planes of a peel, that of the outermost layer first."""
    own = [cut for cut in cuts if isinstance(cut, SectionPlane) and cut.peel == peel]
    return sorted(own, key=lambda cut: cut.plane.offset)


def peeling(cuts: Iterable[AnyCut]) -> list[SectionPlane]:
    """Find the planes of all peels among some cuts, peel after peel, that of the outermost layer first."""
    own = [cut for cut in cuts if isinstance(cut, SectionPlane) and cut.peel]
    return [cut for peel in dict.fromkeys(cut.peel for cut in own) for cut in planes_of(own, peel)]
