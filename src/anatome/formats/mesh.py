"""Reading GLB, glTF, OBJ, STL, PLY and COLLADA through trimesh: each node or group becomes an element."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, Literal

import numpy as np
import trimesh
from lxml import etree
from numpy.typing import NDArray

from anatome.model.assembly import BuildingAssembly
from anatome.model.building import Building, Element, Unit
from anatome.model.options import OpenOptions
from anatome.model.units import UNITS
from anatome.problems import Problem

DEFAULT_COLOUR = (0.84, 0.82, 0.79, 1.0)
Y_UP = np.array([[1.0, 0, 0], [0, 0, -1.0], [0, 1.0, 0]])


def read_mesh(path: Path, options: OpenOptions, progress: Callable[[float, str], None]) -> Building:
    """The model in a mesh file, turned upright and in metres.

    glTF says that Y is up and lengths are metres, COLLADA says which axis and what unit; for the others ``options`` decide,
    or a guess from the size.
    Raises Problem when the file cannot be read or holds no faces.
    """
    progress(0.0, "Reading the file")
    extra: dict[str, Any] = {"split_objects": True, "split_groups": True} if path.suffix.lower() == ".obj" else {}
    try:
        scene = trimesh.load_scene(str(path), process=False, **extra)
    except Exception as error:
        raise Problem(f"“{path.name}” cannot be read; it may be cut short. Export it again. ({error})") from error
    progress(0.6, "Sorting the parts")
    parts = list(_parts(scene))
    if not parts:
        raise Problem(f"“{path.name}” holds no faces to draw. Export the model with its surfaces.")

    is_gltf, is_collada = path.suffix.lower() in (".glb", ".gltf"), path.suffix.lower() == ".dae"
    own_up, own_metres = _collada_axis_and_unit(path) if is_collada else (None, None)
    up = options.up or own_up or ("y" if is_gltf or path.suffix.lower() == ".obj" else "z")
    turn = Y_UP if up == "y" else np.eye(3)
    finite = np.concatenate([p[1] for p in parts])
    finite = finite[np.isfinite(finite).all(axis=1)]
    extent = float(np.linalg.norm(np.ptp(finite, axis=0))) if len(finite) else 0.0
    unit = options.unit or ("metre" if is_gltf else likely_unit(extent))
    metres = UNITS[unit]
    if own_metres is not None and options.unit is None:
        metres = own_metres
        unit = next((name for name, m in UNITS.items() if abs(m - metres) < 1e-6 * m), f"{metres:g} metres")
    assembly = BuildingAssembly(path.stem)
    assembly.unit = Unit(unit, metres)
    for name, vertices, faces, colours in parts:
        styles = [assembly.style(c) for c in colours] if len(colours) > 1 else assembly.style(colours[0])
        element = Element(id=assembly.unused_id(name), name=name, type="Part")
        assembly.add(element, vertices @ turn.T * metres, faces, styles)
    progress(0.9, "Joining the parts")
    return assembly.finish()


def _collada_axis_and_unit(path: Path) -> tuple[Literal["y", "z"] | None, float | None]:
    """What a COLLADA file says of the axis that points up and of the metres in its unit."""
    up: Literal["y", "z"] | None = None
    metres: float | None = None
    for _, element in etree.iterparse(str(path), tag=("{*}unit", "{*}up_axis", "{*}library_geometries"), resolve_entities=False):
        name = etree.QName(element).localname
        if name == "up_axis":
            up = "z" if (element.text or "").strip().upper() == "Z_UP" else "y"
        elif name == "unit" and metres is None:
            try:
                metres = float(element.get("meter", "1"))
            except ValueError:
                metres = None
        elif name == "library_geometries":
            break
    return up or "y", metres if metres is not None and 0 < metres < 1e6 else None


def likely_unit(extent: float) -> str:
    """The unit in which a model of this diagonal is as large as a building or a room.

    Metres up to 400, then centimetres up to 4,000 (40 m), beyond that millimetres (our own rule of thumb; it can be
    changed on opening).
    """
    if extent <= 400:
        return "metre"
    return "centimetre" if extent <= 4000 else "millimetre"


def _parts(scene: Any) -> Any:
    """(name, (n, 3) vertices, (m, 3) faces, colours 0..1: one or one for each face) for every node with faces."""
    for node in sorted(scene.graph.nodes_geometry):
        transform, geometry_name = scene.graph[node]
        mesh = scene.geometry[geometry_name]
        if not isinstance(mesh, trimesh.Trimesh) or not len(mesh.faces):
            continue
        vertices = np.asarray(mesh.vertices, float) @ transform[:3, :3].T + transform[:3, 3]
        faces = np.asarray(mesh.faces)
        if np.linalg.det(transform[:3, :3]) < 0:
            faces = faces[:, ::-1]
        yield node if node != geometry_name else geometry_name, vertices, faces, _colours(mesh)


def _colours(mesh: Any) -> NDArray[np.float64]:
    visual = mesh.visual
    if visual.kind == "texture":
        main = getattr(visual.material, "main_color", None)
        if main is not None:
            return np.asarray(main, float).reshape(1, -1)[:, :4] / 255.0
    if visual.kind in ("face", "vertex"):
        faces = np.asarray(visual.face_colors, float) / 255.0
        return faces[:1] if (faces == faces[0]).all() else faces
    return np.array([DEFAULT_COLOUR])
