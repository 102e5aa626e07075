"""``anatome export``: pictures of a project's scenes, their passes and layers, or the part of the model a scene leaves."""

from __future__ import annotations

import argparse
import tempfile
from collections.abc import Generator
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import Any

from anatome.cli.film import TimeLeft
from anatome.cli.looks import look_named
from anatome.cli.sizes import parse_part, parse_size
from anatome.cli.told import open_project
from anatome.cli.values import scene_named
from anatome.cuts.dissection import Cutter
from anatome.cuts.solid import kept_part
from anatome.files import make_folder, write_whole
from anatome.formats.about import About, about
from anatome.formats.meshes_out import mesh_bytes
from anatome.formats.pictures_out import check_layered
from anatome.formats.project_files import OpenedProject
from anatome.formats.sent_out import SentOut
from anatome.look.look import Look
from anatome.problems import Problem
from anatome.scenes.batch import Planned, mark_of, pixels, planned, shard
from anatome.scenes.note_edits import with_notes
from anatome.scenes.opened import kept_of
from anatome.scenes.project import MOST_SAMPLES, Scene
from anatome.view.passes import PASSES, SAYS, Pass

WIDTH = 4000


def run(options: argparse.Namespace) -> int:
    """Write what is asked for. Raises Problem."""
    meshes = [(path, suffix) for path, suffix in ((options.glb, ".glb"), (options.stl, ".stl")) if path is not None]
    if not options.out and not options.ora and not meshes:
        raise Problem(
            "Say where it goes: --out FILE for a picture, --layers FILE for one in layers, "
            "--glb FILE or --stl FILE for the model as cut."
        )
    if bool(options.scene) == bool(options.all):
        raise Problem("Say which scene: --scene NAME, or --all for every one.")
    if options.all and meshes:
        raise Problem("A model as cut is that of one scene. Say which: --scene NAME.")
    if options.passes is not None and not options.out:
        raise Problem("Passes are a file each. Say the folder they go into: --out FOLDER.")
    if options.still is not None and not 0 <= options.still <= MOST_SAMPLES:
        raise Problem(f"A still has 1 to {MOST_SAMPLES} samples, and none if it is drawn; “{options.still}” is not that.")
    if options.ora and not options.all:
        check_layered(options.ora)
    if options.on and (not options.out or options.passes or options.ora or options.again):
        raise Problem("Workers draw pictures and stills: --out without --passes, --layers and --again.")
    if options.again and (not options.all or not options.out or options.passes or options.ora or options.shard):
        raise Problem("--again is for all scenes as pictures in a folder: --all --out FOLDER.")
    passes, part = _passes(options.passes), parse_part(options.shard)
    looks: list[Look | None] = [look_named(name) for name in options.look]
    opened = open_project(options.project)
    project = opened.stored.project
    scenes = list(project.scenes) if options.all else [scene_named(project, options.scene)]
    if not scenes:
        raise Problem("The project has no scenes yet.")
    if options.out or options.ora:
        plan = planned(project.name, scenes, looks or [None], options.name)
        many = len(plan) > 1
        _pictures(options, opened, shard(plan, *part), passes, many)
    for path, suffix in meshes:
        _mesh(opened, scenes[0], path, suffix)
    return 0


def _passes(text: str | None) -> tuple[Pass, ...]:
    """The passes in a list with commas; ``all`` is every one."""
    if text is None:
        return ()
    names = [part.strip().lower() for part in text.split(",") if part.strip()]
    if names == ["all"]:
        return PASSES
    unknown = [name for name in names if name not in PASSES]
    if unknown or not names:
        said = ", ".join(f"{name} ({SAYS[name]})" for name in PASSES)
        raise Problem(f"There is no pass “{unknown[0] if unknown else ''}”. Those there are: {said}; or all.")
    return tuple(name for name in PASSES if name in names)


@dataclass(frozen=True)
class _Targets:
    """Where the files of a picture go: those that were asked for."""

    picture: Path | None
    layers: Path | None
    passes: Path | None


def _pictures(
    options: argparse.Namespace, opened: OpenedProject, plan: list[Planned], passes: tuple[Pass, ...], many: bool
) -> None:
    from anatome.render.passes import passes_steps
    from anatome.render.pictures import PictureMaker
    from anatome.render.steps import finished
    from anatome.render.stills import lit
    from anatome.scenes.scene_view import view_of

    sizes = [_size(options, one.scene) for one in plan]
    targets = [_targets(options, one, bool(passes), many) for one in plan]
    into = {t.passes for t in targets if t.passes}
    if many:
        into |= {path.parent for t in targets for path in (t.picture, t.layers) if path}
    for folder in sorted(into):
        make_folder(folder)
    project = opened.stored.project.name
    sent = SentOut(options.out) if options.again else None
    if options.on:
        _pictures_on(options, opened, plan, sizes, targets)
        return
    maker, cutter = PictureMaker.standalone(opened.building), Cutter(opened.building)
    for one, size, target in zip(plan, sizes, targets):
        scene = one.scene if options.notes else with_notes(one.scene, False)
        said = (size, options.ground, options.dpi, options.still, options.notes)
        mark, own = mark_of(scene, opened.stored.project, said), target.picture
        if sent is not None and own is not None and sent.is_current(own.name, mark):
            print(f"{scene.name}: not changed", flush=True)
            continue
        facts = opened.facts(scene.state.notes)
        view = view_of(cutter, scene, scene.camera_for(size[0] / size[1]), opened.stored.project.site, facts)
        view = lit(view, size, scene.state.still if options.still is None else options.still)
        if target.layers is None and target.passes is None:
            assert target.picture is not None
            told = about(scene, project, date.today().isoformat())
            written = [_write_picture(maker.picture(view, size, options.ground), target.picture, options.dpi, told)]
        else:
            ground: Any = "paper" if target.layers is not None and options.ground == "transparent" else options.ground
            found = finished(passes_steps(maker.renderer, view, size, passes, target.layers is not None, ground))
            written = list(_write_passes(found, target, one.name, options.dpi, "colour" in passes))
        if sent is not None and own is not None:
            sent.put(own.name, mark)
        print(f"{scene.name}: {size[0]} × {size[1]} in {', '.join(map(str, written))}", flush=True)


def _pictures_on(
    options: argparse.Namespace, opened: OpenedProject, plan: list[Planned], sizes: list[tuple[int, int]], targets: list[_Targets]
) -> None:
    """Have pictures and stills drawn by the workers of an engine, and write each as the file it is to be."""
    from anatome.filming.frames import FrameFolder
    from anatome.work.engine import draw_on
    from anatome.work.jobs import PictureJob

    project = opened.stored.project
    scenes = tuple(one.scene if options.notes else with_notes(one.scene, False) for one in plan)
    facts = opened.facts([note for scene in scenes for note in scene.state.notes])
    job = PictureJob(
        project, opened.building, facts, scenes=scenes, sizes=tuple(sizes), ground=options.ground, still=options.still
    )
    with tempfile.TemporaryDirectory() as scratch:
        folder = FrameFolder(Path(scratch) / "pictures", job.told, len(scenes))
        draw_on(options.on, job, folder, range(len(scenes)), TimeLeft("pictures").told)
        for number, (scene, target) in enumerate(zip(scenes, targets)):
            assert target.picture is not None
            told = about(scene, project.name, date.today().isoformat())
            _write_picture(folder.read(number), target.picture, options.dpi, told)
    print(f"{len(scenes)} pictures by the workers of {options.on}")


def _size(options: argparse.Namespace, scene: Scene) -> tuple[int, int]:
    return parse_size(options.size, pixels(scene, WIDTH, options.dpi if options.size is None else None))


def _targets(options: argparse.Namespace, one: Planned, passes: bool, many: bool) -> _Targets:
    folder = options.out if many or passes else None
    picture = None
    if options.out and not passes:
        picture = options.out if folder is None else folder / f"{one.name}{options.format}"
    layers = options.ora / f"{one.name}.ora" if options.ora and many else options.ora
    return _Targets(picture, layers, folder if passes else None)


def _write_picture(image: Any, path: Path, dpi: float | None, told: About | None = None) -> Path:
    from anatome.formats.pictures_out import writer_for

    write_whole(path, writer_for(path)(image, dpi, told))
    return path


def _write_passes(found: Any, target: _Targets, name: str, dpi: float | None, colour: bool) -> Generator[Path, None, None]:
    from anatome.formats.pictures_out import layers_bytes, passes_files

    if target.picture is not None:
        yield _write_picture(found.colour, target.picture, dpi)
    if target.passes is not None:
        if colour:
            yield _write_picture(found.colour, target.passes / f"{name}, colour.png", dpi)
        for path, content in passes_files(found, target.passes, name, dpi).items():
            write_whole(path, content)
            yield path
    if target.layers is not None:
        write_whole(target.layers, layers_bytes(target.layers, found, dpi))
        yield target.layers


def _mesh(opened: OpenedProject, scene: Scene, path: Path, suffix: str) -> None:
    building, state = opened.building, scene.state
    kept = kept_part(kept_of(Cutter(building), state))
    write_whole(path, mesh_bytes(building, kept, suffix))
    loose = sum(not k.closed for k in kept)
    note = f", {loose} of them not closed in the model either" if loose else ""
    print(f"{scene.name}: {len(kept)} parts in {path}{note}")
