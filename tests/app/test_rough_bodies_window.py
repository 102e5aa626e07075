"""A slab, footings and a pit made in the window: cut like the rest, changed by their rows, undone."""

from __future__ import annotations

import numpy as np
import pytest

from anatome.app.base.ask import Ask
from anatome.cuts.plane import Plane
from anatome.scenes import edits


def asked(hand, lengths: dict[str, float], **chosen: int) -> None:
    """Type lengths into the dialog that is open, choose, and press its button."""
    ask = hand.window.findChild(Ask)
    for name, metres in lengths.items():
        ask.lengths[name].show_value(metres)
    for name, place in chosen.items():
        ask.choices[name].setCurrentIndex(place)
    ask.go.click()
    hand.qtbot.waitUntil(lambda: hand.window.findChild(Ask) is None)


def names(session) -> list[str]:
    return [e.name for e in session.building.elements]


def test_a_slab_and_footings_are_parts_and_a_pit_is_missing_earth(held) -> None:
    hand, session = held, held.window.session
    hand.do("slab")
    asked(hand, {"Thick": 0.4, "Reaches beyond": 0.5, "Its top": -1.0})
    hand.qtbot.waitUntil(lambda: "Slab" in names(session), timeout=30_000)
    posts = [e.id for e in session.model.elements if e.name.startswith("Terrace post")]
    session.pick(elements=frozenset(posts))
    hand.do("footings")
    asked(hand, {"Wider on every side": 0.15, "Deep": 0.5})
    hand.qtbot.waitUntil(lambda: sum(n.startswith("Footing, Terrace post") for n in names(session)) == len(posts), timeout=30_000)
    session.pick()
    hand.do("pit")  # offers what it needs first
    assert hand.window.findChild(Ask) is None and hand.window.status.offered.isVisible()
    hand.window.status.offered.click()
    hand.qtbot.waitUntil(lambda: "Ground" in names(session), timeout=30_000)
    ground = session.project.site.ground
    hand.do("pit")
    asked(hand, {"Wide": 2.0, "Deep": 1.0, "Middle, X": -6.0, "Middle, Y": 6.0}, Shape=1)
    hand.qtbot.waitUntil(lambda: session.is_built and len(session.project.site.bodies) == len(posts) + 2, timeout=30_000)
    number = session.building.index_of["site ground"]
    start, end = session.building.triangle_start[number : number + 2]
    used = session.building.vertices[session.building.triangles[start:end].ravel()]
    near = used[np.linalg.norm(used[:, :2] - [-6.0, 6.0], axis=1) < 1.1]
    assert near[:, 2].min() == pytest.approx(ground.level - 1.0)
    session.apply(edits.add_plane(session.project, Plane((10.0, 6.2, 0.0), (0.0, -1.0, 0.0)), "a"), "Cut")
    hand.settle()
    cut = {session.building.elements[i].name for face in session.left().faces for i in face.section.element.tolist()}
    assert {"Slab", "Ground"} <= cut
    # By their rows they are changed and deleted.
    box = hand.window.inspector.overview.site
    rows = [box.bodies.itemAt(i).layout() for i in range(box.bodies.count()) if box.bodies.itemAt(i).layout() is not None]
    words = [row.itemAt(0).widget() for row in rows]
    assert words[0].text().startswith("Slab") and words[-1].text().startswith("Pit")
    words[0].click()
    asked(hand, {"From": -2.0})
    hand.qtbot.waitUntil(lambda: session.is_built and session.project.site.bodies[0].low == -2.0, timeout=30_000)
    rows = [box.bodies.itemAt(i).layout() for i in range(box.bodies.count())]
    rows[0].itemAt(1).widget().click()
    hand.qtbot.waitUntil(lambda: session.is_built and "Slab" not in names(session), timeout=30_000)
    for _ in range(3):
        hand.do("undo")
    hand.qtbot.waitUntil(lambda: session.is_built and "Slab" in names(session), timeout=30_000)
