"""Surfaces of a DXF file as objects, through ezdxf: faces, meshes, polyface meshes, solids with flat faces, blocks and layers."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
from ezdxf import colors, recover
from ezdxf.acis import api as acis
from ezdxf.render import MeshBuilder
from numpy.typing import NDArray

from anatome.formats.mesh_objects import MeshFile, MeshObject, MeshPiece, triangles_of
from anatome.problems import Problem

METRES = {1: 0.0254, 2: 0.3048, 4: 0.001, 5: 0.01, 6: 1.0}
"""Metres in the units of $INSUNITS (DXF reference): inches, feet, millimetres, centimetres, metres."""
DEEPEST = 30
"""Blocks in blocks."""
SOLIDS = ("3DSOLID", "BODY", "REGION", "SURFACE")
FLAT = ("3DFACE", "SOLID", "TRACE")
LINES = ("LINE", "LWPOLYLINE", "POLYLINE", "CIRCLE", "ARC", "ELLIPSE", "SPLINE")
TEXTS = ("TEXT", "MTEXT", "POINT", "DIMENSION", "HATCH")


@dataclass
class _Loose:
    """Faces that stand by themselves, by layer and colour, until they are one object of their layer."""

    faces: dict[tuple[str, tuple[float, ...]], list[NDArray[np.float64]]] = field(default_factory=lambda: defaultdict(list))


def dxf_file(path: Path) -> MeshFile:
    """Return the objects of a file: a mesh, a polyface mesh or a solid each; faces that stand alone are one object for each layer
    of the block they are in. A block put into the drawing is a group. What is on layers that are off is left out.

    Raises Problem when it cannot be read or has no surfaces.
    """
    try:
        drawing = _drawing(path)
    except (OSError, ezdxf.DXFError) as error:
        raise Problem(f"“{path.name}” cannot be read as DXF; it may be cut short. Export it again. ({error})") from error
    reader = _Reader(drawing)
    objects = list(reader.objects(drawing.modelspace(), "", (), 0))
    if not objects:
        lines = sum(reader.passed[kind] for kind in LINES + TEXTS)
        has = f"It holds {lines:,} lines and texts, but no surfaces. " if lines else ""
        raise Problem(f"“{path.name}” holds no faces to draw. {has}Export the model with its surfaces, as 3D DXF.")
    remarks = []
    if reader.hidden:
        remarks.append(f"{reader.hidden:,} shapes on layers that are off are left out.")
    curved = sum(reader.passed[kind] for kind in SOLIDS)
    if curved:
        remarks.append(f"{curved:,} solids with curved faces could not be read: export them as meshes.")
    if reader.passed["XREF"]:
        remarks.append(f"{reader.passed['XREF']:,} other drawings are attached, and were not read: bind them when exporting.")
    metres = METRES.get(int(drawing.header.get("$INSUNITS", 0)))
    return MeshFile(tuple(objects), "z", metres, tuple(remarks))


def _drawing(path: Path) -> Any:
    """A drawing as it is, text or binary; mended where it is damaged."""
    try:
        return ezdxf.readfile(str(path))
    except ezdxf.DXFError:
        return recover.readfile(str(path))[0]


class _Reader:
    """Goes through a drawing; ``passed`` counts by kind what is no surface, ``hidden`` what is on layers that are off."""

    def __init__(self, drawing: Any) -> None:
        self._drawing = drawing
        self.passed: Counter[str] = Counter()
        self.hidden = 0
        self._layers = {layer.dxf.name.lower(): layer for layer in drawing.layers}

    def objects(
        self, entities: Iterable[Any], block: str, groups: tuple[str, ...], depth: int, mirrored: bool = False
    ) -> Iterator[MeshObject]:
        """What entities of one block show; ``mirrored``, their faces are wound the other way round than in the block."""
        loose = _Loose()
        for entity in entities:
            kind = entity.dxftype()
            if kind == "INSERT":
                if depth < DEEPEST:
                    yield from self._inserted(entity, groups, depth)
                continue
            if kind not in (*FLAT, *SOLIDS, "MESH", "POLYLINE"):
                self.passed[kind] += 1
                continue
            if not self._is_on(entity):
                self.hidden += 1
                continue
            layer, colour = str(entity.dxf.get("layer", "0")), self._colour(entity)
            if kind in FLAT:
                corners = _corners(entity)
                loose.faces[layer, colour].append(corners[::-1] if mirrored else corners)
                continue
            pieces = self._pieces(entity, colour)
            if pieces:
                if mirrored:
                    pieces = tuple(replace(piece, faces=piece.faces[:, ::-1]) for piece in pieces)
                yield MeshObject(block or layer, pieces, groups, layer)
            else:
                self.passed[kind] += 1
        by_layer: dict[str, list[MeshPiece]] = defaultdict(list)
        for (layer, colour), faces in loose.faces.items():
            by_layer[layer].append(_piece_of_faces(faces, colour))
        for layer, own in by_layer.items():
            yield MeshObject(block or layer, tuple(own), groups, layer)

    def _inserted(self, insert: Any, groups: tuple[str, ...], depth: int) -> Iterator[MeshObject]:
        """A block, once or in rows and columns, with what is in it where it lies."""
        name = str(insert.dxf.name)
        if insert.is_xref():  # another file, which is not looked for
            self.passed["XREF"] += 1
            return
        for one in insert.multi_insert() if insert.mcount > 1 else (insert,):
            mirrored = one.matrix44().determinant() < 0
            yield from self.objects(one.virtual_entities(), name, (*groups, name), depth + 1, mirrored)

    def _is_on(self, entity: Any) -> bool:
        layer = self._layers.get(str(entity.dxf.get("layer", "0")).lower())
        return not entity.dxf.get("invisible", 0) and (layer is None or (layer.is_on() and not layer.is_frozen()))

    def _colour(self, entity: Any) -> tuple[float, ...]:
        """Its own colour, or that of its layer."""
        if entity.rgb is not None:
            red, green, blue = entity.rgb
        else:
            number = int(entity.dxf.get("color", colors.BYLAYER))
            layer = self._layers.get(str(entity.dxf.get("layer", "0")).lower())
            if number in (colors.BYLAYER, colors.BYBLOCK) and layer is not None:
                if layer.rgb is not None:
                    return (*(c / 255 for c in layer.rgb), 1.0)
                number = abs(layer.color)
            red, green, blue = colors.aci2rgb(number) if 0 < number < 256 else (214, 209, 201)
            if number == 7:  # black on paper, white on a screen: it says nothing
                red, green, blue = 214, 209, 201
        return red / 255, green / 255, blue / 255, 1.0 - float(entity.transparency)

    def _pieces(self, entity: Any, colour: tuple[float, ...]) -> tuple[MeshPiece, ...]:
        kind = entity.dxftype()
        if kind == "MESH":
            return _built([MeshBuilder.from_mesh(entity)], colour)
        if kind == "POLYLINE" and (entity.is_poly_face_mesh or entity.is_polygon_mesh):
            return _built([MeshBuilder.from_polyface(entity)], colour)
        if kind in SOLIDS:
            try:
                meshes = [mesh for body in acis.load_dxf(entity) for mesh in acis.mesh_from_body(body)]
            except (acis.AcisException, ezdxf.DXFError, TypeError, ValueError, IndexError):
                return ()
            return _built(meshes, colour)
        return ()


def _corners(entity: Any) -> NDArray[np.float64]:
    """(3 or 4, 3) of a face; corners that fall together are one."""
    corners = [tuple(v) for v in entity.wcs_vertices()]
    kept = [v for number, v in enumerate(corners) if v != corners[number - 1]]
    return np.array(kept or corners[:1], float).reshape(-1, 3)


def _piece_of_faces(faces: list[NDArray[np.float64]], colour: tuple[float, ...]) -> MeshPiece:
    starts = np.cumsum([0, *(len(face) for face in faces)])
    triangles = [
        (start, start + i, start + i + 1) for start, face in zip(starts.tolist(), faces) for i in range(1, len(face) - 1)
    ]
    return MeshPiece(np.concatenate(faces), np.array(triangles, np.int64).reshape(-1, 3), np.array([colour]))


def _built(meshes: Iterable[Any], colour: tuple[float, ...]) -> tuple[MeshPiece, ...]:
    found = []
    for mesh in meshes:
        vertices = np.array([tuple(v) for v in mesh.vertices], float).reshape(-1, 3)
        faces = triangles_of(vertices, [list(face) for face in mesh.faces])
        if len(faces):
            found.append(MeshPiece(vertices, faces, np.array([colour])))
    return tuple(found)
