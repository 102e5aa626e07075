"""Cutting files for a model built of layers: outlines nested on sheets of material, an SVG or a DXF each."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtWidgets import QCheckBox, QComboBox, QFileDialog, QHBoxLayout, QLabel, QWidget

from anatome.app.base.numbers import AmountBox
from anatome.app.base.work import Progress
from anatome.app.document.session import Session
from anatome.app.send_out.dialog import Outcome, SendOut
from anatome.files import check_folder, safe_name
from anatome.formats.drawings_out import writer_for
from anatome.linework.layered import LayerSettings, cutting_files

LIES_FLAT = (0.0, 0.0, 1.0)


class LayersDialog(SendOut):
    """What is built of layers, at which scale, of which material."""

    def __init__(self, parent: QWidget, session: Session, folder: Path) -> None:
        super().__init__(
            parent, "Send out cutting files", "Write cutting files", folder, f"{session.project.name}, layers", "", ""
        )
        self._session = session
        self.of = QComboBox()
        self.of.addItem("All that is shown", "shown")
        self.of.addItem("The ground and neighbours alone", "context")
        self.of.addItem("The building alone", "built")
        if session.picked.elements:
            self.of.addItem("What is picked", "picked")
            self.of.setCurrentIndex(self.of.count() - 1)
        self.form.addRow("Of", self.of)
        self.across = QComboBox()
        self.across.addItem("Lie flat, one over the other", LIES_FLAT)
        if session.cut is not None:
            normal = session.cut.axis.normal
            self.across.addItem(f"Stand as {session.cut.name} does", normal)
        self.form.addRow("Layers", self.across)
        self.scale = AmountBox(1, 100_000, 0, 200)
        self.scale.setPrefix("1:")
        self.form.addRow("Scale", self.scale)
        self.thickness, self.gap = AmountBox(0.1, 200, 1, 3), AmountBox(0, 100, 1, 3)
        self.wide, self.high = AmountBox(20, 10_000, 0, 600), AmountBox(20, 10_000, 0, 400)
        self.dowel = AmountBox(0, 50, 1, 0)
        self.dowel.setSpecialValueText("None")
        for box in (self.thickness, self.gap, self.wide, self.high, self.dowel):
            box.setSuffix(" mm")
        self.form.addRow("Material is thick", self.thickness)
        sheet = QHBoxLayout()
        for widget in (self.wide, QLabel("×"), self.high):
            sheet.addWidget(widget)
        sheet.addStretch()
        self.form.addRow("A sheet of it", sheet)
        self.form.addRow("Between parts", self.gap)
        self.form.addRow("Holes for dowels", self.dowel)
        self.next_outline, self.hollow = QCheckBox("Engrave the outline of the next layer"), QCheckBox("Hollow, as it is cut")
        self.next_outline.setChecked(True)
        self.hollow.setChecked(True)
        self.hollow.setToolTip("Off: the outermost outlines alone, for a massive model")
        self.form.addRow("", self.next_outline)
        self.form.addRow("", self.hollow)
        self.kind = QComboBox()
        self.kind.addItem("SVG, a file for each sheet", ".svg")
        self.kind.addItem("DXF, a file for each sheet", ".dxf")
        self.form.addRow("As", self.kind)
        self.form.addRow("Folder", self.file_row)
        words = QLabel("Red hairlines are cut, blue ones engraved: labels, and where the next layer stands.")
        words.setProperty("role", "soft")
        words.setWordWrap(True)
        self.form.addRow("", words)

    def browse(self) -> None:
        name = QFileDialog.getExistingDirectory(self, self.windowTitle(), self.path.text())
        if name:
            self.path.setText(name)

    def _elements(self) -> NDArray[np.bool_]:
        building, of = self._session.building, self.of.currentData()
        assert building is not None
        shown = self._session.shown()
        if of == "picked":
            picked = self._session.picked.elements
            return np.array([e.id in picked for e in building.elements], bool)
        return shown & building.context if of == "context" else shown & ~building.context if of == "built" else shown

    def write(self, path: Path) -> None:
        building, title, ending = self._session.building, self._session.project.name, self.kind.currentData()
        assert building is not None
        how = LayerSettings(
            self.scale.value(),
            self.thickness.value(),
            (self.wide.value(), self.high.value()),
            self.gap.value(),
            self.next_outline.isChecked(),
            self.dowel.value(),
            self.hollow.isChecked(),
        )
        how.check()
        elements, across = self._elements(), self.across.currentData()
        check_folder(path)

        def work(progress: Progress) -> Outcome:
            found = cutting_files(building, elements, across, how, title, progress)
            names = [path / f"{safe_name(title)} layers {number:02d}{ending}" for number in range(1, len(found.drawings) + 1)]
            files = {own: writer_for(own)(drawing) for own, drawing in zip(names, found.drawings)}
            said = f"{len(found.parts)} parts of {found.layers} layers on {len(found.drawings)} sheets in {path}"
            return Outcome(files, said + (f"; left out: {', '.join(found.left_out)}" if found.left_out else ""), path)

        self.work_on(work)
