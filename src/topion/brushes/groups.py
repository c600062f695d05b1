"""Groups of things and pieces: which numbers they go by.

A group goes by the number of one of its members, which no other group of theirs goes by: numbers of
entries are never given twice, so those of groups are not either.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from topion.model.curve import Curve
from topion.model.layer import Entry
from topion.model.prefab import Thing

To = tuple[str, int]  # the id of a layer, and the number of a curve of it


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


def loosened(
    curves: Mapping[int, Curve], things: Iterable[Thing], layer_id: str | None = None
) -> tuple[list[Curve], list[Thing]]:
    """Curves by number and things, as they are copied: a thing that belongs to one of the curves
    is attached to nothing by name, and to its place in the row, from 1; others to nothing.

    layer_id : of the curves; None where the things come from the same layer.
    """
    rank = {number: n for n, number in enumerate(curves, 1)}
    made = []
    for thing in things:
        to, along = thing.attached, thing.along
        known = to is not None and along is not None and layer_id in (None, to[0])
        if known and to is not None and to[1] in rank:
            thing = replace(thing, attached=("", rank[to[1]]))
        elif to is not None:
            thing = replace(thing, attached=None, along=None)
        made.append(thing)
    return list(curves.values()), made


def tied(thing: Thing, curves: Sequence[To]) -> Thing:
    """A copied thing, attached to the copy of its curve.  curves : layers and numbers of the
    copies, in the row that `loosened` counted."""
    to = thing.attached
    if to is None or to[0]:
        return thing
    if not 0 < to[1] <= len(curves):
        return replace(thing, attached=None, along=None)
    return replace(thing, attached=curves[to[1] - 1])


def apart(groups: Sequence[int], copy: int) -> tuple[int, ...]:
    """The groups of a copy, called so that no other copy has them."""
    return tuple((copy << 31) + group for group in groups)


def name_of_group(numbers: Iterable[int], entries: Mapping[int, Entry]) -> int:
    """What a new group round all of these is called."""
    used = {group for number in numbers for group in entries[number].groups}
    return next(number for number in sorted(entries) if number not in used)
