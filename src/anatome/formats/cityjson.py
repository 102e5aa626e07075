"""CityJSON (versions 1.0 to 2.0, cityjson.org): buildings of a town and its ground, as objects by their kind."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.formats.mesh_objects import DEFAULT_COLOUR, MeshFile, MeshObject, MeshPiece, triangles_of
from anatome.model.kinds import EARTH_TYPES
from anatome.problems import Problem

LARGEST = 2_000_000_000
GRID = 0.01
"""Metres to which outlines seen from above are rounded."""
TYPES = {"TINRelief": EARTH_TYPES[0]}
COLOURS = {
    "RoofSurface": (0.68, 0.46, 0.38, 1.0),
    "WallSurface": (0.90, 0.88, 0.84, 1.0),
    "GroundSurface": (0.62, 0.60, 0.56, 1.0),
    "Window": (0.62, 0.74, 0.80, 0.45),
    "TINRelief": (0.80, 0.77, 0.70, 1.0),
    "LandUse": (0.78, 0.80, 0.68, 1.0),
    "WaterBody": (0.70, 0.80, 0.86, 1.0),
    "Road": (0.72, 0.71, 0.70, 1.0),
}
DEEP = {"MultiSurface": 0, "CompositeSurface": 0, "Solid": 1, "MultiSolid": 2, "CompositeSolid": 2}
"""How many lists of lists lie round the surfaces of a kind of geometry."""
DEGREES = re.compile(r"(?:EPSG[:/]+(?:\d+/)?)?(4326|4979|4258|4937)$")
"""Reference systems whose coordinates are degrees (EPSG)."""


def is_cityjson(data: Any) -> bool:
    """Return whether content of a JSON file is of this kind."""
    return isinstance(data, dict) and data.get("type") == "CityJSON"


def cityjson_file(path: Path) -> MeshFile:
    """Return the objects of a file, each in its finest geometry, parts in the groups of what they are parts of. Lengths are
    metres and Z is up. Raises Problem when it cannot be read."""
    try:
        if path.stat().st_size > LARGEST:
            raise Problem(f"“{path.name}” is too large. Cut it down to what lies round the building.")
        data = json.loads(path.read_bytes())
    except (ValueError, RecursionError) as error:
        raise Problem(f"“{path.name}” cannot be read as JSON; it may be cut short. Fetch it again.") from error
    if not is_cityjson(data):
        raise Problem(
            f"“{path.name}” is no CityJSON. Footprints in GeoJSON are put round a building that is open: Open the building first."
        )
    system = str((data.get("metadata") or {}).get("referenceSystem", ""))
    if DEGREES.search(system):
        raise Problem(f"The coordinates in “{path.name}” are degrees. Convert it to a system in metres first.")
    try:
        objects = tuple(_City(data).objects())
    except (KeyError, IndexError, TypeError, ValueError) as error:
        raise Problem(f"“{path.name}” is no sound CityJSON: {error!r}. Fetch or export it again.") from error
    if not objects:
        raise Problem(f"“{path.name}” holds no surfaces to draw.")
    return MeshFile(objects, "z", 1.0, ())


@dataclass(frozen=True)
class CityBlock:
    """A building of a town as a block: (n, 2) ``rings`` of its outline and courtyards in metres, from the height of its ``base``
    so many metres ``high``."""

    name: str
    rings: list[NDArray[np.float64]]
    base: float
    high: float


def city_blocks(data: dict[str, Any]) -> list[CityBlock]:
    """Return every building of CityJSON content as blocks of what it and its parts cover seen from above.

    Raises KeyError, IndexError, TypeError or ValueError where the content is not sound.
    """
    faces: dict[str, list[NDArray[np.float64]]] = {}
    for one in _City(data).objects():
        if one.type in ("Building", "Building part"):
            owner = one.groups[0] if one.groups else one.name
            faces.setdefault(owner, []).append(one.vertices[one.faces])
    found = []
    for name, own in faces.items():
        corners = np.concatenate(own)
        seen = shapely.set_precision(shapely.polygons(corners[:, :, :2]), GRID)
        area = shapely.unary_union(seen[shapely.area(seen) > GRID])
        base, top = float(corners[:, :, 2].min()), float(corners[:, :, 2].max())
        for part in shapely.get_parts(area):
            if part.geom_type == "Polygon" and top > base:
                rings = [np.array(ring.coords)[:-1, :2] for ring in (part.exterior, *part.interiors)]
                found.append(CityBlock(name, rings, base, top - base))
    return found


class _City:
    def __init__(self, data: dict[str, Any]) -> None:
        self._things: dict[str, Any] = data["CityObjects"]
        self._vertices = _placed(data["vertices"], data.get("transform"))
        templates = data.get("geometry-templates") or {}
        self._templates = templates.get("templates", [])
        self._template_vertices = _placed(templates.get("vertices-templates", []), None)

    def objects(self) -> Iterator[MeshObject]:
        for name, thing in self._things.items():
            geometries = thing.get("geometry") or []
            if not geometries:
                continue
            finest = max(geometries, key=lambda g: float(g.get("lod", 0) or 0))
            pieces = tuple(self._pieces(finest, str(thing["type"])))
            if pieces:
                yield MeshObject(self._name(name), pieces, self._groups(name), "", self._type(str(thing["type"])), name)

    def _name(self, name: str) -> str:
        told = (self._things[name].get("attributes") or {}).get("name")
        return str(told) if told else name

    @staticmethod
    def _type(kind: str) -> str:
        return TYPES.get(kind, re.sub(r"(?<=[a-z])(?=[A-Z])", " ", kind.removeprefix("+")).capitalize())

    def _groups(self, name: str) -> tuple[str, ...]:
        """The names of what it is a part of, the outermost first."""
        found: list[str] = []
        seen = {name}
        while parents := self._things[name].get("parents"):
            name = str(parents[0])
            if name in seen or name not in self._things:
                break
            seen.add(name)
            found.append(self._name(name))
        return tuple(reversed(found))

    def _pieces(self, geometry: dict[str, Any], kind: str) -> Iterator[MeshPiece]:
        """The surfaces of a geometry, those of one meaning as one piece."""
        vertices = self._vertices
        if geometry["type"] == "GeometryInstance":
            matrix = np.array(geometry["transformationMatrix"], float).reshape(4, 4)
            at = self._vertices[geometry["boundaries"][0]]
            vertices = self._template_vertices @ matrix[:3, :3].T + matrix[:3, 3] + at
            geometry = self._templates[geometry["template"]]
        if geometry["type"] not in DEEP:
            return  # points and lines
        semantics = geometry.get("semantics") or {}
        meanings = [str(surface.get("type", "")) for surface in semantics.get("surfaces", [])]
        surfaces: dict[str, list[Any]] = {}
        both = zip(
            _flat(geometry["boundaries"], DEEP[geometry["type"]]),
            _values(semantics.get("values"), DEEP[geometry["type"]]),
            strict=False,
        )
        for rings, value in both:
            meaning = meanings[value] if isinstance(value, int) and value < len(meanings) else ""
            surfaces.setdefault(meaning, []).append(rings)
        for meaning, own in surfaces.items():
            faces = np.concatenate(
                [np.empty((0, 3), np.int64), *(triangles_of(vertices, [rings[0]], rings[1:]) for rings in own)]
            )
            if len(faces):
                used, numbered = np.unique(faces, return_inverse=True)
                colour = COLOURS.get(meaning, COLOURS.get(kind, DEFAULT_COLOUR))
                words = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", meaning.removeprefix("+")).capitalize()
                yield MeshPiece(vertices[used], numbered.reshape(-1, 3), np.array([colour]), words)


def _placed(vertices: Any, transform: Any) -> NDArray[np.float64]:
    """(n, 3) metres: numbers times the scale, and moved."""
    found = np.array(vertices, float).reshape(-1, 3)
    return found if not transform else found * np.array(transform["scale"], float) + np.array(transform["translate"], float)


def _flat(boundaries: Any, deep: int) -> Iterator[Any]:
    """Surfaces, each as its rings, of shells and solids however deep."""
    if deep == 0:
        yield from boundaries
    else:
        for part in boundaries:
            yield from _flat(part, deep - 1)


def _values(values: Any, deep: int) -> Iterator[Any]:
    """What the surfaces mean, in the same order; nothing for ever where it is not said."""
    while values is None:
        yield None
    if deep == 0:
        yield from values
    else:
        for part in values:
            yield from _values(part, deep - 1) if part is not None else ()
