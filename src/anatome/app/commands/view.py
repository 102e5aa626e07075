"""Where the camera stands and how it draws."""

from __future__ import annotations

from functools import partial

from anatome.app.commands.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.scenes import edits
from anatome.view.camera import CORNERS, FACES, standard_view


class ViewCommands:
    """Moves the camera."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session

    def entries(self) -> list[Entry]:
        keys = {name: f"Alt+{(i + 1) % 10}" for i, name in enumerate([*FACES, *CORNERS])}

        def view(name: str) -> Entry:
            return Entry(f"view {name}", name, f"{name}, in parallel projection", partial(self.look_from, name), keys[name])

        return [
            *group(
                "Framing",
                "frame",
                Entry(
                    "fit",
                    "Fit",
                    "Show all of the building, or of what is picked",
                    self.fit,
                    "Home",
                    "arrows-out-simple",
                    stage_menu=True,
                ),
                Entry(
                    "projection",
                    "Perspective",
                    "Off: parallel projection",
                    self.toggle_projection,
                    "Ctrl+Shift+P",
                    checkable=True,
                ),
            ),
            *group("From a side", "frame", *map(view, FACES)),
            *group("Axonometric", "frame", *map(view, CORNERS)),
        ]

    def ticks(self) -> dict[str, bool]:
        """Which of the on/off commands are on."""
        return {"projection": self._session.stage.camera.is_perspective}

    def look_from(self, name: str) -> None:
        """Take a standard view."""
        session = self._session
        if session.building is not None:
            camera = standard_view(name, session.subject_bounds(), self._host.stage.aspect, session.stage.camera.field)
            session.look_from(camera)
            session.said.emit(name)

    def fit(self) -> None:
        s = self._session
        if s.building is not None:
            picked = s.picked_mask()
            bounds = s.building.bounds_of(picked) if picked is not None else s.subject_bounds()
            s.look_from(s.stage.camera.fitted(bounds, self._host.stage.aspect))

    def toggle_projection(self) -> None:
        s = self._session
        other = "parallel" if s.stage.camera.is_perspective else "perspective"
        s.look_from(edits.set_projection(s.project, other).stage.camera)  # type: ignore[arg-type]
