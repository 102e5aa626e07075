"""Lengths and areas in words: metric, or in feet and inches. Beside the rooms, since the window and the notes both say them."""

from __future__ import annotations

import math
from fractions import Fraction

from anatome.problems import Problem

INCH, FOOT = 0.0254, 0.3048
"""Metres, by definition (international yard and pound agreement, 1959)."""
SCALE_RANGE = (0.01, 100_000.0)
"""Scales that drawings can be made at, as the 50 of 1:50."""
SQUARE_FOOT, CUBIC_FOOT = FOOT**2, FOOT**3


def scale_in(text: str) -> float:
    """Return the 50 of “1:50”, “1 : 50” or “50”. Raises Problem when the text says no scale that drawings can be made at."""
    before, colon, after = text.partition(":")
    try:
        ratio = [float(part.strip().replace(",", ".")) for part in ((before, after) if colon else ("1", before))]
        scale = ratio[1] / ratio[0]
    except (ValueError, ZeroDivisionError):
        scale = math.nan
    if not SCALE_RANGE[0] <= scale <= SCALE_RANGE[1]:
        raise Problem(f"“{text.strip()}” is not a scale. Type one such as 1:50.")
    return scale


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
