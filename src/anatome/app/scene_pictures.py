"""The small pictures of scenes. A picture belongs to what a scene shows, so undoing brings the old one back with the scene."""

from __future__ import annotations

from collections.abc import Mapping

from anatome.scenes.project import Project, Scene, StageState


class ScenePictures:
    """PNG by the state it is of. States are told apart as objects: edits hand them on as they are."""

    def __init__(self) -> None:
        self._kept: dict[int, tuple[StageState, bytes]] = {}

    @classmethod
    def of(cls, project: Project, stored: Mapping[str, bytes]) -> ScenePictures:
        """Those that came with a project."""
        found = cls()
        for scene in project.scenes:
            if stored.get(scene.id):
                found.put(scene, stored[scene.id])
        return found

    def get(self, scene: Scene) -> bytes | None:
        """The picture of a scene as it is now, or None."""
        kept = self._kept.get(id(scene.state))
        return kept[1] if kept is not None and kept[0] is scene.state else None

    def put(self, scene: Scene, picture: bytes) -> None:
        """Keep a picture of what a scene shows."""
        self._kept[id(scene.state)] = scene.state, picture

    def stored(self, project: Project) -> dict[str, bytes]:
        """The pictures of a project's scenes by their ids, as they are saved."""
        return {scene.id: picture for scene in project.scenes if (picture := self.get(scene))}
