"""Two states of an IFC file: which products are the same in both, and a file of the others alone.

A product's key is a hash of all that decides what is read of it: its own record with its placement and shape, and what others
say of it: openings in it, colours and layers of its shape, its material and type, and the storey it stands in.
"""

from __future__ import annotations

import re
from collections.abc import Collection
from functools import cached_property, lru_cache
from typing import Any

import ifcopenshell
import numpy as np
from numpy.typing import NDArray

from anatome.formats.step_text import NOWHERE, Hashes, Numbers, StepText, deep_hashes, said
from anatome.model.ranges import laid_end_to_end

Mask = NDArray[np.bool_]

HISTORY = "IFCOWNERHISTORY"
ALIKE = (HISTORY, "IFCPROPERTYSET", "IFCELEMENTQUANTITY")
"""What is written anew each time, and what is said of things that nobody sees."""
OF_PRODUCTS = ("IFCRELASSOCIATESMATERIAL", "IFCRELDEFINESBYTYPE")
"""Relations whose last name is said of all the others."""
VOIDS, FILLS, CONTAINS = "IFCRELVOIDSELEMENT", "IFCRELFILLSELEMENT", "IFCRELCONTAINEDINSPATIALSTRUCTURE"
WHOLES = ("IFCRELNESTS", "IFCRELAGGREGATES")
"""Relations that begin with the whole of what they name then; the second goes before the first."""
LAYERS = ("IFCPRESENTATIONLAYERASSIGNMENT", "IFCPRESENTATIONLAYERWITHSTYLE")
OF_ITEMS = ("IFCSTYLEDITEM", "IFCINDEXEDCOLOURMAP")
"""What begins with the item it colours, if it is of one."""
OF_MATERIALS = "IFCMATERIALDEFINITIONREPRESENTATION"
ALWAYS = ("IFCPROJECT", "IFCSITE", "IFCBUILDING", "IFCBUILDINGSTOREY", "IFCMAPCONVERSION", HISTORY)
"""What is read again whatever changed."""
STEPS = 64
"""How often one asks for what something stands in: a file may put a thing into itself."""
GLOBAL_ID = re.compile(rb"[^(]*\(\s*'([^']{22})'")
SCHEMA = re.compile(rb"FILE_SCHEMA\s*\(\s*\(\s*'([^']+)'")
LIST, REFERENCE = re.compile(r"\((\s*#\d+(?:\s*,\s*#\d+)*\s*)\)"), re.compile(r"#(\d+)")
STIR = np.uint64(0x9E3779B97F4A7C15)


@lru_cache(maxsize=8)
def product_kinds(schema: str) -> tuple[str, ...]:
    """Return the keywords of all products in a schema (IFC4 and the like), each before those of its own kinds, as ifcopenshell
    lists what is of a type; none where the schema is not known."""
    try:
        known: Any = ifcopenshell.ifcopenshell_wrapper.schema_by_name(schema)
        waiting: list[Any] = [known.declaration_by_name("IfcProduct")]
    except RuntimeError:
        return ()
    found: list[str] = []
    while waiting:
        one = waiting.pop()
        found.append(one.name().upper())
        waiting.extend(reversed(one.subtypes()))
    return tuple(found)


class IfcState:
    """One state of an IFC file, as far as its ``text`` says."""

    def __init__(self, text: StepText) -> None:
        self.text = text

    @cached_property
    def products(self) -> Numbers:
        """(p,) the records of products, kind by kind in the order of their numbers, as reading gives them."""
        schema = SCHEMA.search(self.text.data[:8192])
        kinds = product_kinds(schema.group(1).decode("latin-1").upper()) if schema else ()
        place = {said(kind): number for number, kind in enumerate(kinds)}
        found = np.flatnonzero(self.text.are(kinds))
        ranks = np.array([place[kind] for kind in self.text.kind[found]], np.int64)
        return found[np.lexsort([self.text.number[found], ranks])]

    @cached_property
    def ids(self) -> list[str]:
        """Their GlobalIds, of each (p,) product; nothing where one has none."""
        return [self.global_id(record) for record in self.products.tolist()]

    def global_id(self, record: int) -> str:
        """Return the GlobalId of a record; nothing where it has none."""
        found = GLOBAL_ID.match(self.text.data, int(self.text.start[record]), int(self.text.end[record]))
        return found.group(1).decode("latin-1") if found else ""

    # What others say of a record -------------------------------------------------------------------------------

    def _led(self, *kinds: str, last: bool) -> tuple[Numbers, Numbers]:
        """Pairs (k,), (k,) of what relations of some kinds name, and the name that leads these: the ``last``, or the first that
        is no owner's history."""
        text = self.text
        relations = np.flatnonzero(text.are(kinds))
        first, end = text.first[relations], text.first[relations + 1]
        relations, first, end = relations[end > first], first[end > first], end[end > first]
        lead = end - 1 if last else np.minimum(first + text.are((HISTORY,))[text.refs[first]], end - 1)
        at = laid_end_to_end(first, end)
        leads = np.repeat(lead, end - first)
        named, leader = text.refs[at], text.refs[leads]
        others = (at != leads) & (named >= 0) & (leader >= 0)
        return named[others], leader[others]

    @cached_property
    def _openings(self) -> tuple[Numbers, Numbers]:
        """Pairs of products and openings in them; a relation's last but one name and its last."""
        relations = np.flatnonzero(self.text.are((VOIDS,)))
        relations = relations[np.diff(self.text.first)[relations] >= 2]
        end = self.text.first[relations + 1]
        return self.text.refs[end - 2], self.text.refs[end - 1]

    @cached_property
    def _whole(self) -> Numbers:
        """(n,) what each record is part of, or fills an opening of; −1 where that is nothing."""
        found = np.full(len(self.text.number), NOWHERE)
        host, opening = self._openings
        of_opening = np.full(len(found), NOWHERE)
        of_opening[opening] = host
        relations = np.flatnonzero(self.text.are((FILLS,)))
        relations = relations[np.diff(self.text.first)[relations] >= 2]
        end = self.text.first[relations + 1]
        found[self.text.refs[end - 1]] = of_opening[self.text.refs[end - 2]]
        for kind in WHOLES:
            part, whole = self._led(kind, last=False)
            found[part] = whole
        return found

    @cached_property
    def _container(self) -> Numbers:
        """(n,) what each record stands in, as it is said first; −1 where it is not said."""
        found = np.full(len(self.text.number), NOWHERE)
        product, structure = self._led(CONTAINS, last=True)
        found[product[::-1]] = structure[::-1]
        return found

    @cached_property
    def _storey(self) -> Numbers:
        """(n,) the storey each record stands in, perhaps by what it is part of; −1 where that is none."""
        at, storeys = np.arange(len(self.text.number)), self.text.are(("IFCBUILDINGSTOREY",))
        for _ in range(STEPS):
            going = np.flatnonzero((at >= 0) & ~storeys[at])
            if not len(going):
                break
            here = at[going]
            at[going] = np.where(self._container[here] >= 0, self._container[here], self._whole[here])
        return np.where((at >= 0) & storeys[at], at, NOWHERE)

    @cached_property
    def _said_of(self) -> tuple[Numbers, Numbers]:
        """Pairs of a record, and another one that is said of it."""
        host, opening = self._openings
        found = [self._led(*OF_PRODUCTS, last=True), (host, opening)]
        # What is cut out of a whole is cut out of its parts.
        order = np.argsort(host, kind="stable")
        parts = np.flatnonzero(self._whole >= 0)
        first, end = (np.searchsorted(host[order], self._whole[parts], side) for side in ("left", "right"))
        found.append((np.repeat(parts, end - first), opening[order][laid_end_to_end(first, end)]))
        shape, material = self._led(OF_MATERIALS, last=True)
        found.append((material, shape))
        style, item = self._led(*OF_ITEMS, last=False)
        found.append((item, style))
        return np.concatenate([pair[0] for pair in found]), np.concatenate([pair[1] for pair in found])

    @cached_property
    def _beside(self) -> tuple[Numbers, Numbers]:
        """(n + 1,) and (k,): what is said of each record, those of record ``i`` from ``first[i]`` on."""
        of, by = self._said_of
        order = np.argsort(of, kind="stable")
        return np.searchsorted(of[order], np.arange(len(self.text.number) + 1)), by[order]

    @cached_property
    def keys(self) -> Hashes:
        """(p,) a key for every product; two states of a product with the same key are read alike."""
        text, own = self.text, self.text.own.copy()
        with np.errstate(over="ignore"):
            for layer in np.flatnonzero(text.are(LAYERS)).tolist():
                named = text.refs_of(layer)
                name = text.text(layer).split("#", 1)[0]  # how many it names is not said of each
                own[named[named >= 0]] += said(name) * STIR
            # Which of the faces has which colour stands in the record itself.
            for colours in np.flatnonzero(text.are(OF_ITEMS[1:])).tolist():
                own[text.refs_of(colours)[:1]] += text.own[colours] * STIR
            found = deep_hashes(text.first, text.refs, *self._beside, own, text.are(ALIKE))
            units = found[text.are(("IFCUNITASSIGNMENT",))].sum(dtype=np.uint64)
            storeys = self._storey[self.products]
            ids = {storey: said(self.global_id(storey)) for storey in np.unique(storeys[storeys >= 0]).tolist()}
            stands = np.array([ids.get(storey, np.uint64(0)) for storey in storeys.tolist()], np.uint64)
            return np.asarray(found[self.products] ^ (stands * STIR) ^ units)

    # A file of some ---------------------------------------------------------------------------------------------

    def excerpt(self, products: Collection[int]) -> bytes:
        """Return a file with the products of some records, all that is said of them, and what stands round them."""
        text = self.text
        kept = self._needed([*products, *np.flatnonzero(text.are(ALWAYS)).tolist()])
        relations = text.are((*OF_PRODUCTS, VOIDS, FILLS, CONTAINS, *WHOLES, *LAYERS, *OF_ITEMS, OF_MATERIALS)) & ~kept
        named = kept[text.refs] & (text.refs >= 0)
        counted = np.concatenate([[0], np.cumsum(named)])
        relations &= np.diff(counted[text.first]) > 0
        lines = []
        for record in np.flatnonzero(kept | relations).tolist():
            said_there = text.text(record) if kept[record] else self._without_others(record, kept)
            if said_there:
                lines.append(f"#{text.number[record]}={said_there};")
        head = text.data[: text.data.index(b"DATA;")].decode("latin-1")
        return "\n".join([f"{head}DATA;", *lines, "ENDSEC;", "END-ISO-10303-21;", ""]).encode("latin-1")

    def _needed(self, records: Collection[int]) -> Mask:
        """(n,) these records, and all that they need to be read."""
        text, (first, beside) = self.text, self._beside
        found = np.zeros(len(text.number), bool)
        waiting = np.unique(np.array(list(records), np.int64))
        while len(waiting):
            found[waiting] = True
            more = np.concatenate(
                [
                    text.refs[laid_end_to_end(text.first[waiting], text.first[waiting + 1])],
                    beside[laid_end_to_end(first[waiting], first[waiting + 1])],
                    self._whole[waiting],
                    self._container[waiting],
                ]
            )
            more = np.unique(more[more >= 0])
            waiting = more[~found[more]]
        return found

    def _without_others(self, record: int, kept: Mask) -> str:
        """What a relation says of the kept records alone; nothing where that makes no sense."""
        text = self.text
        there = {int(text.number[i]) for i in text.refs_of(record).tolist() if i >= 0 and kept[i]}

        def left(match: re.Match[str]) -> str:
            names = [name for name in REFERENCE.findall(match.group(1)) if int(name) in there]
            return f"({','.join(f'#{name}' for name in names)})" if names else "()"

        found = LIST.sub(left, text.text(record))
        whole = "()" not in found and all(int(name) in there for name in REFERENCE.findall(found))
        return found if whole else ""
