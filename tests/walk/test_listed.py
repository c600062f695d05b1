"""What is told of a walk: rows of things, what is done, jumps."""

import pytest

from tests.walk.texts import begin, drawn, put
from topion.conditions import Taken
from topion.model.condition import When
from topion.roles import Door, Pickup, Walker
from topion.walk import JUMP, RIGHT, step
from topion.walk.listed import cleared_of, jump_told, news, rows_of


def after(state, *held):
    """(keys, ticks) held one after the other: all states."""
    states = [state]
    for keys, ticks in held:
        for _ in range(ticks):
            states.append(step(states[-1], keys))
    return states


@pytest.fixture
def hall():
    return drawn(*(["..............."] * 6), "###############")


def test_things_of_a_prefab_are_told_together_and_one_by_one(hall):
    for x in (4, 13):
        put(hall, "Token", 5, x, Pickup())
    put(hall, "Gull", 5, 10, Walker())
    states = after(begin(hall, 5, 1), (RIGHT, 40))
    tokens, gull = rows_of(states[-1])
    assert tokens.title == "Token ×2" and tokens.state == "1 of 2" and gull.state == "walking"
    taken = next(n for n, state in enumerate(states) if state.taken)
    first, second = tokens.members
    assert (first.where, first.words) == ("5, 4", f"taken at {taken / 60:.1f} s")
    assert (second.where, second.words) == ("5, 13", "there") and first.done and not second.done


def test_a_door_that_waits_is_shut_and_says_for_what(hall):
    put(hall, "Gate", 5, 8, Door(), when=When("opens", (Taken(1),)))
    (row,) = rows_of(begin(hall, 5, 1))
    assert row.state == "shut" and row.ink == "ochre"
    assert row.words == "door · opens when 1 of anything are taken"


def test_what_counts_is_counted(hall):
    put(hall, "Token", 5, 4, Pickup(), counts=True)
    states = after(begin(hall, 5, 1), (RIGHT, 40))
    assert cleared_of(states[0]) == (0, 1) and cleared_of(states[-1]) == (1, 1)
    assert [words for _, words in news(states, 40, 9)][:2] == ["room cleared", "took Token"]


def test_a_jump_is_told_with_its_length_and_its_height(hall):
    states = after(begin(hall, 5, 1), (0, 5), (JUMP | RIGHT, 55))
    told = [words for _, words in news(states, len(states) - 1, 5) if "jumped" in words]
    assert told == ["jumped 5.0 along, 3.0 up"]


def test_a_fall_is_no_jump():
    room = drawn(*(["..............."] * 3), "###............", *(["..............."] * 3),
                 "###############")  # fmt: skip
    states = after(begin(room, 2, 1), (0, 5), (RIGHT, 80))
    landed = max(n for n, s in enumerate(states) if s.ground and not states[n - 1].ground)
    assert landed > 20 and jump_told(states, landed) == ""
