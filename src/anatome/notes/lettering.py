"""The letters of notes: how wide they are and what they look like, from the shipped font. One unit is the height of a capital."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from pathlib import Path
from typing import Any

FONTS = Path(str(files("anatome.notes") / "fonts"))
FAMILY = "Source Sans 3"
HEIGHTS = (1.8, 2.5, 3.5, 5.0, 7.0, 10.0)
"""Millimetres a capital is high (ISO 3098, values from memory)."""
LEADING = 1.6
"""From line to line."""
BELOW = 0.32
"""How far letters reach under their base line."""

Move = tuple[str, tuple[tuple[float, float], ...]]
"""“move”, “line”, “curve” (quadratic: one point off the line, one on it; cubic: two and one) or “close”, with its points."""


@dataclass(frozen=True, eq=False)
class Glyph:
    """A letter: how far the next one stands, and its outline."""

    advance: float
    outline: tuple[Move, ...]


def font_file(strong: bool) -> Path:
    """Return the file of the regular or the strong letters."""
    return FONTS / f"SourceSans3-{'Semibold' if strong else 'Regular'}.ttf"


def capital(strong: bool) -> float:
    """Return the height of a capital as a share of the size of the type."""
    return _high(strong) / float(_font(strong)["head"].unitsPerEm)


def width(text: str, strong: bool = False) -> float:
    """Of a line of text. Pairs of letters stand as far apart as any others."""
    return sum(glyph(letter, strong).advance for letter in text)


def lacking(texts: Iterable[str]) -> str:
    """Return the letters of some texts that the font does not have and that are drawn as empty boxes, in their order."""
    known = _font(False).getBestCmap()
    letters = dict.fromkeys(letter for text in texts for letter in text if not letter.isspace())
    return "".join(letter for letter in letters if ord(letter) not in known)


@cache
def glyph(letter: str, strong: bool = False) -> Glyph:
    """Return one letter; what the font does not have is an empty box."""
    from fontTools.pens.basePen import BasePen

    font = _font(strong)
    unit = 1.0 / _high(strong)
    made: list[Move] = []

    class Pen(BasePen):
        """Takes down an outline."""

        def _note(self, what: str, *points: tuple[float, float]) -> None:
            made.append((what, tuple((x * unit, y * unit) for x, y in points)))

        def _moveTo(self, pt: tuple[float, float]) -> None:
            self._note("move", pt)

        def _lineTo(self, pt: tuple[float, float]) -> None:
            self._note("line", pt)

        def _curveToOne(self, *points: tuple[float, float]) -> None:
            self._note("curve", *points)

        def _qCurveToOne(self, *points: tuple[float, float]) -> None:
            self._note("curve", *points)

        def _closePath(self) -> None:
            self._note("close")

    glyphs = font.getGlyphSet()
    name = font.getBestCmap().get(ord(letter), ".notdef")
    glyphs[name].draw(Pen(glyphs))
    return Glyph(float(glyphs[name].width) * unit, tuple(made))


@cache
def _high(strong: bool) -> float:
    """The height of an H in the font's own units; what its tables say of capitals is rounded."""
    from fontTools.pens.boundsPen import BoundsPen

    glyphs = _font(strong).getGlyphSet()
    pen = BoundsPen(glyphs)
    glyphs["H"].draw(pen)
    return float(pen.bounds[3])


@cache
def _font(strong: bool) -> Any:
    # A large library, wanted only where something is written.
    from fontTools.ttLib import TTFont

    return TTFont(font_file(strong), lazy=True)
