"""A scale model to print: its pieces, how large it is and what became of its parts."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import manifold3d
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.dissection import CutBuilding
from anatome.cuts.fitting import left_boxes
from anatome.maquette.base import on_base, round_model
from anatome.maquette.pieces import Piece, in_pieces
from anatome.maquette.settings import MaquetteSettings
from anatome.maquette.solids import whole_of
from anatome.model.kinds import FURNITURE_TYPES
from anatome.problems import Problem

SPECK = 0.5
"""Mm³ under which a body is none."""


@dataclass(frozen=True, eq=False)
class Maquette:
    """``pieces`` that are closed; the ``size`` of all of it in mm and its ``volume`` in cm³; how many ``loose`` bodies hang on
    nothing; the names of parts that were thickened, that are thin all the same, made of open surfaces, or left out."""

    pieces: tuple[Piece, ...]
    size: tuple[float, float, float]
    volume: float
    loose: int
    thickened: tuple[str, ...]
    thin: tuple[str, ...]
    plated: tuple[str, ...]
    left_out: tuple[str, ...]

    @property
    def words(self) -> str:
        """What it is, in a sentence or two."""
        count = len(self.pieces)
        said = f"{count} piece{'s' * (count != 1)}, {' × '.join(f'{side:.0f}' for side in self.size)} mm, {self.volume:.1f} cm³"
        more = [
            f"{len(self.thickened)} thin parts made as thick as can be printed" if self.thickened else "",
            f"too thin still: {_some(self.thin)}" if self.thin else "",
            f"{len(self.plated)} open parts as plates" if self.plated else "",
            f"{self.loose} bodies hang on nothing and need support" if self.loose else "",
            f"left out: {_some(self.left_out)}" if self.left_out else "",
        ]
        return "; ".join([said, *(one for one in more if one)])


def _some(names: tuple[str, ...]) -> str:
    return ", ".join(names[:5]) + (" …" if len(names) > 5 else "")


def printed_of(cut_open: CutBuilding, furniture: bool, ground: bool) -> NDArray[np.bool_]:
    """Return (E,) what of the elements that are shown is printed: with furniture, and with ground and neighbours, if wanted."""
    building = cut_open.building
    kept = cut_open.shown.copy()
    if not furniture:
        kept &= ~np.array([element.type in FURNITURE_TYPES for element in building.elements], bool)
    return kept if ground else kept & ~building.context


def size_of(cut_open: CutBuilding, how: MaquetteSettings) -> tuple[float, float, float] | None:
    """Return mm a model will have, about, with its base; None where nothing is left to print."""
    boxes = left_boxes(cut_open, cut_open.shown)
    if not len(boxes):
        return None
    sides = (boxes[:, 1].max(axis=0) - boxes[:, 0].min(axis=0)) * 1000.0 / how.scale
    wide, deep, high = (sides + round_model(how)).tolist()
    return wide, deep, high


def maquette_of(cut_open: CutBuilding, how: MaquetteSettings, progress: Callable[[float], bool] | None = None) -> Maquette:
    """Return what the cuts leave as a model to print. Raises Problem for what cannot be made, or when it is cancelled."""
    how.check()
    whole = whole_of(cut_open, how, progress)
    solid = on_base(whole.solid, how)
    low, high = np.array(solid.bounding_box()).reshape(2, 3)
    bodies = [body for body in solid.decompose() if body.volume() > SPECK]  # those of less than nothing are hollows
    lowest = low[2] + max(how.base, how.thinnest)
    loose = sum(body.bounding_box()[2] > lowest for body in bodies)
    pieces = in_pieces(solid, how)
    for piece in pieces:
        if piece.solid.status() != manifold3d.Error.NoError or piece.solid.volume() <= 0:
            raise Problem(f"Piece {piece.name} did not come out closed. Try another scale, or without pegs.")
    size = (high - low).tolist()
    named = whole.thickened, whole.thin, whole.plated, whole.left_out
    return Maquette(tuple(pieces), (size[0], size[1], size[2]), solid.volume() / 1000.0, int(loose), *named)
