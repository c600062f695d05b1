"""Edits that settle what both sides of a merge changed: ours or theirs."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any, NamedTuple

import numpy as np

from topion.edit.rooms import remove_layer, remove_room
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.model.conflict import (
    CellsConflict,
    Conflict,
    EntryConflict,
    ItemConflict,
    SettingConflict,
    Side,
)
from topion.model.edit import Edit, Record, joined, written
from topion.model.layer import KINDS_OF_LAYERS
from topion.model.naming import naming_of, values_kept
from topion.model.plain import JsonRecord, from_plain, to_plain
from topion.model.project import Project
from topion.model.records import (
    ItemRecord,
    cells_changed,
    entries_changed,
    item_changed,
    taken_away,
)
from topion.model.room import Room
from topion.model.shelves import SHELVES, TABLES

COLOUR = "#b9791a"
_SIZED = ("name", "size", "origin")  # of a room, which a merge sets for both


class Open(NamedTuple):
    """A conflict to be settled.  room : in which it lies; empty for one of the library."""

    room: str
    conflict: Conflict | ItemConflict


def open_conflicts(project: Project, room_name: str = "") -> Iterator[Open]:
    """Those of the library, or of one room."""
    if not room_name:
        yield from (Open("", one) for one in project.shelf("conflicts").values())
        return
    yield from (Open(room_name, one) for one in project.room(room_name).conflicts)


def box_of(room: Room, conflict: Conflict) -> Box | None:
    """Where a conflict of a room lies in it: a box of cells; None where it has no place."""
    origin = room.info.origin or (0,) * room.info.axes
    if isinstance(conflict, CellsConflict):
        back = tuple(-v for v in origin[-len(conflict.at) :])
        return conflict.box.shifted(back)
    if isinstance(conflict, EntryConflict) and conflict.layer in room.layers:
        entry = room.layers[conflict.layer].table(conflict.table).get(conflict.number)
        return None if entry is None else entry.touched
    return None


def settled(project: Project, open_: Open, choice: Side) -> Edit:
    """What a conflict is about as one side has it, and the conflict gone.

    Raises BadValue where that version cannot be had any longer.
    """
    what = f"{choice.capitalize()}: {open_.conflict.told()}"
    if open_.conflict.side == choice:
        scratch = project.scratch()
        if open_.room:
            scratch.rooms[open_.room] = project.room(open_.room).frozen()
        first = _taken(project, open_)
        edits = list(written(scratch, [first]))
        gone = _gone(scratch, open_) if _still_there(scratch, open_) else Edit("")
        return joined(what, [*edits, gone], COLOUR)
    return replace(_gone(project, open_), label=what)


def _still_there(project: Project, open_: Open) -> bool:
    return not open_.room or open_.room in project.rooms


def _gone(project: Project, open_: Open) -> Edit:
    """The conflict is no more; all stays as it is."""
    if isinstance(open_.conflict, ItemConflict):
        return Edit("", (taken_away(project, ("conflicts", open_.conflict.name)),), COLOUR)
    before = project.room(open_.room).conflicts
    after = tuple(one for one in before if one != open_.conflict)
    return Edit("", (ItemRecord(("room_conflicts", open_.room), before, after),), COLOUR)


def _taken(project: Project, open_: Open) -> Edit:
    """The version that does not stand, in the place of the one that does."""
    conflict = open_.conflict
    if isinstance(conflict, ItemConflict):
        return Edit("", tuple(_item(project, conflict)))
    room = project.room(open_.room)
    if conflict.layer and conflict.layer not in room.layers:
        raise BadValue("the layer of the conflict", conflict.layer, "one that is still there")
    if isinstance(conflict, CellsConflict):
        return Edit("", tuple(_cells(project, room, conflict)))
    if isinstance(conflict, EntryConflict):
        return Edit("", tuple(_entry(room, conflict)))
    if isinstance(conflict, SettingConflict):
        return _setting(project, room, conflict)
    raise BadValue("the conflict", conflict.kind, "of a kind that is known here")


def _cells(project: Project, room: Room, conflict: CellsConflict) -> Iterator[Record]:
    layer = room.layers[conflict.layer]
    if not layer.has(conflict.plane):
        raise BadValue("what the conflict is about", conflict.plane, "stored in its layer")
    naming = naming_of(project, layer, conflict.plane)
    mask, values = values_kept(conflict, naming)
    shape, box = layer.shape(conflict.plane), box_of(room, conflict)
    if box is None or len(box.lo) != len(shape):
        raise BadValue("the place of the conflict", conflict.at, f"{len(shape)} numbers")
    inside = Box.of_shape(shape).clipped(box)
    if not inside.size:
        raise BadValue("the place of the conflict", conflict.at, "inside the room")
    part = inside.slices_from(box.lo)
    cells = np.argwhere(mask[part]) + np.array(inside.lo)
    flat = np.ravel_multi_index(tuple(cells.T), shape)
    after = values[part][mask[part]].astype(layer.plane(conflict.plane).dtype)
    before = layer.plane(conflict.plane).reshape(-1)[flat]
    yield from cells_changed(room.info.name, conflict.layer, shape, flat,
                             {conflict.plane: before}, {conflict.plane: after})  # fmt: skip


def _entry(room: Room, conflict: EntryConflict) -> Iterator[Record]:
    layer = room.layers[conflict.layer]
    if conflict.table not in layer.info.traits.tables:
        raise BadValue("what the conflict is about", conflict.table, "stored in its layer")
    entry = layer.table(conflict.table).get(conflict.number)
    made: Any = None
    if not conflict.gone:
        known = {} if entry is None else to_plain(entry)
        made = from_plain(_kind(conflict.table), _with(known, conflict.values))
    yield from entries_changed(room, conflict.layer, conflict.table, {conflict.number: made})


def _kind(table: str) -> Any:
    return next(kind.tables[table] for kind in KINDS_OF_LAYERS.values() if table in kind.tables)


def _with(plain: JsonRecord, values: JsonRecord) -> JsonRecord:
    """A record with other values; None takes one away."""
    return {key: value for key, value in (plain | values).items()
            if value is not None or key not in values}  # fmt: skip


def _setting(project: Project, room: Room, conflict: SettingConflict) -> Edit:
    name = room.info.name
    if conflict.gone:
        if conflict.layer:
            return remove_layer(project, name, conflict.layer)
        return remove_room(project, name)
    if conflict.layer:
        old: Any = room.layers[conflict.layer].info
        address: tuple[str, ...] = ("layers", name, conflict.layer)
    else:
        old, address = room.info, ("rooms", name)
    values = {key: value for key, value in conflict.values.items() if key not in _SIZED[1:]}
    if not conflict.layer:
        values.pop("name", None)
    new = from_plain(type(old), _with(to_plain(old), values))
    return Edit("", (item_changed(address, old, new),) if new != old else ())


def _item(project: Project, conflict: ItemConflict) -> Iterator[Record]:
    shelf, name = conflict.shelf, conflict.item
    if shelf in TABLES and not name:
        before = getattr(project, shelf)
        value = conflict.values.get(shelf)
        after = from_plain(TABLES[shelf].kind, [] if value is None else value)
        yield from (ItemRecord((shelf,), before, after),) if after != before else ()
        return
    if shelf not in SHELVES:
        raise BadValue("what the conflict is about", shelf, "part of a project")
    old = project.shelf(shelf).get(name)
    if conflict.gone:
        yield from (taken_away(project, (shelf, name)),) if old is not None else ()
        return
    new = from_plain(SHELVES[shelf].item, _with(to_plain(old) if old else {}, conflict.values))
    yield from (item_changed((shelf, name), old, new),) if new != old else ()
