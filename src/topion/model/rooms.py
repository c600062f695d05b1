"""The rooms of a project: read when somebody first asks for one."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, MutableMapping
from dataclasses import replace
from typing import Protocol

from topion.model.derived import fresh_stamp
from topion.model.room import Room, RoomInfo


class RoomSource(Protocol):
    """Where rooms that were not asked for yet are."""

    def read(self, name: str, *, keep: bool = True) -> Room:
        """The whole room.  Raises BadFile if it is not sound.  keep : it is in use from now."""

    def info(self, name: str) -> RoomInfo:
        """What is known of it beside its layers, which are not read.  Raises BadFile."""


class Rooms(MutableMapping[str, Room]):
    """Rooms by name, in order.  A room of the source is read at its first use and then kept."""

    def __init__(
        self,
        rooms: Iterable[tuple[str, Room]] = (),
        unread: Iterable[str] = (),
        source: RoomSource | None = None,
    ) -> None:
        self._rooms: dict[str, Room | None] = {**dict.fromkeys(unread), **dict(rooms)}
        self._stamps = {name: fresh_stamp() for name, room in self._rooms.items() if room is None}
        self.source = source

    def __getitem__(self, name: str) -> Room:
        room = self._rooms[name]
        if room is None:
            room = self._rooms[name] = self._read(name, keep=True)
        return room

    def _read(self, name: str, *, keep: bool) -> Room:
        assert self.source is not None
        room = self.source.read(name, keep=keep)
        room.stands_for(self._stamps[name])
        return room

    def __setitem__(self, name: str, room: Room) -> None:
        self._rooms[name] = room
        self._stamps.pop(name, None)

    def __delitem__(self, name: str) -> None:
        del self._rooms[name]
        self._stamps.pop(name, None)

    def __iter__(self) -> Iterator[str]:
        return iter(self._rooms)

    def __len__(self) -> int:
        return len(self._rooms)

    def __contains__(self, name: object) -> bool:
        return name in self._rooms

    def peek(self, name: str) -> Room | None:
        """The room, if it was read; raises KeyError for none of that name."""
        return self._rooms[name]

    def passing(self, name: str) -> Room:
        """The room, to be looked at once: it is not kept for that."""
        room = self._rooms[name]
        return self._read(name, keep=False) if room is None else room

    def info(self, name: str) -> RoomInfo:
        """What is known of a room beside its layers, without reading those.  Raises BadFile."""
        room = self._rooms[name]
        if room is not None:
            return room.info
        assert self.source is not None
        return self.source.info(name)

    def each(self) -> Iterator[Room]:
        """All rooms, one after the other; those not in use are not kept."""
        return (self.passing(name) for name in list(self._rooms))

    def read_ones(self) -> Iterator[Room]:
        """Those that were read."""
        return (room for room in list(self._rooms.values()) if room is not None)

    def revision(self, name: str) -> int:
        """The stamp of a room's contents, without reading it; raises KeyError."""
        room = self._rooms[name]
        return self._stamps[name] if room is None else room.revision

    def copy(self) -> Rooms:
        """The same rooms: a mapping of its own."""
        made = Rooms(source=self.source)
        made._rooms, made._stamps = dict(self._rooms), dict(self._stamps)
        return made

    def frozen(self) -> Rooms:
        """The rooms as they are now, whatever becomes of these."""
        made = self.copy()
        for name, room in made._rooms.items():
            if room is not None:
                made._rooms[name] = room.frozen()
        return made

    def rename(self, old: str, new: str) -> None:
        """Call a room otherwise, in its place; it is in use then."""
        room = self[old]
        room.info = replace(room.info, name=new)
        room.changed()
        self._rooms = {new if name == old else name: known for name, known in self._rooms.items()}
        self._stamps.pop(old, None)

    def reordered(self, names: Iterable[str]) -> None:
        """Put the rooms in another order; `names` are all of them."""
        self._rooms = {name: self._rooms[name] for name in names}
