"""Linework sent out from the window."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pikepdf
import pypdfium2
from lxml import etree
from test_sending_out_pictures import dialog

from anatome.app.send_out.linework import LineworkDialog


def page(path: Path) -> np.ndarray:
    """(h, w, 3) 0..255."""
    with pypdfium2.PdfDocument(path) as document:
        return np.array(document[0].render(scale=1.0).to_pil().convert("RGB")).astype(int)


def test_linework_of_a_scene_at_a_scale_and_with_its_picture_under_it(hand, tmp_path: Path) -> None:
    hand.window.contact_sheet.recall("long")
    hand.settle()
    hand.do("send_linework")
    sending = dialog(LineworkDialog)
    assert sending.scene.currentText() == "Long section" and "315 × 210 mm" in sending.paper.text()
    sending.scale.setCurrentText("1:a lot")
    sending.go.click()
    assert sending.isVisible() and "1:50" in sending.problem.text()
    sending.scale.setCurrentText("1:200")
    assert "1:200 at the cut" in sending.paper.text()
    sending.hidden.setChecked(True)
    sending.tones.setChecked(True)
    sending.under.setChecked(True)
    sending.go.click()
    assert sending.isVisible() and "Choose one" in sending.problem.text()
    sending.under.setChecked(False)
    sending.path.setText(str(tmp_path / "long.svg"))
    hand.send(sending)
    root = etree.parse(str(tmp_path / "long.svg")).getroot()
    names = [g.get("id") for g in root.iter("{http://www.w3.org/2000/svg}g")]
    assert {"Hidden lines", "Round the cut", "Tones"} <= set(names) and names.index("Tones") < names.index("Round the cut")

    hand.do("send_linework")
    sending = dialog(LineworkDialog)
    sending.under.setChecked(True)
    sending.path.setText(str(tmp_path / "long.dxf"))
    sending.go.click()
    assert sending.isVisible() and "no picture" in sending.problem.text()
    sending.path.setText(str(tmp_path / "over.pdf"))
    hand.send(sending)
    hand.do("send_linework")
    sending = dialog(LineworkDialog)
    sending.path.setText(str(tmp_path / "plain.pdf"))
    hand.send(sending)
    over, plain = page(tmp_path / "over.pdf"), page(tmp_path / "plain.pdf")
    assert over.shape == plain.shape
    # Both have the cut where it is; the one with the picture has tones behind it.
    dark = plain.max(axis=2) < 95
    assert dark.sum() > 2000 and (over.max(axis=2)[dark] < 120).mean() > 0.95
    assert (over.min(axis=2) < 240).mean() > (plain.min(axis=2) < 240).mean() + 0.1
    with pikepdf.open(tmp_path / "over.pdf") as document:
        assert str(document.Root.OCProperties.OCGs[0].Name) == "Picture"


def test_linework_is_cancelled_and_leaves_nothing(hand, tmp_path: Path) -> None:
    hand.do("send_linework")
    sending = dialog(LineworkDialog)
    sending.under.setChecked(True)
    sending.path.setText(str(tmp_path / "gone.pdf"))
    sending.go.click()
    assert sending.busy
    sending.reject()
    assert sending.isVisible() and "cancelled" in sending.problem.text() and not (tmp_path / "gone.pdf").exists()
    sending.reject()
