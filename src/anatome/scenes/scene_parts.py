"""The parts of what a scene shows: view, cuts, what is shown, what is drawn apart, look, light, notes. Each goes from one state
into another by itself."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Literal, get_args

from anatome.look.look import Look, changed_name
from anatome.scenes.project import Project, Scene, StageState
from anatome.scenes.shared_cuts import Keeping, followed
from anatome.view.viewport import Frame

Part = Literal["view", "cuts", "shown", "apart", "look", "light", "notes"]
PARTS: tuple[Part, ...] = get_args(Part)


@dataclass(frozen=True)
class PartWords:
    """What a part is called, and what it is."""

    name: str
    tip: str


WORDS: Mapping[Part, PartWords] = {
    "view": PartWords("View", "Camera, projection and crop"),
    "cuts": PartWords("Cuts", "Cuts, serial sections, and how things are cut"),
    "shown": PartWords("What is shown", "What is hidden, and ghosts"),
    "apart": PartWords("Exploded parts", "Groups drawn apart, and how far; details"),
    "look": PartWords("Look", "Fills, lines, surfaces, what is laid over them, and a second look"),
    "light": PartWords("Light", "Sun, shadows and shade"),
    "notes": PartWords("Notes", "What is written on it, and lines that are touched up"),
}
FIELDS: Mapping[Part, tuple[str, ...]] = {
    "view": ("camera", "crop"),
    "cuts": ("cuts", "series", "treatments", "poche"),
    "shown": ("hidden", "hidden_before", "ghosts", "faded"),
    "apart": ("exploded", "opening", "details"),
    "look": ("overrides", "divide", "still"),
    "light": (),
    "notes": ("notes", "note_style", "notes_shown", "touched_up"),
}
"""Of a state; every field but the look itself, which is two parts, is in one of them."""
LIGHT = frozenset(
    (
        *("shade", "shade_strength", "shadows", "sun_with_view", "sun_turn", "sun_height", "sun_moment", "sun_size"),
        *("unseen_shade", "ground", "still_sun", "lamps", "lamp_light", "brightness"),
    )
)
"""Fields of a look that are light."""


def as_saved(state: StageState) -> StageState:
    """Return the state as a scene keeps it: the graphics of the planes are a working aid and never part of a picture."""
    return state.model_copy(update={"cuts": tuple(c.model_copy(update={"graphic": False}) for c in state.cuts)})


def in_words(parts: Iterable[Part]) -> str:
    """Return parts as one says them in a row."""
    return ", ".join(WORDS[part].name.lower() for part in PARTS if part in set(parts))


def differing(state: StageState, other: StageState) -> tuple[Part, ...]:
    """Return the parts in which two states differ, the graphics of cuts aside."""
    a, b = as_saved(state), as_saved(other)
    return tuple(part for part in PARTS if _of(a, part) != _of(b, part))


def _of(state: StageState, part: Part) -> object:
    """A part of a state as a value."""
    own = tuple(getattr(state, field) for field in FIELDS[part])
    if part not in ("look", "light"):
        return own
    return own, tuple(value for name, value in state.look if name != "name" and (name in LIGHT) == (part == "light"))


def with_parts(state: StageState, other: StageState, parts: Collection[Part]) -> StageState:
    """Return a state with some parts as another one has them."""
    changes: dict[str, object] = {field: getattr(other, field) for part in parts for field in FIELDS[part]}
    look, light = ((other if part in parts else state).look for part in ("look", "light"))
    return state.model_copy(update={**changes, "look": _lit(look, light)})


def _lit(look: Look, light: Look) -> Look:
    """Return a look in the light of another one; what is neither of the two says that it was changed."""
    wanted = {name: getattr(light, name) for name in LIGHT}
    if all(getattr(look, name) == value for name, value in wanted.items()):
        return look
    return look.model_copy(update={**wanted, "name": changed_name(look.name)})


# Between the stage and scenes -----------------------------------------------------------------------------------


def stage_differs_in(project: Project) -> tuple[Part, ...]:
    """Return the parts in which the stage is not as its scene was when it came there; none without a scene."""
    shown = project.scene_as_shown
    if shown is None or not project.differs_from_scene:
        return ()
    return differing(project.stage, shown)


def recalled_parts(project: Project, scene: Scene, parts: Collection[Part], aspect: float) -> Project:
    """Have some parts of a scene on a stage of these proportions; the stage goes on being that of its own scene."""
    stage = with_parts(project.stage, scene.on_stage(aspect), parts)
    return project.model_copy(update={"stage": stage})


def taken_over(project: Project, ids: Collection[str], parts: Collection[Part], frame: Frame) -> Keeping:
    """Put parts of the stage, seen through a ``frame``, into scenes that are not locked; other scenes follow the stage's own with
    the cuts they share."""
    stage = as_saved(project.stage)
    seen = frame if stage.crop is None else stage.crop.frame()

    def given(scene: Scene) -> Scene:
        changes: dict[str, object] = {"state": with_parts(scene.state, stage, parts)}
        return scene.model_copy(update={**changes, "frame": seen} if "view" in parts else changes)

    chosen = {scene.id for scene in project.scenes if scene.id in ids and not scene.locked}
    changed = project.model_copy(update={"scenes": tuple(given(s) if s.id in chosen else s for s in project.scenes)})
    own = project.current_scene
    if own is None or own not in chosen or project.scene_as_shown is None:
        return Keeping(changed)
    shown = with_parts(project.scene_as_shown, stage, parts)
    changed = changed.model_copy(update={"scene_as_shown": shown, "stage": stage if "cuts" in parts else project.stage})
    return followed(project, changed, own) if "cuts" in parts else Keeping(changed)
