"""``anatome page``: chosen scenes and films of a project as one HTML file that a client opens anywhere."""

from __future__ import annotations

import argparse
import shutil
from pathlib import Path

from anatome.cli.film import TimeLeft
from anatome.cli.looks import look_named
from anatome.cli.sizes import parse_part
from anatome.cli.told import open_project
from anatome.cli.values import film_named, scene_named
from anatome.files import write_whole
from anatome.page.contents import MEGABYTE, ClientPage, PageItem, usual_page
from anatome.problems import Problem
from anatome.scenes.batch import shard
from anatome.scenes.project import Project


def run(options: argparse.Namespace) -> int:
    """Write it. Raises Problem."""
    from anatome.filming.frames import FrameFolder
    from anatome.page.making import guessed_size, made_page
    from anatome.work.here import draw_all
    from anatome.work.jobs import PageJob

    out: Path = options.out
    if out.suffix.lower() not in (".html", ".htm"):
        raise Problem("A page is an HTML file. Say for example --out boathouse.html.")
    part = parse_part(options.shard)
    opened = open_project(options.project)
    project = opened.stored.project
    page = _page(options, project)
    facts = opened.facts([note for scene in project.scenes for note in scene.state.notes])
    job = PageJob(project, opened.building, facts, page=page)
    pictures = job.pictures
    # Pictures are kept beside the page until it is made, so that one that was stopped goes on from them, and several machines
    # can draw them.
    folder = FrameFolder(out.with_name(f"{out.name}.pictures"), pictures.told, len(pictures.wanted))
    numbers = shard(range(len(pictures.wanted)), *part)
    print(
        f"{len(pictures.wanted)} pictures, about {guessed_size(pictures) / MEGABYTE:.1f} MB of at most {page.most:g}", flush=True
    )
    draw_all(job, folder, numbers, options.on, TimeLeft("pictures").told)
    missing = folder.missing()
    if missing:
        print(f"{len(missing)} of {len(pictures.wanted)} pictures are still missing; the page is made when all are there")
        return 0
    content, quality = made_page(pictures, folder)
    write_whole(out, content.encode())
    shutil.rmtree(folder.path)
    print(f"{out}: {len(page.items)} scenes, {len(page.films)} films, {out.stat().st_size / MEGABYTE:.1f} MB{quality}")
    return 0


def _page(options: argparse.Namespace, project: Project) -> ClientPage:
    scenes = tuple(scene_named(project, name) for name in options.scene) or (() if options.film else project.scenes)
    films = tuple(film_named(project, name).id for name in options.film)
    page = usual_page(project, scenes, films)
    items = list(page.items)
    if options.shows:
        items = [item.model_copy(update={"shows": options.shows}) for item in items]
    if options.beside:
        look = look_named(options.beside)
        items = [PageItem(scene=item.scene, shows="looks", look=look) for item in items]
    said = {
        "items": tuple(items),
        "width": options.width,
        "frames": options.frames,
        "most": options.most,
        "zoom": not options.no_zoom,
    }
    titles = {"title": options.title} if options.title else {}
    try:
        return ClientPage.model_validate(dict(page) | said | titles)
    except ValueError as error:
        raise Problem(
            "A page has pictures of 320 to 4000 pixels across, 2 to 200 frames for what is dragged, and at most 1000 megabytes."
        ) from error
