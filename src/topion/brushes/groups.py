"""Groups of things and pieces: which numbers they go by.

A group goes by the number of one of its members, which no other group of theirs goes by: numbers of
entries are never given twice, so those of groups are not either.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from topion.model.layer import Entry


def regrouped(entries: Mapping[int, Entry]) -> dict[int, Entry]:
    """New entries by the numbers they get, their groups called by those numbers.

    Groups of the entries so far are only told apart by what they are called.
    """
    deepest: dict[int, int] = {}
    members: dict[int, list[int]] = {}
    for number, entry in entries.items():
        for depth, group in enumerate(entry.groups):
            deepest[group] = max(depth, deepest.get(group, 0))
            members.setdefault(group, []).append(number)
    names: dict[int, int] = {}
    used: set[int] = set()
    for group in sorted(members, key=lambda g: -deepest[g]):  # inner ones have fewer to choose from
        free = (number for number in members[group] if number not in used)
        name = next(free, members[group][0])
        used.add(name)
        names[group] = name
    return {number: replace(entry, groups=tuple(names[g] for g in entry.groups))
            if entry.groups else entry for number, entry in entries.items()}  # fmt: skip


def apart(groups: Sequence[int], copy: int) -> tuple[int, ...]:
    """The groups of a copy, called so that no other copy has them."""
    return tuple((copy << 31) + group for group in groups)


def name_of_group(numbers: Iterable[int], entries: Mapping[int, Entry]) -> int:
    """What a new group round all of these is called."""
    used = {group for number in numbers for group in entries[number].groups}
    return next(number for number in sorted(entries) if number not in used)
