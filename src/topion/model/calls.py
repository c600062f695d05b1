"""Calls from scripts: arguments that nearly fit are taken, others refused in a sentence.

Scripts pass what they have at hand: lists for tuples, numbers of NumPy, whole numbers as floats.
"""

from __future__ import annotations

import collections.abc
import functools
import inspect
import types
import typing
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar, get_args, get_origin, get_type_hints

import numpy as np

from topion.errors import BadValue
from topion.model.typed import test_of, words_of

T = TypeVar("T", bound=type)
_Fit = Callable[[Any], Any]


class _Unfit(Exception):
    """A value is of no use for a type."""


def checks_calls(cls: T) -> T:
    """Let the public methods of a class raise BadValue for arguments of other types than theirs."""
    for name, member in list(vars(cls).items()):
        if inspect.isfunction(member) and not name.startswith("_"):
            setattr(cls, name, _checked(member))
    return cls


def _checked(function: Callable[..., Any]) -> Callable[..., Any]:
    signature = inspect.signature(function)

    @functools.cache
    def fits() -> dict[str, tuple[_Fit, str]]:
        hints = get_type_hints(function, include_extras=True)
        return {name: (_fit(hints[name]), words_of(hints[name]))
                for name in signature.parameters if name in hints}  # fmt: skip

    @functools.wraps(function)
    def call(*args: Any, **named: Any) -> Any:
        bound = signature.bind(*args, **named)
        known = fits()
        for name, value in bound.arguments.items():
            if name in known:
                fit, wanted = known[name]
                various = signature.parameters[name].kind is inspect.Parameter.VAR_POSITIONAL
                keyed = signature.parameters[name].kind is inspect.Parameter.VAR_KEYWORD
                try:
                    if various:
                        bound.arguments[name] = tuple(fit(part) for part in value)
                    elif not keyed:
                        bound.arguments[name] = fit(value)
                except (_Unfit, TypeError, ValueError, OverflowError):
                    raise BadValue(f"the {name.replace('_', ' ')}", value, wanted) from None
        return function(*bound.args, **bound.kwargs)

    return call


def _fit(wanted: Any) -> _Fit:
    """What gives a value as a type has it, or raises _Unfit."""
    origin, args = get_origin(wanted), get_args(wanted)
    if wanted is int:
        return _whole
    if wanted is float:
        return _number
    if wanted is bool:
        return _yes_or_no
    if wanted is Path:
        return _path
    if origin in (typing.Union, types.UnionType):
        return functools.partial(_any_of, [_fit(part) for part in args])
    if origin is tuple:
        endless = args[-1] is Ellipsis
        parts = args[:1] if endless else args
        return functools.partial(_tuple, endless, [_fit(part) for part in parts])
    if origin is collections.abc.Callable:
        return functools.partial(_held, callable)
    if origin is collections.abc.Iterable and get_origin(args[0]) is tuple:
        return functools.partial(_many, _fit(args[0]))
    if origin is collections.abc.Iterable or wanted is Any:
        return lambda value: value  # what goes through it checks what comes
    return functools.partial(_held, test_of(wanted))


def _held(test: Callable[[Any], bool], value: Any) -> Any:
    if not test(value):
        raise _Unfit
    return value


def _any_of(fits: list[_Fit], value: Any) -> Any:
    for fit in fits:
        try:
            return fit(value)
        except (_Unfit, TypeError, ValueError, OverflowError):
            continue
    raise _Unfit


def _tuple(endless: bool, fits: list[_Fit], value: Any) -> Any:
    if not isinstance(value, (tuple, list, range, np.ndarray)):
        raise _Unfit
    if endless:
        return tuple(fits[0](part) for part in value)
    if len(value) != len(fits):
        raise _Unfit
    return tuple(fit(part) for fit, part in zip(fits, value, strict=True))


def _many(fit: _Fit, value: Any) -> Any:
    return tuple(fit(part) for part in value)


def _whole(value: Any) -> int:
    if isinstance(value, (bool, np.bool_)) or int(value) != value:
        raise _Unfit
    return int(_held(test_of(int), int(value)))


def _number(value: Any) -> float:
    if isinstance(value, (bool, np.bool_, str, bytes, np.ndarray)):
        raise _Unfit
    return float(_held(test_of(float), float(value)))


def _yes_or_no(value: Any) -> bool:
    if not isinstance(value, (bool, np.bool_)):
        raise _Unfit
    return bool(value)


def _path(value: Any) -> Path:
    if not isinstance(value, (str, Path)) or "\0" in str(value):
        raise _Unfit
    return Path(value)
