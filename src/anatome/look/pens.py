"""How lines are drawn: by the kind of line, the element it belongs to, and how far off it lies. The graphics side and linework
both read it here, so a picture and a drawing of the same agree."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import IntEnum

from anatome.look.look import Look, Rgb, mixed


@dataclass(frozen=True)
class LineStyle:
    """Of the edges of an element: mm on paper and sRGB 0..1; the look's own where nothing is said."""

    weight: float | None = None
    colour: Rgb | None = None


OWN = LineStyle()


class LineKind(IntEnum):
    """Kinds of line, in the order in which they lie over one another: the patterns of what is cut; edges behind surfaces; from
    where pieces lay to where they are shown; all lines of what is hidden and faintly drawn; strokes within people and trees, and
    their outlines; creases and borders; where a smooth surface turns away; between parts that are cut; round all of that."""

    HATCH = 0
    HIDDEN = 1
    TRAVEL = 2
    GHOST = 3
    WITHIN = 4
    FIGURE = 5
    EDGE = 6
    SILHOUETTE = 7
    BETWEEN = 8
    ROUND = 9

    @property
    def is_of_cut(self) -> bool:
        """Whether it is an outline of what is cut: it does not recede, and lies over all others."""
        return self >= LineKind.BETWEEN


@dataclass(frozen=True)
class Pen:
    """How a line is drawn: ``weight`` mm wide, ``dashes`` a dash and a gap in mm, nothing for whole lines. Its ends are round,
    unless it is dashed or ``cut_off``."""

    weight: float
    ink: Rgb
    dashes: tuple[float, float] | None = None
    cut_off: bool = False

    @property
    def has_round_ends(self) -> bool:
        """Whether a line goes on by half its weight, and round, at its ends."""
        return not self.cut_off and self.dashes is None


@dataclass(frozen=True)
class Wash:
    """Ink of one ``colour``, which takes a share, its ``strength``, of what lies under it: a pen for whoever draws over
    something. ``weight`` and ``dashes`` as of a pen."""

    weight: float
    colour: Rgb
    strength: float
    dashes: tuple[float, float] | None = None

    def on(self, paper: Rgb) -> Pen:
        """Return the pen that looks the same on paper where nothing else is."""
        return Pen(round(self.weight, 3), mixed(paper, self.colour, self.strength), self.dashes)


@dataclass(frozen=True)
class _Row:
    name: str
    weight: Callable[[Look], float]
    strength: Callable[[Look], float]
    dashes: tuple[float, float] | None = None


_TABLE = {
    LineKind.HATCH: _Row("Hatches", lambda look: look.hatch_weight, lambda look: look.hatch_ink),
    LineKind.HIDDEN: _Row("Hidden lines", lambda look: 0.7 * look.edge_weight, lambda look: 0.42, (1.6, 1.0)),
    LineKind.TRAVEL: _Row("Travel lines", lambda look: look.edge_weight, lambda look: 0.6),
    LineKind.GHOST: _Row("Ghosts", lambda look: look.edge_weight, lambda look: 0.5, (0.5, 0.9)),
    LineKind.WITHIN: _Row("Within figures", lambda look: look.edge_weight, lambda look: 0.34),
    LineKind.FIGURE: _Row("People and trees", lambda look: look.edge_weight, lambda look: 0.8),
    LineKind.EDGE: _Row("Edges", lambda look: look.edge_weight, lambda look: 1.0),
    LineKind.SILHOUETTE: _Row("Silhouettes", lambda look: look.silhouette_weight, lambda look: 1.0),
    LineKind.BETWEEN: _Row("Between parts", lambda look: look.part_weight, lambda look: 1.0),
    LineKind.ROUND: _Row("Outline of the cut", lambda look: look.cut_weight, lambda look: 1.0),
}
"""What each kind is called as a layer, its mm, how strong its ink is, and a dash and a gap in mm. The order of weights is common
practice; the weights are the look's."""

BEYOND = tuple(kind for kind in LineKind if LineKind.HIDDEN < kind < LineKind.BETWEEN)
"""What is seen and not cut, the lowest first."""


def name_of(kind: LineKind) -> str:
    """Return what the layer of a kind of line is called."""
    return _TABLE[kind].name


def wash_of(look: Look, kind: LineKind, style: LineStyle = OWN, away: float = 0.0) -> Wash:
    """Return how a look draws a kind of line of an element with a style of its own, ``away`` as a share of the depth of what is
    seen: 0 nearest, 1 farthest."""
    row = _TABLE[kind]
    weight, strength = row.weight(look), row.strength(look)
    if kind.is_of_cut or kind == LineKind.HATCH:
        return Wash(weight, look.ink, strength, row.dashes)
    if style.weight is not None:
        weight *= style.weight / look.edge_weight
    thinner, lighter = receded(look, away)
    return Wash(weight * thinner, style.colour or look.line_ink, strength * lighter, row.dashes)


def hatch_wash(look: Look, ink: Rgb | None, weight: float | None) -> Wash:
    """Return how a look draws a hatch that may have an ``ink`` of its own, which is drawn as it was chosen, and a weight."""
    wash = wash_of(look, LineKind.HATCH)
    wash = wash if weight is None else replace(wash, weight=weight)
    return wash if ink is None else replace(wash, colour=ink, strength=1.0)


# Depth --------------------------------------------------------------------------------------------------------

THINNER, LIGHTER, MOST_HAZE = 0.5, 0.4, 0.92
"""How much thinner and lighter lines are at the far end where a look has them recede wholly, and how much of the paper haze puts
over things at most. Shaders are told (``render/programs.py``)."""


def receded(look: Look, away: float) -> tuple[float, float]:
    """Return by which factors lines are thinner and lighter so far ``away``."""
    far = look.recede * min(away, 1.0)
    return 1.0 - THINNER * far, (1.0 - LIGHTER * far) * (1.0 - hazed(look, away))


def hazed(look: Look, away: float) -> float:
    """Return the share of the paper that haze puts over things so far ``away``."""
    return min(look.haze * away, MOST_HAZE)
