"""Whether the picture is a still, how fine its light is, and how far it has come."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QProgressBar, QWidget

from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.numbers import CountBox
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import bare_column, label
from anatome.app.stage.tracing import Tracing
from anatome.raytracing.still import USUAL_SAMPLES
from anatome.scenes.look_edits import set_still
from anatome.scenes.project import MOST_SAMPLES


class StillBox(QWidget):
    """Shows and changes the still of the stage. Being one is part of the scene; how far it is is not."""

    def __init__(self, session: Session, actions: Actions, tracing: Tracing) -> None:
        super().__init__()
        self._session, self._tracing = session, tracing
        column = bare_column(self)
        row = QHBoxLayout()
        row.setSpacing(8)
        self.on = QCheckBox("Ray-traced")
        self.on.setToolTip(actions["still"].toolTip())
        self.on.clicked.connect(actions["still"].trigger)
        self.samples = CountBox()
        self.samples.setRange(1, MOST_SAMPLES)
        self.samples.setSuffix(" samples")
        self.samples.setKeyboardTracking(False)
        self.samples.setToolTip("The more, the less grain; the time grows with them")
        self.samples.valueChanged.connect(self._choose)
        row.addWidget(self.on)
        row.addWidget(self.samples)
        column.addLayout(row)
        self.bar = QProgressBar(textVisible=False, maximum=1000)
        column.addWidget(self.bar)
        self.note = label("", "soft")
        column.addWidget(self.note)
        self.pause = panel_button(actions["still_stop"], "Stop")
        column.addWidget(self.pause)
        tracing.news.connect(self.refresh)

    def _choose(self, samples: int) -> None:
        session = self._session
        if session.is_open and session.stage.still not in (0, samples):
            session.apply(set_still(session.project, samples), f"The still has {samples} samples", merge="still samples")

    def refresh(self) -> None:
        """Show it as it is now."""
        if not self._session.is_open:
            return
        wanted, tracing = self._session.stage.still, self._tracing
        self.on.setChecked(wanted > 0)
        self.samples.blockSignals(True)
        self.samples.setValue(wanted or USUAL_SAMPLES)
        self.samples.blockSignals(False)
        self.samples.setEnabled(wanted > 0)
        self.bar.setVisible(wanted > 0 and tracing.at_work)
        self.bar.setValue(round(1000 * tracing.share))
        self.note.setVisible(wanted > 0)
        self.note.setText(tracing.words())
        self.pause.setVisible(wanted > 0 and (tracing.at_work or tracing.stopped))
        self.pause.setText("Go on" if tracing.stopped else "Stop")
