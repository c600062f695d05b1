"""The doors of rooms and where they lead: the world as a graph, a room read once for it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from topion.errors import TopionError
from topion.model.condition import When
from topion.model.derived import Kept
from topion.model.prefab import standing_cell
from topion.model.project import Project
from topion.model.room import Room
from topion.model.walked import role_of, when_of
from topion.roles import Door, Goal, Start


@dataclass(frozen=True)
class DoorAt:
    """A door of a room.  to, door : the room it leads to, and the thing there, 0 for its start."""

    room: str
    layer: str
    number: int
    prefab: str
    cell: tuple[int, ...]
    to: str
    door: int
    ends_world: bool
    when: When


@dataclass(frozen=True)
class Doors:
    """What a room has to do with others.  things : the numbers of all its things.  read : whether
    it could be read; if not, nothing is known of it."""

    doors: tuple[DoorAt, ...]
    starts: int
    goals: int
    things: frozenset[int]
    read: bool = True


_UNREAD = Doors((), 0, 0, frozenset(), read=False)


_KNOWN: Kept[dict[str, tuple[object, Doors]]] = Kept()


def share_doors(project: Project) -> None:
    """Let copies that are taken of the project from now on know what each of them finds."""
    _KNOWN.of(project, None, dict)


def doors_of(project: Project, room_name: str) -> Doors:
    """The doors of a room; looked for anew when the room or a prefab changes."""
    known = _KNOWN.of(project, None, dict)
    stamp = (project.rooms.revision(room_name), project.stamp("prefabs"))
    found = known.get(room_name)
    if found is None or found[0] != stamp:
        try:
            doors = _looked_for(project, project.rooms.passing(room_name))
        except TopionError:  # it is said where that room is opened or surveyed
            doors = _UNREAD
        found = known[room_name] = (stamp, doors)
    return found[1]


def _looked_for(project: Project, room: Room) -> Doors:
    doors, starts, goals, numbers = list[DoorAt](), 0, 0, set[int]()
    with_roles = {prefab.name for prefab in project.prefabs.values() if prefab.role is not None}
    for layer_id, layer in room.bottom_up("things"):
        numbers.update(layer.things)
        for number, thing in layer.things.items():
            if thing.role is None and thing.prefab not in with_roles:
                continue
            role = role_of(project, thing)
            starts += isinstance(role, Start)
            goals += isinstance(role, Goal)
            if isinstance(role, Door):
                cell = standing_cell(thing, room.info.axes)
                doors.append(DoorAt(room.info.name, layer_id, number, thing.prefab, cell,
                                    role.room, role.door, role.ends_world,
                                    when_of(project, thing)))  # fmt: skip
    return Doors(tuple(doors), starts, goals, frozenset(numbers))


def every_door(project: Project) -> Iterator[DoorAt]:
    """Of all rooms, in their order."""
    for name in project.rooms:
        yield from doors_of(project, name).doors


def leads_back(project: Project, door: DoorAt) -> bool:
    """Whether a door of the room it leads to leads to its own room."""
    return any(other.to == door.room for other in doors_of(project, door.to).doors)


def astray(project: Project, door: DoorAt) -> str:
    """What is wrong with where a door leads; empty if nothing is."""
    if not door.to:
        return ""
    if door.to not in project.rooms:
        return f"leads to room {door.to}, which is not there"
    there = doors_of(project, door.to)
    if not there.read:
        return ""
    if door.door and door.door not in there.things:
        return f"leads to thing {door.door} of {door.to}, which is not there"
    if not door.door and not there.starts:
        return f"leads to the start of {door.to}, which has none"
    if not door.ends_world and not leads_back(project, door):
        return f"leads to {door.to}, from where no door leads back"
    return ""
