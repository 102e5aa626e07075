"""Footprints of buildings from GeoJSON (RFC 7946), and buildings of CityJSON, as blocks round a model.

Coordinates are degrees of longitude and latitude, as the standard has them, or metres, as many files for building have them.
"""

from __future__ import annotations

import json
import math
import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import ValidationError

from anatome.formats.cityjson import city_blocks, is_cityjson
from anatome.problems import Problem
from anatome.site.site import MOST_NEIGHBOURS, TALLEST, Neighbour, Neighbours

Unit = Literal["degrees", "metres"]
LARGEST = 200_000_000
STOREY = 3.2
"""Metres a storey is taken for where a file counts them."""
HEIGHTS = ("height", "building:height", "building_height", "measuredheight", "h")
LEVELS = ("building:levels", "levels", "storeys", "floors")
NAMES = ("name", "addr:housename", "id")
FEET = 0.3048
LONGEST = 0.05
"""Degrees a footprint is long, at most."""
EQUATOR, SQUARED_ECCENTRICITY = 6_378_137.0, 0.006_694_379_990_14
"""Of the WGS 84 ellipsoid: metres, and e²."""


@dataclass(frozen=True)
class Footprints:
    """What a file holds: its ``neighbours``, with the middle of all of them at the origin if they were degrees; the ``unit`` of
    its coordinates; how many had no height and how many shapes were passed over; where (longitude, latitude) the origin is."""

    neighbours: Neighbours
    unit: Unit
    without_height: int
    passed_over: int
    origin: tuple[float, float] | None


def read_footprints(path: Path, unit: Unit | None = None, height: float = 9.0) -> Footprints:
    """Read all polygons of a file. Without a ``unit`` it is found out; what says no height gets ``height`` metres.

    Raises Problem when the file cannot be read or holds no polygon.
    """
    data = _content(path)
    if is_cityjson(data):
        return _of_a_city(data, path)
    shapes = list(_polygons(data, {}, path.name, 0))
    kept = [(found, about) for rings, about in shapes if (found := _rings(rings)) is not None]
    passed_over = len(shapes) - len(kept) + sum(1 for _ in _others(data, 0))
    if not kept:
        raise Problem(
            f"“{path.name}” holds no areas. Footprints are wanted: GeoJSON with polygons, each with its “height” in metres."
        )
    if len(kept) > MOST_NEIGHBOURS:
        raise Problem(f"“{path.name}” holds {len(kept):,} footprints. Cut it down to those nearby, at most {MOST_NEIGHBOURS:,}.")
    unit = unit or ("degrees" if _are_degrees([rings for rings, _ in kept]) else "metres")
    if unit == "degrees" and not all(_on_earth(ring) for rings, _ in kept for ring in rings):
        raise Problem(f"The coordinates in “{path.name}” cannot be degrees: they go beyond 180 and 90. Say that they are metres.")
    if unit == "degrees":
        # Round the earth the short way, so that what lies on either side of the antimeridian lies together.
        first = kept[0][0][0][0, 0]
        kept = [([_unwrapped(ring, first) for ring in rings], about) for rings, about in kept]
    everything = np.concatenate([ring for rings, _ in kept for ring in rings])
    middle = (everything.min(axis=0) + everything.max(axis=0)) / 2
    if unit == "degrees" and abs(middle[1]) > 89:
        raise Problem(f"“{path.name}” lies at a pole, where north is no direction. Convert it to metres first.")
    without = 0
    blocks = []
    for number, (rings, about) in enumerate(kept):
        own = _height(about)
        without += own is None
        placed = [local_metres(ring, middle) for ring in rings] if unit == "degrees" else rings
        try:
            blocks.append(
                Neighbour(
                    id=f"{number + 1}",
                    name=_name(about),
                    rings=tuple(tuple((float(x), float(y)) for x, y in ring) for ring in placed),
                    height=own or height,
                )
            )
        except ValidationError as error:
            raise Problem(
                f"Footprint {number + 1} in “{path.name}” lies too far away to be meant: {error.errors()[0]['msg']}."
            ) from error
    origin = ((float(middle[0]) + 180) % 360 - 180, float(middle[1])) if unit == "degrees" else None
    return Footprints(Neighbours(name=path.name, blocks=tuple(blocks)), unit, without, passed_over, origin)


def _of_a_city(data: Any, path: Path) -> Footprints:
    """The buildings of CityJSON, which has metres and heights."""
    try:
        found = city_blocks(data)
        blocks = tuple(
            Neighbour(
                id=f"{number + 1}",
                name=block.name[:500],
                rings=tuple(tuple((float(x), float(y)) for x, y in ring) for ring in block.rings),
                base=block.base,
                height=min(block.high, TALLEST),
            )
            for number, block in enumerate(found[:MOST_NEIGHBOURS])
        )
    except (KeyError, IndexError, TypeError, ValueError) as error:
        raise Problem(f"“{path.name}” is no sound CityJSON: {error!r}. Fetch or export it again.") from error
    if not blocks:
        raise Problem(f"“{path.name}” holds no buildings.")
    return Footprints(Neighbours(name=path.name, blocks=blocks), "metres", 0, len(found) - len(blocks), None)


def local_metres(degrees: NDArray[np.float64], origin: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return (n, 2) metres east and north of an origin, of (n, 2) longitudes and latitudes near it in degrees.

    Arcs of the ellipsoid's radii of curvature at the origin (Snyder, Map Projections: A Working Manual, USGS 1987, eqs. 4-18 and
    4-20): right within a few centimetres in a neighbourhood of some kilometres.
    """
    latitude = math.radians(origin[1])
    flattened = 1 - SQUARED_ECCENTRICITY * math.sin(latitude) ** 2
    along_parallel = EQUATOR / math.sqrt(flattened) * math.cos(latitude)
    along_meridian = EQUATOR * (1 - SQUARED_ECCENTRICITY) / flattened**1.5
    return np.asarray(np.radians(degrees - origin) * [along_parallel, along_meridian])


def _content(path: Path) -> Any:
    try:
        if path.stat().st_size > LARGEST:
            raise Problem(f"“{path.name}” is larger than {LARGEST // 1_000_000} MB. Cut it down to what lies nearby.")
        return json.loads(path.read_bytes())
    except OSError as error:
        raise Problem(f"“{path.name}” cannot be read: {error.strerror or error}.") from error
    except (ValueError, RecursionError) as error:
        raise Problem(f"“{path.name}” is not GeoJSON: {error}. Save it as GeoJSON and open it again.") from error


def _members(data: Any, depth: int) -> list[Any]:
    """What a collection holds; files that hold themselves ever deeper are no collections."""
    if not isinstance(data, dict) or depth > 20:
        return []
    members = data.get("features", data.get("geometries"))
    return members if isinstance(members, list) else []


def _polygons(data: Any, about: dict[str, Any], name: str, depth: int) -> Iterator[tuple[list[Any], dict[str, Any]]]:
    """The rings of every polygon, with the properties of the feature it belongs to."""
    if not isinstance(data, dict):
        if depth == 0:
            raise Problem(f"“{name}” is not GeoJSON. Save it as GeoJSON and open it again.")
        return
    kind, coordinates = data.get("type"), data.get("coordinates")
    if kind == "Feature":
        own = data.get("properties")
        yield from _polygons(data.get("geometry"), own if isinstance(own, dict) else {}, name, depth + 1)
    elif kind == "Polygon" and isinstance(coordinates, list):
        yield coordinates, about
    elif kind == "MultiPolygon" and isinstance(coordinates, list):
        yield from ((rings, about) for rings in coordinates if isinstance(rings, list))
    for member in _members(data, depth):
        yield from _polygons(member, about, name, depth + 1)


def _others(data: Any, depth: int) -> Iterator[None]:
    """Once for every point and line."""
    if isinstance(data, dict):
        geometry = data.get("geometry") if data.get("type") == "Feature" else data
        if isinstance(geometry, dict) and str(geometry.get("type")).endswith(("Point", "LineString")):
            yield None
        for member in _members(data, depth):
            yield from _others(member, depth + 1)


def _rings(rings: list[Any]) -> list[NDArray[np.float64]] | None:
    """The outline and the courtyards of a polygon, (n, 2) each; None where the outline is none."""
    found = []
    for number, ring in enumerate(rings):
        try:
            points = np.array([[float(p[0]), float(p[1])] for p in ring])
        except (TypeError, ValueError, IndexError, KeyError):
            points = np.empty((0, 2))
        if len(points) > 1 and (points[0] == points[-1]).all():
            points = points[:-1]
        if len(points) >= 3 and np.isfinite(points).all() and np.ptp(points, axis=0).min() > 0:
            found.append(points)
        elif number == 0:
            return None
    return found or None


def _are_degrees(footprints: list[list[NDArray[np.float64]]]) -> bool:
    """Whether numbers look like degrees: the middle one of the footprints, by size, is no longer than a twentieth of one (5 km),
    and in metres no house is that short."""
    outlines = [rings[0] for rings in footprints]
    return (
        all(map(_on_earth, outlines))
        and float(np.median([np.ptp(_unwrapped(o, o[0, 0]), axis=0).max() for o in outlines])) < LONGEST
    )


def _on_earth(ring: NDArray[np.float64]) -> bool:
    """Whether places can be longitudes and latitudes."""
    return bool((abs(ring) <= [180, 90]).all())


def _unwrapped(ring: NDArray[np.float64], longitude: float) -> NDArray[np.float64]:
    """Places in degrees, each on the side of the earth on which another longitude is."""
    return np.stack([longitude + (ring[:, 0] - longitude + 180) % 360 - 180, ring[:, 1]], axis=1)


def _height(about: dict[str, Any]) -> float | None:
    lower = {str(key).lower(): value for key, value in about.items()}
    for name in HEIGHTS:
        found = _metres(lower.get(name))
        if found is not None:
            return min(found, TALLEST)
    for name in LEVELS:
        found = _metres(lower.get(name))
        if found is not None:
            return min(found * STOREY, TALLEST)
    return None


def _metres(value: Any) -> float | None:
    """12, "12", "12,5 m", "40 ft" in metres; None for what is none, or not above 0."""
    if isinstance(value, bool) or not isinstance(value, int | float | str):
        return None
    found = re.fullmatch(r"\s*(\d+(?:[.,]\d+)?)\s*(m|ft|')?\s*", str(value))
    if not found:
        return None
    metres = float(found.group(1).replace(",", ".")) * (FEET if found.group(2) in ("ft", "'") else 1.0)
    return metres if metres > 0 else None


def _name(about: dict[str, Any]) -> str:
    for name in NAMES:
        value = about.get(name)
        if isinstance(value, str) and value.strip():
            return value.strip()[:500]
    return ""
