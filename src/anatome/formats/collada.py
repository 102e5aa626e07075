"""Objects of a COLLADA file, through pycollada: its tree of nodes, and the materials of what they show."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import collada
import numpy as np
from numpy.typing import NDArray

from anatome.formats.identity import find_named
from anatome.formats.mesh_objects import DEFAULT_COLOUR, MeshObject, MeshPiece
from anatome.pictures import open_picture
from anatome.problems import Problem

DEEPEST = 500
"""Nodes in nodes."""


def collada_objects(path: Path) -> list[MeshObject]:
    """Return the objects of a file: a node with geometry each, in the groups its parents are. Broken parts are passed over.

    Raises collada's errors where there is no file to read.
    """
    told = collada.Collada(str(path), ignore=[collada.common.DaeError])
    materials = {m.id: _Look(m, path) for m in told.materials}
    found: list[MeshObject] = []
    for node in told.scene.nodes if told.scene is not None else ():
        found += _in_node(node, np.eye(4), (), materials)
    return found


class _Look:
    """The name, the colour and perhaps the picture of a material."""

    def __init__(self, material: Any, path: Path) -> None:
        self.name = str(material.name or material.id or "")
        self.colour = np.array([DEFAULT_COLOUR])
        self.picture: Any = None
        effect = material.effect
        diffuse = getattr(effect, "diffuse", None)
        clear = getattr(effect, "transparency", None)
        alpha = float(clear) if isinstance(clear, float | int) and 0.0 < clear < 1.0 else 1.0
        if isinstance(diffuse, collada.material.Map):
            name = diffuse.sampler.surface.image.path
            beside = find_named(path, name)
            if beside is not None:
                try:
                    self.picture = open_picture(beside.read_bytes(), name)
                except Problem:
                    self.picture = None  # it has a plain colour
        elif diffuse is not None and len(diffuse) >= 3:
            self.colour = np.array([[*(float(c) for c in tuple(diffuse)[:3]), alpha]])


def _in_node(node: Any, moved: NDArray[np.float64], groups: tuple[str, ...], materials: dict[str, _Look]) -> Iterator[MeshObject]:
    """What a node and those in it show; a node that only holds others is a group."""
    if len(groups) > DEEPEST:
        return
    if isinstance(node, collada.scene.NodeNode):  # an instance of a node of the library
        yield from _in_node(node.node, moved, groups, materials)
        return
    if not isinstance(node, collada.scene.Node):
        return
    here = moved @ np.asarray(node.matrix, float)
    name = str(node.xmlnode.get("name") or node.id or "") if node.xmlnode is not None else str(node.id or "")
    shown = [child for child in node.children if isinstance(child, collada.scene.GeometryNode)]
    pieces = tuple(piece for child in shown for piece in _pieces(child, here, materials))
    inner = [child for child in node.children if child not in shown]
    if pieces:
        yield MeshObject(name or str(shown[0].geometry.name or "Part"), pieces, groups)
    for child in inner:
        yield from _in_node(child, here, (*groups, name) if name else groups, materials)


def _pieces(shown: Any, moved: NDArray[np.float64], materials: dict[str, _Look]) -> Iterator[MeshPiece]:
    """The primitives of a geometry that are surfaces, each in its material."""
    bound = {m.symbol: m.target.id for m in shown.materials if getattr(m, "target", None) is not None}
    for primitive in shown.geometry.primitives:
        if isinstance(primitive, collada.polylist.Polylist | collada.polygons.Polygons):
            primitive = primitive.triangleset()
        if not isinstance(primitive, collada.triangleset.TriangleSet) or primitive.vertex_index is None:
            continue
        faces = np.asarray(primitive.vertex_index, np.int64).reshape(-1, 3)
        if not len(faces):
            continue
        used, numbered = np.unique(faces, return_inverse=True)
        vertices = np.asarray(primitive.vertex, float)[used] @ moved[:3, :3].T + moved[:3, 3]
        faces = numbered.reshape(-1, 3)
        if np.linalg.det(moved[:3, :3]) < 0:
            faces = faces[:, ::-1]
        look = materials.get(bound.get(primitive.material, primitive.material or ""))
        laid = None
        if look is not None and look.picture is not None and primitive.texcoordset:
            corners = np.asarray(primitive.texcoordset[0], float)[
                np.asarray(primitive.texcoord_indexset[0], np.int64).reshape(-1, 3)
            ]
            laid = corners[:, ::-1] if np.linalg.det(moved[:3, :3]) < 0 else corners
            laid = laid[..., :2]
        colour = _own_colours(primitive)
        if colour is None:
            colour = look.colour if look is not None else np.array([DEFAULT_COLOUR])
        picture = None if laid is None or look is None else look.picture
        yield MeshPiece(vertices, faces, colour, look.name if look is not None else "", picture, laid)


def _own_colours(primitive: Any) -> NDArray[np.float64] | None:
    """(m, 4) the mean colour of the corners of each face, where a primitive has colours at its corners."""
    sources = primitive.sources.get("COLOR") if hasattr(primitive.sources, "get") else None
    if not sources or not len(primitive.index):
        return None
    place, given = sources[0][0], np.asarray(sources[0][4].data, float)
    index = np.asarray(primitive.index)[:, :, place]
    if given.ndim != 2 or given.shape[1] < 3 or index.max() >= len(given):
        return None
    mean = given[index].mean(axis=1)
    return mean[:, :4] if mean.shape[1] >= 4 else np.column_stack([mean[:, :3], np.ones(len(mean))])
