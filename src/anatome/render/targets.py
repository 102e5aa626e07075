"""Where one sample is drawn."""

from __future__ import annotations

import moderngl


class SampleTarget:
    """Colour and depth of one sample; ``colour_only`` writes the colour while the depth is being read."""

    def __init__(self, ctx: moderngl.Context, size: tuple[int, int]) -> None:
        self.size = size
        self.colour = ctx.texture(size, 4)
        self.depth = ctx.depth_texture(size)
        self.depth.compare_func = ""
        for texture in (self.colour, self.depth):
            texture.repeat_x = texture.repeat_y = False
        self.colour.filter = moderngl.LINEAR, moderngl.LINEAR
        self.depth.filter = moderngl.NEAREST, moderngl.NEAREST
        self.framebuffer = ctx.framebuffer([self.colour], self.depth)
        self.colour_only = ctx.framebuffer([self.colour])
        self._ctx = ctx
        self._shade: list[tuple[moderngl.Texture, moderngl.Framebuffer]] = []

    @property
    def shade(self) -> list[tuple[moderngl.Texture, moderngl.Framebuffer]]:
        """Two places where soft shade is worked out: half the size, light and depth; made when they are first wanted."""
        if not self._shade:
            half = max(1, -(-self.size[0] // 2)), max(1, -(-self.size[1] // 2))
            for texture in (self._ctx.texture(half, 2, dtype="f4"), self._ctx.texture(half, 2, dtype="f4")):
                texture.filter = moderngl.NEAREST, moderngl.NEAREST
                self._shade.append((texture, self._ctx.framebuffer([texture])))
        return self._shade
