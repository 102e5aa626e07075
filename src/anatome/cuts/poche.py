"""The poché: what of a section is filled, once everywhere.

Rule for overlaps: where elements overlap, what is built is drawn over earth, and the smaller polygon over the larger
one, as a window lies in a wall that has no opening for it. Every point is filled once and none is left out, so the
areas of a poché add up to the area that is covered.
"""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.polygons import polygon_parts
from anatome.cuts.section import Section
from anatome.model.building import Building


def poche(building: Building, found: Section, merge: bool = False) -> Section:
    """Return the section with overlaps resolved and, if asked for, neighbours of one material made into one."""
    resolved = without_overlaps(building, found)
    return merged_by_material(building, resolved) if merge else resolved


def without_overlaps(building: Building, found: Section) -> Section:
    """Give every overlap to one of the elements that share it."""
    polygons, element = found.polygons, found.element
    if len(polygons) < 2:
        return found
    first, second = shapely.STRtree(polygons).query(polygons)
    pair = first < second
    first, second = first[pair], second[pair]
    # Neighbours that only touch are the rule; telling them apart is cheaper than intersecting all of them.
    shapely.prepare(polygons)
    share = ~shapely.touches(polygons[first], polygons[second]) & shapely.intersects(polygons[first], polygons[second])
    first, second = first[share], second[share]
    if not len(first):
        return found
    earth = building.earth[element]
    rank = np.empty(len(polygons), np.int64)
    rank[np.lexsort((element, found.areas, earth))] = np.arange(len(polygons))
    under = np.where(rank[first] > rank[second], first, second)
    over = np.where(rank[first] > rank[second], second, first)
    pieces: list[NDArray[np.object_]] = []
    loser, start = np.unique(np.sort(under), return_index=True)
    over = over[np.argsort(under, kind="stable")]
    for number, above in zip(loser, np.split(over, start[1:])):
        left = polygon_parts(shapely.difference(polygons[number], shapely.union_all(polygons[above])))
        pieces.append(left[shapely.area(left) > building.tolerance * shapely.length(left)])
    others = np.ones(len(polygons), bool)
    others[loser] = False
    owner = np.concatenate([element[others], *(np.full(len(p), element[n]) for n, p in zip(loser, pieces))]).astype(np.int64)
    whole = np.concatenate([polygons[others], *pieces])
    order = np.argsort(owner, kind="stable")
    return Section(found.plane, whole[order], owner[order], found.open_outlines, found.gaps)


def merged_by_material(building: Building, found: Section) -> Section:
    """Unite polygons of one material that touch; each becomes the first element's. Parts without a material stay."""
    names = [building.elements[e].material for e in found.element]
    groups: dict[str, list[int]] = {}
    alone = []
    for i, name in enumerate(names):
        if name:
            groups.setdefault(name, []).append(i)
        else:
            alone.append(i)
    polygons, owners = [found.polygons[alone]], [found.element[alone]]
    for members in groups.values():
        own = found.polygons[members]
        # Neighbours modelled apart by rounding errors still are neighbours.
        united = polygon_parts(shapely.union_all(own, grid_size=max(building.tolerance, 1e-6)))
        part, member = shapely.STRtree(united).query(shapely.point_on_surface(own), predicate="intersects")[::-1]
        least = np.full(len(united), np.iinfo(np.int64).max)
        np.minimum.at(least, part, found.element[members][member])
        least[least == np.iinfo(np.int64).max] = found.element[members[0]]
        polygons.append(united)
        owners.append(least)
    element = np.concatenate(owners).astype(np.int64)
    order = np.argsort(element, kind="stable")
    return Section(found.plane, np.concatenate(polygons)[order], element[order], found.open_outlines, found.gaps)
