"""Linework that is kept: drawings by what they were made from, so that they are made once, and known to be out of date."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from typing import Literal

import numpy as np

from anatome.linework.drawing import Drawing
from anatome.linework.kept import EDITION, packed, unpacked
from anatome.linework.of_scene import paper_of
from anatome.model.building import Building
from anatome.notes.note import NoteStyle
from anatome.printing.wanted import FrameRequest
from anatome.problems import Problem
from anatome.scenes.project import Project, Scene
from anatome.site.site import Site

MOST = 8
"""Drawings kept of one scene: its own, and those of its frames on sheets."""
Freshness = Literal["none", "current", "out of date"]


def digest_of(building: Building) -> str:
    """Return what tells a building from every other: its geometry and what its parts are."""
    found = hashlib.blake2b(digest_size=16)
    for array in (building.vertices, building.triangles, building.element_of_triangle):
        found.update(np.ascontiguousarray(array).data)
    for e in building.elements:
        group = "".join(f"|{name}" for name in (e.group, *e.also) if name)
        found.update(f"{e.id}|{e.name}|{e.type}|{e.material}|{e.layer}|{e.storey}{group}\n".encode())
    return found.hexdigest()


def own_lines(scene: Scene, site: Site) -> FrameRequest:
    """Return the linework of a scene by itself, as large as its picture."""
    return FrameRequest(scene, round(paper_of(scene), 6), "lines", site)


class KeptLines:
    """Of one project. Used from the window and from threads: every step leaves it whole."""

    def __init__(self, building: Building, stored: Mapping[str, bytes]) -> None:
        self._digest = digest_of(building)
        self._held: dict[str, dict[str, bytes]] = {}
        self._marks: dict[str, tuple[Scene, Site, str]] = {}
        for name, data in stored.items():
            scene_id, _, mark = name.partition("/")
            self._held.setdefault(scene_id, {})[mark] = data

    def take(self, digest: str) -> None:
        """Be of a building of this digest from now on: one whose parts are said to be something else."""
        if digest != self._digest:
            self._digest, self._marks = digest, {}

    def mark_of(self, what: FrameRequest) -> str:
        """Return what it is made from, in short: the model, the scene without its notes, the site, its size on paper."""
        scene = what.scene
        state = scene.state.model_copy(update={"notes": (), "notes_shown": True, "note_style": NoteStyle()})
        told = scene.model_copy(update={"state": state, "name": "", "lines_kept": False, "locked": False, "touched": ()})
        parts = (
            str(EDITION),
            self._digest,
            told.model_dump_json(exclude_defaults=True),  # so that what is new, and not used, changes nothing
            what.site.model_dump_json(),
            str(what.height),
        )
        content = "tones" if what.has_tones else "lines"
        return hashlib.blake2b("\n".join((*parts, content)).encode(), digest_size=16).hexdigest()

    def find(self, what: FrameRequest) -> Drawing | None:
        """Return the drawing of exactly that, if there is one, without notes."""
        data = self._held.get(what.scene.id, {}).get(self.mark_of(what))
        try:
            return None if data is None else unpacked(data)
        except Problem:  # damaged: whoever asks makes it anew
            return None

    def put(self, what: FrameRequest, drawing: Drawing) -> None:
        """Keep the drawing of that."""
        held = {**self._held.get(what.scene.id, {}), self.mark_of(what): packed(drawing)}
        self._held = {**self._held, what.scene.id: dict(list(held.items())[-MOST:])}

    def freshness(self, scene: Scene, site: Site) -> Freshness:
        """Return whether a scene keeps linework of its own, and whether it is what the scene shows."""
        if not scene.lines_kept:
            return "none"
        known = self._marks.get(scene.id)
        if known is None or known[0] is not scene or known[1] is not site:
            known = self._marks[scene.id] = scene, site, self.mark_of(own_lines(scene, site))
        return "current" if known[2] in self._held.get(scene.id, {}) else "out of date"

    def stored(self, project: Project) -> dict[str, bytes]:
        """Return all that is kept of the scenes a project has, by “scene/mark”, as it is saved."""
        there = {scene.id for scene in project.scenes}
        return {f"{i}/{mark}": data for i, held in self._held.items() if i in there for mark, data in held.items()}
