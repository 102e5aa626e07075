"""Two looks in one picture: what divides them, and the other look."""

from __future__ import annotations

from PySide6.QtWidgets import QFormLayout, QWidget

from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.numbers import NumberField
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import bare_column, label, narrow_choice
from anatome.app.stage.divide_task import other_look
from anatome.look.divide import Divide, DivideBy
from anatome.look.look import Look
from anatome.look.shipped import shipped_looks
from anatome.model.selection import Selection
from anatome.scenes.look_edits import set_divide

WAYS: tuple[tuple[DivideBy | None, str], ...] = (
    (None, "One look"),
    ("line", "A line on the picture"),
    ("depth", "A depth"),
    ("parts", "The picked parts"),
)


class DivideBox(QWidget):
    """Shows and changes the divide of the stage. Every change is a step to undo."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session, self._actions = session, actions
        self._looks: tuple[Look, ...] = ()
        column = bare_column(self)
        self.form = QFormLayout()
        self.form.setVerticalSpacing(4)
        self.way = narrow_choice()
        for key, words in WAYS:
            self.way.addItem(words, key)
        self.way.activated.connect(self._choose_way)
        self.other = narrow_choice()
        self.other.activated.connect(lambda row: self._change(f"The other look: {self._looks[row].name}", other=self._looks[row]))
        self.far = NumberField("m", 0.5, below_zero=False)
        self.far.setToolTip("What is farther off than that, from the eye, has the other look")
        for signal in (self.far.entered, self.far.nudged):
            signal.connect(lambda value: self._change("The depth of the divide", "divide depth", depth=value))
        self.form.addRow("Divided by", self.way)
        self.form.addRow("Beyond it", self.other)
        self.form.addRow("From", self.far)
        column.addLayout(self.form)
        self.draw = panel_button(actions["divide"], "Draw the line")
        column.addWidget(self.draw)
        self.note = label("", "soft")
        column.addWidget(self.note)

    def _choose_way(self, row: int) -> None:
        session, by = self._session, self.way.itemData(row)
        if by is None:
            if session.stage.divide is not None:
                session.apply(set_divide(session.project, None), "One look")
            return
        if by == "line":
            self.refresh()
            self._actions["divide"].trigger()
            return
        if by == "parts" and not session.picked.elements:
            session.said.emit("Pick the parts that are to have the other look, then choose this again.")
            self.refresh()
            return
        camera = session.stage.camera
        depth = sum((a - b) ** 2 for a, b in zip(camera.eye, camera.target)) ** 0.5
        parts = Selection(elements=session.picked.elements) if by == "parts" else Selection()
        divide = Divide(other=other_look(session), by=by, depth=depth, parts=parts)
        session.apply(set_divide(session.project, divide), f"Two looks, divided by {self.way.itemText(row).lower()}")

    def _change(self, said: str, merge: str | None = None, **changes: object) -> None:
        session, divide = self._session, self._session.stage.divide
        if divide is not None:
            changed = Divide.model_validate(dict(divide) | changes)
            session.apply(set_divide(session.project, changed), said, merge=merge)

    def refresh(self) -> None:
        """Show the divide as it is now."""
        session, divide = self._session, self._session.stage.divide
        self.way.setCurrentIndex([key for key, _ in WAYS].index(divide.by if divide else None))
        looks = (*session.project.looks, *shipped_looks().values())
        if divide is not None and divide.other not in looks:
            looks = (divide.other, *looks)
        if looks != self._looks:
            self._looks = looks
            self.other.clear()
            self.other.addItems([look.name or "Own look" for look in looks])
        by = None if divide is None else divide.by
        self.form.setRowVisible(self.other, divide is not None)
        self.form.setRowVisible(self.far, by == "depth")
        self.draw.setVisible(by == "line")
        self.note.setVisible(by == "parts")
        if divide is not None:
            self.other.setCurrentIndex(self._looks.index(divide.other))
            self.far.show_value(divide.depth)
            count = len(divide.parts.elements)
            self.note.setText(f"{count} {'part has' if count == 1 else 'parts have'} the other look")
