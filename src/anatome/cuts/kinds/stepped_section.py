"""The stepped section."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from anatome.cuts.cells import Cell
from anatome.cuts.kinds.base import DEPTH, FAR_END, Array, BaseCut
from anatome.cuts.kinds.grip import (
    LEAST,
    MARGIN,
    CutField,
    Grip,
    Lengths,
    clearance,
    depth_clear_of,
    far_end,
    far_grips,
    name_parts,
    part_way,
    times,
)
from anatome.cuts.kinds.key_mark import IN_LINE, DrawingPlane, KeyKnob, KeyMark, MarkStroke
from anatome.cuts.kinds.section_plane import DIRECTION
from anatome.cuts.kinds.stepped_line import SteppedLine
from anatome.cuts.parting import Parting
from anatome.cuts.plane import Plane
from anatome.model.bounds import corners_of
from anatome.values import FARTHEST


class SteppedSection(BaseCut):
    """A section whose line has jogs; ``depth`` is measured from its deepest step.

    Its grips are ``step i``, ``jog i`` and ``far``, the end of the depth; ``move`` moves all of it.
    """

    kind: Literal["stepped"] = "stepped"
    line: SteppedLine
    depth: float | None = Field(default=None, gt=0, le=FARTHEST)
    parting: Parting | None = None

    @property
    def _deepest(self) -> Plane:
        return min(self.line.planes, key=lambda p: p.offset)

    def cells(self) -> tuple[Cell, ...]:
        cells = self.line.cells()
        return cells if self.depth is None else (*cells, Cell((far_end(self._deepest, self.depth),)))

    def sides(self) -> tuple[tuple[Cell, ...], tuple[Cell, ...]]:
        before = self.line.cells()
        return before, tuple(Cell((cell.planes[0].turned_round(), *cell.planes[1:])) for cell in before)

    @property
    def axis(self) -> Plane:
        """The plane of the first step."""
        return self.line.planes[0]

    def face_name(self, plane: Plane) -> str:
        """Return which step a face is, counted from the left as one looks; or a jog between two."""
        for i, step in enumerate(self.line.planes):
            if step == plane:
                return f"step {i + 1}"
        return "jog" if abs(plane.n @ np.array(self.line.normal)) < 0.5 else FAR_END

    def scaled(self, factor: float) -> SteppedSection:
        parting = self.parting and self.parting.scaled(factor)
        changes = {"line": self.line.scaled(factor), "depth": times(self.depth, factor), "parting": parting}
        return self.model_copy(update=changes)

    def moved(self, by: Array) -> SteppedSection:
        """Move it by (3,) metres; only what lies along the normal and along the steps makes a difference."""
        along = float(by @ self.line.along)
        line = self.line.moved(float(by @ np.array(self.line.normal)))
        return self._with(SteppedLine(line.normal, line.offsets, tuple(j + along for j in line.jogs)))

    def _with(self, line: SteppedLine) -> SteppedSection:
        return self.model_copy(update={"line": line})

    def turned(self, point: Array, degrees: float) -> SteppedSection:
        return self._with(self.line.turned_about(point, degrees))

    def _part_way(self, to: SteppedSection, share: float) -> SteppedSection | None:
        line = self.line.part_way(to.line, share)
        return None if line is None else to.model_copy(update={"line": line, "depth": part_way(self.depth, to.depth, share)})

    def clear_of(self, bounds: Array) -> SteppedSection:
        margin = clearance(bounds)
        before = self._deepest.beyond(bounds, margin)
        moved = self._with(self.line.moved(before.offset - self._deepest.offset))
        return moved.model_copy(update={"depth": depth_clear_of(before, self.depth, bounds, margin)})

    def turned_round(self) -> SteppedSection:
        return self._with(self.line.turned_round())

    def frames(self, bounds: Array) -> list[Array]:
        """Return (4, 3) of each step between its jogs, the outer ones as far as the bounds reach."""
        line, corners = self.line, corners_of(bounds)
        along, grow = corners @ line.along, MARGIN * float(np.ptp(bounds, axis=0).max())
        low, high = float(along.min()) - grow, float(along.max()) + grow
        ends = [min([low, *line.jogs]), *line.jogs, max([high, *line.jogs])]
        frames = []
        for plane, left, right in zip(line.planes, ends[:-1], ends[1:]):
            foot = plane.n * plane.offset
            a, b = foot + line.along * left, foot + line.along * right
            bottom, top = bounds[0][2] - grow, bounds[1][2] + grow
            frames.append(np.array([[*a[:2], bottom], [*b[:2], bottom], [*b[:2], top], [*a[:2], top]]))
        return frames

    def grips(self, bounds: Array) -> tuple[Grip, ...]:
        line, looks = self.line, -np.array(self.line.normal)
        found = [Grip(f"step {i}", frame.mean(axis=0), looks, frame) for i, frame in enumerate(self.frames(bounds))]
        for i, jog in enumerate(line.jogs):
            between = (line.offsets[i] + line.offsets[i + 1]) / 2
            at = line.along * jog + np.array(line.normal) * between + [0, 0, bounds[:, 2].mean()]
            found.append(Grip(f"jog {i}", at, line.along))
        return (*found, *far_grips(self._deepest, self.depth, bounds))

    def pulled(self, name: str, by: Array) -> SteppedSection:
        kind, number = name_parts(name)
        back = float(by @ self.axis.n)
        if kind == "far" and self.depth is not None:
            return self.model_copy(update={"depth": max(self.depth - back, LEAST)})
        if kind == "step":
            return self._with(self.line.with_step_moved(number, back))
        if kind == "jog":
            return self._with(self.line.with_jog_at(number, self.line.jogs[number] + float(by @ self.line.along)))
        return self.moved(self.axis.n * back)

    def value(self, name: str) -> float | None:
        kind, number = name_parts(name)
        if kind == "turn":
            return self.heading
        if kind == "far":
            return self.depth
        return self.line.jogs[number] if kind == "jog" else self.line.planes[number].position

    def travel(self, name: str) -> Array:
        kind, _ = name_parts(name)
        if kind == "jog":
            return self.line.along
        return -self.axis.n if kind == "far" else self.axis.positive

    def moving_plane(self, name: str) -> Plane | None:
        kind, number = name_parts(name)
        if kind == "far":
            return None
        if kind == "jog":
            along = self.line.along
            place = along * self.line.jogs[number]
            return Plane((float(place[0]), float(place[1]), 0.0), (float(along[0]), float(along[1]), 0.0))
        return self.line.planes[number]

    @property
    def scouted(self) -> tuple[str, ...]:
        return tuple(f"step {i}" for i in range(len(self.line.offsets)))

    def fields(self) -> tuple[CutField, ...]:
        tip = "Where this step stands along the section's axis"
        return (*(CutField(f"step {i}", f"Step {i + 1}", tip) for i in range(len(self.line.offsets))), DIRECTION, DEPTH)

    def summary(self, lengths: Lengths) -> str:
        return f"{len(self.line.offsets)} steps"

    @property
    def _line_words(self) -> str:
        return f" in {len(self.line.offsets)} steps"

    @property
    def flat_planes(self) -> tuple[Plane, ...]:
        return self.line.planes

    @property
    def flat_normal(self) -> Array | None:
        return np.array(self.line.normal)

    def at_seams(self, plane: Plane, segments: Array, near: float) -> NDArray[np.bool_]:
        """Jogs as a whole, and of steps their lines at jogs."""
        if plane not in self.line.planes:
            return np.ones(len(segments), bool)
        places = segments @ self.line.along
        away = np.abs(places[:, :, None] - np.array(self.line.jogs)).max(axis=1)
        return np.asarray((away < near).any(axis=1))

    def key_mark(self, view: DrawingPlane, bounds: Array, grow: float, lengths: Lengths) -> KeyMark:
        line = self.line
        looks = -view.flat(np.array(line.normal))
        strokes, knobs = [], []
        if view.is_plan:
            along = corners_of(bounds) @ line.along
            points = line.points(float(along.min()) - grow, float(along.max()) + grow)
            for i in range(len(points) - 1):
                strokes.append(MarkStroke(points[i : i + 2], f"step {i // 2}" if i % 2 == 0 else f"jog {i // 2}"))
            knobs = [KeyKnob("turn", points[i], looks, 13.0) for i in (0, -1)]
        else:
            low, high = bounds[0][2] - grow, bounds[1][2] + grow
            # Steps show as lines where they are seen end on; from the front one sees the jogs instead.
            places: list[tuple[float, str, Array | None]] = []
            if abs(float(np.array(line.normal) @ view.right)) > IN_LINE:
                places = [(view.flat(p.n * p.offset)[0], f"step {i}", looks) for i, p in enumerate(line.planes)]
            elif abs(float(line.along @ view.right)) > IN_LINE:
                places = [(view.flat(line.along * j)[0], f"jog {i}", None) for i, j in enumerate(line.jogs)]
            for x, hold, points_to in places:
                ends = np.array([[x, low], [x, high]])
                strokes.append(MarkStroke(ends, hold, faint=points_to is None))
                if points_to is not None:
                    knobs += [KeyKnob(hold, end, points_to / max(float(np.hypot(*points_to)), 1e-9), 13.0) for end in ends]
        if not strokes:
            return KeyMark(note=f"{self.mark}  stepped, see the plan")
        return KeyMark(tuple(strokes), tuple(knobs))
