"""Writing a picture: PNG, TIFF, and OpenRaster with its layers; and the passes of one, a file each."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import Path
from typing import Any, Protocol
from xml.sax.saxutils import quoteattr

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from anatome.formats.about import About, png_words, xmp_packet
from anatome.problems import Problem
from anatome.view.passes import Passes
from anatome.words import printable

JPEG_QUALITY, WEBP_QUALITY = 95, 92
TITLE_TAG, XMP_TAG = 270, 700
"""Of a TIFF: ImageDescription, and the packet of XMP (ISO 16684-1)."""
THUMBNAIL = 256
"""Pixels of the longer side of the small picture in an OpenRaster file (its specification)."""


Colours = NDArray[np.uint8]


def png_bytes(pixels: Colours | NDArray[np.uint16], dpi: float | None = None, about: About | None = None) -> bytes:
    """Return a PNG file of (height, width, 4) RGBA, without its alpha when nothing is clear, or of (height, width) greys of 8
    or 16 bits. ``dpi`` is written into it, and what it is ``about``."""
    more: dict[str, Any] = {} if about is None else {"pnginfo": png_words(about)}
    return _written(_image(pixels), "PNG", **_dots(dpi), **more)


def tiff_bytes(pixels: Colours, dpi: float | None = None, about: About | None = None) -> bytes:
    """Return a TIFF file of the same, packed without loss."""
    more: dict[str, Any] = {} if about is None else {"tiffinfo": {TITLE_TAG: about.title, XMP_TAG: xmp_packet(about)}}
    return _written(_image(pixels), "TIFF", compression="tiff_adobe_deflate", **_dots(dpi), **more)


def jpeg_bytes(pixels: Colours, dpi: float | None = None, about: About | None = None) -> bytes:
    """Return a JPEG file, on white where it is clear; colours as fine as lines, so that none bleeds. Raises Problem where it is
    larger than the format holds."""
    image = _image(pixels)
    _check_size(image, 65_535, "JPEG")
    if image.mode == "RGBA":
        white = Image.new("RGB", image.size, (255, 255, 255))
        white.paste(image, mask=image.getchannel("A"))
        image = white
    more: dict[str, Any] = {} if about is None else {"xmp": xmp_packet(about)}
    return _written(image, "JPEG", quality=JPEG_QUALITY, subsampling=0, optimize=True, **_dots(dpi), **more)


def webp_bytes(pixels: Colours, dpi: float | None = None, about: About | None = None) -> bytes:
    """Return a WebP file, clear where the picture is. Raises Problem where it is larger than the format holds."""
    image = _image(pixels)
    _check_size(image, 16_383, "WebP")
    more: dict[str, Any] = {} if about is None else {"xmp": xmp_packet(about)}
    return _written(image, "WEBP", quality=WEBP_QUALITY, method=4, **more)


def _dots(dpi: float | None) -> dict[str, Any]:
    return {"dpi": (dpi, dpi)} if dpi else {}


def _written(image: Image.Image, kind: str, **how: Any) -> bytes:
    buffer = io.BytesIO()
    image.save(buffer, kind, **how)
    return buffer.getvalue()


def _check_size(image: Image.Image, most: int, kind: str) -> None:
    if max(image.size) > most:
        raise Problem(f"A {kind} picture has at most {most:,} pixels across and up. Write it as .png or .tif.")


def _image(pixels: Colours | NDArray[np.uint16]) -> Image.Image:
    image = Image.fromarray(np.ascontiguousarray(pixels))
    return image.convert("RGB") if pixels.ndim == 3 and (pixels[..., 3] == 255).all() else image


class Writer(Protocol):
    """What writes a picture, with dots an inch and what it is about."""

    def __call__(self, pixels: Colours, dpi: float | None = None, about: About | None = None) -> bytes:
        """Return the file."""


WRITERS: dict[str, Writer] = {
    **{".png": png_bytes, ".tif": tiff_bytes, ".tiff": tiff_bytes},
    **{".jpg": jpeg_bytes, ".jpeg": jpeg_bytes, ".webp": webp_bytes},
}


def writer_for(path: Path) -> Writer:
    """Return what writes a picture into a file with this ending. Raises Problem when nothing does."""
    if path.suffix.lower() not in WRITERS:
        known = ".png, .tif, .jpg or .webp"
        raise Problem(f"A picture is written as {known}, not “{path.suffix}”. Change the end of the file's name.")
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


LAYERED = (".ora", ".tif", ".tiff")
"""Endings of pictures in layers."""


def layers_bytes(path: Path, passes: Passes, dpi: float | None = None) -> bytes:
    """Return a picture in layers by its file's ending: OpenRaster, or TIFF. Raises Problem for another one."""
    check_layered(path)
    if path.suffix.lower() == ".ora":
        return openraster_bytes(passes, dpi)
    from anatome.formats.tiff_layers import layered_tiff_bytes

    return layered_tiff_bytes(passes, dpi)


def check_layered(path: Path) -> None:
    """Raise Problem for a file whose ending has no layers."""
    if path.suffix.lower() not in LAYERED:
        raise Problem(f"A picture in layers is written as .ora or .tif, not “{path.suffix}”. Change the end of the file's name.")


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
