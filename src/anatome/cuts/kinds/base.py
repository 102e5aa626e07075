"""What every kind of cut has and answers. Nobody outside this folder asks which kind a cut is."""

from __future__ import annotations

from abc import abstractmethod
from typing import TYPE_CHECKING, ClassVar, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from anatome.cuts.cells import Cell
from anatome.cuts.kinds.grip import CutField, Grip, Lengths, name_parts
from anatome.cuts.kinds.key_mark import DrawingPlane, KeyMark
from anatome.cuts.parting import Parting
from anatome.cuts.plane import Plane
from anatome.cuts.reach import Reach
from anatome.values import Value

Array = NDArray[np.float64]

FAR_END = "far end"
"""Name of the face where a depth ends."""
DEPTH = CutField("far", "Depth", "How far beyond the cut one sees", step=0.1, optional=True, below_zero=False)


class Taking(Value):
    """What takes something away: its switches, and all that slicing, filling and drawing lines ask of it.

    ``on``: it cuts. ``poche``: what it cuts is filled. ``graphic``: the cut itself is shown while working. ``locked``:
    it stays where it is. ``reach``: what it acts on. ``peel``: the id that the planes of one peel share.
    ``on_displaced``: where pieces are drawn apart, it cuts what is seen and not the building as it stands.
    """

    id: str
    name: str
    mark: str = Field(max_length=4)
    on: bool = True
    poche: bool = True
    graphic: bool = True
    locked: bool = False
    reach: Reach = Reach()
    peel: str = ""
    on_displaced: bool = False

    @abstractmethod
    def cells(self) -> tuple[Cell, ...]:
        """Give what is cut away, as convex cells; together they are what is taken, and they may overlap."""

    @property
    @abstractmethod
    def axis(self) -> Plane:
        """The plane that says where it stands and which way it looks."""

    def face_name(self, plane: Plane) -> str:
        """Name one of its faces; nothing for the face it is known by."""
        return ""

    @property
    def face_bounds(self) -> Array | None:
        """(2, 3) metres within which all its faces lie; None where they go on without end."""
        return None

    def face_within(self, plane: Plane) -> tuple[Plane, ...]:
        """Planes behind which the face in a plane ends anyway: known ones spare taking out what other cells hold."""
        return ()

    @property
    def flat_planes(self) -> tuple[Plane, ...]:
        """The planes that a drawing shows together as one flat section."""
        return (self.axis,)

    @property
    def flat_normal(self) -> Array | None:
        """(3,) the direction in which its flat planes are seen without the lines where they meet; None for one plane."""
        return None

    def is_flat(self, plane: Plane) -> bool:
        """Return whether its face in a plane stands for itself, and is no strip of a curved one."""
        return True

    @property
    def smooth_at(self) -> tuple[tuple[float, float], ...]:
        """X and Y of the upright edges over which its surface runs on smoothly, so that no line is drawn there."""
        return ()

    def at_seams(self, plane: Plane, segments: Array, near: float) -> NDArray[np.bool_]:
        """Return (n,) which lines (n, 2, 3) of its face in a plane lie, within metres, where its flat planes meet."""
        return np.zeros(len(segments), bool)


class BaseCut(Taking):
    """A cut as the designer has it: how it is moved, where it is held, what it says and how a key drawing shows it.

    Every kind ends with a ``parting``: with one it takes nothing away, and what lay before it is shown aside.
    """

    noun: ClassVar[str] = "Section"
    """What a new one is called."""
    encloses: ClassVar[bool] = False
    """Whether it has an inside, and no direction to look in: then it has a ``carve`` and no ``depth``."""

    if TYPE_CHECKING:  # a field of each kind, for new fields come last in files
        parting: Parting | None

    @abstractmethod
    def sides(self) -> tuple[tuple[Cell, ...], tuple[Cell, ...]]:
        """Give the two sides of space it parts, as cells: the one that is moved aside, and the one that stays."""

    @property
    def carves(self) -> bool | None:
        """Whether it takes its inside away; None without one."""
        return None

    @property
    def corners(self) -> Array | None:
        """(n, 3) corners of its inside, metres; None without one."""
        return None

    @property
    def centre(self) -> Array | None:
        """(3,) the middle of its inside, metres; None without one."""
        return None

    # How it is moved -------------------------------------------------------------------------------------------

    @abstractmethod
    def moved(self, by: Array) -> Self:
        """Move it by (3,) metres."""

    def scaled(self, factor: float) -> Self:
        """Return it so many times as large about the origin."""
        raise NotImplementedError

    def stretched(self, low: float, high: float) -> Self:
        """Move its lower end up by ``low`` metres and its upper end by ``high``; what has no ends goes by ``low``."""
        return self.moved(np.array([0.0, 0.0, low]))

    @abstractmethod
    def turned(self, point: Array, degrees: float) -> Self:
        """Turn it about the vertical through a (3,) point, or about its own; anticlockwise seen from above."""

    def tilted(self, point: Array, axis: Array, degrees: float) -> Self:
        """Turn it about a level (3,) unit ``axis`` through a (3,) point; what cannot be tilted stays as it is."""
        return self

    @abstractmethod
    def turned_round(self) -> Self:
        """Let it look the other way, or take what it kept."""

    def part_way(self, to: BaseCut, share: float) -> Self | None:
        """Give it on its way to another state of it, from 0 to 1 of the way; None where no way leads there."""
        return self._part_way(to, share) if isinstance(to, type(self)) else None

    @abstractmethod
    def _part_way(self, to: Self, share: float) -> Self | None:
        """Give it on its way to another of its kind."""

    @abstractmethod
    def clear_of(self, bounds: Array) -> Self:
        """Move it along its axis, or by its faces, to where it takes nothing of what lies in (2, 3) bounds."""

    @property
    def heading(self) -> float:
        """Where it looks, degrees anticlockwise from X; with an inside, how it is turned."""
        return self.axis.heading

    @property
    def can_turn(self) -> bool:
        """Whether turning about the vertical makes a difference."""
        return not self.axis.is_level

    @property
    def can_tilt(self) -> bool:
        """Whether it can be turned about a level axis."""
        return False

    def nudge(self, right: float, forward: float, up: float) -> Array:
        """Return (3,) metres it is moved by as keys say: ``forward`` to where it looks; ``up`` lifts it or moves a level
        one."""
        return np.array([0.0, 0.0, up + forward]) if self.axis.is_level else -self.axis.n * (forward + up)

    # Where it is held ------------------------------------------------------------------------------------------

    @abstractmethod
    def frames(self, bounds: Array) -> list[Array]:
        """Give the closed outlines (n, 3) by which it is shown while working, for a building of (2, 3) bounds."""

    @abstractmethod
    def grips(self, bounds: Array) -> tuple[Grip, ...]:
        """Give all its grips, the most used first. Stems point where it looks, or outwards."""

    @abstractmethod
    def pulled(self, name: str, by: Array) -> Self:
        """Pull one grip by (3,) metres; what does not lie along the grip's direction is passed over."""

    @abstractmethod
    def value(self, name: str) -> float | None:
        """Read the number of a grip or a field: a position, a size, metres or degrees; None where it is switched off."""

    @abstractmethod
    def travel(self, name: str) -> Array:
        """Return (3,) unit direction in which a grip is pulled so that its number grows by as many metres."""

    def with_value(self, name: str, wanted: float, about: Array) -> Self:
        """Give a grip or a field another number; turned about a (3,) point where it is an angle."""
        missing = wanted - (self.value(name) or 0.0)
        if name == "turn":
            return self.turned(about, missing)
        return self.pulled(name, self.travel(name) * missing)

    def moving_plane(self, name: str) -> Plane | None:
        """Return the plane that goes where a grip goes, to be snapped and scouted; None where there is none."""
        return None

    @property
    @abstractmethod
    def scouted(self) -> tuple[str, ...]:
        """The grips whose plane can be scouted, the most useful first."""

    # What it says ----------------------------------------------------------------------------------------------

    @abstractmethod
    def fields(self) -> tuple[CutField, ...]:
        """Give the numbers that are typed."""

    @abstractmethod
    def summary(self, lengths: Lengths) -> str:
        """Say where it stands or how large it is, in a few words."""

    @property
    def direction(self) -> str:
        """What it does or where it looks, in words; +Y counts as north."""
        tilt = self.axis.normal[2]
        if self.axis.is_level:
            return "Looks down" if tilt > 0 else "Looks up"
        said = "" if abs(tilt) < 1e-3 else f", tilted {abs(self.axis.tilt):.0f}° {'down' if tilt > 0 else 'up'}"
        return f"Looks {self.axis.compass}{self._line_words}{said}"

    @property
    def _line_words(self) -> str:
        return ""

    def grip_words(self, name: str) -> str:
        """Name a grip, for the status line and beside its number."""
        kind, number = name_parts(name)
        if kind in ("step", "jog", "corner"):
            return f"{kind} {number + 1}"
        return {"far": "depth", "turn": "direction", "tilt": "tilt", "whole": "whole"}.get(kind, "position")

    # How it is shown -------------------------------------------------------------------------------------------

    @abstractmethod
    def key_mark(self, view: DrawingPlane, bounds: Array, grow: float, lengths: Lengths) -> KeyMark:
        """Give how a key drawing shows it; lines of planes run ``grow`` metres past the (2, 3) bounds."""

    def seen_face(self, towards: Array, bounds: Array) -> tuple[Plane, Array]:
        """Give the plane to be faced from where one looks (3,) ``towards`` it, and the (2, 3) bounds shown of it."""
        return self.axis, bounds
