"""Writing the kept part of a cut model: GLB with one node for each element, or STL."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from anatome.cuts.solid import KeptElement
from anatome.model.building import Building
from anatome.problems import Problem

SUFFIXES = (".glb", ".stl")


def mesh_bytes(building: Building, kept: Sequence[KeptElement], suffix: str) -> bytes:
    """Return the file's content. GLB stands Y up in metres (glTF 2.0); STL keeps Z up, in metres.

    Coordinates are single precision in both formats, so a model far from its origin is moved near it, by whole metres; GLB says
    by how far from where its file had it, Z up in metres, as ``origin`` in the extras of its scene.
    Raises Problem for any other suffix.
    """
    import trimesh  # large, and only wanted here

    if suffix not in SUFFIXES:
        raise Problem(f"A cut model is written as {' or '.join(SUFFIXES)}, not “{suffix}”.")
    middle = building.bounds.mean(axis=0)
    shift = np.round(middle) if np.abs(middle).max() > 1000 else np.zeros(3)
    if suffix == ".stl":
        corners = np.concatenate([k.vertices[k.triangles] for k in kept]) - shift
        # Loose triangles are all that STL knows.
        soup = trimesh.Trimesh(corners.reshape(-1, 3), np.arange(3 * len(corners)).reshape(-1, 3), process=False)
        return bytes(trimesh.exchange.stl.export_stl(soup))
    scene = trimesh.Scene(metadata={"origin": (np.array(building.origin) + shift).tolist()})
    for k in kept:
        element = building.elements[k.element]
        colour = building.styles[building.triangle_style[building.triangle_start[k.element]]]
        mesh = trimesh.Trimesh(k.vertices - shift, k.triangles, process=False)
        mesh.visual = trimesh.visual.TextureVisuals(
            material=trimesh.visual.material.PBRMaterial(
                name=element.material or element.type, baseColorFactor=colour, metallicFactor=0.0, doubleSided=True
            )
        )
        scene.add_geometry(
            mesh, node_name=element.id, geom_name=element.id, metadata={"name": element.name, "type": element.type}
        )
    to_y_up = np.array([[1, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1]], float)
    scene.apply_transform(to_y_up)
    return bytes(scene.export(file_type="glb"))
