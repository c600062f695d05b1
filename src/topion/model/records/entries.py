"""Entries of a numbered table of one layer: things, and whatever else has a number."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, ClassVar

import numpy as np

from topion.grid.boxes import Box
from topion.model.edit import Dirty, DoesNotFit, EntryChange
from topion.model.layer import KINDS_OF_LAYERS, Entry
from topion.model.plain import BadPlain, JsonRecord, from_plain, to_plain
from topion.model.project import Project
from topion.model.room import Room

_CELLS_EACH = 8  # an entry takes as long to write as so many cells
MOST_NUMBERS = (1 << 31) - 1
_LAID_OVER = {kind.laid_over for kind in KINDS_OF_LAYERS.values()}
_TYPES = {name: kind for k in KINDS_OF_LAYERS.values() for name, kind in k.tables.items()}


@dataclass(frozen=True)
class EntriesRecord:
    """Entries before and after, by number; a number that is missing is not there.

    raised : by how much it raises the highest number given in the room.
    """

    kind: ClassVar[str] = "entries"
    ordered: ClassVar[bool] = False
    room: str
    layer: str
    table: str
    before: dict[int, Any]
    after: dict[int, Any]
    raised: int = 0

    @property
    def target(self) -> tuple[str, ...]:
        return ("entries", self.room, self.layer, self.table)

    @property
    def cells_written(self) -> int:
        return _CELLS_EACH * (len(self.before) + len(self.after))

    def write(self, project: Project) -> None:
        room = project.rooms[self.room]
        room.layers[self.layer].write_entries(self.table, self.before, self.after)
        room.give_numbers(room.numbers + self.raised)

    def check(self, project: Project) -> None:
        room = project.room(self.room)
        layer = room.layer(self.layer)
        if self.table not in layer.info.traits.tables:
            raise DoesNotFit(f"layer {layer.info.name} holds no {self.table}")
        table = layer.table(self.table)
        if any(table.get(number) != entry for number, entry in self.before.items()):
            raise DoesNotFit(f"{self.table} of layer {layer.info.name} are not as they were")
        new = self.after.keys() - self.before.keys()
        axes = room.info.axes
        if any(getattr(entry, "axes", axes) != axes for entry in self.after.values()):
            raise DoesNotFit(f"{self.table} of layer {layer.info.name} are of another kind of room")
        highest = room.numbers + self.raised
        if not new.isdisjoint(_numbers_of(room)):
            raise DoesNotFit(f"{self.table} of layer {layer.info.name} are there already")
        if highest < 0 or not all(0 < number <= highest <= MOST_NUMBERS for number in self.after):
            raise DoesNotFit(f"{self.table} of layer {layer.info.name} have no such numbers")

    def onto(self, project: Project) -> EntriesRecord | None:
        if self.room not in project.rooms:
            return None
        room = project.rooms[self.room]
        if self.layer not in room.layers:
            return None
        if self.table not in room.layers[self.layer].info.traits.tables:
            return None
        wanted = {n: self.after.get(n) for n in (*self.before, *self.after)}
        known = _numbers_of(room)
        fresh = sorted(n for n in wanted if n not in self.before)
        taken = any(n in known for n in fresh)
        moved = {n: room.next_number() + k for k, n in enumerate(fresh)} if taken else {}
        found = entries_changed(
            room, self.layer, self.table, {moved.get(n, n): entry for n, entry in wanted.items()}
        )
        return found[0] if found else None

    def inverted(self) -> EntriesRecord:
        return replace(self, before=self.after, after=self.before, raised=-self.raised)

    @cached_property
    def _box(self) -> Box:
        """Round all of them."""
        touched = [entry.touched for entry in (*self.before.values(), *self.after.values())]
        if not touched:
            return Box((0, 0), (0, 0))
        los, his = ([box.lo for box in touched], [box.hi for box in touched])
        return Box(tuple(np.min(los, axis=0).tolist()), tuple(np.max(his, axis=0).tolist()))

    def dirty(self) -> Dirty:
        return Dirty(self.room, self.layer, self._box, cells=self.table in _LAID_OVER)

    def entries(self) -> Iterator[EntryChange]:
        for number in self.before.keys() | self.after.keys():
            before, after = self.before.get(number), self.after.get(number)
            yield EntryChange(self.room, self.layer, self.table, number, before, after)

    def sealed(self) -> EntriesRecord:
        return self

    def unpacked(self) -> EntriesRecord:
        self.dirty()  # known from now on
        return self

    def folded(self, later: EntriesRecord) -> tuple[EntriesRecord, ...]:
        before = {**later.before, **self.before}
        for number in self.after.keys() - self.before.keys():
            before.pop(number, None)
        after = {**self.after, **later.after}
        for number in later.before.keys() - later.after.keys():
            after.pop(number, None)
        raised = self.raised + later.raised
        same = [n for n in before if n in after and before[n] == after[n]]
        for number in same:
            del before[number], after[number]
        if not before and not after and not raised:
            return ()
        return (replace(self, before=before, after=after, raised=raised),)

    def plain(self) -> JsonRecord:
        return {"record": self.kind, **to_plain(self)}

    @classmethod
    def from_plain(cls, plain: JsonRecord) -> EntriesRecord:
        table = str(plain["table"])
        if table not in _TYPES:
            raise BadPlain(("table",), f"{table!r} is not known")
        wanted: Any = dict[int, _TYPES[table]]  # type: ignore[valid-type]
        before, after = (
            from_plain(wanted, plain[side], ("records", side)) for side in ("before", "after")
        )
        raised = from_plain(int, plain.get("raised", 0), ("raised",))
        return cls(str(plain["room"]), str(plain["layer"]), table, before, after, raised)


def _numbers_of(room: Room) -> set[int]:
    """The numbers of all entries of all kinds: none is given twice in a room."""
    tables = (table for layer in room.layers.values() for table in layer.tables.values())
    return {number for table in tables for number in table}


def entries_changed(
    room: Room, layer_id: str, table: str, after: Mapping[int, Entry]
) -> tuple[EntriesRecord, ...]:
    """A record of the entries that really change, or none.

    after : by number, what shall be there; None takes the entry away.  New ones have numbers
    from `room.next_number()` on.
    """
    known = room.layers[layer_id].table(table)
    fresh = {n: entry for n, entry in after.items() if known.get(n) != entry}
    before = {n: known[n] for n in fresh if n in known}
    kept = {n: entry for n, entry in fresh.items() if entry is not None}
    if not before and not kept:
        return ()
    highest = max((room.numbers, *kept))
    raised = highest - room.numbers
    return (EntriesRecord(room.info.name, layer_id, table, before, kept, raised),)


def entries_together(
    room: Room, after: Mapping[tuple[str, str], Mapping[int, Entry]]
) -> tuple[EntriesRecord, ...]:
    """Records of several tables, by layer id and table, to be written in this order."""
    found, highest = [], room.numbers
    for (layer_id, table), entries in after.items():
        for record in entries_changed(room, layer_id, table, entries):
            last = max((highest, *record.after))
            found.append(replace(record, raised=last - highest))
            highest = last
    return tuple(found)
