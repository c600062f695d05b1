"""The plan is written and read back, by folder, bundle and journal; files of before are read."""

from __future__ import annotations

import json

import jsonschema
import pytest

import topion
from tests.plan.worlds import link, small_world
from topion.edit.places import begin_at, order_rooms, place_room, wear_there
from topion.edit.serial import edit_from_plain, edit_to_plain
from topion.errors import BadFile
from topion.formats.bundle import bundle_bytes, read_bundle, schema
from topion.walk.links import doors_of


@pytest.fixture
def world():
    """With a room placed twice, and a door that leads to its second place."""
    made = small_world()
    made.history.apply(place_room(made.data, "Attic", (40.5, -3.0)))
    made.history.apply(wear_there(made.data, "Attic 2", "", "Night"))
    made.history.apply(begin_at(made.data, "Yard"))
    link(made, ("Yard", 1), ("Attic", 1), back=True, places=("", "Attic 2"))
    return made


def test_a_folder_reads_back_the_same(world, tmp_path):
    world.save(tmp_path / "W.topion")
    again = topion.open(tmp_path / "W.topion")
    assert again.data.shelf("placements") == world.data.shelf("placements")
    assert doors_of(again.data, "Yard").doors == doors_of(world.data, "Yard").doors
    assert list(again.data.rooms) == list(world.data.rooms)


def test_a_bundle_is_as_its_schema_says_and_reads_back(world, tmp_path):
    data = bundle_bytes(world.data)
    jsonschema.validate(json.loads(data), schema())
    (tmp_path / "w.json").write_bytes(data)
    again = read_bundle(tmp_path / "w.json")
    assert again.shelf("placements") == world.data.shelf("placements")


def test_a_place_that_is_none_is_refused_with_its_file(world, tmp_path):
    world.save(tmp_path / "W.topion")
    path = tmp_path / "W.topion/placements/Attic.json"
    path.write_text(path.read_text().replace("30", "1e300"))
    with pytest.raises(BadFile, match=r"placements/Attic\.json"):
        topion.open(tmp_path / "W.topion")


def test_edits_of_the_plan_are_kept_by_a_journal(world):
    edits = [
        place_room(world.data, "Cave", (1, 2)),
        order_rooms(world.data, "Cave", 0),
        wear_there(world.data, "Attic 2", None, None),
    ]
    for edit in edits:
        again = edit_from_plain(json.loads(json.dumps(edit_to_plain(edit))))
        assert again == edit
        for record in again.records:
            record.check(world.data)


def test_an_order_that_names_other_rooms_does_not_fit(world):
    edit = order_rooms(world.data, "Cave", 0)
    world.add_room("New", (4, 4))
    from topion.model.edit import DoesNotFit

    with pytest.raises(DoesNotFit):
        edit.records[0].check(world.data)
    assert edit.records[0].onto(world.data) is None
