"""What a note holds on to: a place on a part of the building, told so that it is found again when cut or model have changed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from anatome.cuts.cut import AnyCut
from anatome.cuts.plane import Plane, Vector, vector
from anatome.model.building import Building
from anatome.values import Value

Array = NDArray[np.float64]
LOST = 1e-6
"""Cosine under which an edge runs along a cut and no longer says where it meets it."""


class Anchor(Value):
    """A ``place`` in metres, at home.

    ``on`` is the id of the part, space or storey it belongs to, nothing where it just lies in the air, and ``box`` the box of
    that when the anchor was set: it goes along when the part moves or grows. ``cut`` is the id of the cut in whose face it
    lies, ``face`` which of its faces, and ``along`` the direction in which it goes when that cut moves: an edge of the part.
    ``detail`` is the id of the detail it is written on, nothing where that is the building.
    """

    place: Vector
    on: str = ""
    box: tuple[Vector, Vector] | None = None
    cut: str = ""
    face: str = ""
    along: Vector | None = Field(default=None, description="unit length")
    detail: str = ""


def box_of(building: Building, name: str) -> tuple[Vector, Vector] | None:
    """Return the corners of the box of a part or a space, of a storey its height alone; None if there is none of this id."""
    number = building.index_of.get(name)
    if number is not None:
        low, high = building.element_bounds[number]
        return vector(low), vector(high)
    space = next((s for s in building.spaces if s.id == name), None)
    if space is not None:
        return space.lower, space.upper
    height = next((s.elevation for s in building.storeys if s.id == name), None)
    return None if height is None else ((0.0, 0.0, height), (0.0, 0.0, height))


def anchored(building: Building, place: Array, on: str = "", **cut: object) -> Anchor:
    """Return an anchor at (3,) a place on a part as it is now."""
    return Anchor.model_validate({"place": vector(place), "on": on, "box": box_of(building, on), **cut})


def place_of(anchor: Anchor, building: Building, cuts: Sequence[AnyCut]) -> Array | None:
    """Return (3,) where an anchor is now, at home; None where what it holds on to is gone."""
    place = np.array(anchor.place)
    if anchor.on:
        box = box_of(building, anchor.on)
        if box is None:
            return None
        if anchor.box is not None and box != anchor.box:
            place = _gone_along(place, np.array(anchor.box), np.array(box))
    if anchor.cut:
        plane = face_plane(anchor, cuts)
        if plane is None:
            return None
        place = _on_plane(place, plane, anchor.along)
    return place


def face_plane(anchor: Anchor, cuts: Sequence[AnyCut]) -> Plane | None:
    """Return the face of a cut an anchor lies in, or None if there is no such cut or it is off. Details have cuts of their own,
    which need not be on."""
    cut = next((c for c in cuts if c.id == anchor.cut and (c.on or anchor.detail)), None)
    if cut is None:
        return None
    planes = [plane for cell in cut.cells() for plane in cell.planes]
    return next((plane for plane in planes if cut.face_name(plane) == anchor.face), None)


def _gone_along(place: Array, before: Array, now: Array) -> Array:
    """As far from the nearer side of a box as it was, along each axis."""
    low, high = place - before[0], place - before[1]
    return np.where(np.abs(low) <= np.abs(high), now[0] + low, now[1] + high)


def _on_plane(place: Array, plane: Plane, along: Vector | None) -> Array:
    """Moved along an edge, or straight, to where it meets a plane."""
    way = plane.n if along is None else np.array(along)
    slope = float(way @ plane.n)
    if abs(slope) < LOST:
        way, slope = plane.n, 1.0
    return np.asarray(place - way * (float(plane.distance(place)) / slope))
