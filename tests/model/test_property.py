"""Properties: what values they take, and what they are when nobody told."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import prefab, small_room, stand
from topion.edit.pieces import Pick
from topion.edit.prefabs import set_values, with_property
from topion.errors import BadValue, UnknownName
from topion.model.plain import from_plain, to_plain
from topion.model.prefab import Prefab, Thing
from topion.model.property import Property

LIT = Property("lit", "yes or no", "yes")
REACH = Property("reach", "number", "5", 0, 9)
HUE = Property("hue", "colour")
MOOD = Property("mood", "choice", choices=("calm", "wild"))


@pytest.mark.parametrize(("prop", "text", "kept"), [
    (LIT, " No ", "no"), (REACH, "2,50", "2.5"), (HUE, "#A5533B", "#a5533b"),
    (MOOD, "wild", "wild"), (Property("note"), " as it is ", " as it is "),
    (Property("goes to", "thing"), "12", "12"), (Property("leads to", "room"), " Yard ", "Yard"),
])  # fmt: skip
def test_a_value_is_kept_in_one_way(prop, text, kept):
    assert prop.checked(text) == kept and prop.checked(kept) == kept


@pytest.mark.parametrize(("prop", "text"), [
    (LIT, "maybe"), (REACH, "ten"), (REACH, "9.5"), (HUE, "red"), (MOOD, "dull"),
    (Property("note"), "x" * 500), (Property("goes to", "thing"), "the door"),
])  # fmt: skip
def test_a_value_that_it_cannot_have_is_told_by_its_name(prop, text):
    with pytest.raises(BadValue, match=prop.name):
        prop.checked(text)


def test_what_cannot_be_a_property_is_told():
    for wrong in ({"name": " "}, {"name": "a", "kind": "choice"},
                  {"name": "a", "kind": "number", "lowest": 3, "highest": 2},
                  {"name": "a", "kind": "number", "default": "7", "highest": 5}):  # fmt: skip
        with pytest.raises(BadValue):
            Property(**wrong)
    with pytest.raises(BadValue, match="name of its own"):
        prefab("It", properties=(LIT, LIT))


def test_what_nobody_told():
    assert (LIT.value, REACH.value, HUE.value, MOOD.value) == ("yes", "5", "#ffffff", "calm")
    assert Property("n", "number", lowest=2).value == "2"


@given(st.lists(st.sampled_from((LIT, REACH, HUE, MOOD)), unique=True))
def test_properties_and_points_are_read_back(props):
    made = prefab("It", properties=tuple(props), points={"flame": (3, 1)})
    again = from_plain(Prefab, to_plain(made))
    assert again.properties == tuple(props) and again.points == {"flame": (3, 1)}


def test_things_have_values_of_their_own_and_only_those_that_differ_are_kept():
    room = small_room()
    room.project.add_prefab(prefab("It", properties=(LIT, REACH)))
    numbers = stand(room, Thing("It", 2, 2), Thing("It", 4, 4), Thing("Bush", 6, 6))
    data, layer = room.project.data, room.data.id_of("Things")
    things = {Pick(layer, n): room.data.layers[layer].things[n] for n in numbers}
    room.project.history.apply(set_values(data, room.name, things, "reach", "7"))
    it, after = data.prefab("It"), room.data.layers[layer].things
    assert [it.value_of(after[n], "reach") for n in numbers[:2]] == ["7", "7"]
    assert after[numbers[2]] == Thing("Bush", 6, 6)
    things = {Pick(layer, numbers[0]): after[numbers[0]]}
    room.project.history.apply(set_values(data, room.name, things, "reach", "5"))
    assert room.data.layers[layer].things[numbers[0]].properties == {}
    with pytest.raises(UnknownName):
        it.value_of(after[numbers[0]], "mood")
    with pytest.raises(BadValue):
        set_values(data, room.name, things, "reach", "far")


def test_a_property_is_put_in_a_place_or_taken_away():
    assert with_property((LIT, REACH), 1, HUE) == (LIT, HUE)
    assert with_property((LIT,), 1, HUE) == (LIT, HUE)
    assert with_property((LIT, REACH), 0, None) == (REACH,)
