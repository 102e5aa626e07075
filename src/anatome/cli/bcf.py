"""``anatome bcf``: scenes as viewpoints that other programs of the trade read, and viewpoints as scenes."""

from __future__ import annotations

import argparse

from anatome.cli.film import TimeLeft
from anatome.cli.told import open_project
from anatome.cli.values import scene_named
from anatome.cuts.dissection import Cutter
from anatome.files import write_whole
from anatome.formats.bcf import bcf_bytes, read_bcf
from anatome.formats.pictures_out import png_bytes
from anatome.formats.project_files import OpenedProject
from anatome.problems import Problem
from anatome.scenes.storage import StoredProject, save_project
from anatome.scenes.viewpoints import scenes_of, viewpoint_of, with_snapshot

SNAPSHOT, SAMPLES = 1000, 6
"""Pixels across a picture of a viewpoint, and samples of each."""


def run(options: argparse.Namespace) -> int:
    """Write them. Raises Problem."""
    opened = open_project(options.project)
    return _take(options, opened) if options.source is not None else _write(options, opened)


def _take(options: argparse.Namespace, opened: OpenedProject) -> int:
    """Scenes of a file of viewpoints, in a copy of the project."""
    if options.out.suffix != ".anatome":
        raise Problem("Viewpoints become scenes of a project. Say for example --out with-viewpoints.anatome.")
    stored = opened.stored
    viewpoints = read_bcf(options.source)
    scenes = scenes_of(viewpoints, stored.project, opened.building, options.source.stem)
    project = stored.project.model_copy(update={"scenes": (*stored.project.scenes, *scenes)})
    save_project(options.out, StoredProject(**{**vars(stored), "project": project}))
    print(f"{options.out}: {len(scenes)} scenes of {options.source} in the set “{options.source.stem}”")
    return 0


def _write(options: argparse.Namespace, opened: OpenedProject) -> int:
    from anatome.render.pictures import PictureMaker
    from anatome.scenes.scene_view import view_of

    project, building, out = opened.stored.project, opened.building, options.out
    if out.suffix.lower() not in (".bcf", ".bcfzip"):
        raise Problem("Viewpoints go into a file that ends with .bcf. Say for example --out boathouse.bcf.")
    scenes = [scene_named(project, name) for name in options.scene] or list(project.scenes)
    if not scenes:
        raise Problem("The project has no scenes yet.")
    maker, cutter, told = PictureMaker.standalone(building), Cutter(building), TimeLeft("viewpoints")
    found = []
    for number, scene in enumerate(scenes, 1):
        size = SNAPSHOT, max(round(SNAPSHOT / scene.aspect), 1)
        view = view_of(cutter, scene, scene.camera_for(scene.aspect), project.site, opened.facts(scene.state.notes))
        snapshot = png_bytes(maker.picture(view, size, "paper", SAMPLES))
        found.append(with_snapshot(viewpoint_of(scene, building, project), snapshot))
        told.told(number, len(scenes))
    write_whole(out, bcf_bytes(found, project.name, project.titles.drawn, version=options.version))
    print(f"{out}: {len(found)} viewpoints, BCF {options.version}")
    return 0
