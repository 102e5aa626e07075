"""Writing the pieces of a scale model: 3MF with all of them side by side, or an STL each; in mm, Z up."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from anatome.problems import Problem

SUFFIXES = (".3mf", ".stl")
APART = 6.0
"""Mm between pieces that lie side by side."""
Mesh = tuple[str, NDArray[np.float64], NDArray[np.int64]]
"""A name, (n, 3) mm and (m, 3) triangles."""


def files_of(pieces: Sequence[Mesh], path: Path) -> dict[Path, bytes]:
    """Return what is written for a path: a 3MF, or an STL for each piece, with its name where there are several. Raises
    Problem for another ending."""
    suffix = path.suffix.lower()
    if suffix == ".3mf":
        return {path: threemf_bytes(pieces)}
    if suffix != ".stl":
        raise Problem(f"A model to print is written as {' or '.join(SUFFIXES)}, not “{path.suffix}”.")
    if len(pieces) == 1:
        return {path: stl_bytes(pieces[0])}
    return {path.with_name(f"{path.stem} {piece[0]}.stl"): stl_bytes(piece) for piece in pieces}


def threemf_bytes(pieces: Iterable[Mesh]) -> bytes:
    """Return a 3MF file (3MF core specification, millimetres) with an object for each piece, standing on 0 side by side."""
    import trimesh

    scene, at = trimesh.Scene(), 0.0
    for name, places, triangles in pieces:
        low, high = places.min(axis=0), places.max(axis=0)
        mesh = trimesh.Trimesh(places - low + [at, 0.0, 0.0], triangles, process=False)
        scene.add_geometry(mesh, node_name=name, geom_name=name)
        at += float(high[0] - low[0]) + APART
    return bytes(scene.export(file_type="3mf"))


def stl_bytes(piece: Mesh) -> bytes:
    """Return one piece as a binary STL, standing on 0."""
    import trimesh

    _, places, triangles = piece
    return bytes(trimesh.exchange.stl.export_stl(trimesh.Trimesh(places - places.min(axis=0), triangles, process=False)))
