"""Making small buildings, and reading pictures and drawings."""

from __future__ import annotations

import re
from collections.abc import Iterable
from pathlib import Path

import numpy as np
import shapely
import trimesh
from lxml import etree
from numpy.typing import NDArray
from PIL import Image, ImageDraw
from scipy.ndimage import binary_dilation, binary_erosion

from anatome.cuts.section import Section
from anatome.look.look import Look
from anatome.model.assembly import BuildingAssembly
from anatome.model.building import Building, Element
from anatome.view.camera import Camera
from anatome.view.viewport import Viewport

POCHE, POCHE_EARTH, POCHE_BESIDE, INK = (
    np.round(np.array(c) * 255) for c in (Look().poche, Look().poche_earth, Look().poche_beside, Look().ink)
)


def made_of(*parts: tuple[str, str, str, trimesh.Trimesh]) -> Building:
    """A building of parts: name, type, material and shape."""
    assembly = BuildingAssembly("parts")
    style = assembly.style((0.9, 0.9, 0.9, 1.0))
    for name, kind, material, mesh in parts:
        assembly.add(Element(name, name, kind, material), mesh.vertices, mesh.faces, style)
    return assembly.finish()


def box(x0: float, y0: float, z0: float, x1: float, y1: float, z1: float) -> trimesh.Trimesh:
    """From its lowest to its highest corner."""
    made = trimesh.creation.box((x1 - x0, y1 - y0, z1 - z0))
    made.apply_translation(((x0 + x1) / 2, (y0 + y1) / 2, (z0 + z1) / 2))
    return made


def close_to(picture: NDArray[np.uint8], colour: NDArray[np.float64], within: int = 10) -> NDArray[np.bool_]:
    """(h, w) mask of the pixels of about this colour."""
    return np.asarray(np.abs(picture[..., :3].astype(int) - colour).max(axis=2) <= within)


def accent_mask(picture: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """(h, w) where a picture (h, w, 3 or 4) shows the colour of cuts and handles."""
    return close_to(picture, np.array([0x2F, 0x7F, 0x73]), 6)


def poche_mask(picture: NDArray[np.uint8], beside: bool = False) -> NDArray[np.bool_]:
    """(h, w) where a plain look fills what is cut; of neighbours, ``beside``, only if wanted: their fill is near to surfaces."""
    built = close_to(picture, POCHE) | close_to(picture, POCHE_EARTH)
    return built | close_to(picture, POCHE_BESIDE, 3) if beside else built


def projected(section: Section, camera: Camera, size: tuple[int, int], margin: int = 3) -> tuple[NDArray, NDArray]:
    """Masks of what lies well inside the projected polygons of a section, and well outside all of them."""
    width, height = size
    image = Image.new("1", size)
    draw = ImageDraw.Draw(image)
    rings = Image.new("1", size)  # what is thinner than a pixel has no inside
    around = ImageDraw.Draw(rings)
    for polygon in shapely.get_parts(shapely.union_all(section.polygons)):
        for ring, fill in ((polygon.exterior, 1), *((hole, 0) for hole in polygon.interiors)):
            points = section.plane.raised(shapely.get_coordinates(ring))
            pixels = Viewport.of(camera, width, height).pixels(points)
            corners = [tuple(p) for p in pixels.tolist()]
            draw.polygon(corners, fill=fill)
            around.line([*corners, corners[0]], fill=1)
    mask = np.array(image)
    return binary_erosion(mask, iterations=margin), ~binary_dilation(mask | np.array(rings), iterations=margin)


def segments(lines: Iterable[NDArray[np.float64]]) -> NDArray[np.float64]:
    """(n, 2, 2) the straight pieces of polylines."""
    return np.concatenate([np.stack([line[:-1], line[1:]], axis=1) for line in lines])


def astray(pieces: NDArray[np.float64], of: NDArray[np.float64], within: float, step: float = 0.5) -> float:
    """How much of straight pieces (n, 2, 2) lies farther than ``within`` from all others (m, 2, 2), as a share of their length,
    told by a place every ``step`` of them."""
    along = pieces[:, 1] - pieces[:, 0]
    lengths = np.linalg.norm(along, axis=1)
    count = np.maximum(np.ceil(lengths / step), 1).astype(int)
    piece = np.repeat(np.arange(len(pieces)), count)
    share = (np.arange(len(piece)) - np.repeat(np.cumsum(count) - count, count) + 0.5) / count[piece]
    places = shapely.points(pieces[piece, 0] + share[:, None] * along[piece])
    near = np.zeros(len(places), bool)
    near[shapely.STRtree(shapely.linestrings(of)).query(places, predicate="dwithin", distance=within)[0]] = True
    return float((lengths / count)[piece[~near]].sum() / max(lengths.sum(), 1e-12))


def seen(camera: Camera, aspect: float) -> Viewport:
    """A camera through a plain frame of these proportions."""
    return Viewport.of(camera, 1000 * aspect, 1000)


def building_of(*meshes: tuple[np.ndarray, np.ndarray], type: str = "IfcWall") -> Building:
    """A building with one element for each (vertices, faces)."""
    assembly = BuildingAssembly("test")
    style = assembly.style((0.8, 0.8, 0.8, 1.0))
    for i, (vertices, faces) in enumerate(meshes):
        assembly.add(Element(f"e{i}", f"Part {i}", type), vertices, faces, style)
    return assembly.finish()


def svg_polygons(path: Path) -> dict[str, shapely.Geometry]:
    """Layer/id → geometry in mm, y downwards, built from nothing but the file."""
    root = etree.parse(str(path)).getroot()
    found: dict[str, shapely.Geometry] = {}
    for group in root.iterfind("{*}g"):
        assert group.get("fill-rule") == "evenodd"
        for element in group.iterfind("{*}path"):
            if element.get("fill") == "none":
                continue
            shape = shapely.Polygon()
            for ring in element.get("d").split("Z"):
                points = [tuple(map(float, p.split(","))) for p in re.findall(r"[-\d.]+,[-\d.]+", ring)]
                if points:
                    shape = shapely.symmetric_difference(shape, shapely.Polygon(points))
            found[f"{group.get('id')}/{element.get('data-id')}"] = shape
    return found
