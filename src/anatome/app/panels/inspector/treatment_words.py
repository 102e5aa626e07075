"""What cuts do to elements, in the words of the interface."""

from __future__ import annotations

from anatome.cuts.treatment import Treatment

TREATMENT_WORDS: dict[Treatment, str] = {
    "slice": "Slice",
    "by centre": "Whole behind the cut, else out",
    "keep whole": "Keep whole",
    "leave out": "Leave out",
}
AS_BY_TYPE = "As said for their type"
