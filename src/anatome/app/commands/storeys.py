"""Opening storeys from above, one after the other."""

from __future__ import annotations

from functools import partial

from anatome.app.base.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.model.bounds import corners_of
from anatome.scenes import edits
from anatome.scenes.edits import new_id
from anatome.scenes.storey_edits import lived_in, open_storey, opened_at, opening_cut
from anatome.view.camera import standard_view

FROM_ABOVE = 0.25
"""Cosine between sight and vertical from which one looks into a storey that is opened."""


class StoreyCommands:
    """Works on the stage; the key plan follows."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session

    def entries(self) -> list[Entry]:
        return group(
            "Storeys",
            "cut",
            Entry(
                "storey_open",
                "Open the storey from above",
                "The storey of the key plan cut open over its sills and looked into; other cuts are switched off",
                partial(self.step, 0),
                "Ctrl+Shift+PgUp",
                "stack",
            ),
            Entry("storey_up", "Next storey up", "Open the storey above from above", partial(self.step, 1), "Ctrl+PgUp"),
            Entry("storey_down", "Next storey down", "Open the storey below from above", partial(self.step, -1), "Ctrl+PgDown"),
            within="Storeys from above",
        )

    def step(self, by: int) -> None:
        """Open the storey so many up from the one that is open; with none open that of the key plan."""
        session, building = self._session, self._session.building
        if building is None:
            return
        storeys = lived_in(building)
        if not storeys:
            session.said.emit(
                "The model has no storeys. Place a level section plane instead: Cut, Section plane, Across an axis."
            )
            return
        found = opening_cut(session.stage, building)
        now = found[1] if found is not None and by else session.plan_storey
        place = storeys.index(now) if now in storeys else 0
        wanted = place + (by if found is not None else 0)
        if not 0 <= wanted < len(storeys):
            session.said.emit(f"{building.storeys[storeys[place]].name} is the {'highest' if by > 0 else 'lowest'} storey.")
            return
        number = storeys[wanted]
        project = open_storey(session.project, building, number, new_id())
        camera = session.stage.camera
        if camera.axes[2][2] < FROM_ABOVE:
            aspect, left = self._host.stage.aspect, session.subject_bounds().copy()
            left[1, 2] = min(left[1, 2], building.storeys[number].elevation + opened_at(building, number))
            corner = standard_view("Axonometric, front left", left, aspect, camera.field)
            project = edits.set_camera(project, corner.fitted_round(corners_of(left), aspect))
        session.apply(project, f"Opened {building.storeys[number].name} from above")
        self._host.key_plan.show_storey(number)
