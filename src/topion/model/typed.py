"""Dataclasses that check the types of their values when they are made.

`@typed` stands above `@dataclass`.  A field may say more of its values by a `Check` in its type:
`Annotated[str, COLOUR]`.
"""

from __future__ import annotations

import functools
import math
import re
import types
import typing
from collections.abc import Callable
from dataclasses import dataclass, fields, is_dataclass
from pathlib import Path
from typing import Annotated, Any, Literal, TypeVar, get_args, get_origin, get_type_hints

from topion.errors import BadValue
from topion.model.plain import KINDS, LARGEST_WHOLE, Unread, is_clean_text

T = TypeVar("T")
_Test = Callable[[Any], bool]
LONGEST_NAME = 200
LONGEST_TEXT = 100_000
FARTHEST = 1e9  # of any number with a fraction


@dataclass(frozen=True)
class Check:
    """What values of a field must also be.  wanted : in words."""

    wanted: str
    holds: _Test


def between(lo: float, hi: float, unit: str = "") -> Check:
    """A number in a range, both ends included."""
    return Check(f"{lo:g} to {hi:g}{unit and ' ' + unit}", lambda value: lo <= value <= hi)


_COLOUR = re.compile(r"#[0-9a-fA-F]{6}")
COLOUR = Check("a colour like #a5533b", lambda value: _COLOUR.fullmatch(value) is not None)
_BREAKS = re.compile("[\x00-\x1f\x7f\u2028\u2029]")
NAME = Check(
    f"a name of 1 to {LONGEST_NAME} letters",
    lambda value: (
        bool(value.strip())
        and len(value) <= LONGEST_NAME
        and not _BREAKS.search(value)
        and is_clean_text(value)
    ),
)
Name = Annotated[str, NAME]
Colour = Annotated[str, COLOUR]
Seed = Annotated[int, between(0, LARGEST_WHOLE)]


def typed(cls: type[T]) -> type[T]:
    """Let a dataclass raise BadValue for values of other types than its fields have."""
    made: Any = cls
    plain_init = made.__init__
    if getattr(plain_init, "checks_types", False):
        return cls

    @functools.wraps(plain_init)
    def init(self: Any, *args: Any, **named: Any) -> None:
        try:
            plain_init(self, *args, **named)
        except (TypeError, AttributeError, KeyError, OverflowError, ArithmeticError):
            check_types(self)  # a wrong type may be why
            raise
        if type(self) is cls:
            check_types(self)

    init.checks_types = True  # type: ignore[attr-defined]
    made.__init__ = init
    return cls


def register_kinds(protocol: type, *kinds: type) -> None:
    """Let values typed as `protocol` be read by their `kind`, and be checked when they are made; a
    kind can be taken once."""
    table = KINDS.setdefault(protocol, {})
    for cls in kinds:
        kind = cls.kind  # type: ignore[attr-defined]
        if kind in table:
            raise ValueError(f"kind {kind!r} is already {table[kind].__module__}")
        table[kind] = typed(cls)


def check_types(value: Any) -> None:
    """Raises BadValue for a field that holds what its type does not allow."""
    state = value.__dict__
    cls: Any = type(value)
    for name, test, wanted in _tests_of(cls):
        if name in state and not test(state[name]):
            owner = state.get("name", "")
            of = f" of {owner}" if isinstance(owner, str) and owner and name != "name" else ""
            raise BadValue(f"the {name.replace('_', ' ')}{of}", state[name], wanted)


@functools.cache
def _tests_of(cls: type) -> tuple[tuple[str, _Test, str], ...]:
    hints = get_type_hints(cls, include_extras=True)
    return tuple((f.name, test_of(hints[f.name]), words_of(hints[f.name]))
                 for f in fields(cls) if f.init)  # fmt: skip


def words_of(wanted: Any) -> str:
    """What a type wants, for a sentence."""
    checks = [extra for extra in get_args(wanted)[1:] if isinstance(extra, Check)]
    if get_origin(wanted) is typing.Annotated:
        return checks[0].wanted if checks else words_of(get_args(wanted)[0])
    origin, args = get_origin(wanted), get_args(wanted)
    if origin is Literal:
        return f"one of {', '.join(map(str, args))}"
    if origin is tuple:
        many = _many(words_of(args[0]))
        return many if args[-1] is Ellipsis else f"{len(args)} {many}"
    if origin is dict:
        return f"{words_of(args[1])} by name"
    if origin in (typing.Union, types.UnionType):
        words = (words_of(part) for part in args if part is not type(None))
        return " or ".join(dict.fromkeys(words))
    known = {int: "a whole number", float: "a number", str: "text", bool: "yes or no",
             Path: "a path"}  # fmt: skip
    return known.get(wanted, getattr(wanted, "__name__", str(wanted)))


def _many(words: str) -> str:
    """More than one of something."""
    known = {"a whole number": "whole numbers", "a number": "numbers", "text": "texts"}
    return known.get(words, f"lists of {words}" if words in known.values() else f"of {words}")


def test_of(wanted: Any) -> _Test:
    """What tells whether a value is of a type."""
    origin, args = get_origin(wanted), get_args(wanted)
    if origin is typing.Annotated:
        inner = test_of(args[0])
        checks = [extra.holds for extra in args[1:] if isinstance(extra, Check)]
        return lambda value: inner(value) and all(holds(value) for holds in checks)
    if origin is Literal:
        kinds = {type(option) for option in args}
        return lambda value: type(value) in kinds and value in args
    if origin in (typing.Union, types.UnionType):
        tests = [test_of(part) for part in args]
        return lambda value: any(test(value) for test in tests)
    if origin is tuple:
        return _tuple_test(args)
    if origin is dict:
        key, item = test_of(args[0]), test_of(args[1])
        return lambda value: (
            type(value) is dict and all(key(k) and item(v) for k, v in value.items())
        )
    return _plain_test(wanted)


def _tuple_test(args: tuple[Any, ...]) -> _Test:
    if args[-1] is Ellipsis:
        each = test_of(args[0])
        return lambda value: isinstance(value, tuple) and all(map(each, value))
    tests = [test_of(part) for part in args]
    return lambda value: (
        isinstance(value, tuple)
        and len(value) == len(tests)
        and all(test(part) for test, part in zip(tests, value, strict=True))
    )


def _plain_test(wanted: Any) -> _Test:
    if wanted is Any:
        return lambda value: True
    if wanted is type(None):
        return lambda value: value is None
    if wanted is float:
        return _is_number
    if wanted is int:
        return lambda value: type(value) is int and -LARGEST_WHOLE <= value <= LARGEST_WHOLE
    if wanted is str:
        return lambda value: (
            isinstance(value, str) and len(value) <= LONGEST_TEXT and is_clean_text(value)
        )
    if wanted in KINDS or (isinstance(wanted, type) and getattr(wanted, "_is_protocol", False)):
        return lambda value: (
            isinstance(value, Unread) or (is_dataclass(value) and not isinstance(value, type))
        )
    if isinstance(wanted, type) and hasattr(wanted, "_fields"):
        return _named_test(wanted)
    if isinstance(wanted, type):
        return lambda value: isinstance(value, wanted)
    return lambda value: True  # arrays, whose own class checks them


def _named_test(wanted: Any) -> _Test:
    hints = get_type_hints(wanted, include_extras=True)
    tests = [test_of(hints[name]) for name in wanted._fields]
    return lambda value: (
        isinstance(value, wanted)
        and all(test(part) for test, part in zip(tests, value, strict=True))
        and bool(getattr(value, "is_sound", True))
    )


def _is_number(value: Any) -> bool:
    if isinstance(value, float):
        return math.isfinite(value) and abs(value) <= FARTHEST
    return type(value) is int and abs(value) <= FARTHEST
