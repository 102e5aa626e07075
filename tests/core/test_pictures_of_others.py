"""Pictures of other people: read as every viewer shows them, or refused in plain words."""

from __future__ import annotations

import io
import struct
import zlib
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from anatome.look.pictures import read_picture
from anatome.pictures import on_white, open_picture
from anatome.problems import Problem


def saved(image: Image.Image, kind: str, **more: object) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **more)
    return out.getvalue()


def test_deep_greys_keep_their_tones() -> None:
    tones = np.linspace(0, 65535, 256).astype(np.uint16).reshape(16, 16)
    for kind in ("PNG", "TIFF"):
        read = np.asarray(open_picture(saved(Image.fromarray(tones), kind)))[..., 0]
        assert np.abs(read - tones / 257.0).max() <= 0.5


def test_a_picture_stands_as_its_camera_was_held() -> None:
    """EXIF orientation 6: the camera was turned, the picture is shown a quarter turn clockwise (CIPA DC-008, from memory)."""
    lying = Image.new("RGB", (60, 20), (255, 255, 255))
    lying.paste((200, 0, 0), (0, 0, 20, 20))  # at the left, which will be at the top
    exif = Image.Exif()
    exif[0x0112] = 6
    upright = open_picture(saved(lying, "JPEG", exif=exif, quality=95))
    assert upright.size == (20, 60) and np.asarray(upright)[5, 10, 1] < 60 and np.asarray(upright)[50, 10, 1] > 200


def test_what_is_clear_is_white_on_paper(tmp_path: Path) -> None:
    clear = Image.new("RGBA", (8, 8), (10, 10, 10, 0))
    palette = Image.new("P", (8, 8))
    palette.info["transparency"] = 0
    for image, more in ((clear, {}), (palette, {"transparency": 0})):
        opened = open_picture(saved(image, "PNG", **more))
        assert opened.mode == "RGBA" and np.asarray(on_white(opened)).min() == 255
    (tmp_path / "clear.png").write_bytes(saved(clear, "PNG"))
    assert read_picture(tmp_path / "clear.png", 1.0).metres == 1.0
    assert open_picture(saved(Image.new("RGBA", (8, 8), (10, 10, 10, 255)), "PNG")).mode == "RGB"


def test_other_formats_damage_and_bombs_are_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def never(*words: object, **more: object) -> None:
        raise AssertionError("another program was started")

    monkeypatch.setattr("subprocess.check_call", never)
    monkeypatch.setattr("subprocess.Popen", never)
    eps = b"%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 10 10\n%%EndComments\n0 0 10 10 rectfill\nshowpage\n"
    whole = saved(Image.effect_noise((300, 300), 80), "PNG")

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    bomb = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", 60_000, 60_000, 8, 2, 0, 0, 0)) + chunk(b"IEND", b"")
    for content in (eps, saved(Image.new("RGB", (4, 4)), "GIF"), whole[: len(whole) // 2], bomb, b"", b"\0" * 100):
        path = tmp_path / "any.png"
        path.write_bytes(content)
        with pytest.raises(Problem, match=r"any\.png"):
            open_picture(path)
    with pytest.raises(Problem, match="no file"):
        open_picture(tmp_path)
