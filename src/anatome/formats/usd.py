"""Meshes of a USD stage as objects, through usd-core: USDA, USDC and USDZ, with groups, instances and preview materials."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from anatome.formats.mesh_objects import DEFAULT_COLOUR, MeshFile, MeshObject, MeshPiece, triangles_of
from anatome.problems import Problem

NAMELESS = ("mesh", "geometry", "geom", "shape")
"""What exporters call the mesh of a thing that is named one step above it (common practice)."""


def usd_file(path: Path) -> MeshFile:
    """Return the meshes of a stage that can be seen, each where it stands and however often it is an instance, in groups by what
    they stand in. The stage says which axis is up and how many metres its unit is. Raises Problem when it cannot be read."""
    from pxr import Tf, Usd, UsdGeom  # large, and only wanted here

    try:
        stage = Usd.Stage.Open(str(path))
    except Tf.ErrorException as error:
        raise Problem(f"“{path.name}” cannot be read as USD; it may be cut short. Export it again.") from error
    reader = _Stage(stage)
    objects = tuple(reader.objects())
    remarks = []
    if reader.others:
        kinds = ", ".join(sorted(reader.others))
        remarks.append(f"Shapes that are no meshes are left out ({kinds}): export them as meshes.")
    is_y_up = UsdGeom.GetStageUpAxis(stage) == UsdGeom.Tokens.y
    metres = float(UsdGeom.GetStageMetersPerUnit(stage))
    said = stage.HasAuthoredMetadata(UsdGeom.Tokens.metersPerUnit)
    return MeshFile(objects, "y" if is_y_up else "z", metres if said and metres > 0 else None, tuple(remarks))


class _Stage:
    """``others`` are kinds of shapes that are no meshes."""

    def __init__(self, stage: Any) -> None:
        from pxr import Usd, UsdGeom

        self._stage = stage
        self._places = UsdGeom.XformCache(Usd.TimeCode.Default())
        self.others: set[str] = set()

    def objects(self) -> Iterator[MeshObject]:
        from pxr import Usd, UsdGeom

        shown = (UsdGeom.Tokens.default_, UsdGeom.Tokens.render)
        for prim in self._stage.Traverse(Usd.TraverseInstanceProxies(Usd.PrimDefaultPredicate)):
            if not prim.IsA(UsdGeom.Gprim) and not prim.IsA(UsdGeom.PointInstancer):
                continue
            image = UsdGeom.Imageable(prim)
            if image.ComputeVisibility() == UsdGeom.Tokens.invisible or image.ComputePurpose() not in shown:
                continue
            if not prim.IsA(UsdGeom.Mesh):
                self.others.add(str(prim.GetTypeName()))
                continue
            pieces = tuple(self._pieces(UsdGeom.Mesh(prim)))
            if pieces:
                names = [name for name in str(prim.GetPath()).split("/") if name]
                names = [self._named(prim, back) for back in range(len(names) - 1, -1, -1)]
                if len(names) > 1 and names[-1].lower().rstrip("_0123456789") in NAMELESS:
                    names.pop()
                yield MeshObject(names[-1], pieces, tuple(names[:-1]))

    @staticmethod
    def _named(prim: Any, back: int) -> str:
        """The name of what a prim stands in, so many steps above it: that for people, if it has one."""
        for _ in range(back):
            prim = prim.GetParent()
        return str(prim.GetMetadata("displayName") or prim.GetName())

    def _pieces(self, mesh: Any) -> Iterator[MeshPiece]:
        """The faces of a mesh, those of one material as one piece."""
        from pxr import UsdGeom, UsdShade, Vt

        points = np.array(mesh.GetPointsAttr().Get() or Vt.Vec3fArray(), float).reshape(-1, 3)
        counts = np.array(mesh.GetFaceVertexCountsAttr().Get() or [], np.int64)
        indices = np.array(mesh.GetFaceVertexIndicesAttr().Get() or [], np.int64)
        if not len(points) or not len(counts) or counts.sum() != len(indices) or indices.max(initial=0) >= len(points):
            return
        matrix = np.array(self._places.GetLocalToWorldTransform(mesh.GetPrim()), float)  # rows: points stand before it
        vertices = points @ matrix[:3, :3] + matrix[3, :3]
        leftward = mesh.GetOrientationAttr().Get() == UsdGeom.Tokens.leftHanded
        turned = leftward != (np.linalg.det(matrix[:3, :3]) < 0)
        holes = set(mesh.GetHoleIndicesAttr().Get() or [])
        starts = np.concatenate([[0], np.cumsum(counts)])
        left = dict.fromkeys(number for number in range(len(counts)) if number not in holes)
        groups: list[tuple[list[int], Any]] = []
        for subset in UsdGeom.Subset.GetGeomSubsets(mesh, UsdGeom.Tokens.face, UsdShade.Tokens.materialBind):
            own = [int(n) for n in subset.GetIndicesAttr().Get() or [] if int(n) in left]
            for number in own:
                del left[number]
            groups.append((own, subset.GetPrim()))
        groups.append((list(left), mesh.GetPrim()))
        for numbers, prim in groups:
            faces = triangles_of(vertices, [indices[starts[n] : starts[n + 1]].tolist() for n in numbers])
            if len(faces):
                name, colour = self._material(prim, mesh)
                used, numbered = np.unique(faces[:, ::-1] if turned else faces, return_inverse=True)
                yield MeshPiece(vertices[used], numbered.reshape(-1, 3), np.array([colour]), name)

    def _material(self, prim: Any, mesh: Any) -> tuple[str, tuple[float, ...]]:
        """The name and the colour of what a prim is of."""
        from pxr import UsdShade

        material, _ = UsdShade.MaterialBindingAPI(prim).ComputeBoundMaterial()
        if material:
            surface = material.ComputeSurfaceSource()[0]
            diffuse = _value(surface, "diffuseColor") if surface else None
            opacity = _value(surface, "opacity") if surface else None
            colour = DEFAULT_COLOUR[:3] if diffuse is None else tuple(float(c) for c in diffuse)
            clear = 1.0 if opacity is None else float(opacity)
            return self._named(material.GetPrim(), 0), (*_as_seen(colour), clear)
        own: NDArray[np.float64] = np.array(mesh.GetDisplayColorAttr().Get() or [], float).reshape(-1, 3)
        return "", (*_as_seen(tuple(own.mean(axis=0))), 1.0) if len(own) else DEFAULT_COLOUR


def _value(shader: Any, name: str) -> Any:
    """A number or colour that is said of a surface itself, not by a picture."""
    held = shader.GetInput(name)
    return held.Get() if held and not held.HasConnectedSource() else None


def _as_seen(linear: tuple[float, ...]) -> tuple[float, ...]:
    """sRGB of linear light (IEC 61966-2-1): USD has colours as light."""
    return tuple(12.92 * c if c <= 0.0031308 else 1.055 * c ** (1 / 2.4) - 0.055 for c in (min(max(c, 0.0), 1.0) for c in linear))
