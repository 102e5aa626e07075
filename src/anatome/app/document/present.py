"""What there is to work on, by the words commands say they need."""

from __future__ import annotations

from anatome.app.document.desk import Desk
from anatome.app.document.film_desk import FilmDesk
from anatome.app.document.session import Session
from anatome.scenes.shared_cuts import scenes_with
from anatome.site.site import GROUND_ID


def present(session: Session, desk: Desk, films: FilmDesk) -> set[str]:
    """Return all that commands can find; nothing but “nothing” where no project is open."""
    if not session.is_open:
        return {"nothing"}
    s, stage, project = session, session.stage, session.project
    found = {
        "nothing": True,
        "project": True,
        "cut": s.cut is not None,
        "series": bool(stage.series),
        "cut or series": s.cut is not None or s.series is not None,
        "scene": s.scene is not None,
        "variant": s.scene is not None and bool(s.scene.stack),
        "elements": bool(s.picked.elements),
        "hidden elements": bool(s.picked.elements & stage.hidden),
        "figure": s.figure is not None,
        "detail": s.detail is not None,
        "note": bool(s.notes),
        "notes picked": len(s.notes) > 1,
        "notes": bool(stage.notes),
        "touched up": bool(stage.touched_up),
        "dimension": len(s.notes) == 1 and s.notes[0].kind == "dimension",
        "sheets": bool(project.sheets),
        "sheet": desk.sheet is not None,
        "block": bool(desk.blocks),
        "blocks picked": len(desk.blocks) > 1,
        "frame": len(desk.frames) == 1 == len(desk.blocks),
        "frames there": desk.sheet is not None and len(desk.sheet.frames) > 1,
        "frames": len(desk.frames) > 1,
        "film": films.film is not None,
        "shot": films.shot is not None,
        "shot with a way": hasattr(films.shot, "path"),
        "blocks": any(i.startswith("site ") and i != GROUND_ID for i in s.picked.elements),
        "scenes": bool(project.scenes),
        "scenes picked": bool(s.picked.scenes),
        "active": bool(stage.active_cuts or stage.series),
        "hidden": bool(stage.hidden),
        "isolated": stage.hidden_before is not None,
        "cuts": bool(stage.cuts),
        "shared cut": s.just_followed is not None or (s.cut is not None and len(scenes_with(project, s.cut.id)) > 0),
        "other scenes": len(project.scenes) > (s.scene is not None),
        "apart": stage.is_apart,
        "undo": bool(s.history.undo_label),
        "redo": bool(s.history.redo_label),
        "changed": project.differs_from_scene,
    }
    return {word for word, on in found.items() if on}
