"""Writing a picture as PNG."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image


def png_bytes(pixels: NDArray[np.uint8], dpi: float | None = None) -> bytes:
    """A PNG file of (height, width, 4) RGBA; without its alpha when nothing is clear. ``dpi`` is written into it."""
    image = Image.fromarray(pixels)
    if (pixels[..., 3] == 255).all():
        image = image.convert("RGB")
    buffer = io.BytesIO()
    image.save(buffer, "PNG", **({"dpi": (dpi, dpi)} if dpi else {}))
    return buffer.getvalue()
