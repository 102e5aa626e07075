"""Reading GLB, glTF, OBJ, STL, PLY, COLLADA, 3D DXF, USD and CityJSON: each object becomes an element, and keeps its groups,
its layer and its materials."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any, Literal

import numpy as np
import trimesh
from lxml import etree
from numpy.typing import NDArray

from anatome.formats.cityjson import cityjson_file
from anatome.formats.collada import collada_objects
from anatome.formats.identity import find_named, gltf_content
from anatome.formats.mesh_objects import MeshFile, MeshObject, MeshPiece
from anatome.formats.mesh_scene import objects_in
from anatome.model.assembly import BuildingAssembly
from anatome.model.building import WITHIN, Building, Element, Unit
from anatome.model.options import GLTF_SUFFIXES, USD_SUFFIXES, OpenOptions
from anatome.model.textures import maps_of
from anatome.model.unit_guess import guess_unit, measured
from anatome.model.units import UNITS
from anatome.pictures import MOST_PIXELS, on_white, plain
from anatome.problems import Problem

LARGEST, SMALLEST = 2_000.0, 0.3
"""Metres across over and under which one doubts the unit a file says."""
DEEPEST = 500
"""Groups in groups."""
LARGEST_PICTURE = 1024
"""Pixels on a side to which pictures on surfaces are made smaller."""
Y_UP = np.array([[1.0, 0, 0], [0, 0, -1.0], [0, 1.0, 0]])


def read_mesh(path: Path, options: OpenOptions, progress: Callable[[float, str], None]) -> Building:
    """Return the model in a mesh file, turned upright and in metres.

    Where the file does not say which axis is up and what its unit is, ``options`` decide, or what is usual for its kind and a
    guess from the sizes of it, its parts and its doors. Raises Problem when the file cannot be read or holds no faces.
    """
    progress(0.0, "Reading the file")
    _check_depth(path)
    try:
        held = READERS.get(path.suffix.lower(), _trimesh_file)(path)
    except Problem:
        raise
    except Exception as error:
        raise Problem(f"“{path.name}” cannot be read; it may be cut short. Export it again. ({error})") from error
    progress(0.6, "Sorting the parts")
    objects = held.objects
    if not objects:
        raise Problem(f"“{path.name}” holds no faces to draw. Export the model with its surfaces.")

    turn = Y_UP if (options.up or held.up) == "y" else np.eye(3)
    assembly = BuildingAssembly(path.stem)
    assembly.unit, assembly.near = _unit(objects, turn, options, held.metres, path), options.near
    metres = assembly.unit.metres
    images: dict[int, tuple[int, NDArray[np.float64]]] = {}
    unreadable = 0
    for one in objects:
        group = WITHIN.join(one.groups)
        element_id = assembly.unused_id(one.id or one.name)
        element = Element(element_id, one.name, one.type, one.material, one.layer, group=group)
        styles: list[int] = []
        for piece in one.pieces:
            vertices = piece.vertices @ turn.T * metres
            try:
                own = _styles(assembly, piece, vertices, images)
            except Problem:
                unreadable += 1
                own = _styles(assembly, replace(piece, picture=None), vertices, images)
            styles += own if isinstance(own, list) else [own] * len(piece.faces)
        assembly.add(element, one.vertices @ turn.T * metres, one.faces, styles)
    assembly.remarks += held.remarks
    if unreadable:
        assembly.remarks.append(f"The pictures on {unreadable} surfaces are damaged; they have plain colours.")
    progress(0.9, "Joining the parts")
    return assembly.finish()


def _trimesh_file(path: Path) -> MeshFile:
    """What trimesh reads: of glTF, which says that Y is up and lengths are metres, of OBJ, STL and PLY, which say neither."""
    is_obj, is_gltf = path.suffix.lower() == ".obj", path.suffix.lower() in GLTF_SUFFIXES
    extra: dict[str, Any] = {"split_objects": True, "split_groups": True} if is_obj else {}
    scene = trimesh.load_scene(str(path), process=False, resolver=_Beside(path), **extra)
    return MeshFile(tuple(objects_in(scene, path)), "y" if is_obj or is_gltf else "z", 1.0 if is_gltf else None)


def _collada_file(path: Path) -> MeshFile:
    return MeshFile(tuple(collada_objects(path)), *_collada_axis_and_unit(path))


def _dxf_file(path: Path) -> MeshFile:
    from anatome.formats.dxf_model import dxf_file  # as below: large, and only wanted for its own kind

    return dxf_file(path)


def _usd_file(path: Path) -> MeshFile:
    from anatome.formats.usd import usd_file

    return usd_file(path)


READERS: dict[str, Callable[[Path], MeshFile]] = {
    ".dae": _collada_file,
    ".dxf": _dxf_file,
    ".json": cityjson_file,
    **dict.fromkeys(USD_SUFFIXES, _usd_file),
}
"""What reads a kind of file; trimesh reads the others."""


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


def _unit(objects: Sequence[MeshObject], turn: NDArray[np.float64], options: OpenOptions, said: float | None, path: Path) -> Unit:
    """The unit somebody chose, the file ``said`` in metres, or one guessed from the sizes."""
    if options.unit is not None:
        return Unit(options.unit, UNITS[options.unit])
    boxes = np.array([_box(one, turn) for one in objects])
    found = guess_unit(boxes, [one.name for one in objects])
    if said is None:
        return Unit(found.unit, UNITS[found.unit], found.why)
    name = next((name for name, m in UNITS.items() if abs(m - said) < 1e-6 * m), f"{said:g} metres")
    # Files say a unit without meaning it: what is as large as no building is told, and left as it says.
    across = measured(boxes, []).get("across", 0.0) * said
    doubted = (across > LARGEST and path.suffix.lower() != ".json") or 0 < across < SMALLEST  # towns are that large
    return Unit(name, said, f"the file says so, but it is {across:,.4g} m across" if doubted else "")


def _box(one: MeshObject, turn: NDArray[np.float64]) -> NDArray[np.float64]:
    corners = one.vertices @ turn.T
    return np.array([corners.min(axis=0), corners.max(axis=0)]) if len(corners) else np.full((2, 3), np.nan)


def _styles(
    assembly: BuildingAssembly, part: MeshPiece, vertices: NDArray[np.float64], images: dict[int, tuple[int, NDArray[np.float64]]]
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
