"""What a drawing of a view is of."""

from __future__ import annotations

from dataclasses import dataclass

from anatome.cuts.pieces import Opened
from anatome.look.divide import Divide
from anatome.look.look import UNSAID_PAPER, Look
from anatome.site.site import Figure
from anatome.view.camera import Camera
from anatome.view.viewport import Frame, Viewport

WHOLE = Frame()


@dataclass(frozen=True, eq=False)
class LineView:
    """What is drawn: what is opened, in a look that is put to work, through a frame, on paper so many millimetres high; beyond a
    ``divide``, if there is one, in its other look, put to work too."""

    camera: Camera
    opened: Opened
    look: Look
    frame: Frame = WHOLE
    figures: tuple[Figure, ...] = ()
    paper: float = UNSAID_PAPER
    divide: Divide | None = None

    def viewport(self) -> Viewport:
        """Of the paper, in millimetres."""
        return Viewport(self.camera, self.frame.sized(self.paper * self.frame.aspect, self.paper))
