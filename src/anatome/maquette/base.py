"""A base under a scale model, with a name on it in raised letters."""

from __future__ import annotations

import manifold3d
import numpy as np
from numpy.typing import NDArray

from anatome.maquette.settings import MaquetteSettings
from anatome.notes.letter_lines import letter_lines
from anatome.notes.lettering import width

Array = NDArray[np.float64]
MARGIN, INTO = 4.0, 0.3
"""Mm of base round the model, and by which the model stands in it."""
CAPITALS, RAISED = 5.0, 0.8
"""Mm letters are high, at most, and stand over the base."""


def round_model(how: MaquetteSettings) -> Array:
    """Return (3,) mm by which a base makes a model wider, deeper and higher."""
    if how.base <= 0:
        return np.zeros(3)
    return np.array([2 * MARGIN, 2 * MARGIN + (2.0 * CAPITALS if how.name.strip() else 0.0), how.base - INTO])


def on_base(solid: manifold3d.Manifold, how: MaquetteSettings) -> manifold3d.Manifold:
    """Return a model on its base, all from 0 upwards; without one as it is."""
    if how.base <= 0:
        return solid
    x0, y0, _, x1, y1, _ = solid.bounding_box()
    name = how.name.strip()
    strip = 2.0 * CAPITALS if name else 0.0
    wider, deeper, _ = round_model(how).tolist()
    size = x1 - x0 + wider, y1 - y0 + deeper, how.base
    base = manifold3d.Manifold.cube(size).translate((x0 - MARGIN, y0 - MARGIN - strip, 0.0))
    parts = [base, solid.translate((0.0, 0.0, how.base - INTO))]
    letters = lettered(name, size[0] - 2 * MARGIN) if name else None
    if letters is not None:
        parts.append(letters.translate((x0, y0 - strip - MARGIN / 2 + CAPITALS / 2, how.base - 0.1)))
    return manifold3d.Manifold.batch_boolean(parts, manifold3d.OpType.Add)


def lettered(name: str, room: float) -> manifold3d.Manifold | None:
    """Return a name as solid letters from (0, 0) to the right, not longer than there is room; None where it has none."""
    high = min(CAPITALS, room / max(width(name, True), 1e-6))
    rings = letter_lines(name, np.zeros(2), high, True)
    if not rings:
        return None
    section = manifold3d.CrossSection([ring[:-1].tolist() for ring in rings], manifold3d.FillRule.NonZero)
    return None if section.is_empty() else section.extrude(RAISED + 0.1)
