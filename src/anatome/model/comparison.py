"""What has changed between two states of a model: which element of one is which of the other, and in what they differ."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import product
from zlib import crc32

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import Building, Element
from anatome.model.shapes import Shapes, shapes_of
from anatome.words import unnumbered

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
Numbers = NDArray[np.int64]

SAME = 5e-4
"""Metres below which nothing has changed: half a millimetre, less than is built (common practice)."""
GLOBAL_ID = re.compile(r"[0-3][0-9A-Za-z_$]{21}")
"""As IFC writes a globally unique identifier (ISO 16739-1, IfcGloballyUniqueId)."""
NEAREST = 32
"""How many of the same name are looked at round where one stood."""
OVERLAP = 0.3
"""Share of the joint box of two elements that both fill, from which one may be the other, reshaped."""


@dataclass(frozen=True)
class Whole:
    """What happened to the model as one: ``factor`` times as large about the origin, then moved by ``shift`` metres."""

    factor: float = 1.0
    shift: tuple[float, float, float] = (0.0, 0.0, 0.0)

    @property
    def is_nothing(self) -> bool:
        return self == Whole()


@dataclass(frozen=True, eq=False)
class Comparison:
    """A model before (E elements) and after (F elements).

    ``partner`` (E,) is the number of each element afterwards, −1 where it is gone; ``new`` (F,) is True for what was not there
    before. The masks (E,) say in what an element differs from its partner: ``moved`` or turned, by ``shift`` (E, 3) metres beyond
    what the ``whole`` did, ``reshaped``, ``renamed`` (name or id), ``restyled`` (material or colours), ``reassigned`` (type,
    layer, storey or group). ``names`` leads from ids of elements, storeys and spaces to those they have now, None where what
    had one is gone; ids that stayed are not in it.
    """

    partner: Numbers
    new: Mask
    shift: Array
    moved: Mask
    reshaped: Mask
    renamed: Mask
    restyled: Mask
    reassigned: Mask
    names: dict[str, str | None]
    whole: Whole

    @property
    def gone(self) -> Mask:
        """(E,) True for what is there no longer."""
        return self.partner < 0


class _Pairs:
    """Who is whose partner so far; nobody has two."""

    def __init__(self, before: Building, after: Building) -> None:
        self.before, self.after = before.elements, after.elements
        self.partner = np.full(len(before.elements), -1)
        self.taken = np.zeros(len(after.elements), bool)

    @property
    def left(self) -> tuple[Numbers, Numbers]:
        """The numbers of those without a partner, before and after."""
        return np.flatnonzero(self.partner < 0), np.flatnonzero(~self.taken)

    def take(self, pairs: Iterable[tuple[int, int]]) -> None:
        """Make partners, the first pairs first."""
        for one, other in pairs:
            if self.partner[one] < 0 and not self.taken[other]:
                self.partner[one], self.taken[other] = other, True

    def unlike(self, one: int, other: int) -> tuple[bool, bool, bool]:
        """In what two elements differ besides place and shape; the least first."""
        a, b = self.before[one], self.after[other]
        return a.type != b.type, a.name != b.name, a.material != b.material


def compare(before: Building, after: Building) -> Comparison:
    """Compare two states of a model: its elements are known again by GlobalId, then by place and shape, then by name and type.

    Ids of files that are no GlobalIds count for less than the place: general modellers number what they write anew.
    """
    pairs = _Pairs(before, after)
    whole = _whole(before, after)
    was, now = shapes_of(before).placed(whole.factor, np.array(whole.shift)), shapes_of(after)
    pairs.take(_of_one_id(pairs, sure=True))
    pairs.take(_standing_alike(pairs, was, now))
    pairs.take(_of_one_id(pairs, sure=False))
    boxes = before.element_bounds * whole.factor + np.array(whole.shift), after.element_bounds
    near = _of_one_kind(pairs, was, now)
    pairs.take((one, other) for one, other in near if _close(was.own[one], now.own[other]))
    pairs.take((one, other) for one, other in near if _shared(boxes[0][one], boxes[1][other]) > OVERLAP)
    return _told(before, after, pairs, was, now, whole)


def _told(before: Building, after: Building, pairs: _Pairs, was: Shapes, now: Shapes, whole: Whole) -> Comparison:
    partner = pairs.partner
    there, others = np.flatnonzero(partner >= 0), partner[partner >= 0]
    shift = np.zeros((len(partner), 3))
    shift[there] = now.middle[others] - was.middle[there]

    def marked(differs: Iterable[bool] | Mask) -> Mask:
        mask = np.zeros(len(partner), bool)
        mask[there] = np.fromiter(differs, bool, len(there))
        return mask

    reshaped = marked(np.abs(was.own[there] - now.own[others]).max(axis=1, initial=0) > SAME)
    turned = np.abs(was.stance[there] - now.stance[others]).max(axis=1, initial=0) > SAME
    moved = marked(turned | (np.linalg.norm(shift[there], axis=1) > SAME)) & ~reshaped
    shift[~moved] = 0.0
    both = [(before.elements[i], after.elements[j]) for i, j in zip(there.tolist(), others.tolist())]
    colours = _colours(before)[there] != _colours(after)[others]
    names = _names_of_storeys(before, after, whole) | _names_of_spaces(before, after, whole)
    homes = [names.get(s.id, s.id) for s in before.storeys]

    def assigned(a: Element, b: Element) -> bool:
        home = None if a.storey is None else homes[a.storey]
        now_home = None if b.storey is None else after.storeys[b.storey].id
        return (a.type, a.layer, a.group, home) != (b.type, b.layer, b.group, now_home)

    names |= {a.id: b.id for a, b in both if a.id != b.id}
    names |= {before.elements[i].id: None for i in np.flatnonzero(partner < 0).tolist()}
    return Comparison(
        partner,
        ~pairs.taken,
        shift,
        moved,
        reshaped,
        marked((a.id, a.name) != (b.id, b.name) for a, b in both),
        marked(a.material != b.material for a, b in both) | marked(colours),
        marked(assigned(a, b) for a, b in both),
        names,
        whole,
    )


# Who is who ---------------------------------------------------------------------------------------------------------


def _of_one_id(pairs: _Pairs, sure: bool) -> list[tuple[int, int]]:
    """Those of one id: a GlobalId where it has to be ``sure``, else any, of one type."""
    before, after = pairs.left
    numbers = {pairs.after[j].id: j for j in after.tolist()}
    found = [(i, numbers[pairs.before[i].id]) for i in before.tolist() if pairs.before[i].id in numbers]
    if sure:
        return [(i, j) for i, j in found if GLOBAL_ID.fullmatch(pairs.before[i].id)]
    return [(i, j) for i, j in found if pairs.before[i].type == pairs.after[j].type]


def _standing_alike(pairs: _Pairs, was: Shapes, now: Shapes) -> list[tuple[int, int]]:
    """Those of one shape in one place, the more alike in all else first."""
    before, after = pairs.left
    if not len(before) or not len(after):
        return []
    from scipy.spatial import KDTree  # slow to load

    here, there = (np.hstack([s.middle[n], s.own[n], s.stance[n]]) for s, n in ((was, before), (now, after)))
    near = KDTree(there).query_ball_point(here, SAME, p=np.inf)
    found = [(one, other) for one, places in zip(before.tolist(), near) for other in after[places].tolist()]
    return sorted(found, key=lambda pair: (*pairs.unlike(*pair), pairs.before[pair[0]].id != pairs.after[pair[1]].id))


def _of_one_kind(pairs: _Pairs, was: Shapes, now: Shapes) -> list[tuple[int, int]]:
    """Those of one type and, numbers at its end aside, one name; the nearest first."""
    from scipy.spatial import KDTree

    before, after = (
        _grouped(elements, numbers) for elements, numbers in zip((pairs.before, pairs.after), pairs.left, strict=True)
    )
    found: list[tuple[float, int, int]] = []
    for kind in before.keys() & after.keys():
        ones, others = np.array(before[kind]), np.array(after[kind])
        count = min(NEAREST, len(others))
        distance, place = map(np.asarray, KDTree(now.middle[others]).query(was.middle[ones], k=list(range(1, count + 1))))
        for row, one in enumerate(ones.tolist()):
            found += zip(distance[row].tolist(), [one] * count, others[place[row]].tolist())
    return [(one, other) for _, one, other in sorted(found)]


def _grouped(elements: Sequence[Element], numbers: Numbers) -> dict[tuple[str, str], list[int]]:
    groups: defaultdict[tuple[str, str], list[int]] = defaultdict(list)
    for i in numbers.tolist():
        groups[elements[i].type, unnumbered(elements[i].name)].append(i)
    return groups


def _close(one: Array, other: Array) -> bool:
    return bool(np.abs(one - other).max() <= SAME)


def _shared(one: Array, other: Array) -> float:
    """How much of the box round two boxes (2, 3) both fill, flat ones taken as a little thick."""
    low, high = np.maximum(one[0], other[0]), np.minimum(one[1], other[1])
    if (high < low - SAME).any():
        return 0.0
    round_both = np.maximum(one[1], other[1]) - np.minimum(one[0], other[0])
    return float(np.prod((high - low + 2 * SAME) / (round_both + 2 * SAME)))


def _whole(before: Building, after: Building) -> Whole:
    """How the model as one has grown and moved, by those known again by their ids or, where there are none, by names only one
    has; nothing where less than half of them agree."""
    pairs = _known_by(before, after, "id") or _known_by(before, after, "name")
    if not pairs:
        return Whole()
    ones, others = np.array(pairs).T
    was, now = before.element_bounds[ones], after.element_bounds[others]
    size_was, size_now = (np.linalg.norm(b[:, 1] - b[:, 0], axis=1) for b in (was, now))
    sized = size_was > 10 * before.tolerance
    factor = float(np.median(size_now[sized] / size_was[sized])) if sized.any() else 1.0
    if abs(factor - 1) < 1e-3 or np.mean(np.abs(size_now - factor * size_was) < 1e-3 * size_now) < 0.5:
        factor = 1.0
    shift = now.mean(axis=1) - factor * was.mean(axis=1)
    common = np.median(shift, axis=0)
    if np.abs(common).max() < SAME or np.mean(np.abs(shift - common).max(axis=1) < SAME) < 0.5:
        common = np.zeros(3)
    x, y, z = common.tolist()
    return Whole(factor, (x, y, z))


def _known_by(before: Building, after: Building, word: str) -> list[tuple[int, int]]:
    """Pairs of elements that alone have one id, or one name, in both."""
    places: list[dict[str, int]] = []
    for building in (before, after):
        seen: defaultdict[str, list[int]] = defaultdict(list)
        for i, element in enumerate(building.elements):
            seen[getattr(element, word)].append(i)
        places.append({name: numbers[0] for name, numbers in seen.items() if name and len(numbers) == 1})
    return [(places[0][name], places[1][name]) for name in sorted(places[0].keys() & places[1].keys())]


# In what they differ ------------------------------------------------------------------------------------------------


def _colours(building: Building) -> NDArray[np.uint64]:
    """(E,) a number for the colours and pictures an element has, however much of each."""
    textures = building.textures
    images = [] if textures is None else [crc32(image) for image in textures.images]
    codes = []
    for number, rgba in enumerate(building.styles):
        picture = -1 if textures is None else int(textures.picture[number])
        codes.append(crc32(rgba.tobytes(), images[picture] if picture >= 0 else 0))
    code = np.array(codes, np.int64)[building.triangle_style]
    pairs = np.unique(np.stack([building.element_of_triangle, code]), axis=1)
    # The sum of well-mixed numbers tells sets apart, whatever their order (Carter and Wegman, 1979).
    mixed = pairs[1].astype(np.uint64) * np.uint64(0x9E3779B97F4A7C15)
    mixed ^= mixed >> np.uint64(29)
    mixed *= np.uint64(0xBF58476D1CE4E5B9)
    found = np.zeros(len(building.elements), np.uint64)
    np.add.at(found, pairs[0], mixed)
    return found


def _names_of_storeys(before: Building, after: Building, whole: Whole) -> dict[str, str | None]:
    """Ids of storeys that have others now: of one level, one name, or the only ones left without a partner in order."""
    kept = {s.id for s in before.storeys} & {s.id for s in after.storeys}
    left = [s for s in after.storeys if s.id not in kept]
    found: dict[str, str | None] = {}
    for storey in before.storeys:
        if storey.id in kept:
            continue
        level = storey.elevation * whole.factor + whole.shift[2]
        partner = next((s for s in left if abs(s.elevation - level) < SAME), None)
        partner = partner or next((s for s in left if s.name == storey.name), None)
        found[storey.id] = None if partner is None else partner.id
        left = [s for s in left if s is not partner]
    return found


def _names_of_spaces(before: Building, after: Building, whole: Whole) -> dict[str, str | None]:
    """Ids of rooms that have others now: in one place, the one of the same name first."""
    kept = {s.id for s in before.spaces} & {s.id for s in after.spaces}
    ones, others = ([s for s in b.spaces if s.id not in kept] for b in (before, after))
    shift = np.array(whole.shift)
    middle = [(np.array(s.lower) + s.upper) / 2 * whole.factor + shift for s in ones]
    apart = [
        (float(np.linalg.norm(middle[i] - (np.array(other.lower) + other.upper) / 2)), one.name != other.name, i, j)
        for (i, one), (j, other) in product(enumerate(ones), enumerate(others))
    ]
    found: dict[str, str | None] = {s.id: None for s in ones}
    taken: set[int] = set()
    for distance, renamed, i, j in sorted(apart):
        if found[ones[i].id] is None and j not in taken and distance < (SAME if renamed else 1.0):
            found[ones[i].id] = others[j].id
            taken.add(j)
    return found
