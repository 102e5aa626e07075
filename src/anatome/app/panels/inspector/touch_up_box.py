"""The lines of the stage that are touched up: listed, weighed, dashed, taken back; what finds nothing to hold on to is told."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFormLayout, QListWidget, QListWidgetItem, QPushButton

from anatome.app.base import theme
from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.side_by_side import side_by_side
from anatome.app.commands.touching_up import TouchUpCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import Fold, label, narrow_choice
from anatome.app.stage.stage import Stage
from anatome.look.look import WEIGHTS
from anatome.model.building import Building
from anatome.notes.touching_up import AnyTouchUp, LineTouchUp

ROW, MOST_ROWS = 22, 6
"""Pixels of a row, and how many are seen at once."""
DASHES = (("As drawn", None), ("Whole", "whole"), ("Dashed", "dashed"), ("Dotted", "dotted"))


class TouchUpBox(Fold):
    """Folded at first; says in its heading how many there are."""

    def __init__(self, session: Session, stage: Stage, actions: Actions, commands: TouchUpCommands) -> None:
        super().__init__("Touching up", "Lines that are hidden, dashed, heavier or lighter than they would be, and masks")
        self._session, self._lined, self._commands = session, stage.lined, commands
        self._shown: object = None
        for first, second in (("touch_hide", "touch_mask"), ("draw_line", "draw_area")):
            self.column.addLayout(side_by_side(panel_button(actions[first]), panel_button(actions[second])))
        self.rows = QListWidget()
        self.rows.setProperty("role", "rows")
        self.rows.setSelectionMode(QListWidget.SelectionMode.ExtendedSelection)
        self.rows.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.rows.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.rows.itemSelectionChanged.connect(self._show_picked)
        self.column.addWidget(self.rows)
        self.form = QFormLayout()
        self.weight = narrow_choice()
        self.weight.addItem("As drawn", None)
        for weight in WEIGHTS:
            self.weight.addItem(f"{weight:.2f} mm", weight)
        self.weight.activated.connect(lambda i: self._change("weight", self.weight.itemData(i), self.weight.itemText(i)))
        self.form.addRow("Weight", self.weight)
        self.dashes = narrow_choice()
        for words, dashes in DASHES:
            self.dashes.addItem(words, dashes)
        self.dashes.activated.connect(lambda i: self._change("dashes", self.dashes.itemData(i), self.dashes.itemText(i)))
        self.form.addRow("Line", self.dashes)
        self.column.addLayout(self.form)
        self.back = QPushButton("As they were")
        self.back.setToolTip("The lines picked in the list, or all of them, are drawn as they would be")
        self.back.clicked.connect(lambda: commands.take(self._picked_ids() or [own.id for own in session.stage.touched_up]))
        self.column.addWidget(self.back)
        self.lost = label("", "warning")
        self.column.addWidget(self.lost)
        stage.lined.news.connect(self.refresh)

    def _picked_ids(self) -> list[str]:
        return [item.data(Qt.ItemDataRole.UserRole) for item in self.rows.selectedItems()]

    def _picked(self) -> list[LineTouchUp]:
        ids = set(self._picked_ids())
        return [one for one in self._session.stage.touched_up if one.id in ids and isinstance(one, LineTouchUp)]

    def _change(self, what: str, value: object, words: str) -> None:
        for one in self._picked():
            self._commands.change(one.model_copy(update={what: value, "hidden": False}), f"Lines touched up: {words.lower()}")

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the stage's."""
        if not self._session.is_open:
            return
        touched, building, lost = self._session.stage.touched_up, self._session.building, self._lined.lost
        self.say(str(len(touched)) if touched else "")
        for widget in (self.rows, self.back):
            widget.setVisible(bool(touched))
        count = len(lost)
        self.lost.setVisible(bool(count))
        self.lost.setText(
            f"{count} find{'s' * (count == 1)} nothing to hold on to: {'its line is' if count == 1 else 'their lines are'} no "
            "longer there. Nothing is lost; take them back, or leave them until the lines are there again."
        )
        if building is None or (touched, id(building), lost) == self._shown:
            return
        self._shown = touched, id(building), lost
        kept = set(self._picked_ids())
        self.rows.blockSignals(True)
        self.rows.clear()
        for one in touched:
            item = QListWidgetItem(words_of(one, building))
            if one.id in lost:
                item.setForeground(theme.current_brush("warning"))
            item.setToolTip(item.text())
            item.setData(Qt.ItemDataRole.UserRole, one.id)
            self.rows.addItem(item)
            item.setSelected(one.id in kept)
        self.rows.blockSignals(False)
        self.rows.setFixedHeight(ROW * min(max(len(touched), 1), MOST_ROWS) + 6)
        self._show_picked()

    def _show_picked(self) -> None:
        lines = self._picked()
        for widget in (self.weight, self.dashes):
            self.form.setRowVisible(widget, bool(lines))
        weights, dashes = {one.weight for one in lines}, {one.dashes for one in lines}
        self.weight.setCurrentIndex(max(self.weight.findData(weights.pop() if len(weights) == 1 else None), 0))
        self.dashes.setCurrentIndex(max(self.dashes.findData(dashes.pop() if len(dashes) == 1 else None), 0))


def words_of(one: AnyTouchUp, building: Building) -> str:
    """Return what a touching up is, in words."""
    if not isinstance(one, LineTouchUp):
        return f"Mask of {len(one.anchors)} corners"
    number = building.index_of.get(one.anchors[0].on)
    name = "a part that is gone" if number is None else building.elements[number].name or building.elements[number].id
    is_of = f"All lines of {name}" if one.is_of_part else f"Line of the cut, {name}" if one.anchors[0].cut else f"Line of {name}"
    how = [one.dashes or "", "" if one.weight is None else f"{one.weight:g} mm"]
    return f"{is_of}: {'hidden' if one.hidden else ', '.join(word for word in how if word)}"
