"""JSON text with a stable layout: one change makes a small diff."""

from __future__ import annotations

import json
import re
from typing import Any

from topion.errors import BadFile
from topion.model.plain import BadPlain, Json, TypeForm, from_plain

_LONGEST_LINE = 96
MOST_JSON = 1 << 25  # bytes of one file of JSON
_TOKEN = re.compile(r'"(?:[^"\\]|\\.)*"|[{}\[\],:]|[^\s{}\[\],:"]+')


def json_text(value: Json) -> str:
    """Records one key a line, lists one item a line unless they are short."""
    return _laid_out(value, "") + "\n"


def _laid_out(value: Json, indent: str) -> str:
    short = json.dumps(value, ensure_ascii=False)
    if not isinstance(value, dict | list) or not value:
        return short
    flat = not any(isinstance(item, dict) for item in (value if isinstance(value, list) else [{}]))
    if flat and len(short) + len(indent) <= _LONGEST_LINE and not _nested_twice(value):
        return short
    deeper = indent + " "
    if isinstance(value, dict):
        lines = [
            f"{deeper}{json.dumps(key, ensure_ascii=False)}: {_laid_out(item, deeper)}"
            for key, item in value.items()
        ]
        return "{\n" + ",\n".join(lines) + f"\n{indent}}}"
    return "[\n" + ",\n".join(deeper + _laid_out(item, deeper) for item in value) + f"\n{indent}]"


def _nested_twice(value: Json) -> bool:
    return any(isinstance(item, list) and any(isinstance(i, list) for i in item) for item in value)


def json_lines(values: list[Json]) -> str:
    """A JSON list with each item on a line of its own."""
    if not values:
        return "[]\n"
    return "[\n" + ",\n".join(json.dumps(v, ensure_ascii=False) for v in values) + "\n]\n"


def parse_json(data: bytes, file: object) -> Json:
    """Raises BadFile with the line for text that is not UTF-8 or not JSON."""
    try:
        return json.loads(data.decode("utf-8"), parse_constant=_no_constant)
    except UnicodeDecodeError as problem:
        line = data[: problem.start].count(b"\n") + 1
        raise BadFile(file, "is not UTF-8 text", f"line {line}") from None
    except json.JSONDecodeError as problem:
        raise BadFile(file, f"is not sound JSON: {problem.msg}", f"line {problem.lineno}") from None
    except (ValueError, RecursionError) as problem:
        raise BadFile(file, f"is not sound JSON: {problem}") from None


def _no_constant(name: str) -> Json:
    raise ValueError(f"{name} is not a number")


def read_record(wanted: TypeForm, data: bytes, file: object) -> Any:
    """Bytes to a value of the type `wanted`; BadFile names the line and the place."""
    return read_value(wanted, parse_json(data, file), data, file)


def read_value(
    wanted: TypeForm, value: Json, data: bytes, file: object, path: tuple[str | int, ...] = ()
) -> Any:
    """A plain value as the type `wanted`; it stood at `path` in the text `data` of a file."""
    try:
        return from_plain(wanted, value, path)
    except BadPlain as problem:
        raise misplaced(problem, data, file) from None


def misplaced(problem: BadPlain, data: bytes, file: object) -> BadFile:
    """A BadPlain as a BadFile that names the line where its place stands in the text."""
    line = line_of(data.decode("utf-8"), problem.path)
    return BadFile(file, str(problem), f"line {line}")


def line_of(text: str, path: tuple[str | int, ...]) -> int:
    """The line, from 1, on which the value at `path` starts, or that of what holds it."""
    tokens = list(_TOKEN.finditer(text))
    at, found = 0, 0
    for step in path:
        following = _child(tokens, at, step)
        if following is None:
            break
        at = found = following
    return text.count("\n", 0, tokens[found].start()) + 1 if tokens else 1


def _child(tokens: list[re.Match[str]], at: int, step: str | int) -> int | None:
    """The token at which the child `step` of the value at token `at` starts."""
    opening = tokens[at].group()
    if opening not in "{[" or (opening == "{") != isinstance(step, str):
        return None
    index, at = 0, at + 1
    while at < len(tokens) and tokens[at].group() not in "}]":
        if opening == "{":
            if json.loads(tokens[at].group()) == step:
                return at + 2
            at += 2
        elif index == step:
            return at
        at = _behind(tokens, at)
        index += 1
        if at < len(tokens) and tokens[at].group() == ",":
            at += 1
    return None


def _behind(tokens: list[re.Match[str]], at: int) -> int:
    depth = 0
    while at < len(tokens):
        sign = tokens[at].group()
        depth += (sign in "{[") - (sign in "}]")
        at += 1
        if depth == 0:
            break
    return at
