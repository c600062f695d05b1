"""The extension, as a project with it is used."""

from __future__ import annotations

import json

import numpy as np
import pytest
from tidewrack.rule import AboveTide
from tidewrack.strandline import Strandline

import topion
from topion.brushes import Mosaic
from topion.cli import main
from topion.extending import EXTENSIONS, load_extensions
from topion.model.picture import Picture
from topion.model.prefab import Prefab
from topion.model.tileset import Cut, TileRef, TileSet
from topion.pictures.png import picture_of
from topion.survey import survey
from topion.weaving.rules import Variant


def picture(side: int = 8) -> Picture:
    return picture_of(np.full((side, side, 4), 200, np.uint8))


@pytest.fixture
def room():
    """Sand, with water in the west."""
    project = topion.new(None, "Shore")
    project.add_tileset(TileSet("sheet", picture(), Cut((4, 4))))
    for number, name in enumerate(("Sand", "Water")):
        project.add_brush(Mosaic(name, (Variant(TileRef("sheet", f"0,{number}")),)))
    project.add_prefab(Prefab("Hut", picture(4), (4, 2), rules=(AboveTide(3),)))
    room = project.add_room("Beach", (8, 12), 4)
    room.lay("Sand", box=((0, 0), (7, 11)))
    room.lay("Water", box=((0, 0), (7, 2)))
    return room


def test_it_is_found_by_its_entry_point():
    found = load_extensions()["tidewrack"]
    assert not found.off and found.version == "1.0"
    assert found.adds == {
        "brushes": ["tidewrack strandline"], "rules": ["tidewrack above tide"],
        "checks": ["stranded"], "formats": ["tide"], "commands": ["strandline"],
    }  # fmt: skip
    assert EXTENSIONS["tidewrack"] is found


def test_the_brush_keeps_to_the_shore(room):
    room.project.add_brush(Mosaic("Wrack", (Variant(TileRef("sheet", "1,0")),)))
    room.project.add_brush(Strandline("Line", "Wrack", within=2))
    room.lay("Line", box=((0, 0), (7, 11)))
    assert [room.material(4, x) for x in (2, 3, 4, 5)] == ["Water", "Wrack", "Wrack", "Sand"]
    edit = room.plan("Line", cells=[(4, 11)])
    assert not edit and "no Water within 2 cells" in edit.refused[0]


def test_the_rule_refuses_with_what_it_measured(room):
    near, far = (room.verdict("Hut", 4.0, x) for x in (4.0, 7.0))
    assert far.allowed and not near.allowed
    assert "too near Water" in near.reasons[0].sentence and near.reasons[0].measured == "2.0 cells"


def test_the_check_finds_what_stands_in_the_water(room):
    from topion.brushes import ThingsBrush

    room.project.add_brush(ThingsBrush("Hut", "Hut"))
    room.lay("Hut", cells=[(4, 1)], override=True)
    assert any(one.check == "stranded" and one.cell == (4, 1) for one in survey(room.project.data))


def test_the_format_and_the_command_work_from_the_command_line(room, tmp_path, capsys):
    folder = room.project.save(tmp_path / "Shore.topion")
    assert main(["export", str(folder), "--to", "tide", "-o", str(tmp_path / "out")]) == 0
    assert (tmp_path / "out" / "Beach.tide.txt").read_text().splitlines()[0] == "000123456789"
    assert main(["run", "strandline", str(folder)]) == 0
    assert "Strandline" in topion.open(folder).data.brushes
    assert main(["extensions", "--json"]) == 0
    told = capsys.readouterr().out
    assert json.loads(told[told.index("[") :])[0]["name"] == "tidewrack"


def test_what_is_written_reads_back(room, tmp_path):
    from topion.formats.bundle import bundle_bytes, read_bundle
    from topion.model.compare import differences

    room.project.add_brush(Strandline("Line", "Sand"))
    folder = room.project.save(tmp_path / "Shore.topion")
    assert differences(topion.open(folder).data, room.project.data) == []
    (tmp_path / "a.json").write_bytes(bundle_bytes(room.project.data))
    assert differences(read_bundle(tmp_path / "a.json"), room.project.data) == []
