"""The way through the world: from its start to its end, and past everything that can be taken."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from topion.model.derived import Kept
from topion.model.project import Project
from topion.walk.found import Entered, Entry, Found, begin_in, found_in, rooms_reached
from topion.walk.links import begins_at, doors_of
from topion.walk.reach import reach_from
from topion.walk.scale import TICKS
from topion.walk.state import Key
from topion.walk.world import World, figure_of

Hear = Callable[[str], None]


@dataclass(frozen=True)
class Leg:
    """A part of a way: through a room, from where it is entered to a door or a goal.

    ticks : how long the way takes that was found; None where none was found from that entry.
    """

    room: str
    entry: Entry
    to: Key
    ticks: int | None


@dataclass(frozen=True)
class Ways:
    """start : the room in which the world starts.  ends : what ends it, in words.

    shortest : through the fewest rooms; empty where no way to an end is found.
    rooms : how many a way past all pickups leads through.  left : pickups without a way.
    """

    start: str = ""
    ends: str = ""
    shortest: tuple[Leg, ...] = ()
    rooms: int = 0
    pickups: int = 0
    left: int = 0

    @property
    def seconds(self) -> float | None:
        """How long the shortest way takes; None where a part of it is not known."""
        ticks = [leg.ticks for leg in self.shortest]
        if not ticks or None in ticks:
            return None
        return sum(t for t in ticks if t is not None) / TICKS


@dataclass(frozen=True)
class _Exit:
    """A door of a room to another one, or what ends the world (then to is empty)."""

    key: Key
    to: str
    entry: Entry
    name: str


def ways_through(project: Project, hear: Hear) -> Ways:
    """Looks for them; `hear` may raise to stop it.  What was found in rooms before is used."""
    start = begins_at(project)
    if not start:
        return Ways()
    reached = rooms_reached(project, hear)
    known = {room: _found(project, room, entered, hear) for room, entered in reached.items()}
    exits = {room: list(_exits(project, room, found)) for room, found in known.items()}
    way = _fewest_rooms(exits, start)
    legs, entry = [], 0
    for room, out in way:
        hear(room)
        legs.append(Leg(room, entry, out.key, _ticks(project, room, entry, out.key, hear)))
        entry = out.entry
    taken = {room: sum(_met(found)) for room, found in known.items()}
    pickups = sum(len(_met(found)) for found in known.values())
    wanted = {room for room, count in taken.items() if count}
    return Ways(start, way[-1][1].name if way else "", tuple(legs),
                len(_past_all(exits, start, wanted)), pickups,
                pickups - sum(taken.values()))  # fmt: skip


def _found(project: Project, room: str, entered: Entered, hear: Hear) -> Found:
    return found_in(project, room, entered.entries, hear)


def _met(found: Found) -> list[bool]:
    """Of each pickup, whether a way to it was found."""
    return [found.gets_to(place.key) for place in found.places if place.kind == "pickup"]


def _exits(project: Project, room: str, found: Found) -> Iterator[_Exit]:
    known = doors_of(project, room)
    for door in known.doors:
        if not found.gets_to(door.key):
            continue
        if door.ends_world:
            yield _Exit(door.key, "", 0, f"{door.prefab} of {room}")
        elif door.to in project.rooms and door.to != room:
            yield _Exit(door.key, door.to, door.door, "")
    for goal in known.goals:
        if goal.world and found.gets_to((goal.layer, goal.number)):
            yield _Exit((goal.layer, goal.number), "", 0, f"{goal.prefab} of {room}")


def _fewest_rooms(exits: dict[str, list[_Exit]], start: str) -> list[tuple[str, _Exit]]:
    """A way to an end by breadth-first search (Moore, 1959); empty where there is none."""
    came: dict[str, tuple[str, _Exit] | None] = {start: None}
    line = [start]
    for room in line:  # grows meanwhile
        end = next((out for out in exits.get(room, ()) if not out.to), None)
        if end is not None:
            way = [(room, end)]
            while (before := came[way[0][0]]) is not None:
                way.insert(0, before)
            return way
        for out in exits.get(room, ()):
            if out.to not in came:
                came[out.to] = (room, out)
                line.append(out.to)
    return []


def _past_all(exits: dict[str, list[_Exit]], start: str, wanted: set[str]) -> set[str]:
    """The rooms of a way past all that are wanted and to an end: always on to the nearest."""
    seen, at = {start}, start
    while wanted - seen:
        way = _nearest(exits, at, wanted - seen)
        if not way:
            break
        seen |= set(way)
        at = way[-1]
    ends = {room for room, outs in exits.items() if any(not out.to for out in outs)}
    if ends and not ends & seen:
        seen |= set(_nearest(exits, at, ends))
    return seen


def _nearest(exits: dict[str, list[_Exit]], start: str, wanted: set[str]) -> list[str]:
    """The rooms on the way to the nearest of some, itself the last."""
    came: dict[str, str] = {start: ""}
    line = [start]
    for room in line:  # grows meanwhile
        if room in wanted and room != start:
            way = [room]
            while came[way[0]] and came[way[0]] != start:
                way.insert(0, came[way[0]])
            return way
        for out in exits.get(room, ()):
            if out.to and out.to not in came:
                came[out.to] = room
                line.append(out.to)
    return []


_LASTS: Kept[dict[tuple[object, ...], int | None]] = Kept()


def share_ways(project: Project) -> None:
    """Let copies that are taken of the project from now on know what each of them finds."""
    _LASTS.of(project, None, dict)


def _ticks(project: Project, room: str, entry: Entry, to: Key, hear: Hear) -> int | None:
    """How long the found way through a room takes."""
    known = _LASTS.of(project, None, dict)
    stamp = (room, entry, to, project.rooms.revision(room), figure_of(project),
             project.stamp("prefabs", "tilesets", "blocks"))  # fmt: skip
    if stamp not in known:
        begun = begin_in(World(project), room, entry)
        keys = reach_from(begun, None, hear, sought=to).witness(to)
        known[stamp] = None if keys is None else len(keys)
    return known[stamp]
