"""Reading GLB, glTF, OBJ, STL, PLY and COLLADA through trimesh: each node or group becomes an element."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path, PurePath
from typing import Any, Literal

import numpy as np
import trimesh
from lxml import etree
from numpy.typing import NDArray

from anatome.formats.identity import find_named, gltf_content
from anatome.model.assembly import BuildingAssembly
from anatome.model.building import Building, Element, Unit
from anatome.model.options import OpenOptions
from anatome.model.textures import maps_of
from anatome.model.units import UNITS
from anatome.pictures import MOST_PIXELS, on_white, plain
from anatome.problems import Problem

DEEPEST = 500
"""Groups in groups."""
LARGEST_PICTURE = 1024
"""Pixels on a side to which pictures on surfaces are made smaller."""
DEFAULT_COLOUR = (0.84, 0.82, 0.79, 1.0)
Y_UP = np.array([[1.0, 0, 0], [0, 0, -1.0], [0, 1.0, 0]])


def read_mesh(path: Path, options: OpenOptions, progress: Callable[[float, str], None]) -> Building:
    """Return the model in a mesh file, turned upright and in metres.

    glTF says that Y is up and lengths are metres, COLLADA says which axis and what unit; for the others ``options`` decide,
    or a guess from the size.
    Raises Problem when the file cannot be read or holds no faces.
    """
    progress(0.0, "Reading the file")
    extra: dict[str, Any] = {"split_objects": True, "split_groups": True} if path.suffix.lower() == ".obj" else {}
    _check_depth(path)
    try:
        scene = trimesh.load_scene(str(path), process=False, resolver=_Beside(path), **extra)
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
    finite = np.concatenate([p.vertices for p in parts])
    finite = finite[np.isfinite(finite).all(axis=1)]
    extent = float(np.linalg.norm(np.ptp(finite, axis=0))) if len(finite) else 0.0
    unit = options.unit or ("metre" if is_gltf else likely_unit(extent))
    metres = UNITS[unit]
    if own_metres is not None and options.unit is None:
        metres = own_metres
        unit = next((name for name, m in UNITS.items() if abs(m - metres) < 1e-6 * m), f"{metres:g} metres")
    assembly = BuildingAssembly(path.stem)
    assembly.unit = Unit(unit, metres)
    images: dict[int, tuple[int, NDArray[np.float64]]] = {}
    unreadable = 0
    for part in parts:
        vertices = part.vertices @ turn.T * metres
        element = Element(id=assembly.unused_id(part.name), name=part.name, type="Part")
        try:
            styles = _styles(assembly, part, vertices, images)
        except Problem:
            unreadable += 1
            styles = _styles(assembly, replace(part, picture=None), vertices, images)
        assembly.add(element, vertices, part.faces, styles)
    if unreadable:
        assembly.remarks.append(f"The pictures on {unreadable} parts are damaged; they have plain colours.")
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
    """Return the unit in which a model of this diagonal is as large as a building or a room.

    Metres up to 400, then centimetres up to 4,000 (40 m), beyond that millimetres (our own rule of thumb; it can be
    changed on opening).
    """
    if extent <= 400:
        return "metre"
    return "centimetre" if extent <= 4000 else "millimetre"


@dataclass(frozen=True, eq=False)
class _Part:
    """A node: (n, 3) vertices, (m, 3) faces, colours 0..1, one or one for each face; and if it has a picture, that and (m, 3, 2)
    where the corners of its faces lie on it."""

    name: str
    vertices: NDArray[np.float64]
    faces: NDArray[np.int64]
    colours: NDArray[np.float64]
    picture: Any = None
    laid: NDArray[np.float64] | None = None


def _styles(
    assembly: BuildingAssembly, part: _Part, vertices: NDArray[np.float64], images: dict[int, tuple[int, NDArray[np.float64]]]
) -> int | list[int]:
    """The style of a part, or of each of its faces. ``images`` are those that were taken over, by their own ids."""
    colours = part.colours
    if part.picture is None or part.laid is None:
        return [assembly.style(c) for c in colours] if len(colours) > 1 else assembly.style(colours[0])
    if id(part.picture) not in images:
        small = _readable(part.picture)
        small.thumbnail((LARGEST_PICTURE, LARGEST_PICTURE))
        data = io.BytesIO()
        small.save(data, "PNG")
        images[id(part.picture)] = assembly.image(data.getvalue()), np.asarray(small, float).reshape(-1, 3).mean(axis=0) / 255.0
    number, mean = images[id(part.picture)]
    # Where pictures are not shown, it is of their mean colour.
    colour = (*mean, colours[0][3])
    corners = vertices[part.faces]
    usable = np.asarray(np.isfinite(corners).all(axis=(1, 2)) & np.isfinite(part.laid).all(axis=(1, 2)))
    maps = maps_of(np.where(usable[:, None, None], corners, 0.0), np.where(usable[:, None, None], part.laid, 0.0))
    return [assembly.style(colour, number, row) for row in maps.reshape(-1, 8).tolist()]


def _readable(picture: Any) -> Any:
    """A picture of a model as RGB. Raises Problem when it is damaged or too large."""
    if picture.width * picture.height > MOST_PIXELS:
        raise Problem(f"A picture has {picture.width} × {picture.height} pixels. Make it smaller first.")
    try:
        return on_white(plain(picture))
    except Exception as error:  # each decoder has its own
        raise Problem("A picture is damaged.") from error


class _Beside(trimesh.resolvers.Resolver):
    """Finds what a model names among plain files of the kinds a model needs, and nothing else."""

    def __init__(self, model: Path) -> None:
        self._model = model

    def get(self, name: str) -> bytes:
        found = find_named(self._model, name)
        if found is None:
            raise FileNotFoundError(name)
        return found.read_bytes()

    def keys(self) -> list[str]:
        return []

    def write(self, name: str, data: object) -> None:
        raise NotImplementedError

    def namespaced(self, namespace: str) -> _Beside:
        return self


def _check_depth(path: Path) -> None:
    """Raise Problem for a glTF whose nodes hold one another so deep that going through them would take minutes."""
    told = gltf_content(path)
    nodes: Any = told.get("nodes") if isinstance(told, dict) else None
    if not isinstance(nodes, list):
        return
    held = [n.get("children") if isinstance(n, dict) else None for n in nodes]
    children = [[c for c in own if isinstance(c, int)] if isinstance(own, list) else [] for own in held]
    level = set(range(len(nodes))) - {c for own in children for c in own}
    for _ in range(DEEPEST):
        level = {c for node in level if 0 <= node < len(nodes) for c in children[node]}
        if not level:
            return
    raise Problem(f"“{path.name}” has groups in groups, more than {DEEPEST} deep. Export it with its groups dissolved.")


def _parts(scene: Any) -> Iterator[_Part]:
    """Every node with faces."""
    for node in sorted(scene.graph.nodes_geometry):
        transform, geometry_name = scene.graph[node]
        mesh = scene.geometry[geometry_name]
        if not isinstance(mesh, trimesh.Trimesh) or not len(mesh.faces):
            continue
        vertices = np.asarray(mesh.vertices, float) @ transform[:3, :3].T + transform[:3, 3]
        faces = np.asarray(mesh.faces)
        if np.linalg.det(transform[:3, :3]) < 0:
            faces = faces[:, ::-1]
        picture, laid = _picture(mesh)
        # What has no name of its own is called by where the file lies, which may be anywhere.
        name = PurePath(node).stem if PurePath(node).is_absolute() else node
        yield _Part(name, vertices, faces, _colours(mesh), picture, None if laid is None else laid[faces])


def _picture(mesh: Any) -> tuple[Any, NDArray[np.float64] | None]:
    """(the picture on a mesh, (n, 2) where its vertices lie on it), or nothing."""
    visual = mesh.visual
    if visual.kind != "texture" or visual.uv is None or len(visual.uv) != len(mesh.vertices):
        return None, None
    material = visual.material
    picture = getattr(material, "baseColorTexture", None) or getattr(material, "image", None)
    return (picture, np.asarray(visual.uv, float)) if picture is not None else (None, None)


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
