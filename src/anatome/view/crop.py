"""The crop: what of the stage is the picture, in which proportions, and at which scale on paper."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np
from pydantic import Field

from anatome.cuts.plane import Plane
from anatome.values import Value
from anatome.view.camera import Array, Camera
from anatome.view.framing import with_height
from anatome.view.viewport import Frame, Viewport

PAPERS: dict[str, tuple[float, float]] = {
    "A5": (210.0, 148.0),
    "A4": (297.0, 210.0),
    "A3": (420.0, 297.0),
    "A2": (594.0, 420.0),
    "A1": (841.0, 594.0),
    "A0": (1189.0, 841.0),
}
"""Trimmed sheets in mm, lying (ISO 216)."""
INCH_PAPERS: dict[str, tuple[float, float]] = {
    name: (25.4 * long, 25.4 * short)
    for name, long, short in (
        *(("ANSI A", 11, 8.5), ("ANSI B", 17, 11), ("ANSI C", 22, 17), ("ANSI D", 34, 22), ("ANSI E", 44, 34)),
        *(("Arch A", 12, 9), ("Arch B", 18, 12), ("Arch C", 24, 18), ("Arch D", 36, 24), ("Arch E", 48, 36)),
    )
}
"""Trimmed sheets in mm, lying (ANSI/ASME Y14.1 and the architectural sizes, in inches: values from memory)."""
PROPORTIONS: dict[str, float] = {"A-series": math.sqrt(2), "16 : 9": 16 / 9, "3 : 2": 1.5, "4 : 3": 4 / 3, "Square": 1.0}
"""Width over height; all but the square also upright."""
SCALES = (10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0)
"""The usual building scales of ISO 5455 (values from memory)."""
LEAST = 0.02


class Crop(Value):
    """A rectangle on the stage, in shares of the height of the stage's picture, so that it moves with nothing behind it.

    ``aspect`` is its width over its height and ``height`` its height; ``at`` the place of its middle, to the right and up from
    the middle of the stage. Unless ``free``, its proportion stays when it is pulled. ``scale`` is the 50 of 1:50 that is held;
    the paper then follows from what the crop shows. ``line`` says whether its line is drawn on the stage.
    """

    aspect: float = Field(default=1.5, gt=0.02, lt=50.0)
    height: float = Field(default=0.86, gt=LEAST / 2, le=10.0)
    at: tuple[float, float] = (0.0, 0.0)
    free: bool = True
    scale: float | None = Field(default=None, gt=0.001, le=1e6)
    line: bool = True

    @property
    def width(self) -> float:
        return self.aspect * self.height

    def frame(self, height: float = 1000.0) -> Frame:
        """Return the frame of its picture, so many pixels high."""
        # Of an uncropped picture of its own proportions it takes the same share both ways.
        x, y = 0.5 + self.at[0] / self.aspect, 0.5 + self.at[1]
        half = self.height / 2
        return Frame(width=height * self.aspect, height=height, crop=(x - half, y - half, x + half, y + half))

    def sides(self, aspect: float) -> tuple[float, float, float, float]:
        """Return its left, bottom, right and top on a stage of these proportions, from the lower left corner there, in shares of
        its height."""
        x, y = aspect / 2 + self.at[0], 0.5 + self.at[1]
        return x - self.width / 2, y - self.height / 2, x + self.width / 2, y + self.height / 2

    def reach(self, aspect: float) -> float:
        """Return how many times as much a stage of these proportions must show to hold all of it; at least 1."""
        return max(1.0, (self.width + 2 * abs(self.at[0])) / aspect, self.height + 2 * abs(self.at[1]))

    def shrunk(self, factor: float) -> Crop:
        """Return the same picture on a stage that shows ``factor`` times as much."""
        at = self.at[0] / factor, self.at[1] / factor
        return self.model_copy(update={"height": self.height / factor, "at": at})

    def within(self, aspect: float, share: float) -> Crop:
        """No larger than a share of a stage of these proportions, both ways, and inside of that; whatever its own proportion."""
        half = np.array([aspect, 1.0]) * share / 2
        size = np.array([self.width, self.height]) / 2
        low, high = np.maximum(np.array(self.at) - size, -half), np.minimum(np.array(self.at) + size, half)
        if (high - low <= LEAST).any():
            low, high = -half, half
        width, height = (high - low).tolist()
        x, y = ((low + high) / 2).tolist()
        return self.model_copy(update={"aspect": width / height, "height": height, "at": (x, y)})

    def proportioned(self, aspect: float | None) -> Crop:
        """In other proportions about the same middle, with the same area; None leaves it free."""
        if aspect is None:
            return self.model_copy(update={"free": True})
        height = math.sqrt(self.width * self.height / aspect)
        return self.model_copy(update={"aspect": aspect, "height": height, "free": False})

    def paper(self, metres_high: float) -> tuple[float, float] | None:
        """Millimetres of paper across and up, where the stage's picture is so many metres high; None without a scale."""
        if self.scale is None:
            return None
        height = self.height * metres_high * 1000 / self.scale
        return height * self.aspect, height


MARGIN = 0.05
"""Share of its size that a crop is fitted larger than what it holds, on each side."""


def fitted(crop: Crop, stage: Viewport, places: Array, margin: float = MARGIN) -> Crop | None:
    """Return a crop round (n, 3) places in metres as a stage shows them, with a margin; in its proportion unless it is free. None
    where nothing of them is before the eye."""
    spots = stage.pixels(places)
    spots = spots[np.isfinite(spots).all(axis=1)]
    if not len(spots):
        return None
    flat = (spots - [stage.width / 2, stage.height / 2]) / stage.height * [1.0, -1.0]
    low, high = flat.min(axis=0), flat.max(axis=0)
    width, height = np.maximum((high - low) * (1 + 2 * margin), LEAST).tolist()
    if not crop.free:
        height = max(height, width / crop.aspect)
        width = height * crop.aspect
    middle = ((low + high) / 2).tolist()
    aspect = min(max(width / height, 0.021), 49.9)
    return crop.model_copy(update={"aspect": aspect, "height": min(height, 10.0), "at": (middle[0], middle[1])})


def true_plane(camera: Camera, planes: Iterable[Plane]) -> Plane | None:
    """Return the first of some planes that lies before the eye and is seen true: parallel to the plane of the picture."""
    back = camera.axes[2]
    for plane in planes:
        if abs(float(plane.n @ back)) > 1 - 1e-9:
            away = _along(camera, plane) @ -back
            if not camera.is_perspective or away > 1e-6:
                return plane
    return None


def extent_on(camera: Camera, crop: Crop, plane: Plane) -> Array | None:
    """Return (2, 2) metres in a plane's own axes, lower and upper corner of what the crop shows of it.

    None unless the plane is seen true and upright: only then is the crop a rectangle of a drawing of it.
    """
    if true_plane(camera, (plane,)) is None:
        return None
    viewport = Viewport(camera, crop.frame())
    corners = []
    for x, y in ((0.0, viewport.height), (viewport.width, viewport.height), (viewport.width, 0.0), (0.0, 0.0)):
        origin, direction = viewport.ray(x, y)
        corners.append(plane.flat(origin - direction * float(plane.distance(origin)) / float(direction @ plane.n)))
    found = np.array(corners)
    low, high = found.min(axis=0), found.max(axis=0)
    # The corners of an upright rectangle are all made of the same four numbers.
    upright = np.minimum(np.abs(found - low), np.abs(found - high)).max() < 1e-6 * float(np.linalg.norm(high - low))
    return np.stack([low, high]) if upright else None


def height_at(camera: Camera, plane: Plane | None) -> float:
    """Metres that the picture is high in a plane that is seen true; None: in the plane of the target."""
    if plane is None or not camera.is_perspective:
        return camera.height
    return camera.height * float(_along(camera, plane) @ -camera.axes[2]) / camera.distance


def aimed_at(camera: Camera, plane: Plane) -> Camera:
    """Return the same picture with its target in a plane that is seen true."""
    eye, target = np.array(camera.eye), np.array(camera.target)
    if camera.is_perspective:
        return camera.placed(eye, eye + _along(camera, plane), camera.up)
    sight = Viewport.of(camera, 1, 1).eye[:3]
    shift = sight * float(plane.distance(target)) / float(plane.n @ sight)
    return camera.placed(eye - shift, target - shift, camera.up)


def at_scale(camera: Camera, crop: Crop, plane: Plane | None, scale: float, paper_height: float) -> tuple[Camera, Crop]:
    """Return the camera nearer or further off so that the crop is ``paper_height`` mm high at 1:``scale``, true in a plane."""
    aimed = camera if plane is None else aimed_at(camera, plane)
    metres = paper_height / 1000 * scale / crop.height
    return with_height(aimed, metres), crop.model_copy(update={"scale": scale})


def _along(camera: Camera, plane: Plane) -> Array:
    """(3,) from the eye along its axis to a plane across it."""
    back = camera.axes[2]
    return -back * (float(plane.distance(np.array(camera.eye))) / float(plane.n @ back))
