"""Reading pictures: colours of the look, and where polygons project."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from PIL import Image, ImageDraw
from scipy.ndimage import binary_dilation, binary_erosion

from anatome.cuts.section import Section
from anatome.look.look import Look
from anatome.view.camera import Camera

POCHE, POCHE_EARTH, INK = (np.round(np.array(c) * 255) for c in (Look().poche, Look().poche_earth, Look().ink))


def close_to(picture: NDArray[np.uint8], colour: NDArray[np.float64], within: int = 10) -> NDArray[np.bool_]:
    """(h, w) mask of the pixels of about this colour."""
    return np.asarray(np.abs(picture[..., :3].astype(int) - colour).max(axis=2) <= within)


def poche_mask(picture: NDArray[np.uint8]) -> NDArray[np.bool_]:
    return close_to(picture, POCHE) | close_to(picture, POCHE_EARTH)


def projected(section: Section, camera: Camera, size: tuple[int, int], margin: int = 3) -> tuple[NDArray, NDArray]:
    """Masks of what lies well inside the projected polygons of a section, and well outside all of them."""
    width, height = size
    image = Image.new("1", size)
    draw = ImageDraw.Draw(image)
    for polygon in shapely.get_parts(shapely.union_all(section.polygons)):
        for ring, fill in ((polygon.exterior, 1), *((hole, 0) for hole in polygon.interiors)):
            points = section.plane.raised(shapely.get_coordinates(ring))
            flat, _ = camera.project(points, width / height)
            pixels = np.column_stack([(flat[:, 0] + 1) / 2 * width, (1 - flat[:, 1]) / 2 * height])
            draw.polygon([tuple(p) for p in pixels.tolist()], fill=fill)
    mask = np.array(image)
    return binary_erosion(mask, iterations=margin), ~binary_dilation(mask, iterations=margin)
