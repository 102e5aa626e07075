"""Films as files: MP4 (H.264), WebM (VP9 or AV1) through FFmpeg's libraries (PyAV), animated GIF and WebP (Pillow)."""

from __future__ import annotations

import io
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from anatome.files import write_whole
from anatome.problems import Problem

Pixels = NDArray[np.uint8]
FILM_SUFFIXES = (".mp4", ".webm", ".gif", ".webp")
CODECS = {".mp4": "libx264", ".webm": "libvpx-vp9"}
QUALITIES = {"draft": (30, 40), "good": (20, 30), "best": (14, 20)}
"""Constant rate factors of H.264 and of VP9: the smaller, the better."""
DRAFT_SAMPLES = 4
"""Of each frame of a draft, for which nobody waits; others have as many as finished pictures."""
WEBP_QUALITIES = {"draft": 60, "good": 80, "best": 92}


@dataclass(frozen=True)
class FilmSettings:
    """Pixels, frames a second, one of :data:`QUALITIES`, and whether GIF and WebP go on for ever."""

    size: tuple[int, int]
    rate: float = 25.0
    quality: str = "good"
    loop: bool = True


def check_film(path: Path, settings: FilmSettings) -> None:
    """Raise Problem where no film like that can be written."""
    suffix = path.suffix.lower()
    if suffix not in FILM_SUFFIXES:
        raise Problem(f"A film is a file that ends with {', '.join(FILM_SUFFIXES)}; or give a folder for a PNG of each frame.")
    if settings.quality not in QUALITIES:
        raise Problem(f"There is no quality “{settings.quality}”. Those there are: {', '.join(QUALITIES)}.")
    if suffix in CODECS and (settings.size[0] % 2 or settings.size[1] % 2):
        raise Problem("A film in MP4 or WebM has an even number of pixels across and up, for example 1280x720.")


def write_film(path: Path, frames: Iterable[Pixels], settings: FilmSettings) -> None:
    """Write frames (h, w, 4) RGBA as a film, whole or not at all. Raises Problem."""
    check_film(path, settings)
    write_whole(path, film_bytes(frames, settings, path.suffix.lower()))


def film_bytes(frames: Iterable[Pixels], settings: FilmSettings, suffix: str) -> bytes:
    """Return frames as a film with one of :data:`FILM_SUFFIXES`."""
    return _coded(frames, settings, suffix) if suffix in CODECS else _animated(frames, settings, suffix)


def _coded(frames: Iterable[Pixels], settings: FilmSettings, suffix: str) -> bytes:
    import av

    stream_to = io.BytesIO()
    with av.open(stream_to, "w", format=suffix[1:]) as container:
        stream: Any = container.add_stream(CODECS[suffix], rate=Fraction(settings.rate).limit_denominator(1001))
        stream.width, stream.height = settings.size
        stream.pix_fmt = "yuv420p"
        h264, vp9 = QUALITIES[settings.quality]
        # Drawings are flat, with sharp lines: slow and tuned for that is both smaller and cleaner.
        animation = {"crf": str(h264), "preset": "slow", "tune": "animation", "movflags": "+faststart"}
        stream.options = animation if suffix == ".mp4" else {"crf": str(vp9), "b:v": "0", "row-mt": "1", "cpu-used": "4"}
        for pixels in frames:
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels[..., :3]), format="rgb24")
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return stream_to.getvalue()


def _animated(frames: Iterable[Pixels], settings: FilmSettings, suffix: str) -> bytes:
    images = _images(frames, suffix)
    first = next(images)
    buffer = io.BytesIO()
    more: dict[str, Any] = {"loop": 0} if settings.loop else {"loop": 1} if suffix == ".webp" else {}
    common: dict[str, Any] = {"save_all": True, "append_images": images, "duration": 1000.0 / settings.rate, **more}
    if suffix == ".gif":
        first.save(buffer, "GIF", disposal=2, **common)
    else:
        first.save(buffer, "WEBP", quality=WEBP_QUALITIES[settings.quality], method=4, **common)
    return buffer.getvalue()


def _images(frames: Iterable[Pixels], suffix: str) -> Iterator[Image.Image]:
    for pixels in frames:
        image = Image.fromarray(pixels)
        yield image.convert("RGB").quantize(256, dither=Image.Dither.NONE) if suffix == ".gif" else image
