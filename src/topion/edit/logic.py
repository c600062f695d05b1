"""Edits of what things do while their room is walked: roles, conditions, what counts."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
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
_DOOR_INK = "#cf4a25"


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


def link_doors(
    project: Project, here: DoorEnd, there: DoorEnd, *, back: bool,
    places: tuple[str, str] = ("", ""),
) -> Edit:  # fmt: skip
    """Let a door lead to another one, and that back to it.  places : where on the plan the rooms
    of both are meant, empty for their first place.  Raises BadValue for what is no door."""
    ways = ((here, there, places[1]), (there, here, places[0]))[: 2 if back else 1]
    edits = [_led(project, *way) for way in ways]
    label = f"Door into {there[0]}" + (" and back" if back else "")
    return joined(label, edits, _DOOR_INK)


def link_to_start(project: Project, here: DoorEnd, room: str, place: str = "") -> Edit:
    """Let a door lead to where a room starts.  Raises BadValue and UnknownName."""
    project.room(room)
    return replace(_led(project, here, (room, None), place), label=f"Door into {room}",
                   colour=_DOOR_INK)  # fmt: skip


def unlink_doors(project: Project, ends: Iterable[DoorEnd]) -> Edit:
    """Let doors lead nowhere.  Raises BadValue for what is none."""
    return joined("Unlink", [_led(project, end, ("", None), "") for end in ends], _DOOR_INK)


def set_ends_world(project: Project, end: DoorEnd, ends: bool) -> Edit:
    """Let a door end the world, or not.  Raises BadValue for what is none."""
    thing, role = _door(project, end)
    edit = set_role(project, end[0], {end[1]: thing}, replace(role, ends_world=ends))
    return replace(edit, label="Door ends the world" if ends else "Door leads on")


def _door(project: Project, end: DoorEnd) -> tuple[Thing, Door]:
    """Raises BadValue for what is none."""
    room_name, pick = end
    thing = project.room(room_name).layers[pick.layer].things[pick.number]
    role = role_of(project, thing)
    if not isinstance(role, Door):
        raise BadValue(f"the role of {thing.prefab} in {room_name}",
                       role.kind if role is not None else "none", "a door")  # fmt: skip
    return thing, role


def _led(project: Project, end: DoorEnd, to: tuple[str, Pick | None], place: str) -> Edit:
    thing, role = _door(project, end)
    number = to[1].number if to[1] is not None else 0
    return set_role(project, end[0], {end[1]: thing},
                    replace(role, room=to[0], door=number, place=place))  # fmt: skip


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
