"""The settings on one page, which a few letters narrow; what is set holds at once."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TypeVar

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QKeySequenceEdit,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSpinBox,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from anatome.app.base import units
from anatome.app.base.actions import Actions, key_words
from anatome.app.base.calm_fields import CalmFields
from anatome.app.base.entry import Entry
from anatome.app.base.work import Work, in_words
from anatome.app.commands.host import Host
from anatome.app.document import preferences as kept
from anatome.app.document.first_look import begin_with, first_look
from anatome.app.window.own_keys import OwnKeys
from anatome.formats.opening import cache_used, clear_cache, limit_cache
from anatome.look.shipped import shipped_looks
from anatome.problems import Problem
from anatome.scenes.project import Units

SIZE = (640, 740)
NAME = Qt.ItemDataRole.UserRole
T = TypeVar("T")
NO_KEY = "none"


class SettingsDialog(QDialog):
    """Sections of rows; those without the letters typed are hidden."""

    def __init__(self, host: Host, actions: Actions, keys: OwnKeys) -> None:
        super().__init__(host.widget)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Settings")
        self.resize(*SIZE)
        self._host, self._actions, self._keys = host, actions, keys
        self._calm = CalmFields(self)
        self._clearing = Work(self)
        self._rows: list[tuple[QWidget, QWidget, str]] = []
        """(a row, the section it is in, the words it is found by)."""
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 18, 12, 16)
        outer.setSpacing(12)
        self.search = QLineEdit(placeholderText="Search the settings and keys", clearButtonEnabled=True)
        self.search.textChanged.connect(self._narrow)
        outer.addWidget(self.search)
        held = QWidget()
        self._column = QVBoxLayout(held)
        self._column.setContentsMargins(0, 0, 12, 0)
        self._column.setSpacing(4)
        self._build_window()
        self._build_moving()
        self._build_work()
        self._build_models()
        self._build_keys()
        self.nothing = _words("No setting has these letters.", "soft")
        self.nothing.hide()
        self._column.addWidget(self.nothing)
        self._column.addStretch()
        scroll = QScrollArea()
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidgetResizable(True)
        scroll.setWidget(held)
        outer.addWidget(scroll, 1)
        for button in self.findChildren(QPushButton):
            button.setAutoDefault(False)  # Return is for the fields
        self._calm.watch(self)
        self.search.setFocus()

    # Building --------------------------------------------------------------------------------------------------

    def _section(self, title: str) -> QWidget:
        made = _words(title, "section")
        self._column.addSpacing(8)
        self._column.addWidget(made)
        return made

    def _row(self, section: QWidget, words: str, field: QWidget, tip: str) -> None:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(_words(words), 1)
        line.addWidget(field)
        field.setToolTip(tip)
        self._column.addWidget(row)
        self._rows.append((row, section, f"{words} {tip} {section.property('words')}".lower()))

    def _choice(
        self, section: QWidget, words: str, tip: str, offered: Mapping[str, T], now: T, run: Callable[[T], object]
    ) -> QComboBox:
        made = QComboBox()
        for name, value in offered.items():
            made.addItem(name, value)
        made.setCurrentIndex(max(made.findData(now), 0))
        made.setMinimumWidth(230)
        made.activated.connect(lambda i: run(made.itemData(i)))
        self._row(section, words, made, tip)
        return made

    def _build_window(self) -> None:
        host = self._host
        section = self._section("The window")
        kept_paper, either = (
            "The picture's own paper stays as it is",
            "Lengths, areas and volumes; either may be typed at any time",
        )
        themes, systems = {"Light": False, "Dark": True}, {"Metric": False, "Feet and inches": True}
        self.theme = self._choice(section, "Theme", kept_paper, themes, host.is_dark, host.set_dark)
        self.units = self._choice(section, "Units", either, systems, units.UNITS.feet, host.spoken.set_feet)

        if host.session.is_open:
            own: dict[str, Units] = {"As always": "", "Metric": "metric", "Feet and inches": "imperial"}
            tip = "Kept in the project: lengths, areas, papers and scales, for whoever opens it"
            self.own_units = self._choice(
                section, "Units of this project", tip, own, host.session.project.units, host.spoken.set_of_project
            )

        offered = {"ISO, and 1:50": False, 'In inches, and 1/4" = 1\'-0"': True}
        tip = "Which are offered; any may be typed"
        self.papers = self._choice(
            section, "Papers and scales", tip, offered, units.UNITS.inch_papers, host.spoken.set_inch_papers
        )

    def _build_moving(self) -> None:
        section = self._section("Moving about")
        square = "In a square view, a section or a plan, the two change places"
        drags = {"turns the view, with Shift shifts it": False, "shifts the view, with Shift turns it": True}
        wheels = {"forwards goes nearer": False, "backwards goes nearer": True}
        self.drag = self._choice(section, "A drag", square, drags, kept.drag_shifts(), kept.set_drag_shifts)
        self.wheel = self._choice(section, "The wheel", "", wheels, kept.wheel_sign() < 0, kept.set_wheel_back)
        speeds = {"slowly": kept.SLOW, "as usual": kept.USUAL, "fast": kept.FAST}
        self.turning = self._choice(section, "The view turns", "With a drag", speeds, kept.turning(), kept.set_turning)

    def _build_work(self) -> None:
        section = self._section("How one works")
        tip, run = "What it does to the cuts that are on", self._set(kept.set_new_cut_alone)
        does = {"leaves the others on, and offers": False, "switches the others off": True}
        self.new_cut = self._choice(section, "A new cut", tip, does, kept.new_cut_alone(), run)
        self.others = QCheckBox()
        self.others.setChecked(kept.other_scenes_drawn())
        self.others.clicked.connect(self._set(kept.set_other_scenes_drawn))
        self._row(section, "Other scenes in the key drawings", self.others, "Their cameras and cuts, drawn quietly")
        lengths = {"at once": 0.0, "in 0.6 seconds": 0.6, "in 1.2 seconds": kept.USUAL_TRANSITION, "in 2.5 seconds": 2.5}
        tip, now = "Camera, cuts and looks are under way between them; any press or key stops them", kept.transition_seconds()
        self.transition = self._choice(section, "From scene to scene", tip, lengths, now, kept.set_transition_seconds)
        looks = {name: name for name in shipped_looks()}
        own = first_look().name
        looks = looks if own in looks else {own or "A look of my own": own, **looks}
        self.look = self._choice(section, "A new project begins with the look", "", looks, own, self._begin_with)

    def _build_models(self) -> None:
        section = self._section("Opened models")
        self.limit = QSpinBox()
        self.limit.setRange(1, 200)
        self.limit.setSuffix(" GB")
        self.limit.setMinimumWidth(96)
        self.limit.setValue(kept.cache_gigabytes())
        self.limit.valueChanged.connect(self._limit)
        self._row(section, "What is kept of them takes at most", self.limit, "So that they open at once the next time")
        self.clear = QPushButton()
        self.clear.clicked.connect(self._clear)
        self._row(section, "What is kept now", self.clear, "Models are read anew the next time; no project is touched")
        self._show_used()
        section = self._section("Films and pages")
        self.workers = QLineEdit(kept.workers_address(), placeholderText="this machine alone")
        self.workers.setMinimumWidth(190)
        self.workers.editingFinished.connect(lambda: kept.set_workers_address(self.workers.text()))
        tip = "Address of a dask scheduler whose workers draw their pictures, such as tcp://host:8786"
        self._row(section, "They are drawn by the workers of", self.workers, tip)

    def _build_keys(self) -> None:
        section = self._section("Keys")
        self.keys = QTreeWidget(columnCount=2)
        self.keys.setHeaderHidden(True)
        self.keys.setRootIsDecorated(False)
        self.keys.setUniformRowHeights(True)
        self.keys.setFixedHeight(212)
        self.keys.header().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.keys.header().setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self.keys.header().setStretchLastSection(False)
        self.keys.setToolTip("Pick a command, then press the key you want for it")
        self._column.addWidget(self.keys)
        self._rows.append((self.keys, section, ""))
        self.key = QKeySequenceEdit()
        self.key.setMaximumSequenceLength(1)
        self.key.setClearButtonEnabled(True)
        self.key.editingFinished.connect(self._typed)
        self.back = QPushButton("As it comes")
        self.back.clicked.connect(self._back)
        every = QPushButton("All as they come")
        every.clicked.connect(self._all_back)
        self.chosen = _words("Pick a command in the list to give it another key.", "soft")
        self.chosen.setWordWrap(True)
        row = QHBoxLayout()
        row.setSpacing(6)
        for widget in (self.key, self.back, every):
            row.addWidget(widget)
        self._column.addWidget(self.chosen)
        self._column.addLayout(row)
        self.problem = _words("", "warning")
        self.problem.setWordWrap(True)
        self.take = QPushButton("Take it from there")
        self.take.clicked.connect(self._take)
        self._column.addWidget(self.problem)
        self._column.addWidget(self.take, 0, Qt.AlignmentFlag.AlignLeft)
        self._wanted: tuple[Entry, QKeySequence, Entry] | None = None
        entries = (e for e in self._actions.entries() if e.group or e.key)
        for entry in sorted(entries, key=lambda e: e.text):
            item = QTreeWidgetItem([entry.text, ""])
            item.setData(0, NAME, entry.name)
            item.setToolTip(0, entry.tip)
            self.keys.addTopLevelItem(item)
        self.keys.currentItemChanged.connect(lambda *_: self._pick())
        self._show_keys()
        self._say("")
        self._pick()

    # Setting ---------------------------------------------------------------------------------------------------

    def _set(self, run: Callable[[bool], None]) -> Callable[[bool], None]:
        def done(on: bool) -> None:
            run(on)
            self._host.session.picked_changed.emit()  # menus and drawings show it

        return done

    def _begin_with(self, name: str) -> None:
        look = shipped_looks().get(name)
        try:
            if look is not None:
                begin_with(look)
        except Problem as problem:
            self._say(str(problem))

    def _limit(self, gigabytes: int) -> None:
        kept.set_cache_gigabytes(gigabytes)
        limit_cache(gigabytes * 10**9)

    def _show_used(self) -> None:
        self.clear.setEnabled(True)
        self.clear.setText(f"{cache_used() / 1e9:.2f} GB. Clear")

    def _clear(self) -> None:
        self.clear.setEnabled(False)
        self.clear.setText("Clearing…")
        self._clearing.run(lambda progress: clear_cache(), lambda _: self._show_used(), self._not_cleared)

    def _not_cleared(self, error: Exception) -> None:
        self._show_used()
        self._host.tell(in_words(error), "What is kept of models")

    # Keys ------------------------------------------------------------------------------------------------------

    @property
    def entry(self) -> Entry | None:
        """The command that is picked in the list."""
        item = self.keys.currentItem()
        return None if item is None else self._actions.entry(item.data(0, NAME))

    def _pick(self) -> None:
        entry = self.entry
        self.key.setEnabled(entry is not None)
        self.back.setEnabled(entry is not None and self._keys.is_own(entry.name))
        if entry is not None:
            self.chosen.setText(f"{entry.text}: {entry.tip}")
            self.key.setKeySequence(self._actions[entry.name].shortcut())

    def _typed(self) -> None:
        entry, key = self.entry, self.key.keySequence()
        if entry is not None and key != self._actions[entry.name].shortcut():
            self._give(entry, key)

    def _give(self, entry: Entry, key: QKeySequence) -> None:
        """Give a command a key, unless another one has it: then it is said whose it is."""
        other = self._keys.holder(key, entry.name)
        if other is None:
            self._keys.set(entry.name, key)
            self._say("")
            self._show_keys()
            self._pick()
            return
        self._wanted = entry, key, other
        self._pick()
        self._say(f"{key.toString()} is the key of “{other.text}”. “{entry.text}” keeps {self._key_of(entry)}.")
        self.take.show()

    def _take(self) -> None:
        if self._wanted is None:
            return
        entry, key, other = self._wanted
        self._keys.set(entry.name, key, other)
        self._say(f"{key.toString()} is “{entry.text}” now; “{other.text}” has {self._key_of(other)}.")
        self._show_keys()
        self._pick()

    def _back(self) -> None:
        """As it comes; whoever has one of its keys now is asked for it first."""
        entry = self.entry
        if entry is None:
            return
        taken = next((key for key in self._actions.keys_it_comes_with(entry.name) if self._keys.holder(key, entry.name)), None)
        if taken is not None:
            self._give(entry, taken)
            return
        self._keys.reset(entry.name)
        self._say("")
        self._show_keys()
        self._pick()

    def _all_back(self) -> None:
        self._keys.reset()
        self._say("")
        self._show_keys()
        self._pick()

    def _key_of(self, entry: Entry) -> str:
        return key_words(self._actions[entry.name]) or NO_KEY

    def _show_keys(self) -> None:
        for item in self._items():
            name = item.data(0, NAME)
            item.setText(1, key_words(self._actions[name]))
            font = item.font(0)
            font.setBold(self._keys.is_own(name))
            item.setFont(1, font)

    def _items(self) -> list[QTreeWidgetItem]:
        found = (self.keys.topLevelItem(i) for i in range(self.keys.topLevelItemCount()))
        return [item for item in found if item is not None]

    def _say(self, words: str) -> None:
        self.problem.setText(words)
        self.problem.setVisible(bool(words))
        self.take.hide()

    def _narrow(self, text: str) -> None:
        wanted = text.lower().split()
        seen: dict[QWidget, bool] = {}
        some = False
        for item in self._items():
            shown = all(word in f"{item.text(0)} {item.toolTip(0)} {item.text(1)} keys".lower() for word in wanted)
            item.setHidden(not shown)
            some = some or shown
        for row, section, words in self._rows:
            if row is self.keys:
                row.setVisible(some)
                seen[section] = some
                continue
            shown = all(word in words for word in wanted)
            row.setVisible(shown)
            seen[section] = seen.get(section, False) or shown
        for section, shown in seen.items():
            section.setVisible(shown)
        self.nothing.setVisible(not any(seen.values()))


def _words(text: str, role: str = "") -> QLabel:
    made = QLabel(text)
    made.setProperty("words", text)
    if role:
        made.setProperty("role", role)
    return made
