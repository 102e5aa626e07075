"""The small pictures of scenes. A picture belongs to what a scene shows, so undoing brings the old one back with the scene."""

from __future__ import annotations

from collections.abc import Mapping

from anatome.scenes.project import Project, Scene, StageState


class ScenePictures:
    """PNG by the state that it is of, and by what the model is given and stands in. They are told apart as objects: edits hand
    them on as they are."""

    def __init__(self) -> None:
        self._kept: dict[tuple[int, ...], tuple[tuple[object, ...], bytes]] = {}
        self._latest: dict[int, tuple[StageState, bytes]] = {}
        self.round: tuple[object, ...] = ()
        """What the model is given, and stands in, now."""
        self.version = 0
        """Goes up with every picture that is put."""

    @classmethod
    def of(cls, project: Project, stored: Mapping[str, bytes], round_it: tuple[object, ...]) -> ScenePictures:
        """Return those that came with a project."""
        found = cls()
        found.round = round_it
        for scene in project.scenes:
            if stored.get(scene.id):
                found.put(scene, stored[scene.id])
        return found

    def get(self, scene: Scene) -> bytes | None:
        """Return the picture of a scene, for a while perhaps with something else round it, or None."""
        kept = self._current(scene)
        if kept is None:
            latest = self._latest.get(id(scene.state))
            return latest[1] if latest is not None and latest[0] is scene.state else None
        return kept

    def is_current(self, scene: Scene) -> bool:
        """Return whether there is a picture of a scene as it is now."""
        return self._current(scene) is not None

    def _current(self, scene: Scene) -> bytes | None:
        of = scene.state, *self.round
        kept = self._kept.get(tuple(map(id, of)))
        return kept[1] if kept is not None and all(a is b for a, b in zip(kept[0], of)) else None

    def put(self, scene: Scene, picture: bytes) -> None:
        """Keep a picture of what a scene shows."""
        self.version += 1
        of = scene.state, *self.round
        self._kept[tuple(map(id, of))] = of, picture
        self._latest[id(scene.state)] = scene.state, picture

    def stored(self, project: Project) -> dict[str, bytes]:
        """Return the pictures of a project's scenes by their ids, as they are saved."""
        return {scene.id: picture for scene in project.scenes if (picture := self.get(scene))}
