"""Writing a picture as PNG."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image


def png_bytes(pixels: NDArray[np.uint8]) -> bytes:
    """A PNG file of (height, width, 4) RGBA; without its alpha when nothing is clear."""
    image = Image.fromarray(pixels)
    if (pixels[..., 3] == 255).all():
        image = image.convert("RGB")
    buffer = io.BytesIO()
    image.save(buffer, "PNG")
    return buffer.getvalue()
