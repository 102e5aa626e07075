"""The picked parts."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QGridLayout

from anatome.app.base import units
from anatome.app.base.actions import Actions, panel_button
from anatome.app.document.session import Session
from anatome.app.panels.inspector.own_look_box import OwnLookBox
from anatome.app.panels.inspector.page import Page, folded, label
from anatome.app.panels.inspector.property_box import PropertyBox
from anatome.app.panels.inspector.treatment_words import AS_BY_TYPE, fill_treatments
from anatome.app.stage.stage import Stage
from anatome.app.stage.stage_input import StageInput
from anatome.cuts.treatment import TreatmentRow
from anatome.model.selection import Selection
from anatome.scenes import edits
from anatome.words import plain_type

MOST_MEASURED = 120
"""Parts of which surface and volume are added up at once."""


class ElementsPage(Page):
    """What they are, what a cut does to them, and hiding them."""

    def __init__(self, session: Session, stage: Stage, stage_input: StageInput, actions: Actions) -> None:
        super().__init__()
        self._session = session
        self.title = label("", "title")
        self.facts = label("", "soft")
        self.facts.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.column.addWidget(self.title)
        self.column.addWidget(self.facts)
        self.treatment = QComboBox()
        self.treatment.addItem(AS_BY_TYPE, None)
        fill_treatments(self.treatment)
        self.treatment.setToolTip("Slice these parts, keep them whole or leave them out, whatever is said for their type")
        self.treatment.activated.connect(self._treat)
        grid = QGridLayout()
        grid.setSpacing(4)
        names = ("hide", "isolate", "fade", "show_these", "picked_apart", "box_picked", "suggest_picked")
        words = {
            "picked_apart": "Explode",
            "box_picked": "Box round them",
            "suggest_picked": "Suggest",
        }
        for place, name in enumerate(names):
            grid.addWidget(panel_button(actions[name], words.get(name)), place // 2, place % 2)
        self.column.addLayout(grid)
        self.own_look = OwnLookBox(session, stage, stage_input)
        self.own_look_fold = folded(
            self.column, "Own look", self.own_look, tip="Fill, hatch, colours and lines of these, in this look"
        )
        folded(self.column, "Where a cut meets them", self.treatment, tip="Slice these, keep them whole or leave them out")
        self.measures = label("", "soft")
        self.measures.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        folded(self.column, "Size", self.measures, tip="Size, surface, volume, id")
        self.properties = PropertyBox(session)
        self.column.addWidget(self.properties)
        self.column.addStretch()

    def _row_name(self) -> str:
        return "Picked " + " ".join(sorted(self._session.picked.elements))

    def _treat(self, choice: int) -> None:
        session = self._session
        does, treatments = self.treatment.itemData(choice), session.stage.treatments
        # What was said of one of these parts before no longer holds for it.
        for row in treatments.rows:
            left = row.what.elements - session.picked.elements
            if row.what.elements and left != row.what.elements:
                treatments = treatments.without_row(row.name)
                if left:
                    treatments = treatments.with_row(row.model_copy(update={"what": Selection(elements=left)}))
        if does is not None:
            what = Selection(elements=session.picked.elements)
            treatments = treatments.with_row(TreatmentRow(name=self._row_name(), what=what, does=does))
        session.apply(
            edits.set_treatments(session.project, treatments),
            f"Where a cut meets them: {self.treatment.itemText(choice).lower()}",
        )

    def refresh(self) -> None:
        building = self._session.building
        picked = self._session.picked.elements
        if building is None or not picked:
            return
        own = {row.does for row in self._session.stage.treatments.rows if row.what.elements & picked}
        self.treatment.setCurrentIndex(self.treatment.findData(own.pop()) if len(own) == 1 else 0)
        self.own_look.refresh()
        self.properties.show_element(next(iter(picked)) if len(picked) == 1 else None)
        if len(picked) > 1:
            self.title.setText(f"{len(picked)} parts")
            kinds: dict[str, int] = {}
            for element_id in picked:
                kind = plain_type(building.elements[building.index_of[element_id]].type)
                kinds[kind] = kinds.get(kind, 0) + 1
            lines = [f"{n} {k.lower()}" for k, n in sorted(kinds.items(), key=lambda i: -i[1])[:10]]
            if len(picked) <= MOST_MEASURED:
                measures = [building.measures_of(building.index_of[element_id]) for element_id in picked]
                closed = [volume for _, volume in measures if volume is not None]
                without = len(measures) - len(closed)
                sums = [f"Surface: {units.area(sum(area for area, _ in measures))}"]
                if closed:
                    sums += [f"Volume: {units.volume(sum(closed))}" + (f", {without} of them are not closed" if without else "")]
                self.measures.setText("\n".join(sums))
            else:
                self.measures.setText(f"Surfaces and volumes are added up for at most {MOST_MEASURED} parts.")
            self.facts.setText("\n".join(lines))
            return
        index = building.index_of[next(iter(picked))]
        element = building.elements[index]
        low, high = building.element_bounds[index]
        x, y, z = high - low
        area, volume = building.measures_of(index)
        storey = "" if element.storey is None else building.storeys[element.storey].name
        self.title.setText(element.name or plain_type(element.type))
        self.facts.setText(_rows(("Type", plain_type(element.type)), ("Material", element.material), ("Storey", storey)))
        rows = [
            ("Layer", element.layer),
            ("Group", ", ".join((*element.also, *filter(None, (element.group,))))),
            ("Size", units.sizes((x, y, z), 2)),
            ("Surface", units.area(area)),
            ("Volume", "" if volume is None else units.volume(volume)),
            ("Id", element.id),
        ]
        self.measures.setText(_rows(*rows))


def _rows(*rows: tuple[str, str]) -> str:
    """Names with what they are, a line each, those that are nothing left out."""
    return "\n".join(f"{name}: {value}" for name, value in rows if value)
