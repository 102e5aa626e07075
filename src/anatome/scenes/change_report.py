"""What has changed in a model as facts, for files and for people."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from pydantic import TypeAdapter
from typing_extensions import TypedDict

from anatome.model.building import Building
from anatome.model.comparison import Comparison
from anatome.scenes.project import Project
from anatome.scenes.relinking import Touch


class WholeFacts(TypedDict):
    """How the model as one is larger about the origin, and moved then, in metres."""

    factor: float
    shift: list[float]


class TouchFacts(TypedDict):
    """Why a scene is touched: "cut", "hidden", "notes", "look", "reach", "group" or "seen"; in words; and by which parts."""

    why: str
    words: str
    ids: list[str]


class SceneFacts(TypedDict):
    """A scene that is touched."""

    id: str
    name: str
    touches: list[TouchFacts]


class ChangeFacts(TypedDict):
    """What ``anatome relink --report`` writes. Lists of ids are of parts as they are now, ``gone`` as they were; ``ids`` leads
    from ids that are other ones now to those, rooms and storeys among them; ``shifts`` from the ids of moved parts to metres."""

    whole: WholeFacts
    new: list[str]
    gone: list[str]
    moved: list[str]
    reshaped: list[str]
    renamed: list[str]
    restyled: list[str]
    reassigned: list[str]
    ids: dict[str, str]
    shifts: dict[str, list[float]]
    scenes: list[SceneFacts]


def change_schema() -> dict[str, Any]:
    """JSON schema of :class:`ChangeFacts`, published as docs/relink.schema.json."""
    return TypeAdapter(ChangeFacts).json_schema()


def change_facts(
    project: Project, before: Building, after: Building, found: Comparison, touches: Mapping[str, Sequence[Touch]]
) -> ChangeFacts:
    """Return what has changed, and which scenes of a project that touches."""

    def now(mask: Any) -> list[str]:
        return [after.elements[found.partner[i]].id for i in np.flatnonzero(mask).tolist()]

    scenes: list[SceneFacts] = [
        {
            "id": scene.id,
            "name": scene.name,
            "touches": [{"why": t.why, "words": t.what, "ids": list(t.ids)} for t in touches[scene.id]],
        }
        for scene in project.scenes
        if scene.id in touches
    ]
    return {
        "whole": {"factor": found.whole.factor, "shift": list(found.whole.shift)},
        "new": [after.elements[i].id for i in np.flatnonzero(found.new).tolist()],
        "gone": [before.elements[i].id for i in np.flatnonzero(found.gone).tolist()],
        "moved": now(found.moved),
        "reshaped": now(found.reshaped),
        "renamed": now(found.renamed),
        "restyled": now(found.restyled),
        "reassigned": now(found.reassigned),
        "ids": {old: new for old, new in found.names.items() if new is not None},
        "shifts": dict(zip(now(found.moved), found.shift[found.moved].tolist(), strict=True)),
        "scenes": scenes,
    }
