"""How projects written by earlier versions become projects of this one: one function a version, each to the next."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

Data = dict[str, Any]


def _frames_instead_of_proportions(data: Data) -> Data:
    """1 → 2: a scene has a frame where it had only the width over the height of its picture."""
    scenes = []
    for scene in data.get("scenes", ()):
        scene = dict(scene)
        aspect = scene.pop("aspect", None)
        if isinstance(aspect, int | float) and not isinstance(aspect, bool) and 0.02 < aspect < 50:
            scene["frame"] = {"width": 1000.0 * aspect, "height": 1000.0}
        scenes.append(scene)
    return {**data, "scenes": scenes}


MIGRATIONS: tuple[Callable[[Data], Data], ...] = (_frames_instead_of_proportions,)
"""The function at place n takes version n + 1 to version n + 2."""


def migrated(data: Data, version: int) -> Data:
    """The content of project.json as this version would have written it."""
    for step in MIGRATIONS[version - 1 :]:
        data = step(data)
    return {**data, "version": len(MIGRATIONS) + 1}
