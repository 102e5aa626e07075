"""Passes over what is drawn so far: ambient occlusion and cast shadows darken it, read from its depth, strip by strip."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import partial
from typing import Any

import moderngl

from anatome.render.programs import Programs, set_uniforms
from anatome.render.targets import SampleTarget


@dataclass(frozen=True, eq=False)
class ScreenPass:
    """A fragment shader over a ``target``, with ``textures`` by the number of their place; so many ``pixels`` of it at a time."""

    fragment: str
    target: moderngl.Framebuffer
    textures: dict[int, moderngl.Texture]
    pixels: int
    uniforms: dict[str, Any] = field(default_factory=dict)
    blend: str = ""


Strip = Callable[[], None]
BLENDS = {"multiply": (moderngl.DST_COLOR, moderngl.ZERO), "add": (moderngl.ONE, moderngl.ONE)}


def strips(
    ctx: moderngl.Context, programs: Programs, sample: SampleTarget, passes: tuple[ScreenPass, ...], uniforms: dict[str, Any]
) -> Iterator[Strip]:
    """Yield what runs them one after the other, in strips; each replaces what its target holds, or blends with it."""

    def strip(one: ScreenPass, low: int, rows: int) -> None:
        program = programs.get("screen.vert", one.fragment)
        set_uniforms(program, **uniforms, **one.uniforms)
        one.target.use()
        one.target.scissor = 0, low, one.target.width, rows
        sample.depth.use(0)
        for place, texture in one.textures.items():
            texture.use(place)
        ctx.enable_only(moderngl.BLEND if one.blend else moderngl.NOTHING)
        if one.blend:
            ctx.blend_func = BLENDS[one.blend]
        try:
            programs.screen(program).render(moderngl.TRIANGLES, vertices=3)
            ctx.finish()
        finally:
            one.target.scissor = None  # type: ignore[assignment]

    for one in passes:
        rows = max(1, one.pixels // one.target.width)
        for low in range(0, one.target.height, rows):
            yield partial(strip, one, low, min(rows, one.target.height - low))
