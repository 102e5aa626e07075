"""What a look says of some parts, or what is laid over it in this scene: listed as pictures in their order, switched, changed,
copied to other looks, deleted one by one."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QIcon, QKeyEvent
from PySide6.QtWidgets import QAbstractItemView, QHBoxLayout, QListWidget, QListWidgetItem, QMenu, QPushButton, QWidget

from anatome.app.base.hatch_icons import SIZE, hatch_icon
from anatome.app.base.rule_words import rule_words, who_words
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import bare_column, label
from anatome.look.look import Look, Rule
from anatome.look.styles import HatchManner
from anatome.model.building import Building
from anatome.scenes.look_edits import change_look, copy_rule, plain_name, project_hatches, set_overrides

ROW, MOST_ROWS = 24, 8
"""Pixels of a row, and how many are seen at once."""
NUMBER = Qt.ItemDataRole.UserRole


class _Rows(QListWidget):
    """Dragged into another order; Delete deletes."""

    def __init__(self, box: RulesBox) -> None:
        super().__init__()
        self._box = box
        self.setProperty("role", "rows")
        self.setIconSize(SIZE)
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.setToolTip("Later ones hold over earlier ones; drag them into another order")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Delete:
            self._box.delete()
        else:
            super().keyPressEvent(event)


class RulesBox(QWidget):
    """Shown where there are any."""

    def __init__(self, session: Session, in_look: bool) -> None:
        super().__init__()
        self._session, self._in_look = session, in_look
        self._shown: object = None
        column = bare_column(self)
        words = "Of some parts, in this look" if in_look else "Laid over the look, in this scene alone"
        column.addWidget(label(words, "soft"))
        self.rows = _Rows(self)
        self.rows.itemChanged.connect(self._switched)
        self.rows.itemDoubleClicked.connect(lambda _: self.change())
        self.rows.model().rowsMoved.connect(self._moved)
        column.addWidget(self.rows)
        buttons = QHBoxLayout()
        buttons.setSpacing(4)
        self.to_change = QPushButton("Change")
        self.to_change.setToolTip("Pick the parts it is for, and see and change what it says (double click)")
        self.to_change.clicked.connect(self.change)
        self.to_copy = QPushButton("Copy to")
        self.to_copy.setToolTip("Have it in other looks of the project too")
        self.looks = QMenu(self.to_copy)
        self.looks.aboutToShow.connect(self._offer_looks)
        self.to_copy.setMenu(self.looks)
        self.to_delete = QPushButton("Delete")
        self.to_delete.setToolTip("Delete it (Del)")
        self.to_delete.clicked.connect(self.delete)
        for button in (self.to_change, self.to_copy, self.to_delete):
            buttons.addWidget(button)
        column.addLayout(buttons)

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """List them."""
        rules, building = self._rules, self._session.building
        self.setVisible(bool(rules))
        if building is None or (rules, id(building)) == self._shown:
            return
        self._shown = rules, id(building)  # a panel keeps no building
        at = self.rows.currentRow()
        self.rows.blockSignals(True)
        self.rows.clear()
        for number, rule in enumerate(rules):
            self.rows.addItem(self._row(number, rule, building))
        self.rows.blockSignals(False)
        self.rows.setCurrentRow(min(max(at, 0), len(rules) - 1))
        self.rows.setFixedHeight(ROW * min(len(rules), MOST_ROWS) + 6)

    def _row(self, number: int, rule: Rule, building: Building) -> QListWidgetItem:
        look = self._session.stage.look
        words = f"{who_words(rule.who, building)}: {rule_words(rule)}"
        item = QListWidgetItem(self._picture(rule, look), words)
        item.setSizeHint(QSize(0, ROW))
        item.setData(NUMBER, number)
        item.setToolTip(f"{words}. Off: as the look has it")
        item.setFlags((item.flags() | Qt.ItemFlag.ItemIsUserCheckable) & ~Qt.ItemFlag.ItemIsDropEnabled)
        item.setCheckState(Qt.CheckState.Checked if rule.on else Qt.CheckState.Unchecked)
        return item

    def _picture(self, rule: Rule, look: Look) -> QIcon:
        """Its fill, or surface, with its hatch."""
        hatch = (project_hatches(self._session.project) | look.known_hatches).get(rule.hatch or "")
        fill = rule.fill or rule.surface or (look.paper if hatch is not None else (1.0, 1.0, 1.0))
        return hatch_icon(None if hatch is None else HatchManner().ruled(rule).of(hatch), fill, look.ink)

    @property
    def _rules(self) -> tuple[Rule, ...]:
        stage = self._session.stage
        return stage.look.rules if self._in_look else stage.overrides

    def _words(self, rule: Rule) -> str:
        assert self._session.building is not None
        return f"{who_words(rule.who, self._session.building)}: {rule_words(rule)}"

    @property
    def current(self) -> Rule | None:
        """The rule whose row is the current one."""
        row = self.rows.currentRow()
        return self._rules[row] if 0 <= row < len(self._rules) else None

    # Doing -----------------------------------------------------------------------------------------------------

    def _set(self, rules: tuple[Rule, ...], said: str) -> None:
        project = self._session.project
        self._session.apply(change_look(project, rules=rules) if self._in_look else set_overrides(project, rules), said)

    def _switched(self, item: QListWidgetItem) -> None:
        rules, number, on = self._rules, int(item.data(NUMBER)), item.checkState() == Qt.CheckState.Checked
        if rules[number].on != on:
            changed = rules[number].model_copy(update={"on": on})
            said = f"{self._words(changed)}, {'on' if on else 'off'}"
            self._set((*rules[:number], changed, *rules[number + 1 :]), said)

    def _moved(self) -> None:
        order = [int(self.rows.item(i).data(NUMBER)) for i in range(self.rows.count())]
        if order != sorted(order):
            rules = self._rules
            self._set(tuple(rules[number] for number in order), "Rules in another order")

    def delete(self) -> None:
        """Without the current one."""
        rules, row = self._rules, self.rows.currentRow()
        if 0 <= row < len(rules):
            self._set((*rules[:row], *rules[row + 1 :]), f"Deleted: {self._words(rules[row])}")

    def change(self) -> None:
        """Pick the parts it is for: what is said of them shows, and can be changed there."""
        rule, building = self.current, self._session.building
        if rule is None or building is None:
            return
        mask = rule.who.mask(building) & self._session.shown()
        ids = frozenset(building.elements[i].id for i in mask.nonzero()[0].tolist())
        if not ids:
            self._session.said.emit("None of the parts it is for is shown.")
            return
        cut = any(value is not None for key, value in rule if key == "fill" or key.startswith("hatch"))
        self._session.pick(elements=ids, at_cut=cut)
        self._session.said.emit(f"{self._words(rule)}. Change it under “Own look”")

    def _offer_looks(self) -> None:
        """The other looks of the project, and its scenes'."""
        self.looks.clear()
        project, own = self._session.project, plain_name(self._session.stage.look)
        names = {look.name for look in project.looks} | {scene.state.look.name for scene in project.scenes}
        for name in sorted(names - {own, ""}):
            self.looks.addAction(name).triggered.connect(lambda _=False, name=name: self._copy(name))
        if self.looks.isEmpty():
            self.looks.addAction("There is no other look in the project").setEnabled(False)

    def _copy(self, name: str) -> None:
        rule = self.current
        if rule is not None:
            said = f"{self._words(rule)}, in “{name}” too"
            self._session.apply(copy_rule(self._session.project, rule, frozenset({name})), said)
