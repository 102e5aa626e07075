"""What cuts with an inside have in common."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Self

from anatome.cuts.kinds.base import BaseCut
from anatome.cuts.kinds.grip import CutField

TURNED = CutField("turn", "Turned", "How it is turned, anticlockwise from +X. Type degrees to turn it", unit="°", step=1.0)


class Enclosing(BaseCut):
    """A cut that keeps its inside, or with ``carve`` takes it away and keeps the rest; with a ``parting`` it draws it out."""

    encloses: ClassVar[bool] = True

    if TYPE_CHECKING:  # a field of each kind, for it comes after what it encloses
        carve: bool

    @property
    def carves(self) -> bool | None:
        return self.carve

    def turned_round(self) -> Self:
        return self.model_copy(update={"carve": not self.carve})

    @property
    def direction(self) -> str:
        return "Takes its inside away" if self.carve else "Keeps its inside"
