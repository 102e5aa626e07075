"""Passes of a picture, from the same samples as the picture itself.

Each layer of a sample is drawn twice: over the sample, as in any picture, and over nothing. The mean of the first tells what the
picture is with the layer, the mean of the second where the layer is. Means of layers laid over one another are not quite the mean
of what was laid over one another, at edges; so a layer's colour is worked out from the picture before it and after it, and
what the layers show together is the picture.
"""

from __future__ import annotations

from collections.abc import Generator, Iterable, Iterator
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from anatome.look.palette import distinct
from anatome.model.building import Building
from anatome.notes.marks import NotesDrawn
from anatome.problems import Problem
from anatome.render import pictures
from anatome.render.accumulation import jitter
from anatome.render.by_hand import BEYOND, CUT, HATCHES, WASH_EDGES, HandLines, Images
from anatome.render.drawings import noted, notes_image, over_picture
from anatome.render.pictures import Ground, pad_for, paper_of
from anatome.render.renderer import Renderer
from anatome.render.targets import SampleTarget
from anatome.render.tiles import Tile, tiles
from anatome.scenes.scene_view import View
from anatome.view.passes import Image, Pass, Passes, PictureLayer, laid_over, layer_between
from anatome.view.viewport import Viewport

LAYERS = {
    "surfaces": "Surfaces",
    "ambient": "Soft shade",
    "shadow": "Cast shadows",
    "light": "Light",
    "cut-fill": "Cut fill",
    "hidden-lines": "Hidden lines",
    "lines": "Lines beyond",
    "cut-lines": "Cut lines",
    "ground": "Soft ground",
    "figures": "People and trees",
    "glass": "Glass",
    "ghosts": "Ghosts",
    "ghost-lines": "Lines of ghosts",
}
BY_HAND = {WASH_EDGES: "Edges of washes", HATCHES: "Hatches", BEYOND: "Lines beyond", CUT: "Cut lines"}
"""Lines that are drawn by hand lie over all the rest."""
PAPER = "Paper"
MULTIPLIED = (LAYERS["ambient"], LAYERS["shadow"], LAYERS["light"])
SCRAMBLED = 0x9E3779
"""Odd, so numbers times it are different colours in 24 bits, and neighbours unlike one another."""
TILE = 1020
"""Smaller than those of plain pictures: there are many sums of each."""
NUMBERED: frozenset[Pass] = frozenset(("depth", "elements", "materials", "masks"))
Sum = NDArray[np.uint32]


class _Canvases:
    """The images tile by tile, made when first written to."""

    def __init__(self, size: tuple[int, int]) -> None:
        self._shape = size[1], size[0]
        self.made: dict[str, NDArray[Any]] = {}

    def write(self, name: str, tile: Tile, pixels: NDArray[Any]) -> None:
        """``pixels`` with the lowest row first."""
        if name not in self.made:
            self.made[name] = np.zeros((*self._shape, *pixels.shape[2:]), pixels.dtype)
        self.made[name][tile.rows, tile.columns] = pixels[::-1]


def passes_steps(
    renderer: Renderer,
    view: View,
    size: tuple[int, int],
    wanted: Iterable[Pass],
    layered: bool = False,
    ground: Ground = "transparent",
    samples: int | None = None,
) -> Generator[float, None, Passes]:
    """Draw the passes wanted, and the layers if the picture is to be ``layered``; in steps of a few milliseconds, each of which
    gives the share done. Layers lie on the look's own paper, or on white.

    Raises Problem for sizes no picture has, and for a picture in two looks.
    """
    if view.divide is not None:
        raise Problem("A picture in two looks has no passes or layers. Send it out as one picture, or each look by itself.")
    names = frozenset(wanted)
    building = renderer.building
    assert building is not None
    lines = HandLines.of(view, size)
    if lines is not None:
        try:
            bare = replace(view, unlined=True, notes=None)
            found = yield from passes_steps(renderer, bare, size, names, layered, ground, samples)
            over = yield from pictures.waited(lines)
        finally:
            lines.stop()
        return _with_notes(_with_lines(found, over, names, layered), view.notes_on(size), "notes" in names, layered)
    canvases = _Canvases(size)
    todo = list(tiles(size, pad_for(view.look, size[1]), TILE))
    for done, tile in enumerate(todo):
        for step in (drawing := _Drawing(renderer, view, tile, samples or pictures.EXPORT_SAMPLES)).means():
            yield (done + step) / len(todo)
        canvases.write("colour", tile, drawing.picture(ground))
        for name, image in drawing.passes(names):
            canvases.write(name, tile, image)
            yield (done + 1) / len(todo)
        if layered:
            for name, image in drawing.layers("white" if ground == "white" else "paper"):
                canvases.write(f"layer {name}", tile, image)
                yield (done + 1) / len(todo)
        if names & NUMBERED:
            yield from ((done + 1) / len(todo) for _ in drawing.numbers("masks" in names))
            for name, image in drawing.numbered(names, building):
                canvases.write(name, tile, image)
    return _with_notes(_finished(canvases.made, names, building), view.notes_on(size), "notes" in names, layered)


class _Drawing:
    """The samples of one tile. Arrays have the lowest row first."""

    def __init__(self, renderer: Renderer, view: View, tile: Tile, samples: int) -> None:
        self._renderer, self._view, self._tile, self._samples = renderer, view, tile, samples
        self._target = SampleTarget(renderer.ctx, tile.size)
        self._own = self._target.beside()
        self._upto: dict[str, NDArray[np.float32]] = {}
        self._alone: dict[str, NDArray[np.float32]] = {}
        self._darkens: set[str] = set()

    # What the samples are on average ---------------------------------------------------------------------------

    def means(self) -> Iterator[float]:
        """Draw them all; yields the share done."""
        target, own, tile = self._target, self._own, self._tile
        upto: dict[str, Sum] = {}
        alone: dict[str, Sum] = {}
        for sample in range(self._samples):
            target.framebuffer.use()
            target.framebuffer.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
            for layer in self._renderer.layers(self._view, tile.window, jitter(sample), sample):
                drawn = 0
                for _ in layer.draw(target):
                    drawn += 1
                    yield sample / self._samples
                if not drawn:
                    continue
                if layer.darkens:
                    self._darkens.add(layer.name)
                elif layer.name != "surfaces":
                    own.colour_only.clear(0.0, 0.0, 0.0, 0.0)
                    for _ in layer.draw(own):
                        yield sample / self._samples
                    self._add(alone, layer.name, own)
                self._add(upto, layer.name, target)
                yield (sample + 1) / self._samples
        scale = np.float32(1 / (255 * self._samples))
        self._upto = {name: total * scale for name, total in upto.items()}
        self._alone = {name: total * scale for name, total in alone.items()}

    def _add(self, sums: dict[str, Sum], name: str, target: SampleTarget) -> None:
        _, _, w, h = self._tile.place
        read = target.colour_only.read(viewport=self._tile.own, components=4, alignment=1)
        pixels = np.frombuffer(read, np.uint8).reshape(h, w, 4)
        if name in sums:
            sums[name] += pixels
        else:
            sums[name] = pixels.astype(np.uint32)

    # What is made of them --------------------------------------------------------------------------------------

    @property
    def _shape(self) -> tuple[int, int]:
        return self._tile.place[3], self._tile.place[2]

    def _last(self) -> NDArray[np.float32]:
        return next(reversed(self._upto.values()), np.zeros((*self._shape, 4), np.float32))

    def picture(self, ground: Ground) -> Image:
        """Return what the picture is on a ground."""
        last = self._last()
        if ground == "transparent":
            return _straight(last)
        rgb = last[..., :3] + (1 - last[..., 3:]) * self._paper(ground)
        return _bytes(np.concatenate([rgb, np.ones_like(rgb[..., :1])], axis=-1))

    def passes(self, names: frozenset[Pass]) -> Iterator[tuple[str, Image]]:
        """Draw those of the passes wanted that are means."""
        clear = np.zeros((*self._shape, 4), np.float32)
        for name in ("cut-fill", "lines", "cut-lines"):
            if name in names:
                yield name, _straight(self._alone.get(name, clear))
        for name in ("ambient", "shadow"):
            if name in names:
                left = self._darkened(name).mean(axis=-1) if name in self._darkens else np.ones(self._shape)
                yield name, _bytes(left)
        if "light" in names:
            left = self._darkened("light") if "light" in self._darkens else np.ones((*self._shape, 3), np.float32)
            yield "light", _bytes(np.concatenate([left, np.ones((*self._shape, 1), np.float32)], axis=-1))

    def _darkened(self, name: str) -> NDArray[np.float32]:
        """(h, w, 3) what a layer leaves of the light."""
        order = list(self._upto)
        before, after = self._upto[order[order.index(name) - 1]], self._upto[name]
        return np.divide(after[..., :3], before[..., :3], out=np.ones_like(after[..., :3]), where=before[..., :3] > 1e-6)

    def layers(self, ground: Ground) -> Iterator[tuple[str, Image]]:
        """From the paper up; each of what is missing in those before it."""
        paper = _bytes(np.broadcast_to(self._paper(ground), (*self._shape, 3)))
        whole = np.full((*self._shape, 1), 255, np.uint8)
        yield PAPER, np.concatenate([paper, whole], axis=-1)
        so_far: NDArray[np.floating] = paper / np.float32(255.0)
        exact = self._paper(ground)
        for name, upto in self._upto.items():
            goal = upto[..., :3] + (1 - upto[..., 3:]) * exact
            if name in self._darkens:
                left = np.divide(goal, so_far, out=np.ones_like(goal), where=so_far > 1e-6)
                image = np.concatenate([_bytes(left), whole], axis=-1)
            else:
                image = layer_between(so_far, goal, self._alone.get(name, upto)[..., 3])
            yield LAYERS[name], image
            so_far = laid_over(so_far, image, name in self._darkens)

    def _paper(self, ground: Ground) -> NDArray[np.float32]:
        """(h, 1, 3) the paper of each row."""
        _, y, _, h = self._tile.place
        rows = (y + (np.arange(h) + 0.5)) / self._tile.whole[1]
        return paper_of(self._view.look, ground, (0.0, 1.0)).at(rows)[:, None, :3].astype(np.float32)

    # Which part is where ---------------------------------------------------------------------------------------

    def numbers(self, everywhere: bool) -> Iterator[None]:
        """Draw the numbers of elements: once, in the middle of pixels, or ``everywhere``, as often as samples."""
        _, _, w, h = self._tile.place
        self._many: list[NDArray[np.int32]] = []
        for sample in range(self._samples if everywhere else 1):
            drawing = self._renderer.numbers(self._target, self._view, self._tile.window, jitter(sample))
            depth_range = 0.0, 1.0
            while True:
                try:
                    next(drawing)
                    yield
                except StopIteration as end:
                    depth_range = end.value
                    break
            read = self._target.colour_only.read(viewport=self._tile.own, components=4, alignment=1)
            raw = np.frombuffer(read, np.uint8).reshape(h, w, 4).astype(np.int32)
            number = (raw[..., 0] | raw[..., 1] << 8 | (raw[..., 2] & 127) << 16) - 1
            self._many.append(number)
            if sample == 0:
                depth = np.frombuffer(self._target.depth.read(alignment=1), np.float32).reshape(self._tile.size[::-1])
                self._metres = self._in_metres(depth[self._tile.inside], depth_range)

    def _in_metres(self, depth: NDArray[np.float32], depth_range: tuple[float, float]) -> NDArray[np.float32]:
        """How far off, from what the depth buffer holds; nothing is infinitely far."""
        viewport = Viewport(self._view.camera, self._view.frame.sized(*self._tile.whole))
        a, b = viewport.clip_depth(*depth_range)
        c, d = viewport.divisor
        z = depth * 2.0 - 1.0
        return np.where(depth >= 1.0, np.inf, (z * c - b) / (a - z * d)).astype(np.float32)

    def numbered(self, names: frozenset[Pass], building: Building) -> Iterator[tuple[str, NDArray[Any]]]:
        """Draw those of the passes wanted that follow from the numbers."""
        number = self._many[0]
        if "depth" in names:
            yield "depth", self._metres
        if "elements" in names:
            yield "elements", _coloured(number, element_colours(len(building.elements)))
        if "materials" in names:
            of_element, colours = material_colours(building)
            yield "materials", _coloured(np.where(number >= 0, of_element[number], -1), colours)
        if "masks" in names:
            for name, mask in type_masks(building).items():
                share = np.mean([mask[n] & (n >= 0) for n in self._many], axis=0)
                yield f"mask {name}", _bytes(share)


def element_colours(count: int) -> NDArray[np.uint8]:
    """Return (count, 3) a colour for each element, no two the same."""
    code = (np.arange(1, count + 1, dtype=np.int64) * SCRAMBLED) & 0xFFFFFF
    return np.stack([code >> 16, code >> 8 & 255, code & 255], axis=1).astype(np.uint8)


def material_colours(building: Building) -> tuple[NDArray[np.int64], NDArray[np.uint8]]:
    """Return ((E,) the number of each element's material, (n, 3) a colour for each)."""
    names = material_names(building)
    order = {name: i for i, name in enumerate(names)}
    return np.array([order[e.material] for e in building.elements], np.int64), _bytes(distinct(len(names)))


def material_names(building: Building) -> list[str]:
    """In the order of their numbers."""
    return sorted({e.material for e in building.elements})


def type_masks(building: Building) -> dict[str, NDArray[np.bool_]]:
    """Return (E,) which elements are of each type."""
    types = np.array([e.type for e in building.elements])
    return {name: types == name for name in sorted(set(types.tolist()))}


def _finished(made: dict[str, NDArray[Any]], names: frozenset[Pass], building: Building) -> Passes:
    images = dict(made)
    tables: dict[str, object] = {}
    colour = images.pop("colour")
    # In the order of the picture, whichever tile had them first.
    order = [name for name in (PAPER, *LAYERS.values()) if f"layer {name}" in images]
    stack = tuple(PictureLayer(name, images.pop(f"layer {name}"), name in MULTIPLIED) for name in order)
    if "depth" in names:
        metres = images["depth"]
        there = np.isfinite(metres)
        near, far = (float(metres[there].min()), float(metres[there].max())) if there.any() else (0.0, 1.0)
        light = 1.0 - (np.where(there, metres, far) - near) / max(far - near, 1e-9)
        images["depth"] = np.where(there, 1 + np.round(light * 65534), 0).astype(np.uint16)
        tables["depth"] = {"65535 is metres": near, "1 is metres": far, "0 is": "nothing"}
    if "elements" in names:
        codes = element_colours(len(building.elements))
        tables["elements"] = {
            _code(c): {"id": e.id, "name": e.name, "type": e.type, "material": e.material}
            for c, e in zip(codes, building.elements)
        }
    if "materials" in names:
        tables["materials"] = {_code(c): name for c, name in zip(material_colours(building)[1], material_names(building))}
    return Passes(colour, images, stack, tables)


def _with_lines(found: Passes, over: Images, wanted: frozenset[Pass], layered: bool) -> Passes:
    """Lines by hand over everything: passes of their own, and layers."""
    colour, layers = found.colour, found.layers
    for name, image in over.items():
        if image.any():
            colour = over_picture(colour, image)
            layers = (*layers, PictureLayer(BY_HAND[name], image)) if layered else layers
    images = dict(found.images)
    images.update({name: over[name] for name in (BEYOND, CUT) if name in wanted and name in over})
    return Passes(colour, images, layers, found.tables)


def _with_notes(found: Passes, notes: NotesDrawn | None, wanted: bool, layered: bool) -> Passes:
    """What is written lies over everything: a pass, and the topmost layer."""
    height, width = found.colour.shape[:2]
    if notes is None or width < 1:
        over = np.zeros_like(found.colour)
    else:
        over = notes_image(notes, (width, height))
    images = {**found.images, "notes": over} if wanted else found.images
    layers = (*found.layers, PictureLayer("Notes", over)) if layered and over.any() else found.layers
    # Where the notes are a layer, all layers together are the picture, however small it is.
    colour = over_picture(found.colour, over) if layered else noted(found.colour, notes)
    return Passes(colour, images, layers, found.tables)


def _code(colour: NDArray[np.uint8]) -> str:
    return "#" + "".join(f"{c:02X}" for c in colour.tolist())


def _coloured(number: NDArray[np.integer], colours: NDArray[np.uint8]) -> Image:
    """(h, w, 4) the colour of each number; −1 is nothing."""
    found = np.zeros((*number.shape, 4), np.uint8)
    there = number >= 0
    found[there, :3], found[there, 3] = colours[number[there]], 255
    return found


def _bytes(values: NDArray[np.floating]) -> Image:
    return np.asarray(np.round(values * 255).clip(0, 255), np.uint8)


def _straight(mean: NDArray[np.floating]) -> Image:
    """Not premultiplied."""
    alpha = mean[..., 3:]
    rgb = np.divide(mean[..., :3], alpha, out=np.zeros_like(mean[..., :3]), where=alpha > 1e-6)
    return _bytes(np.concatenate([rgb, alpha], axis=-1))
