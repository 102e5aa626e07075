"""Where the stage and the key drawings stand: a key drawing changes places with the stage; how wide each is, is kept."""

from __future__ import annotations

from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QSplitter

from anatome.app.key_drawings.kinds import KeyPanel
from anatome.app.stage.stage import Stage

STAGE = 1
"""The place of the stage between the panels."""


class Places:
    """Only one key drawing at a time stands in the stage's place; the stage then stands in its panel."""

    def __init__(self, middle: QSplitter, panels: QSplitter, stage: Stage, settings: QSettings) -> None:
        self._middle, self._panels, self._stage, self._settings = middle, panels, stage, settings
        self.grown: KeyPanel | None = None
        self._counts = {name: splitter.count() for name, splitter in (("middle", middle), ("panels", panels))}
        for name, splitter in (("middle", middle), ("panels", panels)):
            kept = settings.value(f"split {name}")
            sizes = [int(size) for size in kept] if isinstance(kept, list) and len(kept) == splitter.count() else []
            if sizes and all(size > 0 for size in sizes):
                splitter.setSizes(sizes)
            splitter.splitterMoved.connect(lambda _pos, _index, name=name, of=splitter: self._keep(name, of))

    def _keep(self, name: str, splitter: QSplitter) -> None:
        """Remember how the room is divided, but not while a panel is folded away, or one more stands there."""
        if all(splitter.sizes()) and splitter.count() == self._counts[name]:
            self._settings.setValue(f"split {name}", splitter.sizes())

    def swap(self, panel: KeyPanel | None) -> None:
        """Let a panel's drawing and the stage change places; None, or the same one again, puts both back."""
        before, self.grown = self.grown, None
        if before is not None:
            self._change(before, back=True)
        if panel is not None and panel is not before:
            self.grown = panel
            self._change(panel, back=False)

    def _change(self, panel: KeyPanel, back: bool) -> None:
        sizes = self._middle.sizes()
        large, small = (self._stage, panel.drawing) if back else (panel.drawing, self._stage)
        self._middle.replaceWidget(STAGE, large)
        panel.take(small)
        panel.show_grown(not back)
        self._stage.setMinimumSize(*((320, 240) if back else (160, 110)))
        for widget in (large, small):
            widget.show()
        self._middle.setStretchFactor(STAGE, 1)
        self._middle.setSizes(sizes)
        panel.drawing.fit()
        large.setFocus()
