"""What comes along when curves come, change or go: the things attached to them."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from topion.brushes.marks import Place
from topion.brushes.stamped_entries import with_records
from topion.model.curve import Curve
from topion.model.edit import Record
from topion.model.layer import Entry
from topion.model.prefab import Thing
from topion.model.records import entries_changed, entries_together
from topion.things.along import standing_along
from topion.things.filling import filled
from topion.things.ground import Ground

To = tuple[str, int]  # the id of a layer, and the number of a curve of it
Tables = dict[tuple[str, str], dict[int, Entry]]


@dataclass(frozen=True, eq=False)
class Followed:
    """tables : entries that change, by layer id and table; None for those that go.  refused : how
    many of what fills them a rule refuses.  filled : how many stand along them."""

    tables: Tables
    refused: int = 0
    filled: int = 0

    def records(self, place: Place) -> tuple[Record, ...]:
        """To be written in this order."""
        return entries_together(place.room, self.tables)

    def notes(self) -> tuple[str, ...]:
        """What the ghost says of it."""
        if not self.refused:
            return ()
        return (f"{self.refused} of {self.refused + self.filled} refused along it",)


def followed(
    place: Place,
    curves: Mapping[To, Curve | None],
    before: Sequence[Record] = (),
    without: Collection[To] = (),
) -> Followed:
    """The curves as they come to be, with all that is attached to them where it stands then.

    before : records that are written first.  without : things that are left alone.  What fills a
    curve is put anew and goes with it; other things stay where they are when their curve goes.
    """
    tables: Tables = {}
    olds: dict[To, list[int]] = {to: [] for to in curves}
    own: dict[To, list[Thing]] = {to: [] for to in curves}
    for layer_id, number, thing, to in _attached(place, curves):
        curve = curves[to]
        if thing.along is not None and thing.along.filled:
            olds[to].append(number)
            continue
        if curve is None:
            there = replace(thing, attached=None, along=None)
        else:
            (there,) = standing_along(place.project, place.room, curve, [thing])
            own[to].append(there)
        if (layer_id, number) not in without and there != thing:
            tables.setdefault((layer_id, "things"), {})[number] = there
    return _filled(place, curves, tables, olds, own, before)


def _attached(
    place: Place, curves: Mapping[To, Curve | None]
) -> Iterator[tuple[str, int, Thing, To]]:
    for layer_id, layer in place.room.bottom_up("things"):
        for number, thing in layer.things.items():
            to = thing.attached
            if thing.along is not None and to is not None and to in curves:
                yield layer_id, number, thing, to


def _filled(
    place: Place,
    curves: Mapping[To, Curve | None],
    tables: Tables,
    olds: Mapping[To, list[int]],
    own: Mapping[To, list[Thing]],
    before: Sequence[Record],
) -> Followed:
    room = place.room
    for (layer_id, number), curve in curves.items():
        tables.setdefault((layer_id, "curves"), {})[number] = curve
    gone: list[Record] = list(before)
    for to, old in olds.items():
        gone += entries_changed(room, to[0], "things", dict.fromkeys(old))
    ground: Ground | None = None
    refused, count = 0, 0
    fresh = max((room.next_number() - 1, *(number for _, number in curves))) + 1
    for to, curve in curves.items():
        things: tuple[Thing, ...] = ()
        if curve is not None and curve.fill is not None:
            ground = ground or Ground(*with_records(place, gone))
            made = filled(ground, curve, to, own[to])
            things, refused = made.things, refused + made.refused
            ground = ground.with_things(things) if len(curves) > 1 else ground
        target = tables.setdefault((to[0], "things"), {}) if things or olds[to] else {}
        for n, thing in enumerate(things):
            number = olds[to][n] if n < len(olds[to]) else fresh
            fresh += n >= len(olds[to])
            target[number] = thing
        target.update(dict.fromkeys(olds[to][len(things) :]))
        count += len(things)
    return Followed(tables, refused, count)
