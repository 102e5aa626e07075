"""Where the light comes from: with the view, as draughtsmen set it, or from where it is said."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.view.camera import Camera
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]


def towards_sun(viewport: Viewport, with_view: bool, turn: float, height: float) -> Array:
    """Return (3,) unit direction to the sun, ``height`` degrees over the horizon.

    With the view it stands ``turn`` degrees to the right of the viewer's back, so that −45 and 45 is light from the upper left
    (the usual light of drawings, common practice); else ``turn`` is clockwise from north, which is Y.
    """
    turned, raised = np.radians(turn), np.radians(height)
    if not with_view:
        level = np.array([np.sin(turned), np.cos(turned), 0.0])
    else:
        _, up, back = viewport.camera.axes
        behind = np.array([back[0], back[1], 0.0])
        if np.linalg.norm(behind) < 0.2:  # looking down or up: what is up on the picture lies away from the viewer
            behind = -np.array([up[0], up[1], 0.0])
        behind /= np.linalg.norm(behind)
        # Over the left shoulder is to the left, seen from behind the viewer as well.
        aside = np.array([-behind[1], behind[0], 0.0])
        level = np.cos(turned) * behind + np.sin(turned) * aside
    found = np.append(level[:2] * np.cos(raised), np.sin(raised))
    return np.asarray(found / np.linalg.norm(found))


def seen_from_sun(direction: Array, bounds: Array, size: int) -> Viewport:
    """Return a parallel view from the sun, square, that holds the (2, 3) bounds in metres."""
    centre, radius = bounds.mean(axis=0), float(np.linalg.norm(bounds[1] - bounds[0])) / 2
    up = (0.0, 1.0, 0.0) if abs(direction[2]) > 0.95 else (0.0, 0.0, 1.0)
    eye = centre + direction * 2.2 * radius
    camera = Camera(eye=tuple(eye.tolist()), target=tuple(centre.tolist()), up=up, projection="parallel", field=30.0)
    corners = np.array([[x, y, z] for x in bounds[:, 0] for y in bounds[:, 1] for z in bounds[:, 2]])
    return Viewport.of(camera.fitted_round(corners, 1.0, 1.02), size, size)
