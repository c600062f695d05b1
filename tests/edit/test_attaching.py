"""Things that move along with a piece or a layer."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import small_room, stand
from tests.shapes import shape_room
from topion.edit import pieces as edits
from topion.edit.arranging import attach_things
from topion.edit.attaching import what_is_under, words_of
from topion.edit.layers import move_contents
from topion.edit.picked import Picks, removed, scrap_of
from topion.edit.picked_moves import moved
from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.model.compare import differences
from topion.model.prefab import Thing
from topion.scripting import open as open_project


@pytest.fixture
def yard():
    """A wall of 4 × 10 cells from (4, 6), with three things on it and one beside."""
    room = shape_room()
    room.lay("Wall", box=((4, 6), (7, 15)))
    return room


def the_piece(room):
    (number,) = room.data.layers["ground"].pieces
    return Pick("ground", number)


def attached(room, *places):
    piece = the_piece(room)
    numbers = stand(room, *(Thing("Bush", y, x) for y, x in places))
    layer = room.data.id_of("Things")
    things = {Pick(layer, n): room.data.layers[layer].things[n] for n in numbers}
    room.project.history.apply(attach_things(room.project.data, room.name, things, piece))
    return numbers


def places(room, numbers):
    things = room.data.layers[room.data.id_of("Things")].things
    return [(things[n].y, things[n].x) for n in numbers]


def do(room, plan, *args, **more):
    return room.project.history.apply(plan(room.project.data, room.name, *args, **more))


def test_what_is_attached_moves_with_its_piece_and_comes_back_with_undo(yard):
    numbers = attached(yard, (4, 6), (5, 10.5), (7, 15))
    (free,) = stand(yard, Thing("Bush", 5, 7))
    do(yard, edits.moved, [the_piece(yard)], (2, -3))
    assert places(yard, numbers) == [(6, 3), (7, 7.5), (9, 12)] and places(yard, [free]) == [(5, 7)]
    yard.project.undo()
    assert places(yard, numbers) == [(4, 6), (5, 10.5), (7, 15)]


def test_what_stands_at_an_end_stays_at_that_end_when_the_piece_is_pulled(yard):
    numbers = attached(yard, (4, 6), (7, 15), (5, 14.25))
    do(yard, edits.resized, the_piece(yard), (4, 14))
    assert places(yard, numbers) == [(4, 6), (7, 19), (5, 18.25)]


def test_a_quarter_turn_takes_it_round_the_middle(yard):
    numbers = attached(yard, (4, 6))
    box = next(iter(yard.data.layers["ground"].pieces.values())).box
    do(yard, edits.turned, [the_piece(yard)])
    after = yard.data.layers["ground"].pieces[the_piece(yard).number].box
    ((y, x),) = places(yard, numbers)
    assert box.shape == after.shape[::-1] and (y, x) == (after.lo[0], after.hi[1] - 1)
    thing = yard.data.layers[yard.data.id_of("Things")].things[numbers[0]]
    assert thing.turn == 90


def test_a_thing_picked_together_with_its_piece_moves_once(yard):
    numbers = attached(yard, (5, 8))
    layer = yard.data.id_of("Things")
    picks = Picks((the_piece(yard), Pick(layer, numbers[0])))
    do(yard, moved, picks, (1, 1), override=True)
    assert places(yard, numbers) == [(6, 9)]


def test_contents_of_a_layer_take_along_what_is_attached_to_it(yard):
    (number,) = stand(yard, Thing("Bush", 5, 7, attached=("ground", 0)))
    (other,) = stand(yard, Thing("Bush", 9, 9))
    do(yard, move_contents, "ground", (1, 2))
    assert places(yard, [number, other]) == [(6, 9), (9, 9)]


def test_a_piece_that_goes_leaves_its_things_where_they_stand(yard):
    numbers = attached(yard, (5, 8))
    do(yard, removed, Picks((the_piece(yard),)))
    thing = yard.data.layers[yard.data.id_of("Things")].things[numbers[0]]
    assert places(yard, numbers) == [(5, 8)]
    assert words_of(yard.data, thing.attached) == "a piece that is gone"


def test_what_is_under_a_thing_is_found_and_what_is_not_there_refused(yard):
    found = [to for to, _ in what_is_under(yard.data, Thing("Bush", 5, 8))]
    assert found == [tuple(the_piece(yard))]
    assert [
        to for to, _ in what_is_under(yard.data, Thing("Bush", 3, 8))
    ] == found  # it stands on it
    assert not list(what_is_under(yard.data, Thing("Bush", 12, 20)))
    with pytest.raises(BadValue, match="attached"):
        attach_things(yard.project.data, yard.name, {}, ("ground", 99))


def test_an_attachment_is_written_and_read(yard, tmp_path):
    attached(yard, (5, 8))
    yard.project.save(tmp_path / "Tied.topion")
    again = open_project(tmp_path / "Tied.topion")
    assert not differences(yard.project.data, again.data)
    assert again.room(yard.name).things()[-1].attached == tuple(the_piece(yard))


@settings(max_examples=25, deadline=None)
@given(st.integers(-3, 6), st.integers(-3, 8), st.integers(0, 3), st.integers(0, 9))
def test_moving_away_and_back_leaves_all_as_it_was(dy, dx, y, x):
    room = shape_room()
    room.lay("Wall", box=((4, 6), (7, 15)))
    numbers = attached(room, (4 + y, 6 + x))
    before = places(room, numbers)
    do(room, edits.moved, [the_piece(room)], (dy, dx))
    do(room, edits.moved, [the_piece(room)], (-dy, -dx))
    assert places(room, numbers) == before


def test_copies_of_an_attached_thing_stand_by_themselves():
    room = small_room()
    numbers = stand(room, Thing("Bush", 5, 5, attached=("ground", 0)))
    layer = room.data.id_of("Things")
    scrap = scrap_of(room.project.data, room.name, Picks((Pick(layer, numbers[0]),)))
    (thing,) = (thing for own in scrap.layers for thing in own.things)
    assert thing.attached is None
