"""Triangles and lines in plain colours as a GLB file (glTF 2.0, binary): Y up, metres."""

from __future__ import annotations

import json
import struct
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

TRIANGLES, LINES = 4, 1
FLOAT, SHORT, INT = 5126, 5123, 5125
VERTICES, INDICES = 34962, 34963
MAGIC, JSON_CHUNK, BIN_CHUNK = 0x46546C67, 0x4E4F534A, 0x004E4942
"""Numbers of the specification (Khronos, glTF 2.0)."""
FINE = 1e4
"""Corners less than 1 / FINE metres apart are one."""


@dataclass(frozen=True, eq=False)
class Primitive:
    """``corners`` (n, 3, 3) of triangles or (n, 2, 3) of lines, metres, Z up; ``colour`` RGBA from 0 to 1, as it is shown."""

    name: str
    corners: Array
    colour: tuple[float, float, float, float]


def glb_bytes(primitives: Sequence[Primitive]) -> bytes:
    """Return the file: a node for each primitive that has something, of its name."""
    views: list[dict[str, Any]] = []
    accessors: list[dict[str, Any]] = []
    meshes: list[dict[str, Any]] = []
    materials: list[dict[str, Any]] = []
    nodes: list[dict[str, Any]] = []
    binary = bytearray()

    def put(values: NDArray[Any], target: int, **said: object) -> int:
        content = values.tobytes()
        views.append({"buffer": 0, "byteOffset": len(binary), "byteLength": len(content), "target": target})
        binary.extend(content + b"\0" * (-len(content) % 4))
        accessors.append({"bufferView": len(views) - 1, "count": len(values), **said})
        return len(accessors) - 1

    for primitive in primitives:
        if not len(primitive.corners):
            continue
        places, numbers = _shared(y_up(primitive.corners.reshape(-1, 3)))
        small = len(places) <= 65535
        low, high = places.min(axis=0).tolist(), places.max(axis=0).tolist()
        at = put(places, VERTICES, componentType=FLOAT, type="VEC3", min=low, max=high)
        order = put(numbers.astype("<u2" if small else "<u4"), INDICES, componentType=SHORT if small else INT, type="SCALAR")
        mode = LINES if primitive.corners.shape[1] == 2 else TRIANGLES
        *rgb, alpha = primitive.colour
        plain = {"baseColorFactor": [*map(_linear, rgb), alpha], "metallicFactor": 0.0}
        materials.append({"pbrMetallicRoughness": plain, "doubleSided": True, **({"alphaMode": "BLEND"} if alpha < 1 else {})})
        own = {"attributes": {"POSITION": at}, "indices": order, "mode": mode, "material": len(materials) - 1}
        meshes.append({"name": primitive.name, "primitives": [own]})
        nodes.append({"name": primitive.name, "mesh": len(meshes) - 1})
    said = {
        "asset": {"version": "2.0", "generator": "Anatome"},
        "scene": 0,
        "scenes": [{"nodes": list(range(len(nodes)))}],
        **{"nodes": nodes, "meshes": meshes, "materials": materials, "accessors": accessors, "bufferViews": views},
        "buffers": [{"byteLength": len(binary)}],
    }
    text = json.dumps(said, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    chunks = struct.pack("<II", len(text), JSON_CHUNK) + text + struct.pack("<II", len(binary), BIN_CHUNK) + bytes(binary)
    return struct.pack("<III", MAGIC, 2, 12 + len(chunks)) + chunks


def y_up(places: Array) -> Array:
    """Return (n, 3) places with Z up as glTF has them, Y up."""
    return np.stack([places[:, 0], places[:, 2], -places[:, 1]], axis=1)


def _shared(places: Array) -> tuple[NDArray[np.float32], NDArray[np.int64]]:
    """((m, 3) places that differ, (n,) which of them each is)."""
    fine, first, numbers = np.unique(np.round(places * FINE).astype(np.int64), axis=0, return_index=True, return_inverse=True)
    del fine
    return np.ascontiguousarray(places[first].astype("<f4")), numbers.reshape(-1)


def _linear(channel: float) -> float:
    """A channel as light has it, of one as it is shown (sRGB, IEC 61966-2-1, value from memory)."""
    return channel / 12.92 if channel <= 0.04045 else ((channel + 0.055) / 1.055) ** 2.4
