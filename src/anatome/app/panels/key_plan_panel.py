"""The key plan with its heading and the choice of the storey it is cut through."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from anatome.app.panels.key_plan import KeyPlan
from anatome.app.session import Session


class KeyPlanPanel(QWidget):
    """Lists the storeys of the open building, highest first."""

    def __init__(self, session: Session, key_plan: KeyPlan) -> None:
        super().__init__()
        self._session = session
        title = QLabel("Key plan")
        title.setProperty("role", "section")
        self.storeys = QComboBox()
        self.storeys.setToolTip("The storey the key plan is cut through, 1.2 m above its floor")
        self.storeys.activated.connect(lambda i: key_plan.show_storey(self.storeys.itemData(i)))
        head = QHBoxLayout()
        head.addWidget(title)
        head.addStretch()
        head.addWidget(self.storeys)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 10, 8, 8)
        column.setSpacing(6)
        column.addLayout(head)
        column.addWidget(key_plan, 1)
        session.opened.connect(self.fill)

    def fill(self) -> None:
        """Take the storeys of the building that is open."""
        building = self._session.building
        assert building is not None
        self.storeys.clear()
        for i in reversed(range(len(building.storeys))):
            storey = building.storeys[i]
            self.storeys.addItem(f"{storey.name}  {storey.elevation:+.2f}", i)
        self.storeys.setVisible(bool(building.storeys))
        self.storeys.setCurrentIndex(max(self.storeys.findData(self._session.plan_storey), 0))
