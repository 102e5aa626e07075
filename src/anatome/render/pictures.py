"""Pictures without a window, of any size, drawn in tiles on a context of their own."""

from __future__ import annotations

import math
from collections.abc import Callable, Generator
from dataclasses import replace
from functools import cache
from typing import Literal

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.look.look import Look
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.render.accumulation import NOTHING, Accumulation, Paper
from anatome.render.by_hand import HandLines, Images
from anatome.render.drawings import noted, over_picture
from anatome.render.renderer import Renderer
from anatome.render.shared import widest_probe
from anatome.render.tiles import tiles
from anatome.scenes.scene_view import View

STRIP = 256
"""Rows of a tile taken over at a time."""
EXPORT_SAMPLES = 12

Ground = Literal["transparent", "white", "paper"]


@cache
def standalone_renderer() -> Renderer:
    """Return the process's one renderer on a context that needs no display.

    One for all, since a context keeps some 290 MB in software. Raises Problem when there is none to be had.
    """
    try:
        return Renderer(moderngl.create_context(standalone=True, backend="egl"))  # type: ignore[arg-type]
    except Exception as error:
        raise Problem(
            f"No OpenGL could be started for drawing the picture ({error}). Install libegl1 and libgl1-mesa-dri."
        ) from error


class PictureMaker:
    """Draws finished pictures with a renderer: of the building the renderer has, or of a ``building`` of its own."""

    def __init__(self, renderer: Renderer, building: Building | None = None) -> None:
        self._renderer, self._building = renderer, building
        self.ctx = renderer.ctx

    @classmethod
    def standalone(cls, building: Building) -> PictureMaker:
        """Return one for use without a window. Any number of them may take turns."""
        return cls(standalone_renderer(), building)

    @property
    def renderer(self) -> Renderer:
        """The renderer, with the building it is to draw."""
        if self._building is not None and self._renderer.building is not self._building:
            self._renderer.set_building(self._building)
        return self._renderer

    def picture(
        self,
        view: View,
        size: tuple[int, int],
        ground: Ground = "white",
        samples: int | None = None,
        progress: Callable[[float], bool] | None = None,
    ) -> NDArray[np.uint8]:
        """Return (height, width, 4) uint8 RGBA, not premultiplied, top row first.

        ``progress`` is told the share done and may return False to stop, which raises Problem.
        """
        steps = self.steps(view, size, ground, samples)
        while True:
            try:
                share = next(steps)
            except StopIteration as end:
                return end.value
            if progress and not progress(share):
                raise Problem("The picture was cancelled; nothing was written.")

    def steps(
        self, view: View, size: tuple[int, int], ground: Ground = "white", samples: int | None = None
    ) -> Generator[float, None, NDArray[np.uint8]]:
        """Draw the same in steps of a few milliseconds, each of which gives the share done; others may use the context
        between.

        Without a number of ``samples`` there are EXPORT_SAMPLES.
        """
        _, height = size
        samples = samples or EXPORT_SAMPLES
        view = replace(view, papered=ground == "paper")
        lines = HandLines.of(view, size)
        if lines is not None:
            try:
                image = yield from self._surfaces(replace(view, unlined=True), size, ground, samples)
                over = yield from waited(lines)
            finally:
                lines.stop()
            for lying in over.values():
                for row in range(0, height, STRIP):
                    image[row : row + STRIP] = over_picture(image[row : row + STRIP], lying[row : row + STRIP])
                    yield 1.0
        else:
            image = yield from self._surfaces(view, size, ground, samples)
        return noted(image, view.notes_on(size))

    def _surfaces(
        self, view: View, size: tuple[int, int], ground: Ground, samples: int
    ) -> Generator[float, None, NDArray[np.uint8]]:
        """All of it but what is written on it, and lines that are drawn by hand."""
        width, height = size
        image = np.zeros((height, width, 4), np.uint8)
        todo = list(tiles(size, pad_for(view.look, height)))
        renderer = self.renderer
        for number, tile in enumerate(todo):
            sums = Accumulation(self.ctx, renderer.programs, tile.size)
            target = self.ctx.simple_framebuffer(tile.size)
            for sample in range(samples):
                for _ in sums.steps(renderer, view, tile.window):
                    yield (number + sample / samples) / len(todo)
                yield (number + (sample + 1) / samples) / len(todo)
            sums.show(target, paper_under(view, ground, tile.heights))
            _, _, w, h = tile.place
            pixels = np.frombuffer(target.read(viewport=tile.own, components=4, alignment=1), np.uint8)
            pixels = pixels.reshape(h, w, 4)[::-1]
            place = image[tile.rows, tile.columns]
            for row in range(0, h, STRIP):
                part = pixels[row : row + STRIP]
                place[row : row + STRIP] = _straight(part) if ground == "transparent" else part
                yield (number + 1) / len(todo)
        return image


def waited(lines: HandLines) -> Generator[float, None, Images]:
    """Wait for lines in steps, each of which gives the share done, and return their images."""
    steps = lines.steps()
    while True:
        try:
            next(steps)
            yield 1.0
        except StopIteration as end:
            return end.value


def pad_for(look: Look, height: int) -> int:
    """Ambient occlusion looks a little way round each pixel, so tiles overlap by as much as it can reach, in whole probes."""
    return 12 * math.ceil((widest_probe(height) + 6) / 12) if look.shade else 0


def paper_of(look: Look, ground: Ground, heights: tuple[float, float]) -> Paper:
    """Return what lies under the part of a picture between these shares of its height."""
    if ground == "paper":
        return Paper.of(look, heights)
    return NOTHING if ground == "transparent" else Paper.plain((1.0, 1.0, 1.0, 1.0))


def paper_under(view: View, ground: Ground, heights: tuple[float, float]) -> Paper:
    """Return what lies under the part of a picture between these shares of its height: of another look that comes
    its own too."""
    paper, dissolve = paper_of(view.look, ground, heights), view.dissolve
    return paper if dissolve is None else paper.on_the_way(paper_of(dissolve.other, ground, heights), dissolve.share)


def _straight(image: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Without the premultiplication by alpha, which PNG does not have."""
    alpha = image[..., 3:].astype(np.float32)
    straight = image.copy()
    straight[..., :3] = np.clip(np.round(image[..., :3] * np.float32(255.0) / np.maximum(alpha, 1.0)), 0, 255)
    return straight
