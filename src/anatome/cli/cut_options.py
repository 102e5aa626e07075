"""Cuts as they are typed: one line for each way to say one, from which options and their errors are made. All raise Problem.

What reads them is loaded when one is read, for the usage comes at once.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from anatome.problems import Problem

if TYPE_CHECKING:
    from anatome.cuts.cut import AnyCut


@dataclass(frozen=True)
class CutOption:
    """``--name form`` on its own, ``--cut name:form`` in a list; ``make`` turns the numbers, and whether it carves, into a cut
    with an id, a name and a mark."""

    name: str
    form: str
    help: str
    mark: str
    make: Callable[[str, bool, dict[str, str]], AnyCut]
    carves: bool = True


def _plane(text: str, carve: bool, names: dict[str, str]) -> AnyCut:
    from anatome.cli.values import parse_plane
    from anatome.cuts.cut import SectionPlane

    return SectionPlane(**names, plane=parse_plane(text))


def _box(text: str, carve: bool, names: dict[str, str]) -> AnyCut:
    from anatome.cli.values import parse_box
    from anatome.cuts.cut import SectionBox

    return SectionBox(**names, box=parse_box(text), carve=carve)


def _prism(text: str, carve: bool, names: dict[str, str]) -> AnyCut:
    from anatome.cli.values import numbers
    from anatome.cuts.cut import SectionPrism
    from anatome.cuts.kinds.prism import Prism

    values = numbers(text)
    if len(values) < 8 or len(values) % 2:
        raise Problem(f"“{text}” is not a prism. Give its levels and three corners or more, for example --prism 0,3,1,1,5,1,5,4.")
    return SectionPrism(**names, prism=Prism(tuple(zip(values[2::2], values[3::2])), values[0], values[1]), carve=carve)


def _round(text: str, carve: bool, names: dict[str, str]) -> AnyCut:
    from anatome.cli.values import numbers
    from anatome.cuts.cut import SectionPrism
    from anatome.cuts.kinds.prism import Prism

    values = numbers(text)
    if len(values) != 5:
        raise Problem(f"“{text}” is not a round prism. Give its levels, centre and radius, for example --round 0,3,6,4,2.5.")
    return SectionPrism(**names, prism=Prism(((values[2], values[3]),), values[0], values[1], values[4]), carve=carve)


CUT_OPTIONS = (
    CutOption(
        "plane",
        "PX,PY,PZ,NX,NY,NZ",
        "a point in metres and a normal; the side the normal points to is removed",
        "A",
        _plane,
        False,
    ),
    CutOption(
        "box", "CX,CY,CZ,SX,SY,SZ,ANGLE", "a box by centre, sizes (metres) and angle about the vertical (degrees)", "B", _box
    ),
    CutOption(
        "prism",
        "LOW,HIGH,X1,Y1,X2,Y2,X3,Y3,…",
        "an upright prism by two levels and the corners of its outline (metres)",
        "C",
        _prism,
    ),
    CutOption("round", "LOW,HIGH,X,Y,RADIUS", "a round one by two levels, centre and radius", "D", _round),
)

LISTED = ", ".join(f"{one.name}:{one.form}{'[,carve]' if one.carves else ''}" for one in CUT_OPTIONS)
SAID = ", ".join(f"--{one.name} {one.form}" for one in CUT_OPTIONS)


def typed_cuts(given: dict[str, str | None], carve: bool) -> list[AnyCut]:
    """Read the cuts that are given by the names of their options."""
    wanted = [(one, text) for one in CUT_OPTIONS if (text := given.get(one.name))]
    if carve and not any(one.carves for one, _ in wanted):
        able = " or ".join(f"--{one.name}" for one in CUT_OPTIONS if one.carves)
        raise Problem(f"Only what has an inside can carve. Give {able} with --carve.")
    made = []
    for one, text in wanted:
        cut = one.make(text, carve, {"id": one.name, "name": "", "mark": one.mark})
        made.append(cut.model_copy(update={"name": f"{cut.noun} {one.mark}"}))
    return made


def parse_cut(text: str) -> AnyCut:
    """Read one of a list, as ``box:CX,CY,CZ,SX,SY,SZ,ANGLE,carve``; it has no name yet."""
    kind, _, values = text.partition(":")
    option = next((one for one in CUT_OPTIONS if one.name == kind), None)
    if option is None:
        raise Problem(f"“{text}” is not a cut. Give --cut with one of {LISTED}.")
    carve = option.carves and values.endswith(",carve")
    return option.make(values.removesuffix(",carve") if carve else values, carve, {"id": "", "name": "", "mark": ""})
