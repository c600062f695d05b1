"""JSON Schema of plain values, made from the types that read them (draft 2020-12)."""

from __future__ import annotations

import dataclasses
import inspect
import types
import typing
from typing import Any, Literal, get_args, get_origin

from topion.model.plain import CODECS, KINDS, UNKNOWN, JsonRecord, TypeForm, hints_of

_SCALARS = {str: "string", int: "integer", float: "number", bool: "boolean"}


class Definitions:
    """Schemas of types; those of dataclasses are gathered in `made` and referred to."""

    def __init__(self) -> None:
        self.made: JsonRecord = {}

    def of(self, wanted: TypeForm) -> JsonRecord:
        """The schema of what `to_plain` writes for a value of that type."""
        if wanted is Any:
            return {}
        if wanted in _SCALARS:
            return {"type": _SCALARS[wanted]}
        if get_origin(wanted) is not None:
            return self._of_generic(wanted)
        return self._named(wanted)

    def _of_generic(self, wanted: TypeForm) -> JsonRecord:
        origin, args = get_origin(wanted), get_args(wanted)
        if origin is Literal:
            return {"enum": list(args)}
        if origin in (typing.Union, types.UnionType):
            parts = [self.of(part) for part in args if part is not type(None)]
            return {"anyOf": [*parts, {"type": "null"}]}
        if origin is dict:
            return {"type": "object", "additionalProperties": self.of(args[1])}
        if args[-1] is Ellipsis:
            return {"type": "array", "items": self.of(args[0])}
        return _row([self.of(part) for part in args], len(args))

    def _named(self, wanted: type) -> JsonRecord:
        name = wanted.__name__.strip("_")
        if name not in self.made:
            self.made[name] = {}  # so that it may speak of itself
            self.made[name] = self._made(wanted)
        return {"$ref": f"#/$defs/{name}"}

    def _made(self, wanted: type) -> JsonRecord:
        if wanted in CODECS:
            return CODECS[wanted].schema
        if wanted in KINDS:
            return self._kinds(wanted)
        if issubclass(wanted, tuple):
            hints = hints_of(wanted)
            least = len(hints) - len(wanted._field_defaults)  # type: ignore[attr-defined]
            return _described(wanted, _row([self.of(part) for part in hints.values()], least))
        return self.record(wanted)

    def _kinds(self, protocol: type) -> JsonRecord:
        known = KINDS[protocol]
        options = [self.record(cls, kind) for kind, cls in known.items()]
        if protocol in UNKNOWN:
            other = {"properties": {"kind": {"not": {"enum": list(known)}}}}
            options.append({"type": "object", "required": ["kind"], **other})
        return _described(protocol, {"oneOf": options})

    def record(self, cls: TypeForm, kind: str = "", more: JsonRecord | None = None) -> JsonRecord:
        """A dataclass as an object, with its kind in front and further properties behind."""
        hints = hints_of(cls)
        fields = [f for f in dataclasses.fields(cls) if f.init]
        missing = dataclasses.MISSING
        needed = [f.name for f in fields
                  if f.default is missing and f.default_factory is missing]  # fmt: skip
        properties = {"kind": {"const": kind}} if kind else {}
        properties |= {f.name: self.of(hints[f.name]) for f in fields} | (more or {})
        required = (["kind"] if kind else []) + needed
        made = {"type": "object", "properties": properties, "additionalProperties": False}
        return _described(cls, {**made, "required": required} if required else made)


def _described(cls: type, schema: JsonRecord) -> JsonRecord:
    told = inspect.getdoc(cls) or ""
    first = told.split("\n\n", 1)[0].replace("\n", " ")
    return {"description": first, **schema} if first else schema


def _row(parts: list[JsonRecord], least: int) -> JsonRecord:
    return {"type": "array", "prefixItems": parts, "minItems": least, "maxItems": len(parts)}
