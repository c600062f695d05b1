"""Code of extensions is called at arm's length: what it raises switches it off, and the plain
answer of its kind is given instead."""

from __future__ import annotations

import functools
import inspect
from collections.abc import Callable
from typing import Any

from topion.errors import TopionError
from topion.extending.extension import Extension, ExtensionFailed

Plain = Callable[..., Any]  # the answer of a kind that is switched off, with the same arguments


def guard(cls: type, base: type, extension: Extension, plain: dict[str, Plain]) -> None:
    """Guard all that a class of an extension answers.

    base : of ours, whose own answers are given once it is off; `plain` has those that the base
    leaves open.
    """
    for name in dir(cls):
        owner = next((c for c in cls.__mro__ if name in c.__dict__), None)
        if owner is None or _is_ours(owner):
            continue
        if name.startswith("__") and name != "__post_init__":
            continue
        found = inspect.getattr_static(cls, name)
        answer = _answer(base, name, plain)
        if isinstance(found, property) and found.fget is not None:
            setattr(cls, name, property(_guarded(found.fget, name, extension, answer)))
        elif isinstance(found, functools.cached_property):
            kept = functools.cached_property(_guarded(found.func, name, extension, answer))
            kept.__set_name__(cls, name)
            setattr(cls, name, kept)
        elif inspect.isfunction(found):
            setattr(cls, name, _guarded(found, name, extension, answer))


def _is_ours(cls: type) -> bool:
    return cls is object or cls.__module__.partition(".")[0] in ("topion", "abc", "typing")


def _answer(base: type, name: str, plain: dict[str, Plain]) -> Plain | None:
    """What is answered in its place; None where nothing can be."""
    if name in plain:
        return plain[name]
    if name == "__post_init__":
        return lambda made: None  # what it holds is kept as it is, whatever it ought to be
    found = inspect.getattr_static(base, name, None)
    if isinstance(found, property):
        found = found.fget
    if inspect.isfunction(found) and not getattr(found, "__isabstractmethod__", False):
        return found
    return None


def _guarded(
    function: Callable[..., Any], name: str, extension: Extension, answer: Plain | None
) -> Callable[..., Any]:
    if inspect.isgeneratorfunction(function):
        return _guarded_rows(function, name, extension, answer)

    @functools.wraps(function)
    def call(*args: Any, **named: Any) -> Any:
        if not extension.off:
            try:
                return function(*args, **named)
            except TopionError:
                raise  # it says itself what is wrong
            except Exception as problem:
                extension.fail(problem, f"asked to {name.replace('_', ' ')}")
        if answer is None:
            raise ExtensionFailed(extension)
        return answer(*args, **named)

    return call


def _guarded_rows(
    function: Callable[..., Any], name: str, extension: Extension, answer: Plain | None
) -> Callable[..., Any]:
    """The same for what yields its answer: what came before it failed was given."""

    @functools.wraps(function)
    def call(*args: Any, **named: Any) -> Any:
        if not extension.off:
            try:
                yield from function(*args, **named)
                return
            except TopionError:
                raise
            except Exception as problem:
                extension.fail(problem, f"asked for {name.replace('_', ' ')}")
        if answer is None:
            raise ExtensionFailed(extension)
        yield from answer(*args, **named)

    return call


def guarded_call(extension: Extension, doing: str, function: Callable[..., Any]) -> Plain:
    """A function of an extension, guarded; ExtensionFailed once it is off."""
    return _guarded(function, doing, extension, None)
