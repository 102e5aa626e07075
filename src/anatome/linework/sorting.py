"""Lines and areas sorted on to layers, as it is said how."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from anatome.linework.drawing import Ring, Strokes
from anatome.look.line_layers import AS_KINDS, FIGURES, OTHER, LineLayers, models_of
from anatome.look.pens import LineKind, Pen
from anatome.model.building import Building
from anatome.notes.touching_up import LineTouchUp

Numbers = NDArray[np.int64]


class Sorting:
    """Of one building: elements that are told apart have a number each; of all lines it is 0 where they are not."""

    def __init__(self, layers: LineLayers | None, building: Building, touched: Sequence[LineTouchUp] = ()) -> None:
        """Lines that are ``touched`` up have pens of their own."""
        self.layers = layers or AS_KINDS
        self._touched = touched
        self._names: list[str] = [""]
        self._number = np.zeros(len(building.elements) + 1, np.int64)
        if self.by_model:
            models = models_of(building, self.layers.of)
            self._names = [OTHER, FIGURES, *sorted(set(models) - {OTHER, FIGURES})]
            place = {name: number for number, name in enumerate(self._names)}
            self._number = np.array([*(place[name] for name in models), 0], np.int64)

    @property
    def by_model(self) -> bool:
        """Whether elements are told apart."""
        return self.layers.by != "kind"

    @property
    def tells_apart(self) -> bool:
        """Whether lines of one kind may have different numbers."""
        return self.by_model or bool(self._touched)

    def numbers(self, element: Numbers, kind: Numbers | None = None, touched: Numbers | None = None) -> Numbers:
        """Return (n,) the number of each element (n,), −1 for none; lines of people and trees are told by their ``kind``, those
        that are ``touched`` up by which they are of, −1 for none."""
        found = self._number[element]
        if self.by_model and kind is not None:
            found = np.where(np.isin(kind, (LineKind.FIGURE, LineKind.WITHIN)) & (element < 0), 1, found)
        return np.asarray(found * (len(self._touched) + 1) + (0 if touched is None else touched + 1))

    def model(self, number: int) -> str:
        """Return what the model says of those with a number."""
        return self._names[number // (len(self._touched) + 1)]

    def strokes(
        self,
        kind_name: str,
        number: int,
        pen: Pen,
        lines: tuple[Ring, ...],
        kind: LineKind,
        depth: str = "",
        patterns: str = "",
    ) -> Strokes | None:
        """Return lines of one kind and number on their layer; None where that is not drawn."""
        model = self.model(number)
        name = self.layers.name(kind_name, model, depth)
        own = self.layers.pen(pen, name, kind_name, model)
        touch = number % (len(self._touched) + 1)
        if own is not None and touch:
            own = self._touched[touch - 1].pen(own)
        return None if own is None else Strokes(name, own, lines, kind, patterns)
