"""The objects of what trimesh read: glTF with its tree of nodes, OBJ with its objects, groups and materials, STL and PLY."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path, PurePath
from typing import Any

import numpy as np
import trimesh
from numpy.typing import NDArray

from anatome.formats.mesh_objects import DEFAULT_COLOUR, MeshObject, MeshPiece

DIRECTIVE = re.compile(rb"^(o|g|usemtl)[ \t]+([^\r\n]*)", re.MULTILINE)
NAMELESS = ("", "default", "off")
"""What exporters write for no group (common practice)."""


def objects_in(scene: Any, path: Path) -> list[MeshObject]:
    """Return the objects of a scene trimesh read from a file; what one object has in several materials is one object again."""
    named = _of_obj(path) if path.suffix.lower() == ".obj" else {}
    pieces: dict[tuple[str, tuple[str, ...], str], list[MeshPiece]] = {}
    for node, piece in _pieces(scene):
        if path.suffix.lower() == ".obj":
            name, groups, material = named.get(node, (_plain_name(node), (), piece.material))
            key = name, groups, ""
        else:
            owner = _owner(scene, node)
            name, groups, material = _plain_name(owner), _groups(scene, owner), piece.material
            key = name, groups, owner
        own = MeshPiece(piece.vertices, piece.faces, piece.colours, material, piece.picture, piece.laid)
        pieces.setdefault(key, []).append(own)
    return [MeshObject(name, tuple(own), groups) for (name, groups, _), own in pieces.items()]


def _plain_name(node: str) -> str:
    """What has no name of its own is called by where the file lies, which may be anywhere."""
    return PurePath(node).stem if PurePath(node).is_absolute() else node


# Nodes ---------------------------------------------------------------------------------------------------------


def _owner(scene: Any, node: str) -> str:
    """The node that is one object: of the primitives of a glTF mesh, which become nodes with chance names, the one round them."""
    _, geometry = scene.graph[node]
    parent = scene.graph.transforms.parents.get(node)
    primitive = scene.geometry[geometry].metadata.get("from_gltf_primitive", False)
    return parent if primitive and parent is not None and node.startswith(f"{parent}_") else node


def _groups(scene: Any, node: str) -> tuple[str, ...]:
    """The names of the nodes round one, the outermost first, without the root of the file."""
    parents, found = scene.graph.transforms.parents, []
    at = parents.get(node)
    while at is not None and at != scene.graph.base_frame:
        found.append(str(at))
        at = parents.get(at)
    return tuple(reversed(found))


def _pieces(scene: Any) -> Iterator[tuple[str, MeshPiece]]:
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
        laid = None if laid is None else laid[faces]
        yield node, MeshPiece(vertices, faces, _colours(mesh), _material(mesh), picture, laid)


def _material(mesh: Any) -> str:
    material = getattr(mesh.visual, "material", None) if mesh.visual.kind == "texture" else None
    return str(getattr(material, "name", None) or "")


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


# OBJ -----------------------------------------------------------------------------------------------------------


def _of_obj(path: Path) -> dict[str, tuple[str, tuple[str, ...], str]]:
    """The object, its groups and the material of each part of an OBJ file, by the name trimesh makes of them.

    Where an object has several groups, they are the objects, and it is the group round them.
    """
    found: dict[tuple[str | None, str | None, str | None], None] = {}
    now: dict[bytes, str | None] = {b"o": None, b"g": None, b"usemtl": None}
    text, begun = b"\n" + path.read_bytes(), 0
    for match in DIRECTIVE.finditer(text):
        if text.find(b"\nf ", begun, match.start()) >= 0:
            found[now[b"o"], now[b"g"], now[b"usemtl"]] = None
        now[match[1]], begun = match[2].decode("utf-8", "replace").strip(), match.start()
    if text.find(b"\nf ", begun) >= 0:
        found[now[b"o"], now[b"g"], now[b"usemtl"]] = None
    groups_of: dict[str | None, set[str | None]] = {}
    for thing, group, _ in found:
        groups_of.setdefault(thing, set()).add(group)
    named: dict[str, tuple[str, tuple[str, ...], str]] = {}
    for thing, group, material in found:
        own = "" if (group or "").lower() in NAMELESS or group == thing else str(group)
        told: tuple[str, tuple[str, ...]]
        if thing is None:
            told = own or _plain_name(path.stem), ()
        elif own and len(groups_of[thing]) > 1:
            told = own, (thing,)
        else:
            told = thing, (own,) if own else ()
        parts = [part for part in (thing, group) if part is not None]
        for name in ("_".join([*parts, str(material)]), "_".join(parts)):
            named.setdefault(name, (*told, material or ""))
    return named
