"""Rough bodies of the project's own: a slab under the building, footings under parts, pits in the ground."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QObject

from anatome.app.base import units
from anatome.app.base.ask import Ask
from anatome.app.base.entry import Entry, group
from anatome.app.base.work import Work
from anatome.app.commands.host import Host
from anatome.app.commands.site import ROUND
from anatome.cuts.fitting import PLAN_HEIGHT
from anatome.cuts.plan_level import plan_level
from anatome.problems import Problem
from anatome.scenes import site_edits
from anatome.scenes.edits import new_id
from anatome.site.rough import SIDES, diameter, footing_under, moved, pit_at, slab_under
from anatome.site.site import RoughBody

MOST_AT_ONCE = 500
"""Footings made in one step."""


class RoughBodyCommands(QObject):
    """They are cut, named and looked at like any other part, and belong to the project."""

    def __init__(self, host: Host) -> None:
        super().__init__()
        self._host, self._session = host, host.session
        self._work = Work(self, lambda: self._session.building)

    def entries(self) -> list[Entry]:
        return group(
            "Round the building",
            "frame",
            Entry(
                "slab",
                "Slab under the building…",
                "A rough slab, plinth or body under what stands on the ground, of the thickness you type",
                self.ask_slab,
            ),
            Entry(
                "footings",
                "Footings under the picked parts…",
                "One under the foot of each picked wall or post, of the sizes you type",
                self.ask_footings,
                needs="elements",
            ),
            Entry(
                "pit",
                "Pit in the ground…",
                "Round or with corners, as wide and deep as you type, in the ground with a body",
                self.ask_pit,
            ),
            within=f"{ROUND}/Slab, footings, pit",
        )

    # Making ----------------------------------------------------------------------------------------------------

    def ask_slab(self) -> None:
        """Ask how thick it is."""
        building = self._session.building
        if building is None:
            return
        floor = plan_level(building, self._session.plan_storey) - PLAN_HEIGHT
        ask = Ask(
            self._host.widget, "Slab under the building", "It is cut like any part, and is the project's own.", "Make", self._slab
        )
        ask.length("Thick", 0.3).length("Reaches beyond", 0.0, "On every side of what stands on the ground")
        ask.length("Its top", round(floor, 2), "The level of its upper side").open()

    def _slab(self, ask: Ask) -> None:
        session, building = self._session, self._session.building
        thick, beyond, top = (ask.metres(name) for name in ("Thick", "Reaches beyond", "Its top"))
        if thick <= 0 or beyond < 0:
            raise Problem("A slab is thicker than 0 and reaches beyond by 0 or more.")
        assert building is not None
        shown, name = session.shown(), new_id()
        self._work.run(
            lambda told: [slab_under(building, shown, name, thick, beyond, top)],
            lambda made: self._put(made, f"A slab {units.length(thick)} thick"),
            self._failed,
        )

    def ask_footings(self) -> None:
        """Ask how wide and deep they are."""
        ask = Ask(self._host.widget, "Footings", "One under the foot of each picked part.", "Make", self._footings)
        ask.length("Wider on every side", 0.2).length("Deep", 0.6).open()

    def _footings(self, ask: Ask) -> None:
        session, building = self._session, self._session.building
        wider, deep = ask.metres("Wider on every side"), ask.metres("Deep")
        if deep <= 0 or wider < 0:
            raise Problem("A footing is deeper than 0 and wider by 0 or more.")
        assert building is not None
        numbers = sorted(building.index_of[i] for i in session.picked.elements if i in building.index_of)
        if len(numbers) > MOST_AT_ONCE:
            raise Problem(f"{len(numbers):,} parts are picked; make footings under {MOST_AT_ONCE} at the most at once.")
        made = [footing_under(building, number, new_id(), wider, deep) for number in numbers]
        count = len(made)
        self._put(made, f"{count} footing{'s' * (count != 1)}")

    def ask_pit(self) -> None:
        """Ask where it is and how large."""
        session, building = self._session, self._session.building
        if building is None:
            return
        if session.project.site.ground is None:
            session.said.emit("A pit is dug into ground with a body: switch that on first")
            session.offered.emit("ground_body", "Ground with a body")
            return
        ids = [building.index_of[i] for i in session.picked.elements if i in building.index_of]
        boxes = building.element_bounds[ids] if ids else session.subject_bounds()[None]
        x, y = ((boxes[:, 0].min(axis=0) + boxes[:, 1].max(axis=0)) / 2)[:2].tolist()
        ask = Ask(
            self._host.widget, "Pit in the ground", "Its middle is at the picked part, or at the building.", "Dig", self._pit
        )
        ask.choice("Shape", [("With corners", "corners"), ("Round", "round")])
        ask.length("Wide", 3.0, "Along X; of a round one its diameter").length("Long", 3.0, "Along Y; not of a round one")
        ask.length("Deep", 1.5).length("Middle, X", x).length("Middle, Y", y).open()

    def _pit(self, ask: Ask) -> None:
        ground = self._session.project.site.ground
        wide, long, deep = ask.metres("Wide"), ask.metres("Long"), ask.metres("Deep")
        if min(wide, long, deep) <= 0:
            raise Problem("A pit is wider, longer and deeper than 0.")
        assert ground is not None
        if deep >= ground.depth:
            raise Problem(f"The ground is {units.length(ground.depth)} thick. Dig less deep, or make it thicker.")
        size = wide if ask.chosen("Shape") == "round" else (wide, long)
        middle = ask.metres("Middle, X"), ask.metres("Middle, Y")
        self._put([pit_at(middle, size, ground.level, deep, new_id())], f"A pit {units.length(deep)} deep")

    def _put(self, bodies: Sequence[RoughBody], said: str) -> None:
        session = self._session
        session.apply(site_edits.put_bodies(session.project, bodies), said)

    def _failed(self, error: Exception) -> None:
        if isinstance(error, Problem):
            self._host.tell(str(error))
        else:
            self._session.failed.emit(error)

    # Changing --------------------------------------------------------------------------------------------------

    def ask_change(self, body: RoughBody) -> None:
        """Ask how one is to be otherwise."""

        def do(ask: Ask) -> None:
            low, high = ask.metres("From"), ask.metres("Up to")
            if high <= low:
                raise Problem("It reaches from one level up to a higher one.")
            changes = {"name": ask.text("Name"), "material": ask.text("Material"), "low": low, "high": high}
            there = moved(body.model_copy(update=changes), ask.metres("Move along X"), ask.metres("Move along Y"), 0.0)
            self._put([there], f"Changed {there.name or there.kind}")

        ask = Ask(self._host.widget, body.name or body.kind.capitalize(), "", "Change", do)
        ask.words("Name", body.name).words("Material", body.material)
        ask.length("From", body.low, "The level of its underside").length("Up to", body.high, "The level of its upper side")
        ask.length("Move along X", 0.0).length("Move along Y", 0.0).open()

    def take(self, body: RoughBody) -> None:
        """Without it."""
        session = self._session
        session.apply(site_edits.take_bodies(session.project, [body.id]), f"Deleted {body.name or body.kind}")

    def mark(self, body: RoughBody) -> None:
        """Pick it on the stage, where it is a part."""
        building = self._session.building
        if building is not None and body.element in building.index_of:
            self._session.pick(elements=frozenset({body.element}))

    def summary(self, body: RoughBody) -> str:
        """Return one in a line."""
        ring = np.array(body.rings[0])
        wide, long = np.ptp(ring, axis=0).tolist()
        if len(ring) == SIDES:  # its corners lie a little outside the circle it has the area of
            wide = long = diameter(body)
        high = min(body.high, self._top(body)) - body.low
        return f"{body.name or body.kind.capitalize()}  ·  {units.sizes([wide, long, high], 2)}"

    def _top(self, body: RoughBody) -> float:
        ground = self._session.project.site.ground
        return ground.level if body.kind == "pit" and ground is not None else body.high
