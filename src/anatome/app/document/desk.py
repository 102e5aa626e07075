"""Which sheet is open, and what of it is picked. Opening one is no step to undo; what is done on it is."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QObject, Signal

from anatome.app.document.session import Session
from anatome.scenes import sheet_edits
from anatome.scenes.sheet_frames import number_of
from anatome.sheets.sheet import AnyBlock, SceneFrame, Sheet


class Desk(QObject):
    """``changed``: another sheet is open, or none."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._open: str | None = None
        self._last: str | None = None
        for signal in (session.opened, session.closed):
            signal.connect(self.close)
        session.changed.connect(self._follow)

    def _follow(self) -> None:
        """A sheet that is gone is no longer open."""
        if self._open is not None and self.sheet is None:
            self.close()

    @property
    def sheet(self) -> Sheet | None:
        """The sheet that is open."""
        return self._session.project.sheet(self._open) if self._session.is_open else None

    @property
    def blocks(self) -> tuple[AnyBlock, ...]:
        """What is picked, in the order it was."""
        sheet = self.sheet
        return () if sheet is None else tuple(b for i in self._session.picked.blocks if (b := sheet.block(i)) is not None)

    @property
    def frames(self) -> tuple[SceneFrame, ...]:
        """The scenes among it."""
        return tuple(b for b in self.blocks if isinstance(b, SceneFrame))

    def open(self, sheet_id: str) -> None:
        """Have a sheet in the place of the stage."""
        if sheet_id != self._open:
            self._open = self._last = sheet_id
            self._session.pick()
            self.changed.emit()
            sheet = self.sheet
            if sheet is not None:
                self._session.said.emit(f"Sheet {number_of(sheet, self._session.project)}: {sheet.name}")

    def open_last(self) -> None:
        """The one that was open last, or the first."""
        sheets = self._session.project.sheets
        if sheets:
            self.open(self._last if self._session.project.sheet(self._last) is not None and self._last else sheets[0].id)

    def close(self) -> None:
        """The stage again."""
        if self._open is not None:
            self._open = None
            self._session.pick()
            self.changed.emit()

    def put(self, sheet: Sheet, said: str, merge: str | None = None) -> None:
        """A step on a sheet."""
        self._session.apply(sheet_edits.put_sheet(self._session.project, sheet), said, merge=merge)

    def put_blocks(self, blocks: Iterable[AnyBlock], said: str, merge: str | None = None) -> None:
        """A step on some of its blocks."""
        sheet = self.sheet
        if sheet is not None:
            self.put(sheet_edits.put_blocks(sheet, blocks), said, merge)
