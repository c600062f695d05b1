"""Dataclasses to plain JSON values and back, by their types, with every value checked.

A reader that finds something wrong raises BadPlain with the place in the value, such as
`rules[2].marks`; nothing is built until all of it is sound.
"""

from __future__ import annotations

import dataclasses
import functools
import math
import types
import typing
from collections.abc import Callable, Iterator
from typing import (
    Any,
    Literal,
    NamedTuple,
    TypeAlias,
    get_args,
    get_origin,
    get_type_hints,
)

from topion.errors import TopionError

Json: TypeAlias = Any  # what `json.loads` gives: records, lists, text, numbers, yes or no
JsonRecord: TypeAlias = dict[str, Any]
TypeForm: TypeAlias = Any  # a class, or what `typing` makes of classes
LARGEST_WHOLE = (1 << 53) - 1  # that any program reads back from JSON as it was
MOST_NESTED = 40  # of a record of an unknown kind
KINDS: dict[type, dict[str, type]] = {}  # protocol -> kind -> dataclass
UNKNOWN: dict[type, Callable[[str, JsonRecord], object]] = {}  # protocol -> what keeps the rest


class Codec(NamedTuple):
    """How values of a type that is no plain dataclass are written and read.

    schema : the JSON Schema of what is written.
    """

    write: Callable[[Any], Any]
    read: Callable[[Any], Any]
    schema: JsonRecord


CODECS: dict[type, Codec] = {}


class BadPlain(TopionError):
    """A plain value that does not hold what it should; `path` leads to it."""

    def __init__(self, path: tuple[str | int, ...], reason: str) -> None:
        super().__init__(f"{place_text(path)}: {reason}")
        self.path, self.reason = path, reason

    def below(self, path: tuple[str | int, ...]) -> BadPlain:
        """The same, of a value that holds the other one at `path`."""
        return BadPlain((*path, *self.path), self.reason)


def is_clean_text(text: str) -> bool:
    """Whether it can be written as UTF-8: text from outside may hold halves of letters."""
    if text.isascii():
        return True
    try:
        text.encode()
    except UnicodeEncodeError:
        return False
    return True


def place_text(path: tuple[str | int, ...]) -> str:
    """`("rules", 2, "marks")` as `rules[2].marks`."""
    text = ""
    for step in path:
        text += f"[{step}]" if isinstance(step, int) else f".{step}" if text else step
    return text or "the whole"


class Unread:
    """Base of values of kinds that nobody here knows: kept, and written back as they were read.

    unread : the record but for its kind.
    """

    kind: str
    unread: JsonRecord


def keep_unknown(protocol: type, make: Callable[[str, JsonRecord], object]) -> None:
    """Let values of kinds that are not known be kept: `make(kind, the rest of the record)`, an
    Unread.  Without that they are refused."""
    UNKNOWN[protocol] = make


def to_plain(value: object) -> Json:
    """Dataclasses as dicts without their defaults; tuples as lists; kinds first."""
    codec = CODECS.get(type(value))
    if codec is not None:
        return codec.write(value)
    if isinstance(value, Unread):
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


def _is_default(f: dataclasses.Field[Any], item: object) -> bool:
    if f.default is not dataclasses.MISSING:
        return bool(item == f.default)
    return f.default_factory is not dataclasses.MISSING and bool(item == f.default_factory())


def from_plain(wanted: TypeForm, value: Json, path: tuple[str | int, ...] = ()) -> Any:
    """Read `value` as the type `wanted`.  Raises BadPlain."""
    try:
        return reader(wanted)(value)
    except BadPlain as problem:
        raise problem.below(path) if path else problem from None


def check_plain(value: Json) -> None:
    """Raises BadPlain for JSON values that could not be written again: nested too deep, halves of
    letters, endless numbers."""
    rows: list[tuple[Json, int]] = [(value, 0)]
    while rows:
        item, depth = rows.pop()
        if depth > MOST_NESTED:
            raise BadPlain((), f"is nested deeper than {MOST_NESTED} levels")
        if isinstance(item, dict):
            rows += ((part, depth + 1) for pair in item.items() for part in pair)
        elif isinstance(item, list):
            rows += ((part, depth + 1) for part in item)
        elif isinstance(item, str):
            _read_text(item)
        elif isinstance(item, float):
            _read_number(item)
        elif item is not None and not isinstance(item, bool):
            _read_whole(item)


Reader = Callable[[Any], Any]
_READERS: dict[Any, Reader] = {}


def reader(wanted: TypeForm) -> Reader:
    """What reads values of a type: made once, so that reading asks for no type again.

    A reader raises BadPlain with the path from the value it was given.
    """
    found = _READERS.get(wanted)
    if found is None:
        found = _READERS[wanted] = _reader(wanted)
    return found


def _reader(wanted: TypeForm) -> Reader:
    if wanted is Any:
        return lambda value: value
    if wanted in CODECS:
        return _codec_reader(wanted)
    if wanted in KINDS:
        return lambda value: _read_kind(wanted, value)
    origin, args = get_origin(wanted), get_args(wanted)
    if origin is Literal:
        return _literal_reader(args)
    if origin in (typing.Union, types.UnionType):
        inner = reader(next(part for part in args if part is not type(None)))
        return lambda value: None if value is None else inner(value)
    if origin is tuple:
        return _row_reader(args[0]) if args[-1] is Ellipsis else _tuple_reader(args)
    if origin is dict:
        return _dict_reader(*args)
    if isinstance(wanted, type) and issubclass(wanted, tuple) and hasattr(wanted, "_fields"):
        return _named_tuple_reader(wanted)
    if dataclasses.is_dataclass(wanted):
        return _dataclass_reader(wanted)
    return _scalar_reader(wanted)


@functools.cache
def hints_of(cls: type) -> dict[str, Any]:
    return get_type_hints(cls)


def _expect(kind: type, value: Json, words: str) -> Json:
    if not isinstance(value, kind):
        raise BadPlain((), f"must be {words}, not {brief(value)}")
    return value


def _codec_reader(wanted: TypeForm) -> Reader:
    read = CODECS[wanted].read

    def codec(value: Json) -> Json:
        try:
            return read(value)
        except TopionError as problem:
            raise BadPlain((), str(problem)) from None

    return codec


def _read_kind(protocol: type, value: Json) -> Json:
    record = dict(_expect(dict, value, "a record with a kind"))
    kind = record.pop("kind", None)
    known = isinstance(kind, str) and kind in KINDS[protocol]
    if not known:
        check_plain([kind, record])
    if isinstance(kind, str) and not known and protocol in UNKNOWN:
        try:
            return UNKNOWN[protocol](kind, record)
        except TopionError as problem:
            raise BadPlain((), str(problem)) from None
    if not known:
        names = ", ".join(sorted(KINDS[protocol]))
        raise BadPlain(("kind",), f"{brief(kind)} is not known; known are {names}")
    try:
        return reader(KINDS[protocol][kind])(record)
    except BadPlain:
        raise
    except Exception:  # a kind of somebody else that cannot be made: kept as if it were not known
        if protocol not in UNKNOWN:
            raise
        return UNKNOWN[protocol](kind, record)


def _literal_reader(options: tuple[Any, ...]) -> Reader:
    words, kinds = ", ".join(map(str, options)), {type(option) for option in options}

    def literal(value: Json) -> Json:
        if type(value) not in kinds or value not in options:
            raise BadPlain((), f"must be one of {words}")
        return value

    return literal


def _each(read: Reader, items: list[Json]) -> Iterator[Any]:
    for number, item in enumerate(items):
        try:
            yield read(item)
        except BadPlain as problem:
            raise problem.below((number,)) from None


def _row_reader(part: TypeForm) -> Reader:
    read = reader(part)
    return lambda value: tuple(_each(read, _expect(list, value, "a list")))


def _parts(reads: list[Reader], items: list[Json]) -> Iterator[Any]:
    for number, (read, item) in enumerate(zip(reads, items, strict=False)):
        try:
            yield read(item)
        except BadPlain as problem:
            raise problem.below((number,)) from None


def _tuple_reader(args: tuple[Any, ...]) -> Reader:
    reads = [reader(part) for part in args]

    def parts(value: Json) -> tuple[Any, ...]:
        items = _expect(list, value, "a list")
        if len(items) != len(reads):
            raise BadPlain((), f"must have {len(reads)} parts, not {len(items)}")
        return tuple(_parts(reads, items))

    return parts


def _named_tuple_reader(wanted: TypeForm) -> Reader:
    reads = [reader(part) for part in hints_of(wanted).values()]
    least = len(reads) - len(wanted._field_defaults)

    def named(value: Json) -> Json:
        items = _expect(list, value, "a list")
        if len(items) > len(reads):
            raise BadPlain((), f"has {len(items)} parts, but at most {len(reads)} belong here")
        if len(items) < least:
            raise BadPlain((), f"has {len(items)} parts, which is too few")
        made = wanted(*_parts(reads, items))
        if not getattr(made, "is_sound", True):
            raise BadPlain((), f"{brief(list(made))} is none that there can be")
        return made

    return named


def _dict_reader(key_type: TypeForm, part: TypeForm) -> Reader:
    read = reader(part)

    def record(value: Json) -> dict[Any, Any]:
        found = {}
        for key, item in _expect(dict, value, "a record").items():
            try:
                name = _read_text(key) if key_type is str else _read_whole(key_type(key[:20]))
                found[name] = read(item)
            except BadPlain as problem:
                raise problem.below((key,)) from None
            except ValueError:
                raise BadPlain((key,), "is not a whole number") from None
        return found

    return record


def _dataclass_reader(cls: TypeForm) -> Reader:
    fields = {f.name: f for f in dataclasses.fields(cls) if f.init}
    hints, missing = hints_of(cls), dataclasses.MISSING
    reads: dict[str, Reader] = {}  # filled at first use: a type may speak of itself
    required = [name for name, f in fields.items()
                if f.default is missing and f.default_factory is missing]  # fmt: skip

    def record(value: Json) -> Json:
        if not reads:
            reads.update({name: reader(hints[name]) for name in fields})
        found = {}
        for key, item in _expect(dict, value, "a record").items():
            if key not in reads:
                place = (key if len(key) <= 40 else f"{key[:39]}…",)
                raise BadPlain(place, f"is not known here; known are {', '.join(fields)}")
            try:
                found[key] = reads[key](item)
            except BadPlain as problem:
                raise problem.below((key,)) from None
        for name in required:
            if name not in found:
                raise BadPlain((name,), "is missing")
        try:
            return cls(**found)
        except TopionError as problem:
            raise BadPlain((), str(problem)) from None

    return record


_WORDS: dict[Any, str] = {int: "a whole number", float: "a number", str: "text",
                          bool: "true or false"}  # fmt: skip


def _scalar_reader(wanted: TypeForm) -> Reader:
    words = _WORDS[wanted]

    def scalar(value: Json) -> Json:
        if type(value) is wanted:
            return value
        raise BadPlain((), f"must be {words}, not {brief(value)}")

    special: dict[Any, Reader] = {float: _read_number, int: _read_whole, str: _read_text}
    return special.get(wanted, scalar)


def brief(value: object) -> str:
    """A value in at most 40 letters."""
    if isinstance(value, int) and not isinstance(value, bool) and abs(value) > 10**20:
        return "a number of many digits"
    text = repr(value if not isinstance(value, dict | list | str) else _first(value))
    return text if len(text) <= 40 else f"{text[:39]}…"


def _first(value: Json) -> Json:
    """The beginning of a long value, so that its text is not made whole."""
    if isinstance(value, dict):
        return dict.fromkeys(list(value)[:4], ...)
    return value[:44]


def _read_text(value: Json) -> str:
    if not isinstance(value, str):
        raise BadPlain((), f"must be text, not {brief(value)}")
    if not is_clean_text(value):
        raise BadPlain((), "holds half a letter, which no text can")
    return value


def _read_whole(value: Json) -> int:
    if type(value) is not int:
        raise BadPlain((), f"must be a whole number, not {brief(value)}")
    if not -LARGEST_WHOLE <= value <= LARGEST_WHOLE:
        raise BadPlain((), f"must be a whole number of at most {LARGEST_WHOLE}")
    return value


def _read_number(value: Json) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise BadPlain((), f"must be a number, not {brief(value)}")
    try:
        number = float(value)
    except OverflowError:
        number = math.inf
    if not math.isfinite(number):
        raise BadPlain((), "must be a finite number")
    return number
