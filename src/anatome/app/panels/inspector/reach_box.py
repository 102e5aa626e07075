"""What the picked cut reaches, and the ways to change it."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from anatome.app.base.actions import Actions, panel_button
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import Choices, bare_column, label
from anatome.cuts.reach import Reach
from anatome.model.building import WITHIN, Building
from anatome.model.selection import Selection
from anatome.scenes import edits
from anatome.words import plain_type

MODES = (
    ("everything", "All", "It cuts whatever it meets"),
    ("only", "Only these", "It cuts only what is chosen; all else stays whole"),
    ("all but", "All but these", "It cuts everything but what is chosen"),
)


def reach_words(reach: Reach, building: Building) -> str:
    """Return what a cut reaches, in a sentence."""
    if reach.mode == "everything":
        return "Affects everything."
    what = reach.what
    parts = [plain_type(t).lower() for t in sorted(what.types)]
    parts += sorted(what.layers) + sorted(what.materials) + [f"the group {g.rpartition(WITHIN)[2]}" for g in sorted(what.groups)]
    parts += [s.name for s in building.storeys if s.id in what.storeys]
    parts += [f"named “{word}”" for word in sorted(what.words)]
    chosen = [building.elements[building.index_of[i]] for i in sorted(what.elements) if i in building.index_of]
    layers = {e.layer for e in chosen}
    if len(chosen) > 2 and len(layers) == 1 and "" not in layers:
        parts += [f"{len(chosen)} parts on layer {layers.pop()}"]
    elif what.elements:
        first = [e.name for e in chosen][:2]
        more = len(what.elements) - len(first)
        parts += [", ".join(first) + (f" and {more} more" if more else "")]
    said = ", ".join(parts) or "nothing yet"
    count = int(what.mask(building).sum())
    return f"Affects {'only' if reach.mode == 'only' else 'all but'} {said} ({count} part{'s' * (count != 1)})."


def _groups(building: Building) -> dict[str, str]:
    """The groups of a model by their paths, each further in than the one round it."""
    paths = sorted({path for e in building.elements for path in e.groups}, key=str.lower)
    return {path: "    " * path.count(WITHIN) + path.rpartition(WITHIN)[2] for path in paths}


class ReachBox(QWidget):
    """Three choices, a sentence, and two ways to choose."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        column = bare_column(self)
        self.modes = Choices(MODES, self._mode)
        column.addWidget(self.modes)
        self.words = label("", "soft")
        column.addWidget(self.words)
        row = QHBoxLayout()
        row.setSpacing(4)
        self.pick = panel_button(actions["reach_pick"], "Pick parts")
        self.lists = QPushButton("From lists…")
        self.lists.setToolTip("Choose by type, layer, material, group or storey, or by a word in the name")
        self.lists.clicked.connect(self.choose)
        row.addWidget(self.pick)
        row.addWidget(self.lists)
        column.addLayout(row)

    def _mode(self, mode: str) -> None:
        cut = self._session.cut
        if cut is not None:
            self.change(Reach.model_validate({"mode": mode, "what": cut.reach.what}))

    def change(self, reach: Reach) -> None:
        """Give the picked cut another reach; the planes of a peel each keep their own."""
        cut, building = self._session.cut, self._session.building
        if cut is not None and building is not None:
            project = edits.change_cut(self._session.project, cut.id, reach=reach)
            self._session.apply(project, f"{cut.name}: {reach_words(reach, building)[:-1].lower()}")

    def choose(self) -> None:
        """Open the lists."""
        cut, building = self._session.cut, self._session.building
        if cut is not None and building is not None:
            dialog = ReachDialog(self, building, cut.reach)
            dialog.accepted.connect(lambda: self.change(dialog.reach()))
            dialog.open()

    def refresh(self) -> None:
        cut, building = self._session.cut, self._session.building
        if cut is None or building is None:
            return
        self.modes.show_choice(cut.reach.mode)
        self.words.setText(reach_words(cut.reach, building))
        self.words.setVisible(cut.reach.mode != "everything")


class ReachDialog(QDialog):
    """Types, layers, materials, groups and storeys with ticks, and words in names."""

    def __init__(self, parent: QWidget, building: Building, reach: Reach) -> None:
        super().__init__(parent)
        self.setWindowTitle("What the cut affects")
        self.setMinimumSize(420, 460)
        self._before = reach
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 20, 24, 20)
        column.setSpacing(10)
        heading = QLabel("What the cut affects")
        heading.setProperty("role", "title")
        column.addWidget(heading)
        mode = "only" if reach.mode == "everything" else reach.mode
        self._mode: Any = mode
        self.modes = Choices(MODES[1:], self._set_mode)
        self.modes.show_choice(mode)
        column.addWidget(self.modes)
        self.tabs = QTabWidget()
        what = reach.what
        elements = building.elements
        self.lists = {
            "types": self._list({t: f"{plain_type(t)}  ({n})" for t, n in building.type_counts.items()}, what.types),
            "layers": self._list({e.layer: e.layer for e in elements if e.layer}, what.layers),
            "materials": self._list({e.material: e.material for e in elements if e.material}, what.materials),
            "groups": self._list(_groups(building), what.groups, ordered=True),
            "storeys": self._list({s.id: s.name for s in reversed(building.storeys)}, what.storeys, ordered=True),
        }
        for name, made in self.lists.items():
            if made.count():
                self.tabs.addTab(made, name.capitalize())
        column.addWidget(self.tabs, 1)
        self.words = QLineEdit(", ".join(sorted(what.words)))
        self.words.setPlaceholderText("Words in names, with commas between them")
        self.words.setToolTip("Every part is meant whose name contains one of these words")
        column.addWidget(self.words)
        self.picked = QPushButton(f"Forget the {len(what.elements)} parts picked one by one")
        self.picked.setCheckable(True)
        self.picked.setVisible(bool(what.elements))
        column.addWidget(self.picked)
        buttons = QDialogButtonBox()
        buttons.addButton("Use these", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)

    def _set_mode(self, mode: str) -> None:
        self._mode = mode

    @staticmethod
    def _list(entries: dict[str, str], ticked: frozenset[str], ordered: bool = False) -> QListWidget:
        made = QListWidget()
        for key in entries if ordered else sorted(entries, key=lambda k: entries[k].lower()):
            item = QListWidgetItem(entries[key])
            item.setData(Qt.ItemDataRole.UserRole, key)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if key in ticked else Qt.CheckState.Unchecked)
            made.addItem(item)
        return made

    def reach(self) -> Reach:
        """Return what is ticked and typed."""
        chosen: dict[str, frozenset[str]] = {}
        for name, made in self.lists.items():
            items = [made.item(i) for i in range(made.count())]
            chosen[name] = frozenset(i.data(Qt.ItemDataRole.UserRole) for i in items if i.checkState() == Qt.CheckState.Checked)
        words = frozenset(w.strip() for w in self.words.text().split(",") if w.strip())
        elements = frozenset() if self.picked.isChecked() else self._before.what.elements
        return Reach(mode=self._mode, what=Selection(elements=elements, words=words, **chosen))
