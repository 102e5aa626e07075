"""Cuts as the designer keeps them: a section plane, a section box or a stepped section, with name, mark and switches."""

from __future__ import annotations

from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Discriminator, Field, Tag

from anatome.cuts.box import FACE_NAMES, Box
from anatome.cuts.cells import Cell
from anatome.cuts.parting import Parting
from anatome.cuts.plane import Plane
from anatome.cuts.reach import Reach
from anatome.cuts.stepped_line import SteppedLine
from anatome.values import FARTHEST, Value

FAR_END = "far end"
"""Name of the face where a depth ends."""


class CutSwitches(Value):
    """What every cut has.

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


class SectionPlane(CutSwitches):
    """One plane; with a ``depth`` in metres only what lies so far beyond it is left. With a ``parting`` it takes nothing."""

    kind: Literal["plane"] = "plane"
    plane: Plane
    depth: float | None = Field(default=None, gt=0, le=FARTHEST)
    parting: Parting | None = None

    def cells(self) -> tuple[Cell, ...]:
        """What is cut away."""
        front = Cell((self.plane,))
        return (front,) if self.depth is None else (front, Cell((_far_end(self.plane, self.depth),)))

    @property
    def axis(self) -> Plane:
        """The plane that says where the cut stands and which way it looks."""
        return self.plane

    def moved(self, by: NDArray[np.float64]) -> SectionPlane:
        """Moved by (3,) metres."""
        return self.model_copy(update={"plane": Plane(tuple(np.array(self.plane.origin) + by), self.plane.normal)})

    def turned(self, point: NDArray[np.float64], degrees: float) -> SectionPlane:
        """Turned about the vertical through the foot of (3,) a point on the plane, anticlockwise seen from above."""
        return self.model_copy(update={"plane": self.plane.turned_about(point, degrees)})

    def turned_round(self) -> SectionPlane:
        """Looking the other way."""
        return self.model_copy(update={"plane": self.plane.turned_round()})

    def face_name(self, plane: Plane) -> str:
        """What one of the faces is called; nothing for the cut face itself."""
        return "" if plane == self.plane else FAR_END


class SectionBox(CutSwitches):
    """A box that keeps its inside, or with ``carve`` takes it away and keeps the rest; with a ``parting`` it draws it out."""

    kind: Literal["box"] = "box"
    box: Box
    carve: bool = False
    parting: Parting | None = None

    def cells(self) -> tuple[Cell, ...]:
        """What is cut away."""
        return self.box.cells(self.carve)

    @property
    def axis(self) -> Plane:
        """The box's front: it looks along the box's own +y."""
        front = self.box.planes[FACE_NAMES.index("front")]
        return front if not self.carve else self.box.planes[FACE_NAMES.index("back")].turned_round()

    def moved(self, by: NDArray[np.float64]) -> SectionBox:
        """Moved by (3,) metres."""
        return self.model_copy(update={"box": self.box.moved(by)})

    def turned(self, point: NDArray[np.float64], degrees: float) -> SectionBox:
        """Turned about its own vertical, wherever the point lies."""
        return self.model_copy(update={"box": self.box.turned_to(self.box.turn + degrees)})

    def turned_round(self) -> SectionBox:
        """Keep the inside instead of carving it out, or the other way about."""
        return self.model_copy(update={"carve": not self.carve})

    def face_name(self, plane: Plane) -> str:
        """Which side of the box a face is."""
        return next((n for n, p in zip(FACE_NAMES, self.box.planes) if plane in (p, p.turned_round())), "")


class SteppedSection(CutSwitches):
    """A section whose line has jogs; ``depth`` is measured from its deepest step."""

    kind: Literal["stepped"] = "stepped"
    line: SteppedLine
    depth: float | None = Field(default=None, gt=0, le=FARTHEST)

    def cells(self) -> tuple[Cell, ...]:
        """What is cut away."""
        cells = self.line.cells()
        if self.depth is None:
            return cells
        deepest = min(self.line.planes, key=lambda p: p.offset)
        return (*cells, Cell((_far_end(deepest, self.depth),)))

    @property
    def axis(self) -> Plane:
        """The plane of the first step."""
        return self.line.planes[0]

    def moved(self, by: NDArray[np.float64]) -> SteppedSection:
        """Moved by (3,) metres; only what lies along the normal and along the steps makes a difference."""
        along = float(by @ self.line.along)
        line = self.line.moved(float(by @ np.array(self.line.normal)))
        return self.model_copy(update={"line": SteppedLine(line.normal, line.offsets, tuple(j + along for j in line.jogs))})

    def turned(self, point: NDArray[np.float64], degrees: float) -> SteppedSection:
        """Turned about the vertical through (3,) a point."""
        return self.model_copy(update={"line": self.line.turned_about(point, degrees)})

    def turned_round(self) -> SteppedSection:
        """Looking the other way."""
        return self.model_copy(update={"line": self.line.turned_round()})

    def face_name(self, plane: Plane) -> str:
        """Which step a face is, counted from the left as one looks; or a jog between two."""
        for i, step in enumerate(self.line.planes):
            if step == plane:
                return f"step {i + 1}"
        return "jog" if abs(plane.n @ np.array(self.line.normal)) < 0.5 else FAR_END


def _far_end(plane: Plane, depth: float) -> Plane:
    return plane.moved(-depth).turned_round()


def _kind_of(value: Any) -> str:
    """Projects written before there were other kinds hold planes without saying so."""
    kind = value.get("kind", "plane") if isinstance(value, dict) else getattr(value, "kind", "plane")
    return str(kind)


Cut = Annotated[
    Annotated[SectionPlane, Tag("plane")] | Annotated[SectionBox, Tag("box")] | Annotated[SteppedSection, Tag("stepped")],
    Discriminator(_kind_of),
]
AnyCut = SectionPlane | SectionBox | SteppedSection


def next_mark(taken: set[str]) -> str:
    """The first free letter A…Z without I and O, which read as digits; then AA, BB and so on."""
    letters = "ABCDEFGHJKLMNPQRSTUVWXYZ"
    for repeat in range(1, 5):
        for letter in letters:
            if letter * repeat not in taken:
                return letter * repeat
    return "?"
