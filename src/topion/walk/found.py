"""What the figure of a project gets to in each room, wherever it comes in; and so which rooms."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from topion.errors import TopionError
from topion.model.derived import Kept
from topion.model.project import Project
from topion.walk.entering import coming_out
from topion.walk.gaps import told
from topion.walk.links import DoorAt, begins_at, doors_by_room, doors_of
from topion.walk.reach import Counted, reach_from
from topion.walk.state import Key, State
from topion.walk.strides import Strides
from topion.walk.world import World, figure_of

Hear = Callable[[str], None]
Entry = int  # the number of the door that it comes out of, 0 for where the room starts


@dataclass(frozen=True)
class Found:
    """What one room holds.  places : all that counts.  missed : those to which no way was found
    from any entry, with what is lacking in words.  begun : whether the figure can come in at all.
    """

    places: tuple[Counted, ...] = ()
    missed: tuple[tuple[Counted, str], ...] = ()
    begun: bool = False

    def gets_to(self, key: Key) -> bool:
        """Whether a way to a place was found."""
        return self.begun and all(place.key != key for place, _ in self.missed)


_FOUND: Kept[dict[tuple[str, tuple[Entry, ...]], tuple[object, Found]]] = Kept()
_STRIDES: Kept[dict[object, Strides]] = Kept()


def share_found(project: Project) -> None:
    """Let copies that are taken of the project from now on know what each of them finds."""
    _FOUND.of(project, None, dict)
    _STRIDES.of(project, None, dict)


def entries_of(project: Project) -> dict[str, tuple[Entry, ...]]:
    """By room, where the figure comes in: at its start, and out of doors that others lead to."""
    found: dict[str, set[Entry]] = {}
    every = doors_by_room(project)
    for name, known in every.items():
        if known.starts:
            found.setdefault(name, set()).add(0)
    for door in (door for known in every.values() for door in known.doors):
        if door.to in every and not door.ends_world:
            known = every[door.to]
            if door.door in known.things or (door.door == 0 and known.starts):
                found.setdefault(door.to, set()).add(door.door)
    return {name: tuple(sorted(entries)) for name, entries in found.items()}


def found_in(project: Project, room: str, entries: tuple[Entry, ...], hear: Hear | None = None
             ) -> Found:  # fmt: skip
    """What is found in a room; searched anew when it, its entries or the library change."""
    known = _FOUND.of(project, None, dict)
    figure = figure_of(project)
    stamp = (project.rooms.revision(room), figure,
             project.stamp("prefabs", "tilesets", "blocks"))  # fmt: skip
    kept = known.get((room, entries))
    if kept is None or kept[0] != stamp:
        kept = known[room, entries] = (stamp, _search(project, room, entries, hear))
    return kept[1]


def _search(project: Project, room: str, entries: tuple[Entry, ...], hear: Hear | None) -> Found:
    world = World(project)
    try:
        stage = world.stage(room)
    except TopionError:  # it is said where that room is opened or surveyed
        return Found()
    places: tuple[Counted, ...] = ()
    best: dict[Key, str] = {}
    idle = _STRIDES.of(project, None, dict)
    key = (world.figure, stage.view)
    strides = idle.pop(key, None) or Strides(world, stage.view)  # one search at a time has them
    for number, entry in enumerate(entries):
        reach = reach_from(begin_in(world, room, entry), strides, hear, until_met=True)
        places = reach.places
        missed = {place.key: told(reach, place) for place in reach.missed}
        best = missed if not number else {k: words for k, words in best.items() if k in missed}
        if not best:
            break
    idle[key] = strides
    lacking = tuple((place, best[place.key]) for place in places if place.key in best)
    return Found(places, lacking, bool(entries))


def begin_in(world: World, room: str, entry: Entry) -> State:
    """The state in which the figure comes in."""
    state = world.begin(room)
    stage = world.stage(room)
    there = stage.actor_numbered(entry) if entry else None
    if there is None:
        return state
    x, y, z = coming_out(world, stage, there.home)
    return state._replace(x=x, y=y, z=z, inside=there.key,
                          safe=(room, x, y, z, state.over))  # fmt: skip


@dataclass(frozen=True)
class Entered:
    """How a room is come to.  door : the first one that leads there; None where the world starts.
    entries : all by which it is come in."""

    door: DoorAt | None
    entries: tuple[Entry, ...]


def rooms_reached(project: Project, hear: Hear | None = None) -> dict[str, Entered]:
    """The rooms that are come to from where the world starts; empty where nothing starts."""
    first = begins_at(project)
    if not first:
        return {}
    found: dict[str, DoorAt | None] = {first: None}
    line = [first]
    inside: dict[str, set[Entry]] = {first: {0}}
    for name in line:  # grows meanwhile
        here = found_in(project, name, tuple(sorted(inside[name])), hear)
        for door in doors_of(project, name).doors:
            if door.to not in project.rooms or not here.gets_to(door.key):
                continue
            entries = inside.setdefault(door.to, set())
            if door.door not in entries:
                entries.add(door.door)
                line.append(door.to)  # again, where it comes in elsewhere
            found.setdefault(door.to, door)
    return {room: Entered(door, tuple(sorted(inside[room]))) for room, door in found.items()}
