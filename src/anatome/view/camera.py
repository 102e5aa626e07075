"""The camera as a value, and its matrices."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from anatome.cuts.plane import Plane

Projection = Literal["perspective", "parallel"]
Vec = tuple[float, float, float]
Array = NDArray[np.float64]


class Camera(BaseModel):
    """``eye`` looks at ``target`` (metres, Z up). ``field`` is the vertical angle of view in degrees.

    In a parallel projection the height of the picture in metres is the height the same camera would show in
    perspective at its target, so switching the projection keeps the size of what is looked at.
    """

    model_config = ConfigDict(frozen=True)

    eye: Vec
    target: Vec
    up: Vec = (0.0, 0.0, 1.0)
    projection: Projection = "perspective"
    field: float = Field(default=35.0, gt=1.0, lt=150.0)

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

    def view_matrix(self) -> Array:
        """(4, 4) model → camera coordinates; the camera looks along −Z."""
        rotation = np.stack(self.axes)
        matrix = np.eye(4)
        matrix[:3, :3] = rotation
        matrix[:3, 3] = -rotation @ np.array(self.eye)
        return matrix

    def projection_matrix(self, aspect: float, near: float, far: float) -> Array:
        """(4, 4) camera → clip coordinates, OpenGL convention. ``aspect`` is width / height."""
        matrix = np.zeros((4, 4))
        if self.projection == "perspective":
            f = 1.0 / math.tan(math.radians(self.field) / 2)
            matrix[0, 0], matrix[1, 1] = f / aspect, f
            matrix[2, 2], matrix[2, 3] = (far + near) / (near - far), 2 * far * near / (near - far)
            matrix[3, 2] = -1.0
        else:
            half = self.height / 2
            matrix[0, 0], matrix[1, 1] = 1 / (half * aspect), 1 / half
            matrix[2, 2], matrix[2, 3] = -2 / (far - near), -(far + near) / (far - near)
            matrix[3, 3] = 1.0
        return matrix

    def depth_range(self, bounds: Array) -> tuple[float, float]:
        """Near and far distance that hold the (2, 3) bounds; in a parallel view near may lie behind the eye."""
        corners = np.array([[bounds[i][0], bounds[j][1], bounds[k][2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)])
        depths = (np.array(self.eye) - corners) @ self.axes[2]
        margin = 0.02 * float(np.linalg.norm(bounds[1] - bounds[0])) + 0.1
        near, far = float(depths.min()) - margin, float(depths.max()) + margin
        if self.projection == "perspective":
            far = max(far, 1.0)
            near = max(near, far / 4000.0, 0.02)
            return near, max(far, near * 2)
        return near, max(far, near + 1.0)

    def ray(self, x: float, y: float, aspect: float) -> tuple[Array, Array]:
        """Origin and unit direction of the ray through a point of the picture, x and y from −1 to 1, y up."""
        right, up, back = self.axes
        half = self.height / 2
        offset = right * (x * half * aspect) + up * (y * half)
        if self.projection == "parallel":
            return np.array(self.eye) + offset, -back
        direction = np.array(self.target) + offset - np.array(self.eye)
        return np.array(self.eye), direction / np.linalg.norm(direction)

    def project(self, points: Array, aspect: float) -> tuple[Array, Array]:
        """((..., 2) picture coordinates −1..1 with y up, (...) depth in metres before the eye) of (..., 3) points."""
        right, up, back = self.axes
        arm = points - np.array(self.eye)
        depth = -(arm @ back)
        half = np.full(depth.shape, self.height / 2)
        if self.projection == "perspective":
            half = half * np.where(depth > 1e-9, depth, np.nan) / self.distance
        return np.stack([arm @ right / (half * aspect), arm @ up / half], axis=-1), depth

    # Moves ---------------------------------------------------------------------------------------------------

    def placed(self, eye: Array, target: Array, up: Vec | None = None) -> Camera:
        """The camera somewhere else."""
        values = {"eye": _vec(eye), "target": _vec(target)}
        return self.model_copy(update=values | ({"up": up} if up else {}))

    def orbited(self, across: float, upward: float, pivot: Array | None = None) -> Camera:
        """Turned about ``pivot`` (the target if None): ``across`` degrees about the vertical, ``upward`` over it.

        The horizon stays level; the camera stops short of looking straight up or down past the pole.
        """
        centre = np.array(self.target) if pivot is None else pivot
        right, _, back = self.axes
        elevation = math.degrees(math.asin(max(-1.0, min(1.0, back[2]))))
        upward = max(-89.9 - elevation, min(89.9 - elevation, upward))
        turn = _rotation(np.array([0.0, 0.0, 1.0]), across) @ _rotation(right, -upward)
        # Straight up or down, "up" must be what was up on the picture, else the view would spin.
        return self.placed(
            centre + turn @ (np.array(self.eye) - centre), centre + turn @ (np.array(self.target) - centre), (0.0, 0.0, 1.0)
        )

    def panned(self, across: float, upward: float) -> Camera:
        """Shifted so that what lies at the target moves by shares of the picture's height (right and up positive)."""
        right, up, _ = self.axes
        shift = -(right * across + up * upward) * self.height
        return self.placed(np.array(self.eye) + shift, np.array(self.target) + shift)

    def zoomed(self, factor: float, towards: Array) -> Camera:
        """Everything ``factor`` times nearer to ``towards``, which keeps its place in the picture."""
        eye = towards + (np.array(self.eye) - towards) / factor
        target = towards + (np.array(self.target) - towards) / factor
        return self.placed(eye, target)

    def widened(self, factor: float) -> Camera:
        """Showing ``factor`` times the height at the target, from the same place."""
        if self.projection == "parallel":
            eye = np.array(self.target) + (np.array(self.eye) - np.array(self.target)) * factor
            return self.placed(eye, np.array(self.target))
        field = 2 * math.degrees(math.atan(math.tan(math.radians(self.field) / 2) * factor))
        return self.model_copy(update={"field": min(field, 149.0)})

    def fitted(self, bounds: Array, aspect: float, margin: float = 1.08) -> Camera:
        """Moved, without turning, so that the (2, 3) bounds fill the picture."""
        corners = np.array([[bounds[i][0], bounds[j][1], bounds[k][2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)])
        centre = bounds.mean(axis=0)
        right, up, back = self.axes
        x, y, z = (corners - centre) @ right, (corners - centre) @ up, (corners - centre) @ back
        slope = math.tan(math.radians(self.field) / 2) / margin
        if self.projection == "perspective":
            distance = float(np.max(np.maximum(np.abs(x) / (slope * aspect), np.abs(y) / slope) + z))
        else:
            distance = float(max(np.abs(x).max() / aspect, np.abs(y).max()) / slope)
        return self.placed(centre + back * max(distance, 0.1), centre)


def _vec(values: Array) -> Vec:
    return (float(values[0]), float(values[1]), float(values[2]))


def _rotation(axis: Array, degrees: float) -> Array:
    """Rotation matrix about a unit axis (Rodrigues' formula)."""
    a = math.radians(degrees)
    x, y, z = axis
    cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    return np.asarray(np.eye(3) + math.sin(a) * cross + (1 - math.cos(a)) * cross @ cross)


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
    """One of FACES or CORNERS, in parallel projection, fitted to the bounds. Raises KeyError for another name."""
    direction, up = (FACES | CORNERS)[name]
    centre = bounds.mean(axis=0)
    camera = Camera(eye=_vec(centre + np.array(direction, float)), target=_vec(centre), up=up, projection="parallel", field=field)
    return camera.fitted(bounds, aspect)


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
    straight = camera.model_copy(update={"field": field}).placed(foot + plane.n, foot, _vec(v))
    u, v = plane.axes
    half = (bounds[1] - bounds[0]) / 2
    width, height = float(half @ np.abs(u)), float(half @ np.abs(v))
    distance = 1.12 * max(height, width / aspect, 0.5) / math.tan(math.radians(field) / 2)
    return straight.placed(foot + plane.n * distance, foot)
