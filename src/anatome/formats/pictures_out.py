"""Writing a picture: PNG, TIFF, and OpenRaster with its layers; and the passes of one, a file each."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from pathlib import Path
from xml.sax.saxutils import quoteattr

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from anatome.problems import Problem
from anatome.view.passes import Passes
from anatome.words import printable

THUMBNAIL = 256
"""Pixels of the longer side of the small picture in an OpenRaster file (its specification)."""


def png_bytes(pixels: NDArray[np.uint8] | NDArray[np.uint16], dpi: float | None = None) -> bytes:
    """Return a PNG file of (height, width, 4) RGBA, without its alpha when nothing is clear, or of (height, width) greys of 8
    or 16 bits. ``dpi`` is written into it."""
    buffer = io.BytesIO()
    _image(pixels).save(buffer, "PNG", **({"dpi": (dpi, dpi)} if dpi else {}))
    return buffer.getvalue()


def tiff_bytes(pixels: NDArray[np.uint8], dpi: float | None = None) -> bytes:
    """Return a TIFF file of the same, packed without loss."""
    buffer = io.BytesIO()
    _image(pixels).save(buffer, "TIFF", compression="tiff_adobe_deflate", **({"dpi": (dpi, dpi)} if dpi else {}))
    return buffer.getvalue()


def _image(pixels: NDArray[np.uint8] | NDArray[np.uint16]) -> Image.Image:
    image = Image.fromarray(np.ascontiguousarray(pixels))
    return image.convert("RGB") if pixels.ndim == 3 and (pixels[..., 3] == 255).all() else image


WRITERS = {".png": png_bytes, ".tif": tiff_bytes, ".tiff": tiff_bytes}


def writer_for(path: Path) -> Callable[[NDArray[np.uint8], float | None], bytes]:
    """Return what writes a picture into a file with this ending. Raises Problem when nothing does."""
    if path.suffix.lower() not in WRITERS:
        raise Problem(f"A picture is written as .png or .tif, not “{path.suffix}”. Change the end of the file's name.")
    return WRITERS[path.suffix.lower()]


def openraster_bytes(passes: Passes, dpi: float | None = None) -> bytes:
    """Return an OpenRaster file of the layers (openraster.org, file layout and layer stack); the picture is in it as well."""
    height, width = passes.colour.shape[:2]
    merged = _image(passes.colour)
    small = merged.copy()
    small.thumbnail((THUMBNAIL, THUMBNAIL))
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_STORED) as file:
        file.writestr("mimetype", "image/openraster")
        entries = []
        for number, layer in enumerate(passes.layers):
            name = f"data/layer{number:02d}.png"
            file.writestr(name, _png(Image.fromarray(layer.image)))
            way = "svg:multiply" if layer.multiplies else "svg:src-over"
            entries.append(
                f'  <layer name={quoteattr(printable(layer.name))} src={quoteattr(name)} x="0" y="0" opacity="1.0" '
                f'visibility="visible" composite-op="{way}"/>'
            )
        dots = f' xres="{round(dpi)}" yres="{round(dpi)}"' if dpi else ""
        stack = "\n".join(reversed(entries))  # the topmost comes first
        head = f'<?xml version="1.0" encoding="UTF-8"?>\n<image version="0.0.5" w="{width}" h="{height}"{dots}>\n <stack>\n'
        file.writestr("stack.xml", f"{head}{stack}\n </stack>\n</image>\n")
        file.writestr("mergedimage.png", _png(merged))
        file.writestr("Thumbnails/thumbnail.png", _png(small))
    return buffer.getvalue()


def _png(image: Image.Image) -> bytes:
    buffer = io.BytesIO()
    image.save(buffer, "PNG")
    return buffer.getvalue()


def passes_files(passes: Passes, folder: Path, name: str, dpi: float | None = None) -> dict[Path, bytes]:
    """Return the files of a picture's passes by their paths: each pass as a PNG, and what their colours mean as JSON."""
    files = {folder / f"{name}, {key}.png": png_bytes(image, dpi) for key, image in passes.images.items()}
    if passes.tables:
        files[folder / f"{name}, passes.json"] = (json.dumps(passes.tables, ensure_ascii=False, indent=1) + "\n").encode()
    return files
