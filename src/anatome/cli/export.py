"""``anatome export``: pictures of a project's scenes, or the part of the model a scene leaves."""

from __future__ import annotations

import argparse
from pathlib import Path

from anatome.cli.looks import look_named
from anatome.cli.sizes import parse_size
from anatome.cli.values import make_folder, safe_name, scene_named
from anatome.cuts.dissection import Cutter
from anatome.cuts.solid import kept_part
from anatome.files import write_whole
from anatome.formats.meshes_out import mesh_bytes
from anatome.formats.project_files import OpenedProject, open_project
from anatome.problems import Problem
from anatome.scenes.opened import kept_of
from anatome.scenes.project import Scene


def run(options: argparse.Namespace) -> int:
    """Write what is asked for. Raises Problem."""
    meshes = [(path, suffix) for path, suffix in ((options.glb, ".glb"), (options.stl, ".stl")) if path is not None]
    if not options.out and not meshes:
        raise Problem("Say where it goes: --out FILE for a picture, --glb FILE or --stl FILE for the model as cut.")
    if bool(options.scene) == bool(options.all):
        raise Problem("Say which scene: --scene NAME, or --all for every one.")
    if options.all and meshes:
        raise Problem("A model as cut is that of one scene. Say which: --scene NAME.")
    opened = open_project(options.project)
    project = opened.stored.project
    scenes = list(project.scenes) if options.all else [scene_named(project, options.scene)]
    if not scenes:
        raise Problem("The project has no scenes yet.")
    if options.out:
        _pictures(options, opened, scenes)
    for path, suffix in meshes:
        _mesh(opened, scenes[0], path, suffix)
    return 0


def _pictures(options: argparse.Namespace, opened: OpenedProject, scenes: list[Scene]) -> None:
    from anatome.formats.png import png_bytes
    from anatome.render.pictures import PictureMaker, view_of

    sizes = [parse_size(options.size, (4000, round(4000 / s.aspect))) for s in scenes]
    if options.all:
        make_folder(options.out)
    maker, cutter = PictureMaker.standalone(opened.building), Cutter(opened.building)
    look = None if options.look is None else look_named(options.look)
    for number, (scene, size) in enumerate(zip(scenes, sizes), 1):
        if look is not None:
            scene = scene.model_copy(update={"state": scene.state.model_copy(update={"look": look})})
        view = view_of(cutter, scene, scene.camera_for(size[0] / size[1]), opened.stored.project.site)
        target = options.out / f"{number:02d} {safe_name(scene.name)}.png" if options.all else options.out
        write_whole(target, png_bytes(maker.picture(view, size, options.ground)))
        print(f"{scene.name}: {size[0]} × {size[1]} in {target}")


def _mesh(opened: OpenedProject, scene: Scene, path: Path, suffix: str) -> None:
    building, state = opened.building, scene.state
    kept = kept_part(kept_of(Cutter(building), state))
    write_whole(path, mesh_bytes(building, kept, suffix))
    loose = sum(not k.closed for k in kept)
    note = f", {loose} of them not closed in the model either" if loose else ""
    print(f"{scene.name}: {len(kept)} parts in {path}{note}")
