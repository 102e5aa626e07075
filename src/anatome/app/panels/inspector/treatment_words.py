"""What cuts do to elements, in the words of the interface."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox

from anatome.cuts.treatment import TREATMENTS, Treatment

TREATMENT_WORDS: dict[Treatment, str] = {
    "slice": "Slice",
    "by centre": "Whole if behind",
    "keep whole": "Keep whole",
    "leave out": "Leave out",
}
TREATMENT_TIPS: dict[Treatment, str] = {
    "slice": "The cut goes through it",
    "by centre": "Kept whole where its middle lies behind the cut, else left out",
    "keep whole": "The cut passes it by",
    "leave out": "It goes altogether where a cut would slice it",
}
AS_BY_TYPE = "As said for their type"


def fill_treatments(choice: QComboBox) -> None:
    """Offer all of them, each with what it means."""
    for does in TREATMENTS:
        choice.addItem(TREATMENT_WORDS[does], does)
        choice.setItemData(choice.count() - 1, TREATMENT_TIPS[does], Qt.ItemDataRole.ToolTipRole)
