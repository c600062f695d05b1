"""Names that were given up: files that speak of them mean the new ones."""

from __future__ import annotations

import shutil

import pytest

from tests.rooms import small_room
from topion.edit.rooms import rename_room
from topion.edit.slots import rename_slot
from topion.formats.folder import read_project
from topion.model.compare import differences
from topion.model.shelves import Former
from topion.weaving.settle import shown_tiles


@pytest.fixture
def pair(tmp_path):
    """A saved room, its folder, and a copy of the folder from before anything was renamed."""
    room = small_room()
    room.lay("Stones", box=((2, 2), (4, 5)))
    room.lay("Bush", cells=[(9, 9)])
    folder = room.project.save(tmp_path / "New.topion")
    shutil.copytree(folder, tmp_path / "Old.topion")
    return room, folder, tmp_path / "Old.topion"


def with_old_rooms(new, old):
    """The library as it is now, with rooms by somebody who did not hear of it."""
    shutil.rmtree(new / "rooms")
    shutil.copytree(old / "rooms", new / "rooms")
    return read_project(new)


def test_a_renamed_brush_is_found_in_cells_laid_by_its_old_name(pair):
    room, folder, old = pair
    room.project.rename("brushes", "Stones", "Pebbles")
    room.project.save()
    project = with_old_rooms(folder, old)
    cells = project.room("Yard").layers["ground"].plane("material")
    assert project.material_name(int(cells[2, 2])) == "Pebbles"
    assert differences(project, room.project.data) == []


def test_a_renamed_prefab_is_found_in_things(pair):
    room, folder, old = pair
    room.project.rename("prefabs", "Bush", "Shrub")
    room.project.save()
    project = with_old_rooms(folder, old)
    assert [t.prefab for t in project.room("Yard").layers["things"].things.values()] == ["Shrub"]


def test_a_renamed_tile_set_is_found_in_brushes(pair):
    room, folder, old = pair
    room.project.rename("tilesets", "sheet", "tiles")
    history = room.project.history
    history.apply(rename_slot(room.project.data, "tiles", "0,1", "edge"))
    room.project.save()
    shutil.copy(old / "brushes" / "Mud.json", folder / "brushes" / "Mud.json")
    project = read_project(folder)
    assert project.brush("Mud") == room.project.data.brush("Mud")
    assert shown_tiles(project, project.room("Yard").layers["ground"]).any()


def test_names_are_followed_over_several_steps_and_given_up_ones_may_come_again(pair):
    room, *_ = pair
    for old, new in (("Bush", "Shrub"), ("Shrub", "Hedge")):
        room.project.rename("prefabs", old, new)
    former = [one for one in room.project.data.former if one.of == "prefabs"]
    assert former == [Former("prefabs", "Bush", "Hedge"), Former("prefabs", "Shrub", "Hedge")]
    room.project.rename("prefabs", "Hedge", "Bush")
    former = [one for one in room.project.data.former if one.of == "prefabs"]
    assert Former("prefabs", "Hedge", "Bush") in former
    assert not any(one.old == "Bush" for one in former)


def test_renaming_is_one_edit_and_undone_whole(pair):
    room, *_ = pair
    before = room.project.data.frozen()
    room.project.rename("brushes", "Stones", "Pebbles")
    room.project.history.apply(rename_room(room.project.data, "Yard", "Court"))
    room.project.undo()
    room.project.undo()
    assert differences(room.project.data, before) == [] and room.project.data.former == ()
