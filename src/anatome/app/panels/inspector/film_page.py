"""The open film and its picked shot: what moves, of which scene, how long, and what is written."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QCheckBox, QComboBox, QFormLayout, QGridLayout, QLineEdit, QPlainTextEdit, QWidget

from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.numbers import NumberField
from anatome.app.commands.films import FilmCommands
from anatome.app.document.film_desk import FilmDesk
from anatome.app.document.session import Session
from anatome.app.films.shot_words import MOVES, seconds_words
from anatome.app.panels.inspector.page import Page, label, narrow_choice
from anatome.look.look import Look
from anatome.look.shipped import shipped_looks
from anatome.scenes.film import LONGEST_SHOT, AnyShot, Card, LookShot, Way

FIELDS_TIP = "Fields in braces say what title blocks do: {project}, {organisation}, {date}, {drawn}, {film}, and {scene}"
HINT = "A click on a shot shows its moment. Drag shots to put them in order, with Ctrl a copy; drag the end of one to trim it."
AHEAD, MIDDLE = "Where it goes", "The middle of the building"
OF_MOVES = {
    **{
        "rise": ("resting", "by_parts"),
        "sweep": ("resting",),
        "turn": ("degrees",),
        "day": ("begins", "ends"),
        "look": ("look", "wiped"),
    },
    **{"walk": ("at",), "fly": ("at", "height_begins", "height_ends"), "card": ("heading", "words")},
}
"""Rows that a move has besides those of all."""
EVERY_ROW = tuple(dict.fromkeys(name for names in OF_MOVES.values() for name in names))
NEVER_EVEN = ("card", "hold", "travel", "day")
WORDS_HIGH = 74


class FilmPage(Page):
    """Every change is a step to undo."""

    def __init__(self, session: Session, desk: FilmDesk, actions: Actions, commands: FilmCommands) -> None:
        super().__init__()
        self._session, self._desk, self._actions, self._commands = session, desk, actions, commands
        self.title = label("", "title")
        self.facts = label("", "soft")
        self.column.addWidget(self.title)
        self.column.addWidget(self.facts)
        self.form = QFormLayout()
        self.form.setVerticalSpacing(5)
        self._filling = False
        self._build_rows()
        self.column.addLayout(self.form)
        self.film_buttons = self._buttons(
            ("new_film", None), ("film_through", "Of all scenes"), ("copy_film", "Duplicate"), ("take_film", "Delete")
        )
        self.shot_buttons = self._buttons(("copy_shot", "Duplicate"), ("take_shot", "Delete"))
        self.path_button = self._buttons(("shot_path", None))
        self.column.addWidget(label(HINT, "soft"))
        self.column.addStretch()

    # Building --------------------------------------------------------------------------------------------------

    def _build_rows(self) -> None:
        self.name = self._line("Name", "What the film is called, here and by {film} in its words", self._rename)
        self.move_ = narrow_choice()
        for word, (words, _) in MOVES.items():
            self.move_.addItem(words, word)
        self.move_.activated.connect(lambda: self._commands.become(self.move_.currentData()))
        self.form.addRow("What moves", self.move_)
        self.scene = narrow_choice()
        self.scene.setToolTip("The scene it is of")
        self.scene.activated.connect(lambda: self._change("Another scene in the shot", scene=self.scene.currentData()))
        self.form.addRow("Scene", self.scene)
        self.seconds = self._number("Length", "s", 0.5, "How long it takes", "seconds")
        self.degrees = self._number("By", "°", 15.0, "Anticlockwise, seen from above; 360 is once round", "degrees")
        self.begins = self._number("From", "h", 0.5, "Hour of the day it begins with", "begins")
        self.ends = self._number("To", "h", 0.5, "Hour of the day it ends with", "ends")
        self.height_begins = self._height("Height", "Of the eye where the flight begins", 0)
        self.height_ends = self._height("and at its end", "Of the eye where the flight ends", -1)
        self.at = narrow_choice()
        self.at.addItems([AHEAD, MIDDLE])
        self.at.setToolTip("What the eye looks at on its way")
        self.at.activated.connect(self._look_at)
        self.form.addRow("Looks at", self.at)
        self.looks: list[Look] = []
        self.look = narrow_choice()
        self.look.setToolTip("The look that comes")
        self.look.activated.connect(lambda i: self._change(f"Look that comes: {self.looks[i].name}", look=self.looks[i]))
        self.form.addRow("Look", self.look)
        self.wiped = self._tick("Wiped in from the right", "By the line of a divide, instead of all over", "wiped")
        self.resting = self._tick(
            "Rests on its way", "Over every floor; an upright cut at the clean places of the scout", "resting"
        )
        self.by_parts = self._tick("Part by part", "Nothing is cut: parts are put in place, the lowest first", "by_parts")
        self.even = self._tick("Even pace", "As fast at its ends as in the middle, where moves go on over several shots", "even")
        self.heading = self._line("Heading", FIELDS_TIP, lambda: self._write("heading"))
        self.words = QPlainTextEdit()
        self.words.setFixedHeight(WORDS_HIGH)
        self.words.setTabChangesFocus(True)
        self.words.setToolTip(f"Lines under the heading. {FIELDS_TIP}")
        self.words.installEventFilter(self)
        self.form.addRow("Words", self.words)
        self.caption = self._line("Caption", f"Written at the foot of the picture. {FIELDS_TIP}", lambda: self._write("caption"))

    def _line(self, name: str, tip: str, done: Callable[[], None]) -> QLineEdit:
        made = QLineEdit()
        made.setMaxLength(300 if name == "Caption" else 200)
        made.setToolTip(tip)
        made.editingFinished.connect(done)
        self.form.addRow(name, made)
        return made

    def _number(self, name: str, unit: str, step: float, tip: str, field: str) -> NumberField:
        made = NumberField(unit, step, below_zero=unit == "°")
        made.setToolTip(tip)
        made.entered.connect(lambda value: self._enter(field, value, None))
        made.nudged.connect(lambda value: self._enter(field, value, f"shot {field}"))
        self.form.addRow(name, made)
        return made

    def _height(self, name: str, tip: str, end: int) -> NumberField:
        made = NumberField("m", 0.5)
        made.setToolTip(tip)
        made.entered.connect(lambda value: self._raise_end(end, value))
        made.nudged.connect(lambda value: self._raise_end(end, value))
        self.form.addRow(name, made)
        return made

    def _tick(self, words: str, tip: str, field: str) -> QCheckBox:
        made = QCheckBox(words)
        made.setToolTip(tip)
        made.clicked.connect(lambda on: self._change(words if on else f"Not: {words.lower()}", **{field: on}))
        self.form.addRow("", made)
        return made

    def _buttons(self, *named: tuple[str, str | None]) -> QWidget:
        holder = QWidget()
        grid = QGridLayout(holder)
        grid.setContentsMargins(0, 4, 0, 0)
        grid.setSpacing(4)
        for place, (name, words) in enumerate(named):
            grid.addWidget(panel_button(self._actions[name], words), place // 2, place % 2)
        self.column.addWidget(holder)
        return holder

    # Doing -----------------------------------------------------------------------------------------------------

    def _change(self, said: str, merge: str | None = None, **changes: object) -> None:
        self._commands.change(said, merge, **changes)

    def _enter(self, field: str, value: float, merge: str | None) -> None:
        bounds = {"seconds": (0.1, LONGEST_SHOT), "degrees": (-3600.0, 3600.0), "begins": (0.0, 24.0), "ends": (0.0, 24.0)}
        low, high = bounds[field]
        value = min(max(value, low), high)
        words = {"seconds": f"It takes {seconds_words(value)}", "degrees": f"By {value:g}°", "begins": f"From {value:g} o'clock"}
        self._change(words.get(field, f"To {value:g} o'clock"), merge, **{field: value})

    def _raise_end(self, end: int, value: float) -> None:
        """Have a flight begin or end at a height, and rise or sink evenly between."""
        shot = self._desk.shot
        if isinstance(shot, Way):
            low, high = (value, shot.path[-1][2]) if end == 0 else (shot.path[0][2], value)
            last = len(shot.path) - 1
            path = tuple((x, y, low + (high - low) * n / last) for n, (x, y, _) in enumerate(shot.path))
            self._change(f"The flight goes from {low:.2f} m to {high:.2f} m", f"height {end}", path=path)

    def _look_at(self, index: int) -> None:
        middle = tuple(self._session.subject_bounds().mean(axis=0).tolist())
        self._change(f"It looks at: {(AHEAD, MIDDLE)[index].lower()}", at=middle if index else None)

    def _rename(self) -> None:
        film, name = self._desk.film, self.name.text().strip()
        if film is not None and name and name != film.name:
            self._desk.put(film.model_copy(update={"name": name}), f"Renamed the film to {name}")

    def _write(self, field: str) -> None:
        shot, text = self._desk.shot, getattr(self, field).text()
        if shot is not None and not self._filling and text != getattr(shot, field, text):
            self._change(f"Wrote the {field}", **{field: text})

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Words of several lines are taken over when one goes elsewhere."""
        if watched is self.words and event.type() == QEvent.Type.FocusOut:
            shot, text = self._desk.shot, self.words.toPlainText()[:1000]
            if isinstance(shot, Card) and text != shot.words:
                self._change("Wrote the words", words=text)
        return False

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        film, shot, number = self._desk.film, self._desk.shot, self._desk.number
        if film is None:
            return
        self._filling = True
        count = len(film.shots)
        whole = f"{count} shot{'s' * (count != 1)}, {seconds_words(film.seconds)}"
        self.title.setText(film.name if shot is None else MOVES[shot.word][0])
        self.facts.setText(whole if number is None else f"Shot {number + 1} of {count} in {film.name}")
        self._show(self.name, shot is None)
        if not self.name.hasFocus():
            self.name.setText(film.name)
        own = () if shot is None else OF_MOVES.get(shot.word, ())
        for name in EVERY_ROW:
            self._show(getattr(self, name), name in own)
        for widget in (self.move_, self.seconds, self.caption):
            self._show(widget, shot is not None)
        self._show(self.scene, shot is not None and not isinstance(shot, Card))
        self._show(self.even, shot is not None and shot.word not in NEVER_EVEN)
        self.film_buttons.setVisible(shot is None)
        self.shot_buttons.setVisible(shot is not None)
        self.path_button.setVisible(isinstance(shot, Way))
        if shot is not None:
            self._fill(shot)
        self._filling = False

    def _show(self, widget: QWidget, on: bool) -> None:
        self.form.setRowVisible(widget, on)

    def _fill(self, shot: AnyShot) -> None:
        scenes = [(scene.id, scene.name) for scene in self._session.project.scenes]
        _fill_choice(self.scene, scenes, shot.scene)
        self.move_.setCurrentIndex(self.move_.findData(shot.word))
        self.move_.setToolTip(MOVES[shot.word][1])
        self.seconds.show_value(shot.seconds)
        self.even.setChecked(shot.even)
        for name in ("degrees", "begins", "ends"):
            if hasattr(shot, name):
                getattr(self, name).show_value(getattr(shot, name))
        for name in ("resting", "by_parts", "wiped"):
            getattr(self, name).setChecked(bool(getattr(shot, name, False)))
        for name in ("heading", "caption"):
            field = getattr(self, name)
            if not (field.hasFocus() and field.isModified()):
                field.setText(getattr(shot, name, ""))
        if isinstance(shot, Card) and not self.words.hasFocus():
            self.words.setPlainText(shot.words)
        if isinstance(shot, Way):
            self.at.setCurrentIndex(0 if shot.at is None else 1)
            self.height_begins.show_value(shot.path[0][2])
            self.height_ends.show_value(shot.path[-1][2])
        if isinstance(shot, LookShot):
            own = [look for look in self._session.project.looks if look.name != shot.look.name]
            shipped = [look for look in shipped_looks().values() if look.name != shot.look.name]
            self.looks = [shot.look, *own, *shipped]
            _fill_choice(self.look, [(look.name, look.name) for look in self.looks], shot.look.name)


def _fill_choice(choice: QComboBox, entries: list[tuple[str, str]], chosen: str) -> None:
    """Offer entries of (key, words), one of them chosen; one that is gone is said to be."""
    if [(choice.itemData(i), choice.itemText(i)) for i in range(choice.count())] != entries:
        choice.clear()
        for key, words in entries:
            choice.addItem(words, key)
    found = choice.findData(chosen)
    choice.setCurrentIndex(found)
