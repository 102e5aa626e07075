"""Variants: scenes that are one but for some parts, as one cut in three looks. What is kept in one of them goes into all."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace

from anatome.cuts.cut import AnyCut
from anatome.look.look import Look
from anatome.problems import Problem
from anatome.scenes.project import Project, Scene, StageState
from anatome.scenes.scene_parts import PARTS, Part, with_parts
from anatome.scenes.shared_cuts import Keeping
from anatome.view.camera import Camera
from anatome.words import unlike

IN_LOOKS: frozenset[Part] = frozenset({"look", "light"})
"""What is a variant's own, where one scene is in several looks."""
BY_CUTS: frozenset[Part] = frozenset({"cuts", "view", "notes"})
"""The same, where several cuts are in one look."""
OFFERED = {
    "Shaded": ("Calm section",),
    "In colour": ("Materials in colour",),
    "Black and white, heavy outlines": ("Technical, black and white",),
    "Shaded, in colour, black and white": ("Calm section", "Materials in colour", "Technical, black and white"),
    "White, hatched, night": ("White model", "Hatched by material", "Night blue"),
}
"""Sets of looks that are offered for variants, by the names of shipped looks."""


def members(project: Project, stack: str) -> tuple[Scene, ...]:
    """Return the variants of one stack in their order."""
    return tuple(s for s in project.scenes if stack and s.stack == stack)


def _stacked(project: Project, scene: Scene, made: Sequence[Scene], own: frozenset[Part], new_id: Callable[[], str]) -> Project:
    """Put variants behind a scene, all in its stack."""
    if scene.stack and scene.own_parts != own:
        raise Problem(f"{scene.name} is one of other variants already. Let go of those first.")
    stack = scene.stack or new_id()
    first = scene.model_copy(update={"stack": stack, "own_parts": own})
    last = [i for i, s in enumerate(project.scenes) if s.id == scene.id or (scene.stack and s.stack == scene.stack)][-1]
    scenes = [first if s.id == scene.id else s for s in project.scenes]
    scenes[last + 1 : last + 1] = [s.model_copy(update={"stack": stack, "own_parts": own, "locked": False}) for s in made]
    return project.model_copy(update={"scenes": tuple(scenes)})


def in_looks(project: Project, scene: Scene, looks: Sequence[Look], new_id: Callable[[], str]) -> Project:
    """Make variants of a scene in other looks, behind it. Raises Problem without any, and where it is one by cuts."""
    wanted = [look for look in looks if look != scene.state.look]
    if not wanted:
        raise Problem("Tick the looks the scene is to be in besides its own.")
    taken = {s.name for s in project.scenes}
    made = []
    for look in wanted:
        name = unlike(f"{scene.name}, {look.name[:1].lower()}{look.name[1:]}", taken)
        taken.add(name)
        made.append(scene.model_copy(update={"id": new_id(), "name": name, "state": _with_look(scene.state, look)}))
    return _stacked(project, scene, made, IN_LOOKS, new_id)


def _with_look(state: StageState, look: Look) -> StageState:
    return state.model_copy(update={"look": look, "divide": None})


def by_cuts(
    project: Project,
    scene: Scene,
    cuts: Sequence[AnyCut],
    seen: Callable[[StageState, AnyCut], StageState],
    new_id: Callable[[], str],
) -> Project:
    """Make variants of a scene with other cuts, one each, in its look, behind it; ``seen`` turns the view to a cut. Raises
    Problem without any, and where it is one in looks."""
    own = {cut.id for cut in scene.state.active_cuts}
    wanted = [cut for cut in cuts if cut.id not in own]
    if not wanted:
        raise Problem("Tick the cuts the scene is to show besides its own.")
    taken = {s.name for s in project.scenes}
    made = []
    for cut in wanted:
        name = unlike(cut.name, taken)
        taken.add(name)
        alone = cut.model_copy(update={"on": True, "graphic": False})
        state = seen(scene.state.model_copy(update={"cuts": (alone,), "series": (), "notes": ()}), alone)
        made.append(scene.model_copy(update={"id": new_id(), "name": name, "state": state}))
    return _stacked(project, scene, made, BY_CUTS, new_id)


def spread(keeping: Keeping, scene_id: str) -> Keeping:
    """Return the same with everything a variant that was kept shows, but for its own parts, in all variants of its stack that are
    not locked."""
    project = keeping.project
    kept = project.scene(scene_id)
    if kept is None or not kept.stack:
        return keeping
    shared = frozenset(PARTS) - kept.own_parts
    count, scenes = 0, []
    for scene in project.scenes:
        if scene.stack == kept.stack and scene.id != scene_id and not scene.locked:
            changes: dict[str, object] = {"state": with_parts(scene.state, kept.state, shared)}
            if "view" in shared:
                changes["frame"] = kept.frame
            changed = scene.model_copy(update=changes)
            count += changed != scene
            scene = changed if changed != scene else scene
        scenes.append(scene)
    return replace(keeping, project=project.model_copy(update={"scenes": tuple(scenes)}), variants=count) if count else keeping


def with_camera(project: Project, scene_id: str, camera: Camera) -> Project:
    """Return the project with a scene, and its variants that share its view, seen from elsewhere; a locked one stays."""
    scene = project.scene(scene_id)
    if scene is None or scene.locked:
        return project
    state = scene.state.model_copy(update={"camera": camera})
    changed = (s.model_copy(update={"state": state}) if s.id == scene_id else s for s in project.scenes)
    return spread(Keeping(project.model_copy(update={"scenes": tuple(changed)})), scene_id).project


def open_stack(project: Project, stack: str, opened: bool) -> Project:
    """List all variants of a stack, or one for all."""
    there = {s.stack for s in project.scenes if s.stack}
    stacks = project.open_stacks | {stack} if opened else project.open_stacks - {stack}
    return project.model_copy(update={"open_stacks": stacks & there})


def let_go(project: Project, ids: Collection[str]) -> Project:
    """Let scenes be no variants any more; one that is left alone is none either."""
    free = {"stack": "", "own_parts": frozenset()}
    scenes = [s.model_copy(update=free) if s.id in ids and s.stack else s for s in project.scenes]
    counts = {s.stack: sum(other.stack == s.stack for other in scenes) for s in scenes if s.stack}
    return project.model_copy(
        update={"scenes": tuple(s.model_copy(update=free) if s.stack and counts[s.stack] < 2 else s for s in scenes)}
    )
