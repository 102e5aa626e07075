"""The process that looks properties up: ``python -m anatome.formats.property_worker MODEL``.

Reads an id a line and answers each with a line of JSON: {set: {name: value}}, property sets and quantities as an IFC file has
them, those of the element's type among them, or the extras of a glTF file; or {"problem": …} once if the file cannot be read.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Callable
from pathlib import Path

from anatome.formats.identity import gltf_content
from anatome.formats.worker import end_with_parent
from anatome.model.options import GLTF_SUFFIXES

Sets = dict[str, dict[str, object]]


def plain(value: object) -> object:
    """Return a value as JSON can say it."""
    return value if isinstance(value, str | int | float | bool) or value is None else str(value)


def of_ifc(path: Path) -> Callable[[str], Sets]:
    """Return what looks up the property sets and quantities of an element of an IFC file by its GlobalId."""
    import ifcopenshell
    import ifcopenshell.util.element as element

    model = ifcopenshell.open(str(path))

    def sets_of(global_id: str) -> Sets:
        found = element.get_psets(model.by_guid(global_id))
        return {name: {key: plain(value) for key, value in values.items() if key != "id"} for name, values in found.items()}

    return sets_of


def of_gltf(path: Path) -> Callable[[str], Sets]:
    """Return what looks up the extras of a node of a glTF file by its name, and those of its mesh."""
    told = gltf_content(path)
    nodes = told.get("nodes") if isinstance(told, dict) else None
    meshes = told.get("meshes") if isinstance(told, dict) else None
    if not isinstance(nodes, list):
        raise ValueError("it holds no nodes")
    found: dict[str, Sets] = {}
    for node in nodes:
        number = node.get("mesh")
        mesh = meshes[number] if isinstance(meshes, list) and isinstance(number, int) and 0 <= number < len(meshes) else {}
        told_of = {"Node": node.get("extras"), "Mesh": mesh.get("extras")}
        sets = {
            name: {str(k): plain(v) for k, v in own.items()} for name, own in told_of.items() if isinstance(own, dict) and own
        }
        if sets and isinstance(node.get("name"), str):
            found.setdefault(node["name"], sets)
    return lambda name: found.get(name, {})


def main() -> int:
    end_with_parent()
    try:
        path = Path(sys.argv[1])
        sets_of = of_gltf(path) if path.suffix.lower() in GLTF_SUFFIXES else of_ifc(path)
    except Exception as error:
        print(json.dumps({"problem": str(error)}), flush=True)
        return 1
    print(json.dumps({"ready": True}), flush=True)
    for line in sys.stdin:
        try:
            found = sets_of(line.strip())
        except Exception:
            found = {}  # not in the file: a part that was given another id when the model was read
        print(json.dumps(found, ensure_ascii=True), flush=True)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
