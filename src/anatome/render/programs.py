"""Shader programs, put together from the files in ``shaders``."""

from __future__ import annotations

import re
from functools import cache
from importlib.resources import files
from typing import Any

import moderngl

from anatome.look.pens import LIGHTER, MOST_HAZE, THINNER

HEADER = f"""#version 410 core
#define THINNER {THINNER}
#define LIGHTER {LIGHTER}
#define MOST_HAZE {MOST_HAZE}
"""
UNITS = {"families": 9, "tiles": 10}
"""Units of textures that some draw with and others of the same program without."""


@cache
def _source(name: str) -> str:
    text = (files("anatome.render") / "shaders" / name).read_text()
    return re.sub(r'#include "(.+)"', lambda found: _source(found.group(1)), text)


class Programs:
    """Compiles programs when they are first asked for."""

    def __init__(self, ctx: moderngl.Context) -> None:
        self._ctx = ctx
        self._made: dict[tuple[str, ...], moderngl.Program] = {}
        self._screens: dict[int, moderngl.VertexArray] = {}

    def get(self, vertex: str, fragment: str, *defines: str) -> moderngl.Program:
        """Return the program of two shader files, with some names defined."""
        key = (vertex, fragment, *defines)
        if key not in self._made:
            head = HEADER + "".join(f"#define {name}\n" for name in defines)
            made = self._made[key] = self._ctx.program(head + _source(vertex), head + _source(fragment))
            # Before any draws with it: two kinds of texture at the same unit, the first one, are an error, and nothing is drawn.
            set_uniforms(made, **UNITS)
        return self._made[key]

    def screen(self, program: moderngl.Program) -> moderngl.VertexArray:
        """Return the one triangle over the whole target, to be drawn with a program of screen.vert."""
        if program.glo not in self._screens:
            self._screens[program.glo] = self._ctx.vertex_array(program, [])
        return self._screens[program.glo]


def set_uniforms(program: moderngl.Program, **values: Any) -> None:
    """Set the uniforms the program has; a compiler drops those it does not use."""
    for name, value in values.items():
        member: Any = program.get(name, None)
        if member is None:
            continue
        if isinstance(value, bytes):
            # A compiler may also shorten an array to the part that is used.
            member.write(value[: member.array_length * member.dimension * 4])
        else:
            member.value = value
