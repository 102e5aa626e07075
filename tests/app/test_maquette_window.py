"""The stage sent out as a scale model to print, from the window."""

from __future__ import annotations

from pathlib import Path

import pytest
import trimesh
from test_sending_out_pictures import dialog

from anatome.app.send_out.maquette import MaquetteDialog
from anatome.maquette.maquette import printed_of


def test_what_a_cut_leaves_on_the_stage_as_a_model_to_print(hand, tmp_path: Path) -> None:
    hand.window.contact_sheet.recall("long")
    hand.settle()
    before = hand.window.session.project
    hand.do("send_maquette")
    sending = dialog(MaquetteDialog)
    assert sending.name.text() == before.name
    sending.path.setText(str(tmp_path / "model.obj"))
    hand.send(sending)
    assert sending.isVisible() and ".3mf" in sending.problem.text() and not list(tmp_path.iterdir())
    sending.path.setText(str(tmp_path / "model.3mf"))
    sending.scale.setValue(400)
    sending.base.setValue(0)
    assert "in one piece" in sending.measures.text()
    told = [float(side) for side in sending.measures.text().removeprefix("About ").split(" mm")[0].split(" × ")]
    said = []
    hand.window.session.said.connect(said.append)
    hand.send(sending)
    scene = trimesh.load_scene(tmp_path / "model.3mf", merge_primitives=True)
    (model,) = scene.dump()
    assert model.is_watertight and scene.units in ("millimeter", "mm")
    # As long as what is printed, and less deep: the cut takes the front of it away.
    kept = hand.window.session.kept()
    low, high = kept.building.bounds_of(printed_of(kept, False, False))
    whole = (high - low) * 1000 / 400
    assert model.extents[0] == pytest.approx(whole[0], abs=1.0) and model.extents[1] < 0.9 * whole[1]
    assert model.extents == pytest.approx(told, abs=1.5)
    assert any("1 piece" in words for words in said)
    assert hand.window.session.project is before
