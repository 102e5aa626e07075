"""The crop and its paper: proportions, scale, size."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox, QComboBox, QFormLayout, QHBoxLayout, QLabel, QWidget

from anatome.app.base import units
from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.numbers import NumberField
from anatome.app.base.papers import ScaleBox, papers
from anatome.app.base.units import UNITS
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import bare_column, label
from anatome.lengths import scale_in, scale_words
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.view.crop import PROPORTIONS, Crop, at_scale, height_at

FREE, OWN = "Free", "As large as it is"


class CropBox(QWidget):
    """Shows and changes the crop of the stage. Every change is a step to undo."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        column = bare_column(self)
        self.on = QCheckBox("Crop the picture")
        self.on.setToolTip("What lies in it is the picture: for scenes and for all that is sent out")
        self.on.clicked.connect(actions["crop"].trigger)
        column.addWidget(self.on)
        self.content = QWidget()
        form = QFormLayout(self.content)
        form.setContentsMargins(0, 0, 0, 0)
        form.setVerticalSpacing(4)
        self.proportion = QComboBox()
        self.proportion.addItem(FREE, None)
        for name, aspect in PROPORTIONS.items():
            self.proportion.addItem(name, aspect)
            if aspect != 1.0:
                self.proportion.addItem(f"{name} portrait", 1 / aspect)
        self.proportion.activated.connect(self._set_proportion)
        form.addRow("Proportion", self.proportion)
        self.scale = ScaleBox("None")
        self.scale.setToolTip("Held at the cut, in perspective too; type another one. Zooming then changes the paper")
        self.scale.activated.connect(self._choose_scale)
        editor = self.scale.lineEdit()
        assert editor is not None
        editor.returnPressed.connect(self._type_scale)
        form.addRow("Scale", self.scale)
        self.paper = QComboBox()
        self.paper.setToolTip("The sheet that the crop becomes at the scale")
        self.paper.activated.connect(self._choose_paper)
        form.addRow("Paper", self.paper)
        sizes = QHBoxLayout()
        sizes.setSpacing(4)
        self.width_mm, self.height_mm = NumberField("mm", 10.0, below_zero=False), NumberField("mm", 10.0, below_zero=False)
        for field, tip in ((self.width_mm, "Width of the paper"), (self.height_mm, "Height of the paper")):
            field.setToolTip(tip)
            for signal in (field.entered, field.nudged):
                signal.connect(lambda value, across=field is self.width_mm: self._type_paper(value, across))
        sizes.addWidget(self.width_mm)
        sizes.addWidget(QLabel("×"))
        sizes.addWidget(self.height_mm)
        form.addRow("", sizes)
        fits = QHBoxLayout()
        fits.setSpacing(4)
        for name, words in (("crop_building", "Fit to building"), ("crop_cut", "Fit to cut")):
            fits.addWidget(panel_button(actions[name], words))
        form.addRow(fits)
        self.line = QCheckBox("Its line shows on the stage")
        self.line.setToolTip("It never shows in what is sent out")
        self.line.clicked.connect(self._set_line)
        form.addRow(self.line)
        self.note = label("", "soft")
        form.addRow(self.note)
        column.addWidget(self.content)

    # Doing -----------------------------------------------------------------------------------------------------

    @property
    def _crop(self) -> Crop:
        crop = self._session.stage.crop
        assert crop is not None
        return crop

    def _apply(self, crop: Crop, said: str) -> None:
        self._session.apply(edits.set_crop(self._session.project, crop), said)

    def _fill_papers(self) -> None:
        """Offer the papers of the kind that is set."""
        names = [f"{name} {way}" for name in papers() for way in ("landscape", "portrait")]
        if [self.paper.itemText(i) for i in range(1, self.paper.count())] != names:
            self.paper.clear()
            self.paper.addItem(OWN, None)
            for name, (width, height) in papers().items():
                self.paper.addItem(f"{name} landscape", (width, height))
                self.paper.addItem(f"{name} portrait", (height, width))

    def _set_proportion(self, row: int) -> None:
        self._apply(self._crop.proportioned(self.proportion.itemData(row)), f"Crop: {self.proportion.itemText(row)}")

    def _set_line(self, on: bool) -> None:
        self._apply(
            self._crop.model_copy(update={"line": on}), "The line of the crop shows" if on else "The line of the crop is hidden"
        )

    def _choose_scale(self, row: int) -> None:
        if row == 0:
            self._apply(self._crop.model_copy(update={"scale": None}), "No scale is held")
        elif row > 0 and self.scale.itemData(row) is not None:
            self._hold(self.scale.itemData(row), None)

    def _type_scale(self) -> None:
        """“1:75” or “75”."""
        try:
            self._hold(scale_in(self.scale.currentText()), None)
        except Problem as problem:
            self._session.said.emit(str(problem))
            self.refresh()

    def _choose_paper(self, row: int) -> None:
        paper = self.paper.itemData(row)
        if paper is not None:
            self._hold(self._crop.scale or (48.0 if UNITS.inch_papers else 50.0), tuple(paper))

    def _type_paper(self, value: float, across: bool) -> None:
        """One side of the paper; the other follows where the proportion is fixed."""
        aspect, value = self._crop.aspect, min(max(value, 10.0), 10_000.0)
        width, height = (value, self.height_mm.shown) if across else (self.width_mm.shown, value)
        if not self._crop.free:
            width, height = (value, value / aspect) if across else (value * aspect, value)
        if self._crop.scale is not None and 0.05 < width / height < 20:
            self._hold(self._crop.scale, (width, height))

    def _hold(self, scale: float, paper: tuple[float, float] | None) -> None:
        """Hold a scale: on a paper, else on the one there is, else on whatever paper the picture as it is needs."""
        session, crop = self._session, self._crop
        plane = session.true_plane()
        high = height_at(session.stage.camera, plane)
        paper = paper or crop.paper(high) or crop.model_copy(update={"scale": scale}).paper(high)
        assert paper is not None
        if abs(paper[0] / paper[1] / crop.aspect - 1) > 1e-6:
            crop = crop.proportioned(paper[0] / paper[1])
        camera, crop = at_scale(session.stage.camera, crop, plane, scale, paper[1])
        project = edits.set_camera(edits.set_crop(session.project, crop), camera)
        session.apply(project, f"{scale_words(scale)} on {units.paper(paper)}")

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the crop as it is now."""
        session = self._session
        crop = session.stage.crop
        self.on.setChecked(crop is not None)
        self.content.setVisible(crop is not None)
        if crop is None:
            return
        rows = range(1, self.proportion.count())
        fits = [i for i in rows if abs(self.proportion.itemData(i) - crop.aspect) < 1e-4 * crop.aspect]
        self.proportion.setCurrentIndex(fits[0] if fits and not crop.free else 0)
        self.scale.show_scale(crop.scale)
        plane = session.true_plane()
        paper = crop.paper(height_at(session.stage.camera, plane))
        for field in (self.width_mm, self.height_mm):
            field.setEnabled(paper is not None)
        self._fill_papers()
        self.paper.setCurrentIndex(0)
        if paper is not None:
            self.width_mm.show_value(paper[0])
            self.height_mm.show_value(paper[1])
            for i in range(1, self.paper.count()):
                width, height = self.paper.itemData(i)
                if abs(width - paper[0]) < 0.5 and abs(height - paper[1]) < 0.5:
                    self.paper.setCurrentIndex(i)
        words = "True in the plane of the cut." if plane is not None else "No cut is seen true; it holds for what is looked at."
        self.note.setText(words if crop.scale is not None else "")
        self.note.setVisible(crop.scale is not None)
