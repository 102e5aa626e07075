"""Drawings of cuts and of serial sections at scale."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtWidgets import QCheckBox, QComboBox, QLabel, QWidget

from anatome.app.base.papers import ScaleBox
from anatome.app.base.units import UNITS
from anatome.app.base.work import Progress
from anatome.app.document.session import Session
from anatome.app.send_out.dialog import Outcome, SendOut
from anatome.cuts.facts import series_facts
from anatome.cuts.flat_view import flat_section
from anatome.cuts.section import Section
from anatome.files import safe_name
from anatome.formats.drawings_out import writer_for
from anatome.lengths import scale_in, scale_words
from anatome.linework.cut_drawing import cut_drawing, series_drawing
from anatome.view.crop import extent_on

KIND = "Drawings (*.svg *.pdf *.dxf)"


class _Scaled(SendOut):
    """Has a scale, and writes by the ending of the file's name."""

    def add_scale(self, note: str, session: Session) -> None:
        """Ask for the scale; at first the one that is held on the stage."""
        held = session.stage.crop.scale if session.stage.crop else None
        self.scale = ScaleBox()
        self.scale.show_scale(held or (48.0 if UNITS.inch_papers else 50.0))
        self.form.addRow("Scale", self.scale)
        words = QLabel(note)
        words.setProperty("role", "soft")
        words.setWordWrap(True)
        self.form.addRow("", words)
        self.form.addRow("File", self.file_row)

    def chosen_scale(self) -> float:
        """Return the 50 of 1:50. Raises Problem."""
        return scale_in(self.scale.currentText())


class DrawingDialog(_Scaled):
    """A cut as the stage fills it, flat and at scale."""

    def __init__(self, parent: QWidget, session: Session, folder: Path) -> None:
        faces = session.left().faces
        self._choices = _flat_cuts(session)
        picked = next((i for i, (_, cut, _) in enumerate(self._choices) if cut == session.picked.cut), 0)
        name = self._choices[picked][0] if self._choices else "Cut"
        super().__init__(parent, "Send out a drawing of a cut", "Write drawing", folder, name, ".svg", KIND)
        self._session = session
        self.cut = QComboBox()
        for words, cut, _ in self._choices:
            self.cut.addItem(words, cut)
        self.cut.setCurrentIndex(picked)
        self.form.addRow("Cut", self.cut)
        self.add_scale(
            "Fills and outlines in millimetres on paper, a layer for each element type. SVG, PDF or DXF by the file's ending.",
            session,
        )
        self.cropped = QCheckBox("Only what lies in the crop")
        self.cropped.setToolTip("The paper is then as large as the crop at the scale, and registers with its picture")
        self.form.insertRow(2, "", self.cropped)
        self.cut.currentIndexChanged.connect(self._offer_crop)
        self._offer_crop()
        self.go.setEnabled(bool(faces))

    def _extent(self) -> NDArray[np.float64] | None:
        """What the crop shows of the chosen cut, where it shows it true."""
        stage = self._session.stage
        if stage.crop is None or not self._choices:
            return None
        return extent_on(stage.camera, stage.crop, self._choices[self.cut.currentIndex()][2].plane)

    def _offer_crop(self) -> None:
        there = self._extent() is not None
        self.cropped.setEnabled(there)
        self.cropped.setChecked(there)
        if self._session.stage.crop is not None and not there:
            self.cropped.setToolTip("The crop does not show this cut true and upright; face it square on first")
        self.cropped.setVisible(self._session.stage.crop is not None)

    def write(self, path: Path) -> None:
        scale, building = self.chosen_scale(), self._session.building
        assert building is not None
        words, _, found = self._choices[self.cut.currentIndex()]
        title, look = f"{self._session.project.name}, {words}", self._session.drawn_look()
        extent = self._extent() if self.cropped.isChecked() else None

        writer = writer_for(path)

        def work(progress: Progress) -> Outcome:
            content = writer(cut_drawing(building, found, scale, look, title, extent))
            return Outcome({path: content}, f"Wrote the drawing of {words} at {scale_words(scale)} to {path}")

        self.work_on(work)


def _flat_cuts(session: Session) -> Sequence[tuple[str, str, Section]]:
    """What can be drawn flat: (words, the cut's id, what is filled)."""
    dissection = session.left()
    found: list[tuple[str, str, Section]] = []
    for cut in session.stage.active_cuts:
        faces = dissection.faces_of(cut.id)
        if len(cut.flat_planes) > 1 and faces:
            found.append((cut.name, cut.id, flat_section(cut, faces)))
            continue
        flat = [f for f in faces if cut.is_flat(f.plane)]
        found += [(f"{cut.name}, {f.name}" if f.name else cut.name, cut.id, f.poche) for f in flat]
    return found


class SeriesDialog(_Scaled):
    """Serial sections on one drawing, or their polygons and areas as JSON."""

    def __init__(self, parent: QWidget, session: Session, folder: Path) -> None:
        current = session.series or session.stage.series[0]
        kind = f"{KIND};;Polygons and areas (*.json)"
        super().__init__(parent, "Send out serial sections", "Write sections", folder, current.name, ".svg", kind)
        self._session = session
        self.series = QComboBox()
        for series in session.stage.series:
            self.series.addItem(series.name, series.id)
        self.series.setCurrentIndex(self.series.findData(current.id))
        self.form.addRow("Series", self.series)
        self.way = QComboBox()
        self.way.addItem("One drawing, a layer for each section", False)
        self.way.addItem("A file for each section", True)
        self.form.addRow("As", self.way)
        self.add_scale("Labelled, in millimetres on paper. SVG, PDF, DXF or JSON by the file's ending.", session)

    def write(self, path: Path) -> None:
        session, building = self._session, self._session.building
        series = session.stage.serial(self.series.currentData())
        assert building is not None and series is not None
        labels = [series.label(i) for i in range(len(series.offsets))]
        look, title, cut = session.drawn_look(), f"{session.project.name}, {series.name}", session.series_work(series)
        as_json, apart = path.suffix.lower() == ".json", bool(self.way.currentData())
        scale = 1.0 if as_json else self.chosen_scale()

        writer = None if as_json else writer_for(path)

        def work(progress: Progress) -> Outcome:
            result, files = cut(), {}
            if writer is None:
                files[path] = json.dumps(series_facts(building, series, result), ensure_ascii=False).encode()
            elif apart:
                for number, (label, found) in enumerate(zip(labels, result.filled)):
                    if not progress(number / len(labels)):
                        break
                    own = path.with_name(f"{path.stem} {safe_name(label)}{path.suffix}")
                    if len(found.polygons) or found.open_outlines:
                        drawing = series_drawing(building, [found], [label], scale, look, f"{title}, {label}")
                        files[own] = writer(drawing)
            else:
                files[path] = writer(series_drawing(building, result.filled, labels, scale, look, title))
            return Outcome(files, f"Wrote {len(labels)} serial sections to {path}")

        self.work_on(work)
