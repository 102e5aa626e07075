"""Peel: several parallel planes, each reaching one layer of a build-up, drawn back step by step."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.directions import element_axis
from anatome.cuts.plane import Plane
from anatome.cuts.reach import Reach, Selection
from anatome.model.building import Building, Element
from anatome.problems import Problem

NEAR = 0.45
"""Metres about a picked part within which the layers of its build-up are looked for."""
FLAT = 0.6
"""Metres a part may reach along the build-up and still count as one of its layers."""
BUILD_UP_TYPES = (
    "IfcCovering", "IfcMember", "IfcSlab", "IfcRoof", "IfcWall", "IfcWallStandardCase", "IfcPlate", "IfcBeam",
    "IfcBuildingElementProxy", "IfcBuildingElementPart", "IfcCurtainWall",
)  # fmt: skip


@dataclass(frozen=True)
class BuildUpLayer:
    """What one plane of a peel reaches: ``name`` for people, how many elements, and how far out it lies (metres)."""

    name: str
    what: Selection
    count: int
    out: float


def outward(building: Building, index: int) -> NDArray[np.float64]:
    """(3,) the direction in which an element's largest faces look, upwards rather than down, outwards rather than in."""
    start, end = building.triangle_start[index : index + 2]
    a, b, c = np.moveaxis(building.vertices[building.triangles[start:end]], 1, 0)
    doubled = np.cross(b - a, c - a)
    lengths = np.linalg.norm(doubled, axis=1, keepdims=True)
    unit = doubled / np.where(lengths > 0, lengths, 1.0)
    agreeing = np.abs(unit @ unit[np.argsort(-lengths[:, 0])[:24]].T) > 0.999
    normal = unit[np.argsort(-lengths[:, 0])[int(np.argmax((agreeing * lengths).sum(axis=0)))]]
    if abs(normal[2]) > 0.05:
        return np.asarray(normal * np.sign(normal[2]))
    away = building.element_bounds[index].mean(axis=0) - building.bounds.mean(axis=0)
    return np.asarray(normal if normal @ away >= 0 else -normal)


def build_up(building: Building, index: int, shown: NDArray[np.bool_]) -> list[BuildUpLayer]:
    """The layers about a picked element, the outermost first.

    What lies close to it, and flat along it, is grouped by layer, or where the model has no layers by type and
    material; each group stands for all its like in the same storey.
    """
    normal = outward(building, index)
    bounds, box = building.element_bounds, building.element_bounds[index]
    near = ((bounds[:, 0] <= box[1] + NEAR) & (bounds[:, 1] >= box[0] - NEAR)).all(axis=1) & shown
    along = building.vertices[building.triangles.ravel()] @ normal - box.mean(axis=0) @ normal
    starts = 3 * building.triangle_start[:-1]
    low, high = np.minimum.reduceat(along, starts), np.maximum.reduceat(along, starts)
    middle = (low + high) / 2
    near &= (high - low < FLAT) & (np.abs(middle - middle[index]) < NEAR)
    near[index] = True
    storey = building.elements[index].storey
    names = [_group(element) if element.storey == storey else "" for element in building.elements]
    usual = np.array([e.type in BUILD_UP_TYPES for e in building.elements], bool)
    layers = []
    for name in sorted({names[i] for i in np.flatnonzero(near & usual)} - {""}):
        members = [i for i, own in enumerate(names) if own == name]
        out = float(np.median([middle[i] for i in members if near[i]]))
        shown_members = frozenset(building.elements[i].id for i in members if shown[i])
        layers.append(BuildUpLayer(name, Selection(elements=shown_members), len(shown_members), out))
    return sorted(layers, key=lambda layer: -layer.out)


def _group(element: Element) -> str:
    return element.layer or " ".join(filter(None, (element.type, element.material)))


def peel_planes(layers: list[BuildUpLayer], plane: Plane, spacing: float) -> list[tuple[Plane, Reach]]:
    """A plane and its reach for each layer: the innermost at ``plane``, each further out ``spacing`` metres behind it.

    Raises Problem when there is nothing to peel or the spacing is not above 0.
    """
    if len(layers) < 2:
        raise Problem("A peel needs at least two layers. Pick a part of a roof or a wall that is made of several.")
    if not spacing > 0:
        raise Problem("The spacing of a peel is a length above 0, for example 0.60 m.")
    steps = range(len(layers) - 1, -1, -1)
    return [(plane.moved(-spacing * step), Reach(mode="only", what=layer.what)) for step, layer in zip(steps, layers)]


def peel_plane(building: Building, index: int) -> Plane:
    """Where a peel starts if nobody says: across the length of the part, through its middle, looking away from X and Y."""
    axis = element_axis(building, index)
    along = axis.along if axis.along @ np.array([1.0, 1.0, 0.0]) >= 0 else -axis.along
    middle = axis.middle
    return Plane((float(middle[0]), float(middle[1]), float(middle[2])), (float(along[0]), float(along[1]), 0.0))
