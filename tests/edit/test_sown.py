"""Single things of a field: held, moved, banned, made plain and given back, each as one Edit."""

from __future__ import annotations

import numpy as np
import pytest

from tests.rooms import small_room
from topion.brushes import FieldBrush, Sown
from topion.edit import sown as edits
from topion.edit.layers import duplicate_layer
from topion.edit.picked import Picks, removed
from topion.edit.picked_moves import moved
from topion.edit.picking import entries_in
from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.things.sowing import sow


@pytest.fixture
def grown():
    """A room with a field all over it."""
    room = small_room((20, 24))
    room.project.add_brush(FieldBrush("Growth", (Sown("Bush"),), spacing=1.2, seed=4, density=1.0))
    room.lay("Growth", box=((0, 0), (19, 23)))
    layer_id = next(i for i, _ in room.data.bottom_up("field"))
    return room, layer_id


def spots(room, layer_id):
    return {
        tuple(p) for p in sow(room.project.data, room.data, layer_id).positions.round(5).tolist()
    }


def first(room, layer_id, count=1):
    found = sow(room.project.data, room.data, layer_id)
    return [found.thing(row) for row in range(20, 20 + count)]


def apply(room, edit):
    assert edit, edit.refused
    room.project.history.apply(edit)


def hold(room, layer_id, things):
    edit, picks = edits.held(room.project.data, room.name, layer_id, things)
    apply(room, edit)
    return picks


def test_what_is_sown_in_a_cell_is_found_and_held_things_are_not(grown):
    room, layer_id = grown
    (thing,) = first(room, layer_id)
    cell = thing.cell
    assert edits.sown_at(room.project.data, room.data, cell) == (layer_id, thing)
    hold(room, layer_id, [thing])
    assert edits.sown_at(room.project.data, room.data, cell) is None
    room.set_layer(room.data.layers[layer_id].info.name, shown=False)
    assert edits.sown_at(room.project.data, room.data, (5, 5)) is None


def test_a_held_thing_is_moved_and_nothing_grows_where_it_was(grown):
    room, layer_id = grown
    (thing,) = first(room, layer_id)
    before = spots(room, layer_id)
    (pick,) = hold(room, layer_id, [thing])
    assert spots(room, layer_id) == before
    apply(room, moved(room.project.data, room.name, Picks((pick,)), (2.0, 2.0)))
    after = spots(room, layer_id)
    assert (thing.y, thing.x) not in after
    assert (round(thing.y + 2, 5), round(thing.x + 2, 5)) in after
    apply(room, edits.let_grow(room.project.data, room.name, [pick]))
    assert spots(room, layer_id) == before
    assert not room.data.layers[layer_id].table("bans")


def test_taken_away_its_place_stays_empty_under_every_seed(grown):
    room, layer_id = grown
    (thing,) = first(room, layer_id)
    (pick,) = hold(room, layer_id, [thing])
    apply(room, removed(room.project.data, room.name, Picks((pick,))))
    for seed in range(6):
        room.project.add_brush(FieldBrush("Growth", (Sown("Bush"),), spacing=1.2, seed=seed))
        at = np.array(sorted(spots(room, layer_id)))
        assert np.linalg.norm(at - (thing.y, thing.x), axis=1).min() >= 0.6 - 1e-6
    apply(room, edits.bans_lifted(room.project.data, room.name, layer_id))
    assert not room.data.layers[layer_id].table("bans")


def test_banned_in_an_area_and_lifted_in_a_part_of_it(grown):
    room, layer_id = grown
    before = spots(room, layer_id)
    area = Area.of_box(Box((4, 4), (12, 12)))
    inside = edits.sown_inside(room.project.data, room.data, layer_id, area)
    assert len(inside) > 10
    apply(room, edits.banned(room.project.data, room.name, layer_id, inside))
    assert edits.sown_inside(room.project.data, room.data, layer_id, area) == []
    assert before - spots(room, layer_id) == {(round(t.y, 5), round(t.x, 5)) for t in inside}
    part = Area.of_box(Box((4, 4), (8, 12)))
    apply(room, edits.bans_lifted(room.project.data, room.name, layer_id, part))
    back = edits.sown_inside(room.project.data, room.data, layer_id, area)
    assert back and all(t.cell[0] < 8 for t in back)


def test_made_plain_they_stand_where_they_stood_and_given_back_they_grow_there(grown):
    room, layer_id = grown
    before = spots(room, layer_id)
    things = edits.sown_inside(room.project.data, room.data, layer_id)
    apply(room, edits.made_plain(room.project.data, room.name, layer_id, things))
    assert not spots(room, layer_id) and sorted(t.at for t in room.things()) == sorted(
        t.at for t in things)  # fmt: skip
    picks = [Pick("things", n) for n in room.data.layers["things"].things]
    apply(room, edits.given_back(room.project.data, room.name, picks[:5]))
    assert len(spots(room, layer_id)) == 5 and len(room.things()) == len(things) - 5
    apply(room, edits.given_back(room.project.data, room.name, picks[5:]))
    assert spots(room, layer_id) == before and not room.things()
    for _ in range(3):
        room.project.history.undo()
    assert spots(room, layer_id) == before and not room.things()


def test_a_held_thing_made_plain_leaves_its_field(grown):
    room, layer_id = grown
    (pick,) = hold(room, layer_id, first(room, layer_id))
    thing = room.data.layers[layer_id].table("held")[pick.number]
    apply(room, edits.made_plain(room.project.data, room.name, layer_id, [thing]))
    assert not room.data.layers[layer_id].table("held") and room.things() == [thing]
    assert [ban.held for ban in room.data.layers[layer_id].table("bans").values()] == [0, 0]


def test_what_no_field_had_sown_is_not_given_back(grown):
    room, _ = grown
    room.lay("Lamp", cells=[(5, 5)])
    (number,) = room.data.layers["things"].things
    with pytest.raises(BadValue, match="things that a field had sown"):
        edits.given_back(room.project.data, room.name, [Pick("things", number)])


def test_a_locked_layer_is_left_alone_and_says_so(grown):
    room, layer_id = grown
    things = first(room, layer_id)
    room.set_layer(room.data.layers[layer_id].info.name, locked=True)
    edit, _ = edits.held(room.project.data, room.name, layer_id, things)
    assert not edit and "is locked" in edit.refused[0]


def test_held_things_are_asked_for_by_at_cursor_and_listed_by_scripts(grown):
    from topion.survey.at_cursor import lying_at

    room, layer_id = grown
    (thing,) = first(room, layer_id)
    cell = thing.cell
    (pick,) = hold(room, layer_id, [thing])
    lying = [one for one in lying_at(room.project.data, room.data, cell) if one.layer == layer_id]
    assert [one.thing for one in lying if one.thing] == [pick.number]
    assert lying[0].why.endswith("held") and thing in room.sown("Growth")


def test_a_copied_layer_has_held_things_and_bans_of_its_own(grown):
    room, layer_id = grown
    picks = hold(room, layer_id, first(room, layer_id, 3))
    apply(room, edits.banned(room.project.data, room.name, layer_id, first(room, layer_id)))
    apply(room, duplicate_layer(room.project.data, room.name, layer_id))
    copy = next(i for i, _ in room.data.bottom_up("field") if i != layer_id)
    held, bans = (room.data.layers[copy].table(name) for name in ("held", "bans"))
    assert len(held) == 3 and not {*held} & {pick.number for pick in picks}
    assert sorted(ban.held for ban in bans.values()) == [0, *sorted(held)]
    apply(room, edits.let_grow(room.project.data, room.name, [Pick(copy, n) for n in held]))
    assert [ban.held for ban in room.data.layers[copy].table("bans").values()] == [0]
    assert len(room.data.layers[layer_id].table("held")) == 3


def test_held_things_are_picked_with_an_area_and_move_with_it(grown):
    room, layer_id = grown
    (thing,) = first(room, layer_id)
    (pick,) = hold(room, layer_id, [thing])
    y, x = thing.cell
    area = Area.of_box(Box((y, x), (y + 1, x + 1)))
    assert pick in entries_in(room.project.data, room.data, area)
