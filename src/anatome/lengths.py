"""Lengths and areas in words: metric, or in feet and inches. Beside the rooms, since the window and the notes both say them."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from fractions import Fraction

from anatome.problems import Problem

INCH, FOOT = 0.0254, 0.3048
"""Metres, by definition (international yard and pound agreement, 1959)."""
SCALE_RANGE = (0.01, 100_000.0)
"""Scales that drawings can be made at, as the 50 of 1:50."""
SQUARE_FOOT, CUBIC_FOOT = FOOT**2, FOOT**3


INCH_SCALES = {
    **{f'{words}" = 1\'-0"': 12.0 / inches for words, inches in (("3", 3.0), ("1 1/2", 1.5), ("1", 1.0), ("3/4", 0.75))},
    **{f'{words}" = 1\'-0"': 12.0 / inches for words, inches in (("1/2", 0.5), ("3/8", 0.375), ("1/4", 0.25), ("3/16", 0.1875))},
    **{f'{words}" = 1\'-0"': 12.0 / inches for words, inches in (("1/8", 0.125), ("3/32", 0.09375), ("1/16", 0.0625))},
    **{f"1\" = {feet}'": 12.0 * feet for feet in (20, 30, 40, 50, 60, 100)},
}
"""Scales of drawings in feet and inches, as the 48 of 1:48 (1/4" = 1'-0"), by how they are written."""
_INCH_SCALE = re.compile(
    r"""\s*(?:(?P<whole>\d+(?:\.\d+)?)(?![\d/⁄]))?\s*-?\s*(?:(?P<over>\d+)\s*[/⁄]\s*(?P<under>\d+))?\s*["″”]?\s*=\s*"""
    r"""(?P<feet>\d+(?:\.\d+)?)\s*['′’]\s*(?:-?\s*(?P<inches>\d+)\s*["″”])?\s*"""
)


def scale_words(scale: float) -> str:
    """Return “1:50”, or “1/4" = 1'-0"” where it is a scale of drawings in feet and inches that no other uses."""
    near = next((words for words, known in INCH_SCALES.items() if abs(scale / known - 1) < 1e-6), None)
    if near is not None and scale % 50 != 0:
        return near
    return f"1:{round(scale)}" if abs(scale - round(scale)) < 2e-3 * scale else f"1:{scale:.3g}"


def scale_in(text: str) -> float:
    """Return the 50 of “1:50”, “1 : 50” or “50”, and the 48 of “1/4" = 1'-0"”. Raises Problem when the text says no scale that
    drawings can be made at."""
    inches = _INCH_SCALE.fullmatch(text)
    if inches is not None:
        return _inch_scale(inches, text)
    before, colon, after = text.partition(":")
    try:
        ratio = [float(part.strip().replace(",", ".")) for part in ((before, after) if colon else ("1", before))]
        scale = ratio[1] / ratio[0]
    except (ValueError, ZeroDivisionError):
        scale = math.nan
    if not SCALE_RANGE[0] <= scale <= SCALE_RANGE[1]:
        raise Problem(f'“{text.strip()}” is not a scale. Type one such as 1:50, or 1/4" = 1\'-0".')
    return scale


def _inch_scale(found: re.Match[str], text: str) -> float:
    """The 48 of “1/4" = 1'-0"”: inches on the ground over inches on paper."""
    part = int(found["over"]) / max(int(found["under"]), 1e-9) if found["over"] else 0.0
    paper = float(found["whole"] or 0.0) + part
    ground = 12.0 * float(found["feet"]) + float(found["inches"] or 0.0)
    if paper <= 0.0 or not SCALE_RANGE[0] <= ground / paper <= SCALE_RANGE[1]:
        raise Problem(f'“{text.strip()}” is not a scale. Type one such as 1/4" = 1\'-0".')
    return ground / paper


def paper_words(size: Sequence[float], inches: bool) -> str:
    """Return “420 × 297 mm”, or “17 × 11 in”, of mm across and up."""
    if not inches:
        return " × ".join(f"{mm:.0f}" for mm in size) + " mm"
    return " × ".join(f"{mm / (1000.0 * INCH):.2f}".rstrip("0").rstrip(".") for mm in size) + " in"


def metric(value: float, decimals: int, signed: bool = False) -> str:
    """Return a number, nothing written as a negative nothing."""
    text = f"{value:+.{decimals}f}" if signed else f"{value:.{decimals}f}"
    return text.replace("-", "+" if signed else "") if float(text) == 0 else text


def feet_and_inches(metres: float, parts: int, signed: bool = False) -> str:
    """To the nearest so manieth part of an inch, halves away from nothing."""
    count = math.floor(abs(metres) / INCH * parts + 0.5)
    sign = "-" if metres < 0 and count else "+" if signed else ""
    feet, rest = divmod(count, 12 * parts)
    inches, left = divmod(rest, parts)
    fraction = f" {Fraction(left, parts)}" if left else ""
    if feet == 0:
        return f'{sign}{inches}{fraction}"' if inches or not left else f'{sign}{Fraction(left, parts)}"'
    return f"{sign}{feet}' {inches}{fraction}\""
