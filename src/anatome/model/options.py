"""What a person may decide when opening a model."""

from __future__ import annotations

from typing import Literal

from anatome.values import Value

UnitName = Literal["metre", "centimetre", "millimetre", "foot", "inch"]

IFC_SUFFIXES = (".ifc",)
GLTF_SUFFIXES = (".glb", ".gltf")
MESH_SUFFIXES = (*GLTF_SUFFIXES, ".obj", ".stl", ".ply", ".dae")
MODEL_SUFFIXES = IFC_SUFFIXES + MESH_SUFFIXES


class OpenOptions(Value):
    """None leaves the choice to the reader. IFC and glTF say both themselves; the others do not."""

    up: Literal["y", "z"] | None = None
    unit: UnitName | None = None
