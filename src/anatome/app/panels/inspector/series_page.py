"""The picked serial sections: how many, how far apart, how they are drawn, their areas and the volume."""

from __future__ import annotations

from functools import partial
from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QFormLayout, QHeaderView, QLineEdit, QPushButton, QTreeWidget, QTreeWidgetItem

from anatome.app.base import theme, units
from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.numbers import CountBox, NumberField
from anatome.app.base.work import Work
from anatome.app.document.placing import place
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import Page, label, section, switches
from anatome.cuts.series import MOST, SerialSections, SeriesResult, offsets_at
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.scenes.edits import new_id


class SeriesPage(Page):
    """Areas are worked out a moment after the last change."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        self.name = QLineEdit()
        self.name.setToolTip("Name of the series")
        self.name.editingFinished.connect(lambda: self._change("Named the series", name=self.name.text().strip() or "Series"))
        self.column.addWidget(self.name)
        self.words = label("", "soft")
        self.column.addWidget(self.words)
        form = QFormLayout()
        self.count = CountBox()
        self.count.setRange(1, MOST)
        self.count.setKeyboardTracking(False)
        self.count.valueChanged.connect(self._count)
        self.spacing = NumberField("m", 0.1, below_zero=False)
        self.spacing.setToolTip("From one section to the next")
        self.spacing.entered.connect(self._space)
        self.spacing.nudged.connect(self._space)
        self.position = NumberField("m", 0.05)
        self.position.setToolTip("Where the first section stands along its axis, from the model's origin")
        self.position.entered.connect(self._move)
        self.position.nudged.connect(partial(self._move, merge="nudge"))
        self.heading = NumberField("°", 1.0)
        self.heading.setToolTip("Where the sections look; any direction, also oblique to the building")
        self.heading.entered.connect(self._turn)
        self.heading.nudged.connect(partial(self._turn, merge="nudge"))
        form.addRow("Sections", self.count)
        form.addRow("Apart", self.spacing)
        form.addRow("First at", self.position)
        form.addRow("Direction", self.heading)
        self._form = form
        self.column.addLayout(form)
        section(self.column, "Shows")
        self.switches = switches(
            self.column,
            (
                ("on", "Series", "Show the sections on the stage"),
                ("fills", "Fills", "Fill what is cut"),
                ("curves", "Curves", "Draw the outlines"),
                ("alone", "Alone", "Hide the building while the sections are shown"),
            ),
            self._switch,
            columns=2,
        )
        section(self.column, "Areas")
        self.volume = label("", "soft")
        self.volume.setToolTip("Between the first and the last section, by the prismoidal formula")
        self.column.addWidget(self.volume)
        self.tree = QTreeWidget(columnCount=2)
        self.tree.setHeaderHidden(True)
        self.tree.setRootIsDecorated(False)
        self.tree.setMinimumHeight(200)
        self.tree.header().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.tree.header().setStretchLastSection(False)
        self.tree.itemClicked.connect(self._picked)
        self.column.addWidget(self.tree)
        self.make = QPushButton("Make it a section plane")
        self.make.setToolTip("A section plane where the picked section of the series stands")
        self.make.clicked.connect(self._make_plane)
        self.column.addWidget(self.make)
        self.column.addWidget(panel_button(actions["send_series"]))
        self.column.addWidget(panel_button(actions["delete_cut"], "Delete the series"))
        self.column.addStretch()
        self._later = QTimer(self, singleShot=True, interval=250)
        self._later.timeout.connect(self.fill)
        self._shown: object = None
        self._work = Work(self, lambda: self._session.series)

    def _change(self, said: str, merge: str | None = None, **changes: Any) -> None:
        series = self._session.series
        if series is not None and any(getattr(series, k) != v for k, v in changes.items()):
            changed = SerialSections.model_validate(dict(series) | changes)
            self._session.apply(edits.put_series(self._session.project, changed), said, merge=merge)

    def _switch(self, key: str, text: str, on: bool) -> None:
        changes: dict[str, Any] = {key: on}
        self._change(f"{text} {'on' if on else 'off'}", **changes)

    def _count(self, count: int) -> None:
        series = self._session.series
        if series is not None:
            self._set_offsets(count, self._spacing(series))

    def _space(self, spacing: float) -> None:
        series = self._session.series
        if series is not None:
            self._set_offsets(len(series.offsets), spacing)

    def _set_offsets(self, count: int, spacing: float) -> None:
        try:
            offsets = offsets_at(count, spacing)
        except Problem as problem:
            self._session.said.emit(str(problem))
            return
        self._change(f"{count} sections, {units.length(spacing, 2)} apart", "series", offsets=offsets)

    @staticmethod
    def _spacing(series: SerialSections) -> float:
        return series.offsets[1] - series.offsets[0] if len(series.offsets) > 1 else 1.0

    def _move(self, value: float, merge: str | None = None) -> None:
        series = self._session.series
        if series is not None:
            self._change("Moved the series", merge, plane=series.plane.at_position(value))

    def _turn(self, value: float, merge: str | None = None) -> None:
        series, building = self._session.series, self._session.building
        if series is not None and building is not None:
            middle = building.bounds.mean(axis=0)
            self._change("Turned the series", merge, plane=series.plane.turned_about(middle, value - series.plane.heading))

    def _picked(self, item: QTreeWidgetItem) -> None:
        series = self._session.series
        if series is not None:
            self._session.pick(cut=series.id, member=item.data(0, Qt.ItemDataRole.UserRole))

    def _make_plane(self) -> None:
        series, member = self._session.series, self._session.picked.member
        if series is not None and member is not None:
            # The series would lie over what the plane cuts open.
            project = edits.put_series(self._session.project, series.model_copy(update={"on": False}))
            plane_id = new_id()
            project = edits.add_plane(project, series.planes()[member], plane_id)
            place(self._session, project, plane_id, f"Placed {project.stage.cuts[-1].name}, {series.name} off")

    def refresh(self) -> None:
        series = self._session.series
        if series is None:
            return
        if not self.name.hasFocus():
            self.name.setText(series.name)
        level = series.plane.is_level
        many = len(series.offsets)
        self.words.setText(f"{many} {'level ' * level}section{'s' * (many != 1)}. They cut nothing away.")
        self.count.blockSignals(True)
        self.count.setValue(len(series.offsets))
        self.count.blockSignals(False)
        self.spacing.show_value(self._spacing(series))
        self.position.show_value(series.plane.position)
        self.heading.show_value(series.plane.heading)
        self._form.setRowVisible(self.heading, not level)
        for key, box in self.switches.items():
            box.setChecked(getattr(series, key))
        self.make.setEnabled(self._session.picked.member is not None)
        shown = (series.plane, series.offsets, self._session.stage.hidden, self._session.stage.poche, series.reach)
        if shown != self._shown:
            self._shown = shown
            self._later.start()
        self._show_member()

    def fill(self) -> None:
        """Work out areas and volume, and list them."""
        series = self._session.series
        if series is None:
            return
        self.volume.setText("Working out the areas")
        work = self._session.series_work(series)
        self._work.run(lambda told: work(), lambda result: self._list(series, result), self._session.failed.emit)

    def _list(self, series: SerialSections, result: SeriesResult) -> None:
        """List areas and volume."""
        self.tree.clear()
        for number, area in enumerate(result.areas):
            item = QTreeWidgetItem(
                [f"{series.label(number)}   {units.length(series.planes()[number].position, 2)}", f"{units.area(area)}"]
            )
            item.setData(0, Qt.ItemDataRole.UserRole, number)
            item.setTextAlignment(1, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            item.setForeground(1, theme.current_brush("ink_soft"))
            self.tree.addTopLevelItem(item)
        self.volume.setText(
            f"{units.volume(result.volume, 2)} of material between the first and the last" if len(result.areas) > 1 else ""
        )
        self._show_member()

    def _show_member(self) -> None:
        member = self._session.picked.member
        for i in range(self.tree.topLevelItemCount()):
            item = self.tree.topLevelItem(i)
            assert item is not None
            item.setSelected(i == member)
