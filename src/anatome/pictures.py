"""Opening pictures of other people: four formats and no more, of a size that can be held, upright, as 8-bit RGB or RGBA."""

from __future__ import annotations

import io
import warnings
from pathlib import Path

import numpy as np
from PIL import Image, ImageOps

from anatome.problems import Problem

FORMATS = ("PNG", "JPEG", "WEBP", "TIFF")
"""By name: of all formats Pillow knows some start other programs."""
MOST_PIXELS = 100_000_000
LARGEST_FILE = 200_000_000
ORIENTATION = 0x0112
"""The tag of EXIF that says how the camera was held."""
DEEP_MODES = ("I;16", "I;16L", "I;16B", "I", "F")
"""Of greys deeper than 8 bits."""


def open_picture(source: Path | bytes, name: str = "") -> Image.Image:
    """Return a picture as RGB, or RGBA where some of it is clear; turned upright as its camera says (EXIF orientation).

    ``source`` is a file or its bytes, ``name`` what it is called in errors. Raises Problem for what is no such picture, is
    damaged or larger than MOST_PIXELS.
    """
    said = f"“{name or (source.name if isinstance(source, Path) else 'The picture')}”"
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of what is damaged a little
            stream = io.BytesIO(source) if isinstance(source, bytes) else io.BytesIO(_content(source, said))
            with Image.open(stream, formats=FORMATS) as opened:
                if opened.width * opened.height > MOST_PIXELS:
                    raise Problem(f"{said} has {opened.width} × {opened.height} pixels. Make it smaller first.")
                return plain(ImageOps.exif_transpose(opened))
    except Problem:
        raise
    except MemoryError as error:
        raise Problem(f"{said} needs more memory than there is. Make it smaller first.") from error
    except Exception as error:  # each decoder has its own, of damaged and hostile files any
        raise Problem(f"{said} is no picture that can be read. Choose a PNG, JPEG, WebP or TIFF file.") from error


def _content(path: Path, said: str) -> bytes:
    if not path.is_file():
        raise Problem(f"{said} is no file. Choose a PNG, JPEG, WebP or TIFF file.")
    if path.stat().st_size > LARGEST_FILE:
        raise Problem(f"{said} is larger than {LARGEST_FILE // 1_000_000} MB. Make it smaller first.")
    return path.read_bytes()


def plain(picture: Image.Image) -> Image.Image:
    """Return a picture with 8 bits a channel, as RGB, or RGBA where something is clear."""
    if picture.mode in DEEP_MODES:
        values = np.asarray(picture, np.float64)
        # 16 bits are scaled to 8; Pillow would cut off all that is above 255. Floating point greys are from 0 to 1.
        values = values * 255.0 if picture.mode == "F" else values / 257.0
        return Image.fromarray(np.round(values.clip(0, 255)).astype(np.uint8)).convert("RGB")
    if not picture.has_transparency_data:
        return picture.convert("RGB")
    clear = picture.convert("RGBA")
    return clear if np.asarray(clear.getchannel("A")).min() < 255 else clear.convert("RGB")


def on_white(picture: Image.Image) -> Image.Image:
    """Return a picture as RGB, white where it is clear."""
    if picture.mode != "RGBA":
        return picture.convert("RGB")
    ground = Image.new("RGB", picture.size, (255, 255, 255))
    ground.paste(picture, mask=picture.getchannel("A"))
    return ground


def forbid_other_formats() -> None:
    """Let nothing in this process open pictures of other formats, libraries neither: for processes that read other people's
    files."""
    Image.init()
    for name in [name for name in Image.ID if name not in FORMATS]:
        Image.ID.remove(name)
        Image.OPEN.pop(name, None)


def is_plain(data: bytes) -> bool:
    """Return whether the bytes of a picture that can be opened are an upright PNG or JPEG of 8 bits a channel, which every
    reader shows alike."""
    with Image.open(io.BytesIO(data), formats=FORMATS) as opened:
        upright = opened.getexif().get(ORIENTATION, 1) == 1
        return upright and opened.format in ("PNG", "JPEG") and opened.mode in ("L", "RGB", "RGBA")
