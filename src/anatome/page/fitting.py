"""Pictures of a page as WebP, as good as they can be in a file no larger than was asked for."""

from __future__ import annotations

import base64
import io
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from anatome.page.contents import MEGABYTE
from anatome.problems import Problem

Pixels = NDArray[np.uint8]

STEPS = ((82, 1.0), (74, 1.0), (66, 1.0), (62, 0.85), (56, 0.75), (50, 0.65), (44, 0.5))
"""Qualities of WebP and shares of the size in pixels, the best first."""
SAMPLED = 7
"""Every so manieth picture tells how large all will be."""
IN_TEXT = 4 / 3
"""How much larger bytes are in base 64."""
USUAL = 0.075
"""Bytes a pixel of a drawn picture takes at the best of the steps, measured on the demo."""
FILM_BITS = 0.045
"""Bits a pixel of a frame of a film takes, measured on the demo."""


@dataclass(frozen=True)
class Fitted:
    """WebP files in their order, and by which quality and share of the size they fit."""

    files: tuple[bytes, ...]
    quality: int
    share: float


def fitted(pictures: Sequence[Callable[[], Pixels]], most: float, told: Callable[[float], bool] | None = None) -> Fitted:
    """Return pictures, each asked for when it is packed, in at most so many bytes of text. ``told`` hears the share done and may
    return False to stop. Raises Problem where they do not fit at all, or when it was stopped."""
    chosen = pictures[::SAMPLED]
    for quality, share in STEPS:
        guess = IN_TEXT * sum(len(webp(picture(), quality, share)) for picture in chosen) * len(pictures) / max(len(chosen), 1)
        if guess > 1.08 * most:
            continue
        files, size = [], 0.0
        for number, picture in enumerate(pictures):
            files.append(webp(picture(), quality, share))
            size += len(text_of(files[-1]))
            if size > most:
                break
            if told is not None and not told((number + 1) / len(pictures)):
                raise Problem("The page was cancelled; nothing was written.")
        else:
            return Fitted(tuple(files), quality, share)
    quality, share = STEPS[-1]
    size = IN_TEXT * sum(len(webp(picture(), quality, share)) for picture in pictures)
    raise Problem(
        f"The pictures take {size / MEGABYTE:.1f} MB at the least, and {most / MEGABYTE:.1f} MB is left for them. "
        "Allow more, choose fewer scenes or films, or fewer frames."
    )


def webp(pixels: Pixels, quality: int, share: float = 1.0) -> bytes:
    """Return a WebP file of (h, w, 4) RGBA, at a share of its size; clear where the picture is."""
    image = Image.fromarray(pixels)
    if share != 1.0:
        image = image.resize((max(round(image.width * share), 1), max(round(image.height * share), 1)), Image.Resampling.LANCZOS)
    if (pixels[..., 3] == 255).all():
        image = image.convert("RGB")
    buffer = io.BytesIO()
    image.save(buffer, "WEBP", quality=quality, method=4)
    return buffer.getvalue()


def text_of(content: bytes) -> str:
    """Return bytes in base 64."""
    return base64.b64encode(content).decode("ascii")
