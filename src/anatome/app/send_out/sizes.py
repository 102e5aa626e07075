"""How large a picture of a scene is to be: in pixels, or on its paper."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFormLayout, QHBoxLayout, QLabel, QWidget

from anatome.app.base import units
from anatome.app.base.numbers import CountBox
from anatome.lengths import scale_words
from anatome.render.tiles import LARGEST
from anatome.scenes.project import Scene

DOTS = (30, 2400)


def pixel_box(least: int = 16) -> CountBox:
    """Return where a number of pixels is typed."""
    box = CountBox(minimum=least, maximum=LARGEST)
    box.setGroupSeparatorShown(True)
    box.setSuffix(" px")
    box.setFixedWidth(110)
    return box


def dots_box() -> CountBox:
    """Return where dots per inch are typed."""
    box = CountBox(minimum=DOTS[0], maximum=DOTS[1], value=300)
    box.setSuffix(" dots per inch")
    box.setToolTip("Written into the picture, so that it is printed at its scale")
    return box


class SizeRows(QWidget):
    """Rows of a form. A scene with a scale is as large as its paper; another one as one likes, in its own proportions."""

    changed = Signal()

    def __init__(self, form: QFormLayout, scene: Scene) -> None:
        super().__init__()
        self._scene = scene
        self.width_px, self.height_px, self.dpi = pixel_box(), pixel_box(), dots_box()
        self.width_px.setValue(4000)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.width_px)
        row.addWidget(QLabel("×"))
        row.addWidget(self.height_px)
        row.addStretch()
        self.note = QLabel()
        self.note.setProperty("role", "soft")
        form.addRow("Size", self)
        form.addRow("", self.note)
        form.addRow("On paper", self.dpi)
        self.dpi.valueChanged.connect(self._from_paper)
        self.width_px.valueChanged.connect(self._keep_aspect)
        self.height_px.editingFinished.connect(self._from_height)

    @property
    def size_px(self) -> tuple[int, int]:
        return self.width_px.value(), self.height_px.value()

    def show_scene(self, scene: Scene) -> None:
        """Offer the sizes of this one."""
        self._scene = scene
        paper = scene.paper
        self.width_px.setEnabled(paper is None)
        self.height_px.setEnabled(paper is None)
        if paper is None:
            self.note.setText("The proportions stay the scene's own.")
            self._keep_aspect()
        else:
            scale = scene.state.crop.scale if scene.state.crop else None
            self.note.setText(f"{scale_words(scale or 0.0)} on {units.paper(paper)}")
            self._from_paper()

    def _from_paper(self) -> None:
        paper = self._scene.paper
        if paper is not None:
            dots = min(self.dpi.value(), int(LARGEST * 25.4 / max(paper)))
            self.dpi.setValue(dots)
            self.width_px.setValue(round(paper[0] / 25.4 * dots))
            self.height_px.setValue(round(paper[1] / 25.4 * dots))
        self.changed.emit()

    def _keep_aspect(self) -> None:
        if self._scene.paper is None:
            self.height_px.setValue(round(self.width_px.value() / self._scene.aspect))
            self.changed.emit()

    def _from_height(self) -> None:
        self.width_px.blockSignals(True)
        self.width_px.setValue(round(self.height_px.value() * self._scene.aspect))
        self.width_px.blockSignals(False)
        self.changed.emit()
