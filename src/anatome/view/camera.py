"""The camera as a value, and its moves. Where things are in its picture is asked of a viewport."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from anatome.cuts.moves import rotation
from anatome.cuts.plane import Plane
from anatome.model.bounds import bounds_round, corners_of
from anatome.values import FARTHEST, Value

Projection = Literal["perspective", "parallel"]
Vec = tuple[float, float, float]
Array = NDArray[np.float64]


class Camera(Value):
    """``eye`` looks at ``target`` (metres, Z up). ``field`` is the vertical angle of view in degrees.

    In a parallel projection the height of the picture in metres is the height the same camera would show in
    perspective at its target, so switching the projection keeps the size of what is looked at.

    ``shear`` is how far to the right and up on the picture a metre before the plane of the target moves things: an
    oblique projection. In that plane everything stays true. ``shift`` moves the lens sideways and up, in shares of the height
    of the picture, so that verticals stay vertical.
    """

    eye: Vec
    target: Vec
    up: Vec = (0.0, 0.0, 1.0)
    projection: Projection = "perspective"
    field: float = Field(default=35.0, gt=0.01, lt=150.0)
    shear: tuple[float, float] = (0.0, 0.0)
    shift: tuple[float, float] = (0.0, 0.0)

    @model_validator(mode="after")
    def _looks_somewhere(self) -> Camera:
        places = np.array([self.eye, self.target])
        if np.abs(places).max() > FARTHEST or not math.dist(*places) > 1e-9 or not math.hypot(*self.up) > 1e-9:
            raise ValueError("a camera looks from one place to another, with something upwards")
        if max(map(abs, self.shear)) > 100:
            raise ValueError("a shear moves things by at most a hundred metres a metre")
        if max(map(abs, self.shift)) > 10:
            raise ValueError("a lens is shifted by at most ten times the height of the picture")
        return self

    @property
    def is_perspective(self) -> bool:
        return self.projection == "perspective"

    @property
    def is_oblique(self) -> bool:
        """Whether lines of sight meet the picture at a slant."""
        return not self.is_perspective and self.shear != (0.0, 0.0)

    @property
    def distance(self) -> float:
        """From eye to target, metres."""
        return math.dist(self.eye, self.target)

    @property
    def height(self) -> float:
        """Height in metres of the picture at the target."""
        return 2.0 * self.distance * math.tan(math.radians(self.field) / 2)

    @property
    def axes(self) -> tuple[Array, Array, Array]:
        """Unit vectors: right, up, and back (from target to eye)."""
        back = np.subtract(self.eye, self.target)
        back = back / np.linalg.norm(back)
        up = np.array(self.up, float)
        if abs(up @ back) > np.linalg.norm(up) * (1 - 1e-9):
            up = np.array([0.0, 1.0, 0.0]) if abs(back[2]) > 0.9 else np.array([0.0, 0.0, 1.0])
        right = np.cross(up, back)
        right /= np.linalg.norm(right)
        return right, np.cross(back, right), back

    # Moves ---------------------------------------------------------------------------------------------------

    def placed(self, eye: Array, target: Array, up: Vec | None = None) -> Camera:
        """Return the camera somewhere else, looking elsewhere."""
        values = {"eye": vec(eye), "target": vec(target)}
        return self.model_copy(update=values | ({"up": up} if up else {}))

    def orbited(self, across: float, upward: float, pivot: Array | None = None) -> Camera:
        """Turned about ``pivot`` (the target if None): ``across`` degrees about the vertical, ``upward`` over it.

        The horizon stays level; the camera stops short of looking straight up or down past the pole. An oblique projection
        keeps true what it draws true, and the eye goes round by other receding lines.
        """
        if self.is_oblique:
            return self._turned_oblique(across, upward, np.array(self.target) if pivot is None else pivot)
        centre = np.array(self.target) if pivot is None else pivot
        right, _, back = self.axes
        elevation = math.degrees(math.asin(max(-1.0, min(1.0, back[2]))))
        upward = max(-89.9 - elevation, min(89.9 - elevation, upward))
        turn = rotation(np.array([0.0, 0.0, 1.0]), across) @ rotation(right, -upward)
        # Straight up or down, "up" must be what was up on the picture, else the view would spin.
        return self.placed(
            centre + turn @ (np.array(self.eye) - centre), centre + turn @ (np.array(self.target) - centre), (0.0, 0.0, 1.0)
        )

    def _turned_oblique(self, across: float, upward: float, pivot: Array) -> Camera:
        """The eye of an oblique projection moved round, with ``pivot`` kept where it is in the picture."""
        arm, (right, up, back) = pivot - np.array(self.target), self.axes
        at = np.array([arm @ right, arm @ up]) + np.array(self.shear) * (arm @ back)
        if abs(back[2]) > 1 - 1e-9:
            # Plan oblique: the plan is turned, and what stands on it gets longer or shorter.
            turned = rotation(np.array([0.0, 0.0, 1.0]), across) @ up
            length = self.shear[1] * (1.0 - OBLIQUE_TURN * upward * (1 if back[2] > 0 else -1))
            made = self.model_copy(update={"up": vec(turned), "shear": (self.shear[0], _held(length))})
        else:
            x, y = self.shear[0] - OBLIQUE_TURN * across, self.shear[1] - OBLIQUE_TURN * upward
            longest = max(1.0, math.hypot(x, y) / LONGEST_RATIO)
            made = self.model_copy(update={"shear": (x / longest, y / longest)})
        right, up, back = made.axes
        off = np.array([arm @ right, arm @ up]) + np.array(made.shear) * (arm @ back) - at
        return made.placed(made.eye + right * off[0] + up * off[1], made.target + right * off[0] + up * off[1], made.up)

    def panned(self, across: float, upward: float) -> Camera:
        """Shifted so that everything moves by metres to the right and up on the picture."""
        right, up, _ = self.axes
        shift = -(right * across + up * upward)
        return self.placed(np.array(self.eye) + shift, np.array(self.target) + shift)

    def zoomed(self, factor: float, towards: Array) -> Camera:
        """Return everything ``factor`` times nearer to ``towards``, which keeps its place in the picture."""
        eye = towards + (np.array(self.eye) - towards) / factor
        target = towards + (np.array(self.target) - towards) / factor
        return self.placed(eye, target)

    def with_field(self, degrees: float) -> Camera:
        """Another angle of view, from so much further off that what lies at the target keeps its size."""
        distance = self.height / 2 / math.tan(math.radians(degrees) / 2)
        target = np.array(self.target)
        return self.model_copy(update={"field": degrees}).placed(target + self.axes[2] * distance, target)

    def widened(self, factor: float) -> Camera:
        """Showing ``factor`` times the height at the target, from the same place."""
        shift = (self.shift[0] / factor, self.shift[1] / factor)
        if self.projection == "parallel":
            eye = np.array(self.target) + (np.array(self.eye) - np.array(self.target)) * factor
            return self.model_copy(update={"shift": shift}).placed(eye, np.array(self.target))
        field = 2 * math.degrees(math.atan(math.tan(math.radians(self.field) / 2) * factor))
        return self.model_copy(update={"field": min(field, 149.0), "shift": shift})

    def fitted(self, bounds: Array, aspect: float, margin: float = 1.08) -> Camera:
        """Moved, without turning, so that the (2, 3) bounds fill the picture."""
        return self.fitted_round(corners_of(bounds), aspect, margin)

    def fitted_round(self, points: Array, aspect: float, margin: float = 1.08) -> Camera:
        """Moved, without turning, so that (n, 3) points fill the picture; in parallel projection they lie in its middle."""
        centre = bounds_round(points).mean(axis=0)
        right, up, back = self.axes
        x, y, z = (points - centre) @ right, (points - centre) @ up, (points - centre) @ back
        slope = math.tan(math.radians(self.field) / 2)
        if not self.is_perspective:
            x, y = x + self.shear[0] * z, y + self.shear[1] * z
            across, upward = (x.min() + x.max()) / 2, (y.min() + y.max()) / 2
            centre = centre + right * across + up * upward
            x, y = x - across, y - upward
            distance = max(margin * float(max(np.abs(x).max() / aspect, np.abs(y).max())) / slope, 0.1)
            # Where lines of sight are parallel, a lens that is shifted only shows another part.
            return self.model_copy(update={"shift": (0.0, 0.0)}).placed(centre + back * distance, centre)
        # Seen through the middle of a picture whose lens is shifted, what lies z nearer moves by 2 · shift · z more.
        x, y = x / slope + 2 * self.shift[0] * z, y / slope + 2 * self.shift[1] * z
        distance = max(float(np.max(margin * np.maximum(np.abs(x) / aspect, np.abs(y)) + z)), 0.1)
        aim = centre - (right * self.shift[0] + up * self.shift[1]) * 2 * distance * slope
        return self.placed(aim + back * distance, aim)


SQUARE = 1e-6
"""Radians by which a view may be off and still be square."""
OBLIQUE_TURN = 0.015
"""By how much receding lines change for a degree the eye of an oblique projection is moved round."""
SHORTEST_RATIO, LONGEST_RATIO = 0.1, 1.5


def _held(length: float) -> float:
    """A ratio with its sign, kept between what can be drawn usefully."""
    return math.copysign(min(max(abs(length), SHORTEST_RATIO), LONGEST_RATIO), length)


def vec(values: Array) -> Vec:
    """Three numbers as a value keeps them."""
    return (float(values[0]), float(values[1]), float(values[2]))


FACES: dict[str, tuple[Vec, Vec]] = {
    "Front": ((0, -1, 0), (0, 0, 1)),
    "Back": ((0, 1, 0), (0, 0, 1)),
    "Left": ((-1, 0, 0), (0, 0, 1)),
    "Right": ((1, 0, 0), (0, 0, 1)),
    "Top": ((0, 0, 1), (0, 1, 0)),
    "Underside": ((0, 0, -1), (0, 1, 0)),
}
"""Standard views square on to the model: direction from target to eye, and up."""

# Isometric: equal angles to the three axes, so the eye stands atan(1/√2) ≈ 35.26° above the horizon (ISO 5456-3).
CORNERS: dict[str, tuple[Vec, Vec]] = {
    "Axonometric, front left": ((-1, -1, 1), (0, 0, 1)),
    "Axonometric, front right": ((1, -1, 1), (0, 0, 1)),
    "Axonometric, back right": ((1, 1, 1), (0, 0, 1)),
    "Axonometric, back left": ((-1, 1, 1), (0, 0, 1)),
}


def standard_view(name: str, bounds: Array, aspect: float, field: float = 35.0) -> Camera:
    """Return one of FACES or CORNERS, in parallel projection, fitted to the bounds. Raises KeyError for another name."""
    direction, up = (FACES | CORNERS)[name]
    centre = bounds.mean(axis=0)
    camera = Camera(eye=vec(centre + np.array(direction, float)), target=vec(centre), up=up, projection="parallel", field=field)
    return camera.fitted(bounds, aspect)


def first_camera(bounds: Array, aspect: float = 1.5) -> Camera:
    """Return how a model of (2, 3) bounds is first seen: in perspective, from the front left and above."""
    corner = standard_view("Axonometric, front left", bounds, aspect)
    lower = corner.orbited(-8.0, -14.0, bounds.mean(axis=0)).model_copy(update={"projection": "perspective"})
    return lower.fitted(bounds, aspect)


def is_square(camera: Camera, directions: Iterable[float]) -> bool:
    """Return whether a camera looks straight down or up, or level and square at walls that run in these ``directions``, degrees
    in [0, 90): a plan, an elevation, a section, or a one-point perspective of one."""
    x, y, z = camera.axes[2].tolist()
    if abs(z) > 1.0 - SQUARE:
        return True
    turn = math.degrees(math.atan2(y, x)) % 90.0
    near = min((min(abs(turn - d), 90.0 - abs(turn - d)) for d in (0.0, *directions)), default=90.0)
    return abs(z) < SQUARE and near < 1e-3


def square_on(plane: Plane, bounds: Array, aspect: float, camera: Camera) -> Camera:
    """Face on to a cut and standing well back, so that the cut face fills the picture.

    The target lies on the plane, before the middle of the bounds, so a parallel picture is to scale at the cut and a
    perspective has its vanishing point behind the middle of the cut face. A gentle angle of view (at most 35°) keeps
    the eye far from the cut: common practice for a perspective section.
    """
    centre = bounds.mean(axis=0)
    foot = centre - plane.n * float(plane.distance(centre))
    _, v = plane.axes
    field = min(camera.field, 35.0)
    plain = {"field": field, "shear": (0.0, 0.0), "shift": (0.0, 0.0)}
    straight = camera.model_copy(update=plain).placed(foot + plane.n, foot, vec(v))
    u, v = plane.axes
    half = (bounds[1] - bounds[0]) / 2
    width, height = float(half @ np.abs(u)), float(half @ np.abs(v))
    distance = 1.12 * max(height, width / aspect, 0.5) / math.tan(math.radians(field) / 2)
    return straight.placed(foot + plane.n * distance, foot)
