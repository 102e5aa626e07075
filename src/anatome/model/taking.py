"""Some elements of a building, in another order, with all that is derived: nothing is worked out anew."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import Building
from anatome.model.clusters import Clusters
from anatome.model.display import DisplayMesh
from anatome.model.edges import FeatureEdges
from anatome.model.ranges import laid_end_to_end
from anatome.model.solids import Links

Numbers = NDArray[np.int64]


def taken(building: Building, order: Sequence[int] | Numbers) -> Building:
    """Return the building with the elements of some numbers alone, in their ``order`` (k,); each at most once. The centre stays,
    about which coordinates are exact."""
    chosen = np.asarray(order, np.int64)
    rank = np.full(len(building.elements), -1)
    rank[chosen] = np.arange(len(chosen))

    triangles = _ordered(rank[building.element_of_triangle])
    owner = np.zeros(len(building.vertices), np.int64)
    owner[building.triangles] = building.element_of_triangle[:, None]
    vertices = _ordered(rank[owner])
    vertex_at, triangle_at = _places(vertices, len(building.vertices)), _places(triangles, len(building.triangles))
    sizes = np.diff(building.triangle_start)[chosen]
    found = replace(
        building,
        elements=tuple(building.elements[i] for i in chosen.tolist()),
        vertices=building.vertices[vertices],
        triangles=vertex_at[building.triangles[triangles]],
        triangle_start=np.concatenate([[0], np.cumsum(sizes)]).astype(np.int64),
        triangle_style=building.triangle_style[triangles],
    )
    clusters, members = _clusters(building.clusters, rank, triangle_at)
    twin = building.links.twin.reshape(-1, 3)[triangles].ravel()
    edges = building.feature_edges
    edge_at = _places(laid_end_to_end(*_ends(edges.clusters, _ordered(rank[edges.clusters.element]))), len(edges.ends))
    edge_clusters, of_edge = _clusters(edges.clusters, rank, edge_at)
    derived = {
        "centre": building.centre,
        "element_of_triangle": rank[building.element_of_triangle[triangles]],
        "element_bounds": building.element_bounds[chosen],
        "plain_solids": building.plain_solids[chosen],
        "outward": building.outward[chosen],
        "clusters": clusters,
        "links": Links(
            np.where(twin < 0, twin, 3 * triangle_at[twin.clip(0) // 3] + twin.clip(0) % 3), building.links.closed[chosen]
        ),
        "feature_edges": FeatureEdges(
            ends=vertex_at[edges.ends[of_edge]].astype(np.uint32),
            element=rank[edges.element[of_edge]].astype(np.int32),
            sharp=edges.sharp[of_edge],
            normals=edges.normals[of_edge],
            clusters=edge_clusters,
            longest=edges.longest[_ordered(rank[edges.clusters.element])],
        ),
        "display_mesh": _display(building.display_mesh, rank, members),
    }
    found.__dict__.update(derived)  # where a cached property keeps its value
    return found


def with_fewest_styles(building: Building) -> Building:
    """Return the same with every colour once: of a building without pictures on its surfaces."""
    if building.textures is not None:
        return building
    styles, first, number = np.unique(building.styles, axis=0, return_index=True, return_inverse=True)
    used = np.zeros(len(styles), bool)
    used[number.ravel()[building.triangle_style]] = True
    # In the order in which they came, as a reader enters them.
    kept = np.flatnonzero(used)[np.argsort(first[used])]
    place = np.full(len(styles), 0)
    place[kept] = np.arange(len(kept))
    to = place[number.ravel()]
    found = building.otherwise(styles=styles[kept], triangle_style=to[building.triangle_style])
    vertices = building.display_mesh.vertices.copy()
    vertices["style"] = to[vertices["style"]]
    found.__dict__["display_mesh"] = DisplayMesh(vertices, building.display_mesh.triangles)
    return found


def _ordered(rank: Numbers) -> Numbers:
    """What has a rank, in the order of the ranks."""
    there = np.flatnonzero(rank >= 0)
    return there[np.argsort(rank[there], kind="stable")]


def _places(order: Numbers, count: int) -> Numbers:
    """(count,) where each of some numbers stands in an order; −1 for those that do not."""
    found = np.full(count, -1)
    found[order] = np.arange(len(order))
    return found


def _ends(clusters: Clusters, chosen: Numbers) -> tuple[Numbers, Numbers]:
    return clusters.start[chosen], clusters.start[chosen + 1]


def _clusters(clusters: Clusters, rank: Numbers, place: Numbers) -> tuple[Clusters, Numbers]:
    """Clusters of elements that have a rank, their members renumbered; and which of the old places those have, in order."""
    chosen = _ordered(rank[clusters.element])
    first, last = _ends(clusters, chosen)
    members = laid_end_to_end(first, last)
    found = Clusters(
        order=place[clusters.order[members]],
        start=np.concatenate([[0], np.cumsum(last - first)]).astype(np.int64),
        centre=clusters.centre[chosen],
        half=clusters.half[chosen],
        element=rank[clusters.element[chosen]],
        kind=clusters.kind[chosen],
    )
    return found, members


def _display(mesh: DisplayMesh, rank: Numbers, members: Numbers) -> DisplayMesh:
    """Its triangles in the order of clusters, and the vertices of elements that have a rank."""
    kept = np.flatnonzero(rank[mesh.vertices["element"]] >= 0)
    place = _places(kept, len(mesh.vertices))
    vertices = mesh.vertices[kept]
    vertices["element"] = rank[vertices["element"]]
    return DisplayMesh(vertices, place[mesh.triangles[members]].astype(np.uint32))
