"""Records put together: the index of a project, items of the library, room.json."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from topion.errors import BadFile
from topion.merging.files import kept_conflicts
from topion.merging.records import merged_index, merged_item, merged_room
from topion.merging.values import Three
from topion.model.palette import MOST_TINTS


def data(plain: object) -> bytes:
    return json.dumps(plain).encode()


def index(base: dict, ours: dict, theirs: dict) -> dict:
    return json.loads(merged_index(data(base), data(ours), data(theirs)).data)


def tint(number: int, name: str, colour: str = "#112233") -> dict:
    return {"number": number, "name": name, "colour": colour, "bright": "#ffffff"}


# --- project.json -------------------------------------------------------------------------


def test_materials_keep_the_places_that_cells_of_ours_hold():
    base = {"materials": ["Mud", "Water"]}
    ours = {"materials": ["Mud", "Water", "Salt"]}
    theirs = {"materials": ["Mud", "Water", "Moss", "Salt"]}
    assert index(base, ours, theirs) == {"materials": ["Mud", "Water", "Salt", "Moss"]}


def test_a_material_that_theirs_calls_otherwise_keeps_its_place():
    base = {"materials": ["Mud", "Water"]}
    assert index(base, base, {"materials": ["Silt", "Water"]}) == {"materials": ["Silt", "Water"]}


NAMES = st.lists(st.sampled_from("abcdef"), unique=True, max_size=6)


@given(NAMES, NAMES, NAMES)
def test_no_material_is_lost_and_none_stands_twice(base, ours, theirs):
    ours, theirs = (
        base + [n for n in ours if n not in base],
        base + [n for n in theirs if n not in base],
    )
    made = index(*({"materials": names} for names in (base, ours, theirs))).get("materials", [])
    assert made[: len(ours)] == ours
    assert sorted(made) == sorted({*ours, *theirs})


def test_colours_that_both_added_under_one_number_get_two():
    made = index({}, {"palette": [tint(1, "Rust")]}, {"palette": [tint(1, "Slate")]})
    assert made == {"palette": [tint(1, "Rust"), tint(2, "Slate")]}


def test_a_colour_that_both_added_under_one_name_is_one():
    made = index({}, {"palette": [tint(1, "Rust")]}, {"palette": [tint(2, "Rust", "#445566")]})
    assert made == {"palette": [tint(1, "Rust")]}


def test_a_palette_with_no_number_left_stays_ours_and_keeps_theirs():
    full = [tint(number, f"Own {number}") for number in range(1, MOST_TINTS + 1)]
    merged = merged_index(data({}), data({"palette": full}), data({"palette": [tint(1, "One")]}))
    assert json.loads(merged.data)["palette"] == full
    (conflict,) = merged.conflicts
    assert conflict["values"] == {"palette": [tint(1, "One")]}


def changed(base: list[dict], draw: st.DataObject, who: str) -> list[dict]:
    """A palette that one of two made of another one."""
    kept = [one for one in base if draw.draw(st.integers(0, 3))]
    kept = [{**one, "colour": "#00000" + who} if draw.draw(st.booleans()) else one for one in kept]
    number = max((one["number"] for one in base), default=0)
    fresh = draw.draw(st.lists(st.sampled_from("pqrs"), unique=True, max_size=3))
    return kept + [tint(number + at, name) for at, name in enumerate(fresh, 1)]


@given(st.data())
def test_numbers_and_names_of_colours_are_never_given_twice(draw):
    base = [tint(number, name) for number, name in enumerate("abc", 1)]
    ours, theirs = changed(base, draw, "1"), changed(base, draw, "2")
    made = index(*({"palette": side} for side in (base, ours, theirs))).get("palette", [])
    for key in ("number", "name"):
        assert len({one[key] for one in made}) == len(made)
    assert {one["name"] for one in made} >= {one["name"] for one in ours + theirs} - {*"abc"}
    assert {one["name"]: one["number"] for one in ours}.items() <= {
        one["name"]: one["number"] for one in made
    }.items() | {(one["name"], one["number"]) for one in base}


def test_a_bay_emptied_by_one_side_stays_with_the_cards_that_the_other_added():
    base = {"bays": [{"name": "Ground", "brushes": ["Mud"]}]}
    ours = {"bays": [{"name": "Ground"}]}
    theirs = {"bays": [{"name": "Ground", "brushes": ["Mud", "Moss"]}]}
    assert index(base, ours, theirs) == {"bays": [{"name": "Ground", "brushes": ["Moss"]}]}


def test_a_bay_taken_away_while_the_other_put_a_card_in_is_kept_and_named():
    base = {"bays": [{"name": "Ground", "brushes": ["Mud"]}]}
    theirs = {"bays": [{"name": "Ground", "brushes": ["Mud", "Moss"]}]}
    merged = merged_index(data(base), data({"bays": []}), data(theirs))
    assert json.loads(merged.data)["bays"] == theirs["bays"]
    assert [one["name"] for one in merged.conflicts] == ["the bays of the project"]


def test_the_later_format_of_two_stands():
    assert index({"format": 1}, {"format": 1}, {"format": 2}) == {"format": 2}


def test_rooms_that_each_added_are_both_there_and_one_taken_away_is_gone():
    base = {"rooms": ["Yard", "Loft"]}
    made = index(base, {"rooms": ["Yard", "Loft", "Quay"]}, {"rooms": ["Mine", "Yard"]})
    assert made == {"rooms": ["Mine", "Yard", "Quay"]}


# --- items --------------------------------------------------------------------------------


def test_an_item_is_called_as_the_file_that_version_control_moved():
    base, ours = {"name": "Mud", "kind": "mosaic"}, {"name": "Silt", "kind": "mosaic"}
    merged = merged_item("brushes/Mud.json", data(base), data(ours), data(base))
    assert json.loads(merged.data)["name"] == "Mud"


def test_values_that_together_are_no_item_are_not_mixed():
    base = {"kind": "run", "name": "Post", "axis": "y", "least": 1, "most": 9}
    ours, theirs = {**base, "seed": "seven"}, {**base, "nib": 2}
    merged = merged_item("brushes/Post.json", data(base), data(ours), data(theirs))
    made = json.loads(merged.data)
    assert {key: made[key] for key in ours} == ours
    (conflict,) = merged.conflicts
    assert (conflict["item"], conflict["values"]) == ("Post", {"seed": None, "nib": 2})


def test_what_is_no_record_is_refused_with_its_file():
    with pytest.raises(BadFile, match=r"brushes/Mud\.json"):
        merged_item("brushes/Mud.json", None, b"[]", b"{}")


# --- room.json ----------------------------------------------------------------------------


def room(**info: object) -> bytes:
    return data({"room": {"name": "Yard", "size": [4, 6], **info}, "layers": []})


def test_a_room_that_grew_to_two_sides_has_room_for_both():
    merged = merged_room("rooms/Yard/room.json", room(), room(size=[4, 9]),
                         room(size=[6, 6], origin=[-2, 0]))  # fmt: skip
    info = json.loads(merged.data)["room"]
    assert (info["size"], info["origin"], merged.conflicts) == ([6, 9], [-2, 0], ())


def test_a_room_without_a_size_is_refused():
    with pytest.raises(BadFile, match="its size is missing"):
        merged_room("rooms/Yard/room.json", room(), room(), data({"room": {"name": "Yard"}}))


ONES = st.lists(st.sampled_from("abcd"), unique=True, max_size=4)


@given(ONES, ONES, ONES)
def test_conflicts_kept_from_before_are_those_that_nobody_settled(base, ours, theirs):
    made = kept_conflicts(Three(base, ours, theirs))
    settled = {one for one in base if one not in ours or one not in theirs}
    assert sorted(made) == sorted({*ours, *theirs} - settled)
