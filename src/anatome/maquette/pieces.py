"""A scale model larger than the plate, cut into pieces with pegs and holes that hold them together."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.maquette.settings import MaquetteSettings
from anatome.maquette.thickness import mesh_of, tidy

Array = NDArray[np.float64]
LONG, ROUND_PEG = 2.0, 1.2
"""How many times as long as thick a peg is, half of it in either piece; mm of material round it, at least."""
PEGS = 2
"""In each area in which two pieces meet, at most."""
SIDES = 32
INSIDE = 0.995
"""Share of a peg that lies in the model, at least, for it to be one."""
NEAR = 1e-3
"""Mm either side of another cut where there is no peg."""
AXES = np.eye(3)


@dataclass(frozen=True, eq=False)
class Piece:
    """A ``solid`` in mm where it stands in the model, called by its place: A1, B1, …, the layer over it A1.2."""

    name: str
    solid: manifold3d.Manifold

    @property
    def mesh(self) -> tuple[str, Array, NDArray[np.int64]]:
        """Its name, (n, 3) mm and (m, 3) triangles."""
        return self.name, *mesh_of(self.solid)


def in_pieces(solid: manifold3d.Manifold, how: MaquetteSettings) -> list[Piece]:
    """Return a model in as few pieces as fit on the plate, side by side and one over the other."""
    low, high = np.array(solid.bounding_box()).reshape(2, 3)
    counts = counts_of(high - low, how)
    cuts = [np.linspace(low[axis], high[axis], counts[axis] + 1)[1:-1].tolist() for axis in range(3)]
    found = [("", solid)]
    for axis in range(3):
        parted: list[tuple[str, manifold3d.Manifold]] = []
        for name, one in found:
            rest = one
            for number in range(len(cuts[axis])):
                rest, cut = _parted(rest, axis, number, cuts, how)
                parted.append((f"{name},{number}", cut))
            parted.append((f"{name},{len(cuts[axis])}", rest))
        found = parted
    return [Piece(_called(place, counts[2]), tidy(one)) for place, one in found if not one.is_empty() and one.volume() > 1e-3]


def counts_of(sides: Sequence[float] | Array, how: MaquetteSettings) -> list[int]:
    """Return into how many pieces each of three sides in mm is cut, at most: pegs stand out of all but the last."""
    peg = LONG * how.peg / 2
    return [1 if side <= room + 1e-6 else math.ceil((side - 1e-6) / (room - peg)) for side, room in zip(sides, how.plate)]


def _called(place: str, layers: int) -> str:
    x, y, z = (int(number) for number in place.strip(",").split(","))
    column, letters = x, ""
    while True:
        column, letter = divmod(column, 26)
        letters = chr(ord("A") + letter) + letters
        if column == 0:
            break
        column -= 1
    return f"{letters}{y + 1}" + (f".{z + 1}" if layers > 1 else "")


def _parted(
    solid: manifold3d.Manifold, axis: int, number: int, cuts: list[list[float]], how: MaquetteSettings
) -> tuple[manifold3d.Manifold, manifold3d.Manifold]:
    """(what lies beyond one of the planes across an axis, what lies before it), with pegs on the one that go into the other."""
    place = cuts[axis][number]
    beyond, before = solid.split_by_plane(tuple(AXES[axis]), place)
    if how.peg <= 0 or beyond.is_empty() or before.is_empty():
        return beyond, before
    for spot in _spots(solid, axis, place, cuts, how.peg / 2 + ROUND_PEG):
        peg = _peg(axis, spot, how.peg / 2, LONG * how.peg)
        if (peg ^ solid).volume() < INSIDE * peg.volume():
            continue
        hole = _peg(axis, spot, how.peg / 2 + how.play, LONG * how.peg + 2 * how.play)
        before, beyond = before + peg, beyond - hole
    return beyond, before


def _peg(axis: int, spot: Array, radius: float, long: float) -> manifold3d.Manifold:
    upright = manifold3d.Manifold.cylinder(long, radius, radius, SIDES, True)
    turned = upright.rotate((0.0, 90.0, 0.0)) if axis == 0 else upright.rotate((90.0, 0.0, 0.0)) if axis == 1 else upright
    return turned.translate(tuple(spot.tolist()))


def _spots(solid: manifold3d.Manifold, axis: int, place: float, cuts: list[list[float]], room: float) -> list[Array]:
    """(3,) places in the plane with so much material round them, not in another cut: the roomiest of each area, and of what is
    far from that."""
    # Turned so that the plane is level: cyclic, so that nothing is mirrored.
    order = [(axis + 1) % 3, (axis + 2) % 3, axis]
    turn = np.zeros((3, 4))
    turn[range(3), order] = 1.0
    rings = solid.transform(turn).slice(place).to_polygons()
    area = shapely.Polygon()
    for ring in rings:
        if len(ring) > 2:
            area = shapely.symmetric_difference(area, shapely.make_valid(shapely.Polygon(ring)))
    x0, y0, x1, y1 = area.bounds if not area.is_empty else (0.0, 0.0, 0.0, 0.0)
    strips = [shapely.box(other - NEAR, y0, other + NEAR, y1) for other in cuts[order[0]]]
    strips += [shapely.box(x0, other - NEAR, x1, other + NEAR) for other in cuts[order[1]]]
    area = shapely.difference(area, shapely.union_all(strips))
    spots = []
    for polygon in shapely.get_parts(area).tolist():
        left, rest = PEGS, polygon
        while left and not rest.is_empty and rest.area > math.pi * room**2:
            line = shapely.maximum_inscribed_circle(rest, 0.05)
            centre = shapely.get_coordinates(line)[0]
            if shapely.length(line) < room:
                break
            spot = np.zeros(3)
            spot[order] = [*centre, place]
            spots.append(spot)
            # The second one well away from the first.
            far = shapely.difference(polygon, shapely.Point(centre).buffer(0.35 * math.sqrt(polygon.area) + 3 * room))
            rest = max(shapely.get_parts(far).tolist(), key=lambda part: part.area, default=shapely.Polygon())
            left -= 1
    return spots
