"""Reading hatches: our JSON, the widespread text form of hatch files, and drawings of a tile that is repeated."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from pydantic import ValidationError

from anatome.bezier import bezier
from anatome.lengths import INCH
from anatome.look.hatches import DENSEST, Family, Hatch, HatchFile, Tile
from anatome.problems import Problem

if TYPE_CHECKING:
    from fontTools.pens.recordingPen import RecordingPen
    from lxml import etree

KINDS = "Hatches (*.json *.pat *.svg)"
LARGEST = 4_000_000
"""Bytes of a file of hatches."""
CURVE = 12
"""Straight lines a curve of a tile is drawn as."""
LENGTHS = {"": 25.4 / 96.0, "px": 25.4 / 96.0, "mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72.0}
"""Millimetres of what widths are told in (SVG 1.1, CSS)."""
DRAWN_SMALL = 0.6
"""What lines lie apart less than in a file that says no unit is in inches."""


def read_hatches(path: Path) -> tuple[Hatch, ...]:
    """Return the hatches in a file, by its ending: JSON, .pat or .svg. Raises Problem when it holds none that can be drawn."""
    try:
        if path.stat().st_size > LARGEST:
            raise Problem(f"“{path.name}” is too large for a file of hatches: {LARGEST / 1e6:.0f} MB are the most.")
        data = path.read_bytes()
        found = {".pat": _patterns, ".svg": _tile}.get(path.suffix.lower(), _own)(data, path)
        for hatch in found:
            _check(hatch, path.name)
    except OSError as error:
        raise Problem(f"“{path.name}” cannot be read: {error.strerror or error}.") from error
    except (ValidationError, ValueError, RecursionError) as error:
        first = error.errors()[0] if isinstance(error, ValidationError) else None
        where = ".".join(map(str, first["loc"])) + ": " + first["msg"] if first else str(error)
        raise Problem(f"“{path.name}” holds no hatches of a form docs/hatches.md describes. {where}") from error
    return found


def _own(data: bytes, path: Path) -> tuple[Hatch, ...]:
    return HatchFile.model_validate(json.loads(data)).hatches


def _check(hatch: Hatch, file: str) -> None:
    """Raise Problem for what could be drawn by nobody."""
    for family in hatch.families:
        if family.dashes is not None and family.drawn_dashes is None:
            raise Problem(
                f"The hatch “{hatch.name}” in “{file}” has dashes that cannot be drawn. They are a dash and a gap in turn; "
                "a gap is above 0, a dash of 0 is a dot."
            )
        if hatch.unit == "mm" and family.spacing < DENSEST:
            raise Problem(
                f"The lines of the hatch “{hatch.name}” in “{file}” are {family.spacing:g} mm apart on paper; "
                f"{DENSEST:g} mm is the least."
            )


# The text form ------------------------------------------------------------------------------------------------


def _patterns(data: bytes, path: Path) -> tuple[Hatch, ...]:
    """A line with a star, a name and words, then a line for each family: angle, x and y of its origin, how far the next line is
    shifted along and lies apart, dashes and with a minus gaps, 0 for a dot."""
    from ezdxf.tools.pattern import parse  # slow to load, and rarely wanted, as those of tiles are

    text = _text(data)
    told = re.search(r"^;%UNITS\s*=\s*(MM|INCH)", text, re.IGNORECASE | re.MULTILINE)
    words = dict(re.findall(r"^\*([^,\r\n]+),([^\r\n]*)", text, re.MULTILINE))
    read = {name: [_family(*line) for line in lines] for name, lines in parse(text).items()}
    read = {name: families for name, families in read.items() if families}
    if not read:
        raise ValueError("There is no pattern in it.")
    finest = min(family.spacing for families in read.values() for family in families)
    in_inches = told.group(1).upper() == "INCH" if told else finest < DRAWN_SMALL
    factor = 1000.0 * INCH if in_inches else 1.0
    return tuple(
        Hatch(
            name=name.strip().lower()[:100],
            words=words.get(name, "").strip()[:200] or name.strip().capitalize(),
            families=tuple(family.scaled(factor) for family in families),
        )
        for name, families in read.items()
    )


def _text(data: bytes) -> str:
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def _family(angle: float, base: tuple[float, float], step: tuple[float, float], dashes: list[float]) -> Family:
    """As ezdxf gives it: the way to the next line is not along the line, but as it lies."""
    turn = math.radians(angle)
    along, across = np.array([math.cos(turn), math.sin(turn)]), np.array([-math.sin(turn), math.cos(turn)])
    apart, later = float(across @ step), float(along @ step)
    if apart == 0:
        raise ValueError("The lines of a family do not lie apart.")
    # Lines that go on the other way are the same lines.
    sign = math.copysign(1.0, apart)
    drawn, start = _in_turn(dashes)
    return Family(
        angle=math.fmod(angle, 360.0),
        spacing=abs(apart),
        shift=float(across @ base),
        stagger=sign * later,
        start=float(along @ base) + start,
        dashes=drawn,
    )


def _in_turn(dashes: Iterable[float]) -> tuple[tuple[float, ...] | None, float]:
    """(dash and gap in turn, or nothing for whole lines; how much later they begin). Two dashes in a row are one, so are gaps."""
    found: list[list[float]] = []
    for length in dashes:
        if length < 0:
            if found:
                found[-1][1] -= length
            else:
                found.append([math.nan, -length])  # it begins with a gap, which comes last then
        elif found and found[-1][1] == 0:
            found[-1][0] += length
        else:
            found.append([length, 0.0])
    start = 0.0
    if found and math.isnan(found[0][0]):
        start = found.pop(0)[1]
        if found:
            found[-1][1] += start
    if found and found[-1][1] == 0 and len(found) > 1:
        last = found.pop()[0]  # it ends with a dash, which goes on into the first
        found[0][0] += last
        start -= last
    if not found or found[-1][1] == 0:
        return None, 0.0
    return tuple(length for pair in found for length in pair), start


# A tile -------------------------------------------------------------------------------------------------------


def _tile(data: bytes, path: Path) -> tuple[Hatch, ...]:
    """A drawing is one tile: as large as it says, its lines repeated both ways. Fills and widths are not read."""
    from fontTools.pens.recordingPen import RecordingPen
    from fontTools.svgLib.path import SVGPath
    from lxml import etree

    try:
        root = etree.fromstring(data, etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=False))
    except etree.XMLSyntaxError as error:
        raise ValueError(f"It is no SVG: {error}") from error
    left, top, width, height = _view_box(root)
    across = _length(root.get("width"), width)
    factor = across / width
    drawn, pen = SVGPath(), RecordingPen()
    drawn.root = root
    drawn.draw(pen)
    size = width * factor, height * factor
    strokes = [
        tuple(((x - left) * factor, size[1] - (y - top) * factor) for x, y in stroke)
        for stroke in _strokes(pen)
        if len(stroke) > 1
    ]
    if not strokes:
        raise ValueError("There are no lines in it.")
    name = path.stem
    return (Hatch(name=name.lower()[:100], words=name.capitalize()[:200], tile=Tile(size=size, strokes=tuple(strokes))),)


def _view_box(root: etree._Element) -> tuple[float, float, float, float]:
    numbers = [float(number) for number in re.split(r"[\s,]+", (root.get("viewBox") or "").strip()) if number]
    if len(numbers) == 4:
        left, top, width, height = numbers
    else:
        left = top = 0.0
        width, height = (float(re.match(r"[\d.]+", root.get(key) or "0").group()) for key in ("width", "height"))  # type: ignore[union-attr]
    if not (math.isfinite(width) and math.isfinite(height) and width > 0 and height > 0):
        raise ValueError("It does not say how large it is.")
    return left, top, width, height


def _length(told: str | None, plain: float) -> float:
    """Mm of a width as an SVG tells it; of one that does not, its own numbers are those of a screen."""
    found = re.fullmatch(r"\s*([\d.]+)\s*([a-z]*)\s*", told or "")
    if found is None or found.group(2) not in LENGTHS:
        return plain * LENGTHS[""]
    return float(found.group(1)) * LENGTHS[found.group(2)]


def _strokes(pen: RecordingPen) -> list[list[tuple[float, float]]]:
    """Its lines, curves as short straight ones."""
    found: list[list[tuple[float, float]]] = []
    for kind, points in pen.value:
        if kind == "moveTo":
            found.append([points[0]])
        elif kind == "lineTo":
            found[-1].append(points[0])
        elif kind in ("curveTo", "qCurveTo"):
            found[-1] += [(x, y) for x, y in bezier([found[-1][-1], *points], CURVE).tolist()]
        elif kind == "closePath" and found[-1][0] != found[-1][-1]:
            found[-1].append(found[-1][0])
    return found
