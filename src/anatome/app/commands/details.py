"""Details: what is picked drawn once more beside the building, larger, turned, cut in a way of its own."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.app.base.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.cuts.details import Detail
from anatome.model.selection import Selection
from anatome.problems import Problem
from anatome.scenes import detail_edits
from anatome.words import plain_type, unlike


class DetailCommands:
    """Works on the details of the stage."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session

    def entries(self) -> list[Entry]:
        return group(
            "Explode",
            "cut",
            Entry(
                "detail",
                "Draw as a detail",
                "The picked parts once more beside the building, larger, with a name and a scale; the building keeps them",
                self.draw,
                "Ctrl+Alt+Shift+X",
                needs="elements",
                stage_menu=True,
            ),
            Entry(
                "cut_detail",
                "Cut the detail",
                "A section plane through the middle of the picked detail, which leaves the building whole",
                self.cut,
                needs="detail",
                stage_menu=True,
            ),
            Entry(
                "take_detail", "Delete the detail", "The picked detail goes", self.take, "Del", "trash", "detail", stage_menu=True
            ),
            within="Explode",
        )

    # Doing -----------------------------------------------------------------------------------------------------

    def draw(self) -> None:
        """A detail of what is picked."""
        session, building = self._session, self._session.building
        ids = session.picked.elements
        if building is None or not ids:
            return
        members = Selection(elements=ids).mask(building) & session.shown()
        if not members.any():
            self._host.tell("What is picked is hidden. Show it, and draw it as a detail then.", "Nothing to draw")
            return
        others = [part.bounds for part in session.on_stage().parts if part.detail]
        shown = session.subject_bounds()
        detail = detail_edits.new_detail(
            self._name(ids), Selection(elements=ids), building.bounds_of(members), shown, others, session.stage.camera
        )
        session.apply(detail_edits.put_detail(session.project, detail), f"{detail.name}, drawn as a detail")
        session.pick(detail=detail.id)
        stage = self._host.stage
        session.on_stage_soon(lambda: session.follow(session.stage.camera.fitted_round(self._corners(), stage.aspect)))

    def _corners(self) -> NDArray[np.float64]:
        """(n, 3) corners round all that is shown and drawn once more."""
        session = self._session
        details = [part.left_corners(part.cut_open.shown) for part in session.on_stage().parts if part.detail]
        return np.concatenate([session.left_corners(), *details])

    def _name(self, ids: frozenset[str]) -> str:
        """What a detail of some parts is called: as the group they all are of, or the largest of them; never as another one."""
        building = self._session.building
        assert building is not None
        elements = [building.elements[building.index_of[i]] for i in ids if i in building.index_of]
        groups = set.intersection(*(set(e.groups) for e in elements)) if len(elements) > 1 else set()
        sizes = np.linalg.norm(np.diff(building.element_bounds, axis=1)[:, 0], axis=1)
        largest = max(elements, key=lambda element: float(sizes[building.index_of[element.id]]))
        name = max(groups, key=len, default="") or largest.name or plain_type(largest.type)
        return unlike(name[:190], [detail.name for detail in self._session.stage.details])

    def change(self, said: str, merge: str | None = None, **changes: object) -> None:
        """The picked detail, otherwise."""
        session, detail = self._session, self._session.detail
        if detail is not None:
            changed = Detail.model_validate(dict(detail) | changes)
            session.apply(detail_edits.put_detail(session.project, changed), said, merge=merge)

    def cut(self) -> None:
        """A section plane of the picked detail's own."""
        session, building, detail = self._session, self._session.building, self._session.detail
        if building is None or detail is None:
            return
        members = detail.members(building) & session.shown()
        if not members.any():
            raise Problem("Nothing of this detail is shown. Show its parts, or delete it.")
        angle = np.radians(session.lookups.directions()[0])
        ways = [np.array([np.cos(angle), np.sin(angle), 0.0]), np.array([-np.sin(angle), np.cos(angle), 0.0])]
        project, cut_id = detail_edits.cut_detail(
            session.project, detail, building.bounds_of(members), ways, session.stage.camera
        )
        cut = project.stage.cut(cut_id)
        assert cut is not None
        session.apply(project, f"{cut.name} cuts {detail.name} alone; pick it to move it")

    def take(self) -> None:
        """Without the picked detail."""
        session, detail = self._session, self._session.detail
        if detail is not None:
            session.apply(detail_edits.take_detail(session.project, detail.id), f"Deleted {detail.name}")
