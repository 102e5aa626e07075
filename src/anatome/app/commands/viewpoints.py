"""Viewpoints of others (BCF) as scenes."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from anatome.app.base.entry import Entry, group
from anatome.app.base.work import Progress, Work, in_words
from anatome.app.commands.host import Host
from anatome.formats.bcf import read_bcf
from anatome.problems import Problem
from anatome.scenes.project import Scene
from anatome.scenes.viewpoints import scenes_of

KIND = "Viewpoints (*.bcf *.bcfzip)"


class ViewpointCommands:
    """Reads them off the window's thread."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session
        self._work = Work(self._session, lambda: self._session.opened_as)

    def entries(self) -> list[Entry]:
        return group(
            "Read into the project",
            "open",
            Entry(
                "take_viewpoints",
                "Scenes from viewpoints (BCF)…",
                "What others saw and cut becomes scenes in a set, in the look of the stage",
                self.choose,
            ),
            within="The model",
        )

    def choose(self) -> None:
        """Ask for the file."""
        path, _ = QFileDialog.getOpenFileName(self._host.widget, "Scenes from viewpoints", "", KIND)
        if path:
            self.take(Path(path))

    def take(self, path: Path) -> None:
        """Have the viewpoints of a file as scenes, behind those there are."""
        session, building = self._session, self._session.building
        if building is None:
            session.said.emit("Open a model first; viewpoints are looks at it")
            return
        project = session.project

        def work(progress: Progress) -> tuple[Scene, ...]:
            return scenes_of(read_bcf(path), project, building, path.stem[:200])

        def done(scenes: tuple[Scene, ...]) -> None:
            now = session.project
            count = f"{len(scenes)} scene{'s' * (len(scenes) != 1)}"
            session.apply(
                now.model_copy(update={"scenes": (*now.scenes, *scenes)}), f"{count} from {path.name}, in a set of its name"
            )

        def failed(error: Exception) -> None:
            if isinstance(error, Problem):
                self._host.tell(in_words(error), "These viewpoints could not be read")
            else:
                session.failed.emit(error)

        self._work.run(work, done, failed)
