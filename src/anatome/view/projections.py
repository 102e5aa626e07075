"""Parallel projections as drawings have them (ISO 5456-3): axonometric by its angles, plan oblique, elevation oblique.

Each is a value that makes a camera, and is found again in one: what a camera draws is never remembered beside it.
"""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from pydantic import Field, model_validator

from anatome.values import Value
from anatome.view.camera import Array, Camera, Vec, vec

Kind = Literal["axonometric", "plan oblique", "elevation oblique"]
Corner = tuple[Literal[-1, 1], Literal[-1, 1]]

ISOMETRIC = (30.0, 30.0)
DIMETRIC = (math.degrees(math.atan(math.sqrt(1 / 63))), math.degrees(math.atan(math.sqrt(7) / 3)))
"""7.18° and 41.41°, for which ISO 5456-3 says 7° and 42°: width and height at one scale, depth at half of it."""
TRIMETRIC = (15.0, 40.0)
DRAWN: dict[str, tuple[Kind, tuple[float, float], float]] = {
    "Isometric": ("axonometric", ISOMETRIC, 1.0),
    "Dimetric": ("axonometric", DIMETRIC, 1.0),
    "Trimetric": ("axonometric", TRIMETRIC, 1.0),
    "Plan oblique, 45°": ("plan oblique", (45.0, 45.0), 1.0),
    "Plan oblique, 30° and 60°": ("plan oblique", (30.0, 60.0), 1.0),
    "Cavalier": ("elevation oblique", (45.0, 0.0), 1.0),
    "Cabinet": ("elevation oblique", (45.0, 0.0), 0.5),
}
"""The projections that have names: kind, angles, ratio."""
SAME = 1e-6
"""How near angles in radians are one."""
ALL_CORNERS: tuple[Corner, ...] = ((1, 1), (-1, 1), (-1, -1), (1, -1))
LEFT_FRONT: Corner = (-1, -1)
RIGHT_FRONT: Corner = (1, -1)
TRUE: dict[str, tuple[str, Corner]] = {
    "Cavalier, true to the cut, to the right": ("Cavalier", RIGHT_FRONT),
    "Cavalier, true to the cut, to the left": ("Cavalier", LEFT_FRONT),
    "Cabinet, true to the cut, to the right": ("Cabinet", RIGHT_FRONT),
    "Cabinet, true to the cut, to the left": ("Cabinet", LEFT_FRONT),
    "Isometric along the cut, from the left": ("Isometric", LEFT_FRONT),
    "Isometric along the cut, from the right": ("Isometric", RIGHT_FRONT),
}
"""Projections whose front is a cut: which of DRAWN, and from which corner."""
STEEPEST = 89.0
"""Degrees up to which a receding line may rise, and a face that an oblique is true to may lean."""
SINE_OF_STEEPEST = math.sin(math.radians(STEEPEST))


class ParallelProjection(Value):
    """What a parallel projection looks at and how.

    ``corner``: the corner of the building next to the eye: −1 or 1 for left or right (X) and front or back (Y).
    ``angles`` in degrees over the horizontal of the drawing: of an axonometric those of the edges along X and along Y; of a plan
    oblique that of the edges along X (those along Y are square to them); of an elevation oblique that of the receding
    edges. ``ratio``: length of receding edges (of a plan oblique: of upright ones) to that of true ones; an axonometric's follows
    from its angles. ``below``: seen from below (worm's-eye). ``turn``: degrees anticlockwise, seen from above, by which X and
    Y are those of a wing, or of a cut to which an elevation oblique is true, and not the building's. ``lean``: degrees by which
    the face an elevation oblique is true to looks up, or with a minus down; what recedes is square to the face.
    """

    kind: Kind = "axonometric"
    corner: Corner = (-1, -1)
    angles: tuple[float, float] = ISOMETRIC
    ratio: float = Field(default=1.0, gt=0.01, le=3.0)
    below: bool = False
    turn: float = Field(default=0.0, ge=-360.0, le=360.0)
    lean: float = Field(default=0.0, ge=-STEEPEST, le=STEEPEST)

    @model_validator(mode="after")
    def _can_be_drawn(self) -> ParallelProjection:
        first, second = self.angles
        if not (0.0 <= first <= STEEPEST + 1 and 0.0 <= second <= STEEPEST + 1):
            raise ValueError("an edge rises by something between 0° and 90°")
        if self.kind == "axonometric" and not (first > 0 and second > 0 and first + second < 90.0):
            raise ValueError("the two angles of an axonometric are above 0° and together below 90°")
        return self

    @property
    def name(self) -> str:
        """The word a draughtsman has for it."""
        worm = "worm’s-eye " if self.below else ""
        if self.kind == "axonometric":
            return worm + self._axonometric_name()
        if self.kind == "plan oblique":
            return f"{worm}plan oblique, {self.angles[0]:.3g}° and {90 - self.angles[0]:.3g}°"
        known = {1.0: "cavalier", 0.5: "cabinet"}.get(round(self.ratio, 3)) if abs(self.angles[0] - 45) < 0.05 else None
        return worm + (known or f"elevation oblique, {self.angles[0]:.3g}°")

    def _axonometric_name(self) -> str:
        lengths = self.foreshortening
        pairs = [abs(lengths[i] - lengths[j]) < 2e-3 for i, j in ((0, 1), (1, 2), (0, 2))]
        return "isometric" if all(pairs) else "dimetric" if any(pairs) else "trimetric"

    @property
    def foreshortening(self) -> tuple[float, float, float]:
        """How long a metre along X, Y and Z is drawn, in metres on the picture's plane."""
        if self.kind == "axonometric":
            n = self._towards_eye()
            return tuple(math.sqrt(max(0.0, 1.0 - c * c)) for c in n)  # type: ignore[return-value]
        return (1.0, 1.0, self.ratio) if self.kind == "plan oblique" else (1.0, self.ratio, 1.0)

    def _towards_eye(self) -> Vec:
        """Unit direction to the eye of an axonometric.

        From the azimuth t and height h of the eye, an edge along X rises by tan a = sin h · tan t and one along Y by
        tan b = sin h / tan t, so tan a · tan b = sin² h and tan a / tan b = tan² t (descriptive geometry).
        """
        a, b = (math.tan(math.radians(angle)) for angle in self.angles)
        height, turn = math.asin(math.sqrt(a * b)), math.atan(math.sqrt(a / b))
        flat = math.cos(height)
        sign = -1.0 if self.below else 1.0
        return self.corner[0] * flat * math.sin(turn), self.corner[1] * flat * math.cos(turn), sign * math.sin(height)

    def camera(self, target: Array, distance: float, field: float) -> Camera:
        """Return the camera that draws so, at a distance in metres from what it looks at; its height is that of the field."""
        left, front = self.corner
        shear = (0.0, 0.0)
        if self.kind == "axonometric":
            back, up = self._towards_eye(), (0.0, 0.0, 1.0)
        elif self.kind == "plan oblique":
            angle = math.radians(self.angles[0])
            sign = 1.0 if self.below else -1.0
            # The corner next to the eye lies low on the drawing; seen from below it lies high.
            up = (sign * left * math.sin(angle), sign * front * math.cos(angle), 0.0)
            back, shear = (0.0, 0.0, -sign), (0.0, -sign * self.ratio)
        else:
            angle = math.radians(self.angles[0])
            lean = math.radians(self.lean)
            back, up = (0.0, front * math.cos(lean), math.sin(lean)), (0.0, 0.0, 1.0)
            # What recedes goes towards the side the eye is on, so that this side of the building is seen.
            across = -front * left  # the side the eye is on, on the drawing
            sign = 1.0 if self.below else -1.0
            shear = (-across * self.ratio * math.cos(angle), sign * self.ratio * math.sin(angle))
        back, up = (_turned(way, self.turn) for way in (back, up))
        eye = target + np.array(back) * distance
        return Camera(eye=vec(eye), target=vec(target), up=up, projection="parallel", field=field, shear=shear)

    def true_to(self, turn: float, lean: float) -> ParallelProjection:
        """Return the same of axes that are turned so; of one that has a true upright face, of a face that leans so."""
        return self.model_copy(update={"turn": turn, "lean": lean if self.kind == "elevation oblique" else 0.0})

    def seen_by(self, camera: Camera) -> Camera:
        """Another camera's picture drawn so: the same thing in the middle, at the same scale."""
        return self.camera(np.array(camera.target), camera.distance, camera.field)


def projection_of(camera: Camera) -> ParallelProjection | None:
    """Return what a camera draws; None for perspectives, plain plans and elevations, and what lies askew."""
    if camera.is_perspective:
        return None
    _, up, back = camera.axes
    across, upward = camera.shear
    angles: tuple[float, float]
    try:
        if (across, upward) == (0.0, 0.0):
            height = math.asin(min(1.0, abs(float(back[2]))))
            turn = math.atan2(abs(float(back[0])), abs(float(back[1])))
            if min(height, turn, math.pi / 2 - height, math.pi / 2 - turn) < 1e-3:
                return None
            sine = math.sin(height)
            along = _along_a_wing(back, sine)
            if along is not None:
                return along
            angles = math.degrees(math.atan(sine * math.tan(turn))), math.degrees(math.atan(sine / math.tan(turn)))
            return ParallelProjection(corner=_signs(back[0], back[1]), angles=angles, below=bool(back[2] < 0))
        if abs(back[2]) > 1 - 1e-9 and abs(across) < 1e-9:
            sign = -1.0 if back[2] > 0 else 1.0
            if upward * sign < 0:
                angle = math.degrees(math.atan2(abs(float(up[0])), abs(float(up[1]))))
                corner = _signs(sign * up[0], sign * up[1])
                return ParallelProjection(
                    kind="plan oblique", corner=corner, angles=(angle, 90 - angle), ratio=abs(upward), below=sign > 0
                )
        if abs(back[2]) < SINE_OF_STEEPEST:
            # Of the building's front and back by its own axes, of any other face by axes turned so that it is a front.
            own = abs(back[1]) > (1 - 1e-9) * math.hypot(back[0], back[1])
            front = _signs(back[1], back[1])[0] if own else -1
            angle = math.degrees(math.atan2(abs(upward), abs(across)))
            return ParallelProjection(
                kind="elevation oblique",
                corner=_signs(front * across, front),
                angles=(angle, 0.0),
                ratio=math.hypot(across, upward),
                below=upward > 0,
                turn=0.0 if own else _front_turn(back),
                lean=_lean(back),
            )
    except ValueError:
        return None
    return None


def _turned(way: Vec, degrees: float) -> Vec:
    """A direction turned about the vertical."""
    if degrees == 0.0:
        return way
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return c * way[0] - s * way[1], s * way[0] + c * way[1], way[2]


def _front_turn(back: Array) -> float:
    """Degrees by which axes are turned whose front looks where a camera is, above −180 and at most 180."""
    return _within(math.degrees(math.atan2(float(back[1]), float(back[0]))) + 90.0)


def _lean(back: Array) -> float:
    return math.degrees(math.asin(min(1.0, max(-1.0, float(back[2]))))) if abs(back[2]) > 1e-9 else 0.0


def _within(degrees: float) -> float:
    return 180.0 - (180.0 - degrees) % 360.0


def _along_a_wing(back: Array, sine: float) -> ParallelProjection | None:
    """The isometric or dimetric an eye draws of axes turned as little as may be; None where it draws one of the building's own
    axes, or neither."""
    azimuth, below = math.atan2(float(back[1]), float(back[0])), bool(back[2] < 0)
    found: list[ParallelProjection] = []
    for first, second in (ISOMETRIC, DIMETRIC):
        steep = math.tan(math.radians(first)) * math.tan(math.radians(second))
        if abs(sine - math.sqrt(steep)) > SAME:
            continue
        for corner in ALL_CORNERS:
            for angles in ((first, second), (second, first)):
                own = ParallelProjection(corner=corner, angles=angles, below=below)
                x, y, _ = own._towards_eye()
                found.append(own.model_copy(update={"turn": _within(math.degrees(azimuth - math.atan2(y, x)))}))
    least = min(found, key=lambda one: abs(one.turn), default=None)
    return None if least is None or abs(least.turn) < math.degrees(SAME) else least


def facing(normal: Array) -> tuple[float, float] | None:
    """Return the turn and lean of axes of which a face with a (3,) unit normal is the front, degrees; None where it is level."""
    return None if abs(float(normal[2])) > SINE_OF_STEEPEST else (_front_turn(normal), _lean(normal))


def named(name: str, corner: Corner, below: bool = False) -> ParallelProjection:
    """Return one of DRAWN, from a corner. Raises KeyError for another name."""
    kind, angles, ratio = DRAWN[name]
    return ParallelProjection(kind=kind, corner=corner, angles=angles, ratio=ratio, below=below)


def corner_of(camera: Camera) -> tuple[Corner, bool]:
    """Return the corner of the building a camera is next to, and whether it looks from well below."""
    right, up, back = camera.axes
    if not camera.is_perspective:
        back = back - camera.shear[0] * right - camera.shear[1] * up
    return _signs(back[0] + 1e-9 * back[1], back[1] - 1e-9), bool(back[2] < -0.2 * np.linalg.norm(back))


def _signs(x: float, y: float) -> Corner:
    return (1 if x > 0 else -1), (1 if y > 0 else -1)
