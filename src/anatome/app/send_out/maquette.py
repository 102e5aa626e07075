"""The stage as cut as a scale model to print."""

from __future__ import annotations

import math
from dataclasses import replace
from pathlib import Path

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLabel, QLineEdit, QWidget

from anatome.app.base.numbers import AmountBox
from anatome.app.base.work import Progress
from anatome.app.document.session import Session
from anatome.app.send_out.dialog import Outcome, SendOut
from anatome.app.send_out.scene_choice import name_for
from anatome.cuts.dissection import CutBuilding
from anatome.formats.printable_models import files_of
from anatome.maquette.maquette import maquette_of, printed_of, size_of
from anatome.maquette.pieces import counts_of
from anatome.maquette.settings import MaquetteSettings


class MaquetteDialog(SendOut):
    """3MF with all pieces side by side, or an STL each."""

    def __init__(self, parent: QWidget, session: Session, folder: Path) -> None:
        name = f"{name_for(session)}, model to print"
        super().__init__(parent, "Send out a model to print", "Write model", folder, name, ".3mf", "Models (*.3mf *.stl)")
        self._session = session
        note = QLabel("What the cuts on the stage leave as one closed body: 3MF with its pieces side by side, or an STL each.")
        note.setProperty("role", "soft")
        note.setWordWrap(True)
        self.form.addRow(note)
        usual = MaquetteSettings()
        self.scale = AmountBox(1, 100_000, 0, usual.scale)
        self.scale.setPrefix("1:")
        self.form.addRow("Scale", self.scale)
        self.thinnest = AmountBox(0.05, 20, 2, usual.thinnest)
        self.thinnest.setToolTip("What the printer can do: thinner parts are made as thick")
        self.plate = [AmountBox(20, 5000, 0, side) for side in usual.plate]
        self.base, self.peg = AmountBox(0, 50, 1, usual.base), AmountBox(0, 10, 1, usual.peg)
        self.base.setSpecialValueText("None")
        self.peg.setSpecialValueText("None")
        self.peg.setToolTip(f"How thick pegs are that hold pieces together; they have {usual.play:g} mm of play")
        for box in (self.thinnest, *self.plate, self.base, self.peg):
            box.setSuffix(" mm")
        self.form.addRow("At least thick", self.thinnest)
        row = QHBoxLayout()
        for widget in (self.plate[0], QLabel("×"), self.plate[1], QLabel("×"), self.plate[2]):
            row.addWidget(widget, 0 if isinstance(widget, QLabel) else 1)
        self.form.addRow("Plate", row)
        self.form.addRow("Base", self.base)
        self.name = QLineEdit(session.project.name)
        self.name.setToolTip("In raised letters on the base; nothing for none")
        self.form.addRow("Name on it", self.name)
        self.form.addRow("Pegs", self.peg)
        self.furniture, self.ground = QCheckBox("Furniture"), QCheckBox("Ground and neighbours")
        self.form.addRow("With", self.furniture)
        self.form.addRow("", self.ground)
        self.measures = QLabel()
        self.measures.setProperty("role", "soft")
        self.form.addRow("Size", self.measures)
        self.form.addRow("File", self.file_row)
        for box in (self.scale, *self.plate, self.base, self.peg):
            box.valueChanged.connect(self._say_size)
        self.name.textChanged.connect(self._say_size)
        self.furniture.toggled.connect(self._say_size)
        self.ground.toggled.connect(self._say_size)
        self._say_size()

    def _say_size(self) -> None:
        sides = size_of(self._wanted(), self._how())
        if sides is None:
            self.measures.setText("Nothing is left to print")
            return
        pieces = math.prod(counts_of(sides, self._how()))
        words = " × ".join(f"{side:.0f}" for side in sides)
        self.measures.setText(f"About {words} mm, in {'one piece' if pieces == 1 else f'up to {pieces} pieces'}")

    def _wanted(self) -> CutBuilding:
        cut_open = self._session.kept()
        return replace(cut_open, shown=printed_of(cut_open, self.furniture.isChecked(), self.ground.isChecked()))

    def _how(self) -> MaquetteSettings:
        return MaquetteSettings(
            scale=self.scale.value(),
            thinnest=self.thinnest.value(),
            plate=(self.plate[0].value(), self.plate[1].value(), self.plate[2].value()),
            base=self.base.value(),
            name=self.name.text(),
            peg=self.peg.value(),
        )

    def write(self, path: Path) -> None:
        wanted, how = self._wanted(), self._how()
        how.check()

        def work(progress: Progress) -> Outcome:
            made = maquette_of(wanted, how, progress)
            files = files_of([piece.mesh for piece in made.pieces], path)
            return Outcome(files, f"Wrote {made.words}")

        self.work_on(work)
