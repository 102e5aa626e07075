"""What a look says of some parts, or what is laid over it in this scene: listed, switched, deleted one by one."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QVBoxLayout, QWidget

from anatome.app.base.rule_words import rule_words, who_words
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import away_button, bare_column, clear, label
from anatome.look.look import Rule
from anatome.scenes.look_edits import change_look, set_overrides

LONGEST = 26
"""Letters that are shown of a row; the rest is in its tooltip."""


class RulesBox(QWidget):
    """Shown where there are any."""

    def __init__(self, session: Session, in_look: bool) -> None:
        super().__init__()
        self._session, self._in_look = session, in_look
        self._shown: object = None
        column = bare_column(self)
        words = "Of some parts, in this look" if in_look else "Laid over the look, in this scene alone"
        column.addWidget(label(words, "soft"))
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        column.addLayout(self.rows)

    def refresh(self) -> None:
        """List them."""
        rules, building = self._rules, self._session.building
        self.setVisible(bool(rules))
        if building is None or (rules, id(building)) == self._shown:
            return
        self._shown = rules, id(building)  # a panel keeps no building
        clear(self.rows)
        for number, rule in enumerate(rules):
            row = QHBoxLayout()
            row.setSpacing(4)
            words = f"{who_words(rule.who, building)}: {rule_words(rule)}"
            box = QCheckBox(words if len(words) <= LONGEST else words[: LONGEST - 1] + "…")
            box.setToolTip(f"{words}. Off: as the look has it")
            box.setChecked(rule.on)
            box.clicked.connect(lambda on, number=number, words=words: self._switch(number, words, on))
            away = away_button("Delete it")
            away.clicked.connect(lambda _=False, number=number, words=words: self._take(number, words))
            row.addWidget(box, 1)
            row.addWidget(away)
            self.rows.addLayout(row)

    @property
    def _rules(self) -> tuple[Rule, ...]:
        stage = self._session.stage
        return stage.look.rules if self._in_look else stage.overrides

    def _set(self, rules: tuple[Rule, ...], said: str) -> None:
        project = self._session.project
        self._session.apply(change_look(project, rules=rules) if self._in_look else set_overrides(project, rules), said)

    def _switch(self, number: int, words: str, on: bool) -> None:
        rules = self._rules
        changed = rules[number].model_copy(update={"on": on})
        self._set((*rules[:number], changed, *rules[number + 1 :]), f"{words}, {'on' if on else 'off'}")

    def _take(self, number: int, words: str) -> None:
        rules = self._rules
        self._set((*rules[:number], *rules[number + 1 :]), f"Deleted: {words}")
