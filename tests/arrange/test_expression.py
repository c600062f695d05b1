"""Expressions: what they give, what they refuse, and in which words."""

from __future__ import annotations

import math
import time

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from topion.arrange.expression import LONGEST, NotAnExpression, read
from topion.arrange.names import CONSTANTS, FUNCTIONS, ON_CURVE, VARIABLES
from topion.errors import TopionError


def values(text, n=5, seed=1, of="x", **more):
    known = {name: np.zeros(n) for name in ("value", "x", "y", "z")}
    known.update({name: np.asarray(v, float) for name, v in more.items()})
    return read(text).values(known, seed, of)


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("2 + 3*4", [14] * 5),
        ("i", [0, 1, 2, 3, 4]),
        ("n", [5] * 5),
        ("t", [0, 0.2, 0.4, 0.6, 0.8]),
        ("linspace(-6, 6)", [-6, -3, 0, 3, 6]),
        ("arange(2, 0.5)", [2, 2.5, 3, 3.5, 4]),
        ("-i**2", [0, -1, -4, -9, -16]),
        ("i // 2", [0, 0, 1, 1, 2]),
        ("i % 2", [0, 1, 0, 1, 0]),
        ("i / 2", [0, 0.5, 1, 1.5, 2]),
        ("where(i < 2, 10, 20)", [10, 10, 20, 20, 20]),
        ("10 if i >= 2 else 20", [20, 20, 10, 10, 10]),
        ("1 < i <= 3", [0, 0, 1, 1, 0]),
        ("i == 1 or i == 3", [0, 1, 0, 1, 0]),
        ("not i", [1, 0, 0, 0, 0]),
        ("snap(i*0.7, 0.5)", [0, 0.5, 1.5, 2, 3]),
        ("clip(i, 1, 3)", [1, 1, 2, 3, 3]),
        ("  cos( pi ) ", [-1] * 5),
        ("value + 1", [1] * 5),
        ("6*sqrt(4) - abs(-2)", [10] * 5),
    ],
)
def test_it_gives_what_arithmetic_says(text, wanted):
    assert values(text) == pytest.approx(wanted)


def test_variables_are_those_of_each_thing():
    assert values("x*10 + value", n=3, x=[1, 2, 3], value=[0.1, 0.2, 0.3]) == pytest.approx(
        [10.1, 20.2, 30.3]
    )


def test_one_thing_alone_stands_at_the_first_of_a_range():
    assert values("linspace(4, 9)", n=1) == [4] and values("t", n=1) == [0]
    assert len(values("linspace(4, 9)", n=0)) == 0


# --- chance ---------------------------------------------------------------------------------


def test_chance_is_the_same_for_the_same_seed_and_another_for_another():
    one, again = values("uniform(-3, 3)", n=200), values("uniform(-3, 3)", n=200)
    assert np.array_equal(one, again)
    assert not np.array_equal(one, values("uniform(-3, 3)", n=200, seed=2))
    assert not np.array_equal(one, values("uniform(-3, 3)", n=200, of="y"))


def test_two_calls_in_one_expression_draw_apart():
    assert np.ptp(values("uniform(0, 1) - uniform(0, 1)", n=50)) > 0.1


def test_things_that_stay_keep_their_draw_when_more_come():
    assert np.array_equal(values("uniform(0, 1)", n=10), values("uniform(0, 1)", n=40)[:10])


def test_chances_are_as_their_names_say():
    even = values("uniform(2, 4)", n=4000)
    assert even.min() >= 2 and even.max() < 4 and even.mean() == pytest.approx(3, abs=0.05)
    bell = values("normal(5, 2)", n=4000)
    assert bell.mean() == pytest.approx(5, abs=0.15) and bell.std() == pytest.approx(2, abs=0.1)
    assert set(values("integers(1, 4)", n=500)) == {1, 2, 3}
    assert set(values("choice(3, 8)", n=100)) == {3, 8}


def test_an_expression_knows_whether_it_has_dice():
    assert read("uniform(0, 1)").random and not read("linspace(0, 1)").random


# --- refusals -------------------------------------------------------------------------------


def refusal(text):
    with pytest.raises(NotAnExpression) as caught:
        read(text)
    return caught.value


@pytest.mark.parametrize(
    ("text", "at", "mend"),
    [
        ("2*sine(i)", 3, "sin"),
        ("6*cosn(t)", 3, "cos"),
        ("valeu + 1", 1, "value"),
        ("2 + sin", 5, "sin(a)"),
        ("clip(i, 1)", 1, "clip(v, low, high)"),
        ("pi(2)", 1, ""),
        ("1 +", 4, ""),
        ("(1 + 2", 1, ""),
        ("1 2", 3, ""),
        ("i.real", 1, ""),
        ("", 1, ""),
    ],
)
def test_a_refusal_names_the_character_and_a_mend_where_one_is_near(text, at, mend):
    found = refusal(text)
    assert (found.mend or "") == mend
    assert str(found).startswith(f"character {found.at}: ")
    if text not in ("(1 + 2", "1 2"):
        assert found.at == at


HOSTILE = [
    "__import__('os').system('true')", "().__class__.__bases__", "open('/etc/passwd')",
    "[i for i in (1, 2)]", "(lambda: 1)()", "exec('1')", "i.__class__", "x[0]", "{1: 2}", "{1, 2}",
    "f'{i}'", "'a'*9", "b'1'", "1j", "True", "None", "...", "(i := 3)", "*i", "sin(*x)",
    "sin(a=1)", "min(1, 2)", "await i", "yield", "i; i", "i = 2", "import os", "1 @ 2", "1 << 9",
    "1 & 2", "~1", "i in x", "i is n", "9" * 300, "1e999", "1" + "0" * 200, "x" * 399,
    "(" * 220 + "1" + ")" * 100, "-" * 399 + "1", "+".join(["1"] * 200), "sin(" * 60 + "1" + ")" * 60,
    "linspace", "i if", "\x00", "i\n+1\n)", "０", "sin\u200b(1)", "1_0_", "0x", "i" + "**9" * 120,
    "#", "1 # two\n3", "print(i)", "eval('1')", "getattr(i, 'a')", "x.y.z(1)",
]  # fmt: skip


@pytest.mark.parametrize("text", HOSTILE)
def test_what_is_hostile_is_refused_at_once_in_one_sentence(text):
    began = time.perf_counter()
    found = refusal(text)
    assert time.perf_counter() - began < 0.5  # 50 ms on an idle machine
    assert "\n" not in str(found) and len(str(found)) < 200


@pytest.mark.parametrize("text", ["9**9**9**9", "(i+2)**(10**9)", "exp(exp(exp(9)))", "1/0", "log(-1)",
                                  "0/0", "sqrt(-1)", "arcsin(2)", "mod(1, 0)"])  # fmt: skip
def test_huge_powers_and_what_is_no_number_are_refused_when_worked_out(text):
    began = time.perf_counter()
    with pytest.raises(NotAnExpression, match="gives no number for thing"):
        values(text)
    assert time.perf_counter() - began < 0.5


@given(st.text(max_size=LONGEST + 20))
def test_any_text_is_read_or_refused(text):
    try:
        found = read(text)
    except NotAnExpression as problem:
        assert 1 <= problem.at <= LONGEST + 1
        return
    try:
        out = found.values({name: np.ones(3) for name in ("value", "x", "y", "z")}, 1)
        assert out.shape == (3,) and np.isfinite(out).all()
    except TopionError:
        pass


_LEAVES = st.sampled_from([*VARIABLES, *CONSTANTS, "2", "0.5", "-3"])
_TREES = st.recursive(
    _LEAVES,
    lambda part: st.one_of(
        st.tuples(part, st.sampled_from("+-*"), part).map(lambda p: f"({p[0]} {p[1]} {p[2]})"),
        st.tuples(st.sampled_from(["sin", "abs", "floor"]), part).map(lambda p: f"{p[0]}({p[1]})"),
    ),
    max_leaves=12,
)


@given(_TREES, st.integers(1, 6))
def test_it_agrees_with_python_thing_by_thing(text, n):
    found = values(text, n=n, value=np.linspace(0, 1, n), x=np.arange(n) * 2.0)
    for i in range(n):
        own = {"i": i, "n": n, "t": i / n, "value": np.linspace(0, 1, n)[i], "x": i * 2.0, "y": 0,
               "z": 0, **CONSTANTS, "sin": math.sin, "abs": abs, "floor": math.floor}  # fmt: skip
        assert found[i] == pytest.approx(eval(text, {"__builtins__": {}}, own), rel=1e-9, abs=1e-9)


@pytest.mark.parametrize("name", [n for n in FUNCTIONS if n not in ON_CURVE])
def test_each_function_takes_as_many_values_as_it_shows(name):
    low, _ = FUNCTIONS[name].args
    out = values(f"{name}({', '.join(['0.5'] * low)})")
    assert out.shape == (5,) and np.isfinite(out).all()
    assert FUNCTIONS[name].shown.startswith(f"{name}(") and FUNCTIONS[name].told
