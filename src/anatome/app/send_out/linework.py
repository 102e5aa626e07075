"""The picture of a scene as lines: hidden ones removed, in millimetres on paper."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QCheckBox, QLabel, QWidget

from anatome.app.base import units
from anatome.app.base.papers import ScaleBox
from anatome.app.base.pictures import Making, Pixels, in_picture
from anatome.app.base.work import Progress
from anatome.app.document.session import Session
from anatome.app.send_out.dialog import Outcome, SendOut
from anatome.app.send_out.drawings import KIND
from anatome.app.send_out.line_layers import LayersRows
from anatome.app.send_out.scene_choice import SceneChoice, name_for
from anatome.app.stage.stage import Stage
from anatome.cuts.dissection import Cutter
from anatome.formats.drawings_out import boxes_said, writer_for
from anatome.formats.pictures_out import png_bytes
from anatome.formats.properties import facts_for
from anatome.lengths import scale_in, scale_words
from anatome.linework.of_scene import lost_said, paper_of, scale_of, under_lines, written_on
from anatome.linework.view_drawing import view_drawing
from anatome.look.line_layers import AS_KINDS, LineLayers
from anatome.printing.wanted import FrameRequest
from anatome.problems import Problem
from anatome.render.stills import lit
from anatome.scenes import edits
from anatome.scenes.look_edits import has_furniture_lines, show_furniture_lines
from anatome.scenes.note_edits import with_notes
from anatome.scenes.project import Scene
from anatome.scenes.scene_view import View, view_of
from anatome.scenes.sheet_frames import section_places
from anatome.sheets.sheet import Content

AS_IT_IS = "As large as its picture"
DOTS = 200
"""Per inch, of a picture under the lines."""
DRAWN_SHARE = 0.7
"""Of the time goes to the picture, if there is one."""


class LineworkDialog(SendOut):
    """SVG, PDF or DXF of a scene, or of the stage as it stands."""

    def __init__(self, parent: QWidget, session: Session, stage: Stage, folder: Path) -> None:
        super().__init__(parent, "Send out linework", "Write linework", folder, f"{name_for(session)}, lines", ".pdf", KIND)
        self._session = session
        self._making = Making(self, stage.pictures)
        self._making.progressed.connect(self.show_share)
        self.scene = SceneChoice(session, stage)
        self.form.addRow("Lines of", self.scene)
        self.scale = ScaleBox(AS_IT_IS)
        self.form.addRow("Scale", self.scale)
        self.paper = QLabel()
        self.paper.setProperty("role", "soft")
        self.form.addRow("", self.paper)
        self.beyond, self.hidden = QCheckBox("What lies beyond the cut"), QCheckBox("Hidden lines, dashed")
        self.under = QCheckBox("The picture without lines under it")
        self.beyond.setChecked(True)
        self.beyond.setToolTip("Off: what is cut alone")
        self.under.setToolTip("In SVG and PDF: the fills, shade and light of the picture, in register with the lines")
        self.tones = QCheckBox("Flat tones under the lines")
        self.tones.setToolTip(
            "Faces in their colour and its three tones, with cast shadows if the look has them, as areas; sharp at any size"
        )
        self.notes = QCheckBox("What is written on it")
        self.notes.setToolTip("Dimensions, levels, labels and names, as text and dimensions of the file")
        self.notes.setChecked(True)
        for row in (self.beyond, self.hidden, self.tones, self.under, self.notes):
            self.form.addRow("", row)
        self.furniture = QCheckBox("Lines of furniture")
        self.furniture.setToolTip("Its edges; what is cut of it keeps its outline. The scene has the same switch")
        self.form.addRow("", self.furniture)
        self.layers = LayersRows(self, self.form, lambda: session.building)
        self.form.addRow("File", self.file_row)
        self.scene.currentIndexChanged.connect(self._show_layers)
        self._show_layers()
        self.scene.currentIndexChanged.connect(self._show_paper)
        self.scale.currentTextChanged.connect(self._show_paper)
        self._show_paper()

    @property
    def _scene(self) -> Scene:
        return self.scene.chosen

    def _scale(self) -> float | None:
        """The 50 of 1:50, None for as large as the picture. Raises Problem."""
        text = self.scale.currentText().strip()
        return None if text == AS_IT_IS else scale_in(text)

    def _show_layers(self) -> None:
        """How the lines of the scene are put on layers, as it is kept with it."""
        self.layers.show_value(self._scene.line_layers)
        self.furniture.setChecked(has_furniture_lines(self._scene.state.overrides))

    def _keep_layers(self, layers: LineLayers) -> None:
        """With a scene that is saved."""
        scene, said = self.scene.chosen, None if layers == AS_KINDS else layers
        if scene.id and not scene.locked and scene.line_layers != said:
            project = edits.set_line_layers(self._session.project, scene.id, said)
            self._session.apply(project, f"Layers of the linework of {scene.name}")

    def _show_paper(self) -> None:
        try:
            height = paper_of(self._scene, self._scale())
        except Problem:
            self.paper.setText("Type a scale such as 1:50.")
            return
        width, scale = height * self._scene.aspect, scale_of(self._scene, height)
        where = "at the cut" if self._scene.state.true_plane() is not None else "at what is looked at"
        self.paper.setText(f"{units.paper((width, height))} of paper, {scale_words(scale)} {where}")

    def write(self, path: Path) -> None:
        scene, asked, building, site = self._scene, self._scale(), self._session.building, self._session.project.site
        writer = writer_for(path)
        assert building is not None
        title, beyond, hidden = f"{self._session.project.name}, {scene.name}", self.beyond.isChecked(), self.hidden.isChecked()
        height, tones = paper_of(scene, asked), self.tones.isChecked()
        if tones and self.under.isChecked():
            raise Problem("Flat tones and the picture both lie under the lines. Choose one of them.")
        if not self.notes.isChecked():
            scene = with_notes(scene, False)
        layers = self.layers.value()
        if self.furniture.isChecked() != has_furniture_lines(scene.state.overrides):
            scene = scene.model_copy(update={"state": show_furniture_lines(scene.state, self.furniture.isChecked())})
        self._keep_layers(layers)
        model, kept, sections = self._session.model_path, self._session.linework, section_places(self._session.project)

        def lines(progress: Progress, picture: Pixels | None = None) -> Outcome:
            def share(done: float) -> bool:
                return progress(0.95 * done)

            facts = facts_for(building, model, scene.state.notes, sections)
            view = view_of(Cutter(building), scene, None, site, facts, height)
            content: Content = "tones" if tones else "lines" if picture is None else "both"
            plain = beyond and not hidden and layers == (scene.line_layers or AS_KINDS)
            wanted = FrameRequest(scene, round(height, 6), content, site)
            known = kept.find(wanted) if kept and plain else None
            scale = round(scale_of(scene, height), 3)
            drawing = known or view_drawing(view, title, scale, beyond, hidden, share, wanted.has_tones, layers)
            drawing = written_on(replace(drawing, title=title), view)
            if picture is not None:
                drawing = drawing.over(png_bytes(picture))
            count = sum(len(kind.lines) for kind in drawing.strokes)
            said = f"Wrote {count} lines on {units.paper((drawing.width, drawing.height))} to {path}"
            said += boxes_said(path, drawing) + lost_said(drawing)
            return Outcome({path: writer(drawing)}, said)

        if not self.under.isChecked():
            self.work_on(lines)
            return
        if path.suffix.lower() == ".dxf":
            raise Problem("A DXF holds no picture. Write SVG or PDF, or leave the picture out.")
        rows = max(round(height / 25.4 * DOTS), 16)
        size = max(round(rows * scene.aspect), 16), rows

        def prepare(progress: Progress) -> View:
            return lit(under_lines(view_of(Cutter(building), scene, None, site)), size, scene.state.still, progress)

        def pack(progress: Progress, picture: Pixels) -> str:
            return lines(progress, picture).write(progress)

        self._under_way = self._making
        steps = partial(in_picture, size=size, ground="paper")
        self._making.make(prepare, steps, pack, self.written, self.not_written, (0.0, DRAWN_SHARE))
