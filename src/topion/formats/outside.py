"""What others changed in the folder of an open project, taken in part by part.

A part that only they changed is taken, one that only we changed stays, and what both changed is
named: it is kept as we have it, or taken as they have it, whoever decides.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from topion.edit.rooms import remove_room
from topion.edit.whole import whole_room
from topion.errors import TopionError
from topion.formats.files import Marks, mark_of
from topion.formats.folder import read_project
from topion.formats.store import Key, Step, Store, item_part, room_parts, store_of
from topion.model.edit import Edit, Record
from topion.model.plain import to_plain
from topion.model.project import Project
from topion.model.records import ItemRecord, cells_changed, entries_changed, taken_away
from topion.model.room import Room
from topion.model.shelves import TABLES, Bay, shelves

_NUMBERED = ("materials", "tiles", "block_names")  # places in them stand in cells


@dataclass
class Outside:
    """taken : what only others changed, as an Edit.  theirs : what both changed, as they have it,
    to be laid after that.  both : what that is, in words.  store : the folder as it is now.

    mixes : whether theirs can be laid at all, or the two give other numbers to the same names.
    dropped : rooms that they took away and that we never read: there is nothing left to undo.
    """

    taken: Edit
    theirs: Edit
    both: list[str]
    store: Store
    mixes: bool = True
    dropped: tuple[str, ...] = ()

    def drop(self, project: Project) -> None:
        """Let go of the rooms that are there no longer."""
        for name in self.dropped:
            if name in project.rooms and project.rooms.peek(name) is None:
                del project.rooms[name]


def take_in(project: Project, each: Step | None = None) -> Outside:
    """Compare an open project, which nobody changes meanwhile, with its folder.  Raises BadFile."""
    known = store_of(project)
    if known is None:
        raise TopionError(f"{project.name} has no folder yet")
    theirs = read_project(known.folder, each)
    found = store_of(theirs)
    assert found is not None
    work = _Work(project.scratch(project.rooms.frozen()), theirs, known, found.marks)
    work.tables()
    work.items()
    for name in dict.fromkeys((*project.rooms, *theirs.rooms)):
        work.room(name)
    mixes = not work.hard
    taken = Edit("Take in what was changed elsewhere", tuple(work.taken) if mixes else ())
    later = Edit("Take theirs", tuple(r for change in work.later for r in change))
    both = work.hard + work.both
    return Outside(taken, later if mixes else Edit("Take theirs"), both,
                   Store(known.folder, {}, _marks(known, found.marks)), mixes,
                   tuple(work.dropped) if mixes else ())  # fmt: skip


def _marks(known: Store, read: Marks) -> Marks:
    """Of all files we know of, as they are now."""
    marks = dict(read)
    for name, mark in known.marks.items():
        now = marks.get(name) or mark_of(known.folder, name, mark)
        if now is not None:
            marks[name] = now
    return marks


@dataclass
class _Work:
    """ours : a scratch project, on which what is taken is put at once."""

    ours: Project
    theirs: Project
    known: Store
    marks: Marks
    taken: list[Record] = field(default_factory=list)
    later: list[list[Record]] = field(default_factory=list)
    both: list[str] = field(default_factory=list)
    hard: list[str] = field(default_factory=list)
    dropped: list[str] = field(default_factory=list)

    def _take(self, records: list[Record]) -> None:
        for record in records:
            record.write(self.ours)
        self.taken += records

    def _clash(self, what: str, records: list[Record]) -> None:
        self.both.append(what)
        self.later.append(records)

    # --- the library ----------------------------------------------------------------------

    def tables(self) -> None:
        """Names, materials, tiles, cards."""
        index = self.known.owners["project",]["project",].token
        assert isinstance(index, dict)
        for table in TABLES:
            ours, theirs = getattr(self.ours, table), getattr(self.theirs, table)
            base = index.get(table, [])
            if to_plain(theirs) == base or ours == theirs:
                continue
            if to_plain(ours) == base or (table in _NUMBERED and theirs[: len(ours)] == ours):
                self._take([ItemRecord((table,), ours, theirs)])
            elif table == "former":
                self._take([ItemRecord((table,), ours, tuple(dict.fromkeys((*ours, *theirs))))])
            elif table == "bays":
                self._take([ItemRecord((table,), ours, _joined_bays(ours, theirs))])
            elif table in _NUMBERED and ours[: len(theirs)] != theirs:
                self.hard.append(f"the list of {table.replace('_', ' ')}")
            elif table not in _NUMBERED:
                self._clash(f"the {table} of the project", [ItemRecord((table,), ours, theirs)])

    def items(self) -> None:
        """Items of all shelves."""
        for shelf in shelves():
            ours, theirs = self.ours.shelf(shelf.name), self.theirs.shelf(shelf.name)
            for name in dict.fromkeys((*ours, *theirs, *self._known_items(shelf.name))):
                key = (shelf.name, name)
                a, b = ours.get(name), theirs.get(name)
                if a == b or not self._they_changed(key, b is not None):
                    continue
                record = taken_away(self.ours, key) if b is None else ItemRecord(key, a, b)
                token = None if a is None else item_part(shelf, a).token
                if self._token(key, key) == token:
                    self._take([record])
                else:
                    self._clash(f"{shelf.word} {name}", [record])

    def _known_items(self, shelf: str) -> Iterator[str]:
        return (key[1] for key in self.known.owners if key[0] == shelf)

    def _token(self, owner: Key, key: Key) -> object:
        """The token of a part as we read or wrote it; None if it was not there."""
        part = self.known.owners.get(owner, {}).get(key)
        return None if part is None else part.token

    def _they_changed(self, owner: Key, there: bool, key: Key | None = None) -> bool:
        """Whether files of an owner, or of one part of it, are others than those we know."""
        parts = self.known.owners.get(owner, {})
        chosen = [part for k, part in parts.items() if key is None or k == key]
        if bool(chosen) != there:
            return True
        for name in (name for part in chosen for name in part.names):
            now = mark_of(self.known.folder, name, self.marks.get(name))
            old = self.known.marks.get(name)
            if old is None or now is None or now.digest != old.digest:
                return True
        return False

    # --- rooms ----------------------------------------------------------------------------

    def room(self, name: str) -> None:
        """One room: taken whole, by layers, or named."""
        owner = ("rooms", name)
        ours = self.ours.rooms.peek(name) if name in self.ours.rooms else None
        if name not in self.ours.rooms:
            if owner in self.known.owners and not self._they_changed(owner, True):
                return  # we took it away
            new = list(whole_room(self.theirs.rooms.passing(name)))
            if owner in self.known.owners:
                self._clash(f"room {name}", new)
            else:
                self._take(new)
        elif name not in self.theirs.rooms:
            self._gone_room(name, ours)
        elif ours is not None:
            self._both_have(name, ours)

    def _gone_room(self, name: str, ours: Room | None) -> None:
        """They took a room away, or we made it."""
        if ours is None:
            self.dropped.append(name)
            return
        if ("rooms", name) not in self.known.owners:
            return
        records = list(remove_room(self.ours, name).records)
        if not self._we_changed(name, ours):
            self._take(records)
        else:
            self._clash(f"room {name}", records)

    def _we_changed(self, name: str, ours: Room, key: Key | None = None) -> bool:
        owner = ("rooms", name)
        known = self.known.owners.get(owner, {})
        now = {part.key: part.token for part in room_parts(self.ours, ours)}
        if key is not None:
            return self._token(owner, key) != now.get(key)
        return {k: part.token for k, part in known.items()} != now

    def _both_have(self, name: str, ours: Room) -> None:
        owner = ("rooms", name)
        if not self._they_changed(owner, True) and owner in self.known.owners:
            return
        theirs = self.theirs.rooms.passing(name)
        head_changed = self._they_changed(owner, True, owner)
        if not self._we_changed(name, ours) or head_changed:
            records = [*remove_room(self.ours, name).records, *whole_room(theirs)]
            if self._we_changed(name, ours):
                self._clash(f"room {name}", records)
            else:
                self._take(records)
            return
        for layer_id, layer in theirs.bottom_up():
            key = ("rooms", name, layer_id)
            if layer_id not in ours.layers or not self._they_changed(owner, True, key):
                continue
            records = list(_layer_records(ours, theirs, layer_id))
            if self._we_changed(name, ours, key):
                self._clash(f"layer {layer.info.name} of {name}", records)
            else:
                self._take(records)


def _layer_records(ours: Room, theirs: Room, layer_id: str) -> Iterator[Record]:
    """What makes a layer of ours hold what theirs does."""
    a, b = ours.layers[layer_id], theirs.layers[layer_id]
    for plane in a.info.traits.planes:
        before, after = a.plane(plane).reshape(-1), b.plane(plane).reshape(-1)
        flat = np.flatnonzero(before != after)
        yield from cells_changed(ours.info.name, layer_id, a.shape(plane), flat,
                                 {plane: before[flat]}, {plane: after[flat]})  # fmt: skip
    for table in a.info.traits.tables:
        gone = {number: None for number in a.table(table) if number not in b.table(table)}
        yield from entries_changed(ours, layer_id, table, {**b.table(table), **gone})


def _joined_bays(ours: tuple[Bay, ...], theirs: tuple[Bay, ...]) -> tuple[Bay, ...]:
    """Our rack with the cards that only they have."""
    known = {card for bay in ours for card in bay.brushes}
    fresh = {bay.name: tuple(c for c in bay.brushes if c not in known) for bay in theirs}
    joined = [Bay(bay.name, (*bay.brushes, *fresh.pop(bay.name, ()))) for bay in ours]
    return (*joined, *(Bay(name, cards) for name, cards in fresh.items()))
