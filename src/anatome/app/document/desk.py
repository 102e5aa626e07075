"""Which sheet is open, and what of it is picked. Opening one is no step to undo; what is done on it is."""

from __future__ import annotations

from collections.abc import Iterable

from anatome.app.document.open_one import OpenOne
from anatome.scenes import sheet_edits
from anatome.scenes.sheet_frames import number_of
from anatome.sheets.sheet import AnyBlock, SceneFrame, Sheet


class Desk(OpenOne[Sheet]):
    """``changed``: another sheet is open in the place of the stage, or none."""

    def _all(self) -> tuple[Sheet, ...]:
        return self._session.project.sheets

    @property
    def sheet(self) -> Sheet | None:
        """The sheet that is open."""
        return self.opened

    @property
    def blocks(self) -> tuple[AnyBlock, ...]:
        """What is picked, in the order it was."""
        sheet = self.sheet
        return () if sheet is None else tuple(b for i in self._session.picked.blocks if (b := sheet.block(i)) is not None)

    @property
    def frames(self) -> tuple[SceneFrame, ...]:
        """The scenes among it."""
        return tuple(b for b in self.blocks if isinstance(b, SceneFrame))

    def open(self, one_id: str) -> None:
        """Have a sheet in the place of the stage."""
        known = self._open
        super().open(one_id)
        sheet = self.sheet
        if sheet is not None and one_id != known:
            self._session.said.emit(f"Sheet {number_of(sheet, self._session.project)}: {sheet.name}")

    def put(self, sheet: Sheet, said: str, merge: str | None = None) -> None:
        """A step on a sheet."""
        self._session.apply(sheet_edits.put_sheet(self._session.project, sheet), said, merge=merge)

    def put_blocks(self, blocks: Iterable[AnyBlock], said: str, merge: str | None = None) -> None:
        """A step on some of its blocks."""
        sheet = self.sheet
        if sheet is not None:
            self.put(sheet_edits.put_blocks(sheet, blocks), said, merge)
