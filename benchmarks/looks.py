"""A fine sample of the demo's long section in every look, against the same without shade, shadows, lines and patterns."""

from __future__ import annotations

from dataclasses import replace

from anatome.cuts.dissection import Cutter
from anatome.demo.shipped import PROJECT
from anatome.formats.project_files import open_project
from anatome.look.shipped import shipped_looks
from anatome.render.pictures import PictureMaker
from anatome.render.shared import shown_bare
from anatome.scenes.scene_view import view_of
from benchmarks.measure import median_seconds

SIZE, SAMPLES = (1110, 740), 8


def run() -> None:
    """Print the ratios, and that of a large picture to twelve bare samples of it."""
    opened = open_project(PROJECT)
    scene = next(s for s in opened.stored.project.scenes if s.id == "long")
    maker = PictureMaker.standalone(opened.building)
    view = view_of(Cutter(opened.building), scene, None, opened.stored.project.site)
    bare = replace(view, look=shown_bare(view.look).model_copy(update={"shadows": 0.0}))

    def seconds(of: object, size: tuple[int, int] = SIZE, samples: int = SAMPLES) -> float:
        return median_seconds(lambda _: maker.picture(of, size, "paper", samples), 3)  # type: ignore[arg-type]

    plain = seconds(bare)
    print(f"bare: {1000 * plain / SAMPLES:.0f} ms a sample of {SIZE[0]} × {SIZE[1]}")
    for name, look in shipped_looks().items():
        print(f"  {name:28} {seconds(replace(view, look=look)) / plain:5.2f}")
    large = (4000, round(4000 / scene.aspect))
    twelve = median_seconds(lambda _: maker.picture(bare, large, "paper", 12), 1)
    whole = median_seconds(lambda _: maker.picture(view, large, "paper"), 1)
    print(f"{large[0]} × {large[1]}: {whole / twelve:.2f} of twelve bare samples")
