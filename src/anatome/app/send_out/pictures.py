"""A picture of a scene, or of the stage."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QSpinBox, QWidget

from anatome.app.background import Task, Told
from anatome.app.send_out.dialog import SendOut
from anatome.app.session import Session
from anatome.app.stage.stage import Stage
from anatome.cuts.dissection import Cutter
from anatome.files import write_whole
from anatome.formats.png import png_bytes
from anatome.problems import Problem
from anatome.render.pictures import EXPORT_SAMPLES, LARGEST, Ground, view_of
from anatome.render.renderer import View
from anatome.scenes.edits import as_saved, picture_frame
from anatome.scenes.project import Scene


class PictureDialog(SendOut):
    """A PNG of a scene, or of the stage as it stands."""

    def __init__(self, parent: QWidget, session: Session, stage: Stage, folder: Path) -> None:
        current = session.scene
        name = current.name if current else session.project.name
        super().__init__(parent, "Send out a picture", "Write picture", folder / f"{name}.png", "Pictures (*.png)")
        self._session, self._stage = session, stage
        frame = picture_frame(session.stage, stage.viewport.frame)
        now = Scene(id="", name="The stage as it is now", state=as_saved(session.stage), frame=frame)
        self._choices = [now, *session.project.scenes]
        self.scene = QComboBox()
        self.scene.addItems([s.name for s in self._choices])
        if current is not None and not session.project.differs_from_scene:
            self.scene.setCurrentIndex([s.id for s in self._choices].index(current.id))
        self.width_px, self.height_px = QSpinBox(), QSpinBox()
        for box in (self.width_px, self.height_px):
            box.setRange(16, LARGEST)
            box.setGroupSeparatorShown(True)
            box.setSuffix(" px")
            box.setFixedWidth(110)
            box.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.width_px.setValue(4000)
        sizes = QHBoxLayout()
        sizes.addWidget(self.width_px)
        sizes.addWidget(QLabel("×"))
        sizes.addWidget(self.height_px)
        sizes.addStretch()
        self.note = QLabel()
        self.note.setProperty("role", "soft")
        self.dpi = QSpinBox()
        self.dpi.setRange(30, 2400)
        self.dpi.setValue(300)
        self.dpi.setSuffix(" dots per inch")
        self.dpi.setToolTip("Written into the picture, so that it is printed at its scale")
        self.ground = QComboBox()
        self.ground.addItem("Transparent", "transparent")
        self.ground.addItem("White", "white")
        self.form.addRow("Picture of", self.scene)
        self.form.addRow("Size", sizes)
        self.form.addRow("", self.note)
        self.form.addRow("On paper", self.dpi)
        self.form.addRow("Ground", self.ground)
        self.form.addRow("File", self.file_row)
        self.scene.currentIndexChanged.connect(self._show_scene)
        self.dpi.valueChanged.connect(self._from_paper)
        self.width_px.valueChanged.connect(self._keep_aspect)
        self.height_px.editingFinished.connect(self._from_height)
        self._show_scene()

    def _show_scene(self) -> None:
        """A scene with a scale is as large as its paper; another one as one likes."""
        paper = self._paper()
        self.form.setRowVisible(self.dpi, paper is not None)
        self.width_px.setEnabled(paper is None)
        self.height_px.setEnabled(paper is None)
        if paper is None:
            self.note.setText("The proportions stay the scene's own.")
            self._keep_aspect()
        else:
            scale = self._choices[self.scene.currentIndex()].state.crop.scale  # type: ignore[union-attr]
            self.note.setText(f"1:{scale:g} on {paper[0]:.0f} × {paper[1]:.0f} mm")
            self._from_paper()

    def _paper(self) -> tuple[float, float] | None:
        """Millimetres of paper that the chosen scene takes at its scale."""
        return self._choices[self.scene.currentIndex()].paper

    def _from_paper(self) -> None:
        paper = self._paper()
        if paper is not None:
            dots = min(self.dpi.value(), int(LARGEST * 25.4 / max(paper)))
            self.dpi.setValue(dots)
            self.width_px.setValue(round(paper[0] / 25.4 * dots))
            self.height_px.setValue(round(paper[1] / 25.4 * dots))

    def _aspect(self) -> float:
        return self._choices[self.scene.currentIndex()].aspect

    def _keep_aspect(self) -> None:
        if self._paper() is not None:
            return
        self.height_px.setValue(round(self.width_px.value() / self._aspect()))

    def _from_height(self) -> None:
        self.width_px.blockSignals(True)
        self.width_px.setValue(round(self.height_px.value() * self._aspect()))
        self.width_px.blockSignals(False)

    def write(self, path: Path) -> None:
        building = self._session.building
        assert building is not None
        site = self._session.project.site
        scene = self._choices[self.scene.currentIndex()]
        size = self.width_px.value(), self.height_px.value()
        ground: Ground = self.ground.currentData()
        dpi = float(self.dpi.value()) if scene.paper is not None else None
        camera = scene.camera_for(size[0] / size[1]) if scene.paper is None else scene.state.camera

        def draw(view: View) -> None:
            job = self._stage.picture(view, size, ground, encode, self.not_written, EXPORT_SAMPLES, self.show_share)
            if job is None:
                self.not_written(Problem("The stage is not ready to draw. Try again in a moment."))
            self._under_way = job

        def encode(pixels: NDArray[np.uint8]) -> None:
            def work(told: Told) -> str:
                write_whole(path, png_bytes(pixels, dpi))
                return f"Wrote a picture of {size[0]} × {size[1]} pixels to {path}"

            self.work_on(work)

        self._under_way = Task(lambda told: view_of(Cutter(building), scene, camera, site), draw, self.not_written, self)

    def said(self, words: str) -> None:
        self._session.said.emit(words)
