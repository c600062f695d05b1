"""Doors, where they lead, and what the survey says of those that go astray."""

import pytest

from tests.rooms import small_project, stand
from topion.edit.logic import set_role
from topion.edit.pieces import Pick
from topion.edit.rooms import remove_room, rename_room
from topion.model.prefab import Thing
from topion.roles import Door, Goal, Start
from topion.survey import Ledger, survey
from topion.walk.links import doors_of, every_door, share_doors


@pytest.fixture
def world():
    """Two rooms, each with a door into the other."""
    project = small_project()
    attic, porch = (project.add_room(name, (12, 12)) for name in ("Attic", "Porch"))
    (down,) = stand(attic, Thing("Bush", 3, 3, role=Door(room="Porch", door=1)))
    (up,) = stand(porch, Thing("Bush", 5, 5, role=Door(room="Attic", door=down)))
    assert up == 1
    return project


def said(project):
    return [(f.room, f.cell, f.sentence) for f in survey(project.data)]


def lead(project, room, number, role):
    """Give a door another role."""
    thing = project.room(room).data.layers["things"].things[number]
    things = {Pick("things", number): thing}
    project.history.apply(set_role(project.data, room, things, role))


def test_doors_that_lead_to_each_other_are_sound(world):
    assert [(d.room, d.to, d.cell) for d in every_door(world.data)] == [
        ("Attic", "Porch", (3, 3)), ("Porch", "Attic", (5, 5)),
    ]  # fmt: skip
    assert said(world) == []


def test_a_door_to_what_is_not_there_is_found(world):
    lead(world, "Attic", 1, Door(room="Porch", door=7))
    assert said(world) == [
        ("Attic", (3, 3), "Bush · leads to thing 7 of Porch, which is not there"),
    ]
    lead(world, "Attic", 1, Door(room="Porch"))
    assert said(world)[0][2] == "Bush · leads to the start of Porch, which has none"
    stand(world.room("Porch"), Thing("Bush", 8, 8, role=Start()), Thing("Bush", 9, 9, role=Goal()))
    assert said(world) == []
    lead(world, "Attic", 1, Door(room="Cellar"))
    assert [told for *_, told in said(world)] == [
        "Bush · leads to room Cellar, which is not there",
        "Bush · leads to Attic, from where no door leads back",
    ]


def test_a_door_that_leads_nowhere_yet_or_ends_the_world_is_no_fault(world):
    lead(world, "Porch", 1, Door())
    assert [told for *_, told in said(world)] == [
        "Bush · leads to Porch, from where no door leads back"
    ]
    lead(world, "Attic", 1, Door(room="Porch", door=1, ends_world=True))
    assert said(world) == []


def test_a_goal_without_any_start_is_found(world):
    stand(world.room("Porch"), Thing("Bush", 8, 8, role=Goal()))
    assert [told for *_, told in said(world)] == ["there is a goal, but no start in any room"]
    stand(world.room("Attic"), Thing("Bush", 8, 8, role=Start()))
    assert said(world) == []


def test_the_ledger_follows_strokes_renames_and_undo(world):
    ledger = Ledger()

    def kept():
        ledger.bring_up_to_date(world.data)
        return ledger.findings(world.data)

    assert kept() == []
    lead(world, "Attic", 1, Door(room="Porch", door=7))
    assert kept() == survey(world.data) != []
    world.undo()
    assert kept() == []
    world.history.apply(rename_room(world.data, "Porch", "Yard"))
    assert kept() == [] and {d.to for d in every_door(world.data)} == {"Yard", "Attic"}
    world.history.apply(remove_room(world.data, "Yard"))
    assert kept() == survey(world.data) != []


def test_a_room_is_looked_through_once_as_long_as_it_stays(world):
    first = doors_of(world.data, "Attic")
    assert doors_of(world.data, "Attic") is first
    stand(world.room("Porch"), Thing("Bush", 9, 9))
    assert doors_of(world.data, "Attic") is first
    stand(world.room("Attic"), Thing("Bush", 9, 9))
    assert doors_of(world.data, "Attic") is not first


def test_copies_share_what_was_found_so_that_a_survey_reads_no_room_twice(world):
    share_doors(world.data)
    first = doors_of(world.data.frozen(), "Attic")
    assert doors_of(world.data.frozen(), "Attic") is first
