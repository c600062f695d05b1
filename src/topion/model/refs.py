"""Names by which one part of a project speaks of another, told by the types of fields.

A field typed `Annotated[str, Ref("prefabs")]` holds the name of a prefab.  One walk over a value
then finds what it uses, and gives it anew with a name changed; nothing lists the fields again.
"""

from __future__ import annotations

import dataclasses
import types
import typing
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Annotated, Any, NamedTuple, get_args, get_origin, get_type_hints

from topion.model.plain import KINDS, TypeForm

Kind = str  # of what is named: a shelf of the library, "materials", or the regions of rooms
REGIONS = "regions"


@dataclass(frozen=True)
class Ref:
    """The text is a name on shelf `of`; empty text names nothing.

    before : only text that begins so names something, by what follows.
    perhaps : the text may also mean something else, so an unknown name is no fault.
    """

    of: Kind
    before: str = ""
    perhaps: bool = False


class Use(NamedTuple):
    """One name that a value uses.  perhaps : it need not be there."""

    kind: Kind
    name: str
    perhaps: bool = False


def uses(value: object) -> Iterator[Use]:
    """Every name that a dataclass uses, in the order of its fields, also deep inside."""
    yield from _walk(type(value), value)


def renamed(value: Any, kind: Kind, old: str, new: str, wanted: TypeForm = None) -> Any:
    """The same value with another name for what it used by the name `old`.

    wanted : its type, where that tells more than the class of the value.
    """
    return _renamed(wanted or type(value), value, kind, old, new)


def with_names(value: Any, names: Iterable[tuple[Kind, str, str]], wanted: TypeForm = None) -> Any:
    """The same value with other names; (kind, old, new) of each."""
    for kind, old, new in names:
        value = renamed(value, kind, old, new, wanted)
    return value


def field_types(cls: TypeForm) -> dict[str, TypeForm]:
    """The types of the fields of a dataclass or named tuple, references and all."""
    found = _FIELDS.get(cls)
    if found is None:
        found = get_type_hints(cls, include_extras=True)
        if dataclasses.is_dataclass(cls):
            found = {f.name: found[f.name] for f in dataclasses.fields(cls)}
        _FIELDS[cls] = found
    return found


_FIELDS: dict[Any, dict[str, Any]] = {}


def ref_of(wanted: TypeForm) -> Ref | None:
    """The reference a type declares."""
    if get_origin(wanted) is Annotated:
        return next((extra for extra in get_args(wanted)[1:] if isinstance(extra, Ref)), None)
    return None


def _may_refer(wanted: TypeForm) -> bool:
    """Whether anything inside a value of that type can be a name."""
    found = _KNOWN.get(wanted)
    if found is None:
        found = _KNOWN[wanted] = _refers(wanted, frozenset())
    return found


_KNOWN: dict[Any, bool] = {}


def _refers(wanted: TypeForm, above: frozenset[TypeForm]) -> bool:
    if ref_of(wanted) is not None or wanted in KINDS:
        return True
    if get_origin(wanted) in (tuple, dict, typing.Union, types.UnionType, Annotated):
        return any(_refers(part, above) for part in get_args(wanted) if part is not Ellipsis)
    if wanted in above or not _has_fields(wanted):
        return False
    return hasattr(wanted, "own_uses") or any(
        _refers(part, above | {wanted}) for part in field_types(wanted).values()
    )


def _has_fields(wanted: TypeForm) -> bool:
    if not isinstance(wanted, type):
        return False
    return dataclasses.is_dataclass(wanted) or (
        issubclass(wanted, tuple) and hasattr(wanted, "_fields")
    )


def _walk(wanted: TypeForm, value: Any) -> Iterator[Use]:
    if value is None or (wanted is not type(value) and not _may_refer(wanted)):
        return
    ref = ref_of(wanted)
    if ref is not None:
        if value.startswith(ref.before) and value[len(ref.before) :]:
            yield Use(ref.of, value[len(ref.before) :], ref.perhaps)
        return
    if hasattr(value, "own_uses"):
        yield from value.own_uses()
    if _has_fields(type(value)):
        for name, part in field_types(type(value)).items():
            if _may_refer(part):
                yield from _walk(part, getattr(value, name))
    elif isinstance(value, tuple):
        for part, item in zip(_item_types(wanted, value), value, strict=False):
            yield from _walk(part, item)
    elif isinstance(value, dict):
        for item in value.values():
            yield from _walk(get_args(wanted)[1], item)


def _item_types(wanted: TypeForm, value: tuple[object, ...]) -> tuple[TypeForm, ...]:
    args = get_args(_bare(wanted))
    if len(args) == 2 and args[1] is Ellipsis:
        return (args[0],) * len(value)
    return args


def _bare(wanted: TypeForm) -> TypeForm:
    """A type that may be None, without that."""
    if get_origin(wanted) in (typing.Union, types.UnionType):
        return next(part for part in get_args(wanted) if part is not type(None))
    return wanted


def _renamed(wanted: TypeForm, value: Any, kind: Kind, old: str, new: str) -> Any:
    if value is None or (wanted is not type(value) and not _may_refer(wanted)):
        return value
    ref = ref_of(wanted)
    if ref is not None:
        return ref.before + new if ref.of == kind and value == ref.before + old else value
    if hasattr(value, "with_use"):
        value = value.with_use(kind, old, new)
    if _has_fields(type(value)):
        changes = {}
        for name, part in field_types(type(value)).items():
            if _may_refer(part):
                was = getattr(value, name)
                now = _renamed(part, was, kind, old, new)
                if now is not was and now != was:
                    changes[name] = now
        if not changes:
            return value
        return _replaced(value, changes)
    if isinstance(value, tuple):
        pairs = zip(_item_types(wanted, value), value, strict=False)
        return tuple(_renamed(part, item, kind, old, new) for part, item in pairs)
    if isinstance(value, dict):
        part = get_args(wanted)[1]
        return {key: _renamed(part, item, kind, old, new) for key, item in value.items()}
    return value


def _replaced(value: Any, changes: dict[str, Any]) -> Any:
    """A dataclass or named tuple with other fields."""
    return value._replace(**changes) if hasattr(value, "_replace") else dataclasses.replace(
        value, **changes)  # fmt: skip
