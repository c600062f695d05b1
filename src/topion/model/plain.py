"""Dataclasses to plain JSON values and back, by their types, with every value checked.

A reader that finds something wrong raises BadPlain with the place in the value, such as
`rules[2].marks`; nothing is built until all of it is sound.
"""

from __future__ import annotations

import dataclasses
import functools
import types
import typing
from collections.abc import Callable
from typing import Any, Literal, NamedTuple, Protocol, get_args, get_origin, get_type_hints

from topion.errors import TopionError

KINDS: dict[type, dict[str, type]] = {}  # protocol -> kind -> dataclass
UNKNOWN: dict[type, Callable[[str, dict[str, Any]], Any]] = {}  # protocol -> what keeps the rest


class Codec(NamedTuple):
    """How values of a type that is no plain dataclass are written and read.

    schema : the JSON Schema of what is written.
    """

    write: Callable[[Any], Any]
    read: Callable[[Any], Any]
    schema: dict[str, Any]


CODECS: dict[type, Codec] = {}


class BadPlain(TopionError):
    """A plain value that does not hold what it should; `path` leads to it."""

    def __init__(self, path: tuple[str | int, ...], reason: str) -> None:
        super().__init__(f"{place_text(path)}: {reason}")
        self.path, self.reason = path, reason


def place_text(path: tuple[str | int, ...]) -> str:
    """`("rules", 2, "marks")` as `rules[2].marks`."""
    text = ""
    for step in path:
        text += f"[{step}]" if isinstance(step, int) else f".{step}" if text else step
    return text or "the whole"


class Unread(Protocol):
    """A value of a kind that nobody here knows; it is kept, and written as it was read."""

    unread: dict[str, Any]


def register_kinds(protocol: type, *kinds: type) -> None:
    """Let values typed as `protocol` be read by their `kind`; a kind can be taken once."""
    table = KINDS.setdefault(protocol, {})
    for cls in kinds:
        kind = cls.kind  # type: ignore[attr-defined]
        if kind in table:
            raise ValueError(f"kind {kind!r} is already {table[kind].__module__}")
        table[kind] = cls


def keep_unknown(protocol: type, make: Callable[[str, dict[str, Any]], Any]) -> None:
    """Let values of kinds that are not known be kept: `make(kind, the rest of the record)`, an
    Unread.  Without that they are refused."""
    UNKNOWN[protocol] = make


def to_plain(value: Any) -> Any:
    """Dataclasses as dicts without their defaults; tuples as lists; kinds first."""
    codec = CODECS.get(type(value))
    if codec is not None:
        return codec.write(value)
    if hasattr(value, "unread"):
        return {"kind": value.kind, **value.unread}
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        kind = type(value).__dict__.get("kind")
        record: dict[str, Any] = {"kind": kind} if kind else {}
        for f in _written_fields(type(value)):
            item = getattr(value, f.name)
            if f.name == "name" or not _is_default(f, item):
                record[f.name] = to_plain(item)
        return record
    if isinstance(value, dict):
        return {str(key): to_plain(item) for key, item in value.items()}
    if isinstance(value, tuple | list):
        return [to_plain(item) for item in value]
    return value


@functools.cache
def _written_fields(cls: type) -> tuple[dataclasses.Field[Any], ...]:
    """The fields in the order of files: those given by name alone, such as traits, behind."""
    return tuple(sorted(dataclasses.fields(cls), key=lambda f: f.kw_only is True))


def _is_default(f: dataclasses.Field[Any], item: Any) -> bool:
    if f.default is not dataclasses.MISSING:
        return bool(item == f.default)
    return f.default_factory is not dataclasses.MISSING and bool(item == f.default_factory())


def from_plain(wanted: Any, value: Any, path: tuple[str | int, ...] = ()) -> Any:
    """Read `value` as the type `wanted`.  Raises BadPlain."""
    if wanted is Any:
        return value
    if wanted in CODECS:
        try:
            return CODECS[wanted].read(value)
        except TopionError as problem:
            raise BadPlain(path, str(problem)) from None
    if wanted in KINDS:
        return _read_kind(wanted, value, path)
    origin = get_origin(wanted)
    if origin is Literal:
        if value not in get_args(wanted):
            raise BadPlain(path, f"must be one of {', '.join(map(str, get_args(wanted)))}")
        return value
    if origin in (typing.Union, types.UnionType):
        options = [t for t in get_args(wanted) if t is not type(None)]
        return None if value is None else from_plain(options[0], value, path)
    if origin is tuple:
        return _read_tuple(get_args(wanted), value, path)
    if origin is dict:
        return _read_dict(get_args(wanted), value, path)
    if isinstance(wanted, type) and issubclass(wanted, tuple) and hasattr(wanted, "_fields"):
        hints = hints_of(wanted)
        items = _expect(list, value, path, "a list")
        if len(items) > len(hints):
            raise BadPlain(path, f"has {len(items)} parts, but at most {len(hints)} belong here")
        parts = zip(hints.values(), items, strict=False)
        try:
            return wanted(*(from_plain(t, v, (*path, i)) for i, (t, v) in enumerate(parts)))
        except TypeError:
            raise BadPlain(path, f"has {len(items)} parts, which is too few") from None
    if dataclasses.is_dataclass(wanted):
        return _read_dataclass(wanted, value, path)
    return _read_scalar(wanted, value, path)


@functools.cache
def hints_of(cls: type) -> dict[str, Any]:
    return get_type_hints(cls)


def _expect(kind: type, value: Any, path: tuple[str | int, ...], words: str) -> Any:
    if not isinstance(value, kind):
        raise BadPlain(path, f"must be {words}, not {value!r:.40}")
    return value


def _read_kind(protocol: type, value: Any, path: tuple[str | int, ...]) -> Any:
    record = dict(_expect(dict, value, path, "a record with a kind"))
    kind = record.pop("kind", None)
    if isinstance(kind, str) and kind not in KINDS[protocol] and protocol in UNKNOWN:
        try:
            return UNKNOWN[protocol](kind, record)
        except TopionError as problem:
            raise BadPlain(path, str(problem)) from None
    if not isinstance(kind, str) or kind not in KINDS[protocol]:
        known = ", ".join(sorted(KINDS[protocol]))
        raise BadPlain((*path, "kind"), f"{kind!r} is not known; known are {known}")
    return _read_dataclass(KINDS[protocol][kind], record, path)


def _read_tuple(args: tuple[Any, ...], value: Any, path: tuple[str | int, ...]) -> tuple[Any, ...]:
    items = _expect(list, value, path, "a list")
    if len(args) == 2 and args[1] is Ellipsis:
        return tuple(from_plain(args[0], item, (*path, i)) for i, item in enumerate(items))
    if len(items) != len(args):
        raise BadPlain(path, f"must have {len(args)} parts, not {len(items)}")
    pairs = zip(args, items, strict=True)
    return tuple(from_plain(t, item, (*path, i)) for i, (t, item) in enumerate(pairs))


def _read_dict(args: tuple[Any, ...], value: Any, path: tuple[str | int, ...]) -> dict[Any, Any]:
    record = _expect(dict, value, path, "a record")
    found = {}
    for key, item in record.items():
        try:
            found[args[0](key)] = from_plain(args[1], item, (*path, key))
        except ValueError:
            raise BadPlain((*path, key), "is not a whole number") from None
    return found


def _read_dataclass(cls: Any, value: Any, path: tuple[str | int, ...]) -> Any:
    record = _expect(dict, value, path, "a record")
    fields = {f.name: f for f in dataclasses.fields(cls) if f.init}
    for key in record:
        if key not in fields:
            raise BadPlain((*path, key), f"is not known here; known are {', '.join(fields)}")
    hints = hints_of(cls)
    found = {k: from_plain(hints[k], v, (*path, k)) for k, v in record.items()}
    for name, f in fields.items():
        required = f.default is dataclasses.MISSING and f.default_factory is dataclasses.MISSING
        if required and name not in found:
            raise BadPlain((*path, name), "is missing")
    try:
        return cls(**found)
    except TopionError as problem:
        raise BadPlain(path, str(problem)) from None


def _read_scalar(wanted: Any, value: Any, path: tuple[str | int, ...]) -> Any:
    if wanted is float and isinstance(value, int | float) and not isinstance(value, bool):
        number = float(value)
        if number != number or number in (float("inf"), float("-inf")):
            raise BadPlain(path, "must be a finite number")
        return number
    words = {int: "a whole number", float: "a number", str: "text", bool: "true or false"}
    if isinstance(value, bool) and wanted is not bool:
        raise BadPlain(path, f"must be {words[wanted]}, not {value!r}")
    return _expect(wanted, value, path, words[wanted])
