"""``anatome new``: a project of a model, with meaning for its parts."""

from __future__ import annotations

import argparse
from pathlib import Path

import numpy as np

from anatome.formats.identity import identify
from anatome.formats.opening import open_model
from anatome.look.shipped import first_look
from anatome.model.options import OpenOptions
from anatome.problems import Problem
from anatome.scenes.guesses import guesses_for, with_guesses
from anatome.scenes.meaning_edits import read_meanings, set_meanings
from anatome.scenes.model_edits import put_model
from anatome.scenes.project import ModelReference, OtherModel, Project, StageState
from anatome.scenes.storage import SUFFIX, StoredProject, save_project
from anatome.scenes.whole import meant, models_together
from anatome.view.camera import first_camera


def run(options: argparse.Namespace) -> int:
    """Write it. Raises Problem."""
    out: Path = options.out
    if out.suffix.lower() != SUFFIX:
        raise Problem(f"A project is a file that ends with {SUFFIX}, for example --out house{SUFFIX}.")
    if options.file.suffix.lower() == SUFFIX:
        raise Problem("That is a project already. Give a model.")
    opening = OpenOptions(up=options.up, unit=options.unit, near=True)
    building = open_model(options.file, opening)
    camera = first_camera(building.subject_bounds(np.ones(len(building.elements), bool)))
    reference = _reference(options.file, out, opening)
    project = Project(name=out.stem, model=reference, stage=StageState(camera=camera, look=first_look()))
    read = {}
    for number, path in enumerate(options.others):
        near = OpenOptions(near=True)
        read[f"m{number + 1}"] = open_model(path, near)
        other = OtherModel(id=f"m{number + 1}", name=path.stem, model=_reference(path, out, near))
        project = put_model(project, other)
    building = models_together(building, read, project.others)
    if options.rules is not None:
        project = set_meanings(project, read_meanings(options.rules))
    if options.guess:
        project = with_guesses(project, guesses_for(meant(building, project)))
    save_project(out, StoredProject(project))
    given = meant(building, project)
    known = sum(element.type != "Part" for element in given.elements)
    print(f"{out}: {len(given.elements)} parts, {known} of them with a type, {len(given.storeys)} storeys")
    return 0


def _reference(path: Path, out: Path, options: OpenOptions) -> ModelReference:
    """A model as a project refers to it: by its name where both lie together."""
    model = path.resolve()
    lies = model.name if model.parent == out.resolve().parent else str(model)
    return ModelReference(path=lies, options=options, digest=identify(model)[0].digest)
