"""Names are found wherever they are used, changed everywhere at once, and come along in copies."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

import topion
from tests.rooms import card, one, rule, small_project, small_room, tile
from tests.voxel_rooms import isle
from topion.brushes import Lift, Stamp, ThingsBrush, Weave
from topion.edit.names import UsedBy
from topion.errors import BadValue, NameTaken, UnknownName
from topion.model.compare import differences
from topion.model.refs import Use, renamed, uses
from topion.scripting import new
from topion.things.rules import ClearOf, On
from topion.weaving.rules import RuleBook, plain_rule


@pytest.fixture
def woven(room):
    """Mud is named by a path's rules, by a rule of a prefab, and lies in the room."""
    near = rule("by mud", card("...", "M..", "..."), (4, 2), turns_tile=False)
    book = RuleBook((near, plain_rule("all", one(4, 3))), joins=("Mud",), falls_back_to="Mud")
    room.project.add_brush(Weave("Path", book))
    room.lay("Path", box=((2, 2), (4, 5)))
    room.lay("Reeds", box=((8, 8), (16, 16)))
    room.lay("Lamp", cells=[(20, 20)])
    return room


def test_a_value_tells_every_name_it_uses():
    near = rule("by mud", card("...", "M..", "..."), (4, 2))
    found = set(uses(Weave("Path", RuleBook((near,), joins=("Water",), falls_back_to="Stone"))))
    assert {Use("materials", n) for n in ("Mud", "Water", "Stone")} <= found
    assert Use("tilesets", "sheet") in found
    assert list(uses(On(("Mud",)))) == [Use("materials", "Mud")]
    assert list(uses(ClearOf(3.0, "post"))) == [Use("prefabs", "post", True)]
    assert list(uses(Lift(only="Mud"))) == [Use("brushes", "Mud")] and not list(uses(Lift()))
    laid = list(uses(Stamp("S", ((None, tile(0, 0)),))))
    assert laid == [Use("tilesets", "sheet"), Use("slots of sheet", "0,0", True)]


def test_blocks_are_used_by_what_lays_them():
    data = isle().project.data
    assert Use("blocks", "Earth") in set(uses(data.brush("Ground")))
    assert Use("blocks", "Corner") in set(uses(data.brush("Box")))


@given(st.sampled_from(["Mud", "Water", "Stones", "Reeds", "Lamp", "Path"]))
def test_a_name_changed_there_and_back_leaves_a_brush_as_it_was(name):
    project = small_project()
    for brush in project.data.brushes.values():
        for use in uses(brush):
            there = renamed(brush, use.kind, use.name, "Other")
            assert Use(use.kind, "Other", use.perhaps) in set(uses(there))
            assert renamed(there, use.kind, "Other", use.name) == brush


def test_used_by_names_items_and_layers(woven):
    project = woven.project
    found = project.used_by("materials", "Mud")
    assert UsedBy("prefabs", "Reed") in found and UsedBy("brushes", "Path", count=3) in found
    assert project.used_by("prefabs", "Lamp") == [
        UsedBy("brushes", "Lamp"), UsedBy(room="Yard", layer="things"),
    ]  # fmt: skip
    assert project.used_by("brushes", "Reeds") == [UsedBy(room="Yard", layer="reeds")]


@pytest.mark.parametrize(
    ("shelf", "old"),
    [("brushes", "Mud"), ("brushes", "Reeds"), ("prefabs", "Lamp"), ("tilesets", "sheet")],
)
def test_renaming_changes_every_use_and_no_picture(woven, tmp_path, shelf, old):
    project = woven.project
    before, shown = project.data.frozen(), woven.render(2).tobytes()
    project.rename(shelf, old, "Renamed")
    assert not project.used_by(shelf, old) and old not in project.data.shelf(shelf)
    assert woven.render(2).tobytes() == shown
    assert [f for f in project.check() if f.check == "unknown name"] == []
    folder = project.save(tmp_path / "R.topion")
    assert differences(topion.open(folder).data, project.data) == []
    project.undo()
    assert differences(project.data, before) == []


def test_renaming_a_brush_takes_its_material_along(woven):
    number = woven.project.data.material_id("Mud")
    woven.project.rename("brushes", "Mud", "Silt")
    assert woven.project.data.material_id("Silt") == number and woven.material(0, 0) == "Silt"
    assert "Silt" in {b for bay in woven.project.data.bays for b in bay.brushes}


def test_renaming_a_block_changes_the_table_of_blocks():
    room = isle()
    shown = room.render(1).tobytes()
    room.project.rename("blocks", "Top", "Turf")
    assert "Turf" in room.project.data.block_names and room.render(1).tobytes() == shown


def test_a_name_that_is_taken_empty_or_unknown_is_refused(woven):
    with pytest.raises(NameTaken):
        woven.project.rename("brushes", "Mud", "Water")
    with pytest.raises(BadValue):
        woven.project.rename("brushes", "Mud", "  ")
    with pytest.raises(UnknownName):
        woven.project.rename("brushes", "Nobody", "Somebody")
    with pytest.raises(UnknownName):
        woven.project.rename("cupboard", "Mud", "Silt")


def test_an_item_comes_with_all_that_it_uses(woven):
    target = new(None, "Other")
    target.take_from(woven.project, "brushes", "Path")
    data = target.data
    assert set(data.brushes) >= {"Path", "Mud"} and set(data.tilesets) == {"sheet"}
    assert data.brush("Path") == woven.project.data.brush("Path")
    assert len(target.history.edits) == 1
    room = target.add_room("Yard", (8, 8), 4)
    room.lay("Path", box=((1, 1), (5, 5)))
    assert room.why(3, 3) is not None
    target.take_from(woven.project, "brushes", "Path")  # equal ones are used as they are
    assert not [f for f in target.check() if f.check == "unknown name"]


def test_another_item_of_the_same_name_is_not_written_over(woven):
    target = small_room().project
    target.add_brush(replace(target.data.brush("Mud"), nib=7))
    before = target.data.frozen()
    with pytest.raises(NameTaken, match="brush named “Mud”"):
        target.take_from(woven.project, "brushes", "Path")
    assert differences(target.data, before) == []


def test_a_thing_brush_brings_its_prefab_and_its_rules_materials(woven):
    woven.project.add_brush(ThingsBrush("Plant", "Reed"))
    target = new(None, "Other")
    target.take_from(woven.project, "brushes", "Plant")
    assert "Reed" in target.data.prefabs and "Mud" in target.data.materials
