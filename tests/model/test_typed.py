"""What is made of values of the wrong kind is refused at once, in a sentence."""

from dataclasses import dataclass, replace
from typing import Annotated, Literal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from topion.brushes import Mosaic
from topion.errors import BadValue, TopionError, one_sentence
from topion.model.layer import LayerInfo
from topion.model.plain import BadPlain, check_plain, from_plain
from topion.model.prefab import Thing
from topion.model.room import RoomInfo
from topion.model.typed import Colour, Name, between, typed
from topion.weaving.rules import Variant


@typed
@dataclass(frozen=True)
class Plank:
    name: Name
    wood: Literal["oak", "ash"] = "oak"
    length: Annotated[float, between(0, 9, "m")] = 1.0
    knots: tuple[tuple[int, int], ...] = ()
    colour: Colour | None = None

    def __post_init__(self):
        if self.length > 5 and self.wood == "ash":
            raise BadValue("the length", self.length, "at most 5")


@pytest.mark.parametrize(
    ("values", "message"),
    [
        ({"name": 3}, "the name is 3, but it must be a name of 1 to 200 letters"),
        ({"name": " "}, "a name of 1 to 200 letters"),
        ({"name": "a\nb"}, "a name of 1 to 200 letters"),
        ({"name": "a\ud800"}, "a name of 1 to 200 letters"),
        ({"name": "A", "wood": ["oak"]}, "the wood of A is .* must be one of oak, ash"),
        ({"name": "A", "length": "1"}, "the length of A is '1', but it must be 0 to 9 m"),
        ({"name": "A", "length": float("nan")}, "the length of A is nan"),
        ({"name": "A", "length": True}, "the length of A is True"),
        ({"name": "A", "knots": [(1, 2)]}, "the knots of A"),
        ({"name": "A", "knots": ((1, 2.0),)}, "the knots of A"),
        ({"name": "A", "colour": "red"}, "the colour of A is 'red', but it must be a colour like"),
        ({"name": "A", "length": 6, "wood": "ash"}, "the length is 6, but it must be at most 5"),
    ],
)
def test_values_of_the_wrong_kind_are_refused(values, message):
    with pytest.raises(BadValue, match=message):
        Plank(**values)


def test_what_fits_is_made_and_what_is_replaced_is_checked_again():
    plank = Plank("A", "ash", 2, ((1, 2),), "#a0b1c2")
    assert replace(plank, length=3.5).length == 3.5
    with pytest.raises(BadValue):
        replace(plank, knots=None)


def test_the_model_checks_its_values():
    for make in (
        lambda: LayerInfo("A", "tiles", opacity="1"),
        lambda: RoomInfo("A", (3, 3), backdrop="no colour"),
        lambda: RoomInfo("A", (3, 3.0)),
        lambda: Thing("Lamp", 1.0, "x"),
        lambda: Mosaic("A", (Variant("no tile"),)),
        lambda: Mosaic("A", (), nib=0),
        lambda: Mosaic("A", (), seed=2**60),
    ):
        with pytest.raises(BadValue):
            make()


@given(st.text(max_size=3000))
def test_every_error_is_one_sentence_of_bounded_length(text):
    found = str(TopionError(text))
    assert len(found) < 1000 and (found.isprintable() or not found)
    found.encode()
    assert one_sentence(found) == found


@pytest.mark.parametrize("value", [{"a": ["\ud800"]}, [10**40], {"\udcff": 1}, [float("inf")]])
def test_records_of_unknown_kinds_hold_only_what_can_be_written_again(value):
    with pytest.raises(BadPlain):
        check_plain(value)
    deep = [value]
    for _ in range(60):
        deep = [deep]
    with pytest.raises(BadPlain, match="nested deeper"):
        check_plain([[deep]][0])


@pytest.mark.parametrize(
    ("wanted", "value"),
    [
        (int, 10**401),
        (int, True),
        (str, "a\ud800"),
        (float, 1e999),
        (dict[str, int], {"\ud800": 1}),
    ],
)
def test_plain_values_beyond_their_kind_are_refused(wanted, value):
    with pytest.raises(BadPlain) as caught:
        from_plain(wanted, value)
    assert len(str(caught.value)) < 200
