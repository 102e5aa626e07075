"""Drawing the building apart: its storeys, groups of parts, what lies above a storey, or along a cut."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from anatome.app.base.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.app.stage.draw_path import DrawPath
from anatome.cuts.cut import AnyCut
from anatome.cuts.exploding import LEAST_GAP, Exploded, Path, above, by_storeys, path_length, storey_gap
from anatome.model.bounds import bounds_round
from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.scenes import apart, edits


class ApartCommands:
    """Works on what the stage shows apart; the model stays as it is."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session

    def entries(self) -> list[Entry]:
        return group(
            "Explode",
            "cut",
            Entry(
                "storeys_apart",
                "Explode by storeys",
                "An exploded axonometric: each storey over the one below, with travel lines",
                self.storeys,
                "Ctrl+Alt+E",
                "stack",
            ),
            Entry(
                "picked_apart",
                "Explode what is picked",
                "The picked parts become a group that is moved by itself",
                self.picked,
                needs="elements",
                stage_menu=True,
            ),
            Entry(
                "lift_above",
                "Lift what lies above",
                "Raise the roof and the storeys above the one in the key plan, or above what is picked, and see into it",
                self.lift,
                "Ctrl+Alt+L",
            ),
            Entry(
                "fade_above",
                "Fade what lies above",
                "Draw the roof and the storeys above as ghosts, and see through them into the storey",
                self.fade_above,
            ),
            Entry(
                "part_here",
                "Part the building here",
                "The picked cut takes nothing away: what lies before it is moved aside, or turned over",
                self.part,
                "Ctrl+Alt+P",
                needs="cut",
                ticked=lambda: self._session.cut is not None and self._session.cut.parting is not None,
            ),
            Entry(
                "open_apart",
                "Explode, or together again",
                "All that is exploded goes together, or apart again",
                self.toggle,
                "Ctrl+Alt+O",
                needs="apart",
            ),
            Entry(
                "apart_along",
                "Set the groups out along a line…",
                "Draw a line on the stage, with bends; the groups stand along it, one after the other in their order",
                self.set_out,
                needs="apart",
                task=True,
            ),
            Entry("whole_again", "Put the building together", "Nothing is exploded any more", self.whole, needs="apart"),
            within="Explode",
        )

    # Doing -----------------------------------------------------------------------------------------------------

    def _show_all(self) -> None:
        """Have everything that was moved in the picture."""
        session, stage = self._session, self._host.stage
        session.on_stage_soon(lambda: session.follow(session.stage.camera.fitted_round(session.left_corners(), stage.aspect)))

    def storeys(self) -> None:
        """Each storey over the one below."""
        session, building = self._session, self._session.building
        if building is None:
            return
        groups = by_storeys(building, session.shown(), storey_gap(building))
        if not groups:
            self._host.tell(
                "The parts that are shown stand in one storey, or in none. Pick parts and explode those instead.",
                "Nothing to explode",
            )
            return
        project = apart.set_exploded(session.project, Exploded(groups=groups))
        session.apply(apart.set_opening(project, 1.0), f"{len(groups)} storeys exploded")
        self._show_all()

    def picked(self) -> None:
        """A group of what is picked."""
        session, building = self._session, self._session.building
        if building is None or not session.picked.elements:
            return
        ids = session.picked.elements
        first = building.elements[building.index_of[min(ids)]].name
        name = first if len(ids) == 1 and first else f"{len(ids)} picked part{'s' * (len(ids) != 1)}"
        self.add(name, Selection(elements=ids))

    def add(self, name: str, what: Selection) -> None:
        """A group of parts, drawn apart from the rest."""
        session, building = self._session, self._session.building
        if building is not None:
            session.apply(apart.add_group(session.project, name, what, storey_gap(building)), f"{name} exploded")
            self._show_all()

    def set_out(self) -> None:
        """All groups along a line that is drawn on the stage."""
        session = self._session
        if session.stage.exploded is None:
            session.said.emit("Nothing is exploded into groups. Explode storeys, or what is picked, first.")
            return

        def done(path: Path) -> None:
            session.apply(apart.set_out_along(session.project, path), "Set the groups out along a line")
            self._show_all()

        self._draw(done, "the groups")

    def draw_way(self, name: str) -> None:
        """A way of its own for a group, drawn on the stage; the group goes to its end."""
        session = self._session

        def done(path: Path) -> None:
            session.apply(apart.set_way(session.project, name, path, path_length(path)), f"{name} is moved along a line")
            self._show_all()

        self._draw(done, name)

    def _draw(self, done: Callable[[Path], None], what: str) -> None:
        self._host.stage_input.begin(DrawPath(self._session, name="apart_along", done=done, what=what))

    def lift(self) -> None:
        """Raise what lies above a storey, or let it down again."""
        session, building, storey = self._session, self._session.building, self._storey()
        if building is None or storey is None:
            return
        here = building.storeys[storey].name
        name = f"Above {here}"
        if any(g.name == name for g in (session.stage.exploded or Exploded()).groups):
            session.apply(apart.change_group(session.project, name, None), f"What lies above {here} is let down")
            return
        what = above(building, storey)
        members = self._shown_above(building, what, here)
        if members is None:
            return
        bounds = building.bounds_of(members)
        session.apply(
            apart.add_group(session.project, name, what, round(max(LEAST_GAP, float(np.ptp(bounds[:, 2]))), 1)),
            f"Lifted what lies above {here}",
        )
        self._show_all()

    def _shown_above(self, building: Building, what: Selection, here: str) -> NDArray[np.bool_] | None:
        """(E,) what is shown of what lies above; None, and said, where that is nothing."""
        members = what.mask(building) & self._session.shown()
        if members.any():
            return members
        self._host.tell(f"Nothing lies above {here}. Choose a lower storey in the key plan.", "Nothing to lift")
        return None

    def _storey(self) -> int | None:
        """The lowest storey of what is picked, or the one in the key plan."""
        session, building = self._session, self._session.building
        if building is None:
            return None
        of = [building.elements[building.index_of[i]].storey for i in session.picked.elements]
        storeys = [storey for storey in of if storey is not None]
        if storeys:
            return min(storeys, key=lambda s: building.storeys[s].elevation)
        if session.plan_storey is None:
            self._host.tell("The model has no storeys. Pick the roof and fade it, or explode it.", "Nothing to lift")
        return session.plan_storey

    def fade_above(self) -> None:
        """Draw what lies above a storey as ghosts."""
        session, building, storey = self._session, self._session.building, self._storey()
        if building is None or storey is None:
            return
        here = building.storeys[storey].name
        members = self._shown_above(building, above(building, storey), here)
        if members is None:
            return
        ids = [building.elements[i].id for i in np.flatnonzero(members).tolist()]
        session.apply(edits.fade(session.project, ids), f"Faded what lies above {here}")
        self._show_all()

    def part(self) -> None:
        """Let the picked cut part the building, or take away again."""
        session, cut = self._session, self._session.cut
        if cut is None or session.building is None:
            return
        if cut.parting is not None:
            session.apply(edits.change_cut(session.project, cut.id, parting=None), f"{cut.name} takes away again")
            return
        bounds = self._parted_bounds(cut)
        session.apply(apart.part_at(session.project, cut, bounds), f"{cut.name} parts the building")
        self._show_all()

    def _parted_bounds(self, cut: AnyCut) -> NDArray[np.float64]:
        """(2, 3) metres of what a cut moves."""
        return self._session.subject_bounds() if cut.corners is None else bounds_round(cut.corners)

    def turn_part(self, turned: str) -> None:
        """Show the part before the picked cut as it is, mirrored or turned over."""
        session, cut = self._session, self._session.cut
        if cut is not None and turned in ("as it is", "mirrored", "turned over"):
            project = apart.turn_part(session.project, cut, turned, self._parted_bounds(cut))  # type: ignore[arg-type]
            session.apply(project, f"{cut.name}: the part before it is shown {turned}")
            self._show_all()

    def toggle(self) -> None:
        session = self._session
        opening = 0.0 if session.stage.opening > 0 else 1.0
        session.apply(apart.set_opening(session.project, opening), "Opened" if opening else "Closed")

    def whole(self) -> None:
        self._session.apply(apart.whole_again(self._session.project), "The building is whole again")
