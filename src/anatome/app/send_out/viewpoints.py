"""Chosen scenes as viewpoints (BCF), each with a picture of it."""

from __future__ import annotations

import shutil
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtWidgets import QComboBox, QLabel, QWidget

from anatome.app.base.pictures import in_picture
from anatome.app.base.ticks import Ticks
from anatome.app.base.work import Progress
from anatome.app.document.session import Session
from anatome.app.send_out.drawing_frames import DrawsFrames
from anatome.app.stage.stage import Stage
from anatome.cuts.dissection import Cutter
from anatome.files import write_whole
from anatome.filming.frames import FrameFolder
from anatome.formats.bcf import VERSIONS, bcf_bytes
from anatome.formats.pictures_out import png_bytes
from anatome.formats.properties import facts_for
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.scenes.project import Project, Scene
from anatome.scenes.scene_view import View, view_of
from anatome.scenes.sheet_frames import section_places
from anatome.scenes.viewpoints import viewpoint_of, with_snapshot

KINDS = "Viewpoints (*.bcf *.bcfzip)"
SNAPSHOT, SAMPLES = 1000, 6
"""Pixels across a picture of a viewpoint, and samples of each."""


@dataclass(frozen=True, eq=False)
class _Planned:
    view: View
    size: tuple[int, int]


class ViewpointsDialog(DrawsFrames):
    """One topic for each scene."""

    def __init__(self, parent: QWidget, session: Session, stage: Stage, folder: Path) -> None:
        name = session.project.name
        super().__init__(parent, "Send out viewpoints", "Write viewpoints", folder, name, ".bcf", KINDS, stage.pictures)
        self._session = session
        scenes, picked = session.project.scenes, session.picked.scenes
        self.scenes = Ticks([scene.name for scene in scenes], len(scenes))
        self.scenes.show_pictures([session.pictures.get(scene) for scene in scenes])
        if picked:
            self.scenes.tick_only(*(number for number, scene in enumerate(scenes) if scene.id in picked))
        self.form.addRow(self.scenes)
        self.version = QComboBox()
        self.version.addItems([f"BCF {version}" for version in VERSIONS])
        self.form.addRow("As", self.version)
        told = QLabel(
            "Camera, section planes and boxes, what is hidden and coloured, a picture. What they do not know is told in words."
        )
        told.setProperty("role", "soft")
        told.setWordWrap(True)
        self.form.addRow("", told)
        self.form.addRow("File", self.file_row)

    def write(self, path: Path) -> None:
        project, building = self._session.project, self._session.building
        assert building is not None
        if path.suffix.lower() not in (".bcf", ".bcfzip"):
            raise Problem("Viewpoints go into a file that ends with .bcf. Give it such a name.")
        scenes = [project.scenes[number] for number in self.scenes.ticked()]
        if not scenes:
            raise Problem("Tick a scene at least.")
        told = "\n".join([*(scene.model_dump_json() for scene in scenes), project.site.model_dump_json(), repr(project.models)])
        folder = FrameFolder(path.with_name(f"{path.name}.pictures"), told, len(scenes))
        cutter, model = Cutter(building), self._session.model_path

        def plan(number: int) -> _Planned:
            scene = scenes[number]
            facts = facts_for(building, model, scene.state.notes, section_places(project))
            size = SNAPSHOT, max(round(SNAPSHOT / scene.aspect), 1)
            return _Planned(view_of(cutter, scene, scene.camera_for(scene.aspect), project.site, facts), size)

        self.draw_missing(
            folder,
            len(scenes),
            plan,
            lambda planned: in_picture(planned.view, planned.size, "paper", SAMPLES),
            lambda: self._pack(scenes, project, building, folder, path),
        )

    def _pack(self, scenes: list[Scene], project: Project, building: Building, folder: FrameFolder, path: Path) -> None:
        version = VERSIONS[self.version.currentIndex()]

        def work(progress: Progress) -> str:
            found = [
                with_snapshot(viewpoint_of(scene, building, project), png_bytes(folder.read(number)))
                for number, scene in enumerate(scenes)
            ]
            write_whole(path, bcf_bytes(found, project.name, project.titles.drawn, version=version))
            shutil.rmtree(folder.path, ignore_errors=True)
            return f"Wrote {len(found)} viewpoint{'s' * (len(found) != 1)} to {path}"

        self._under_way = self._work
        self._work.run(work, self.written, self.not_written)
