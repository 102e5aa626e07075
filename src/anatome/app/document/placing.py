"""New cuts on the stage: each is picked, and cuts alone or beside the others, as one likes it."""

from __future__ import annotations

from anatome.app.document.preferences import new_cut_alone
from anatome.app.document.session import Session
from anatome.scenes import edits
from anatome.scenes.project import Project


def place(session: Session, project: Project, cut_id: str, said: str = "") -> None:
    """Go on with a project that has a new cut, and pick that. The others are switched off if one likes it so; else it is
    offered."""
    cut = project.stage.cut(cut_id)
    assert cut is not None
    words = said or f"Placed {cut.name}"
    own = {c.id for c in project.stage.cuts if c.id == cut_id or (cut.peel and c.peel == cut.peel)}
    others = frozenset(c.id for c in project.stage.active_cuts) - own
    alone = bool(others) and new_cut_alone()
    if alone:
        session.on_before = others
        project = edits.switch_cuts(project, own)
        words += f", {len(others)} other{'s' * (len(others) != 1)} off"
    session.apply(project, words)
    session.pick(cut=cut_id)
    if others and not alone:
        session.offered.emit("cut_alone", "Switch the others off")
