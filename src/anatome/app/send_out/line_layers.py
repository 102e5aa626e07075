"""How lines are put on layers: by what, called how, drawn in which pens."""

from __future__ import annotations

from collections.abc import Callable

from pydantic import ValidationError
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from anatome.app.base.form_dialog import FormDialog
from anatome.app.base.side_by_side import side_by_side
from anatome.app.base.swatch import Swatch
from anatome.look.line_layers import AS_KINDS, FIELDS, FIGURES, OTHER, USUAL, By, Dashes, LayerPen, LineLayers, models_of
from anatome.look.look import WEIGHTS, Rgb
from anatome.look.pens import LineKind, name_of
from anatome.model.building import Building
from anatome.problems import Problem

WAYS: tuple[tuple[str, str], ...] = (
    ("Kind of line and depth", ""),
    ("Layers of the model", "layer"),
    ("Types", "type"),
    ("Materials", "material"),
    ("Storeys", "storey"),
    ("Groups", "group"),
)
AS_DRAWN = "As drawn"
DASHED: tuple[tuple[str, Dashes | None], ...] = ((AS_DRAWN, None), ("Whole", "whole"), ("Dashed", "dashed"), ("Dotted", "dotted"))
COLUMNS = ("Layer", "Colour", "Weight", "Dashes")


class LayersRows:
    """Two rows of a form, and a table behind a button."""

    def __init__(self, parent: QWidget, form: QFormLayout, building: Callable[[], Building | None]) -> None:
        self._parent, self._building = parent, building
        self._pens: tuple[LayerPen, ...] = ()
        self.way = QComboBox()
        for words, of in WAYS:
            self.way.addItem(words, of)
        self.way.setToolTip("What lines have a layer of their own for")
        self.kinds = QCheckBox("each by kind too")
        self.kinds.setChecked(True)
        self.kinds.setToolTip("Outlines of the cut, edges, hatches, … of each on layers of their own")
        self.names = QLineEdit()
        self.names.setToolTip("It may have " + ", ".join(f"{{{field}}}: {words}" for field, words in FIELDS.items()))
        self.pens = QPushButton("Pens…")
        self.pens.setToolTip("Colour, weight and dashes of each layer, and which are left out")
        self.pens.clicked.connect(self.open_table)
        self.way.currentIndexChanged.connect(self._show)
        self.kinds.toggled.connect(self._show)
        form.addRow("Layers by", side_by_side(self.way, self.kinds, 0, 8))
        form.addRow("Called", side_by_side(self.names, self.pens, 0, 8))
        self._show()

    def _show(self) -> None:
        self.kinds.setEnabled(bool(self.way.currentData()))
        self.names.setPlaceholderText(USUAL[self._by()])

    def _by(self) -> By:
        return "kind" if not self.way.currentData() else "both" if self.kinds.isChecked() else "model"

    def value(self) -> LineLayers:
        """Return what is said. Raises Problem for names that cannot be filled."""
        try:
            said = LineLayers(
                by=self._by(), of=self.way.currentData() or "layer", names=self.names.text().strip(), pens=self._pens
            )
            said.name("a", "b", "c")
        except (ValidationError, ValueError, IndexError, KeyError) as error:
            fields = ", ".join(f"{{{field}}}" for field in FIELDS)
            raise Problem(f"“{self.names.text()}” cannot be a name of layers. It may have {fields}.") from error
        return said

    def show_value(self, layers: LineLayers | None) -> None:
        """Show what a scene has."""
        said = layers or AS_KINDS
        self.way.setCurrentIndex(0 if said.by == "kind" else max(self.way.findData(said.of), 0))
        self.kinds.setChecked(said.by != "model")
        self.names.setText(said.names)
        self._pens = said.pens
        self._show()

    def open_table(self) -> None:
        """Show the table of pens."""

        def take(pens: tuple[LayerPen, ...]) -> None:
            self._pens = pens

        PensDialog(self._parent, self._rows(), self._pens, take).open()

    def _rows(self) -> list[str]:
        """What pens may be for: what the model says, and kinds of line."""
        building, of = self._building(), self.way.currentData()
        models = [] if building is None or not of else sorted(set(models_of(building, of)) | {OTHER, FIGURES})
        kinds = [name_of(kind) for kind in LineKind if kind != LineKind.GHOST]
        return [*models, *kinds]


class PensDialog(FormDialog):
    """A row for each layer: ticked it is drawn; what nothing is said of is as the look draws it."""

    def __init__(
        self, parent: QWidget, rows: list[str], pens: tuple[LayerPen, ...], taken: Callable[[tuple[LayerPen, ...]], None]
    ) -> None:
        note = "What is not ticked is left out. Nothing said: as the look draws it. They are kept with the scene."
        super().__init__(parent, "Pens of layers", "Take them", 560, note)
        self._taken = taken
        self._colours: dict[int, Rgb] = {}
        known = {pen.name: pen for pen in pens}
        names = [*rows, *(name for name in known if name not in rows)]
        self.table = QTableWidget(len(names), len(COLUMNS))
        self.table.setHorizontalHeaderLabels(list(COLUMNS))
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.table.setMinimumHeight(320)
        for number, name in enumerate(names):
            self._row(number, name, known.get(name) or LayerPen(name=name))
        self.column.insertWidget(2, self.table)

    def _row(self, number: int, name: str, pen: LayerPen) -> None:
        item = QTableWidgetItem(name)
        item.setFlags((item.flags() | Qt.ItemFlag.ItemIsUserCheckable) & ~Qt.ItemFlag.ItemIsEditable)
        item.setCheckState(Qt.CheckState.Checked if pen.on else Qt.CheckState.Unchecked)
        self.table.setItem(number, 0, item)
        swatch = Swatch(AS_DRAWN, lambda rgb, number=number: self._colour(number, rgb), coded=True)  # type: ignore[misc]
        self.table.setCellWidget(number, 1, swatch)
        if pen.colour is not None:
            self._colour(number, pen.colour)
        weight = QComboBox()
        weight.addItem(AS_DRAWN, None)
        for one in WEIGHTS:
            weight.addItem(f"{one:.2f} mm", one)
        if pen.weight is not None and weight.findData(pen.weight) < 0:
            weight.addItem(f"{pen.weight:g} mm", pen.weight)
        weight.setCurrentIndex(max(weight.findData(pen.weight), 0))
        self.table.setCellWidget(number, 2, weight)
        dashes = QComboBox()
        for words, which in DASHED:
            dashes.addItem(words, which)
        dashes.setCurrentIndex(max(dashes.findData(pen.dashes), 0))
        self.table.setCellWidget(number, 3, dashes)

    def _colour(self, number: int, rgb: Rgb) -> None:
        self._colours[number] = rgb
        swatch = self.table.cellWidget(number, 1)
        assert isinstance(swatch, Swatch)
        swatch.show_colour(rgb)

    def said(self) -> tuple[LayerPen, ...]:
        """Return the pens of which anything is said."""
        found = []
        for number in range(self.table.rowCount()):
            item = self.table.item(number, 0)
            weight, dashes = (self.table.cellWidget(number, column) for column in (2, 3))
            assert item is not None and isinstance(weight, QComboBox) and isinstance(dashes, QComboBox)
            on = item.checkState() == Qt.CheckState.Checked
            colour = self._colours.get(number)
            pen = LayerPen(name=item.text(), on=on, colour=colour, weight=weight.currentData(), dashes=dashes.currentData())
            if pen != LayerPen(name=pen.name):
                found.append(pen)
        return tuple(found)

    def run(self) -> None:
        self._taken(self.said())
