"""Expressions that are moved and scaled give what they should, by few changed numbers."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from topion.arrange.affine import affine
from topion.arrange.expression import NotAnExpression, read

TEXTS = (
    "8", "x", "value", "linspace(-6, 6)", "uniform(-20, 20)", "normal(4, 2)", "arange(3, 1.5)",
    "12 + 5*cos(2*pi*t)", "5*sin(i)", "i*2 - 3", "10 - i", "-x", "x/2 + 1", "snap(x, 0.5)",
    "where(i % 2 == 0, 4, 8)", "choice(1, 2, 3)", "minimum(x, 5)", "2 + 3 if i > 1 else 7",
    "i**2", "-(x + 1)", "x - linspace(0, 1)",
)  # fmt: skip


def values(text, n=7):
    own = np.linspace(-3, 9, n)
    return read(text).values({"value": own, "x": own * 2, "y": own, "z": own}, 5, "x")


@given(st.sampled_from(TEXTS), st.sampled_from([0.25, 0.5, 1.0, 2.0, 3.0]),
       st.integers(-40, 40).map(lambda v: v / 4))  # fmt: skip
def test_what_it_gives_is_scaled_and_moved(text, times, plus):
    made = affine(text, times, plus)
    assert values(made) == pytest.approx(times * values(text) + plus, abs=0.01)


@given(st.sampled_from(TEXTS), st.integers(-40, 40))
def test_moved_to_and_fro_it_gives_what_it_gave(text, by):
    assert values(affine(affine(text, 1.0, by), 1.0, -by)) == pytest.approx(values(text), abs=0.01)


@pytest.mark.parametrize(("text", "times", "plus", "wanted"), [
    ("linspace(-6, 6)", 1, 2.5, "linspace(-3.5, 8.5)"),
    ("12 + 5*cos(2*pi*t)", 1, 3, "15 + 5 * cos(2 * pi * t)"),
    ("12 + 5*cos(2*pi*t)", 2, -12, "12 + 10 * cos(2 * pi * t)"),
    ("value", 1, 4, "value + 4"), ("value + 4", 1, -4, "value"), ("8", 1, -3, "5"),
    ("x", 1, 0, "x"), ("normal(4, 2)", 1, 1, "normal(5, 2)"),
])  # fmt: skip
def test_as_few_numbers_change_as_can_be(text, times, plus, wanted):
    assert affine(text, times, plus) == wanted


def test_what_is_no_expression_stays_one():
    with pytest.raises(NotAnExpression):
        affine("linspace(1", 1, 2)
