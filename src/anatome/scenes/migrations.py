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


def _lenses_shifted_by_cameras(data: Data) -> Data:
    """2 → 3: the shift of a lens belongs to the camera, so that the stage has it too, and no longer to the frame of a scene."""
    scenes = []
    for scene in data.get("scenes", ()):
        frame, state = dict(scene.get("frame") or {}), dict(scene.get("state") or {})
        shift = frame.pop("shift", None)
        if shift is not None and isinstance(state.get("camera"), dict):
            state["camera"] = {**state["camera"], "shift": shift}
        scenes.append({**scene, "frame": frame, "state": state})
    return {**data, "scenes": scenes}


MIGRATIONS: tuple[Callable[[Data], Data], ...] = (_frames_instead_of_proportions, _lenses_shifted_by_cameras)
"""The function at place n takes version n + 1 to version n + 2."""


def migrated(data: Data, version: int) -> Data:
    """The content of project.json as this version would have written it."""
    for step in MIGRATIONS[version - 1 :]:
        data = step(data)
    return {**data, "version": len(MIGRATIONS) + 1}
