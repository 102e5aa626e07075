"""Two buildings as one: what stands round a model is put beside it without working anything out anew."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import Building
from anatome.model.clusters import Clusters
from anatome.model.display import DisplayMesh, display_mesh
from anatome.model.edges import FeatureEdges
from anatome.model.solids import Links


def joined(building: Building, more: Building, keep_storeys: bool = False) -> Building:
    """Return the elements of ``building``, with the same numbers, and those of ``more`` behind them, in no storey or, to
    ``keep_storeys``, in those of ``building`` they say.

    Storeys, spaces, unit and what is said of the file are those of ``building``; so is the centre, for what lies round a
    model must not draw away the point its coordinates are exact about. ``more`` should be small beside ``building``: what is
    derived is worked out for it alone.
    """
    elements, triangles, vertices = len(building.elements), len(building.triangles), len(building.vertices)
    styles = len(building.styles)
    behind = more.elements if keep_storeys else tuple(replace(e, storey=None) for e in more.elements)
    textures = building.textures.with_more(len(more.styles)) if building.textures else None
    if more.textures is not None:
        textures = (building.textures or more.textures.none(styles)).with_these(more.textures)
    whole = replace(
        building,
        elements=(*building.elements, *behind),
        vertices=np.concatenate([building.vertices, more.vertices]),
        triangles=np.concatenate([building.triangles, more.triangles + vertices]),
        triangle_start=np.concatenate([building.triangle_start, more.triangle_start[1:] + triangles]),
        triangle_style=np.concatenate([building.triangle_style, more.triangle_style + styles]),
        styles=np.concatenate([building.styles, more.styles]),
        textures=textures,
        failed=(*building.failed, *more.failed),
    )
    derived = {
        "centre": building.centre,
        "element_of_triangle": np.concatenate([building.element_of_triangle, more.element_of_triangle + elements]),
        "element_bounds": np.concatenate([building.element_bounds, more.element_bounds]),
        "plain_solids": np.concatenate([building.plain_solids, more.plain_solids]),
        "outward": np.concatenate([building.outward, more.outward]),
        "clusters": _clusters(building.clusters, more.clusters, triangles, elements),
        "links": _links(building.links, more.links),
        "feature_edges": _edges(building.feature_edges, more.feature_edges, vertices, elements),
        "display_mesh": _display(building, more, elements, styles),
    }
    whole.__dict__.update(derived)  # where a cached property keeps its value
    return whole


def _clusters(first: Clusters, second: Clusters, members: int, elements: int) -> Clusters:
    return Clusters(
        order=np.concatenate([first.order, second.order + members]),
        start=np.concatenate([first.start, second.start[1:] + members]),
        centre=np.concatenate([first.centre, second.centre]),
        half=np.concatenate([first.half, second.half]),
        element=np.concatenate([first.element, second.element + elements]),
        kind=np.concatenate([first.kind, second.kind]),
    )


def _links(first: Links, second: Links) -> Links:
    twin = np.where(second.twin < 0, second.twin, second.twin + len(first.twin))
    return Links(np.concatenate([first.twin, twin]), np.concatenate([first.closed, second.closed]))


def _edges(first: FeatureEdges, second: FeatureEdges, vertices: int, elements: int) -> FeatureEdges:
    def both(name: str, more: int = 0) -> NDArray[np.generic]:
        one, other = getattr(first, name), getattr(second, name)
        return np.concatenate([one, other + one.dtype.type(more) if more else other])

    return FeatureEdges(
        ends=both("ends", vertices),  # type: ignore[arg-type]
        element=both("element", elements),  # type: ignore[arg-type]
        sharp=both("sharp"),  # type: ignore[arg-type]
        normals=both("normals"),  # type: ignore[arg-type]
        clusters=_clusters(first.clusters, second.clusters, len(first.ends), elements),
        longest=both("longest"),  # type: ignore[arg-type]
    )


def _display(building: Building, more: Building, elements: int, styles: int) -> DisplayMesh:
    own = display_mesh(
        more.vertices,
        more.triangles,
        more.normals,
        more.element_of_triangle + elements,
        more.triangle_style + styles,
        more.clusters.order,
        building.centre,
    )
    there = building.display_mesh
    triangles = own.triangles + np.uint32(len(there.vertices))
    return DisplayMesh(np.concatenate([there.vertices, own.vertices]), np.concatenate([there.triangles, triangles]))
