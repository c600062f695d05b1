"""Edits of what things do while their room is walked: roles, conditions, what counts."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

from topion.edit.picked import things_changed
from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.model.condition import Condition, When
from topion.model.edit import Edit, joined
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.model.role import Role
from topion.model.room import Room
from topion.model.walked import role_of, when_of
from topion.roles import Door

Picked = Mapping[Pick, Thing]
DoorEnd = tuple[str, Pick]  # a room, and the thing in it that is a door


def set_role(project: Project, room_name: str, things: Picked, role: Role | None) -> Edit:
    """Give things a role of their own, or that of their prefab again."""
    after = {pick: replace(thing, role=role) for pick, thing in things.items()}
    return things_changed(project, room_name, after, "Role of")


def set_when(project: Project, room_name: str, things: Picked, when: When | None) -> Edit:
    """Let things appear or open otherwise, or as their prefab again."""
    after = {pick: replace(thing, when=when) for pick, thing in things.items()}
    return things_changed(project, room_name, after, "Condition of")


def set_counts(project: Project, room_name: str, things: Picked, counts: bool | None) -> Edit:
    """Let things count for clearing their room, or not, or as their prefab says."""
    after = {pick: replace(thing, counts=counts) for pick, thing in things.items()}
    return things_changed(project, room_name, after, "Count for clearing:")


def link_doors(project: Project, here: DoorEnd, there: DoorEnd, *, back: bool) -> Edit:
    """Let a door lead to another one, and that back to it.  Raises BadValue for what is none."""
    ways = ((here, there), (there, here)) if back else ((here, there),)
    edits = [_led(project, *way) for way in ways]
    return joined(f"Door into {there[0]}" + (" and back" if back else ""), edits)


def _led(project: Project, end: DoorEnd, to: DoorEnd) -> Edit:
    room_name, pick = end
    thing = project.room(room_name).layers[pick.layer].things[pick.number]
    role = role_of(project, thing)
    if not isinstance(role, Door):
        raise BadValue(f"the role of {thing.prefab} in {room_name}",
                       role.kind if role is not None else "none", "a door")  # fmt: skip
    return set_role(project, room_name, {pick: thing},
                    replace(role, room=to[0], door=to[1].number))  # fmt: skip


def spoken_of(condition: Condition) -> tuple[int, ...]:
    """The numbers of the things that a condition speaks of."""
    found: tuple[int, ...] = getattr(condition, "things", tuple)()
    return found


def threads(
    project: Project, room: Room, pick: Pick, thing: Thing
) -> Iterator[tuple[Thing, Thing]]:
    """(what waits, what it waits for) of each condition that a thing has or is spoken of in."""
    every = {n: t for _, layer in room.bottom_up("things") for n, t in layer.things.items()}
    for condition in when_of(project, thing).all_of:
        for number in spoken_of(condition):
            if number in every:
                yield thing, every[number]
    for number, other in every.items():
        if number != pick.number and (other.when or _waits(project, other)):
            for condition in when_of(project, other).all_of:
                if pick.number in spoken_of(condition):
                    yield other, thing


def _waits(project: Project, thing: Thing) -> bool:
    prefab = project.prefabs.get(thing.prefab)
    return prefab is not None and bool(prefab.when.all_of)
