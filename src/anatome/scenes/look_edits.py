"""Edits of looks that scenes share, of the project's own looks, and of what a scene lays over its look."""

from __future__ import annotations

from collections.abc import Sequence

from anatome.look.divide import Divide
from anatome.look.hatches import Hatch
from anatome.look.look import CHANGED, Look, Picture, Rule, changed_name
from anatome.model.building import Building
from anatome.model.kinds import FURNITURE_TYPES
from anatome.model.selection import Selection
from anatome.problems import Problem
from anatome.scenes.project import Project, Scene, StageState
from anatome.site.site import Site
from anatome.site.sunlight import lit, place_of


def drawn_look(state: StageState, site: Site, building: Building, look: Look | None = None) -> Look:
    """Return the look of a state, or another one in its place, with what is laid over it, in the light of its day and hour."""
    look = look or state.look
    if state.overrides:
        look = look.model_copy(update={"rules": (*look.rules, *state.overrides)})
    return lit(look, place_of(site, building))


def drawn_divide(state: StageState, site: Site, building: Building) -> Divide | None:
    """Return the divide of a state, its other look as it is drawn."""
    divide = state.divide
    if divide is None:
        return None
    return divide.model_copy(update={"other": drawn_look(state, site, building, divide.other)})


def set_divide(project: Project, divide: Divide | None) -> Project:
    """Two looks in the picture, or one again."""
    return project.model_copy(update={"stage": project.stage.model_copy(update={"divide": divide})})


def set_still(project: Project, samples: int) -> Project:
    """Return a ray-traced picture of so many samples of light, or a drawn one if that is none."""
    return project.model_copy(update={"stage": project.stage.model_copy(update={"still": samples})})


def change_look(project: Project, **changes: object) -> Project:
    """Return the look of the stage otherwise; its name says that it was changed."""
    look = project.stage.look
    changed = Look.model_validate(dict(look) | {"name": changed_name(look.name)} | changes)
    return project.model_copy(update={"stage": project.stage.model_copy(update={"look": changed})})


def take_hatches(project: Project, hatches: tuple[Hatch, ...]) -> Project:
    """More hatches for the look of the stage; those of a name it has already are replaced."""
    look = project.stage.look
    names = {hatch.name for hatch in hatches}
    return change_look(project, hatches=(*(hatch for hatch in look.hatches if hatch.name not in names), *hatches))


def project_hatches(project: Project) -> dict[str, Hatch]:
    """Return by name the hatches that any look of a project has besides those that are shipped; the stage's before others."""
    looks = (*project.looks, *(scene.state.look for scene in project.scenes), project.stage.look)
    return {hatch.name: hatch for look in looks for hatch in look.hatches}


def copy_rule(project: Project, rule: Rule, names: frozenset[str]) -> Project:
    """Return a rule in other looks too, by their names: in those of the project, and of all scenes that are not locked; it takes
    the place of one for the same parts, and what hatch and picture it names come along."""
    known, pictures = project_hatches(project), project.stage.look.pictures

    def with_rule(look: Look) -> Look:
        if look.name not in names:
            return look
        rules = (*(own for own in look.rules if own.who != rule.who), rule)
        hatch = known.get(rule.hatch or "")
        hatches = look.hatches if hatch is None or hatch.name in look.known_hatches else (*look.hatches, hatch)
        there = {picture.name for picture in look.pictures}
        more = (picture for picture in pictures if picture.name == rule.picture and picture.name not in there)
        return look.model_copy(update={"rules": rules, "hatches": hatches, "pictures": (*look.pictures, *more)})

    def scene(of: Scene) -> Scene:
        look = of.state.look if of.locked else with_rule(of.state.look)
        same = look is of.state.look
        return of if same else of.model_copy(update={"state": of.state.model_copy(update={"look": look})})

    return project.model_copy(
        update={"looks": tuple(with_rule(look) for look in project.looks), "scenes": tuple(scene(of) for of in project.scenes)}
    )


def take_picture(project: Project, picture: Picture) -> Project:
    """Return a picture for the surfaces of the stage's look; one of its name is replaced."""
    look = project.stage.look
    own = (*(p for p in look.pictures if p.name != picture.name), picture)
    return project if own == look.pictures else change_look(project, pictures=own)


def plain_name(look: Look) -> str:
    """Its name, whether it was changed or not."""
    return look.name.removesuffix(CHANGED)


def users(project: Project, name: str) -> tuple[Scene, ...]:
    """Return the scenes whose look has this name."""
    return tuple(s for s in project.scenes if name and s.state.look.name == name)


def change_for_all(project: Project) -> Project:
    """Return the look of the stage, under the name it had, for the stage and for all scenes that use the look of that name;
    locked ones keep what they have."""
    name = plain_name(project.stage.look)
    look = project.stage.look.model_copy(update={"name": name})

    def changed(state: StageState) -> StageState:
        return state.model_copy(update={"look": look})

    own = {scene.id for scene in users(project, name) if not scene.locked}
    scenes = tuple(s.model_copy(update={"state": changed(s.state)}) if s.id in own else s for s in project.scenes)
    shown = project.scene_as_shown
    if shown is not None and shown.look.name == name:
        shown = changed(shown)
    looks = tuple(look if own.name == name else own for own in project.looks)
    return project.model_copy(update={"scenes": scenes, "stage": changed(project.stage), "scene_as_shown": shown, "looks": looks})


def keep_look(project: Project, name: str, taken: frozenset[str]) -> Project:
    """Return the look of the stage under a name of its own, among the project's looks. Raises Problem for names that are
    ``taken``."""
    name = name.strip()[:200]
    if not name:
        raise Problem("Give the look a name.")
    if name in taken or any(look.name == name for look in project.looks) or users(project, name):
        raise Problem(f"There is a look “{name}” already. Give this one another name.")
    look = project.stage.look.model_copy(update={"name": name})
    stage = project.stage.model_copy(update={"look": look})
    return project.model_copy(update={"stage": stage, "looks": (*project.looks, look)})


def rename_look(project: Project, old: str, new: str, taken: frozenset[str]) -> Project:
    """Return one of the project's own looks under another name, wherever it is used but in locked scenes. Raises Problem for
    names that are ``taken``."""
    new = new.strip()[:200]
    if new == old:
        return project
    if not new:
        raise Problem("Give the look a name.")
    if new in taken or any(look.name == new for look in project.looks) or users(project, new):
        raise Problem(f"There is a look “{new}” already. Give this one another name.")

    def renamed(look: Look) -> Look:
        return look.model_copy(update={"name": new}) if look.name == old else look

    def state(of: StageState) -> StageState:
        return of.model_copy(update={"look": renamed(of.look)}) if of.look.name == old else of

    def scene(of: Scene) -> Scene:
        own = of.state if of.locked else state(of.state)
        return of if own is of.state else of.model_copy(update={"state": own})

    scenes = tuple(scene(own) for own in project.scenes)
    shown = project.scene_as_shown
    return project.model_copy(
        update={
            "looks": tuple(renamed(look) for look in project.looks),
            "scenes": scenes,
            "stage": state(project.stage),
            "scene_as_shown": None if shown is None else state(shown),
        }
    )


def drop_look(project: Project, name: str) -> Project:
    """Without a look of the project's own; scenes that use it keep it."""
    return project.model_copy(update={"looks": tuple(look for look in project.looks if look.name != name)})


FURNITURE = Selection(types=frozenset(FURNITURE_TYPES))


def has_furniture_lines(overrides: Sequence[Rule]) -> bool:
    """Return whether the edges of furniture are drawn, as far as what is laid over a look says."""
    rule = rule_for(overrides, FURNITURE)
    return rule is None or rule.lines is not False


def show_furniture_lines(state: StageState, on: bool) -> StageState:
    """Return a state with the edges of furniture, or without them."""
    rule = rule_for(state.overrides, FURNITURE) or Rule(who=FURNITURE)
    changed = rule.model_copy(update={"lines": None if on else False})
    says = any(value is not None for key, value in changed if key not in ("who", "on"))
    others = tuple(own for own in state.overrides if own != rule)
    return state.model_copy(update={"overrides": (*others, changed) if says else others})


def rule_for(rules: Sequence[Rule], who: Selection) -> Rule | None:
    """Return the last of some rules that is on and is for exactly these."""
    return next((rule for rule in reversed(rules) if rule.on and rule.who == who), None)


def set_rule(project: Project, who: Selection, in_look: bool, **said: object) -> Project:
    """Return what some parts look like otherwise, in the look of the stage or laid over it: things said are added to what is said
    of exactly these, those said to be None taken out of it."""
    rules = project.stage.look.rules if in_look else project.stage.overrides
    before = rule_for(rules, who)
    rule = Rule.model_validate(dict(before or Rule(who=who)) | said)
    says = any(value is not None for key, value in rule if key not in ("who", "on"))
    own = tuple(r for r in rules if r is not before)
    changed = (*own, rule) if says else own
    return change_look(project, rules=changed) if in_look else set_overrides(project, changed)


def set_overrides(project: Project, rules: tuple[Rule, ...]) -> Project:
    """Return what is laid over the look of the stage, later ones over earlier ones."""
    return project.model_copy(update={"stage": project.stage.model_copy(update={"overrides": rules})})
