"""Taking a part of another version over, as one Edit."""

from __future__ import annotations

import pytest

from tests.rooms import small_room, tile
from topion.brushes import Mosaic
from topion.comparing.rooms import room_changed
from topion.comparing.taking import take_over
from topion.errors import BadValue
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.model.compare import differences
from topion.weaving.rules import Variant


def taken(room, other, box=None):
    """This room after a part of the other version was taken over."""
    sides = (other.project.data, other.data), (room.project.data, room.data)
    area = None if box is None else Area.of_box(box)
    edit = take_over(room.project.data, room.name, sides[0], room_changed(*sides), area)
    room.project.history.apply(edit)
    return edit


@pytest.fixture
def pair():
    """This version, and another one with stones, a lamp and a bush more."""
    other = small_room()
    other.lay("Stones", box=((2, 2), (4, 8)))
    other.lay("Lamp", cells=[(3, 3)])
    other.lay("Bush", cells=[(12, 12)])
    return small_room(), other


def test_all_of_it_makes_the_room_as_the_other_one_is(pair):
    room, other = pair
    before = room.project.data.frozen()
    taken(room, other)
    assert differences(room.project.data, other.project.data) == []
    room.project.undo()
    assert differences(room.project.data, before) == []


def test_a_part_is_taken_over_alone(pair):
    room, other = pair
    taken(room, other, Box((2, 2), (4, 4)))
    assert [room.material(y, x) for y, x in ((2, 3), (3, 3), (4, 3), (2, 4))] == [
        "Stones", "Stones", "Mud", "Mud",
    ]  # fmt: skip
    assert [thing.prefab for thing in room.things()] == ["Lamp"]


def test_what_lies_here_alone_goes_with_the_part(pair):
    room, other = pair
    room.lay("Cart", cells=[(20, 20)])
    taken(room, other, Box((18, 18), (23, 23)))
    assert room.things() == []


def test_brushes_that_lack_here_come_along(pair):
    room, other = pair
    other.project.add_brush(Mosaic("Moss", (Variant(tile(4, 1)),)))
    other.lay("Moss", cells=[(9, 9)])
    taken(room, other)
    assert room.material(9, 9) == "Moss" and "Moss" in room.project.data.brushes
    room.project.undo()
    assert "Moss" not in room.project.data.brushes


def test_where_nothing_differs_it_is_said(pair):
    with pytest.raises(BadValue, match="something that differs there"):
        taken(*pair, Box((20, 20), (22, 22)))


def test_a_room_that_grew_takes_its_own_cells_back(pair):
    room, other = pair
    room.resize((30, 40), (3, 5))
    taken(room, other)
    assert room.material(5, 7) == "Stones" and room.size == (30, 40)
    assert {(thing.prefab, thing.y, thing.x) for thing in room.things()} == {
        ("Lamp", 6, 8), ("Bush", 15, 17),
    }  # fmt: skip
