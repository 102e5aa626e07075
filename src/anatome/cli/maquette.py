"""``anatome maquette``: a scene as cut, or a whole model, as a scale model to print."""

from __future__ import annotations

import argparse
from dataclasses import replace
from pathlib import Path

import numpy as np

from anatome.cli.told import open_project
from anatome.cli.values import scene_named
from anatome.cuts.dissection import CutBuilding, Cutter
from anatome.files import make_folder, safe_name, write_whole
from anatome.formats.opening import open_model
from anatome.formats.printable_models import files_of
from anatome.maquette.maquette import maquette_of, printed_of
from anatome.maquette.settings import MaquetteSettings
from anatome.model.options import OpenOptions
from anatome.problems import Problem
from anatome.scenes.opened import kept_of
from anatome.scenes.storage import SUFFIX


def run(options: argparse.Namespace) -> int:
    """Make and write it. Raises Problem."""
    try:
        wide, deep, high = (float(side) for side in options.plate.lower().split("x"))
    except ValueError:
        raise Problem(f"“{options.plate}” is no size of a plate. Say for example --plate 220x220x240.") from None
    cut_open, name = _cut_open(options)
    how = MaquetteSettings(
        options.scale,
        options.thinnest,
        (wide, deep, high),
        options.base,
        name if options.name is None else options.name,
        options.peg,
    )
    made = maquette_of(replace(cut_open, shown=printed_of(cut_open, options.furniture, options.ground)), how)
    files = files_of([piece.mesh for piece in made.pieces], options.out)
    if len(files) > 1:
        make_folder(next(iter(files)).parent)
    for path, content in files.items():
        write_whole(path, content)
    print(f"{made.words}, in {', '.join(map(str, files))}")
    return 0


def _cut_open(options: argparse.Namespace) -> tuple[CutBuilding, str]:
    """(what is printed, what it is called)."""
    if options.file.suffix.lower() == SUFFIX:
        opened = open_project(options.file)
        project = opened.stored.project
        state = scene_named(project, options.scene).state if options.scene else project.stage
        return kept_of(Cutter(opened.building), state), project.name
    building = open_model(options.file, OpenOptions(up=options.up, unit=options.unit))
    return Cutter(building).dissect([], np.ones(len(building.elements), bool)), safe_name(Path(options.file).stem)
