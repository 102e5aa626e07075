"""What a person may decide when opening a model."""

from __future__ import annotations

from typing import Literal

from anatome.values import Value

UnitName = Literal["metre", "centimetre", "millimetre", "foot", "inch"]

IFC_SUFFIXES = (".ifc",)
GLTF_SUFFIXES = (".glb", ".gltf")
USD_SUFFIXES = (".usd", ".usda", ".usdc", ".usdz")
MESH_SUFFIXES = (*GLTF_SUFFIXES, ".obj", ".stl", ".ply", ".dae", ".dxf", *USD_SUFFIXES, ".json")
MODEL_SUFFIXES = IFC_SUFFIXES + MESH_SUFFIXES


class OpenOptions(Value):
    """None leaves the choice to the reader. IFC and glTF say both themselves; the others do not.

    ``near`` brings a model that lies far from its origin near it; what was begun before there was that stays where it is.
    """

    up: Literal["y", "z"] | None = None
    unit: UnitName | None = None
    near: bool = False
