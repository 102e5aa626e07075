"""Where one sample is drawn."""

from __future__ import annotations

import moderngl


class SampleTarget:
    """Colour and depth of one sample; ``colour_only`` writes the colour while the depth is being read."""

    def __init__(self, ctx: moderngl.Context, size: tuple[int, int], depth: moderngl.Texture | None = None) -> None:
        self.size = size
        self.colour = ctx.texture(size, 4)
        self.depth = ctx.depth_texture(size) if depth is None else depth
        self.depth.compare_func = ""
        for texture in (self.colour, self.depth):
            texture.repeat_x = texture.repeat_y = False
        self.colour.filter = moderngl.LINEAR, moderngl.LINEAR
        self.depth.filter = moderngl.NEAREST, moderngl.NEAREST
        self.framebuffer = ctx.framebuffer([self.colour], self.depth)
        self.colour_only = ctx.framebuffer([self.colour])
        self._ctx = ctx
        self._shade: list[tuple[moderngl.Texture, moderngl.Framebuffer]] = []

    def beside(self) -> SampleTarget:
        """Return one with a colour of its own, and this one's depth."""
        return SampleTarget(self._ctx, self.size, self.depth)

    def shade(self, coarse: int) -> list[tuple[moderngl.Texture, moderngl.Framebuffer]]:
        """Two places where ambient occlusion is worked out: light and depth, so many times smaller; made when first wanted."""
        small = max(1, -(-self.size[0] // coarse)), max(1, -(-self.size[1] // coarse))
        if not self._shade or self._shade[0][0].size != small:
            self._shade = []
            for texture in (self._ctx.texture(small, 2, dtype="f4"), self._ctx.texture(small, 2, dtype="f4")):
                texture.filter = moderngl.NEAREST, moderngl.NEAREST
                self._shade.append((texture, self._ctx.framebuffer([texture])))
        return self._shade
