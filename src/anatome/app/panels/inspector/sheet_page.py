"""The open sheet, and what is picked on it."""

from __future__ import annotations

import math

from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QWidget,
)

from anatome.app.base import units
from anatome.app.base.actions import Actions, panel_button
from anatome.app.base.numbers import AmountBox, CountBox
from anatome.app.base.papers import ScaleBox, papers
from anatome.app.commands.all import Commands
from anatome.app.document.desk import Desk
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import Choices, Page, label, narrow_choice, section
from anatome.app.panels.inspector.paper_more import PaperMore
from anatome.app.sheets.contents import SheetContents
from anatome.lengths import INCH, scale_in, scale_words
from anatome.look.shipped import shipped_looks
from anatome.notes.dressed_before import dressed_for
from anatome.notes.lettering import HEIGHTS
from anatome.problems import Problem
from anatome.scenes.noted import cut_to_dress
from anatome.scenes.sheet_frames import bar_scale, number_of, paper_words, picture_height, scale_of
from anatome.sheets.sheet import ContentsBlock, KeyPlanBlock, LegendBlock, NorthBlock, ScaleBarBlock, SceneFrame, TextBlock

LEAST, MOST = 20.0, 5000.0
"""Mm a paper is wide or high."""
FREE = "Free"
OWN = "The scene's own look"
NO_SCALE = "As large as it is"
OF_SHEET = "As the scenes on it"
BUTTONS = (
    (
        "Put on it",
        (
            *(("sheet_text", "Text"), ("sheet_picture", "Picture…"), ("sheet_legend", "Legend"), ("sheet_key_plan", "Key plan")),
            *(("sheet_scale_bar", "Scale bar"), ("sheet_north", "North point"), ("sheet_contents", "List of sheets")),
        ),
    ),
    ("The scenes on it", (("sheet_same_scale", "Same scale"), ("sheet_line_up", "Line up"))),
    ("The sheet", (("copy_sheet", "Duplicate"), ("take_sheet", "Delete"))),
    (
        "Templates",
        (
            ("sheet_to_template", "To a file…"),
            ("sheet_from_template", "From a file…"),
            ("sheets_from_template", "For all scenes…"),
        ),
    ),
)
LEGENDS = (("Materials", "material"), ("What fills are by", "fill"), ("Element types", "type"), ("Storeys", "storey"))
SHOWS = (
    ("notes", "With its notes", "What is written on the scene"),
    ("caption", "Its name under it", "With its scale, where one is held"),
    ("numbered", "Its number before it", "By the order of the scenes; section marks say it over the number of the sheet"),
    ("line", "A thin line round it", ""),
    ("papered", "Paper of its look", "Off: it lies on the sheet's own white"),
)
CONTENTS = (
    ("picture", "Picture", "As it is drawn on the stage"),
    ("lines", "Lines", "Linework, hidden lines removed, sharp at any size"),
    ("both", "Both", "Lines over the picture, in register"),
    ("tones", "Tones", "Lines over flat tones, all of it areas and lines"),
)

SMALLER = 0.02
"""Share by which a picture is less high than the one its notes were placed for, from which that is told."""


class SheetPage(Page):
    """The paper while nothing is picked; else what is picked."""

    def __init__(self, session: Session, desk: Desk, contents: SheetContents, actions: Actions, commands: Commands) -> None:
        super().__init__()
        self._session, self._desk, self._contents, self._commands = session, desk, contents, commands
        self.title = label("", "title")
        self.facts = label("", "soft")
        self.warning = label("", "warning")
        for words in (self.title, self.facts):
            self.column.addWidget(words)
        self.paper_part, self.frame_part, self.text_part, self.legend_part = QWidget(), QWidget(), QWidget(), QWidget()
        self.many_part, self.bar_part, self.north_part = QWidget(), QWidget(), QWidget()
        self._build_paper(actions)
        self._build_frame(actions)
        self._build_text()
        self._build_legend()
        self._build_marks()
        self._build_many(actions)
        self.take = panel_button(actions["block_take"])
        self.column.addWidget(self.take)
        self.column.addWidget(self.warning)  # last, where it pushes nothing
        self.column.addStretch()

    # Building --------------------------------------------------------------------------------------------------

    def _form(self, holder: QWidget) -> QFormLayout:
        form = QFormLayout(holder)
        form.setContentsMargins(0, 0, 0, 0)
        self.column.addWidget(holder)
        return form

    def _build_paper(self, actions: Actions) -> None:
        form = self._form(self.paper_part)
        self.name = QLineEdit()
        self.name.editingFinished.connect(lambda: self._set_sheet("Renamed the sheet", name=self.name.text().strip()[:200]))
        form.addRow("Title", self.name)
        self.number = QLineEdit()
        self.number.setToolTip("Nothing: its place among the sheets")
        self.number.editingFinished.connect(lambda: self._set_sheet("Numbered the sheet", number=self.number.text().strip()[:50]))
        form.addRow("Number", self.number)
        self.paper = QComboBox()
        self.paper.activated.connect(self._set_paper)
        form.addRow("Paper", self.paper)
        self.wide, self.high = AmountBox(LEAST, MOST, 1), AmountBox(LEAST, MOST, 1)
        for box in (self.wide, self.high):
            box.editingFinished.connect(self._set_free)
        form.addRow("Width", self.wide)
        form.addRow("Height", self.high)
        self.lies = Choices((("lying", "Landscape", "Longer than high"), ("upright", "Portrait", "Higher than long")), self._turn)
        form.addRow("", self.lies)
        self.border = QCheckBox("Border")
        self.border.setToolTip("The frame of ISO 5457, with centring marks")
        self.border.clicked.connect(lambda on: self._set_sheet("Border", bordered=on))
        form.addRow("", self.border)
        self.block = QCheckBox("Title block")
        self.block.setToolTip("ISO 7200, in the lower right corner")
        self.block.clicked.connect(lambda on: self._set_sheet("Title block", title_block=on))
        form.addRow("", self.block)
        form.addRow(panel_button(actions["title_fields"]))
        self.more = PaperMore(self._set_sheet)
        form.addRow(self.more)
        for words, names in BUTTONS:
            form.addRow(label(words, "section"))
            grid = QGridLayout()
            grid.setSpacing(4)
            for place, (name, short) in enumerate(names):
                grid.addWidget(panel_button(actions[name], short), place // 2, place % 2)
            form.addRow(grid)
        form.addRow(panel_button(actions["send_sheets"], "Send out sheets…"))
        form.addRow(label("Drag scenes on to it from the foot. A wheel goes nearer, a double click beside it fits it.", "soft"))

    def _build_frame(self, actions: Actions) -> None:
        form = self._form(self.frame_part)
        self.scene = QComboBox()
        self.scene.activated.connect(lambda i: self._set("Another scene", scene=self.scene.itemData(i)))
        form.addRow("Scene", self.scene)
        self.scale = ScaleBox(NO_SCALE)
        self.scale.setToolTip("Held at this scale it is as large as that makes it, in the plane its picture shows true")
        self.scale.activated.connect(self._set_scale)
        line = self.scale.lineEdit()
        assert line is not None
        line.editingFinished.connect(self._set_scale)
        form.addRow("Scale", self.scale)
        self.content = Choices(CONTENTS, lambda key: self._set(f"As {key}", content=key))
        form.addRow(self.content)
        self.look = QComboBox()
        self.look.addItem(OWN, "")
        self.look.activated.connect(lambda i: self._set("Another look on the sheet", look=self.look.itemData(i)))
        form.addRow("Look", self.look)
        self.boxes: dict[str, QCheckBox] = {}
        for key, words, tip in SHOWS:
            box = QCheckBox(words)
            box.setToolTip(tip)
            box.clicked.connect(lambda on, key=key, words=words: self._set(words, **{key: on}))
            self.boxes[key] = box
            form.addRow("", box)
        self.whole = QPushButton("Show all of its picture")
        self.whole.clicked.connect(lambda: self._set("All of its picture", crop=(0.0, 0.0, 1.0, 1.0)))
        form.addRow(self.whole)
        self.dressed = label("", "warning")
        self.beside = label("All scenes on the sheet", "section")
        form.addRow(self.beside)
        together = QHBoxLayout()
        together.setSpacing(4)
        self.together = [
            panel_button(actions["sheet_same_scale"], "Same scale"),
            panel_button(actions["sheet_line_up"], "Line up"),
        ]
        for button in self.together:
            together.addWidget(button)
        form.addRow(together)
        self.dress = panel_button(actions["dress_frame"])
        form.addRow(self.dress)
        form.addRow(self.dressed)

    def _build_text(self) -> None:
        form = self._form(self.text_part)
        self.words = QPlainTextEdit()
        self.words.setFixedHeight(110)
        self.words.setToolTip("{project}, {name}, {number}, {scale}, {date} … are filled as in the title block")
        self.words.installEventFilter(self)
        form.addRow(self.words)
        self.letters = QComboBox()
        for height in HEIGHTS:
            self.letters.addItem(f"{height:g} mm", height)
        self.letters.activated.connect(lambda i: self._set("Letters", height=self.letters.itemData(i)))
        form.addRow("Letters", self.letters)
        self.strong = QCheckBox("Bold")
        self.strong.clicked.connect(lambda on: self._set("Bold", strong=on))
        form.addRow("", self.strong)

    def _build_legend(self) -> None:
        form = self._form(self.legend_part)
        self.says = narrow_choice()
        for words, key in LEGENDS:
            self.says.addItem(words, key)
        self.says.activated.connect(lambda i: self._set(f"Legend: {self.says.itemText(i)}", says=self.says.itemData(i)))
        form.addRow("Lists", self.says)
        self.columns = CountBox(minimum=1, maximum=10)
        self.columns.valueChanged.connect(lambda n: self._set("Columns", columns=n))
        form.addRow("Columns", self.columns)

    def _build_marks(self) -> None:
        form = self._form(self.bar_part)
        self.bar_scale = ScaleBox(OF_SHEET)
        self.bar_scale.activated.connect(self._set_bar)
        line = self.bar_scale.lineEdit()
        assert line is not None
        line.editingFinished.connect(self._set_bar)
        form.addRow("Scale", self.bar_scale)
        self.bar_unit = Choices((("m", "Metres", ""), ("ft", "Feet", "")), lambda key: self._set("Unit of the bar", unit=key))
        form.addRow(self.bar_unit)
        form = self._form(self.north_part)
        self.north_size = _millimetres(5, 200)
        self.north_size.editingFinished.connect(lambda: self._set("Size", height=float(self.north_size.value())))
        form.addRow("Height", self.north_size)
        self.north_turn = CountBox(minimum=-360, maximum=360)
        self.by_plan = QCheckBox("As the first plan on the sheet")
        self.by_plan.clicked.connect(lambda on: self._set("North", turn=None if on else float(self.north_turn.value())))
        form.addRow("", self.by_plan)
        self.north_turn.setSuffix("° clockwise")
        self.north_turn.editingFinished.connect(lambda: self._set("North", turn=float(self.north_turn.value())))
        form.addRow("Turned", self.north_turn)

    def _build_many(self, actions: Actions) -> None:
        form = self._form(self.many_part)
        form.addRow(section(self.column, "Together"))
        for name in (
            *("on_storey", "on_axis", "on_place", "sheet_left", "sheet_right", "sheet_top", "sheet_bottom"),
            *("sheet_spread_x", "sheet_spread_y"),
        ):
            form.addRow(panel_button(actions[name]))

    # Setting ---------------------------------------------------------------------------------------------------

    def _set(self, said: str, **changes: object) -> None:
        current = self._desk.blocks
        own = [b for b in current if any(k in type(b).model_fields and getattr(b, k) != v for k, v in changes.items())]
        if own:
            self._commands.on_sheet.change_blocks(said, **changes)

    def _set_bar(self, *_: object) -> None:
        text = self.bar_scale.currentText().strip()
        scale = None if text == OF_SHEET else self._scale_in(text)
        if text == OF_SHEET or scale is not None:
            self._set("Scale of the bar", scale=scale)

    def _set_sheet(self, said: str, **changes: object) -> None:
        sheet = self._desk.sheet
        if sheet is not None and any(getattr(sheet, k) != v for k, v in changes.items()):
            self._commands.sheets.change_sheet(said, **changes)

    def _fill_papers(self) -> None:
        """Offer the papers of the kind that is set."""
        names = list(papers())
        if [self.paper.itemData(i) for i in range(self.paper.count() - 1)] != names:
            self.paper.clear()
            for name in names:
                self.paper.addItem(name, name)
            self.paper.addItem(FREE, None)

    def _set_paper(self, place: int) -> None:
        sheet, name = self._desk.sheet, self.paper.itemData(place)
        if sheet is not None and name is not None:
            long, short = papers()[name]
            lying = sheet.paper[0] >= sheet.paper[1]
            self._set_sheet(f"Paper {name}", paper=(long, short) if lying else (short, long))

    def _set_free(self) -> None:
        if self._desk.sheet is None:
            return
        before, one = self._desk.sheet.paper, _one()
        # A field that is only left again still shows rounded what the paper is.
        fields = zip((self.wide, self.high), before)
        said = [size if box.value() == round(size / one, box.decimals()) else box.value() * one for box, size in fields]
        if tuple(said) != tuple(before):
            self._set_sheet("Size of the paper", paper=tuple(said))

    def _turn(self, key: str) -> None:
        sheet = self._desk.sheet
        if sheet is not None:
            long, short = max(sheet.paper), min(sheet.paper)
            self._set_sheet("Turned the paper", paper=(long, short) if key == "lying" else (short, long))

    def _set_scale(self, *_: object) -> None:
        text = self.scale.currentText().strip()
        frames = self._desk.frames
        if not frames:
            return
        if text == NO_SCALE:
            self._free_scale()
            return
        scale = self._scale_in(text)
        if scale is None:
            return
        if any(f.scale != scale for f in frames):
            self._set(f"Scale {scale_words(scale)}", scale=scale)

    def _scale_in(self, text: str) -> float | None:
        """The scale that was typed; nothing if it is none, which is told."""
        try:
            return scale_in(text)
        except Problem as problem:
            self._session.said.emit(str(problem))
            self.refresh()
            return None

    def _free_scale(self) -> None:
        """The same size, no longer held."""
        found = []
        for frame in self._desk.frames:
            scene = self._session.project.scene(frame.scene)
            if scene is not None and frame.scale is not None:
                found.append(frame.model_copy(update={"height": picture_height(frame, scene), "scale": None}))
        if found:
            self._desk.put_blocks(found, "No scale is held")

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.FocusOut:
            self.keep_words()
        return False

    def keep_words(self) -> None:
        """What is typed is what the block says."""
        blocks = self._desk.blocks
        text = self.words.toPlainText().rstrip()
        if len(blocks) == 1 and isinstance(blocks[0], TextBlock) and text:
            self._set("Changed the text", text=text[:10_000])

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        sheet, blocks = self._desk.sheet, self._desk.blocks
        if sheet is None:
            return
        one = blocks[0] if len(blocks) == 1 else None
        frames = self._desk.frames
        all_frames = bool(frames) and len(frames) == len(blocks)
        for part, on in (
            (self.paper_part, not blocks),
            (self.frame_part, all_frames),
            (self.text_part, isinstance(one, TextBlock)),
            (self.legend_part, isinstance(one, LegendBlock)),
            (self.bar_part, isinstance(one, ScaleBarBlock)),
            (self.north_part, isinstance(one, NorthBlock)),
            (self.many_part, len(blocks) > 1),
            (self.take, bool(blocks)),
        ):
            part.setVisible(on)
        self.warning.hide()
        if not blocks:
            self._show_paper()
        elif all_frames:
            self._show_frames(frames)
        elif isinstance(one, TextBlock):
            self.title.setText("Text")
            self.facts.setText("Fields in braces are filled as in the title block.")
            if not self.words.hasFocus():
                self.words.setPlainText(one.text)
            self.letters.setCurrentIndex(self.letters.findData(one.height))
            self.strong.setChecked(one.strong)
        elif isinstance(one, LegendBlock):
            self.title.setText("Legend")
            self.facts.setText(f"{len(self._contents.legends().get(one.says, ()))} kinds of fill are cut on this sheet.")
            self.says.setCurrentIndex(self.says.findData(one.says))
            self.columns.blockSignals(True)
            self.columns.setValue(one.columns)
            self.columns.blockSignals(False)
        elif isinstance(one, ScaleBarBlock):
            self.title.setText("Scale bar")
            self.facts.setText(f"At {scale_words(bar_scale(one, sheet))}")
            line = self.bar_scale.lineEdit()
            if line is not None and not line.hasFocus():
                self.bar_scale.show_scale(one.scale)
            self.bar_unit.show_choice(one.unit)
        elif isinstance(one, NorthBlock):
            self.title.setText("North point")
            self.facts.setText("It follows the first plan on the sheet." if one.turn is None else "Turned by hand.")
            self.by_plan.setChecked(one.turn is None)
            self.north_turn.setEnabled(one.turn is not None)
            if not self.north_turn.hasFocus():
                self.north_turn.setValue(round(one.turn or 0.0))
            if not self.north_size.hasFocus():
                self.north_size.setValue(round(one.height))
        elif isinstance(one, ContentsBlock):
            self.title.setText("List of sheets")
            self.facts.setText(f"{len(self._session.project.sheets)} sheets; it follows them. Pull a corner to make it wider.")
        elif isinstance(one, KeyPlanBlock):
            self.title.setText("Key plan")
            self.facts.setText("With the lines of the sections on this sheet; it follows them.")
        else:
            self.title.setText("Picture" if one is not None else f"{len(blocks)} picked")
            self.facts.setText("")

    def _show_paper(self) -> None:
        sheet = self._desk.sheet
        assert sheet is not None
        self.title.setText(f"Sheet {number_of(sheet, self._session.project)}")
        count = len(sheet.frames)
        words = paper_words(sheet.paper)
        self.facts.setText(f"{words}, {units.paper(sheet.paper)}, {count} scene{'s' * (count != 1)}")
        for field, text in ((self.name, sheet.name), (self.number, sheet.number)):
            if not field.hasFocus():
                field.setText(text)
        self.number.setPlaceholderText(number_of(sheet, self._session.project))
        self._fill_papers()
        place = self.paper.findData(words)
        self.paper.setCurrentIndex(place if place >= 0 else self.paper.count() - 1)
        for box, size in ((self.wide, sheet.paper[0]), (self.high, sheet.paper[1])):
            if not box.hasFocus():
                box.setSuffix(" in" if units.UNITS.inch_papers else " mm")
                box.setDecimals(2 if units.UNITS.inch_papers else 1)
                box.setRange(math.ceil(LEAST / _one()), MOST / _one())
                box.setValue(size / _one())
        self.lies.show_choice("lying" if sheet.paper[0] >= sheet.paper[1] else "upright")
        self.border.setChecked(sheet.bordered)
        self.block.setChecked(sheet.title_block)
        self.more.show_sheet(sheet, self._session.project.titles.date)

    def _show_frames(self, frames: tuple[SceneFrame, ...]) -> None:
        project, first = self._session.project, frames[0]
        scene = project.scene(first.scene)
        self.title.setText((scene.name if scene else "A scene that is gone") if len(frames) == 1 else f"{len(frames)} scenes")
        if scene is not None:
            kept = ", held" if first.scale is not None else ""
            self.facts.setText(f"{scale_words(scale_of(first, scene))} on this sheet{kept}")
        problem = self._contents.problems.get(first.id, "")
        self.warning.setText(problem)
        self.warning.setVisible(bool(problem))
        self.scene.clear()
        for own in project.scenes:
            self.scene.addItem(own.name, own.id)
        self.scene.setCurrentIndex(self.scene.findData(first.scene))
        self.scene.setEnabled(len(frames) == 1)
        line = self.scale.lineEdit()
        if line is not None and not line.hasFocus():
            self.scale.show_scale(first.scale)
        self.content.show_choice(first.content)
        names = dict.fromkeys([*(look.name for look in project.looks), *shipped_looks()])
        if self.look.count() != len(names) + 1:
            self.look.clear()
            self.look.addItem(OWN, "")
            for name in names:
                self.look.addItem(name, name)
        self.look.setCurrentIndex(max(self.look.findData(first.look), 0))
        for key, box in self.boxes.items():
            box.setChecked(all(getattr(f, key) for f in frames))
        self.whole.setEnabled(any(f.crop != (0.0, 0.0, 1.0, 1.0) for f in frames))
        meant = None if scene is None else dressed_for(scene.state.notes)
        high = picture_height(first, scene) if scene is not None else 0.0
        other = meant is not None and high < meant * (1 - SMALLER) and first.notes
        self.dressed.setText("Its notes were placed for a larger picture, and may lie over one another." if other else "")
        self.dressed.setVisible(other)
        sheet = self._desk.sheet
        for part in (self.beside, *self.together):
            part.setVisible(sheet is not None and len(sheet.frames) > 1)
        self.dress.setVisible(len(frames) == 1 and scene is not None and cut_to_dress(scene.state) is not None)


def _one() -> float:
    """Mm one of what papers are told in."""
    return 1000.0 * INCH if units.UNITS.inch_papers else 1.0


def _millimetres(least: int = 20, most: int = 5000) -> CountBox:
    made = CountBox(minimum=least, maximum=most)
    made.setSuffix(" mm")
    return made
