"""What a person may decide when opening a model."""

from __future__ import annotations

from typing import Literal

from anatome.values import Value

UNITS = {"metre": 1.0, "centimetre": 0.01, "millimetre": 0.001, "foot": 0.3048, "inch": 0.0254}
"""Metres in one of each unit."""

UnitName = Literal["metre", "centimetre", "millimetre", "foot", "inch"]

IFC_SUFFIXES = (".ifc",)
MESH_SUFFIXES = (".glb", ".gltf", ".obj", ".stl", ".ply")
MODEL_SUFFIXES = IFC_SUFFIXES + MESH_SUFFIXES


class OpenOptions(Value):
    """None leaves the choice to the reader. IFC and glTF say both themselves; the others do not."""

    up: Literal["y", "z"] | None = None
    unit: UnitName | None = None
