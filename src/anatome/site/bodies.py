"""Ground, neighbours and rough bodies as elements, and the building with them.

They are elements like any other: cut, hidden, picked, measured and sent out as those are. Their types tell them from what
is built, so that nothing is framed or suggested for their sake.
"""

from __future__ import annotations

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.model.assembly import BuildingAssembly
from anatome.model.building import Building, Element
from anatome.model.joining import joined
from anatome.model.kinds import EARTH_TYPES, NEIGHBOUR_TYPE
from anatome.site.digging import pits
from anatome.site.relief import Relief
from anatome.site.site import GROUND_ID, Ground, Neighbours, RoughBody, Site

EARTH = (0.80, 0.77, 0.70, 1.0)
BLOCK = (0.97, 0.965, 0.95, 1.0)
CONCRETE = (0.80, 0.80, 0.79, 1.0)
TYPES = {"slab": "IfcSlab", "footing": "IfcFooting"}
LAYER = "Site"
GRID = 1e-4
"""Metres to which footprints are rounded: what lies closer is one point."""


def with_site(building: Building, site: Site) -> Building:
    """Return the building with the ground and the neighbours of a site, or itself where there are none."""
    if not site.has_bodies:
        return building
    assembly = BuildingAssembly("Site")
    style = assembly.style(BLOCK)
    blocks = placed_blocks(site.neighbours, site.ground)
    for element_id, name, solid in blocks:
        _add(assembly, Element(element_id, name, NEIGHBOUR_TYPE, "", LAYER), solid, style)
    concrete = assembly.style(CONCRETE)
    for body in site.bodies:
        if body.kind != "pit":
            element = Element(body.element, body.name or body.kind.capitalize(), TYPES[body.kind], body.material, LAYER)
            _add(assembly, element, _rough(body), concrete)
    if site.ground is not None:
        solid = ground_solid(building, site.ground, np.array([s.bounding_box() for _, _, s in blocks]).reshape(-1, 6))
        holes = [_rough(body) for body in site.bodies if body.kind == "pit"]
        solid = solid - manifold3d.Manifold.batch_boolean(holes, manifold3d.OpType.Add) if holes else solid
        _add(assembly, Element(GROUND_ID, "Ground", EARTH_TYPES[0], "Earth", LAYER), solid, assembly.style(EARTH))
    return joined(building, assembly.finish()) if assembly.holds_any else building


def _rough(body: RoughBody) -> manifold3d.Manifold:
    return extruded(footprint([np.array(ring) for ring in body.rings]), body.low, body.high)


def _add(assembly: BuildingAssembly, element: Element, solid: manifold3d.Manifold, style: int) -> None:
    mesh = solid.to_mesh64()
    if len(mesh.tri_verts):
        assembly.add(element, np.asarray(mesh.vert_properties)[:, :3], np.asarray(mesh.tri_verts, np.int64), style)


# Neighbours ---------------------------------------------------------------------------------------------------


def placed_blocks(neighbours: Neighbours, ground: Ground | None) -> list[tuple[str, str, manifold3d.Manifold]]:
    """Id, name and body in metres of every block, where its file is placed in the model; on the lowest of the ground under it,
    where nothing is said of its foot."""
    turn = np.radians(neighbours.turned)
    matrix = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    shift = np.array([neighbours.east, neighbours.north])
    found = []
    for block in neighbours.blocks:
        outline = footprint([np.array(ring) @ matrix + shift for ring in block.rings])
        base = block.base
        if not outline.is_empty:
            base = _foot(ground, outline) if base is None else base
            found.append((f"site {block.id}", block.name or "Neighbour", extruded(outline, base, base + block.height)))
    return found


def _foot(ground: Ground | None, outline: shapely.Geometry) -> float:
    if ground is None or ground.relief is None:
        return ground.level if ground else 0.0
    return float(ground.relief.heights_at(shapely.get_coordinates(outline)).min())


def footprint(rings: list[NDArray[np.float64]]) -> shapely.Geometry:
    """Return the area of an outline with courtyards, however its rings are wound and even where they cross themselves."""
    outer, *inner = (shapely.make_valid(shapely.polygons(ring)) for ring in rings)
    return shapely.difference(outer, shapely.union_all(inner)) if inner else outer


def extruded(area: shapely.Geometry, low: float, high: float) -> manifold3d.Manifold:
    """Return an area in metres as an upright body between two heights."""
    polygons = [p for p in shapely.get_parts(shapely.set_precision(area, GRID)) if p.geom_type == "Polygon"]
    # Wound outline left, courtyards right, as the even-odd rule does not ask; manifold3d closes the rings itself.
    contours = [shapely.get_coordinates(ring)[:-1] for ring in shapely.get_rings(polygons)]
    section = manifold3d.CrossSection(contours, manifold3d.FillRule.EvenOdd)
    return manifold3d.Manifold.extrude(section, high - low).translate((0.0, 0.0, low))


# Ground -------------------------------------------------------------------------------------------------------


def ground_solid(building: Building, ground: Ground, blocks: NDArray[np.float64]) -> manifold3d.Manifold:
    """Return the body of the ground under the building and the boxes (n, 6) of its neighbours, with pits where there are rooms
    below."""
    own = building.bounds_of(building.subject(np.ones(len(building.elements), bool)))
    low = np.vstack([own[:1, :2], blocks[:, :2]]).min(axis=0) - ground.beyond
    high = np.vstack([own[1:, :2], blocks[:, 3:5]]).max(axis=0) + ground.beyond
    relief, level = ground.relief, ground.level
    if relief is None:
        top = level
        body = extruded(shapely.box(*low, *high), level - ground.depth, level)
    else:
        low, high = np.maximum(low, relief.corner), np.minimum(high, relief.far_corner)
        if (low >= high).any():
            return manifold3d.Manifold()
        bottom, top = float(relief.grid.min()) - ground.depth, float(relief.grid.max())
        body = earth_under(relief, bottom) ^ extruded(shapely.box(*low, *high), bottom - 1.0, top + 1.0)
        level = relief.highest_in(own[0, :2], own[1, :2])
    dug = [extruded(area, floor, top + 1.0) for area, floor in pits(building, level)]
    return body - manifold3d.Manifold.batch_boolean(dug, manifold3d.OpType.Add) if dug else body


def earth_under(relief: Relief, bottom: float) -> manifold3d.Manifold:
    """Return the earth under a relief, down to a level in metres."""
    grid = relief.grid
    rows, columns = grid.shape
    y, x = np.mgrid[:rows, :columns]
    flat = relief.corner + relief.step * np.stack([x.ravel(), y.ravel()], axis=1)
    top = np.column_stack([flat, np.maximum(grid.ravel(), bottom + GRID)])
    vertices = np.concatenate([top, np.column_stack([flat, np.full(len(flat), bottom)])])
    number = np.arange(rows * columns).reshape(rows, columns)
    a, b, c, d = number[:-1, :-1].ravel(), number[:-1, 1:].ravel(), number[1:, 1:].ravel(), number[1:, :-1].ravel()
    upper = np.concatenate([np.stack([a, b, c], 1), np.stack([a, c, d], 1)])
    rim = np.concatenate([number[0], number[1:, -1], number[-1, -2::-1], number[-2:0:-1, 0]])
    after, under = np.roll(rim, -1), rows * columns
    sides = np.concatenate([np.stack([rim, rim + under, after + under], 1), np.stack([rim, after + under, after], 1)])
    faces = np.concatenate([upper, upper[:, ::-1] + under, sides])
    return manifold3d.Manifold(manifold3d.Mesh64(vertices, faces.astype(np.uint64)))
