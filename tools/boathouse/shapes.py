"""Closed meshes for the demo building: prisms, beams, hulls. Metres; faces wound outward."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any

import mapbox_earcut
import numpy as np
import shapely
from numpy.typing import NDArray

Point = Sequence[float] | NDArray[Any]
"""Two or three coordinates in metres."""
Mesh = tuple[NDArray[np.float64], NDArray[np.int64]]
Height = Callable[[NDArray[np.float64]], NDArray[np.float64]]
"""(n, 2) plan points → (n,) heights."""


def join(*meshes: Mesh) -> Mesh:
    """Several meshes as one."""
    offsets = np.cumsum([0] + [len(v) for v, _ in meshes[:-1]])
    return np.concatenate([v for v, _ in meshes]), np.concatenate([f + o for (_, f), o in zip(meshes, offsets)])


def moved(mesh: Mesh, by: Point) -> Mesh:
    """The mesh shifted."""
    return mesh[0] + np.asarray(by, float), mesh[1]


def turned(mesh: Mesh, degrees: float) -> Mesh:
    """The mesh turned about Z, anticlockwise."""
    a = math.radians(degrees)
    turn = np.array([[math.cos(a), math.sin(a), 0], [-math.sin(a), math.cos(a), 0], [0, 0, 1]])
    return mesh[0] @ turn, mesh[1]


def box(lower: Point, upper: Point) -> Mesh:
    """An upright box between two corners."""
    low, high = np.asarray(lower, float), np.asarray(upper, float)
    return prism(shapely.box(low[0], low[1], high[0], high[1]), low[2], high[2])


def prism(outline: shapely.Polygon, bottom: float | Height, top: float | Height) -> Mesh:
    """The solid over a plan polygon (holes allowed) between two surfaces given as heights."""
    outline = shapely.geometry.polygon.orient(outline)
    rings = [np.asarray(r.coords)[:-1] for r in (outline.exterior, *outline.interiors)]
    points = np.concatenate(rings)
    ends = np.cumsum([len(r) for r in rings])
    flat = mapbox_earcut.triangulate_float64(points, ends.astype(np.uint32)).reshape(-1, 3).astype(np.int64)
    a, b, c = points[flat[:, 0]], points[flat[:, 1]], points[flat[:, 2]]
    clockwise = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) < (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    flat[clockwise] = flat[clockwise][:, ::-1]

    def surface(height: float | Height) -> NDArray[np.float64]:
        z = height(points) if callable(height) else np.full(len(points), float(height))
        return np.column_stack([points, z])

    n = len(points)
    sides = []
    begin = 0
    for end in ends:
        here = np.arange(begin, end)
        following = np.roll(here, -1)
        sides += [np.column_stack([here, following, following + n]), np.column_stack([here, following + n, here + n])]
        begin = end
    return np.concatenate([surface(bottom), surface(top)]), np.concatenate([flat[:, ::-1], flat + n, *sides])


def upright(profile: Sequence[tuple[float, float]], start: Point, along: Point, thickness: tuple[float, float]) -> Mesh:
    """A profile in (distance, height) standing on a plan line, thickened to its right between two offsets."""
    direction = np.asarray(along, float) / np.linalg.norm(along)
    right = np.array([direction[1], -direction[0]])
    vertices, faces = prism(shapely.Polygon(profile), 0.0, 1.0)
    low, high = thickness
    across = low + vertices[:, 2] * (high - low)
    plan = np.asarray(start, float) + vertices[:, :1] * direction + across[:, None] * right
    return np.column_stack([plan, vertices[:, 1]]), faces


def beam(start: Point, end: Point, width: float, depth: float) -> Mesh:
    """A straight member of rectangular section, its depth as near upright as it can be."""
    p, q = np.asarray(start, float), np.asarray(end, float)
    axis = (q - p) / np.linalg.norm(q - p)
    side = np.cross(axis, [0, 0, 1.0]) if abs(axis[2]) < 0.99 else np.array([0, 1.0, 0])
    side /= np.linalg.norm(side)
    up = np.cross(side, axis)
    vertices, faces = box((0, -width / 2, -depth / 2), (float(np.linalg.norm(q - p)), width / 2, depth / 2))
    # (axis, −side, up) is right-handed, so the faces stay wound outward.
    return p + vertices[:, :1] * axis - vertices[:, 1:2] * side + vertices[:, 2:] * up, faces


def rod(start: Point, end: Point, radius: float, sides: int = 8) -> Mesh:
    """A round bar."""
    p, q = np.asarray(start, float), np.asarray(end, float)
    axis = (q - p) / np.linalg.norm(q - p)
    side = np.cross(axis, [0, 0, 1.0] if abs(axis[2]) < 0.9 else [1.0, 0, 0])
    side /= np.linalg.norm(side)
    angle = np.arange(sides) / sides * 2 * math.pi
    circle = shapely.Polygon(radius * np.column_stack([np.cos(angle), np.sin(angle)]))
    vertices, faces = prism(circle, 0.0, float(np.linalg.norm(q - p)))
    return p + vertices[:, :1] * side + vertices[:, 1:2] * np.cross(axis, side) + vertices[:, 2:] * axis, faces


def lathe(profile: Sequence[tuple[float, float]], sides: int) -> Mesh:
    """A profile of (distance from Z, height), turned about Z. It is closed by its last point, or by the axis."""
    rings = [np.array(p, float) for p in profile]
    ends = rings[0][0] == 0.0 and rings[-1][0] == 0.0
    angle = np.arange(sides) / sides * 2 * math.pi
    round_z = np.column_stack([np.cos(angle), np.sin(angle)])
    vertices = np.concatenate([np.column_stack([r * round_z, np.full(sides, z)]) for r, z in rings])
    faces = []
    for i in range(len(rings) - (1 if ends else 0)):
        a, b = i * sides, (i + 1) % len(rings) * sides
        k = np.arange(sides)
        n = (k + 1) % sides
        faces += [np.column_stack([a + k, a + n, b + n]), np.column_stack([a + k, b + n, b + k])]
    triangles = np.concatenate(faces)
    if ends:  # the points on the axis are one, and triangles with two of them are none
        triangles[triangles < sides] = 0
        last = (len(rings) - 1) * sides
        triangles[triangles >= last] = last
        a, b, c = triangles.T
        triangles = triangles[(a != b) & (b != c) & (c != a)]
    return outward((vertices, triangles))


def hull(length: float, beam_width: float, depth: float, stations: int = 24, ribs: int = 6) -> Mesh:
    """A racing shell with a skin 12 mm thick, open on top, along X about the origin, keel at z = 0."""
    t = np.linspace(-1.0, 1.0, stations)
    half = 0.5 * beam_width * np.maximum(1.0 - np.abs(t) ** 2.6, 0.02) ** 0.85
    sheer = depth * (0.82 + 0.18 * t * t)
    keel = depth * 0.30 * np.abs(t) ** 5
    angle = np.linspace(-math.pi / 2, math.pi / 2, 2 * ribs + 1)
    skin = 0.012

    def shell(inset: float) -> NDArray[np.float64]:
        y = np.maximum(half[:, None] - inset, 0.002) * np.sin(angle)
        z = sheer[:, None] - np.maximum(sheer - keel - inset, 0.01)[:, None] * np.cos(angle)
        x = np.broadcast_to((t * (length / 2 - inset))[:, None], y.shape)
        return np.stack([x, y, z], axis=-1).reshape(-1, 3)

    across = len(angle)
    outer, inner = shell(0.0), shell(skin)
    count = len(outer)
    i, j = (g.ravel() for g in np.meshgrid(np.arange(stations - 1), np.arange(across - 1), indexing="ij"))
    a, b = i * across + j, (i + 1) * across + j
    skin_faces = np.concatenate([np.column_stack([a, b + 1, b]), np.column_stack([a, a + 1, b + 1])])
    k = np.arange(stations - 1)
    rims = []
    for edge, flip in ((0, False), (across - 1, True)):
        o0, o1 = k * across + edge, (k + 1) * across + edge
        quad = np.concatenate([np.column_stack([o0, o1, o1 + count]), np.column_stack([o0, o1 + count, o0 + count])])
        rims.append(quad[:, ::-1] if flip else quad)
    m = np.arange(across - 1)
    for station, flip in ((0, True), (stations - 1, False)):
        o0, o1 = station * across + m, station * across + m + 1
        quad = np.concatenate([np.column_stack([o0, o1, o1 + count]), np.column_stack([o0, o1 + count, o0 + count])])
        rims.append(quad[:, ::-1] if flip else quad)
    faces = np.concatenate([skin_faces, skin_faces[:, ::-1] + count, *rims])
    return outward((np.concatenate([outer, inner]), faces))


def outward(mesh: Mesh) -> Mesh:
    """The mesh with all faces flipped if it encloses a negative volume."""
    a, b, c = (mesh[0][mesh[1][:, i]] for i in range(3))
    volume = float(np.einsum("ij,ij->", a, np.cross(b, c)))
    return mesh if volume > 0 else (mesh[0], mesh[1][:, ::-1])


def _hull_faces(points: NDArray[np.float64]) -> NDArray[np.int64]:
    """Faces of a small convex solid: the triples with every other point behind them."""
    faces = []
    n = len(points)
    for i in range(n):
        for j in range(i + 1, n):
            for k in range(j + 1, n):
                normal = np.cross(points[j] - points[i], points[k] - points[i])
                side = (points - points[i]) @ normal
                if (side <= 1e-9).all():
                    faces.append((i, j, k))
                elif (side >= -1e-9).all():
                    faces.append((i, k, j))
    return np.array(faces)


def _split(vertices: NDArray[np.float64], faces: NDArray[np.int64]) -> Mesh:
    """Every triangle into four, new points pushed out to the unit ball."""
    edges = np.sort(faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
    unique, number = np.unique(edges, axis=0, return_inverse=True)
    middle = vertices[unique].mean(axis=1)
    middle /= np.linalg.norm(middle, axis=1, keepdims=True)
    ab, bc, ca = (number.reshape(-1, 3) + len(vertices)).T
    a, b, c = faces.T
    return np.concatenate([vertices, middle]), np.concatenate(
        [np.column_stack(t) for t in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))]
    )
