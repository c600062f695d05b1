"""The names that an expression may use: functions over all picked things, numbers, variables.

Each function takes and gives (n,) arrays of float64, or numbers that stand for such.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from topion.grid.hashing import unit

Values = NDArray[np.float64]
_STEADY = 1e-12  # below which a step of `snap` is none


class NoCurve(Exception):
    """A place on the picked curve was asked for, and none is picked."""


@dataclass(frozen=True)
class Function:
    """args : how many it takes, at least and at most.  shown : how it is written.  told : what it
    gives, in a few words.  random : it depends on the seed."""

    shown: str
    told: str
    args: tuple[int, int]
    does: Callable[..., Any]
    random: bool = False


@dataclass(frozen=True)
class Dice:
    """What random functions draw from: a hash of the seed, of the number of the call in the
    expression, and of the number of the thing.  i : (n,) numbers of the things.  curve : (n, 4)
    x, y, z and degrees at shares of the length of the picked curve, if there is one."""

    seed: int
    call: int
    i: NDArray[np.intp]
    curve: Callable[[Values], Values] | None = None

    def draw(self, nth: int = 0) -> Values:
        """(n,) numbers from 0 up to 1."""
        return np.asarray(unit(self.seed, self.i, np.full_like(self.i, 16 * self.call + nth)))


def _linspace(dice: Dice, first: Values, last: Values) -> Values:
    n = len(dice.i)
    share = dice.i / (n - 1) if n > 1 else np.zeros(n)
    return np.asarray(first + (last - first) * share)


def _steps(dice: Dice, first: Values, step: Values) -> Values:
    return np.asarray(first + step * dice.i)


def _uniform(dice: Dice, low: Values, high: Values) -> Values:
    return np.asarray(low + (high - low) * dice.draw())


def _normal(dice: Dice, middle: Values, spread: Values) -> Values:
    """By Box and Muller, "A note on the generation of random normal deviates" (1958)."""
    far = np.sqrt(-2.0 * np.log(1.0 - dice.draw()))
    return np.asarray(middle + spread * far * np.cos(2 * math.pi * dice.draw(1)))


def _integers(dice: Dice, low: Values, high: Values) -> Values:
    return np.asarray(np.floor(low + (high - low) * dice.draw()))


def _choice(dice: Dice, *options: Values) -> Values:
    n = len(dice.i)
    rows = np.stack([np.broadcast_to(option, n) for option in options])
    return np.asarray(rows[np.minimum((dice.draw() * len(rows)).astype(np.intp), len(rows) - 1),
                           np.arange(n)])  # fmt: skip


def _on_curve(column: int) -> Callable[[Dice, Values], Values]:
    def of(dice: Dice, share: Values) -> Values:
        if dice.curve is None:
            raise NoCurve
        shares = np.broadcast_to(np.asarray(share, np.float64), len(dice.i))
        return dice.curve(np.clip(np.nan_to_num(shares), 0.0, 1.0))[:, column]

    return of


def _snap(value: Values, step: Values) -> Values:
    safe = np.where(np.abs(step) < _STEADY, 1.0, step)
    return np.asarray(np.where(np.abs(step) < _STEADY, value, np.round(value / safe) * safe))


def _where(condition: Values, yes: Values, no: Values) -> Values:
    return np.asarray(np.where(np.asarray(condition) != 0, yes, no))


def _of(dice: Dice, does: Callable[..., Any], *args: Values) -> Any:
    return does(*args)


RANDOM: dict[str, Function] = {
    "uniform": Function("uniform(low, high)", "even chances from low to high", (2, 2), _uniform,
                        random=True),
    "normal": Function("normal(middle, spread)", "most near the middle", (2, 2), _normal,
                       random=True),
    "integers": Function("integers(low, high)", "whole numbers from low up to below high", (2, 2),
                         _integers, random=True),
    "choice": Function("choice(a, b, …)", "one of these by chance", (1, 16), _choice, random=True),
}  # fmt: skip
BY_NUMBER: dict[str, Function] = {
    "linspace": Function("linspace(first, last)", "evenly from first to last", (2, 2), _linspace),
    "arange": Function("arange(first, step)", "first, then step by step", (2, 2), _steps),
}
ON_CURVE: dict[str, Function] = {
    name: Function(f"{name}(share)", told, (1, 1), _on_curve(column))
    for column, (name, told) in enumerate(
        (
            ("curve_x", "x on the picked curve, share 0 to 1"),
            ("curve_y", "y on the picked curve, share 0 to 1"),
            ("curve_z", "level of the picked curve, share 0 to 1"),
            ("curve_turn", "degrees the picked curve has turned"),
        )
    )
}
PLAIN: dict[str, Function] = {
    name: Function(shown, told, args, does)
    for name, shown, told, args, does in (
        ("sin", "sin(a)", "sine, a in radians", (1, 1), np.sin),
        ("cos", "cos(a)", "cosine, a in radians", (1, 1), np.cos),
        ("tan", "tan(a)", "tangent, a in radians", (1, 1), np.tan),
        ("arcsin", "arcsin(v)", "angle whose sine is v", (1, 1), np.arcsin),
        ("arccos", "arccos(v)", "angle whose cosine is v", (1, 1), np.arccos),
        ("arctan", "arctan(v)", "angle whose tangent is v", (1, 1), np.arctan),
        ("arctan2", "arctan2(y, x)", "angle of the way to (x, y)", (2, 2), np.arctan2),
        ("hypot", "hypot(x, y)", "length of the way to (x, y)", (2, 2), np.hypot),
        ("radians", "radians(d)", "degrees to radians", (1, 1), np.radians),
        ("degrees", "degrees(a)", "radians to degrees", (1, 1), np.degrees),
        ("sqrt", "sqrt(v)", "square root", (1, 1), np.sqrt),
        ("exp", "exp(v)", "e to the power v", (1, 1), np.exp),
        ("log", "log(v)", "natural logarithm", (1, 1), np.log),
        ("abs", "abs(v)", "without its sign", (1, 1), np.abs),
        ("sign", "sign(v)", "-1, 0 or 1", (1, 1), np.sign),
        ("floor", "floor(v)", "the whole number below", (1, 1), np.floor),
        ("ceil", "ceil(v)", "the whole number above", (1, 1), np.ceil),
        ("round", "round(v)", "the nearest whole number", (1, 1), np.round),
        ("snap", "snap(v, step)", "the nearest multiple of step", (2, 2), _snap),
        ("mod", "mod(v, m)", "what is left of v beyond multiples of m", (2, 2), np.mod),
        ("minimum", "minimum(a, b)", "the smaller one", (2, 2), np.minimum),
        ("maximum", "maximum(a, b)", "the larger one", (2, 2), np.maximum),
        ("clip", "clip(v, low, high)", "v kept within low and high", (3, 3), np.clip),
        ("where", "where(c, yes, no)", "yes where c holds, else no", (3, 3), _where),
    )
}
FUNCTIONS: dict[str, Function] = {**BY_NUMBER, **RANDOM, **ON_CURVE, **PLAIN}
CONSTANTS: dict[str, float] = {"pi": math.pi, "tau": math.tau, "e": math.e}
VARIABLES: dict[str, str] = {
    "i": "its number, from 0",
    "n": "how many there are",
    "t": "i / n, from 0 up to 1",
    "value": "what it has now",
    "x": "its place east, in cells",
    "y": "its place south, in cells",
    "z": "its level",
}
