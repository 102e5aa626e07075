"""A page as a value: drawings and pictures placed on a paper, and what is written on it."""

from __future__ import annotations

from dataclasses import dataclass

from anatome.linework.drawing import Drawing
from anatome.look.look import Rgb
from anatome.notes.marks import NotesDrawn


@dataclass(frozen=True, eq=False)
class PagePart:
    """What fills a ``box`` (left, bottom, right, top, mm): a PNG and a drawing over it, both of ``size`` mm. The place ``offset``
    mm from their lower left corner lies in that of the box; what is outside is not seen. ``line`` mm draws the box itself."""

    box: tuple[float, float, float, float]
    size: tuple[float, float]
    offset: tuple[float, float] = (0.0, 0.0)
    picture: bytes | None = None
    drawing: Drawing | None = None
    line: float = 0.0
    block: str = ""
    """The id of what it is of, on its sheet."""


@dataclass(frozen=True, eq=False)
class Page:
    """A paper ``width`` × ``height`` mm with its parts, the first lowest, and over them its own lines and words."""

    title: str
    width: float
    height: float
    parts: tuple[PagePart, ...]
    marks: NotesDrawn
    ground: Rgb | None = None
    """What the paper is tinted with."""


@dataclass(frozen=True, eq=False)
class PageTile:
    """A piece of a ``page`` on a paper of ``size`` mm: what of it has its lower left corner at ``offset`` is seen in a ``box``
    (left, bottom, right, top) of the paper, with ``marks`` round it."""

    title: str
    page: Page
    size: tuple[float, float]
    box: tuple[float, float, float, float]
    offset: tuple[float, float]
    marks: NotesDrawn
