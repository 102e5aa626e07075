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


def _looks_in_millimetres(data: Data) -> Data:
    """3 → 4: widths were pixels at a picture height of 800 and are millimetres on a paper 210 mm high; colours were on or off."""

    def look(state: Any) -> Any:
        if not isinstance(state, dict) or not isinstance(state.get("look"), dict):
            return state
        old = dict(state["look"])
        for before, after in (("edge_width", "edge_weight"), ("cut_width", "cut_weight")):
            width = old.pop(before, None)
            if isinstance(width, int | float) and not isinstance(width, bool):
                old[after] = min(max(width * 210.0 / 800.0, 0.01), 5.0)
        old.setdefault("surfaces", "as modelled" if old.pop("colours", True) else "white")
        return {**state, "look": old}

    scenes = [{**scene, "state": look(scene.get("state"))} for scene in data.get("scenes", ())]
    return {**data, "stage": look(data.get("stage")), "scenes": scenes, "scene_as_shown": look(data.get("scene_as_shown"))}


MIGRATIONS: tuple[Callable[[Data], Data], ...] = (
    _frames_instead_of_proportions,
    _lenses_shifted_by_cameras,
    _looks_in_millimetres,
)
"""The function at place n takes version n + 1 to version n + 2."""


def migrated(data: Data, version: int) -> Data:
    """Return the content of project.json as this version would have written it."""
    for step in MIGRATIONS[version - 1 :]:
        data = step(data)
    return {**data, "version": len(MIGRATIONS) + 1}
