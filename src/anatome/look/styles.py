"""A look put to work: what it makes of every element of a building, worked out once for stage, exports and drawings."""

from __future__ import annotations

import weakref
from collections import OrderedDict
from dataclasses import dataclass, fields, replace
from typing import Literal, TypeVar

import numpy as np
from numpy.typing import NDArray

from anatome.look.hatches import Follows, Hatch
from anatome.look.laying import AS_FACES_LIE, Laying
from anatome.look.look import Look, Picture, Rgb, Rule
from anatome.look.materials import hatch_for, pattern_for
from anatome.look.palette import MOST_CHROMA, distinct, harmonised
from anatome.look.pens import LineStyle
from anatome.model.building import Building
from anatome.model.kinds import FURNITURE_TYPES

Array = NDArray[np.float64]
WARM = (0.925, 0.912, 0.885)
LOUDNESS, CALM = 0.75, 0.22
"""What is kept of the loudness of a model's own colours, and how far they go towards white: models are loud."""
CUT_DARKER = 0.66
KEPT = 32
MOST_ROOMS = 256
ROOM_LIGHTNESS, ROOM_CHROMA = 0.885, 0.038
"""Of the colours of uses: whole rooms are in them, so they are paler than those of parts."""


@dataclass(frozen=True)
class HatchManner:
    """How an element has its hatch, as far as rules say: each thing only if it is said."""

    scale: float | None = None
    unit: Literal["mm", "m"] | None = None
    angle: float | None = None
    follows: Follows | None = None
    shift: tuple[float, float] | None = None
    ink: Rgb | None = None
    weight: float | None = None

    def ruled(self, rule: Rule) -> HatchManner:
        """Return what holds when a rule says more."""
        said = {name: getattr(rule, f"hatch_{name}") for name in ("scale", "unit", "angle", "follows", "shift", "weight")}
        said["ink"] = rule.hatch_colour
        said = {name: value for name, value in said.items() if value is not None}
        return replace(self, **said) if said else self

    def of(self, hatch: Hatch) -> Hatch:
        """Return a hatch in this manner."""
        said: dict[str, object] = {"turn": (hatch.turn + (self.angle or 0.0)) % 360}
        named = {"unit": self.unit, "follows": self.follows, "shift": self.shift, "ink": self.ink, "weight": self.weight}
        said |= {name: value for name, value in named.items() if value is not None}
        return hatch.scaled(self.scale or 1.0).model_copy(update=said)


K = TypeVar("K")
AS_IS = HatchManner()
LAYS = tuple(field.name for field in fields(Laying))
"""What rules say of how patterns and pictures are laid."""


@dataclass(frozen=True, eq=False)
class Rooms:
    """Boxes (n, 2, 3) in metres of spaces, small ones first, and the (n, 3) sRGB colours 0..1 of what lies round each."""

    boxes: Array
    colours: Array


NO_ROOMS = Rooms(np.empty((0, 2, 3)), np.empty((0, 3)))


@dataclass(frozen=True, eq=False)
class Styles:
    """``palette`` (S + n, 4) uint8: the building's own styles as the look has them, and n more; ``surface`` (E,) the one an
    element has instead of its own, or −1. ``fill`` (E, 4) uint8 of what is cut; ``hatch`` (E,) into ``hatches``, or −1;
    ``pattern`` (E,) of its surfaces into ``patterns``, or −1. ``clear`` (E,) what is seen through though its own style is
    not; ``lined`` (E,) whose edges are drawn, and ``line`` (E,) how, into ``line_styles``. What looks into one of the
    ``rooms`` has its colour, unless it has a surface of its own. ``picture`` (E,) lies on surfaces, into ``pictures``, or −1;
    ``laying`` (E,) how that and patterns lie, into ``layings``; ``textured`` says whether those show that the model brings."""

    palette: NDArray[np.uint8]
    surface: NDArray[np.int64]
    fill: NDArray[np.uint8]
    hatch: NDArray[np.int64]
    hatches: tuple[Hatch, ...]
    pattern: NDArray[np.int64]
    patterns: tuple[Hatch, ...]
    clear: NDArray[np.bool_]
    lined: NDArray[np.bool_]
    picture: NDArray[np.int64]
    pictures: tuple[Picture, ...]
    line: NDArray[np.int64]
    line_styles: tuple[LineStyle, ...]
    laying: NDArray[np.int64]
    layings: tuple[Laying, ...]
    rooms: Rooms = NO_ROOMS
    textured: bool = False

    def hatch_of(self, element: int) -> Hatch | None:
        """Return what an element is hatched with where it is cut."""
        return self.hatches[self.hatch[element]] if self.hatch[element] >= 0 else None


_made: OrderedDict[tuple[int, Look], tuple[weakref.ref[Building], Styles]] = OrderedDict()
"""Whoever lets go of a building is not kept from it."""


def resolve(look: Look, building: Building) -> Styles:
    """Return the styles of a look; the same again for the same two."""
    key = (id(building), look)
    kept = _made.get(key)
    if kept is None or kept[0]() is not building:
        kept = weakref.ref(building), _resolved(look, building)
        _made[key] = kept
        while len(_made) > KEPT:
            _made.popitem(last=False)
    return kept[1]


def _resolved(look: Look, building: Building) -> Styles:
    count = len(building.elements)
    own = _surfaces(look, building)
    more: list[Array] = []
    surface = np.full(count, -1, np.int64)
    by = look.surfaces.removeprefix("by ") if look.surfaces.startswith("by ") else None
    if by is not None:
        surface, more = _grouped(building, by, len(own))
    fill = np.array([look.poche_of(e.type) for e in building.elements])
    if look.fill_by != "one":
        numbers, colours = _groups(building, look.fill_by)
        if look.fill_by == "material":
            colours = _material_colours(building, numbers, len(colours))
        # Darker than surfaces of the same: the cut reads first.
        colours = CUT_DARKER * colours
        built = (numbers >= 0) & ~building.context
        fill[built] = colours[numbers[built]]
    hatches, laid = look.known_hatches, look.known_patterns
    clear, lined = np.zeros(count, bool), np.full(count, look.edges)
    lines = [LineStyle()] * count
    laid_on = [""] * count
    lays = [AS_FACES_LIE] * count
    patterns = [pattern_for(e.material, e.type) if look.patterns else "" for e in building.elements]
    names = [hatch_for(e.material, e.type) if look.hatch != "none" else "" for e in building.elements]
    manner = [AS_IS] * count
    for rule in (r for r in look.rules if r.on):
        mask = rule.who.mask(building)
        if rule.fill is not None:
            fill[mask] = rule.fill
        if rule.hatch is not None:
            names = [rule.hatch if m else n for m, n in zip(mask.tolist(), names)]
        if AS_IS.ruled(rule) != AS_IS:
            manner = [own.ruled(rule) if m else own for m, own in zip(mask.tolist(), manner)]
        if rule.pattern is not None:
            patterns = [rule.pattern if m else n for m, n in zip(mask.tolist(), patterns)]
        if rule.picture is not None:
            laid_on = [rule.picture if m else n for m, n in zip(mask.tolist(), laid_on)]
        laid_so = {key: value for key in LAYS if (value := getattr(rule, f"lay_{key}")) is not None}
        if laid_so:
            lays = [replace(own, **laid_so) if m else own for m, own in zip(mask.tolist(), lays)]
        if rule.lines is not None:
            lined[mask] = rule.lines
        if rule.line_weight is not None or rule.line_colour is not None:
            lines = [_ruled(line, rule) if m else line for m, line in zip(mask.tolist(), lines)]
        if rule.surface is not None or rule.clear is not None:
            more += _own_styles(rule, np.flatnonzero(mask), building, surface, own, more)
        if rule.clear is not None:
            clear[mask] = rule.clear > 0
    if look.hatch == "only":
        fill[:] = look.paper
    hatch, found_hatches = _numbered(*_in_manner(*_told_apart(names, hatches, building), manner))
    line, line_styles = _kinds(lines, LineStyle())
    laying, layings = _kinds(lays, AS_FACES_LIE)
    pattern, found_patterns = _numbered(patterns, laid)
    numbers_of = {picture.name: i for i, picture in enumerate(look.pictures)}
    palette = np.concatenate([own, *(m[None] for m in more)]) if more else own
    return Styles(
        palette=_bytes(palette),
        surface=surface,
        fill=_bytes(np.column_stack([fill, np.ones(count)])),
        hatch=hatch,
        hatches=found_hatches,
        pattern=pattern,
        patterns=found_patterns,
        clear=clear,
        lined=lined,
        picture=np.array([numbers_of.get(name, -1) for name in laid_on], np.int64),
        pictures=look.pictures,
        textured=look.surfaces == "as modelled" and building.textures is not None,
        line=line,
        line_styles=line_styles,
        laying=laying,
        layings=layings,
        rooms=_rooms(building) if by == "use" else NO_ROOMS,
    )


def _grouped(building: Building, by: str, first: int) -> tuple[NDArray[np.int64], list[Array]]:
    """((E,) the surface of each element in the colour of its group, −1 where it has its own; the (4,) colours of these), numbered
    from a ``first`` one."""
    if by == "use":
        # Furniture and what lies round the building stay as they are; walls and floors belong to more rooms than one.
        apart = building.context | np.array([e.type in FURNITURE_TYPES for e in building.elements], bool)
        return np.where(apart, first, -1), [np.ones(4)]
    numbers, colours = _groups(building, by)
    return np.where(numbers >= 0, first + numbers, -1), [np.append(c, 1.0) for c in colours]


def _kinds(values: list[K], usual: K) -> tuple[NDArray[np.int64], tuple[K, ...]]:
    """((E,) the number of each value among its kinds, the kinds, the usual one first)."""
    # Most are one and the same object: they are told apart as such before they are compared.
    different = {id(value): value for value in values}
    kinds = (usual, *sorted(set(different.values()) - {usual}, key=repr))
    number = {key: kinds.index(value) for key, value in different.items()}
    return np.array([number[id(value)] for value in values], np.int64), kinds


def _ruled(line: LineStyle, rule: Rule) -> LineStyle:
    return LineStyle(rule.line_weight or line.weight, rule.line_colour or line.colour)


def _told_apart(names: list[str], known: dict[str, Hatch], building: Building) -> tuple[list[str], dict[str, Hatch]]:
    """(the names of the elements' hatches, what they mean), materials of one hatch told from one another."""
    materials: dict[str, list[str]] = {}
    for material, name in sorted({(e.material, n) for e, n in zip(building.elements, names) if n in known}):
        materials.setdefault(name, []).append(material)
    found: dict[str, Hatch] = {}
    for name, own in materials.items():
        for number in range(len(own)):
            found[f"{name} {number}"] = known[name].told_apart(number)
    numbered = [f"{n} {materials[n].index(e.material)}" if n in known else "" for e, n in zip(building.elements, names)]
    return numbered, found


def _in_manner(names: list[str], known: dict[str, Hatch], manner: list[HatchManner]) -> tuple[list[str], dict[str, Hatch]]:
    """The same in the manner each element has its hatch in."""
    found, own = dict(known), list(names)
    for number, (name, how) in enumerate(zip(names, manner)):
        if how is not AS_IS and name in known:
            own[number] = f"{name} {how}"
            if own[number] not in found:
                found[own[number]] = how.of(known[name])
    return own, found


def _rooms(building: Building) -> Rooms:
    """The spaces of a building, in a colour for each use."""
    if not building.spaces:
        return NO_ROOMS
    boxes = np.array([[s.lower, s.upper] for s in building.spaces], float)
    number = {use: i for i, use in enumerate(building.uses)}
    colours = distinct(len(building.uses), ROOM_LIGHTNESS, ROOM_CHROMA)[[number[s.use or s.name] for s in building.spaces]]
    order = np.argsort(np.prod(boxes[:, 1] - boxes[:, 0], axis=1), kind="stable")[:MOST_ROOMS]
    return Rooms(boxes[order], colours[order])


def _numbered(names: list[str], known: dict[str, Hatch]) -> tuple[NDArray[np.int64], tuple[Hatch, ...]]:
    """((n,) the number of each name, or −1, what the numbers mean)."""
    order = sorted({n for n in names if n in known})
    number = {name: i for i, name in enumerate(order)}
    return np.array([number.get(n, -1) for n in names], np.int64), tuple(known[n] for n in order)


def _own_styles(
    rule: Rule, elements: NDArray[np.int64], building: Building, surface: NDArray[np.int64], own: Array, more: list[Array]
) -> list[Array]:
    """Styles for the elements of a rule, written into ``surface``: one for each that they had."""
    first = building.triangle_style[building.triangle_start[elements]]
    had = np.where(surface[elements] >= 0, surface[elements], first)
    made: list[Array] = []
    for style in np.unique(had).tolist():
        colour = (own[style] if style < len(own) else more[style - len(own)]).copy()
        if rule.surface is not None:
            colour[:3] = rule.surface
        if rule.clear is not None:
            colour[3] = max(1.0 - rule.clear, 0.02) if rule.clear else 1.0
        surface[elements[had == style]] = len(own) + len(more) + len(made)
        made.append(colour)
    return made


def _bytes(colours: Array) -> NDArray[np.uint8]:
    return np.round(colours.clip(0.0, 1.0) * 255).astype(np.uint8)


def _surfaces(look: Look, building: Building) -> Array:
    """(S, 4) the building's own styles as the look has them; what is clear stays clear."""
    own = building.styles / 255.0
    colours, clear = own[:, :3], own[:, 3:]
    if look.surfaces == "as modelled":
        grey = (colours @ [0.299, 0.587, 0.114])[:, None]
        colours = grey + LOUDNESS * (colours - grey)
        colours = colours + CALM * (1.0 - colours)
    elif look.surfaces == "harmonised":
        colours = harmonised(colours, MOST_CHROMA * look.colour)
    else:
        plain = {"warm grey": WARM, "paper": look.paper}.get(look.surfaces, (1.0, 1.0, 1.0))
        colours = np.broadcast_to(plain, colours.shape)
    return np.concatenate([colours, clear], axis=1)


def _material_colours(building: Building, numbers: NDArray[np.int64], count: int) -> Array:
    """(count, 3) for each material a colour like the one its first element has in the model, of one family."""
    first = building.triangle_style[building.triangle_start[:-1]]
    found = np.full((count, 3), 0.8)
    for number in range(count):
        own = np.flatnonzero(numbers == number)
        if len(own):
            found[number] = building.styles[first[own[0]], :3] / 255.0
    return harmonised(found, most_chroma=0.075)


def _groups(building: Building, by: str) -> tuple[NDArray[np.int64], Array]:
    """((E,) a number for each element or −1 where it is none, (n, 3) a colour for each number)."""
    if by == "storey":
        numbers = np.array([-1 if e.storey is None else e.storey for e in building.elements], np.int64)
        return numbers, distinct(len(building.storeys))
    if by == "element":
        return np.arange(len(building.elements)), distinct(len(building.elements))
    names = [getattr(e, by) for e in building.elements]
    order = {name: i for i, name in enumerate(sorted({n for n in names if n}))}
    return np.array([order.get(n, -1) for n in names], np.int64), distinct(len(order))
