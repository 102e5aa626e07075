"""A building kept on disk as plain arrays: how the worker hands it over, and how the cache remembers it."""

from __future__ import annotations

import json
import os
import zipfile
from dataclasses import asdict
from pathlib import Path

import numpy as np

from anatome.model.building import Building, Element, FailedProduct, Space, Storey, Unit

VERSION = 1
ARRAYS = ("vertices", "triangles", "triangle_start", "triangle_style", "styles")


def save_building(building: Building, path: Path) -> None:
    """Write a building to ``path`` (.npz), whole or not at all."""
    about = {
        "version": VERSION,
        "name": building.name,
        "elements": [[e.id, e.name, e.type, e.material, e.layer, e.storey] for e in building.elements],
        "storeys": [asdict(s) for s in building.storeys],
        "spaces": [asdict(s) for s in building.spaces],
        "unit": asdict(building.unit),
        "failed": [asdict(f) for f in building.failed],
        "remarks": list(building.remarks),
    }
    path.parent.mkdir(parents=True, exist_ok=True)
    partial = path.with_name(f".{path.name}.{os.getpid()}")
    arrays = {name: getattr(building, name) for name in ARRAYS}
    # Small whole numbers take half the room, and the order of magnitude of a building fits them.
    arrays["triangles"] = arrays["triangles"].astype(np.uint32)
    arrays["triangle_style"] = arrays["triangle_style"].astype(np.uint16)
    with partial.open("wb") as stream:
        np.savez_compressed(stream, about=np.frombuffer(json.dumps(about).encode(), np.uint8), **arrays)
    partial.replace(path)


def load_building(path: Path) -> Building | None:
    """The building stored at ``path``, or None where there is none that this version can read."""
    try:
        with np.load(path, allow_pickle=False) as stored:
            about = json.loads(stored["about"].tobytes())
            if about.get("version") != VERSION:
                return None
            arrays = {name: stored[name] for name in ARRAYS}
    except (OSError, ValueError, KeyError, zipfile.BadZipFile):
        return None
    arrays["triangles"] = arrays["triangles"].astype(np.int64)
    arrays["triangle_style"] = arrays["triangle_style"].astype(np.int64)
    spaces = tuple(Space(s["id"], s["name"], s["storey"], tuple(s["lower"]), tuple(s["upper"])) for s in about["spaces"])
    return Building(
        name=about["name"],
        elements=tuple(Element(*e) for e in about["elements"]),
        storeys=tuple(Storey(**s) for s in about["storeys"]),
        spaces=spaces,
        unit=Unit(**about["unit"]),
        failed=tuple(FailedProduct(**f) for f in about["failed"]),
        remarks=tuple(about["remarks"]),
        **arrays,
    )
