"""Pictures of a job drawn on this machine, or by an engine where one is named."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from anatome.filming.frames import FrameFolder, draw_frames
from anatome.render.pictures import PictureMaker
from anatome.work.jobs import Job


def draw_all(
    job: Job,
    folder: FrameFolder,
    numbers: Sequence[int],
    address: str | None = None,
    told: Callable[[int, int], bool] | None = None,
) -> None:
    """Draw those of some pictures that are not in a folder yet. ``told`` hears how many of how many are done, and may return
    False to stop, which raises Problem; what is done stays."""
    if address:
        from anatome.work.engine import draw_on

        draw_on(address, job, folder, numbers, told)
        return
    maker = PictureMaker.standalone(job.building)
    draw_frames(folder, lambda number: job.draw(maker, number), numbers, told)
