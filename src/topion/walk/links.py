"""The doors of rooms and where they lead: the world as a graph, a room read once for it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from topion.errors import TopionError
from topion.model.condition import When
from topion.model.derived import Kept
from topion.model.prefab import standing_cell
from topion.model.project import Project
from topion.model.room import Room, RoomInfo
from topion.model.walked import role_of, when_of
from topion.roles import Door, Goal, Start

Cell = tuple[int, ...]


@dataclass(frozen=True)
class DoorAt:
    """A door of a room.  to, door : the room it leads to, and the thing there, 0 for its start."""

    room: str
    layer: str
    number: int
    prefab: str
    cell: Cell
    to: str
    door: int
    ends_world: bool
    when: When
    place: str = ""

    @property
    def key(self) -> tuple[str, int]:
        """Its layer and number, by which a walk knows it."""
        return self.layer, self.number


class GoalAt(NamedTuple):
    """A goal of a room.  world : it ends the world, not only the room."""

    layer: str
    number: int
    prefab: str
    cell: Cell
    world: bool


@dataclass(frozen=True)
class Doors:
    """What a room has to do with others.

    starts : the cells of its starts.  things : the numbers of all its things.  info : what is
    known of the room; None where it could not be read, then nothing is known of it.
    tints : the names of its tint maps.  holds : of its prefabs and materials.
    """

    doors: tuple[DoorAt, ...] = ()
    starts: tuple[Cell, ...] = ()
    goals: tuple[GoalAt, ...] = ()
    things: frozenset[int] = frozenset()
    info: RoomInfo | None = None
    tints: tuple[str, ...] = ()
    holds: frozenset[str] = frozenset()

    @property
    def read(self) -> bool:
        """Whether the room could be read."""
        return self.info is not None


_UNREAD = Doors()


_Known = dict[str, tuple[object, Doors]]
_KNOWN: Kept[_Known] = Kept()


def share_doors(project: Project) -> None:
    """Let copies that are taken of the project from now on know what each of them finds."""
    _KNOWN.of(project, None, dict)


def _library(project: Project) -> tuple[int, ...]:
    return project.stamp("prefabs", "materials")


def known_doors(project: Project, room_name: str) -> tuple[Doors | None, bool]:
    """What was found last for a room, without looking, and whether it is still so."""
    found = _KNOWN.of(project, None, dict).get(room_name)
    if found is None:
        return None, False
    return found[1], found[0] == (project.rooms.revision(room_name), _library(project))


def doors_of(project: Project, room_name: str) -> Doors:
    """The doors of a room; looked for anew when the room or a prefab changes."""
    return _doors_of(project, room_name, _KNOWN.of(project, None, dict), _library(project))


def doors_by_room(project: Project) -> dict[str, Doors]:
    """Those of all rooms, in their order."""
    known, library = _KNOWN.of(project, None, dict), _library(project)
    return {name: _doors_of(project, name, known, library) for name in project.rooms}


def _doors_of(project: Project, room_name: str, known: _Known, library: tuple[int, ...]) -> Doors:
    stamp = (project.rooms.revision(room_name), library)
    found = known.get(room_name)
    if found is None or found[0] != stamp:
        try:
            doors = _looked_for(project, project.rooms.passing(room_name))
        except TopionError:  # it is said where that room is opened or surveyed
            doors = _UNREAD
        found = known[room_name] = (stamp, doors)
    return found[1]


def _looked_for(project: Project, room: Room) -> Doors:
    doors, starts, goals, numbers = list[DoorAt](), list[Cell](), list[GoalAt](), set[int]()
    with_roles = {prefab.name for prefab in project.prefabs.values() if prefab.role is not None}
    for layer_id, layer in room.bottom_up("things"):
        numbers.update(layer.things)
        for number, thing in layer.things.items():
            if thing.role is None and thing.prefab not in with_roles:
                continue
            role, cell = role_of(project, thing), standing_cell(thing, room.info.axes)
            if isinstance(role, Start):
                starts.append(cell)
            elif isinstance(role, Goal):
                goals.append(GoalAt(layer_id, number, thing.prefab, cell, role.ends == "the world"))
            elif isinstance(role, Door):
                doors.append(DoorAt(room.info.name, layer_id, number, thing.prefab, cell,
                                    role.room, role.door, role.ends_world,
                                    when_of(project, thing), role.place))  # fmt: skip
    tints = tuple(layer.info.name for _, layer in room.tint_maps())
    return Doors(tuple(doors), tuple(starts), tuple(goals), frozenset(numbers), room.info, tints,
                 frozenset(_holds(project, room)))  # fmt: skip


def _holds(project: Project, room: Room) -> Iterator[str]:
    """The names of the prefabs and materials of a room."""
    for _, layer in room.bottom_up():
        yield from {thing.prefab for thing in layer.things.values()}
        material = layer.planes.get("material")
        if material is not None:
            met = np.zeros(len(project.materials) + 1, bool)
            for part in material:  # slab by slab, as rooms may be large
                met[part] = True
            for number in np.flatnonzero(met[1:]).tolist():
                yield project.materials[number]


def begins_at(project: Project) -> str:
    """The room in which the world starts: that of the place on the plan that says so, else the
    first one that has a start; empty for none."""
    said = [p.room for p in project.shelf("placements").values() if p.begins]
    rooms = (*(room for room in said if room in project.rooms), *project.rooms)
    return next((name for name in rooms if doors_of(project, name).starts), "")


def every_door(project: Project) -> Iterator[DoorAt]:
    """Of all rooms, in their order."""
    for known in doors_by_room(project).values():
        yield from known.doors


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
