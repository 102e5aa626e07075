"""Which writer a drawing goes to, by the end of the file's name."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from anatome.formats.dxf import dxf_bytes
from anatome.formats.pdf import boxes_in, pdf_bytes
from anatome.formats.svg import svg_bytes
from anatome.linework.drawing import Drawing
from anatome.problems import Problem

WRITERS: dict[str, Callable[[Drawing], bytes]] = {".svg": svg_bytes, ".pdf": pdf_bytes, ".dxf": dxf_bytes}


def boxes_said(path: Path, drawing: Drawing) -> str:
    """Say which letters are lost in a file with this ending; nothing where none is."""
    return boxes_in(drawing) if path.suffix.lower() == ".pdf" else ""


def writer_for(path: Path) -> Callable[[Drawing], bytes]:
    """Return what makes the bytes of such a file. Raises Problem for endings no drawing has."""
    found = WRITERS.get(path.suffix.lower())
    if found is None:
        raise Problem(f"A drawing is written as .svg, .pdf or .dxf, not “{path.suffix}”. Change the end of the file's name.")
    return found
