"""All that a project says of places, carried along: where a model as a whole is larger or lies elsewhere, scenes show what they
showed."""

from __future__ import annotations

from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from anatome.cuts.details import Detail
from anatome.cuts.exploding import ApartGroup
from anatome.cuts.kinds.base import BaseCut
from anatome.cuts.plane import Plane, Vector, vector
from anatome.cuts.series import SerialSections
from anatome.look.divide import Divide
from anatome.model.meaning import GivenSpace, GivenStorey
from anatome.notes.anchors import Anchor
from anatome.site.relief import Relief
from anatome.site.site import Figure, Ground, Neighbour, Neighbours, RoughBody
from anatome.values import mapped
from anatome.view.camera import Camera

V = TypeVar("V", bound=BaseModel)
Array = NDArray[np.float64]


def carried(value: V, shift: Array, factor: float = 1.0) -> V:
    """Return a project, or a value in it, with cuts, cameras, serial sections, dividing lines, what is drawn apart, what is noted
    in the air, given storeys and the site so many times as large about the origin, then moved by (3,) ``shift`` metres. What is
    noted on parts goes along with them by itself; people and trees keep their size. Raises Problem where a cut would end up
    farther off than a model can reach."""
    if not np.any(shift) and factor == 1.0:
        return value

    def there(place: Vector) -> Vector:
        return vector(np.array(place) * factor + shift)

    def own(value: BaseModel) -> dict[str, Any]:
        """What of a value is a place."""
        if isinstance(value, BaseCut):
            shifted = value.scaled(factor).moved(shift)
            return {name: getattr(shifted, name) for name in type(value).model_fields}
        if isinstance(value, Camera):
            return {"eye": there(value.eye), "target": there(value.target)}
        if isinstance(value, SerialSections):
            offsets = tuple(offset * factor for offset in value.offsets)
            return {"plane": Plane(there(value.plane.origin), value.plane.normal), "offsets": offsets}
        if isinstance(value, ApartGroup):
            return {"distance": value.distance * factor}
        if isinstance(value, Detail):
            return {"place": there(value.place)}
        if isinstance(value, Divide):
            line = None if value.line is None else tuple(map(there, value.line))
            return {"line": line, "depth": value.depth * factor}
        if isinstance(value, Anchor) and not value.on:
            return {"place": there(value.place)}
        if isinstance(value, Figure):
            return {"place": there(value.place)}
        if isinstance(value, Ground):
            return {"level": value.level * factor + shift[2]}
        if isinstance(value, Relief):
            west, south = value.west * factor, value.south * factor
            moved = {"east": value.east * factor + shift[0], "north": value.north * factor + shift[1]}
            heights = tuple(height * factor for height in value.heights)
            sized = {"west": west, "south": south, "step": value.step * factor, "heights": heights}
            return {**moved, **sized, "up": value.up * factor + shift[2]}
        if isinstance(value, GivenStorey):
            return {"elevation": value.elevation * factor + shift[2]}
        if isinstance(value, GivenSpace):
            return {"lower": there(value.lower), "upper": there(value.upper), "floor": value.floor * factor**2}
        if isinstance(value, Neighbours):
            return {"east": value.east * factor + shift[0], "north": value.north * factor + shift[1]}
        if isinstance(value, RoughBody):
            rings = tuple(tuple((x * factor + shift[0], y * factor + shift[1]) for x, y in ring) for ring in value.rings)
            return {"rings": rings, "low": value.low * factor + shift[2], "high": value.high * factor + shift[2]}
        if isinstance(value, Neighbour) and value.base is not None:
            return {"base": value.base * factor + shift[2]}
        return {}

    return mapped(value, own)
