"""Pictures in every kind of file, read back by Pillow and lxml: pixels, dots an inch, and what they say of themselves."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
from lxml import etree
from PIL import Image

from anatome.formats.about import About, about
from anatome.formats.pictures_out import writer_for
from anatome.look.look import Look
from anatome.problems import Problem
from anatome.scenes.project import Scene, StageState
from anatome.view.camera import Camera
from anatome.view.crop import Crop

TOLD = About("Section A & <B>", "Boathouse", "1:50", "Calm", "2026-11-29")
SPACES = {"dc": "http://purl.org/dc/elements/1.1/", "rdf": "http://www.w3.org/1999/02/22-rdf-syntax-ns#"}
XMP_SPACE = "{http://ns.adobe.com/xap/1.0/}"


def drawing() -> np.ndarray:
    """Lines and fills on a clear ground."""
    pixels = np.zeros((60, 80, 4), np.uint8)
    pixels[10:50, 20:60] = (47, 127, 115, 255)
    pixels[30, :, :] = (34, 38, 43, 255)
    return pixels


def packet(image: Image.Image, content: bytes) -> bytes:
    found = image.info.get("xmp") or image.info.get("XML:com.adobe.xmp") or getattr(image, "tag_v2", {}).get(700)
    return found.encode() if isinstance(found, str) else found


@pytest.mark.parametrize("suffix", [".png", ".tif", ".jpg", ".webp"])
def test_every_kind_holds_the_picture_its_dots_and_what_it_is_about(suffix: str) -> None:
    content = writer_for(Path(f"a{suffix}"))(drawing(), 300.0, TOLD)
    image = Image.open(io.BytesIO(content))
    assert image.size == (80, 60)
    if suffix != ".webp":  # which has no place for it
        assert image.info["dpi"] == pytest.approx((300, 300), abs=0.1)
    found, wanted = np.array(image.convert("RGBA")).astype(int), drawing().astype(int)
    if suffix == ".jpg":
        flat = wanted[..., :3] * wanted[..., 3:] // 255 + (255 - wanted[..., 3:])
        assert np.abs(found[..., :3] - flat).mean() < 2 and image.mode == "RGB"
    elif suffix == ".webp":
        assert (found[..., 3] == wanted[..., 3]).all() and np.abs(found - wanted)[wanted[..., 3] > 0].mean() < 4
    else:
        assert np.array_equal(found, wanted)
    told = etree.fromstring(packet(image, content))
    assert told.findtext(".//dc:title//rdf:li", namespaces=SPACES) == TOLD.title
    assert told.findtext(".//dc:description//rdf:li", namespaces=SPACES) == "Section A & <B>, 1:50, Calm, Boathouse, 2026-11-29"
    assert [li.text for li in told.iterfind(".//dc:subject//rdf:li", SPACES)] == ["Section A & <B>", "1:50", "Calm", "Boathouse"]
    (about_it,) = told.iterfind(".//rdf:Description", SPACES)
    assert about_it.get(f"{XMP_SPACE}CreateDate") == "2026-11-29" and about_it.get(f"{XMP_SPACE}CreatorTool") == "Anatome"
    if suffix == ".png":
        assert image.text["Title"] == TOLD.title and image.text["Creation Time"] == "2026-11-29"
    # Said of nothing, it says nothing, and the same picture has the same bytes.
    plain = writer_for(Path(f"a{suffix}"))(drawing())
    assert b"xmpmeta" not in plain and plain == writer_for(Path(f"a{suffix}"))(drawing())


def test_what_a_scene_says_of_itself_and_what_is_too_large_for_a_kind() -> None:
    camera = Camera(eye=(0, -10, 0), target=(0, 0, 0), projection="parallel")
    state = StageState(camera=camera, look=Look(name="Calm"), crop=Crop(aspect=1.5, height=0.8, scale=50.0))
    told = about(Scene(id="s", name="Long\x00 section", state=state), "Boathouse", "2026-11-29")
    assert told.scale == "1:50" and told.look == "Calm" and "\x00" not in told.title
    assert about(Scene(id="", name="", state=StageState(camera=camera)), "P", "2026-11-29").title == "P"
    wide = np.zeros((1, 20_000, 4), np.uint8)
    with pytest.raises(Problem, match="at most 16,383"):
        writer_for(Path("a.webp"))(wide)
    assert writer_for(Path("a.jpeg"))(wide)
    with pytest.raises(Problem, match=r"\.png, \.tif, \.jpg or \.webp"):
        writer_for(Path("a.bmp"))
