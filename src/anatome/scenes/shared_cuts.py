"""Cuts that several scenes have: they follow one another, are put into scenes and taken from them, or become a scene's own.

A cut is one thing in the project: states that have a cut of one id have the same cut. What it is (where it stands, its name,
its mark, what it affects, whether it is locked) is the same for all that follow it; whether it is on, fills, and parts what lies
before it is each scene's own.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from anatome.cuts.cut import AnyCut
from anatome.notes.anchors import Anchor
from anatome.notes.note import AnyNote, SectionMark, anchors_of
from anatome.scenes.marks import free_mark, named_anew
from anatome.scenes.project import Project, Scene, StageState

OF_THE_SCENE = frozenset({"on", "poche", "graphic", "on_displaced", "parting"})
"""Fields of a cut that each scene has for itself."""
SAID_OF_IT = frozenset({"name", "mark", "locked", "reach", "peel"})
"""Fields that say something of a cut besides where it stands."""


@dataclass(frozen=True)
class Followed:
    """A cut that other scenes took over when one was kept: in how many it is as it is now, that one with them; whether it
    ``moved``; how many locked ones have it as it was before."""

    cut: AnyCut
    scenes: int
    moved: bool
    locked: int = 0

    @property
    def words(self) -> str:
        """Say so, for the status line."""
        locked = f"{self.locked} locked scene{'s keep' if self.locked != 1 else ' keeps'} it as it was"
        did = f"{self.cut.name} {'moved' if self.moved else 'changed'} in {self.scenes} scene{'s' * (self.scenes != 1)}"
        if self.scenes == 1 and self.locked:
            return f"{self.cut.name}: {locked}"
        return f"{did}; {locked}" if self.locked else did


@dataclass(frozen=True)
class Keeping:
    """What comes of a scene that kept something of the stage: the ``project``, the cuts with which other scenes ``followed``, and
    how many of its ``variants`` did."""

    project: Project
    followed: tuple[Followed, ...] = ()
    variants: int = 0

    @property
    def led(self) -> tuple[str, ...]:
        """The ids of the cuts that other scenes took over."""
        return tuple(found.cut.id for found in self.followed if found.scenes > 1)

    @property
    def words(self) -> str:
        """Say what followed; nothing where nothing did."""
        cuts = self.followed
        said = [found.words for found in cuts]
        if len(cuts) > 2:
            said = [f"{len(cuts)} cuts changed in up to {max(found.scenes for found in cuts)} scenes"]
        if self.variants:
            said.append(f"{self.variants} variant{'s' * (self.variants != 1)} followed")
        return ", ".join(said)


def _differs(a: AnyCut, b: AnyCut, but: frozenset[str]) -> dict[str, Any]:
    """Return the fields of ``b`` in which it is not as ``a``, some passed over."""
    return {name: value for name, value in b if name not in but and getattr(a, name, None) != value}


def stands_alike(a: AnyCut, b: AnyCut) -> bool:
    """Return whether two cuts stand at the same place, are of one kind and as large."""
    return type(a) is type(b) and not _differs(a, b, OF_THE_SCENE | SAID_OF_IT)


def as_taken(own: AnyCut, now: AnyCut) -> AnyCut:
    """Return a cut as another scene has it now, with the switches ``own`` has."""
    return now.model_copy(update={name: getattr(own, name) for name in OF_THE_SCENE})


def scenes_with(project: Project, cut_id: str) -> tuple[Scene, ...]:
    """Return the scenes that have a cut, on or off, in their order."""
    return tuple(scene for scene in project.scenes if scene.state.cut(cut_id) is not None)


def all_sections(project: Project) -> tuple[AnyCut, ...]:
    """Return the sections of a project: the cuts of the stage that have no inside, and, off, those that other scenes show square
    on."""
    found = {cut.id: cut for cut in project.stage.cuts if not cut.encloses}
    for scene in project.scenes:
        for cut in scene.state.cuts_seen_true:
            if not cut.encloses:
                found.setdefault(cut.id, cut.model_copy(update={"on": False, "graphic": False}))
    return tuple(found.values())


def stood(project: Project, cut_id: str) -> AnyCut | None:
    """Return a cut as it was when it came to the stage; one that came without a scene as most scenes have it."""
    shown = project.scene_as_shown
    found = None if shown is None else shown.cut(cut_id)
    if found is not None:
        return found
    there = [cut for scene in project.scenes if (cut := scene.state.cut(cut_id)) is not None]
    counts = Counter(next(i for i, other in enumerate(there) if stands_alike(cut, other)) for cut in there)
    return there[counts.most_common(1)[0][0]] if counts else None


def how_it_is(scene: Scene, cut: AnyCut) -> str:
    """Return in words, to stand behind the name of a scene, how it has a cut; nothing where it has it just so."""
    own = scene.state.cut(cut.id)
    said = (
        "" if own is None or stands_alike(own, cut) else "elsewhere",
        "" if own is None or own.on else "off",
        "locked" if scene.locked else "",
    )
    words = ", ".join(filter(None, said))
    return f"  ·  {words}" if words else ""


def with_cut(state: StageState, cut: AnyCut) -> StageState:
    """Return a state with a cut in the place of the one of its id, or behind all others."""
    there = state.cut(cut.id) is not None
    cuts = tuple(cut if c.id == cut.id else c for c in state.cuts) if there else (*state.cuts, cut)
    return state.model_copy(update={"cuts": cuts})


# Following ----------------------------------------------------------------------------------------------------


def followed(before: Project, kept: Project, scene_id: str) -> Keeping:
    """Return ``kept`` with every scene that follows taken along, after one scene kept the stage.

    A scene follows with a cut that stood in it where it stood ``before`` on the stage: it takes over what changed of it. Locked
    scenes do not.
    """
    keeper = kept.scene(scene_id)
    if keeper is None:
        return Keeping(kept)
    project, cuts = kept, []
    for now in keeper.state.cuts:
        then = stood(before, now.id)
        if then is None:
            continue
        one_kind = type(then) is type(now)
        changes = _differs(then, now, OF_THE_SCENE) if one_kind else {}
        if one_kind and not changes:
            continue
        scenes, count, locked = [], 1, 0
        for scene in project.scenes:
            own = None if scene.id == scene_id else scene.state.cut(now.id)
            if own is None or not stands_alike(own, then):
                scenes.append(scene)
            elif scene.locked:
                locked += 1
                scenes.append(scene)
            else:
                # A scene may affect other parts, or call it otherwise; that it keeps unless just that was changed.
                new = own.model_copy(update=changes) if one_kind else as_taken(own, now)
                scenes.append(scene.model_copy(update={"state": with_cut(scene.state, new)}))
                count += 1
        if count > 1 or locked:
            project = project.model_copy(update={"scenes": tuple(scenes)})
            cuts.append(Followed(now, count, not stands_alike(then, now), locked))
    return Keeping(project, tuple(cuts))


def moved_in(project: Project, scene_id: str, now: AnyCut) -> Keeping:
    """Return the project with a cut otherwise in a scene, and in all that have it where it stood there, the stage among them;
    locked ones stay."""
    scene = project.scene(scene_id)
    then = None if scene is None else scene.state.cut(now.id)
    if then is None:
        return Keeping(project)
    changes = _differs(then, now, OF_THE_SCENE)

    def follows(state: StageState | None) -> bool:
        own = None if state is None else state.cut(now.id)
        return own is not None and stands_alike(own, then)

    def taken(state: StageState) -> StageState:
        own = state.cut(now.id)
        assert own is not None
        return with_cut(state, own.model_copy(update=changes))

    scenes, count, locked = [], 0, 0
    for other in project.scenes:
        if not follows(other.state) or other.locked:
            locked += follows(other.state)
            scenes.append(other)
            continue
        scenes.append(other.model_copy(update={"state": taken(other.state)}))
        count += 1
    update: dict[str, object] = {"scenes": tuple(scenes)}
    current = project.scene(project.current_scene)
    if current is None or not current.locked:
        for name in ("stage", "scene_as_shown"):
            state: StageState | None = getattr(project, name)
            if state is not None and follows(state):
                update[name] = taken(state)
    return Keeping(project.model_copy(update=update), (Followed(now, count, True, locked),))


def only_here(project: Project, cut_ids: Collection[str], new_id: Callable[[], str]) -> Project:
    """Make cuts of the stage its own: they get another id and a free mark, and scenes that have them follow no longer."""
    for cut_id in cut_ids:
        cut = project.stage.cut(cut_id)
        if cut is not None:
            own = named_anew(cut, free_mark(project)).model_copy(update={"id": new_id()})
            project = project.model_copy(update={"stage": with_identity(project.stage, cut_id, own)})
    return project


def kept_only_here(before: Project, kept: Project, scene_id: str, cut_ids: Collection[str], new_id: Callable[[], str]) -> Project:
    """Return ``kept`` with the scenes that followed as they were ``before``, and some cuts of the scene that was kept its own."""
    project = kept.model_copy(
        update={"scenes": tuple(before.scene(scene.id) or scene if scene.id != scene_id else scene for scene in kept.scenes)}
    )
    for cut_id in cut_ids:
        scene = project.scene(scene_id)
        cut = None if scene is None else scene.state.cut(cut_id)
        if scene is None or cut is None:
            continue
        own = named_anew(cut, free_mark(project)).model_copy(update={"id": new_id()})
        state = with_identity(scene.state, cut_id, own)
        changes: dict[str, object] = {
            "scenes": tuple(s.model_copy(update={"state": state}) if s.id == scene_id else s for s in project.scenes)
        }
        for name in ("stage", "scene_as_shown"):
            shown: StageState | None = getattr(project, name)
            on_stage = None if shown is None else shown.cut(cut_id)
            if shown is not None and on_stage is not None:
                same = own.model_copy(update={"graphic": on_stage.graphic})
                changes[name] = with_identity(shown, cut_id, same)
        project = project.model_copy(update=changes)
    return project


def with_identity(state: StageState, cut_id: str, cut: AnyCut) -> StageState:
    """Return a state with another cut, of another id, in the place of one; notes that hold on to that one hold on to it."""
    notes = tuple(_held_by(note, cut_id, cut.id) for note in state.notes)
    cuts = tuple(cut if c.id == cut_id else c for c in state.cuts)
    return state.model_copy(update={"cuts": cuts, "notes": notes})


def _held_by(note: AnyNote, before: str, now: str) -> AnyNote:
    if isinstance(note, SectionMark):
        return note.model_copy(update={"cut": now}) if note.cut == before else note
    anchors = anchors_of(note)
    if not any(anchor.cut == before for anchor in anchors):
        return note

    def moved(anchor: Anchor) -> Anchor:
        return anchor.model_copy(update={"cut": now}) if anchor.cut == before else anchor

    return note.model_copy(update={"anchors": tuple(moved(anchor) for anchor in anchors)})


# From scene to scene ------------------------------------------------------------------------------------------


def put_into(project: Project, cut_ids: Sequence[str], scene_ids: Iterable[str], on: bool = True, notes: bool = False) -> Project:
    """Put cuts of the stage into scenes, ``on`` or off, in the place of those they have of the same id; with the ``notes`` of the
    stage that hold on to them. What else those scenes show stays; locked ones are left as they are."""
    wanted = frozenset(scene_ids)
    cuts = [cut for cut_id in cut_ids if (cut := project.stage.cut(cut_id)) is not None]
    held = tuple(n for n in project.stage.notes if any(a.cut in cut_ids for a in anchors_of(n))) if notes else ()

    def given(state: StageState) -> StageState:
        for cut in cuts:
            state = with_cut(state, cut.model_copy(update={"on": on, "graphic": False}))
        own = {note.id for note in held}
        return state.model_copy(update={"notes": (*(n for n in state.notes if n.id not in own), *held)}) if held else state

    scenes = tuple(
        s.model_copy(update={"state": given(s.state)}) if s.id in wanted and not s.locked else s for s in project.scenes
    )
    changed = project.model_copy(update={"scenes": scenes})
    current = project.scene(project.current_scene)
    if current is None or current.id not in wanted or current.locked or project.scene_as_shown is None:
        return changed
    return changed.model_copy(update={"scene_as_shown": given(project.scene_as_shown)})


def bring(project: Project, scene_id: str, cut_ids: Iterable[str], on: bool = True) -> Project:
    """Put cuts of a scene on the stage, ``on`` or off, in the place of those it has of the same id."""
    scene, stage = project.scene(scene_id), project.stage
    for cut_id in cut_ids:
        cut = None if scene is None else scene.state.cut(cut_id)
        if cut is not None:
            stage = with_cut(stage, cut.model_copy(update={"on": on, "graphic": True}))
    return project.model_copy(update={"stage": stage})
