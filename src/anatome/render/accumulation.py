"""Smooth edges by averaging many samples, each drawn with the picture shifted by a part of a pixel.

With software OpenGL this costs no more per sample than a bare picture, so the stage can show the first sample at once
and go on refining for as long as nothing moves.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.look.look import Look
from anatome.render.programs import Programs, set_uniforms
from anatome.render.renderer import Renderer
from anatome.render.targets import SampleTarget
from anatome.render.window import Window
from anatome.scenes.scene_view import View

Colour = tuple[float, float, float, float]
NO_PAPER: Colour = (0.0, 0.0, 0.0, 0.0)


@dataclass(frozen=True)
class Paper:
    """What lies under a picture: premultiplied RGBA, and what that becomes towards the top; ``heights`` are the shares of the
    whole picture between which this part of it lies."""

    colour: Colour
    sky: Colour
    heights: tuple[float, float] = (0.0, 1.0)

    @classmethod
    def of(cls, look: Look, heights: tuple[float, float] = (0.0, 1.0)) -> Paper:
        """Return the paper of a look, with its sky."""
        return cls((*look.paper, 1.0), (*(look.sky or look.paper), 1.0), heights)

    def on_the_way(self, to: Paper, share: float) -> Paper:
        """Return the paper at a share from 0 to 1 of the way to another."""

        def mixed(a: Colour, b: Colour) -> Colour:
            red, green, blue, solid = (x + (y - x) * share for x, y in zip(a, b))
            return red, green, blue, solid

        return Paper(mixed(self.colour, to.colour), mixed(self.sky, to.sky), self.heights)

    def at(self, heights: NDArray[np.floating]) -> NDArray[np.floating]:
        """Return (n, 4) the paper at (n,) shares of the whole picture's height, as resolve.frag has it."""
        t = np.clip((heights - 0.25) / 0.75, 0.0, 1.0)[:, None]
        return np.array(self.colour) + (t * t * (3 - 2 * t)) * (np.array(self.sky) - self.colour)

    @classmethod
    def plain(cls, colour: Colour) -> Paper:
        """Return the same all over."""
        return cls(colour, colour)


NOTHING = Paper.plain(NO_PAPER)


def jitter(sample: int) -> tuple[float, float]:
    """Shift of a sample in pixels, within half a pixel: the Halton sequence of bases 2 and 3. Sample 0 is centred."""
    if sample == 0:
        return 0.0, 0.0
    values = []
    for base in (2, 3):
        n, share, value = sample, 1.0, 0.0
        while n:
            share /= base
            value += share * (n % base)
            n //= base
        values.append(value - 0.5)
    return values[0], values[1]


class Accumulation:
    """The running sum of samples at one size in pixels. Sketches of moving pictures have lines of their own size, ``lines``, if
    that is another."""

    def __init__(
        self, ctx: moderngl.Context, programs: Programs, size: tuple[int, int], lines: tuple[int, int] | None = None
    ) -> None:
        self.size = size
        self._lines = SampleTarget(ctx, lines) if lines is not None and lines != size else None
        self._has_lines = False
        self.samples = 0
        self._alone = False
        self._ctx = ctx
        self._sample = SampleTarget(ctx, size)
        # Half floats would lose what is added once the sum of some sixteen samples is large.
        self._sum = ctx.texture(size, 4, dtype="f4")
        self._sum.filter = moderngl.LINEAR, moderngl.LINEAR
        self._sum.repeat_x = self._sum.repeat_y = False
        self._sum_target = ctx.framebuffer([self._sum])
        self._program = programs.get("screen.vert", "resolve.frag")
        self._screen = programs.screen(self._program)

    @property
    def lines_size(self) -> tuple[int, int]:
        """Pixels of the lines of sketches."""
        return self.size if self._lines is None else self._lines.size

    def restart(self) -> None:
        """Forget the samples so far."""
        self.samples = 0

    def add(self, renderer: Renderer, view: View, window: Window, moving: bool = False) -> None:
        """Draw one more sample and add it to the sum, all at once."""
        for _ in self.steps(renderer, view, window, moving):
            pass

    def steps(self, renderer: Renderer, view: View, window: Window, moving: bool = False) -> Iterator[None]:
        """Draw one more sample and add it to the sum, in steps; that of a moving picture does without ambient occlusion."""
        number = None if moving else self.samples
        self._has_lines = moving and self._lines is not None and view.divide is None and view.dissolve is None
        if self._has_lines and self._lines is not None:
            yield from renderer.sketch(self._sample, self._lines, view, window, jitter(self.samples))
            self._alone, self.samples = True, 1
            return
        yield from renderer.steps(self._sample, view, window, jitter(self.samples), number, moving)
        self._alone = moving
        if moving:
            self.samples = 1  # shown as it is: adding up would cost as much again
            return
        self._sum_target.use()
        if self.samples == 0:
            self._sum_target.clear(0.0, 0.0, 0.0, 0.0)
        self._ctx.enable_only(moderngl.BLEND)
        self._ctx.blend_func = moderngl.ONE, moderngl.ONE
        self._pass(self._sample.colour, 1.0, NOTHING)
        self.samples += 1

    def show(self, target: moderngl.Framebuffer, paper: Paper, solid: float = 1.0) -> None:
        """Write the mean of the samples into the target, over paper; less than ``solid`` 1 over what is there."""
        target.use()
        self._ctx.enable_only(moderngl.BLEND if solid < 1.0 else moderngl.NOTHING)
        self._ctx.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        if solid < 1.0:
            alone = self._alone
            texture, share = (self._sample.colour, 1.0) if alone else (self._sum, 1.0 / max(self.samples, 1))
            self._pass(texture, share, paper, solid)
            self._ctx.enable_only(moderngl.NOTHING)
        elif self._alone:
            self._pass(self._sample.colour, 1.0, paper)
            if self._has_lines and self._lines is not None:
                self._ctx.enable_only(moderngl.BLEND)
                self._ctx.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
                self._pass(self._lines.colour, 1.0, NOTHING)
                self._ctx.enable_only(moderngl.NOTHING)
        else:
            self._pass(self._sum, 1.0 / max(self.samples, 1), paper)

    def _pass(self, texture: moderngl.Texture, share: float, paper: Paper, solid: float = 1.0) -> None:
        texture.use(0)
        under = {"paper": paper.colour, "sky": paper.sky, "heights": paper.heights}
        set_uniforms(self._program, sum=0, share=share, solid=solid, **under)
        self._screen.render(moderngl.TRIANGLES, vertices=3)
