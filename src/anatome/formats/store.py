"""A building kept on disk as plain arrays: how the worker hands it over, and how the cache remembers it.

The file is a header in JSON and then the arrays as they lie in memory, what is derived from the geometry among them. So
opening it again means mapping it into memory: nothing is read before it is needed, and nothing is worked out. A check sum
tells a file that was damaged on the disk from a good one.
"""

from __future__ import annotations

import json
import mmap
import struct
import zlib
from collections.abc import Iterator, Mapping
from dataclasses import asdict, fields, is_dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from anatome.files import writing_whole
from anatome.model.building import DERIVED, Building, Element, FailedProduct, Space, Storey, Unit
from anatome.model.clusters import Clusters
from anatome.model.display import DisplayMesh
from anatome.model.edges import FeatureEdges
from anatome.model.place import Place
from anatome.model.solids import Links
from anatome.model.textures import Textures

VERSION = 6
MAGIC = b"ANATOME\n"
GEOMETRY = ("vertices", "triangles", "triangle_start", "triangle_style", "styles")
GROUPS = {"clusters": Clusters, "links": Links, "feature_edges": FeatureEdges, "display_mesh": DisplayMesh}
"""Derived values that are several arrays; one of them holds another one."""
BLOCK = 2000
"""Elements described in one piece of JSON: parsing a piece never takes long."""
CHUNK = 1 << 22


def save_building(building: Building, path: Path, derived: bool = True) -> None:
    """Write a building to ``path``, whole or not at all, with what is ``derived`` from it if wanted.

    Raises Problem when it cannot be written.
    """
    arrays: dict[str, NDArray[Any]] = {name: getattr(building, name) for name in GEOMETRY}
    for name in DERIVED if derived else ():
        arrays.update(_flat(name, getattr(building, name)))
    described = [[e.id, e.name, e.type, e.material, e.layer, e.storey, e.group] for e in building.elements]
    blocks = [json.dumps(described[i : i + BLOCK]).encode() for i in range(0, len(described), BLOCK)]
    if building.textures is not None:
        arrays |= {"picture_of_style": building.textures.picture, "picture_maps": building.textures.maps}
        arrays |= {f"picture {i}": np.frombuffer(data, np.uint8) for i, data in enumerate(building.textures.images)}
    arrays["elements"] = np.frombuffer(b"".join(blocks), np.uint8)
    arrays["element_blocks"] = np.cumsum([0, *map(len, blocks)])
    places, at = {}, 0
    for name, array in arrays.items():
        places[name] = {"dtype": np.lib.format.dtype_to_descr(array.dtype), "shape": array.shape, "at": at}
        at += -(-array.nbytes // 64) * 64
    about = {
        "version": VERSION,
        "name": building.name,
        "storeys": [asdict(s) for s in building.storeys],
        "spaces": [asdict(s) for s in building.spaces],
        "unit": asdict(building.unit),
        "failed": [asdict(f) for f in building.failed],
        "remarks": list(building.remarks),
        "place": building.place.model_dump() if building.place else None,
        "origin": list(building.origin),
        "arrays": places,
        "size": at,
    }
    header = json.dumps(about).encode()
    header += b" " * (-(len(header) + 24) % 64)
    path.parent.mkdir(parents=True, exist_ok=True)
    with writing_whole(path) as stream:
        stream.write(MAGIC + struct.pack("<QII", len(header), zlib.crc32(header), 0) + header)
        check = 0
        for array in arrays.values():
            data = np.ascontiguousarray(array).tobytes()
            data += b"\0" * (-len(data) % 64)
            stream.write(data)
            check = zlib.crc32(data, check)
        stream.seek(len(MAGIC) + 12)
        stream.write(struct.pack("<I", check))


def load_building(path: Path) -> Building | None:
    """Return the building stored at ``path``, or None where there is none that this version can read, or a damaged one."""
    try:
        with path.open("rb") as stream:
            return building_in(mmap.mmap(stream.fileno(), 0, access=mmap.ACCESS_READ))
    except (OSError, ValueError):
        return None


def building_in(content: bytes | mmap.mmap) -> Building | None:
    """Return the building in the content of such a file, or None. Its arrays are views of the content and cannot be written
    to."""
    try:
        start = len(MAGIC) + 16
        if content[: len(MAGIC)] != MAGIC:
            return None
        length, check_header, check = struct.unpack("<QII", content[len(MAGIC) : start])
        header = content[start : start + length]
        if zlib.crc32(header) != check_header:
            return None
        about = json.loads(header)
        first = start + length
        if about["version"] != VERSION or len(content) != first + about["size"] or _check(content, first) != check:
            return None
        arrays = {name: _array(content, first, place) for name, place in about["arrays"].items()}
        blocks = arrays["element_blocks"]
        described = [json.loads(arrays["elements"][a:b].tobytes()) for a, b in zip(blocks[:-1], blocks[1:])]
        building = Building(
            name=about["name"],
            elements=tuple(Element(*e) for block in described for e in block),
            storeys=tuple(Storey(**s) for s in about["storeys"]),
            spaces=tuple(Space(**s | {"lower": tuple(s["lower"]), "upper": tuple(s["upper"])}) for s in about["spaces"]),
            unit=Unit(**about["unit"]),
            failed=tuple(FailedProduct(**f) for f in about["failed"]),
            remarks=tuple(about["remarks"]),
            place=Place.model_validate(about["place"]) if about["place"] else None,
            origin=tuple(about["origin"]),
            textures=_textures(arrays),
            **{name: arrays[name] for name in GEOMETRY},
        )
        for name in DERIVED:
            found = _grouped(name, GROUPS.get(name), arrays)
            if found is not None:
                building.__dict__[name] = found  # where a cached property keeps its value
        return building
    except (ValueError, KeyError, TypeError, IndexError, struct.error):
        return None


def _textures(arrays: Mapping[str, NDArray[Any]]) -> Textures | None:
    if "picture_maps" not in arrays:
        return None
    count = sum(name.startswith("picture ") for name in arrays)
    images = tuple(arrays[f"picture {i}"].tobytes() for i in range(count))
    return Textures(images, arrays["picture_of_style"], arrays["picture_maps"])


def _check(content: bytes | mmap.mmap, first: int) -> int:
    """Check sum of all that comes after the header; in pieces, so that other threads go on meanwhile."""
    check = 0
    with memoryview(content) as view:
        for at in range(first, len(view), CHUNK):
            check = zlib.crc32(view[at : at + CHUNK], check)
    return check


def _array(content: bytes | mmap.mmap, first: int, place: Mapping[str, Any]) -> NDArray[Any]:
    described = place["dtype"]
    if isinstance(described, list):  # JSON knows no tuples
        described = [tuple(tuple(v) if isinstance(v, list) else v for v in field) for field in described]
    dtype = np.lib.format.descr_to_dtype(described)
    shape = tuple(place["shape"])
    count = int(np.prod(shape, initial=1))
    if count == 0:
        return np.empty(shape, dtype)
    return np.frombuffer(content, dtype, count, first + place["at"]).reshape(shape)


def _flat(name: str, value: Any) -> Iterator[tuple[str, NDArray[Any]]]:
    """The arrays of a value by their names, those of what it holds among them."""
    if not is_dataclass(value):
        yield name, value
        return
    for member in fields(value):
        yield from _flat(f"{name}.{member.name}", getattr(value, member.name))


def _grouped(name: str, kind: Any, arrays: Mapping[str, NDArray[Any]]) -> Any:
    """The value :func:`_flat` took apart, or None where it was not stored."""
    if kind is None:
        return arrays.get(name)
    values = {}
    for member in fields(kind):
        values[member.name] = _grouped(f"{name}.{member.name}", GROUPS.get(member.name), arrays)
    return None if any(v is None for v in values.values()) else kind(**values)
