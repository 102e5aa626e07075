"""Properties as the file has them: of the demo, and of the open house against ifcopenshell asked directly."""

from __future__ import annotations

from pathlib import Path

import ifcopenshell
import pytest

from anatome.formats.properties import PropertyReader
from anatome.problems import Problem


def test_property_sets_of_a_part_and_its_type(boathouse_ifc: Path) -> None:
    reader = PropertyReader(boathouse_ifc)
    try:
        model = ifcopenshell.open(str(boathouse_ifc))
        wall = model.by_type("IfcWall")[0]
        expected = {
            p.Name: p.NominalValue.wrappedValue
            for relation in wall.IsTypedBy
            for p in relation.RelatingType.HasPropertySets[0].HasProperties
        }
        assert reader.sets_of(wall.GlobalId) == {"Pset_WallCommon": expected} and expected["LoadBearing"] is True
        assert reader.sets_of("0000000000000000000000") == {}
    finally:
        reader.close()
    with pytest.raises(Problem, match="closed"):
        reader.sets_of(wall.GlobalId + "x")


def test_files_that_are_not_there_or_no_ifc_say_so(tmp_path: Path) -> None:
    assert PropertyReader(tmp_path / "block.stl").sets_of("a") == {}
    with pytest.raises(Problem, match="no longer where it was opened"):
        PropertyReader(tmp_path / "gone.ifc").sets_of("a")
    (tmp_path / "broken.ifc").write_text("not a model")
    with pytest.raises(Problem, match=r"cannot be read from “broken\.ifc”"):
        PropertyReader(tmp_path / "broken.ifc").sets_of("a")
