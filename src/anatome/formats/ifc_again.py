"""Reading a changed IFC file again: only the products that are not as they were are made anew."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from anatome.files import write_whole
from anatome.formats.ifc import Careful, PartTaker, read_ifc
from anatome.formats.ifc_states import IfcState
from anatome.formats.step_text import step_text
from anatome.formats.store import load_building
from anatome.model.building import Building, Element, Space, Storey
from anatome.model.joining import joined
from anatome.model.taking import taken, with_fewest_styles
from anatome.problems import Problem

Keys = Mapping[str, str]
"""What tells the state of a product, by its GlobalId."""
MOST = 0.4
"""Share of the products up to which reading what changed is quicker than reading all."""
LARGEST = 1_000_000_000
"""Bytes of a file whose text is looked at."""
SAME = 1e-9
"""Metres, and share of its distance from the origin, by which the witness may be off."""


@dataclass(frozen=True, eq=False)
class Known:
    """What is known of the state before: the ``building`` and the ``keys`` of its products."""

    building: Building
    keys: Keys


def keys_path(building: Path) -> Path:
    """Return where the keys of the products of a stored building lie."""
    return building.with_suffix(".keys")


def state_of(path: Path) -> IfcState | None:
    """Return the state of an IFC file, as far as its text says; None for one whose records or ids stand twice."""
    text = step_text(path.read_bytes())
    state = None if text is None else IfcState(text)
    if state is None or not state.ids or len(set(state.ids)) < len(state.ids) or not all(state.ids):
        return None
    return state


def keys_of(state: IfcState) -> dict[str, str]:
    """Return a key for every product: two states of one with the same are read alike."""
    return {name: f"{key:016x}" for name, key in zip(state.ids, state.keys.tolist(), strict=True)}


def save_keys(keys: Keys, building: Path) -> None:
    """Keep keys beside a stored building. Raises Problem where that cannot be."""
    write_whole(keys_path(building), json.dumps(dict(keys)).encode())


def load_keys(building: Path) -> Keys | None:
    """Return what was kept, or None."""
    try:
        found = json.loads(keys_path(building).read_bytes())
    except (OSError, ValueError):
        return None
    return found if isinstance(found, dict) else None


def read_known(
    path: Path,
    near: bool,
    before: Path | None,
    scratch: Path,
    progress: Callable[..., None],
    careful: Careful | None = None,
    part: PartTaker | None = None,
) -> tuple[Building, Keys | None]:
    """Return the building in an IFC file, and what tells the states of its products, None where nothing does; with the building
    kept of the state ``before`` what did not change is not made anew. ``part`` is given what was read so far, where it takes
    long. Raises Problem."""
    if careful is not None or path.stat().st_size > LARGEST:
        return read_ifc(path, progress, careful, near, part), None
    known = None if before is None else _known(before)
    if known is not None and (state := state_of(path)) is not None:
        keys = keys_of(state)
        found = read_again(path, state, keys, known, scratch, progress)
        if found is not None:
            return found, keys
    with ThreadPoolExecutor(1) as beside:  # the kernel leaves it time
        waiting = beside.submit(_keys_in, path)
        building = read_ifc(path, progress, None, near, part)
        return building, waiting.result()


def _keys_in(path: Path) -> Keys | None:
    try:
        state = state_of(path)
        return None if state is None else keys_of(state)
    except Exception:  # of a file nothing is known of, all is read when it changes
        return None


def _known(stored: Path) -> Known | None:
    keys = load_keys(stored)
    building = load_building(stored) if keys is not None else None
    return None if keys is None or building is None else Known(building, keys)


def read_again(
    path: Path, state: IfcState, keys: Keys, before: Known, scratch: Path, progress: Callable[..., None]
) -> Building | None:
    """Return the building in an IFC file of which the state ``before`` is known, as reading all of it would give it; what did not
    change is not made anew. None where that is no help: too much changed, or the two do not agree."""
    old = before.building
    same = {name for name, key in keys.items() if before.keys.get(name) == key}
    witness = next((e for e in old.elements if e.id in same), None)
    if witness is None or old.textures is not None or len(keys) - len(same) > MOST * len(keys):
        return None
    progress(0.3, "Reading what changed")
    records = dict(zip(state.ids, state.products.tolist(), strict=True))
    changed = keys.keys() - same
    part_file = scratch / "changed.ifc"
    part_file.write_bytes(state.excerpt([records[name] for name in (*sorted(changed), witness.id)]))
    try:
        part = _moved(read_ifc(part_file, lambda *_: None), old.origin)
    except Problem:
        return None
    if not _agree(old, part, witness):
        return None
    progress(0.8, "Joining the parts")
    whole = joined(_with_storeys_of(old, part.storeys), part, keep_storeys=True)
    # In the order of the file, as if all of it had been read.
    number = {e.id: i for i, e in enumerate(old.elements) if e.id in same}
    number |= {e.id: len(old.elements) + i for i, e in enumerate(part.elements) if e.id in changed}
    whole = with_fewest_styles(taken(whole, [number[name] for name in state.ids if name in number]))
    kept_spaces = {s.id: s for s in _spaces(old, part.storeys) if s.id in same} | {s.id: s for s in part.spaces}
    failed = {f.id: f for f in (*old.failed, *part.failed) if f.id in (changed if f in part.failed else same)}
    return whole.otherwise(
        name=part.name,
        storeys=part.storeys,
        spaces=tuple(kept_spaces[name] for name in state.ids if name in kept_spaces),
        failed=tuple(failed[name] for name in state.ids if name in failed),
        place=part.place,
        unit=part.unit,
    )


def _moved(building: Building, origin: tuple[float, float, float]) -> Building:
    """A building brought near as another one was."""
    if not any(origin):
        return building
    off = np.array(origin)

    def there(place: Sequence[float]) -> tuple[float, float, float]:
        x, y, z = (np.array(place) - off).tolist()
        return x, y, z

    return replace(
        building,
        vertices=building.vertices - off,
        storeys=tuple(replace(s, elevation=s.elevation - origin[2]) for s in building.storeys),
        spaces=tuple(replace(s, lower=there(s.lower), upper=there(s.upper)) for s in building.spaces),
        origin=origin,
    )


def _agree(old: Building, part: Building, witness: Element) -> bool:
    """Whether a part that did not change is read as it was: where it stands, and in the same unit."""
    number = part.index_of.get(witness.id)
    if number is None or part.unit.metres != old.unit.metres:
        return False
    here, there = part.element_bounds[number], old.element_bounds[old.index_of[witness.id]]
    return bool(np.abs(here - there).max() <= SAME * max(1.0, float(np.abs(there).max())))


def _numbers(old: Building, storeys: Sequence[Storey]) -> dict[int | None, int | None]:
    """The number of each storey among others."""
    place = {storey.id: number for number, storey in enumerate(storeys)}
    found: dict[int | None, int | None] = {i: place.get(storey.id) for i, storey in enumerate(old.storeys)}
    return {**found, None: None}


def _with_storeys_of(old: Building, storeys: Sequence[Storey]) -> Building:
    """The same building, its elements in the storeys of another list."""
    number = _numbers(old, storeys)
    return old.otherwise(elements=tuple(replace(e, storey=number[e.storey]) for e in old.elements))


def _spaces(old: Building, storeys: Sequence[Storey]) -> list[Space]:
    number = _numbers(old, storeys)
    return [replace(space, storey=number[space.storey]) for space in old.spaces]
