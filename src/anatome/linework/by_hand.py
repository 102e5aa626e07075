"""Drawings in the manner of a hand: lines that waver and run past one another at corners, washes that dry darker at their edges.

It is the last step of any drawing, and all that is sent out of one is made of it, so a file and a picture have the same strokes.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.linework.drawing import Area, Drawing, Layer, Ring, Strokes
from anatome.look.look import Look, mixed
from anatome.look.pens import LineKind, Pen

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]
Hashes = NDArray[np.uint64]

MEET = 0.02
"""Mm to which ends are put, and within which they meet."""
CORNER = float(np.cos(np.radians(25.0)))
"""Of two lines that meet, the cosine between them under which they make a corner; others go on as one stroke."""
STEP = 1.2
"""Mm between the places of a freehand line."""
LONG_WAVE, SHORT_WAVE, PRESSED = 19.0, 5.5, 8.0
"""Mm from one turn of a hand to the next: of the arm, of the fingers, and of how hard it presses."""
SURE = 4.0
"""Mm from its ends over which a line, which begins and ends where it is meant to, comes to waver fully."""
AT_ENDS = 0.2
"""Share of its waver that a line has at its ends."""
WAVERS_FROM = 12.0
"""Mm a line is long that wavers fully; shorter ones less, or they would no longer meet."""
CROSSES_FROM = 2.5
"""Mm a line is long that runs past a corner, by at most a fifth of its length."""
PRESSURES = ((0.76, 0.66), (1.0, 0.9), (1.2, 1.0))
"""At full pressure: times the weight, and share of the ink, where a line is light, as it is, and heavy."""
RIMS = ((0.2, 0.27), (0.6, 0.12), (1.2, 0.07), (2.4, 0.05))
"""Mm from the edge of a wash, and how much darker it is up to there; each over those before."""
PINHOLE = 0.6
"""Square mm of a hole under which a brush goes over it."""
UNEVEN = 0.45
"""Share of its width by which the inner edge of a rim strays."""
DRIED = (0.22, 0.20, 0.24)
"""What pigment gathers to, as sRGB; it takes its share of the colour of the wash."""
WASH_EDGES = "edges of washes"


def by_hand(drawing: Drawing, look: Look) -> Drawing:
    """Return a drawing in the manner of a look: the same drawing where lines are ruled and end where they meet.

    A freehand line is nowhere further than ``look.waver`` mm from the ruled one, but where it runs past a corner. The strokes of
    the same drawing are always the same.
    """
    if not look.by_hand:
        return drawing
    strokes, layers = drawing.strokes, drawing.layers
    if look.manner == "freehand" or look.crossing > 0:
        strokes = _drawn_by(strokes, look)
        # Their hatches are lines now, and no patterns.
        plain = [tuple(replace(area, pattern=(), pattern_of="") for area in layer.areas) for layer in layers]
        layers = tuple(replace(layer, areas=areas) for layer, areas in zip(layers, plain))
    if look.wash_edge > 0:
        layers = tuple(part for layer in layers for part in (layer, _edges_of(layer, look)) if part is not None)
    return replace(drawing, strokes=strokes, layers=layers)


# Lines ----------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class _Chains:
    """Strokes of one pen as places (n, 2) in mm, one line after the other; line i begins at ``first[i]`` and ends before
    ``first[i + 1]``."""

    places: Array
    first: Numbers

    @property
    def count(self) -> int:
        return len(self.first) - 1

    @property
    def segments(self) -> Numbers:
        """Where segments begin, in ``places``."""
        last = np.zeros(len(self.places), bool)
        last[self.first[1:] - 1] = True
        return np.flatnonzero(~last)

    @property
    def of_place(self) -> Numbers:
        """(n,) the line each place is of."""
        return np.repeat(np.arange(self.count), np.diff(self.first))


def _drawn_by(strokes: Sequence[Strokes], look: Look) -> tuple[Strokes, ...]:
    chains = [_chains(one) for one in strokes]
    crossing = _crossings(strokes, chains) if look.crossing > 0 else [None] * len(chains)
    made: list[Strokes] = []
    for one, lines, past in zip(strokes, chains, crossing):
        if not lines.count:
            continue
        names = _names(lines, look)
        if past is not None:
            lines = _run_past(lines, past, look.crossing, names)
        plain = replace(one, patterns="")
        if look.manner == "ruled":
            made.append(replace(plain, lines=_split(lines)))
            continue
        lines, along = _wavering(lines, look.waver, names)
        if one.pen.dashes is not None or look.pressure == 0:
            made.append(replace(plain, lines=_split(lines)))
        else:
            made += _pressed(plain, lines, along, names, look)
    return tuple(made)


def _chains(strokes: Strokes) -> _Chains:
    """Lines that go on from one another without a corner as one; those of hatches one by one, since each is drawn so."""
    if not strokes.lines:
        return _Chains(np.empty((0, 2)), np.zeros(1, np.int64))
    counts = np.array([len(line) for line in strokes.lines])
    places = np.concatenate(strokes.lines)
    if strokes.kind == LineKind.HATCH:
        return _Chains(places, np.concatenate([[0], np.cumsum(counts)]))
    places, of = _without_repeats(np.round(places / MEET) * MEET, np.repeat(np.arange(len(counts)), counts))
    if not len(places):
        return _Chains(places, np.zeros(1, np.int64))
    lines = shapely.linestrings(places, indices=of)
    merged = shapely.get_parts(shapely.line_merge(shapely.multilinestrings(lines)))
    places, of = _without_repeats(*shapely.get_coordinates(merged, return_index=True))
    inner = (of[1:-1] == of[:-2]) & (of[1:-1] == of[2:])
    ways = _unit(places[1:] - places[:-1])
    corner = np.flatnonzero(inner & (np.einsum("ij,ij->i", ways[:-1], ways[1:]) < CORNER)) + 1
    # A corner ends one line and begins the next.
    twice = np.insert(np.arange(len(places)), corner, corner)
    new = np.concatenate([[True], of[twice][1:] != of[twice][:-1]])
    new[corner + np.arange(len(corner)) + 1] = True
    first = np.append(np.flatnonzero(new), len(twice))
    enough = np.repeat(np.diff(first) > 1, np.diff(first))
    counts = np.diff(first)[np.diff(first) > 1]
    return _Chains(places[twice][enough], np.concatenate([[0], np.cumsum(counts)]))


def _without_repeats(places: Array, of: Numbers) -> tuple[Array, Numbers]:
    """Places (n, 2) of lines (n,) without those that repeat the one before, and without lines of one place; lines are numbered
    anew."""
    new = np.concatenate([[True], (of[1:] != of[:-1]) | (places[1:] != places[:-1]).any(axis=1)])
    places, of = places[new], of[new]
    kept = np.bincount(of)[of] > 1
    return places[kept], np.unique(of[kept], return_inverse=True)[1]


def _crossings(strokes: Sequence[Strokes], chains: Sequence[_Chains]) -> list[NDArray[np.bool_] | None]:
    """For each, (lines, 2) whether their first and last ends run past a corner: where an end meets another's."""
    cross = [one.kind is not None and one.kind >= LineKind.EDGE and one.pen.dashes is None for one in strokes]
    ends = [lines.places[np.stack([lines.first[:-1], lines.first[1:] - 1], axis=1)] for lines in chains]
    inward = [lines.places[np.stack([lines.first[:-1] + 1, lines.first[1:] - 2], axis=1)] for lines in chains]
    chosen = [number for number, does in enumerate(cross) if does and chains[number].count]
    if not chosen:
        return [None] * len(chains)
    spots = np.concatenate([ends[n].reshape(-1, 2) for n in chosen])
    ways = _unit(spots - np.concatenate([inward[n].reshape(-1, 2) for n in chosen]))
    from scipy.spatial import cKDTree  # slow to load

    pairs = cKDTree(spots).query_pairs(2 * MEET, output_type="ndarray")
    aslant = np.abs(np.einsum("ij,ij->i", ways[pairs[:, 0]], ways[pairs[:, 1]])) < CORNER
    past = np.zeros(len(spots), bool)
    past[pairs[aslant].ravel()] = True
    found: list[NDArray[np.bool_] | None] = [None] * len(chains)
    at = 0
    for number in chosen:
        count = 2 * chains[number].count
        found[number] = past[at : at + count].reshape(-1, 2)
        at += count
    return found


def _run_past(lines: _Chains, past: NDArray[np.bool_], crossing: float, names: Hashes) -> _Chains:
    places, length = lines.places.copy(), _lengths(lines)
    for side, (end, before) in enumerate(
        ((lines.first[:-1], lines.first[:-1] + 1), (lines.first[1:] - 1, lines.first[1:] - 2)),
    ):
        by = crossing * (1.0 + 0.4 * _spread(names, side + 11))
        by = np.where(past[:, side] & (length >= CROSSES_FROM), np.minimum(by, 0.2 * length), 0.0)
        places[end] += _unit(lines.places[end] - lines.places[before]) * by[:, None]
    return _Chains(places, lines.first)


def _wavering(lines: _Chains, waver: float, names: Hashes) -> tuple[_Chains, Array]:
    """Lines with places every STEP mm that stray to either side, and how far along its line each place is, in mm."""
    begin = lines.segments
    arm = lines.places[begin + 1] - lines.places[begin]
    long = np.hypot(*arm.T)
    way = arm / np.maximum(long, 1e-12)[:, None]
    parts = np.maximum(np.ceil(long / STEP).astype(np.int64), 1)
    line = lines.of_place[begin]
    # The places of each segment but its last, which begins the next; a line's very last is put behind.
    segment = np.repeat(np.arange(len(begin)), parts)
    share = (np.arange(len(segment)) - np.repeat(np.cumsum(parts) - parts, parts)) / parts[segment]
    ends = np.flatnonzero(np.append(line[1:] != line[:-1], True))
    after = np.cumsum(parts)[ends]
    segment, share = np.insert(segment, after, ends), np.insert(share, after, 1.0)
    places = lines.places[begin][segment] + arm[segment] * share[:, None]
    before = np.cumsum(long) - long
    along = before[segment] - before[_firsts(line)][line[segment]] + long[segment] * share
    across = way[segment]
    # Where two segments of a line meet a place strays between both.
    joint = np.flatnonzero((share == 0.0) & (segment > 0))
    joint = joint[line[segment[joint] - 1] == line[segment[joint]]]
    across[joint] = _unit(way[segment[joint]] + way[segment[joint] - 1])
    of = line[segment]
    length = _lengths(lines)[of]
    from_end = np.clip(np.minimum(along, length - along) / SURE, 0.0, 1.0)
    eased = from_end * from_end * (3.0 - 2.0 * from_end)
    much = waver * (AT_ENDS + (1.0 - AT_ENDS) * eased) * np.minimum(length / WAVERS_FROM, 1.0)
    stray = 0.7 * _noise(names[of], along / LONG_WAVE, 1) + 0.3 * _noise(names[of], along / SHORT_WAVE, 2)
    places += np.column_stack([-across[:, 1], across[:, 0]]) * (much * stray)[:, None]
    counts = np.bincount(of, minlength=lines.count)
    return _Chains(places, np.concatenate([[0], np.cumsum(counts)])), along


def _pressed(strokes: Strokes, lines: _Chains, along: Array, names: Hashes, look: Look) -> list[Strokes]:
    """Lines as pieces of three pens, light, usual and heavy, as a hand presses."""
    begin = lines.segments
    press = 1.0 + 1.5 * _noise(names[lines.of_place[begin]], along[begin] / PRESSED, 3)
    level = np.clip(np.floor(press + 0.5), 0, 2).astype(np.int64)
    line = lines.of_place[begin]
    starts = np.flatnonzero(np.concatenate([[True], (line[1:] != line[:-1]) | (level[1:] != level[:-1])]))
    stops = np.append(starts[1:], len(begin))
    pieces: list[list[Ring]] = [[], [], []]
    for a, b, own in zip(begin[starts].tolist(), (begin[stops - 1] + 2).tolist(), level[starts].tolist()):
        pieces[own].append(lines.places[a:b])
    made = []
    for own, (heavier, inked) in zip(pieces, PRESSURES):
        if own:
            weight = strokes.pen.weight * (1.0 + (heavier - 1.0) * look.pressure)
            ink = mixed(look.paper, strokes.pen.ink, 1.0 + (inked - 1.0) * look.pressure)
            made.append(replace(strokes, pen=Pen(round(weight, 3), ink), lines=tuple(own)))
    return made


def _split(lines: _Chains) -> tuple[Ring, ...]:
    return tuple(np.split(lines.places, lines.first[1:-1]))


def _lengths(lines: _Chains) -> Array:
    """(lines,) mm."""
    begin = lines.segments
    long = np.hypot(*(lines.places[begin + 1] - lines.places[begin]).T)
    return np.asarray(np.bincount(lines.of_place[begin], long, minlength=lines.count), np.float64)


def _firsts(line: Numbers) -> Numbers:
    """Where each line's segments begin, of their sorted numbers (n,)."""
    return np.flatnonzero(np.concatenate([[True], line[1:] != line[:-1]]))


def _unit(ways: Array) -> Array:
    return ways / np.maximum(np.hypot(*ways.T), 1e-12)[:, None]


# Chance that is always the same ---------------------------------------------------------------------------------


def _names(lines: _Chains, look: Look) -> Hashes:
    """(lines,) a number for each line, by where it is, so that others beside it change nothing of it."""
    a, b = lines.places[lines.first[:-1]], lines.places[lines.first[1:] - 1]
    told = np.round(np.column_stack([np.minimum(a, b), np.maximum(a, b)]) * 10.0).astype(np.int64).astype(np.uint64)
    found = np.full(len(told), look.hand, np.uint64)
    for column in told.T:
        found = _scrambled(found ^ column)
    return found


def _scrambled(value: Hashes) -> Hashes:
    """The finaliser of SplitMix64 (Steele, Lea, Flood: Fast splittable pseudorandom number generators, 2014)."""
    value = value + np.uint64(0x9E3779B97F4A7C15)
    value = (value ^ (value >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    value = (value ^ (value >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return value ^ (value >> np.uint64(31))


def _spread(names: Hashes, which: int | Hashes) -> Array:
    """(n,) a number −1..1 for each name."""
    mixed_up = _scrambled(names ^ _scrambled(np.atleast_1d(np.asarray(which, np.uint64))))
    return (mixed_up >> np.uint64(11)).astype(np.float64) * 2.0**-52 - 1.0


def _noise(names: Hashes, at: Array, which: int) -> Array:
    """(n,) −1..1, smooth along each name: value noise, eased by 6t⁵ − 15t⁴ + 10t³ (Perlin: Improving noise, 2002)."""
    cell = np.floor(at)
    t = at - cell
    number = cell.astype(np.int64).astype(np.uint64) * np.uint64(8) + np.uint64(which)
    low, high = _spread(names, number), _spread(names, number + np.uint64(8))
    eased: Array = t * t * t * (t * (6.0 * t - 15.0) + 10.0)
    return np.asarray(low + (high - low) * eased)


# Washes ---------------------------------------------------------------------------------------------------------


def _edges_of(layer: Layer, look: Look) -> Layer | None:
    """What is darker of the areas of a layer."""
    edges: list[Area] = []
    for area in layer.areas:
        if area.fill == look.paper or area.fades is not None:
            continue  # nothing dries there, or it was drawn out with water
        whole = [shapely.Polygon(rings[0], [h for h in rings[1:] if _size(h) > PINHOLE]) for rings in area.polygons]
        shape = shapely.make_valid(shapely.multipolygons(whole)) if len(whole) > 1 else shapely.make_valid(whole[0])
        for width, darker in RIMS:
            inner = shapely.buffer(shape, -width, quad_segs=2)
            if shapely.is_empty(inner):
                break  # what is narrower has dried evenly
            rim = shapely.difference(shape, _uneven(inner, UNEVEN * width, look))
            polygons = tuple(
                tuple(shapely.get_coordinates(ring) for ring in (p.exterior, *p.interiors))
                for p in shapely.get_parts(rim).tolist()
                if p.geom_type == "Polygon" and p.area > 1e-3
            )
            if polygons:
                dried = mixed(area.fill, DRIED, 0.55)
                strength = round(look.wash_edge * darker, 4)
                edges.append(Area(area.element_id, area.name, polygons, dried, strength=strength))
    return Layer(f"{layer.name}, {WASH_EDGES}", tuple(edges), classes=layer.classes, lies_over=True) if edges else None


def _size(ring: Ring) -> float:
    """Square mm within a ring (the shoelace formula)."""
    x, y = ring.T
    return abs(float(x[:-1] @ y[1:] - x[1:] @ y[:-1])) / 2


def _uneven(shape: shapely.Geometry, by: float, look: Look) -> shapely.Geometry:
    """A shape whose outlines stray by so many mm."""
    parts = shapely.get_parts(shape).tolist()
    rings = [ring for part in parts for ring in (part.exterior, *part.interiors)]
    places, of = shapely.get_coordinates(rings, return_index=True)
    lines = _Chains(places, np.append(_firsts(of), len(of)))
    wet = iter(_split(_wavering(lines, by, _names(lines, look))[0]))
    return shapely.make_valid(
        shapely.multipolygons([shapely.Polygon(next(wet), [next(wet) for _ in part.interiors]) for part in parts])
    )
