"""Heights of ground from files: points (XYZ), points of a laser scan (LAS, LAZ), a grid of text (ESRI ASCII grid), a picture of
heights (GeoTIFF)."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from anatome.problems import Problem
from anatome.site.relief import MOST_HEIGHTS, Relief

Array = NDArray[np.float64]
LARGEST = 400_000_000
"""Bytes."""
MOST_POINTS = 20_000_000
EVEN = 1e-3
"""Share of a step by which points on a grid may be off it."""
PIXEL_SCALE, TIE_POINT, GEO_KEYS, NO_DATA = 33550, 33922, 34735, 42113
"""Tags of a GeoTIFF (OGC 19-008r4), and that in which GDAL says what is no height."""
RASTER_TYPE, IS_POINT = 1025, 2
"""The key that says what a pixel is, and its value where that is a point and no area."""
GROUND_CLASS = 2
"""What the ground is classified as in a laser scan (ASPRS LAS 1.4)."""
SCATTERED = 100_000
"""Points that lie anywhere from which the mean of those in each cell is taken, instead of what lies between them."""
PER_CELL = 4.0
"""Points in a cell, on the whole."""


@dataclass(frozen=True, eq=False)
class Heights:
    """``values`` (rows, columns) metres, rows from south to north, NaN where there is none, ``step`` apart from ``west`` and
    ``south`` on, in the coordinates of the file."""

    west: float
    south: float
    step: float
    values: Array


def read_heights(path: Path) -> Heights:
    """Return the heights in a file. Raises Problem when it cannot be read or holds none."""
    reader = READERS.get(path.suffix.lower())
    if reader is None:
        raise Problem(f"“{path.name}” is no kind of heights that is read. Choose points (XYZ, LAS), an ASCII grid or a GeoTIFF.")
    try:
        if path.stat().st_size > LARGEST:
            raise Problem(f"“{path.name}” is larger than {LARGEST // 1_000_000} MB. Cut out what lies round the building.")
        found = reader(path)
    except OSError as error:
        raise Problem(f"“{path.name}” could not be read: {error.strerror or error}.") from error
    except (ValueError, OverflowError, MemoryError) as error:
        raise Problem(f"“{path.name}” could not be read as heights: {error}. Export it again.") from error
    if min(found.values.shape) < 2 or not np.isfinite(found.values).any():
        raise Problem(f"“{path.name}” holds no heights of an area.")
    return found


def relief_round(heights: Heights, middle: Array, reach: float, name: str = "") -> Relief:
    """Return the heights within ``reach`` metres of (2,) a place in the coordinates of the file, along both axes, in steps as the
    file has them or as many as a project holds. Gaps take what lies nearest. Raises Problem where none lie there."""
    from scipy.interpolate import NearestNDInterpolator  # slow to load
    from scipy.ndimage import map_coordinates

    rows, columns = heights.values.shape
    low = np.maximum(np.floor((middle - reach - (heights.west, heights.south)) / heights.step), 0).astype(int)
    high = np.minimum(np.ceil((middle + reach - (heights.west, heights.south)) / heights.step), (columns - 1, rows - 1)).astype(
        int
    )
    if (high - low < 1).any():
        raise Problem("None of these heights lie round the building.")
    part = heights.values[low[1] : high[1] + 1, low[0] : high[0] + 1]
    known = np.isfinite(part)
    if not known.any():
        raise Problem("None of these heights lie round the building.")
    if not known.all():
        places = np.argwhere(known)
        part = np.where(known, part, NearestNDInterpolator(places, part[known])(*np.indices(part.shape)))
    coarser = max(1.0, float(np.sqrt(part.size / MOST_HEIGHTS)))
    step = heights.step * coarser
    counts = np.maximum(np.floor((high - low) / coarser).astype(int) + 1, 2)
    while counts[0] * counts[1] > MOST_HEIGHTS:
        counts -= 1
    at = np.meshgrid(np.arange(counts[1]) * coarser, np.arange(counts[0]) * coarser, indexing="ij")
    found = map_coordinates(part, at, order=1, mode="nearest")
    west, south = heights.west + heights.step * low[0], heights.south + heights.step * low[1]
    rounded = tuple(np.round(found.ravel(), 3).tolist())
    return Relief(name=name[:500], west=float(west), south=float(south), step=step, columns=int(counts[0]), heights=rounded)


def _points(path: Path) -> Heights:
    """Lines of x, y and z; on a grid, or wherever: then between them in proportion."""
    text = path.read_text(encoding="utf-8-sig", errors="replace")
    lines = re.sub(r"[;,\t]", " ", text).splitlines()
    first = next((i for i, line in enumerate(lines) if re.match(r"\s*[-+.\d]", line)), len(lines))
    rows = [line.split()[:3] for line in lines[first:] if line.strip() and not line.lstrip().startswith("#")]
    if not rows or any(len(row) < 3 for row in rows):
        raise ValueError("every line should have three numbers: x, y and height")
    if len(rows) > MOST_POINTS:
        raise ValueError(f"it has more than {MOST_POINTS:,} points")
    points = np.array(rows, np.float64)
    points = points[np.isfinite(points).all(axis=1)]
    if len(points) < 4:
        raise ValueError("it has fewer than four points")
    x, y = (np.unique(points[:, i]) for i in range(2))
    steps = np.concatenate([np.diff(x), np.diff(y)])
    step = float(np.median(steps)) if len(steps) else 0.0
    if step > 0 and len(x) * len(y) <= 4 * len(points):
        at = (points[:, :2] - (x[0], y[0])) / step
        if np.abs(at - np.round(at)).max() < EVEN:
            size = np.round(at.max(axis=0)).astype(int) + 1
            values = np.full((size[1], size[0]), np.nan)
            column, row = np.round(at).astype(int).T
            values[row, column] = points[:, 2]
            return Heights(float(x[0]), float(y[0]), step, values)
    return _scattered(points)


def _las(path: Path) -> Heights:
    """A laser scan: what is classified as ground, or all of it where nothing is."""
    import laspy

    try:
        with laspy.open(path) as stream:
            if stream.header.point_count > MOST_POINTS:
                raise ValueError(f"it has more than {MOST_POINTS:,} points; cut out what lies round the building")
            scan = stream.read()
    except laspy.LaspyException as error:
        raise ValueError(str(error)) from error
    kept = np.asarray(scan.classification) == GROUND_CLASS
    kept = kept if kept.any() else np.ones(len(kept), bool)
    points = np.column_stack([np.asarray(axis)[kept] for axis in (scan.x, scan.y, scan.z)]).astype(np.float64)
    if len(points) < 4:
        raise ValueError("it has fewer than four points")
    return _scattered(points)


def _scattered(points: Array) -> Heights:
    """Points (n, 3) that lie anywhere: between them in proportion; of very many the mean in each cell of a grid."""
    low, high = points[:, :2].min(axis=0), points[:, :2].max(axis=0)
    step = float(np.sqrt(max(np.prod(high - low), 1e-12) / len(points)))
    if (high - low < step).any():
        raise ValueError("its points lie on one line")
    if len(points) > SCATTERED:
        step *= np.sqrt(PER_CELL)
        size = np.floor((high - low) / step).astype(int) + 1
        column, row = np.floor((points[:, :2] - low) / step).astype(int).T
        cell = row * size[0] + column
        count = np.bincount(cell, minlength=size.prod())
        with np.errstate(invalid="ignore", divide="ignore"):
            mean = np.bincount(cell, points[:, 2], size.prod()) / count
        return Heights(float(low[0] + step / 2), float(low[1] + step / 2), step, mean.reshape(size[1], size[0]))
    from scipy.interpolate import LinearNDInterpolator

    grid = np.meshgrid(np.arange(low[0], high[0] + step / 2, step), np.arange(low[1], high[1] + step / 2, step))
    return Heights(
        float(low[0]),
        float(low[1]),
        step,
        LinearNDInterpolator(points[:, :2] - low, points[:, 2])(grid[0] - low[0], grid[1] - low[1]),
    )


def _ascii_grid(path: Path) -> Heights:
    """A heading of words and numbers, then rows from north to south."""
    said: dict[str, float] = {}
    with path.open(encoding="ascii", errors="replace") as stream:
        rest: list[str] = []
        for line in stream:
            words = line.split()
            if len(words) == 2 and words[0][:1].isalpha():
                said[words[0].lower()] = float(words[1].replace(",", "."))
            elif words:
                rest.append(line)
    missing = [word for word in ("ncols", "nrows", "cellsize") if word not in said]
    if missing:
        raise ValueError(f"its heading does not say {missing[0]}")
    columns, rows, step = int(said["ncols"]), int(said["nrows"]), said["cellsize"]
    values = np.array(" ".join(rest).replace(",", ".").split(), np.float64)
    if len(values) != rows * columns:
        raise ValueError(f"it has {len(values):,} heights, its heading says {rows * columns:,}")
    values = values.reshape(rows, columns)[::-1]
    # A corner is that of a cell; heights are those of its middle.
    west = said.get("xllcenter", said.get("xllcorner", 0.0) + step / 2)
    south = said.get("yllcenter", said.get("yllcorner", 0.0) + step / 2)
    return Heights(west, south, step, np.where(values == said.get("nodata_value", -9999.0), np.nan, values))


def _geotiff(path: Path) -> Heights:
    """A picture of one channel, whose tags say where it lies."""
    with Image.open(path, formats=["TIFF"]) as image:
        tags = image.tag_v2  # type: ignore[attr-defined]
        scale, tie, keys, none = (tags.get(tag) for tag in (PIXEL_SCALE, TIE_POINT, GEO_KEYS, NO_DATA))
        if scale is None or tie is None:
            raise ValueError("it does not say where it lies, as a GeoTIFF does")
        if len(image.getbands()) != 1:
            raise ValueError("it is a picture with colours, and no heights")
        values = np.array(image, np.float64)[::-1]
    step = float(scale[0])
    if abs(scale[1] - step) > EVEN * step:
        raise ValueError("its pixels are not square")
    column, row, _, x, y = (float(number) for number in tie[:5])
    directory = np.array(keys or (), int)[4:].reshape(-1, 4)
    is_point = any(key == RASTER_TYPE and value == IS_POINT for key, _, _, value in directory.tolist())
    half = 0.0 if is_point else 0.5
    west = x + (half - column) * step
    south = y - (len(values) - 1 + half - row) * step
    if none is not None:
        values[np.isclose(values, float(str(none).strip("\0 ")), rtol=1e-6)] = np.nan
    return Heights(west, south, step, values)


READERS: dict[str, Callable[[Path], Heights]] = {
    **dict.fromkeys((".xyz", ".txt", ".csv"), _points),
    **dict.fromkeys((".las", ".laz"), _las),
    ".asc": _ascii_grid,
    **dict.fromkeys((".tif", ".tiff"), _geotiff),
}
