"""A picture in layers as a TIFF that retouching programs open in layers: the whole of it, and in a tag of its own each layer."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
import psdtags as psd
import tifffile

from anatome.problems import Problem
from anatome.view.passes import Passes, PictureLayer
from anatome.words import printable

LARGEST = 30_000
"""Pixels across or up that such layers may have (of the layers' format, value from memory)."""
RGB = (psd.PsdChannelId.CHANNEL0, psd.PsdChannelId.CHANNEL1, psd.PsdChannelId.CHANNEL2)
COMPRESSED = "adobe_deflate"


def layered_tiff_bytes(passes: Passes, dpi: float | None = None) -> bytes:
    """Return a TIFF file of a picture and its layers, from the paper up, those that darken multiplied. Raises Problem where it is
    too large for layers."""
    high, wide = passes.colour.shape[:2]
    if max(wide, high) > LARGEST:
        raise Problem(f"A TIFF in layers is at most {LARGEST:,} pixels across and up. Write it smaller, or as .ora.")
    stacked = psd.PsdLayers(
        key=psd.PsdKey.LAYER,
        has_transparency=False,
        layers=[_layer(layer, wide, high) for layer in passes.layers],
    )
    nothing = psd.PsdUserMask(colorspace=psd.PsdColorSpaceType.RGB, components=(65535, 0, 0, 0), opacity=50)
    held = psd.TiffImageSourceData(name="layers", psdformat=psd.PsdFormat.LE32BIT, layers=stacked, usermask=nothing, info=[])
    buffer = io.BytesIO()
    dots: dict[str, Any] = {} if dpi is None else {"resolution": (dpi, dpi), "resolutionunit": "INCH"}
    tifffile.imwrite(
        buffer,
        passes.colour,
        byteorder="<",
        photometric="rgb",
        extrasamples=["unassalpha"],
        compression=COMPRESSED,
        metadata=None,
        extratags=[held.tifftag()],
        **dots,
    )
    return buffer.getvalue()


def _layer(layer: PictureLayer, wide: int, high: int) -> psd.PsdLayer:
    """A layer as large as its inked part."""
    rows, columns = (np.flatnonzero(layer.image[..., 3].any(axis=axis)) for axis in (1, 0))
    top, bottom = (int(rows[0]), int(rows[-1]) + 1) if len(rows) else (0, 1)
    left, right = (int(columns[0]), int(columns[-1]) + 1) if len(columns) else (0, 1)
    part = layer.image[top:bottom, left:right]
    alpha = psd.PsdChannelId.TRANSPARENCY_MASK
    channels = [
        psd.PsdChannel(channelid=channel, compression=psd.PsdCompressionType.ZIP, data=np.ascontiguousarray(part[..., number]))
        for channel, number in ((alpha, 3), *zip(RGB, range(3)))
    ]
    name = printable(layer.name)
    return psd.PsdLayer(
        name=name,
        rectangle=psd.PsdRectangle(top, left, bottom, right),
        channels=channels,
        mask=psd.PsdLayerMask(),
        opacity=255,
        blendmode=psd.PsdBlendMode.MULTIPLY if layer.multiplies else psd.PsdBlendMode.NORMAL,
        blending_ranges=(),
        clipping=psd.PsdClippingType.BASE,
        flags=psd.PsdLayerFlag.PHOTOSHOP5,
        info=[psd.PsdString(psd.PsdKey.UNICODE_LAYER_NAME, name)],
    )
