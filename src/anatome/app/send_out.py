"""The dialogs that send pictures and drawings out."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QProgressDialog,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from anatome.app.session import Session
from anatome.app.stage.stage import Stage
from anatome.cuts.dissection import Cutter
from anatome.files import write_whole
from anatome.formats.png import png_bytes
from anatome.formats.svg import svg_bytes
from anatome.linework.cut_drawing import cut_drawing
from anatome.problems import Problem
from anatome.render.pictures import EXPORT_SAMPLES, LARGEST, Ground, view_of
from anatome.scenes.edits import as_saved
from anatome.scenes.project import Scene

SCALES = (10, 20, 50, 100, 200, 500)
"""The usual building scales of ISO 5455."""


class _SendOut(QDialog):
    """A file name to write to, and the buttons."""

    def __init__(self, parent: QWidget, title: str, go: str, suggestion: Path, kind: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setMinimumWidth(460)
        self._kind = kind
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 20, 24, 20)
        column.setSpacing(12)
        heading = QLabel(title)
        heading.setProperty("role", "title")
        column.addWidget(heading)
        self.form = QFormLayout()
        self.form.setHorizontalSpacing(16)
        self.form.setVerticalSpacing(8)
        column.addLayout(self.form)
        self.path = QLineEdit(str(suggestion))
        browse = QPushButton("Choose…")
        browse.clicked.connect(self._browse)
        row = QHBoxLayout()
        row.addWidget(self.path)
        row.addWidget(browse)
        self._row = row
        self.problem = QLabel()
        self.problem.setProperty("role", "warning")
        self.problem.setWordWrap(True)
        self.problem.hide()
        column.addWidget(self.problem)
        buttons = QDialogButtonBox()
        self.go = buttons.addButton(go, QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self._try)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)

    def _browse(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, self.windowTitle(), self.path.text(), self._kind)
        if name:
            self.path.setText(name)

    def _try(self) -> None:
        try:
            self.run(Path(self.path.text()).expanduser())
        except Problem as problem:
            self.problem.setText(str(problem))
            self.problem.show()
            return
        self.accept()

    def run(self, path: Path) -> None:
        raise NotImplementedError


class PictureDialog(_SendOut):
    """A PNG of a scene, or of the stage as it stands."""

    def __init__(self, parent: QWidget, session: Session, stage: Stage, folder: Path) -> None:
        current = session.scene
        name = current.name if current else session.project.name
        super().__init__(parent, "Send out a picture", "Write picture", folder / f"{name}.png", "Pictures (*.png)")
        self._session, self._stage = session, stage
        now = Scene(id="", name="The stage as it is now", state=as_saved(session.stage), aspect=stage.aspect)
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
        note = QLabel("The proportions stay the scene's own.")
        note.setProperty("role", "soft")
        self.ground = QComboBox()
        self.ground.addItem("Transparent", "transparent")
        self.ground.addItem("White", "white")
        self.form.addRow("Picture of", self.scene)
        self.form.addRow("Size", sizes)
        self.form.addRow("", note)
        self.form.addRow("Ground", self.ground)
        self.form.addRow("File", self._row)
        self.scene.currentIndexChanged.connect(self._keep_aspect)
        self.width_px.valueChanged.connect(self._keep_aspect)
        self.height_px.editingFinished.connect(self._from_height)
        self._keep_aspect()

    def _aspect(self) -> float:
        return self._choices[self.scene.currentIndex()].aspect

    def _keep_aspect(self) -> None:
        self.height_px.setValue(round(self.width_px.value() / self._aspect()))

    def _from_height(self) -> None:
        self.width_px.blockSignals(True)
        self.width_px.setValue(round(self.height_px.value() * self._aspect()))
        self.width_px.blockSignals(False)

    def run(self, path: Path) -> None:
        building = self._session.building
        assert building is not None
        scene = self._choices[self.scene.currentIndex()]
        size = self.width_px.value(), self.height_px.value()
        ground: Ground = self.ground.currentData()
        view = view_of(building, Cutter(building), scene.state, scene.camera_for(size[0] / size[1]))
        waiting = QProgressDialog("Drawing the picture", "Cancel", 0, 1000, self)
        waiting.setWindowTitle("Send out a picture")
        waiting.setMinimumDuration(400)

        def progress(share: float) -> bool:
            waiting.setValue(min(round(share * 1000), 999))
            QApplication.processEvents()
            return not waiting.wasCanceled()

        try:
            pixels = self._stage.picture(view, size, ground, EXPORT_SAMPLES, progress)
        finally:
            waiting.reset()
            waiting.deleteLater()
        assert pixels is not None
        write_whole(path, png_bytes(pixels))
        self._session.said.emit(f"Wrote a picture of {size[0]} × {size[1]} pixels to {path}")


class DrawingDialog(_SendOut):
    """An SVG of a cut at scale."""

    def __init__(self, parent: QWidget, session: Session, folder: Path) -> None:
        cut = session.cut or session.stage.active_cuts[0]
        super().__init__(parent, "Send out a drawing of the cut", "Write drawing", folder / f"{cut.name}.svg", "Drawings (*.svg)")
        self._session = session
        self.cut = QComboBox()
        for face in session.faces():
            self.cut.addItem(face.cut.name, face.cut.id)
        self.cut.setCurrentIndex(max(self.cut.findData(cut.id), 0))
        self.scale = QComboBox(editable=True)
        self.scale.addItems([f"1:{s}" for s in SCALES])
        self.scale.setCurrentText("1:50")
        self.form.addRow("Cut", self.cut)
        self.form.addRow("Scale", self.scale)
        note = QLabel("Filled polygons and outlines in millimetres on paper, one layer for each element type.")
        note.setProperty("role", "soft")
        note.setWordWrap(True)
        self.form.addRow("", note)
        self.form.addRow("File", self._row)

    def run(self, path: Path) -> None:
        text = self.scale.currentText().removeprefix("1:").strip()
        try:
            scale = float(text)
        except ValueError:
            raise Problem(f"“{self.scale.currentText()}” is not a scale. Type one such as 1:50.") from None
        face = next((f for f in self._session.faces() if f.cut.id == self.cut.currentData()), None)
        building = self._session.building
        if face is None or building is None:
            raise Problem("This cut is off. Switch it on to draw it.")
        title = f"{self._session.project.name}, {face.cut.name}"
        write_whole(path, svg_bytes(cut_drawing(building, face.section, scale, self._session.stage.look, title)))
        self._session.said.emit(f"Wrote the drawing of {face.cut.name} at 1:{scale:g} to {path}")
