"""Roles as data: sentences, values, files, unknown kinds."""

from dataclasses import fields, replace

import pytest

from tests.rooms import prefab, small_room, stand
from topion.edit.prefabs import set_prefab
from topion.edit.rooms import rename_room
from topion.errors import BadValue
from topion.model.compare import differences
from topion.model.form import Blank, points_of, words_for
from topion.model.plain import from_plain, to_plain
from topion.model.prefab import Prefab, Thing
from topion.model.role import Role, UnknownRole
from topion.roles import ROLES, Door, Emitter, Mover, Pickup, Walker
from topion.scripting import open as open_project


@pytest.mark.parametrize("kind", ROLES)
def test_every_property_of_a_role_is_a_blank_of_its_sentence_and_it_has_a_mark(kind):
    role = ROLES[kind]()
    blanks = [part.field for part in role.form if isinstance(part, Blank)]
    assert sorted(blanks) == sorted(f.name for f in fields(role))
    assert role.sentence().endswith(".") and role.drawing
    assert from_plain(Role, to_plain(role)) == role


def test_a_sentence_tells_what_is_set():
    door = Door(room="Cellar", door=4)
    assert door.sentence() == (
        "By touching it it leads to Cellar, door 4, at its first place; ends the world: no."
    )
    assert "points: 4 0, 4 -3.5" in Mover(points=((4, 0), (4, -3.5))).sentence()
    assert "can be cleared: yes" in Walker(cleared=True).sentence()


def test_points_are_read_as_they_are_told():
    blank = next(part for part in Mover.form if isinstance(part, Blank) and part.asks == "points")
    points = ((4.0, 0.0), (4.0, -3.5, 2.0))
    assert points_of(words_for(blank, points)) == points
    with pytest.raises(ValueError):
        points_of("4 here")


@pytest.mark.parametrize("made", [
    lambda: Pickup(counts=0), lambda: Walker(speed=99), lambda: Mover(points=((1.0,),)),
    lambda: Emitter(towards="home"), lambda: Mover(points=((0.0, 0.0),) * 65),
])  # fmt: skip
def test_what_a_role_cannot_have_is_refused_by_name(made):
    with pytest.raises(BadValue, match=r"counts|speed|point|towards"):
        made()


def test_roles_of_prefabs_and_of_things_are_written_and_read(tmp_path):
    room = small_room()
    project = room.project
    project.history.apply(set_prefab(project.data, "Bush", role=Walker(speed=2.5, harms=True)))
    stand(room, Thing("Bush", 3, 4, role=Emitter("Reed", every=0.5)))
    project.save(tmp_path / "Walked.topion")
    again = open_project(tmp_path / "Walked.topion")
    assert again.data.prefab("Bush").role == Walker(speed=2.5, harms=True)
    assert not differences(project.data, again.data)
    assert again.room(room.name).things()[-1].role == Emitter("Reed", every=0.5)


def test_a_role_nobody_knows_is_kept_and_written_back():
    plain = to_plain(replace(prefab("Odd"), role=UnknownRole("singer", {"song": "low"})))
    read = from_plain(Prefab, plain)
    assert read.role == UnknownRole("singer", {"song": "low"})
    assert to_plain(read)["role"] == {"kind": "singer", "song": "low"}


def test_a_door_follows_the_room_it_leads_to_when_that_is_renamed():
    room = small_room()
    project = room.project
    project.add_room("Far", (4, 4), 4)
    project.history.apply(set_prefab(project.data, "Bush", role=Door(room="Far")))
    (number,) = stand(room, Thing("Reed", 1, 1, role=Door(room="Far", door=3)))
    project.history.apply(rename_room(project.data, "Far", "Near"))
    assert project.data.prefab("Bush").role.room == "Near"
    assert room.data.layers["things"].things[number].role == Door(room="Near", door=3)
    project.undo()
    assert project.data.prefab("Bush").role.room == "Far"
