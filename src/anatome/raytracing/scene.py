"""What rays meet: the surfaces that the cuts leave, as embree sees them, and what they are made of."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.moves import STAYS, places_through
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.surface import kept_surface
from anatome.look.palette import linear
from anatome.look.styles import Styles
from anatome.model.building import CLEAR_BELOW
from anatome.model.kinds import is_lamp
from anatome.raytracing.rays import how_far

Floats = NDArray[np.float32]
Mask = NDArray[np.bool_]
Numbers = NDArray[np.int64]

LIGHTEST = 0.88
"""What of the light white surfaces give back; about that of fresh white paint (common practice)."""
FAR_OFF = 1e12
PANES = 8
"""Faces of glass that light goes through at most."""
NUDGE = 2e-6
"""Share of the size of all by which a ray starts off a surface, so that it does not meet that again."""
BRIGHT = 0.5
"""Of the lightest surface of a lamp: what is at least so light shines, cords and caps do not."""


@dataclass(frozen=True, eq=False)
class Surface:
    """Triangles: ``corners`` (n, 3, 3) in metres from the scene's centre, unit ``normal`` (n, 3); ``albedo`` (n, 3), how much
    of red, green and blue light each gives back, or if it is glass lets through; whether it is of a ``closed`` (n,) body, and
    of which ``lamp`` (n,) it shines, −1 of none; ``element`` (n,) is the part each is of, −1 of none."""

    corners: Floats
    normal: Floats
    albedo: Floats
    closed: Mask
    lamp: Numbers
    element: Numbers


def surface(corners: NDArray[np.floating], albedo: NDArray[np.floating], closed: bool = False) -> Surface:
    """Plain triangles (n, 3, 3) of one or of (n, 3) albedos, which shine nowhere."""
    count = len(corners)
    return Surface(
        corners.astype(np.float32),
        _normals(corners),
        np.broadcast_to(albedo, (count, 3)).astype(np.float32),
        np.full(count, closed),
        np.full(count, -1),
        np.full(count, -1),
    )


@dataclass(frozen=True, eq=False)
class TracedScene:
    """``solid`` stops light, ``glass`` lets some of it through. Places are metres from ``centre``.

    Whoever follows rays counts them in ``rays``.
    """

    solid: Surface
    glass: Surface | None = None
    centre: NDArray[np.float64] = field(default_factory=lambda: np.zeros(3))
    _solid: Any = field(init=False, repr=False)
    _glass: Any = field(init=False, repr=False)
    nudge: float = field(init=False)
    rays: list[int] = field(default_factory=lambda: [0], repr=False)

    def __post_init__(self) -> None:
        if not len(self.solid.corners):
            # A triangle that is nowhere stands for nothing, which could not be met nor asked about.
            object.__setattr__(self, "solid", surface(np.full((1, 3, 3), FAR_OFF), np.zeros(3)))
        size = float(np.linalg.norm(np.ptp(self.solid.corners.reshape(-1, 3), axis=0)))
        object.__setattr__(self, "_solid", _embree(self.solid))
        object.__setattr__(self, "_glass", None if self.glass is None or not len(self.glass.corners) else _embree(self.glass))
        object.__setattr__(self, "nudge", max(NUDGE * size, 5e-5))

    def nearest(self, origins: Floats, directions: Floats) -> tuple[NDArray[np.int32], Floats]:
        """Return ((n,) the triangle each ray meets first or −1, (n,) how far off it is)."""
        self.rays[0] += len(origins)
        met = self._solid.run(origins, directions, query="INTERSECT")
        return met, how_far(origins, directions, met, self.solid.corners, self.solid.normal)

    def blocked(self, origins: Floats, directions: Floats, far: Floats) -> Mask:
        """Return (n,) whether anything solid stands within (n,) metres."""
        self.rays[0] += len(origins)
        return np.asarray(self._solid.run(origins, directions, far, query="OCCLUDED") >= 0)

    def through_glass(self, origins: Floats, directions: Floats, far: Floats) -> Floats | None:
        """Return (n, 3) what glass within (n,) metres lets through; None where there is none at all."""
        if self._glass is None or self.glass is None:
            return None
        left = np.ones((len(origins), 3), np.float32)
        going, origins, far = np.arange(len(origins)), origins, far.copy()
        for _ in range(PANES):
            self.rays[0] += len(going)
            met = self._glass.run(origins, directions, far, query="INTERSECT")
            hit = met >= 0
            if not hit.any():
                break
            going, origins, directions, far, met = going[hit], origins[hit], directions[hit], far[hit], met[hit]
            left[going] *= self.glass.albedo[met]
            gone = how_far(origins, directions, met, self.glass.corners, self.glass.normal) + np.float32(self.nudge)
            origins, far = origins + directions * gone[:, None], np.maximum(far - gone, 0.0)
        return left


def scene_of(opened: ShownBuilding, styles: Styles) -> TracedScene:
    """Return all that is shown, where it is shown, in the colours of a look."""
    building = opened.cut_open.building
    centre = building.bounds.mean(axis=0)
    palette = styles.palette / 255.0
    lamps = np.array([is_lamp(e.type, e.name) for e in building.elements], bool)
    solid: list[Surface] = []
    glass: list[Surface] = []
    for part in opened.parts:
        corners, of = kept_surface(part.cut_open)
        mirrored = False
        if part.move != STAYS:
            matrix = np.array(part.move)
            corners, mirrored = places_through(matrix, corners), np.linalg.det(matrix[:3, :3]) < 0
        corners = corners[:, ::-1] if mirrored else corners
        sized = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) > 1e-12
        corners, of = corners[sized] - centre, of[sized]
        element = building.element_of_triangle[of]
        style = np.where(styles.surface[element] >= 0, styles.surface[element], building.triangle_style[of])
        clear = (building.styles[building.triangle_style[of], 3] < CLEAR_BELOW) | styles.clear[element]
        colour = palette[style]
        albedo = LIGHTEST * linear(colour[:, :3])
        # Two faces make a pane; each lets through the root of what both do.
        through = np.sqrt(np.clip(1.0 - colour[:, 3:], 0.0, 1.0)) * np.ones(3)
        shines = np.where(lamps[element] & ~clear, element, -1)
        shines[~_bright(shines, albedo)] = -1
        of_all = Surface(
            corners.astype(np.float32),
            _normals(corners),
            np.where(clear[:, None], through, albedo).astype(np.float32),
            building.outward[element],
            shines,
            element,
        )
        solid.append(_some(of_all, ~clear))
        glass.append(_some(of_all, clear))
    return TracedScene(_together(solid), _together(glass), centre)


def _bright(shines: Numbers, albedo: NDArray[np.float64]) -> Mask:
    """(n,) which triangles of lamps are light enough to be what shines of them."""
    found = shines >= 0
    light = albedo.mean(axis=1)
    lightest = np.zeros(int(shines.max(initial=-1)) + 1)
    np.maximum.at(lightest, shines[found], light[found])
    found[found] = light[found] >= BRIGHT * lightest[shines[found]]
    return found


def _some(of: Surface, mask: Mask) -> Surface:
    return Surface(of.corners[mask], of.normal[mask], of.albedo[mask], of.closed[mask], of.lamp[mask], of.element[mask])


def _together(parts: list[Surface]) -> Surface:
    return Surface(
        np.concatenate([p.corners for p in parts]),
        np.concatenate([p.normal for p in parts]),
        np.concatenate([p.albedo for p in parts]),
        np.concatenate([p.closed for p in parts]),
        np.concatenate([p.lamp for p in parts]),
        np.concatenate([p.element for p in parts]),
    )


def _normals(corners: NDArray[np.floating]) -> Floats:
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.linalg.norm(normal, axis=1, keepdims=True)
    return np.divide(normal, length, out=np.zeros_like(normal), where=length > 0).astype(np.float32)


def _embree(of: Surface) -> Any:
    from embreex.mesh_construction import TriangleMesh
    from embreex.rtcore_scene import EmbreeScene

    scene = EmbreeScene(robust=True)
    TriangleMesh(scene, of.corners)
    return scene
