"""``anatome relink``: a project with the next state of its model, and what has changed."""

from __future__ import annotations

import argparse
import json
from dataclasses import replace
from pathlib import Path

from anatome.cli.text_out import write_text
from anatome.cli.told import open_project
from anatome.formats.identity import identify
from anatome.formats.opening import open_model
from anatome.formats.project_files import packed_model
from anatome.model.options import OpenOptions
from anatome.problems import Problem
from anatome.scenes.change_report import ChangeFacts, change_facts
from anatome.scenes.project import ModelReference
from anatome.scenes.relinking import change_of
from anatome.scenes.storage import SUFFIX, save_project
from anatome.scenes.whole import models_together


def run(options: argparse.Namespace) -> int:
    """Write it. Raises Problem."""
    out: Path = options.out
    if out.suffix.lower() != SUFFIX:
        raise Problem(f"A project is a file that ends with {SUFFIX}, for example --out house{SUFFIX}.")
    if options.file.suffix.lower() == SUFFIX:
        raise Problem("Give the model as it is now as the second file; that is a project.")
    opened = open_project(options.project, as_saved=True)
    project = opened.stored.project
    held = project.model.options
    opening = OpenOptions(up=options.up or held.up, unit=options.unit or held.unit, near=held.near)
    after = open_model(options.file, opening, project.model.digest)
    after = models_together(after, opened.others, project.others)
    model = options.file.resolve()
    inside = project.model.embedded
    beside = inside or model.parent == out.resolve().parent
    reference = ModelReference(
        path=model.name if beside else str(model),
        embedded=inside,
        options=opening,
        digest=identify(model)[0].digest,
        source=str(model) if inside else "",
    )
    change = change_of(project, opened.model, after, reference, along=not options.stay)
    made = change.project.model_copy(update={"name": out.stem})
    kept = {scene.id for scene in made.scenes if scene.id not in change.touches}
    stored = replace(
        opened.stored,
        project=made,
        model=packed_model(options.file) if inside else None,
        # What is drawn of scenes that are touched is made anew where it is asked for.
        thumbnails={scene: picture for scene, picture in opened.stored.thumbnails.items() if scene in kept},
        linework={name: lines for name, lines in opened.stored.linework.items() if name.split("/")[0] in kept},
    )
    save_project(out, stored)
    facts = change_facts(project, opened.model, after, change.found, change.touches)
    if options.report:
        write_text(options.report, json.dumps(facts, indent=1, ensure_ascii=False))
    if options.report != "-":
        _tell(out, facts, stays=options.stay)
    return 0


def _tell(out: Path, facts: ChangeFacts, stays: bool) -> None:
    counts = {
        "new": facts["new"],
        "gone": facts["gone"],
        "moved": facts["moved"],
        "reshaped": facts["reshaped"],
        "renamed": facts["renamed"],
        "restyled": facts["restyled"],
        "put elsewhere in the model's order": facts["reassigned"],
    }
    told = ", ".join(f"{len(ids)} {what}" for what, ids in counts.items() if ids)
    print(f"{out}: {told or 'no part has changed'}")
    whole = facts["whole"]
    if whole["factor"] != 1.0:
        scenes = "stay as they are" if stays else "go along"
        print(f"  all of it is {whole['factor']:g} times as large: another unit? Say --unit; scenes {scenes}")
    if any(whole["shift"]):
        x, y, z = whole["shift"]
        where = "stay where they were" if stays else "go along"
        print(f"  all of it lies elsewhere by {x:.3f}, {y:.3f}, {z:.3f} m; cuts, cameras and the site {where}")
    for scene in facts["scenes"]:
        print(f"  {scene['name']}: {'; '.join(touch['words'] for touch in scene['touches'])}")
