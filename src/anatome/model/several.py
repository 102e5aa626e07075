"""Several models as one building: each placed, under its own name, with the storeys of the first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import WITHIN, Building, Element
from anatome.model.joining import joined

Array = NDArray[np.float64]
Vector = tuple[float, float, float]
LEVEL = 0.3
"""Metres by which floors of two models may differ and be those of one storey."""
SEPARATOR = "/"
"""Between the id of a model that was added and the ids of its parts."""
RIGID = ("links", "plain_solids", "outward", "element_of_triangle")
"""What is worked out of a building and stays as it is when all of it is moved."""


def placed(more: Building, first: Building, name: str, model: str, shift: NDArray[np.float64], turn: float) -> Building:
    """Return another model as it stands with the ``first``: turned by degrees about its own origin, anticlockwise seen from
    above, then moved by (3,) metres; where both say how far they were brought near, from the same origin.

    Its parts are in a group of its ``name``, their ids begin with that of the ``model``, and they stand in the storey of the
    first that has the level of their own.
    """
    angle = np.radians(turn)
    matrix = np.array([[np.cos(angle), -np.sin(angle), 0.0], [np.sin(angle), np.cos(angle), 0.0], [0.0, 0.0, 1.0]])
    by = np.asarray(shift, float) + between_origins(more, first)
    homes = _storeys(more, first, float(by[2]))

    def named(e: Element) -> Element:
        group = WITHIN.join(part for part in (name, e.group) if part)
        home = None if e.storey is None else homes[e.storey]
        return replace(e, id=f"{model}{SEPARATOR}{e.id}", group=group, storey=home)

    still = not by.any() and turn == 0
    textures = more.textures
    if textures is not None and not still:
        maps = textures.maps.copy()
        maps[:, :, :3] = textures.maps[:, :, :3] @ matrix.T
        maps[:, :, 3] -= maps[:, :, :3] @ by
        textures = replace(textures, maps=maps)
    made = replace(
        more,
        elements=tuple(map(named, more.elements)),
        vertices=more.vertices if still else more.vertices @ matrix.T + by,
        storeys=first.storeys,
        textures=textures,
    )
    kept = more.__dict__.keys() - set(Building.__dataclass_fields__) if still else RIGID
    for word in kept:
        if word in more.__dict__ and word not in ("index_of", "in_storey", "type_counts", "name_rank"):
            made.__dict__[word] = more.__dict__[word]
    return made


def between_origins(more: Building, first: Building) -> NDArray[np.float64]:
    """Return (3,) metres by which another model is moved before anybody places it: where both were brought near, from one
    origin."""
    near = any(more.origin) and any(first.origin)
    return np.array(more.origin) - first.origin if near else np.zeros(3)


def together(first: Building, others: list[Building]) -> Building:
    """Return the first model with others that were :func:`placed` behind it."""
    for more in others:
        first = joined(first, more, keep_storeys=True)
    return first


def _storeys(more: Building, first: Building, up: float) -> list[int | None]:
    """For each storey of a model, that of the first on its level."""
    levels = np.array([s.elevation for s in first.storeys])
    found: list[int | None] = []
    for storey in more.storeys:
        apart = np.abs(levels - storey.elevation - up)
        found.append(int(apart.argmin()) if len(levels) and apart.min() <= LEVEL else None)
    return found


def by_points(shift: Array, turn: float, offset: Array, pairs: Sequence[tuple[Array, Array]]) -> tuple[Vector, float]:
    """Return (the shift in metres, the turn in degrees) with which a point (3,) of a model comes to where it should be, and with
    a second pair of both what leads from point to point runs along what leads from goal to goal, seen from above.

    It stands with a ``shift`` (3,) and a ``turn`` now, and is moved by ``offset`` (3,) besides.
    """
    (start, goal), by = pairs[0], shift + offset
    angle = 0.0
    if len(pairs) > 1:
        way, wanted = np.subtract(pairs[1][0], start), np.subtract(pairs[1][1], goal)
        angle = float(np.degrees(np.arctan2(wanted[1], wanted[0]) - np.arctan2(way[1], way[0])))
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    turned = np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])
    x, y, z = (goal - turned @ (start - by) - offset).tolist()
    return (x, y, z), (turn + angle + 180.0) % 360.0 - 180.0
