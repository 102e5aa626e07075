"""A picture of a scene, or of the stage: as one, in layers, or in passes; and a proof of it first."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from pathlib import Path
from time import monotonic
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QCheckBox, QComboBox, QDialog, QGridLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from anatome.app.base.images import image_of
from anatome.app.base.numbers import CountBox
from anatome.app.base.pictures import Making, Pixels, Steps, in_picture
from anatome.app.base.waiting import LIGHT_SHARE, in_words
from anatome.app.base.work import Progress
from anatome.app.document.session import Session
from anatome.app.send_out.dialog import Outcome, SendOut
from anatome.app.send_out.scene_choice import SceneChoice, name_for
from anatome.app.send_out.sizes import SizeRows
from anatome.app.stage.stage import Stage
from anatome.cuts.dissection import Cutter
from anatome.formats.about import about
from anatome.formats.pictures_out import LAYERED, check_layered, layers_bytes, passes_files, png_bytes, writer_for
from anatome.formats.properties import facts_for
from anatome.problems import Problem
from anatome.render.passes import passes_steps
from anatome.render.pictures import Ground
from anatome.render.stills import lit
from anatome.scenes.note_edits import with_notes
from anatome.scenes.project import MOST_SAMPLES, Scene
from anatome.scenes.scene_view import View, view_of
from anatome.scenes.sheet_frames import section_places
from anatome.view.passes import PASSES, SAYS, Pass, Passes

WAYS = (
    ("picture", "One picture", "PNG, TIFF, JPEG or WebP, by the file's ending"),
    ("layers", "One picture in layers", "OpenRaster or TIFF: fill, lines, shade and shadows are layers that make up the picture"),
    ("passes", "Passes, a file each", "They register with the picture, pixel by pixel"),
)
ENDINGS = {"picture": ".png", "layers": ".ora", "passes": ".png"}
KINDS = "Pictures (*.png *.tif *.jpg *.webp *.ora)"
USUAL: frozenset[Pass] = frozenset(("colour", "cut-fill", "cut-lines", "lines", "ambient", "shadow"))
PROOF = 4
"""How many times smaller a proof is."""


class PictureDialog(SendOut):
    """A PNG or TIFF of a scene or of the stage as it stands, its layers, or its passes."""

    def __init__(self, parent: QWidget, session: Session, stage: Stage, folder: Path) -> None:
        super().__init__(parent, "Send out a picture", "Write picture", folder, name_for(session), ".png", KINDS)
        self._session = session
        self._making = Making(self, stage.pictures)
        self._making.progressed.connect(self.show_share)
        self._lit = 0.0
        self.scene = SceneChoice(session, stage)
        self.form.addRow("Picture of", self.scene)
        self.way = QComboBox()
        for key, words, tip in WAYS:
            self.way.addItem(words, key)
            self.way.setItemData(self.way.count() - 1, tip, Qt.ItemDataRole.ToolTipRole)
        self.form.addRow("As", self.way)
        self.passes: dict[Pass, QCheckBox] = {}
        self._pass_boxes = QWidget()
        grid = QGridLayout(self._pass_boxes)
        grid.setContentsMargins(0, 0, 0, 0)
        for number, key in enumerate(PASSES):
            box = QCheckBox(key.replace("-", " ").capitalize())
            box.setToolTip(SAYS[key][0].upper() + SAYS[key][1:])
            box.setChecked(key in USUAL)
            grid.addWidget(box, number // 3, number % 3)
            self.passes[key] = box
        self.form.addRow("Passes", self._pass_boxes)
        self.sizes = SizeRows(self.form, self._scene)
        self.width_px, self.height_px, self.dpi = self.sizes.width_px, self.sizes.height_px, self.sizes.dpi
        self.ground = QComboBox()
        self.ground.addItem("Transparent", "transparent")
        self.ground.addItem("White", "white")
        self.ground.addItem("The look's paper", "paper")
        self.form.addRow("Ground", self.ground)
        self.still = CountBox()
        self.still.setRange(0, MOST_SAMPLES)
        self.still.setSpecialValueText("Drawn")
        self.still.setSuffix(" samples, ray-traced")
        self.still.setToolTip("How many samples of light a still has; none: the picture is drawn as on the stage")
        self.form.addRow("Light", self.still)
        self.notes = QCheckBox("What is written on it")
        self.notes.setToolTip("Dimensions, levels, labels and names")
        self.form.addRow("Notes", self.notes)
        self.form.addRow("File", self.file_row)
        self.proof = QPushButton("Proof")
        self.proof.setToolTip("The same picture at a quarter of the size, to look at first")
        self.proof.clicked.connect(self.make_proof)
        self.add_button(self.proof)
        self.scene.currentIndexChanged.connect(self._show_scene)
        self.way.currentIndexChanged.connect(self._show_way)
        self._show_scene()
        self._show_way()

    @property
    def _scene(self) -> Scene:
        return self.scene.chosen

    def _show_scene(self) -> None:
        self.sizes.show_scene(self._scene)
        state = self._scene.state
        self.still.setValue(state.still)
        self.notes.setChecked(state.notes_shown)
        self.show_rows()

    def _show_way(self) -> None:
        """The file's ending follows what is written, and the rows what is to be said."""
        path = Path(self.path.text())
        key = self.way.currentData()
        if (key == "layers" and path.suffix.lower() not in LAYERED) or path.suffix == ".ora":
            self.path.setText(str(path.with_suffix(ENDINGS[key])))
        # Layers lie on paper, or nothing would be what they are multiplied with.
        self.ground.model().item(0).setEnabled(key != "layers")  # type: ignore[attr-defined]
        if key == "layers" and self.ground.currentData() == "transparent":
            self.ground.setCurrentIndex(self.ground.findData("paper"))
        self.show_rows()

    def show_rows(self) -> None:
        self.proof.setEnabled(not self.busy)
        self.form.setRowVisible(self._pass_boxes, self.way.currentData() == "passes")
        self.form.setRowVisible(self.sizes.dpi, self._scene.paper is not None)
        self.form.setRowVisible(self.notes, self._scene.state.model_copy(update={"notes_shown": True}).is_written_on)

    # Drawing ---------------------------------------------------------------------------------------------------

    def _begin(
        self,
        size: tuple[int, int],
        steps: Callable[[View], Steps[Any]],
        pack: Callable[[Progress, Any], str] | None,
        done: Callable[[Any], None],
    ) -> None:
        """Cut the scene open, have it drawn, and make something of it."""
        building, site, model = self._session.building, self._session.project.site, self._session.model_path
        sections = section_places(self._session.project)
        scene, samples = with_notes(self._scene, self.notes.isChecked()), self.still.value()
        assert building is not None
        camera = scene.camera_for(size[0] / size[1]) if scene.paper is None else scene.state.camera

        def prepare(progress: Progress) -> View:
            facts = facts_for(building, model, scene.state.notes, sections)
            return lit(view_of(Cutter(building), scene, camera, site, facts), size, samples, progress)

        self._under_way = self._making
        self._making.make(prepare, steps, pack, done, self.not_written, (LIGHT_SHARE if samples else 0.0, 1.0))

    def write(self, path: Path) -> None:
        way, size, ground = self.way.currentData(), self.sizes.size_px, self._ground()
        dpi = float(self.dpi.value()) if self._scene.paper is not None else None
        if way == "picture":
            writer = writer_for(path)
            told = about(self._scene, self._session.project.name, date.today().isoformat())

            def encode(progress: Progress, pixels: Pixels) -> str:
                said = f"Wrote a picture of {size[0]} × {size[1]} pixels to {path}"
                return Outcome({path: writer(pixels, dpi, told)}, said).write(progress)

            self._begin(size, lambda view: in_picture(view, size, ground), encode, self.written)
            return
        layered = way == "layers"
        names = [] if layered else [key for key, box in self.passes.items() if box.isChecked()]
        if not layered and not names:
            raise Problem("Choose at least one pass.")
        if layered:
            check_layered(path)

        def pack(progress: Progress, found: Passes) -> str:
            return _files(found, path, dpi, names).write(progress)

        self._begin(size, lambda view: lambda on: passes_steps(on, view, size, names, layered, ground), pack, self.written)

    def _ground(self) -> Ground:
        found: Ground = self.ground.currentData()
        return found

    def make_proof(self) -> None:
        """Draw it at a quarter of the size, and show it."""
        if self.busy:
            return
        whole = self.sizes.size_px
        size = max(1, whole[0] // PROOF), max(1, whole[1] // PROOF)
        began = monotonic()

        def show(pixels: NDArray[np.uint8]) -> None:
            self._under_way = None
            self._show_busy()
            spent = monotonic() - began
            Proof(self, pixels, f"{size[0]} × {size[1]} pixels took {in_words(spent)}; "
                  f"{whole[0]} × {whole[1]} take about {in_words(spent * PROOF**2)}").open()  # fmt: skip

        ground: Ground = "white" if self._ground() == "transparent" else self._ground()
        self._begin(size, lambda view: in_picture(view, size, ground), None, show)
        self._show_busy()


def _files(found: Passes, path: Path, dpi: float | None, names: list[Pass]) -> Outcome:
    """What layers or passes are written as; on a thread."""
    height, width = found.colour.shape[:2]
    if found.layers:
        said = f"Wrote a picture of {width} × {height} pixels in {len(found.layers)} layers to {path}"
        return Outcome({path: layers_bytes(path, found, dpi)}, said)
    files = {}
    if "colour" in names:
        files[path.with_name(f"{path.stem}, colour.png")] = png_bytes(found.colour, dpi)
    files |= passes_files(found, path.parent, path.stem, dpi)
    return Outcome(files, f"Wrote {len(files)} files of {path.stem} to {path.parent}")


class Proof(QDialog):
    """A proof, pixel for pixel as far as it fits the screen."""

    def __init__(self, parent: QWidget, pixels: NDArray[Any], words: str) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Proof")
        column = QVBoxLayout(self)
        picture = QPixmap.fromImage(image_of(pixels))
        most = self.screen().availableSize() * 0.8
        if picture.width() > most.width() or picture.height() > most.height():
            picture = picture.scaled(most, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation)
        self.shown = QLabel(pixmap=picture)
        column.addWidget(self.shown)
        self.words = QLabel(words)
        self.words.setProperty("role", "soft")
        column.addWidget(self.words)
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        column.addWidget(close, alignment=Qt.AlignmentFlag.AlignRight)
