"""Which scene is sent out: the stage as it is now, or one that is saved."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox

from anatome.app.document.session import Session
from anatome.app.stage.stage import Stage
from anatome.scenes.edits import picture_frame
from anatome.scenes.project import Scene
from anatome.scenes.scene_parts import as_saved


class SceneChoice(QComboBox):
    """Begins with the scene the stage shows as it was saved, else with the stage."""

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__()
        frame = picture_frame(session.stage, stage.viewport.frame)
        now = Scene(id="", name="The stage as it is now", state=as_saved(session.stage), frame=frame)
        self._scenes = [now, *session.project.scenes]
        self.addItems([s.name for s in self._scenes])
        if session.scene is not None and not session.project.differs_from_scene:
            self.setCurrentIndex([s.id for s in self._scenes].index(session.scene.id))

    @property
    def chosen(self) -> Scene:
        """The scene that is chosen."""
        return self._scenes[self.currentIndex()]


def name_for(session: Session) -> str:
    """Return what a file of it is called at first."""
    return session.scene.name if session.scene else session.project.name
