"""The scenes of a project as facts for files: what each shows, from where, cut by what, how it is drawn and on which sheet."""

from __future__ import annotations

from typing import Any

from pydantic import TypeAdapter
from typing_extensions import TypedDict

from anatome.lengths import scale_words
from anatome.scenes.project import Project, Scene
from anatome.scenes.sheet_frames import number_of


class CameraFacts(TypedDict):
    """Metres; the angle of view upwards in degrees, of a parallel projection how many metres the picture is high."""

    eye: list[float]
    target: list[float]
    up: list[float]
    projection: str
    field: float | None
    height: float | None


class SceneCutFacts(TypedDict):
    """A cut that is on: its id in the project, which it has in all scenes, its mark, name and kind."""

    id: str
    mark: str
    name: str
    kind: str


class SceneFacts(TypedDict):
    """A scene. ``drawn`` is how its camera draws in the trade's words; ``paper`` mm across and up and ``scale`` are those it is
    held at; ``sheets`` are the numbers of the sheets it is on; ``hidden`` counts parts."""

    id: str
    name: str
    set: str
    locked: bool
    camera: CameraFacts
    drawn: str
    aspect: float
    scale: str | None
    paper: list[float] | None
    cuts: list[SceneCutFacts]
    look: str
    hidden: int
    notes: int
    still: int
    sheets: list[str]


class SceneListFacts(TypedDict):
    """What ``anatome scenes --json`` writes."""

    project: str
    scenes: list[SceneFacts]


def scene_list(project: Project) -> SceneListFacts:
    """Return what is said of the scenes of a project, in their order."""
    return {"project": project.name, "scenes": [_facts(scene, project) for scene in project.scenes]}


def _facts(scene: Scene, project: Project) -> SceneFacts:
    state, camera, crop = scene.state, scene.state.camera, scene.state.crop
    cuts = state.active_cuts
    on = [number_of(sheet, project) for sheet in project.sheets if any(frame.scene == scene.id for frame in sheet.frames)]
    return {
        "id": scene.id,
        "name": scene.name,
        "set": scene.set,
        "locked": scene.locked,
        "camera": {
            "eye": list(camera.eye),
            "target": list(camera.target),
            "up": list(camera.up),
            "projection": camera.projection,
            "field": camera.field if camera.is_perspective else None,
            "height": None if camera.is_perspective else camera.height,
        },
        "drawn": state.drawn,
        "aspect": scene.aspect,
        "scale": None if crop is None or not crop.scale else scale_words(crop.scale),
        "paper": None if scene.paper is None else list(scene.paper),
        "cuts": [{"id": cut.id, "mark": cut.mark, "name": cut.name, "kind": cut.noun} for cut in cuts],
        "look": state.look.name,
        "hidden": len(state.hidden),
        "notes": len(state.notes),
        "still": state.still,
        "sheets": on,
    }


def scene_list_schema() -> dict[str, Any]:
    """JSON schema of :class:`SceneListFacts`, published as docs/scenes.schema.json."""
    return TypeAdapter(SceneListFacts).json_schema()
