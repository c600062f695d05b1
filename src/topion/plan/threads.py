"""Threads: which door of a placed room leads to which other one, and what it waits for."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from topion.conditions import Cleared, Taken
from topion.model.condition import Condition, When
from topion.plan.sheet import Point, Spot
from topion.walk.links import DoorAt, Doors

PORT = tuple[str, str, int]  # a place, a layer, and the number of a door there


@dataclass(frozen=True)
class Port:
    """A door of a placed room.  point : of its middle on the sheet."""

    spot: Spot
    door: DoorAt
    point: Point

    @property
    def key(self) -> PORT:
        """By which it is known."""
        return self.spot.name, self.door.layer, self.door.number


@dataclass(frozen=True)
class Thread:
    """A door leads to another one, or to where a room starts.

    there : the door it leads to; None for the start of `end`.  both : that leads back here.
    words : what it waits for; empty for nothing.
    """

    here: Port
    there: Port | None
    end: Spot
    point: Point
    both: bool
    words: str


def ports(spots: Mapping[str, Spot], known: Mapping[str, Doors]) -> dict[PORT, Port]:
    """All doors of all placed rooms, by key."""
    found = {}
    for spot in spots.values():
        doors = known.get(spot.room)
        for door in doors.doors if doors is not None else ():
            port = Port(spot, door, spot.point_of(door.cell))
            found[port.key] = port
    return found


def threads(
    spots: Mapping[str, Spot], known: Mapping[str, Doors],
    all_ports: Mapping[PORT, Port] | None = None,
) -> list[Thread]:  # fmt: skip
    """One for each door that leads to a placed room; for two that lead to each other, one for
    both.  all_ports : what `ports` gives, where it is there already.

    A door of a room that is placed more than once has its thread where others lead to it, else at
    the first place of its room.
    """
    first: dict[str, Spot] = {}
    for spot in spots.values():
        first.setdefault(spot.room, spot)
    all_ports = ports(spots, known) if all_ports is None else all_ports
    homes: dict[tuple[str, int], str] = {}
    every = [door for doors in known.values() for door in doors.doors]
    for door in every:
        named = spots.get(door.place)
        if named is not None and named.room == door.to and door.door:
            homes[door.to, door.door] = named.name
    made: dict[PORT, Thread] = {}
    for door in every:
        if door.room not in first or not (door.place in spots or door.to in first):
            continue
        home = homes.get((door.room, door.number), first[door.room].name)
        end = target_of(door, spots, first)
        if end is not None:
            if (end.name, door.door) == (home, door.number):
                home = first[door.room].name  # it leads to itself, at another place
            here = all_ports[home, door.layer, door.number]
            made[here.key] = _thread(here, end, all_ports, known)
    return list(_paired(made))


def target_of(door: DoorAt, spots: Mapping[str, Spot], first: Mapping[str, Spot]) -> Spot | None:
    """The place that a door leads to: the one it names, else the first of its room."""
    named = spots.get(door.place)
    return named if named is not None and named.room == door.to else first.get(door.to)


def _thread(
    here: Port, end: Spot, all_ports: Mapping[PORT, Port], known: Mapping[str, Doors]
) -> Thread:
    doors = known.get(end.room, Doors())
    there = next((all_ports[end.name, *door.key] for door in doors.doors
                  if door.number == here.door.door), None)  # fmt: skip
    if there is not None:
        point = there.point
    elif doors.starts:
        point = end.point_of(doors.starts[0])
    else:
        point = end.rect.middle
    return Thread(here, there, end, point, False, waits_for(here.door))


def _paired(made: Mapping[PORT, Thread]) -> Iterator[Thread]:
    told = set[PORT]()
    for key, thread in made.items():
        back = made.get(thread.there.key) if thread.there is not None else None
        if key in told:
            continue
        if back is None or back.there is None or back.there.key != key or key == back.here.key:
            yield thread
            continue
        told.add(back.here.key)
        words = thread.words or back.words
        yield Thread(thread.here, thread.there, thread.end, thread.point, True, words)


def waits_for(door: DoorAt) -> str:
    """What a door waits for, in words: `opens when Sluice Yard is cleared`; empty for nothing."""
    return when_told(door.when, door.room)


def when_told(when: When, room: str) -> str:
    """The same for any condition of a thing in a room."""
    if not when.all_of:
        return ""
    parts = [_told(condition, room) for condition in when.all_of]
    if all(isinstance(condition, Taken) for condition in when.all_of):
        return f"{when.effect} with {' and '.join(parts)}"
    return f"{when.effect} when {' and '.join(parts)}"


def _told(condition: Condition, room: str) -> str:
    if isinstance(condition, Cleared):
        return f"{room} is cleared"
    if isinstance(condition, Taken):
        return f"{condition.count} {condition.of}"
    return condition.sentence()
