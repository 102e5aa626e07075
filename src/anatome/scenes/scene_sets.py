"""Many scenes at once: in named sets, in order, named by a pattern, locked, deleted; edits from a project to the
next.

Scenes of one set stand together, wherever in the order the first of them is; scenes in no set stand where they are.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass

from anatome.model.building import Building
from anatome.problems import Problem
from anatome.scenes.patterns import check_pattern
from anatome.scenes.project import Project, Scene
from anatome.scenes.variants import let_go
from anatome.words import unlike

FIELDS = {
    "name": "what it is called now",
    "number": "1, 2, 3 … in their order",
    "mark": "the letter of its section",
    "cut": "the name of its section",
    "storey": "the storey a level section opens",
    "look": "the name of its look",
    "set": "the set it is in",
}
"""What may stand in braces in a pattern for names."""


@dataclass(frozen=True)
class SceneGroup:
    """Scenes that stand together: those of a set by its ``name``, or some in none."""

    name: str
    scenes: tuple[Scene, ...]


def groups_of(project: Project) -> tuple[SceneGroup, ...]:
    """Return the scenes as they stand together, in their order."""
    found: list[SceneGroup] = []
    for scene in project.scenes:
        if found and found[-1].name == scene.set:
            found[-1] = SceneGroup(scene.set, (*found[-1].scenes, scene))
        else:
            found.append(SceneGroup(scene.set, (scene,)))
    return tuple(found)


def set_names(project: Project) -> tuple[str, ...]:
    """Return the names of the sets in their order."""
    return tuple(dict.fromkeys(scene.set for scene in project.scenes if scene.set))


def together(project: Project) -> Project:
    """Return the project with the scenes of each set behind the first of them."""
    runs: list[list[Scene]] = []
    of_set: dict[str, list[Scene]] = {}
    for scene in project.scenes:
        if scene.set in of_set:
            of_set[scene.set].append(scene)
            continue
        runs.append([scene])
        if scene.set:
            of_set[scene.set] = runs[-1]
    return _with(project, (scene for run in runs for scene in run))


def with_variants(project: Project, ids: set[str]) -> set[str]:
    """Return ids of scenes with those of all their variants."""
    stacks = {s.stack for s in project.scenes if s.id in ids and s.stack}
    return ids | {s.id for s in project.scenes if s.stack in stacks}


def arranged(project: Project, ids: Iterable[str], before: str | None, into: str) -> Project:
    """Move scenes, in the order they have, ``into`` a set: before a scene of it, or behind all of it; in no set before a scene,
    or to the end. Variants go together, unless they are moved among themselves."""
    wanted = set(ids)
    there = project.scene(before)
    if there is None or not there.stack or any(s.id in wanted and s.stack != there.stack for s in project.scenes):
        wanted = with_variants(project, wanted)
    moving = [s.model_copy(update={"set": into}) if s.set != into else s for s in project.scenes if s.id in wanted]
    if before in wanted:  # before itself: before what follows
        order = [s.id for s in project.scenes]
        before = next((i for i in order[order.index(before) :] if i not in wanted), None)
    left = [s for s in project.scenes if s.id not in wanted]
    place = next((i for i, s in enumerate(left) if s.id == before), None)
    if place is None:
        own = [i for i, s in enumerate(left) if into and s.set == into]
        place = own[-1] + 1 if own else len(left)
    return together(_with(project, [*left[:place], *moving, *left[place:]]))


def into_set(project: Project, ids: Iterable[str], name: str) -> Project:
    """Put scenes, with their variants, into a set; a new one begins where the first of them is. Without a name they are in
    none."""
    wanted, name = with_variants(project, set(ids)), name.strip()[:200]
    scenes = (s.model_copy(update={"set": name}) if s.id in wanted else s for s in project.scenes)
    return together(_with(project, scenes))


def rename_set(project: Project, old: str, new: str) -> Project:
    """Give a set another name: that of another one joins the two, none at all lets its scenes go."""
    return into_set(project, [s.id for s in project.scenes if s.set == old], new)


def fold_set(project: Project, name: str, folded: bool) -> Project:
    """Fold a set together in lists of scenes, or unfold it."""
    names = project.folded_sets | {name} if folded else project.folded_sets - {name}
    return project.model_copy(update={"folded_sets": names & set(set_names(project))})


def lock_scenes(project: Project, ids: Iterable[str], locked: bool) -> Project:
    """Lock scenes, or unlock them."""
    return _changed(project, ids, lambda s: s.model_copy(update={"locked": locked}), locked_too=True)


def keep_lines_of(project: Project, ids: Iterable[str], keep: bool) -> Project:
    """Have scenes keep their linework in the project, or not."""
    return _changed(project, ids, lambda s: s.model_copy(update={"lines_kept": keep}), locked_too=True)


def delete_scenes(project: Project, ids: Collection[str]) -> Project:
    """Return the project without some scenes. Raises Problem when any of them is locked."""
    locked = [s.name for s in project.scenes if s.id in ids and s.locked]
    if locked:
        who = f"“{locked[0]}” is" if len(locked) == 1 else f"{len(locked)} of these scenes are"
        raise Problem(f"{who} locked. Unlock first, or pick the others.")
    changed = let_go(_with(project, (s for s in project.scenes if s.id not in ids)), ())
    return changed.model_copy(update={"current_scene": None}) if project.current_scene in ids else changed


def named_by(project: Project, ids: Sequence[str], pattern: str, building: Building) -> Project:
    """Name scenes that are not locked by a pattern with :data:`FIELDS` in braces, each by another name. Raises Problem for an
    empty pattern, and for fields there are not."""
    if not pattern.strip():
        raise Problem("Type what the scenes are to be called, for example “Section {mark}”.")
    check_pattern(pattern, FIELDS)
    chosen = [s for s in project.scenes if s.id in ids and not s.locked]
    taken = {s.name for s in project.scenes} - {s.name for s in chosen}
    given: dict[str, str] = {}
    for number, scene in enumerate(chosen, 1):
        given[scene.id] = unlike(_filled(pattern, scene, number, building), taken)
        taken.add(given[scene.id])
    return _changed(project, ids, lambda s: s.model_copy(update={"name": given.get(s.id, s.name)}))


def _filled(pattern: str, scene: Scene, number: int, building: Building) -> str:
    state = scene.state
    cuts = state.cuts_seen_true or state.active_cuts
    level = next((c.axis.offset for c in cuts if c.axis.is_level and c.axis.normal[2] > 0), None)
    under = [s for s in building.storeys if level is not None and s.elevation <= level + building.tolerance]
    said = {
        "name": scene.name,
        "number": str(number),
        "mark": ", ".join(c.mark for c in cuts),
        "cut": ", ".join(c.name for c in cuts),
        "storey": max(under, key=lambda s: s.elevation).name if under else "",
        "look": state.look.name,
        "set": scene.set,
    }
    return " ".join(pattern.format(**said).split()) or scene.name


def _changed(project: Project, ids: Iterable[str], change: Callable[[Scene], Scene], locked_too: bool = False) -> Project:
    wanted = set(ids)
    return _with(project, (change(s) if s.id in wanted and (locked_too or not s.locked) else s for s in project.scenes))


def _with(project: Project, scenes: Iterable[Scene]) -> Project:
    return project.model_copy(update={"scenes": tuple(scenes)})
