"""Things taken from one room into another, with the doors that lead to them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from topion.brushes.stamped_entries import numbered
from topion.edit.logic import DoorEnd
from topion.edit.picked_moves import seated
from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.model.edit import Edit, Record
from topion.model.layer import Entry
from topion.model.prefab import Thing, standing_cell
from topion.model.project import Project
from topion.model.records import entries_changed
from topion.model.room import Room
from topion.model.walked import role_of
from topion.roles import Door


def carry_things(
    project: Project, source: str, picks: Iterable[Pick], target: str, by: tuple[float, float],
    led: Iterable[DoorEnd] = (),
) -> Edit:  # fmt: skip
    """Things of one room into another, so many (y, x) cells on; what they were attached to stays.

    They come into the layer that is called as theirs, else into the topmost one of things.
    led : doors that lead to any of them; they lead to them in the other room then.
    Raises UnknownName, and BadValue where the other room cannot hold them.
    """
    old, new, picks = project.room(source), project.room(target), list(picks)
    if old.info.axes != new.info.axes:
        raise BadValue("where the things go", target, f"a room of the same kind as {source}")
    added: dict[tuple[str, str], list[Entry]] = {}
    came: dict[tuple[str, str], list[Pick]] = {}
    for pick in picks:
        thing = _carried(project, old.layers[pick.layer].things[pick.number], new, by)
        key = (_layer_for(old, pick, new), "things")
        added.setdefault(key, []).append(thing)
        came.setdefault(key, []).append(pick)
    records: list[Record] = []
    for layer_id in dict.fromkeys(pick.layer for pick in picks):
        gone = {pick.number: None for pick in picks if pick.layer == layer_id}
        records += entries_changed(old, layer_id, "things", gone)
    put, numbers = numbered(new, added)
    now = {pick: number for (layer_id, _), own in came.items()
           for pick, number in zip(own, numbers[layer_id], strict=True)}  # fmt: skip
    records += put
    for room, pick in led:
        if pick not in now or room != source:
            records += _led(project, room, pick, source, target, now)
    what = f"{len(picks)} things" if len(picks) > 1 else _name(old, picks)
    return Edit(f"Take {what} into {target}", tuple(records), "#22303a")


def _name(room: Room, picks: list[Pick]) -> str:
    return room.layers[picks[0].layer].things[picks[0].number].prefab if picks else "nothing"


def _carried(project: Project, thing: Thing, room: Room, by: tuple[float, float]) -> Thing:
    moved = replace(thing, y=round(thing.y + by[0], 6), x=round(thing.x + by[1], 6), attached=None,
                    along=None)  # fmt: skip
    if room.info.axes == 3:
        moved = seated(project, room, moved)
    cell = standing_cell(moved, room.info.axes)
    if not all(0 <= v < side for v, side in zip(cell[-2:], room.info.plan, strict=True)):
        raise BadValue(f"where {thing.prefab} goes", cell, f"inside {room.info.name}")
    return moved


def _layer_for(old: Room, pick: Pick, new: Room) -> str:
    named = old.layers[pick.layer].info.name
    known = new.bottom_up("things")
    free = [layer_id for layer_id, layer in known if not layer.info.locked]
    if not free:
        raise BadValue(f"the layers of {new.info.name}", "no layer of things that is not locked",
                       "one to hold them")  # fmt: skip
    return next((i for i in free if new.layers[i].info.name == named), free[-1])


def _led(
    project: Project, room: str, pick: Pick, source: str, target: str, now: dict[Pick, int]
) -> Iterable[Record]:
    """A door that leads to a thing that went."""
    thing = project.room(room).layers[pick.layer].things[pick.number]
    role = role_of(project, thing)
    went = {old.number: number for old, number in now.items()}
    if not isinstance(role, Door) or role.room != source or role.door not in went:
        return ()
    other = replace(role, room=target, door=went[role.door], place="")
    return entries_changed(project.room(room), pick.layer, "things",
                           {pick.number: replace(thing, role=other)})  # fmt: skip
