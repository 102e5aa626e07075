"""A camera and its frame as one matrix. Whatever asks where something is in the picture asks here.

Rays, places in the picture, which way a face looks, the order in depth, metres a pixel, and the matrix of the graphics
side all derive from :attr:`Viewport.matrix`. So a projection of another kind (sheared, shifted, cropped) is another
matrix, and nothing else changes.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from anatome.cuts.moves import Move, times_of
from anatome.cuts.plane import Plane
from anatome.model.bounds import corners_of
from anatome.values import Value
from anatome.view.camera import Camera

Array = NDArray[np.float64]

NEAREST_SHARE = 1 / 4000
"""The nearest depth drawn in perspective, as a share of the farthest: nearer, depth would lose its grain."""


class Frame(Value):
    """What of the camera's image the picture is: its size, its crop.

    ``width`` and ``height`` are pixels of the picture. ``crop`` is the part kept: left, bottom, right and top in shares of the
    uncropped picture.
    """

    width: float = Field(default=1600.0, ge=1, le=1_000_000, allow_inf_nan=False)
    height: float = Field(default=1000.0, ge=1, le=1_000_000, allow_inf_nan=False)
    crop: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)

    @model_validator(mode="after")
    def _holds_something(self) -> Frame:
        left, bottom, right, top = self.crop
        if not (right - left > 1e-6 and top - bottom > 1e-6) or not np.isfinite(self.crop).all():
            raise ValueError("a crop keeps a part of the picture")
        if not 0.02 < self.width / self.height < 50:
            raise ValueError("a picture is at most fifty times as long as it is high")
        return self

    @property
    def aspect(self) -> float:
        """Width over height of the picture."""
        return self.width / self.height

    @property
    def whole_aspect(self) -> float:
        """Width over height of the camera's whole image, of which a crop keeps a part."""
        left, bottom, right, top = self.crop
        return self.aspect * (top - bottom) / (right - left)

    def sized(self, width: float, height: float | None = None) -> Frame:
        """Return the same picture in other pixels; without a height in its own proportions."""
        return self.model_copy(update={"width": width, "height": width / self.aspect if height is None else height})


@dataclass(frozen=True)
class Viewport:
    """A camera seen through a frame. Pixels run to the right and down from the upper left corner.

    With a ``move`` it is the same picture of something that stands moved: all places asked for and answered are those it
    has at home.
    """

    camera: Camera
    frame: Frame
    move: Move | None = None

    @classmethod
    def of(cls, camera: Camera, width: float, height: float) -> Viewport:
        """Through a plain frame of this size in pixels."""
        return cls(camera, Frame(width=max(width, 1.0), height=max(height, 1.0)))

    def with_camera(self, camera: Camera) -> Viewport:
        """Another camera through the same frame."""
        return replace(self, camera=camera)

    def at_home_of(self, move: Move | None) -> Viewport:
        """Return the same picture, asked about something that is drawn moved."""
        return replace(self, move=move)

    @property
    def width(self) -> float:
        return self.frame.width

    @property
    def height(self) -> float:
        return self.frame.height

    # The matrix ------------------------------------------------------------------------------------------------

    @cached_property
    def matrix(self) -> Array:
        """(4, 4) from homogeneous model coordinates: picture x and y, depth, divisor.

        x and y divided by the divisor run from −1 to 1 over the picture, y upwards. Depth is metres before the eye along
        the camera's axis, not divided. The divisor is 1 at the camera's target; in a parallel projection it is 1 everywhere.
        """
        camera, frame = self.camera, self.frame
        right, up, back = camera.axes
        eye, target = np.array(camera.eye), np.array(camera.target)
        depth = np.append(-back, back @ eye)
        whole = np.array([0.0, 0.0, 0.0, 1.0])
        divisor = depth / camera.distance if camera.is_perspective else whole
        # How far before the plane of the target: a sheared projection moves what lies there.
        before = camera.distance * whole - depth
        x = np.append(right, -right @ target) + camera.shear[0] * before
        y = np.append(up, -up @ target) + camera.shear[1] * before
        half = camera.height / 2
        x, y = x / (half * frame.whole_aspect), y / half
        # A lens shifted up shows what lies higher: everything moves down in the picture.
        x = x - 2 * camera.shift[0] / frame.whole_aspect * divisor
        y = y - 2 * camera.shift[1] * divisor
        left, bottom, right_, top = frame.crop
        x = (x - (left + right_ - 1) * divisor) / (right_ - left)
        y = (y - (bottom + top - 1) * divisor) / (top - bottom)
        rows = np.stack([x, y, depth, divisor])
        return rows if self.move is None else rows @ np.array(self.move)

    @cached_property
    def divisor(self) -> tuple[float, float]:
        """The divisor at depth 0, and how much it grows with each metre of depth."""
        return (0.0, 1.0 / self.camera.distance) if self.camera.is_perspective else (1.0, 0.0)

    def clip_depth(self, near: float, far: float) -> tuple[float, float]:
        """Return (a, b): a · depth + b, divided by the divisor, runs from −1 at ``near`` to 1 at ``far``, as OpenGL wants
        it."""
        start, slope = self.divisor
        at_near, at_far = start + slope * near, start + slope * far
        a = (at_far + at_near) / (far - near)
        return a, -at_near - a * near

    def clip_matrix(self, near: float, far: float) -> Array:
        """Return (4, 4) model → clip coordinates, OpenGL convention."""
        a, b = self.clip_depth(near, far)
        rows = self.matrix.copy()
        rows[2] = a * rows[2] + [0.0, 0.0, 0.0, b]
        return rows

    def depth_range(self, bounds: Array) -> tuple[float, float]:
        """Near and far depth in metres that hold the (2, 3) bounds; in a parallel view near may lie behind the eye."""
        depths = corners_of(bounds) @ self.matrix[2, :3] + self.matrix[2, 3]
        margin = 0.02 * float(np.linalg.norm(bounds[1] - bounds[0])) + 0.1
        near, far = float(depths.min()) - margin, float(depths.max()) + margin
        if self.camera.is_perspective:
            far = max(far, 1.0)
            near = max(near, far * NEAREST_SHARE, 0.02)
            return near, max(far, near * 2)
        return near, max(far, near + 1.0)

    def from_camera(self, direction: tuple[float, float, float]) -> Array:
        """Return (3,) a direction given to the right, up and back from the picture, in model coordinates."""
        found = np.array(direction) @ np.stack(self.camera.axes)
        return found if self.move is None else found @ np.array(self.move)[:3, :3] / times_of(self.move)

    def upright(self) -> Array:
        """Return (3,) where up is, of unit length."""
        return np.array([0.0, 0.0, 1.0]) if self.move is None else np.array(self.move)[2, :3] / times_of(self.move)

    @property
    def mirrors(self) -> bool:
        """Whether the move turns left into right, so that faces wound one way appear wound the other."""
        return self.move is not None and bool(np.linalg.det(np.array(self.move)[:3, :3]) < 0)

    # Where things are ------------------------------------------------------------------------------------------

    @cached_property
    def eye(self) -> Array:
        """(4,) the point all lines of sight meet in, homogeneous: a place with 1, or a direction towards the eye with 0."""
        if self.camera.is_perspective:
            return np.append(self.ray(0.0, 0.0)[0], 1.0)
        return np.append(-self._sight(0.0, 0.0), 0.0)

    def _sight(self, x: float, y: float) -> Array:
        """(3,) unit direction of the line of sight through a place −1..1 in the picture: where two planes meet."""
        across, upward, depth, divisor = self.matrix[:, :3]
        direction = np.cross(across - x * divisor, upward - y * divisor)
        direction /= np.linalg.norm(direction)
        return direction if direction @ depth > 0 else -direction

    def flat(self, points: Array) -> tuple[Array, Array]:
        """Return ((..., 2) picture coordinates −1..1 with y up, (...) depth in metres) of (..., 3) points; NaN behind the
        eye."""
        rows = points @ self.matrix[:, :3].T + self.matrix[:, 3]
        divisor = np.where(rows[..., 3] > 1e-9, rows[..., 3], np.nan)
        return rows[..., :2] / divisor[..., None], rows[..., 2]

    def pixels(self, points: Array) -> Array:
        """Return (..., 2) places in the picture of (..., 3) points; NaN for those behind the eye."""
        flat, _ = self.flat(points)
        return np.stack([(flat[..., 0] + 1) / 2 * self.width, (1 - flat[..., 1]) / 2 * self.height], axis=-1)

    def ray(self, x: float, y: float) -> tuple[Array, Array]:
        """Origin and unit direction of the line of sight through a place in pixels. It begins at depth 0."""
        flat_x, flat_y = 2 * x / self.width - 1, 1 - 2 * y / self.height
        direction = self._sight(flat_x, flat_y)
        rows = self.matrix
        planes = np.stack([rows[0] - flat_x * rows[3], rows[1] - flat_y * rows[3], rows[2]])
        return np.linalg.solve(planes[:, :3], -planes[:, 3]), direction

    def rays(self, flat: Array, depth: float) -> tuple[Array, Array]:
        """Return ((n, 3) where lines of sight through (n, 2) places −1..1 in the picture, y upwards, are at a depth in metres,
        (n, 3) their unit directions)."""
        across, upward, axis, divisor = self.matrix
        first = across - flat[:, :1] * divisor
        second = upward - flat[:, 1:] * divisor
        directions = np.cross(first[:, :3], second[:, :3])
        directions /= np.linalg.norm(directions, axis=1, keepdims=True)
        along = directions @ axis[:3]
        directions = np.where(along[:, None] > 0, directions, -directions)
        # Where three planes meet: the two of the line of sight, and that of the depth.
        planes = np.stack([first, second, np.broadcast_to(axis - [0.0, 0.0, 0.0, depth], first.shape)], axis=1)
        return np.linalg.solve(planes[:, :, :3], -planes[:, :, 3:])[..., 0], directions

    def towards(self, point: Array) -> Array:
        """Return (3,) unit direction from a point to the eye."""
        arm = self.eye[:3] - self.eye[3] * point
        return np.asarray(arm / max(float(np.linalg.norm(arm)), 1e-12))

    def before(self, point: Array) -> bool:
        """Return whether a point lies where the picture can show it: in perspective before the eye."""
        return bool(self.matrix[3, :3] @ point + self.matrix[3, 3] > 1e-9)

    def faces(self, plane: Plane) -> bool:
        """Return whether the eye is on the side of a plane its normal points to."""
        return bool(self.eye[:3] @ plane.n - self.eye[3] * plane.offset > 0)

    def is_flat_on(self, normal: Array) -> bool:
        """Return whether all lines of sight run along a unit normal: a plane across it is seen true, and nothing of its
        sides."""
        return bool(self.eye[3] == 0 and abs(self.eye[:3] @ normal) > 1 - 1e-6)

    @cached_property
    def pixel(self) -> float:
        """Metres a pixel spans where the divisor is 1: in a parallel view everywhere, in a perspective at its target. Of what is
        drawn larger they are its own, so fewer."""
        upward, axis = self.matrix[1, :3], self.matrix[2, :3] / np.linalg.norm(self.matrix[2, :3])
        # In the plane of the picture: what shear and divisor add along the axis does not count.
        in_plane = upward - (upward @ axis) * axis
        return 2.0 / (float(np.linalg.norm(in_plane)) * self.height)

    def metres_per_pixel(self, point: Array) -> float:
        """At the depth of a point."""
        divisor = float(self.matrix[3, :3] @ point + self.matrix[3, 3])
        return self.pixel * max(divisor, 1e-3 * self.divisor[1])

    def corners_at(self, point: Array) -> Array:
        """Return (4, 3) corners of the picture in the plane across the axis through a point: lower left, then anticlockwise."""
        depth = self.matrix[2, :3] @ point + self.matrix[2, 3]
        found = []
        for x, y in ((0.0, self.height), (self.width, self.height), (self.width, 0.0), (0.0, 0.0)):
            origin, direction = self.ray(x, y)
            found.append(origin + direction * depth / (direction @ self.matrix[2, :3]))
        return np.array(found)

    def holds(self, at: Array, edge: float = 60.0) -> bool:
        """Return whether a place in pixels is inside the picture by some pixels."""
        return bool(np.isfinite(at).all() and edge <= at[0] <= self.width - edge and edge <= at[1] <= self.height - edge)
