"""What a subject says of each of its commands."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace


@dataclass(frozen=True)
class Entry:
    """``key`` in Qt's notation, alternatives divided by “|”; ``needs`` what must be there: ``nothing``, ``project``, ``cut`` …

    ``menu`` is the menu in the header it stands in, ``within`` a menu in that one, ``group`` what it belongs to there and
    in the list of keys. ``stage_menu`` commands are in the menu of the stage too. One that is ``ticked``
    shows whether it is on; a ``task`` begins something to be picked or drawn, and is on until that is done.
    """

    name: str
    text: str
    tip: str
    run: Callable[[], object]
    key: str = ""
    icon: str = ""
    needs: str = "project"
    menu: str = ""
    within: str = ""
    group: str = ""
    stage_menu: bool = False
    task: bool = False
    ticked: Callable[[], bool] | None = None


def group(name: str, menu: str, *entries: Entry, within: str = "") -> list[Entry]:
    """Entries that belong together, in a menu."""
    return [replace(e, group=name, menu=e.menu or menu, within=e.within or within) for e in entries]
