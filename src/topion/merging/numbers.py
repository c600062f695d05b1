"""Other numbers for entries, in all that speaks of them by number."""

from __future__ import annotations

from collections.abc import Mapping

from topion.model.plain import Json, JsonRecord


def renumbered(
    entry: JsonRecord, numbers: Mapping[int, int], properties: frozenset[str] = frozenset()
) -> JsonRecord:
    """An entry of a room, as JSON, with other numbers for it and for those it speaks of.

    properties : names of those of things that hold the number of a thing.
    """
    made = dict(entry)
    for key in ("id", "held"):
        if made.get(key) in numbers:
            made[key] = numbers[made[key]]
    if made.get("groups"):
        made["groups"] = [numbers.get(group, group) for group in made["groups"]]
    attached = made.get("attached")
    if isinstance(attached, list) and len(attached) == 2:
        made["attached"] = [attached[0], numbers.get(attached[1], attached[1])]
    if isinstance(made.get("when"), dict):
        made["when"] = _when(made["when"], numbers)
    own = made.get("properties")
    if isinstance(own, dict) and properties:
        made["properties"] = {k: _text(v, numbers) if k in properties else v
                              for k, v in own.items()}  # fmt: skip
    return made


def _when(when: JsonRecord, numbers: Mapping[int, int]) -> JsonRecord:
    """Conditions speak of things of their own room."""
    every = when.get("all_of")
    if not isinstance(every, list):
        return when
    made: list[Json] = []
    for one in every:
        known = isinstance(one, dict) and one.get("thing") in numbers
        made.append({**one, "thing": numbers[one["thing"]]} if known else one)
    return {**when, "all_of": made}


def _text(value: Json, numbers: Mapping[int, int]) -> Json:
    known = isinstance(value, str) and value.isdecimal() and int(value) in numbers
    return str(numbers[int(value)]) if known else value


def led_elsewhere(role: Json, room: str, numbers: Mapping[int, int]) -> Json:
    """A role as JSON; a door that leads to a thing of that room leads to it by its new number."""
    if not isinstance(role, dict) or role.get("room") != room or role.get("door") not in numbers:
        return role
    return {**role, "door": numbers[role["door"]]}
