"""Many pictures in one go: chosen scenes, each in chosen looks, with names by a pattern."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeVar

from anatome.files import distinct_names
from anatome.look.look import Look
from anatome.problems import Problem
from anatome.scenes.patterns import check_pattern
from anatome.scenes.project import Project, Scene
from anatome.values import Value

FIELDS = {"number": "01, 02 …", "scene": "the scene's name", "look": "the look's name", "project": "the project's name"}
T = TypeVar("T")


@dataclass(frozen=True)
class Planned:
    """A scene in the look it is to be drawn in, and the file name without its ending."""

    scene: Scene
    name: str


class BatchSettings(Value):
    """How many pictures are sent out together: of which scenes by their ids, in which looks by name (nothing: each scene's own),
    how wide, at so many dots an inch, as which kind of file, on which ground, with names by a pattern."""

    scenes: tuple[str, ...] = ()
    looks: tuple[str, ...] = ("",)
    width: int = 4000
    dots: int = 300
    kind: str = ".png"
    ground: str = "transparent"
    names: str = "{number} {scene}"


def planned(project: str, scenes: Sequence[Scene], looks: Sequence[Look | None], pattern: str = "") -> list[Planned]:
    """Return every scene in every look, None for its own. Names are never the same twice.

    Raises Problem for a pattern with other fields than ``FIELDS``.
    """
    pattern = pattern.strip() or ("{number} {scene}, {look}" if len(looks) > 1 else "{number} {scene}")
    check_pattern(pattern, FIELDS)
    found: list[Scene] = []
    names: list[str] = []
    for number, scene in enumerate(scenes, 1):
        for look in looks:
            own = scene if look is None else in_look(scene, look)
            look_name = own.state.look.name or "own look"
            names.append(pattern.format(number=f"{number:02d}", scene=scene.name, look=look_name, project=project))
            found.append(own)
    return [Planned(own, name) for own, name in zip(found, distinct_names(names))]


def in_look(scene: Scene, look: Look) -> Scene:
    """Return the scene with another look."""
    return scene.model_copy(update={"state": scene.state.model_copy(update={"look": look})})


def shard(things: Sequence[T], part: int, of: int) -> list[T]:
    """Return the share of a list that is this part's, counted from 1, where ``of`` machines divide it between them. Raises
    Problem."""
    if not 1 <= part <= of:
        raise Problem(f"Of {of} parts there is none with the number {part}. Say for example --shard 1/4.")
    return list(things[part - 1 :: of])


def pixels(scene: Scene, width: int, dpi: float | None) -> tuple[int, int]:
    """Return how large its picture is: what its paper takes at so many dots an inch if it holds a scale, or so wide."""
    if scene.paper is not None and dpi is not None:
        return round(scene.paper[0] / 25.4 * dpi), round(scene.paper[1] / 25.4 * dpi)
    return width, max(1, round(width / scene.aspect))


def mark_of(scene: Scene, project: Project, settings: object) -> str:
    """Return in short what a picture of a scene is made of: the scene, what stands round it, the model, and how it is drawn."""
    parts = [scene.model_dump_json(exclude={"set", "stack", "own_parts", "forgets", "touched", "locked", "lines_kept"})]
    parts += [
        project.site.model_dump_json(),
        project.meanings.model_dump_json(),
        repr(project.models),
        project.name,
        repr(settings),
    ]
    return hashlib.sha256("\n".join(parts).encode()).hexdigest()[:32]
