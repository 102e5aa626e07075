"""Passes and layers of pictures: they make up the picture, they register with it, and their numbers are true."""

from __future__ import annotations

import io
import zipfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import psdtags
import pytest
from lxml import etree
from PIL import Image, ImageChops
from scipy.ndimage import binary_dilation

from anatome.cuts.dissection import Cutter
from anatome.formats.pictures_out import layers_bytes, openraster_bytes
from anatome.formats.project_files import OpenedProject
from anatome.look.shipped import shipped_looks
from anatome.render.passes import BY_HAND, LAYERS, PAPER, passes_steps
from anatome.render.pictures import PictureMaker
from anatome.scenes.scene_view import View, view_of
from anatome.view.passes import PASSES, Pass, Passes
from anatome.view.viewport import Viewport

SIZE = (540, 360)


@pytest.fixture(scope="module")
def maker(demo: OpenedProject) -> PictureMaker:
    return PictureMaker.standalone(demo.building)


def view(demo: OpenedProject, scene: str, look: str | None = None) -> View:
    project = demo.stored.project
    found = next(s for s in project.scenes if s.name == scene)
    made = view_of(Cutter(demo.building), found, found.camera_for(SIZE[0] / SIZE[1]), project.site)
    return replace(made, look=shipped_looks()[look]) if look else made


def passes(maker: PictureMaker, of: View, names: tuple[Pass, ...], layered: bool, ground: str, samples: int) -> Passes:
    steps = passes_steps(maker.renderer, of, SIZE, names, layered, ground, samples)
    while True:
        try:
            assert 0 <= next(steps) <= 1
        except StopIteration as end:
            return end.value


def flattened_by_pillow(data: bytes) -> tuple[np.ndarray, np.ndarray]:
    """(what the layers of an OpenRaster file show together, the picture in it), read and composed by another library."""
    with zipfile.ZipFile(io.BytesIO(data)) as file:
        assert file.namelist()[0] == "mimetype" and file.read("mimetype") == b"image/openraster"
        stack = etree.fromstring(file.read("stack.xml"))
        found = Image.new("RGB", (int(stack.get("w")), int(stack.get("h"))))
        for layer in reversed(stack.findall("stack/layer")):
            image = Image.open(io.BytesIO(file.read(layer.get("src"))))
            if layer.get("composite-op") == "svg:multiply":
                assert image.getextrema()[3] == (255, 255)
                found = ImageChops.multiply(found, image.convert("RGB"))
            else:
                found = Image.alpha_composite(found.convert("RGBA"), image).convert("RGB")
        return np.array(found).astype(int), np.array(Image.open(io.BytesIO(file.read("mergedimage.png"))))[..., :3]


@pytest.mark.parametrize(
    ("scene", "look", "ground"),
    [
        ("Long section", None, "paper"),
        ("Axonometric cutaway", "Night blue", "paper"),
        ("Split axonometric", "Materials in colour", "white"),
        ("From the river", "Evening", "paper"),
        ("Long section, dressed", None, "white"),
        ("Long section, dressed", "Pencil section", "paper"),
        ("The wing by itself", "Washed axonometric", "white"),
    ],
)
def test_layers_together_are_the_picture(
    demo: OpenedProject,
    maker: PictureMaker,
    monkeypatch: pytest.MonkeyPatch,
    tmp_path: Path,
    scene: str,
    look: str | None,
    ground: str,
) -> None:
    """Two steps of 255 at most: every layer is rounded to a byte. In tiles too, of which some lack a layer."""
    tiled = scene == "Split axonometric"
    if tiled:
        monkeypatch.setattr("anatome.render.passes.TILE", 180)
    of = view(demo, scene, look)
    plain = maker.picture(of, SIZE, ground, 3)[..., :3].astype(int)
    found = passes(maker, of, (), True, ground, 3)
    together, merged = flattened_by_pillow(openraster_bytes(found, 300))
    # In tiles the probes of soft shade fall to one side or the other with the last digit of a depth.
    assert np.abs(merged - plain).mean() < 0.3 if tiled else np.abs(merged - plain).max() <= 1
    off = np.abs(together - merged).max(axis=2)
    assert off.max() <= 2 and (off > 1).mean() < 0.06
    # The same layers in a TIFF, as an independent reader finds them.
    path = tmp_path / "layers.tif"
    path.write_bytes(layers_bytes(path, found, 300))
    stacked = psdtags.TiffImageSourceData.fromtiff(str(path))
    assert [layer.name for layer in stacked.layers] == [layer.name for layer in found.layers]
    for layer, own in zip(stacked.layers, found.layers):
        assert (layer.blendmode == psdtags.PsdBlendMode.MULTIPLY) == own.multiplies
        whole, box = np.zeros_like(own.image), layer.rectangle
        channels = {int(channel.channelid): channel.data for channel in layer.channels}
        whole[box.top : box.bottom, box.left : box.right] = np.stack([channels[n] for n in (0, 1, 2, -1)], axis=-1)
        inked = own.image[..., 3] > 0
        assert np.array_equal(whole[inked], own.image[inked]) and not whole[~inked][:, 3].any()
    with Image.open(path) as flat:
        assert np.array_equal(np.array(flat)[..., :3], merged) and flat.info["dpi"] == (300, 300)
    names = [layer.name for layer in found.layers]
    assert names[:2] == ["Paper", "Surfaces"] and "Soft shade" in names
    hand = look in ("Pencil section", "Washed axonometric")
    under = [name for key, name in LAYERS.items() if not (hand and key.endswith("lines"))]
    assert names == [n for n in (PAPER, *under, *(BY_HAND.values() if hand else ()), "Notes") if n in names]
    assert ("Edges of washes" in names) == (look == "Washed axonometric")
    assert ("Notes" in names) == (scene == "Long section, dressed")
    assert scene == "From the river" or names.index("Cut fill") < names.index("Cut lines")


def test_passes_register_and_say_what_is_where(demo: OpenedProject, maker: PictureMaker) -> None:
    """The edges of what is cut lie under its lines, parts are where their numbers say, and depth is that of their places; cut
    faces are drawn some pixels nearer."""
    of = view(demo, "Perspective section, 1:50")
    found = passes(maker, of, PASSES, False, "transparent", 4)
    assert np.abs(found.colour.astype(int) - maker.picture(of, SIZE, "transparent", 4))[found.colour[..., 3] > 200].max() <= 2
    fill, lines = found.images["cut-fill"][..., 3], found.images["cut-lines"][..., 3]
    solid = fill > 250
    edge = solid & binary_dilation(fill < 5, iterations=2)
    assert edge.sum() > 500
    # Earth that fades has no line at its lower end, nor where the picture ends.
    edge[:3] = edge[-3:] = edge[:, :3] = edge[:, -3:] = False
    assert (binary_dilation(lines > 40)[edge]).mean() > 0.97

    codes, table = found.images["elements"], found.tables["elements"]
    assert len(table) == len(demo.building.elements)
    by_id = {entry["id"]: code for code, entry in table.items()}
    viewport = Viewport(of.camera, of.frame.sized(*SIZE))
    checked = 0
    near, far = (found.tables["depth"][key] for key in ("65535 is metres", "1 is metres"))
    for face in of.opened.parts[0].cut_open.faces:
        for polygon, number in zip(face.section.polygons, face.section.element):
            spot = polygon.representative_point()
            place = face.section.plane.raised(np.array([[spot.x, spot.y]]))
            x, y = viewport.pixels(place)[0]
            if polygon.area < 0.3 or not (2 < x < SIZE[0] - 2 and 2 < y < SIZE[1] - 2):
                continue
            code = "#" + "".join(f"{c:02X}" for c in codes[int(y), int(x), :3])
            metres = near + (65535 - int(found.images["depth"][int(y), int(x)])) / 65534 * (far - near)
            if table[code]["id"] == demo.building.elements[number].id:
                checked += 1
                assert metres == pytest.approx(viewport.flat(place)[1][0], abs=6 * viewport.metres_per_pixel(place[0]))
    assert checked >= 4 and len(by_id) == len(table)

    walls = found.images["mask IfcWall"] > 128
    types = {tuple(bytes.fromhex(code[1:])): entry["type"] for code, entry in table.items()}
    said = np.array([[types.get(tuple(c[:3]), "") == "IfcWall" if c[3] else False for c in row] for row in codes])
    assert (walls == said).mean() > 0.985 and walls.any()
    sun = found.images["shadow"]
    assert sun.dtype == np.uint8 and sun.min() > 255 * (1 - of.look.shadows) - 3 and sun.max() == 255
