"""Rays that stills follow in a second, all of their work included, against as many that embree alone is asked for.

Bare are rays in all directions from places on what is seen, in batches as large, in the same scene; half nearest, half any.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import numpy as np

from anatome.cuts.dissection import Cutter
from anatome.demo.shipped import PROJECT
from anatome.formats.project_files import open_project
from anatome.raytracing.rays import spread_by_cosine
from anatome.raytracing.still import AT_A_TIME, Still
from anatome.render.stills import still_of
from anatome.scenes.scene_view import view_of
from benchmarks.measure import median_seconds

SIZE = (1110, 740)
SCENES = ("long", "cutaway", "corner", "still")


def run() -> None:
    """Print rays a second and the ratio, by scene, with one thread and with two."""
    opened = open_project(PROJECT)
    cutter = Cutter(opened.building)
    for name in SCENES:
        scene = next(s for s in opened.stored.project.scenes if s.id == name)
        view = view_of(cutter, scene, None, opened.stored.project.site)
        for threads in (1, 2):
            _measure(name, still_of(view, SIZE, threads), threads)


def _measure(name: str, still: Still, threads: int) -> None:
    still.add()
    before, done = still.rays, still.samples
    ours = median_seconds(lambda _: still.add(), 5)
    rays = (still.rays - before) / (still.samples - done)
    bare = median_seconds(lambda _: _bare(still, round(rays), threads), 5)
    print(f"{name:10} {threads} thread(s): {rays / ours / 1e6:5.2f} M rays/s, {bare / ours:5.2f} of bare embree")


def _bare(still: Still, count: int, threads: int) -> None:
    random = np.random.default_rng(0)
    seen, scene = still.seen, still.scene
    places, normals = seen.place[seen.there], seen.normal[seen.there]
    starts = range(0, count, AT_A_TIME)

    def some(start: int) -> None:
        at = np.arange(start, min(start + AT_A_TIME, count)) % len(places)
        directions = spread_by_cosine(normals[at], random.random((len(at), 2), np.float32))
        origins = places[at] + normals[at] * np.float32(scene.nudge)
        query = "INTERSECT" if (start // AT_A_TIME) % 2 else "OCCLUDED"
        scene._solid.run(origins, directions, np.full(len(at), 1e30, np.float32), query=query)

    with ThreadPoolExecutor(threads) as pool:
        list(pool.map(some, starts))


if __name__ == "__main__":
    run()
