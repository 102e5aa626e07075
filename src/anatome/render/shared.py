"""What the pictures of one view have in common, and what is derived from a look and a height alone."""

from __future__ import annotations

from dataclasses import dataclass

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.look.look import UNSAID_PAPER, Look
from anatome.render.cut_buffers import CutBuffers
from anatome.render.model_buffers import ModelBuffers
from anatome.render.programs import Programs
from anatome.render.window import Window
from anatome.view.viewport import Viewport


@dataclass
class SeenBefore:
    """The clusters (C,) that the picture before this one showed: what is likely to hide the rest."""

    clusters: NDArray[np.bool_] | None = None

    def clusters_of(self, count: int) -> NDArray[np.bool_]:
        """Return all of them, where nothing is known yet."""
        return np.ones(count, bool) if self.clusters is None else self.clusters


def widest_probe(height: int) -> float:
    """Return how many pixels ambient occlusion may look around in a picture of this height."""
    return 0.055 * height


def shade_coarseness(height: int) -> int:
    """Of how many pixels across one probe of ambient occlusion is, in a picture of this height: it is soft, whatever its size."""
    return max(2, min(4, round(height / 700)))


def shown_bare(look: Look) -> Look:
    """Return the look without all that costs time and says nothing of where things are."""
    return look.model_copy(
        update={"edges": False, "shade": False, "ground": False, "patterns": False, "haze": 0.0, "hidden_lines": False}
    )


def shown_evenly(look: Look) -> Look:
    """Return the look with no light or shade of its own."""
    return look.model_copy(update={"tones": (1.0, 1.0, 1.0, 1.0), "shade": False, "shadows": 0.0})


@dataclass(frozen=True, eq=False)
class Shared:
    """What all pieces of one picture have in common."""

    ctx: moderngl.Context
    programs: Programs
    model: ModelBuffers
    cuts: CutBuffers
    viewport: Viewport
    look: Look
    window: Window
    moving: bool
    numbered: bool = False
    paper: float = UNSAID_PAPER
