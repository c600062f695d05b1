"""Numbered entries put together."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from topion.errors import BadFile
from topion.formats.text import json_lines
from topion.merging.entries import merged_entries
from topion.merging.numbers import led_elsewhere, renumbered

FILE = "rooms/Yard/layers/things.things.json"


def thing(number: int, prefab: str = "Lamp", y: float = 2, x: float = 3, **more: object) -> dict:
    return {"id": number, "prefab": prefab, "y": y, "x": x, **more}


def lines(*entries: dict) -> bytes:
    return json_lines([*entries]).encode()


def merged(base: bytes | None, ours: bytes, theirs: bytes) -> tuple[list[dict], tuple]:
    found = merged_entries(FILE, base, ours, theirs)
    rows = json.loads(found.data)
    return [row for row in rows if "id" in row], found.conflicts


def test_one_number_given_by_both_to_different_things_becomes_two():
    made, conflicts = merged(lines(), lines(thing(1)), lines(thing(1, "Bush")))
    assert [one["prefab"] for one in made] == ["Lamp", "Bush"]
    assert made[0]["id"] == 1 != made[1]["id"]
    assert conflicts == ()


def test_what_speaks_of_a_thing_follows_its_new_number():
    post = thing(1, "Post")
    wheel = thing(2, "Wheel", attached=["ahead", 1], when={"all_of": [{"thing": 1}]})
    made, _ = merged(lines(), lines(thing(1)), lines(post, wheel))
    numbers = {one["prefab"]: one["id"] for one in made}
    (found,) = [one for one in made if one["prefab"] == "Wheel"]
    assert found["attached"] == ["ahead", numbers["Post"]]
    assert found["when"] == {"all_of": [{"thing": numbers["Post"]}]}
    assert numbers["Post"] != numbers["Lamp"] == 1


def test_new_numbers_are_the_same_whenever_it_is_done_again():
    sides = lines(), lines(thing(1)), lines(thing(1, "Bush"))
    assert merged(*sides) == merged(*sides)


def test_a_place_is_taken_as_a_whole():
    made, conflicts = merged(lines(thing(1)), lines(thing(1, y=9)), lines(thing(1, x=9)))
    assert made == [thing(1, y=9)]
    (conflict,) = conflicts
    assert conflict["values"] == {"y": 2, "x": 9, "z": None, "along": None}


def test_a_move_and_a_turn_are_both_there():
    made, conflicts = merged(lines(thing(1)), lines(thing(1, y=9)), lines(thing(1, turn=1)))
    assert (made, conflicts) == ([thing(1, y=9, turn=1)], ())


def test_what_theirs_took_away_while_ours_moved_it_stays_and_is_named():
    made, conflicts = merged(lines(thing(1)), lines(thing(1, y=9)), lines())
    assert made == [thing(1, y=9)]
    assert [(one["number"], one["gone"]) for one in conflicts] == [(1, True)]


def test_what_ours_took_away_while_theirs_moved_it_stays_and_is_named_as_ours():
    made, (conflict,) = merged(lines(thing(1)), lines(), lines(thing(1, y=9)))
    assert made == [thing(1, y=9)]
    assert (conflict["side"], conflict["gone"]) == ("ours", True)


def test_entries_of_a_room_that_grew_count_from_its_new_first_cell():
    """As the room does that grew two rows to the north on one side."""
    grown = lines({"from": [-2, 0]}, thing(1, y=4), thing(2, y=0))
    made, conflicts = merged(lines(thing(1)), lines(thing(1), thing(3, x=5)), grown)
    assert [(one["id"], one["y"], one["x"]) for one in made] == [(1, 4, 3), (2, 0, 3), (3, 4, 5)]
    assert conflicts == ()


def test_an_entry_without_a_number_is_refused_with_its_file():
    with pytest.raises(BadFile, match=r"things\.things\.json.*without a number"):
        merged(None, lines(), lines({"prefab": "Lamp", "y": 1, "x": 1}))


PLACES = st.dictionaries(st.integers(1, 6), st.tuples(st.integers(0, 5), st.integers(0, 5)))


@given(PLACES, PLACES, PLACES)
def test_every_thing_is_where_a_side_has_it_and_what_does_not_stand_is_named(base, ours, theirs):
    sides = (base, ours, theirs)
    made, conflicts = merged(*(
        lines(*(thing(n, y=y, x=x) for n, (y, x) in sorted(side.items()))) for side in sides
    ))  # fmt: skip
    places = {one["id"]: (one["y"], one["x"]) for one in made}
    named = {one["number"] for one in conflicts}
    for number in base:
        before, mine, yours = (side.get(number) for side in sides)
        wanted = mine if yours == before else yours if mine == before or mine is None else mine
        if mine is not None and yours is None and mine != before:
            wanted = mine
        assert places.get(number) == wanted
        assert (number in named) == (mine != before != yours and mine != yours)
    for side in (ours, theirs):
        assert {place for n, place in side.items() if n not in base} <= {*places.values()}


def test_groups_and_held_things_follow_too():
    entry = {"id": 4, "held": 7, "groups": [1, 4], "properties": {"target": "7", "label": "7"}}
    made = renumbered(entry, {4: 40, 7: 70}, frozenset({"target"}))
    assert made == {"id": 40, "held": 70, "groups": [1, 40],
                    "properties": {"target": "70", "label": "7"}}  # fmt: skip
    assert entry["id"] == 4


def test_only_doors_that_lead_to_that_room_lead_elsewhere():
    door = {"kind": "door", "room": "Yard", "door": 3}
    assert led_elsewhere(door, "Yard", {3: 30}) == {**door, "door": 30}
    assert led_elsewhere(door, "Loft", {3: 30}) == door
    assert led_elsewhere(None, "Yard", {3: 30}) is None
