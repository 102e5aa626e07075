"""Drawing the line on either side of which the picture has another look."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.app.document.session import Session
from anatome.app.stage.tasks import Pointer, Preview, StageTask
from anatome.look.divide import Divide
from anatome.look.look import Look
from anatome.look.shipped import shipped_looks
from anatome.scenes.look_edits import set_divide
from anatome.view.viewport import Viewport

FIRST_OTHER = "Ink lines only"


def other_look(session: Session) -> Look:
    """Return what the other side has at first: the other look there is, or one unlike the stage's."""
    if session.stage.divide is not None:
        return session.stage.divide.other
    looks = shipped_looks()
    return looks[FIRST_OTHER] if session.stage.look.name != FIRST_OTHER else next(iter(looks.values()))


@dataclass
class DrawDivide(StageTask):
    """Two clicks: where the line begins, and where it runs to. To its right is the other look."""

    name: str = "divide"
    first: NDArray[np.float64] | None = None

    def __post_init__(self) -> None:
        self.hint = "Click where the line between the two looks begins"

    def hover(self, pointer: Pointer) -> None:
        if self.first is not None:
            self.preview = Preview(
                dots=(self.first,), outlines=(np.stack([self.first, facing_place(pointer.viewport, pointer.at)]),)
            )

    def click(self, pointer: Pointer) -> bool:
        place = facing_place(pointer.viewport, pointer.at)
        if self.first is None:
            self.first, self.hint = place, "Click where the line runs: the other look lies to its right"
            return False
        if np.allclose(self.first, place):
            return False
        ends = tuple((float(p[0]), float(p[1]), float(p[2])) for p in (self.first, place))
        divide = Divide(other=other_look(self.session), by="line", line=(ends[0], ends[1]))
        self.session.apply(set_divide(self.session.project, divide), f"Two looks: {divide.other.name} to the right of the line")
        return True


def facing_place(viewport: Viewport, at: tuple[float, float]) -> NDArray[np.float64]:
    """Return the place under a pixel in the plane that faces the camera at what it looks at."""
    origin, direction = viewport.ray(*at)
    target = np.array(viewport.camera.target)
    normal = viewport.camera.axes[2]
    return np.asarray(origin + direction * float((target - origin) @ normal) / float(direction @ normal))
