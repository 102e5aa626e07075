"""``anatome layers``: cutting files for a model built of layers of material."""

from __future__ import annotations

import argparse
from pathlib import Path

from anatome.cli.told import open_project
from anatome.cli.values import numbers, parse_reach
from anatome.files import make_folder, safe_name, write_whole
from anatome.formats.opening import open_model
from anatome.linework.layered import LayerSettings, cutting_files
from anatome.model.options import OpenOptions
from anatome.problems import Problem
from anatome.scenes.storage import SUFFIX


def run(options: argparse.Namespace) -> int:
    """Slice, nest and write. Raises Problem."""
    from anatome.formats.drawings_out import writer_for

    if not (options.svg or options.dxf):
        raise Problem("Say where the cutting files go: --svg FOLDER or --dxf FOLDER.")
    wide, _, high = options.sheet.lower().partition("x")
    try:
        sheet = float(wide), float(high)
    except ValueError:
        raise Problem(f"“{options.sheet}” is no size of a sheet. Say for example --sheet 600x400.") from None
    across = numbers(options.across)
    if len(across) != 3 or not any(across):
        raise Problem(f"“{options.across}” is no direction. Say for example --across 0,0,1 for layers that lie flat.")
    how = LayerSettings(options.scale, options.thickness, sheet, options.gap, options.next, options.dowel, not options.solid)
    how.check()
    if options.file.suffix.lower() == SUFFIX:
        building = open_project(options.file).building
    else:
        building = open_model(options.file, OpenOptions(up=options.up, unit=options.unit))
    elements = parse_reach(building, options.only, options.all_but).mask(building)
    found = cutting_files(building, elements, (across[0], across[1], across[2]), how, options.file.stem)
    written: list[Path] = []
    for folder, ending in ((options.svg, ".svg"), (options.dxf, ".dxf")):
        if folder is None:
            continue
        make_folder(folder)
        for number, drawing in enumerate(found.drawings, 1):
            path = folder / f"{safe_name(options.file.stem)} layers {number:02d}{ending}"
            write_whole(path, writer_for(path)(drawing))
            written.append(path)
    left_out = f"; left out: {', '.join(found.left_out)}" if found.left_out else ""
    print(f"{len(found.parts)} parts of {found.layers} layers on {len(found.drawings)} sheets, {len(written)} files{left_out}")
    return 0
