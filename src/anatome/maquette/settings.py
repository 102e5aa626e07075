"""What a scale model is to be."""

from __future__ import annotations

from dataclasses import dataclass

from anatome.problems import Problem


@dataclass(frozen=True)
class MaquetteSettings:
    """``scale`` is the 200 of 1:200, all else mm of the model: ``thinnest`` what a printer can do, ``plate`` how large a piece
    may be, wide, deep and high; a ``base`` so thick, nothing for none, with a ``name`` on it; ``peg`` the diameter of what holds
    pieces together, with so much ``play``."""

    scale: float = 200.0
    thinnest: float = 0.8
    plate: tuple[float, float, float] = (220.0, 220.0, 240.0)
    base: float = 3.0
    name: str = ""
    peg: float = 4.0
    play: float = 0.15

    def check(self) -> None:
        """Raise Problem for what cannot be made."""
        if not 1.0 <= self.scale <= 100_000.0:
            raise Problem("The scale of a model to print lies between 1:1 and 1:100,000.")
        if not 0.05 <= self.thinnest <= 20.0:
            raise Problem("What a printer can do at the thinnest lies between 0.05 and 20 mm.")
        if min(self.plate) < 20.0:
            raise Problem("The plate of a printer is at least 20 mm wide, deep and high.")
        if self.base < 0 or not 0 <= self.peg <= 10 or not 0 <= self.play <= 2:
            raise Problem("Base, pegs and their play cannot be less than nothing; pegs are at most 10 mm thick, their play 2 mm.")
