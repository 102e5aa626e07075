"""The text of a STEP physical file (ISO 10303-21): its records, what they refer to, and hashes of what they say.

Numbers of records change whenever a program writes a file anew, and so do time stamps. A hash of what a record says, with that of
all it refers to, stays the same.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.compiled import BYTES, FLAGS, HASHES, INTEGERS, compiled

Numbers = NDArray[np.int64]
Hashes = NDArray[np.uint64]
Bytes = NDArray[np.uint8]

PRIME, BASIS = np.uint64(0x100000001B3), np.uint64(0xCBF29CE484222325)
"""Of the hash FNV-1a, 64 bits (Fowler, Noll and Vo)."""
NOWHERE = -1


def said(words: str) -> np.uint64:
    """Return the hash of a keyword, as records have it in ``kind``.

    >>> said("IFCWALL") == said("IFCWALL"), said("IFCWALL") == said("IFCSLAB")
    (True, False)
    """
    found = int(BASIS)
    for byte in words.encode():
        found = ((found ^ byte) * int(PRIME)) & 0xFFFFFFFFFFFFFFFF
    return np.uint64(found)


@dataclass(frozen=True, eq=False)
class StepText:
    """Records in the order of the file: ``number`` (n,), each from ``start`` to ``end`` (n,) bytes of the ``data``, after the
    equals sign; ``kind`` (n,) and ``own`` (n,), hashes of the keyword and of all that is said but whom it names; ``refs`` (m,)
    the records referred to, those of record ``i`` from ``first[i]`` to ``first[i + 1]``, −1 for what is not there."""

    data: bytes
    number: Numbers
    start: Numbers
    end: Numbers
    kind: Hashes
    own: Hashes
    first: Numbers
    refs: Numbers

    def text(self, record: int) -> str:
        """Return what a record says."""
        return self.data[self.start[record] : self.end[record]].decode("latin-1")

    def are(self, words: Iterable[str]) -> NDArray[np.bool_]:
        """Return (n,) mask of the records with one of these keywords, in capitals."""
        return np.isin(self.kind, np.array([said(word) for word in words], np.uint64))

    def refs_of(self, record: int) -> Numbers:
        """Return (k,) what a record refers to."""
        return self.refs[self.first[record] : self.first[record + 1]]


def step_text(data: bytes) -> StepText | None:
    """Return the records in the bytes of a STEP file, or None where they do not hang together: numbers that stand twice."""
    array = np.frombuffer(data, np.uint8)
    most = int(np.count_nonzero(array == ord(";"))), int(np.count_nonzero(array == ord("#")))
    number, start, end, kind, own, first, named = _scan(array, np.array(most, np.int64))
    order = np.argsort(number, kind="stable")
    ranked = number[order]
    if not len(number) or (np.diff(ranked) == 0).any():
        return None
    at = np.searchsorted(ranked, named).clip(max=len(ranked) - 1)
    refs = np.where(ranked[at] == named, order[at], NOWHERE)
    return StepText(data, number, start, end, kind, own, first, refs)


@compiled(BYTES, INTEGERS)
def _scan(data: Bytes, most: Numbers) -> tuple[Numbers, Numbers, Numbers, Hashes, Hashes, Numbers, Numbers]:
    """The records of a file that has at ``most`` (2,) so many, and so many references."""
    prime, basis = np.uint64(0x100000001B3), np.uint64(0xCBF29CE484222325)
    records, references = most[0] + 1, most[1] + 1
    number, start, end = np.empty(records, np.int64), np.empty(records, np.int64), np.empty(records, np.int64)
    kind, own = np.empty(records, np.uint64), np.empty(records, np.uint64)
    first, refs = np.zeros(records + 1, np.int64), np.empty(references, np.int64)
    made, named, size, i = 0, 0, len(data), 0
    while i < size:
        byte = data[i]
        if byte <= 32:
            i += 1
            continue
        if byte == 47 and i + 1 < size and data[i + 1] == 42:  # a comment
            i += 2
            while i + 1 < size and not (data[i] == 42 and data[i + 1] == 47):
                i += 1
            i += 2
            continue
        is_record = byte == 35
        wanted = np.int64(0)
        if is_record:
            i += 1
            while i < size and 48 <= data[i] <= 57:
                wanted = wanted * 10 + np.int64(data[i] - 48)
                i += 1
            while i < size and data[i] <= 32:
                i += 1
            is_record = i < size and data[i] == 61
            i += 1
            while i < size and data[i] <= 32:
                i += 1
        begin, hash_, keyword, in_keyword, before = i, basis, np.uint64(0), True, named
        while i < size and data[i] != 59:
            byte = data[i]
            if byte == 39 or byte == 34:  # text, or bits: whatever stands in it is its own
                quote = byte
                hash_ = (hash_ ^ np.uint64(byte)) * prime
                i += 1
                while i < size and data[i] != quote:
                    hash_ = (hash_ ^ np.uint64(data[i])) * prime
                    i += 1
                hash_ = (hash_ ^ np.uint64(quote)) * prime
                i += 1
                continue
            if byte == 47 and i + 1 < size and data[i + 1] == 42:
                i += 2
                while i + 1 < size and not (data[i] == 42 and data[i + 1] == 47):
                    i += 1
                i += 2
                continue
            if byte == 40 and in_keyword:
                keyword, in_keyword = hash_, False
            if byte == 35:
                value = np.int64(0)
                i += 1
                while i < size and 48 <= data[i] <= 57:
                    value = value * 10 + np.int64(data[i] - 48)
                    i += 1
                if is_record:
                    refs[named] = value
                    named += 1
                hash_ = (hash_ ^ np.uint64(35)) * prime
                continue
            if byte > 32:
                if 97 <= byte <= 122 and in_keyword:
                    byte -= 32
                hash_ = (hash_ ^ np.uint64(byte)) * prime
            i += 1
        if is_record and i < size:
            number[made], start[made], end[made], kind[made], own[made] = wanted, begin, i, keyword, hash_
            first[made] = before
            made += 1
            first[made] = named
        i += 1
    return number[:made], start[:made], end[:made], kind[:made], own[:made], first[: made + 1], refs[:named]


@compiled(INTEGERS, INTEGERS, INTEGERS, INTEGERS, HASHES, FLAGS)
def deep_hashes(
    first: Numbers, refs: Numbers, more_first: Numbers, more: Numbers, own: Hashes, alike: NDArray[np.bool_]
) -> Hashes:
    """Return (n,) hashes of records with all they refer to, in that order, and with ``more`` (k,) in any order, those of record
    ``i`` from ``more_first[i]`` on. What is ``alike`` (n,) counts as one and the same, and so does what leads back to itself."""
    count, odd = len(own), np.uint64(0x9E3779B97F4A7C15)  # the golden ratio: what Fibonacci hashing multiplies by
    found, state = np.zeros(count, np.uint64), np.zeros(count, np.uint8)
    stack, at = np.empty(count + 1, np.int64), np.empty(count + 1, np.int64)
    for root in range(count):
        if state[root]:
            continue
        depth = 0
        stack[0], at[0] = root, 0
        state[root] = 1
        while depth >= 0:
            node = stack[depth]
            known = first[node + 1] - first[node]
            whole = 0 if alike[node] else known + more_first[node + 1] - more_first[node]
            went = False
            while at[depth] < whole:
                step = at[depth]
                child = refs[first[node] + step] if step < known else more[more_first[node] + step - known]
                at[depth] += 1
                if child >= 0 and state[child] == 0:
                    state[child] = 1
                    depth += 1
                    stack[depth], at[depth] = child, 0
                    went = True
                    break
            if went:
                continue
            value = np.uint64(77) if alike[node] else own[node]
            if not alike[node]:
                for k in range(first[node], first[node + 1]):
                    child = refs[k]
                    value = (value ^ (found[child] if child >= 0 and state[child] == 2 else np.uint64(3))) * odd
                    value ^= value >> np.uint64(32)
                for k in range(more_first[node], more_first[node + 1]):
                    child = more[k]
                    beside = ((found[child] if child >= 0 and state[child] == 2 else np.uint64(5)) ^ np.uint64(11)) * odd
                    value += beside ^ (beside >> np.uint64(29))
            value *= odd
            found[node] = value ^ (value >> np.uint64(32))
            state[node] = 2
            depth -= 1
    return found
