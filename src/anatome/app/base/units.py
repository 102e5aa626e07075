"""Lengths, areas and volumes as people read and type them: metric, or in feet and inches. The model itself is in metres."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from anatome.lengths import CUBIC_FOOT, FOOT, INCH, SQUARE_FOOT, feet_and_inches, metric, paper_words

_FINENESS = {3: 16, 2: 4, 1: 1}
"""Parts of an inch that are told where metres have so many decimals."""
_NUMBER = r"\d+(?:[.,]\d+)?|[.,]\d+"
_FRACTION = r"\d+\s*[/⁄]\s*\d+"
_INCHES = rf"(?:(?P<inches>{_NUMBER})(?:[\s-]+(?P<part>{_FRACTION}))?|(?P<only>{_FRACTION}))"
_FEET = re.compile(
    rf"""\s*(?P<sign>[-+−])?\s*(?:(?P<feet>{_NUMBER})\s*(?:'|′|ft\b\.?|feet\b|foot\b))?"""
    rf"""[\s-]*(?:{_INCHES}\s*(?P<mark>"|″|''|in\b\.?|inch(?:es)?\b)?)?\s*""",
    re.IGNORECASE,
)
_METRIC = re.compile(r"\s*([-+−]?(?:\d*[.,]?\d+|\d+[.,]))\s*(m|cm|mm)?\s*")
_FACTORS = {"": 1.0, "m": 1.0, "cm": 0.01, "mm": 0.001}


@dataclass
class Units:
    """What the window speaks. One for all of it, as there is one theme."""

    feet: bool = False
    inch_papers: bool = False
    """Whether papers and scales are offered in inches and feet."""


UNITS = Units()


def _number(text: str) -> float:
    return float(text.replace(",", ".").replace("−", "-"))


def read_length(text: str) -> float | None:
    """Metres of what was typed; None for what is no length.

    Whatever is set, units that are typed count: 1.25 m, 80 cm, 5' 6 1/2", 5 ft, 66 in. A bare number is metres, or feet where
    the window speaks feet and inches.

    >>> read_length("1,25"), read_length("80 cm"), read_length("x")
    (1.25, 0.8, None)
    >>> round(read_length("5' 6 1/2\\""), 4), round(read_length("-6 in"), 4)
    (1.6891, -0.1524)
    """
    found = _METRIC.fullmatch(text)
    if found and (found.group(2) or not UNITS.feet):
        return _number(found.group(1)) * _FACTORS[found.group(2) or ""]
    if found:
        return _number(found.group(1)) * FOOT
    return _read_feet(text)


def _read_feet(text: str) -> float | None:
    found = _FEET.fullmatch(text)
    if found is None or not (found["feet"] or found["inches"] or found["only"]):
        return None
    if not found["feet"] and not found["mark"]:
        return None
    inches = _number(found["inches"]) if found["inches"] else 0.0
    for fraction in (found["part"], found["only"]):
        if fraction:
            above, below = re.split(r"[/⁄]", fraction)
            if int(below) == 0:
                return None
            inches += int(above) / int(below)
    metres = (_number(found["feet"]) if found["feet"] else 0.0) * FOOT + inches * INCH
    return -metres if found["sign"] in ("-", "−") else metres


def length(metres: float, decimals: int = 3, signed: bool = False) -> str:
    """“3.250 m”, or “10' 7 15/16\"”: the finer, the more decimals metres would have."""
    if not UNITS.feet:
        return f"{metric(metres, decimals, signed)} m"
    return feet_and_inches(metres, _FINENESS[decimals], signed)


def bare_length(metres: float, decimals: int = 3, signed: bool = False) -> str:
    """Return the same without “m”, where there is no room for it or it stands once for several."""
    return metric(metres, decimals, signed) if not UNITS.feet else feet_and_inches(metres, _FINENESS[decimals], signed)


def sizes(metres: Sequence[float], decimals: int) -> str:
    """Lengths along several directions: “1.20 × 0.80 × 0.75 m”."""
    return " × ".join(bare_length(x, decimals) for x in metres) + ("" if UNITS.feet else " m")


def area(square_metres: float, decimals: int = 2) -> str:
    """“12.50 m²”, or “134.5 ft²”, which is a decimal less for about the same."""
    if UNITS.feet:
        return f"{square_metres / SQUARE_FOOT:,.{max(decimals - 1, 0)}f} ft²"
    return f"{square_metres:.{decimals}f} m²"


def volume(cubic_metres: float, decimals: int = 3) -> str:
    """“1.250 m³”, or “44.1 ft³”."""
    if UNITS.feet:
        return f"{cubic_metres / CUBIC_FOOT:,.{max(decimals - 2, 0)}f} ft³"
    return f"{cubic_metres:.{decimals}f} m³"


def paper(size: Sequence[float]) -> str:
    """Mm across and up of a paper: “420 × 297 mm”, or “17 × 11 in”."""
    return paper_words(size, UNITS.inch_papers)


def small(metres: float) -> str:
    """“12.5 mm”, or the nearest 64th of an inch."""
    return feet_and_inches(metres, 64) if UNITS.feet else f"{1000 * metres:.1f} mm"


def nudge(metres: float) -> float:
    """Return a step in metres, or about the same in whole inches or quarters of one."""
    if not UNITS.feet:
        return metres
    inches = metres / INCH
    return INCH * (max(round(inches), 1) if inches >= 0.75 else 0.25)
