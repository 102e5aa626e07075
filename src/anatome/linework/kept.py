"""A drawing as bytes, for projects to keep: JSON, the same whenever it is the same drawing."""

from __future__ import annotations

from pydantic import TypeAdapter, ValidationError
from pydantic.dataclasses import dataclass

from anatome.linework.drawing import Drawing, Layer, Strokes
from anatome.look.look import Rgb
from anatome.problems import Problem

EDITION = 5
"""Raised when drawings come out otherwise than they did, so that kept ones are made anew."""


@dataclass(frozen=True)
class _Kept:
    """What is kept of a drawing: all but notes and the picture under it, which whoever uses it puts there."""

    title: str
    width: float
    height: float
    scale: float
    line_width: float
    ink: Rgb
    layers: tuple[Layer, ...]
    strokes: tuple[Strokes, ...]
    paper: Rgb | None
    lost: tuple[str, ...] = ()


_KEPT = TypeAdapter(_Kept)


def packed(drawing: Drawing) -> bytes:
    """Return a drawing without its notes and the picture under it; places are kept to the last digit."""
    d = drawing
    kept = _Kept(d.title, d.width, d.height, d.scale, d.line_width, d.ink, d.layers, d.strokes, d.paper, d.lost)
    return _KEPT.dump_json(kept)


def unpacked(data: bytes) -> Drawing:
    """Return the drawing again. Raises Problem when it is none."""
    try:
        kept = _KEPT.validate_json(data)
    except ValidationError as error:
        raise Problem("The linework kept in the project is damaged; it is made anew.") from error
    k = kept
    return Drawing(k.title, k.width, k.height, k.scale, k.line_width, k.ink, k.layers, k.strokes, k.paper, lost=k.lost)
