"""Edits of rooms and their layers."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import replace

import numpy as np

from topion.edit.names import remembered, renamed_everywhere
from topion.edit.whole import whole_room
from topion.errors import BadValue, NameTaken
from topion.grid.boxes import Box
from topion.model.ban import Ban
from topion.model.curve import Curve
from topion.model.edit import Edit, Record
from topion.model.layer import Entry, Layer, LayerInfo
from topion.model.piece import Piece
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.model.records import (
    ItemRecord,
    RoomNameRecord,
    SizeRecord,
    cells_changed,
    entries_changed,
    item_changed,
    taken_away,
)
from topion.model.room import Room, RoomInfo

_ROOM_SETTINGS = (
    "cell_px", "seen", "backdrop", "notes", "metres", "grows", "theme", "tint", "light", "tags"
)  # fmt: skip
# of a layer
_SETTINGS = (
    "name", "shown", "locked", "opacity", "offset", "brush", "attached", "group",
    "purpose", "values",
)  # fmt: skip


def add_room(project: Project, info: RoomInfo, layers: tuple[LayerInfo, ...]) -> Edit:
    """A new room with empty layers, bottom to top; raises NameTaken."""
    if info.name in project.rooms:
        raise NameTaken("room", info.name)
    planned = Room(info)
    records: list[Record] = [ItemRecord(("rooms", info.name), None, info)]
    for layer in layers:
        layer_id = planned.new_layer_id(layer.name)
        planned.layers[layer_id] = Layer.empty(layer, info.size, info.origin)
        records.append(ItemRecord(("layers", info.name, layer_id), None, layer))
    records.append(ItemRecord(("order", info.name), (), tuple(planned.layers)))
    return Edit(f"New room {info.name}", tuple(records))


def usual_layers(info: RoomInfo) -> tuple[LayerInfo, ...]:
    """Those of a new room of which nobody asked for others: one for cells and one for things."""
    ground = "Blocks" if info.axes == 3 else "Ground"
    return LayerInfo(ground, info.cells_kind), LayerInfo("Things", "things")


def add_layer(project: Project, room_name: str, info: LayerInfo, above: str = "") -> Edit:
    """A new empty layer above the layer `above`, or on top."""
    room = project.room(room_name)
    layer_id = room.new_layer_id(info.name)
    order = list(room.order)
    order.insert(order.index(above) + 1 if above in order else len(order), layer_id)
    return Edit(
        f"New layer {info.name}",
        (
            ItemRecord(("layers", room_name, layer_id), None, info),
            ItemRecord(("order", room_name), room.order, tuple(order)),
        ),
    )


def set_layer(project: Project, room_name: str, layer_id: str, **changes: object) -> Edit:
    """Change name, shown, locked, opacity or offset of a layer; what is attached to it is drawn
    beside as far."""
    info = project.room(room_name).layer(layer_id).info
    for key in changes:
        if key not in _SETTINGS:
            raise BadValue("the setting of a layer", key, f"one of {', '.join(_SETTINGS)}")
    new = replace(info, **changes)  # type: ignore[arg-type]
    if new == info:
        return Edit(info.name)
    words = {"shown": "Show" if new.shown else "Hide", "locked": "Lock" if new.locked else "Unlock"}
    verb = next((words[key] for key in changes if key in words), "Set")
    records = [item_changed(("layers", room_name, layer_id), info, new)]
    room = project.room(room_name)
    step = tuple(a - b for a, b in zip(new.offset, info.offset, strict=True))
    for other in moving_along(room, layer_id)[1:] if any(step) else ():
        own = room.layers[other].info
        beside = replace(own, offset=(own.offset[0] + step[0], own.offset[1] + step[1]))
        records.append(item_changed(("layers", room_name, other), own, beside))
    if new.name != info.name and info.traits.worn:
        records += _places_renamed(project, room_name, info.name, new.name)
    return Edit(f"{verb} {new.name}", tuple(records))


def _places_renamed(project: Project, room_name: str, old: str, new: str) -> Iterator[Record]:
    """Places of a room on the plan go on wearing a tint map that has another name."""
    for name, place in project.shelf("placements").items():
        if place.room == room_name and place.tint == old:
            yield item_changed(("placements", name), place, replace(place, tint=new))


def moving_along(room: Room, layer_id: str) -> list[str]:
    """A layer and all that are attached to it, or to those."""
    found = [layer_id]
    for known in found:
        found += [
            i for i, la in room.layers.items() if la.info.attached == known and i not in found
        ]
    return found


def move_layer(project: Project, room_name: str, layer_id: str, place: int) -> Edit:
    """Put a layer at a place in the order, 0 at the bottom."""
    room = project.room(room_name)
    order = [known for known in room.order if known != layer_id]
    order.insert(max(0, min(place, len(order))), layer_id)
    if tuple(order) == room.order:
        return Edit("Move layer")
    record = ItemRecord(("order", room_name), room.order, tuple(order))
    return Edit(f"Move {room.layer(layer_id).info.name}", (record,))


def remove_layer(project: Project, room_name: str, layer_id: str) -> Edit:
    """Take a layer away with all that lies in it."""
    room = project.room(room_name)
    layer = room.layer(layer_id)
    order = tuple(known for known in room.order if known != layer_id)
    bare: tuple[Record, ...] = ()
    if room.info.tint == layer_id:
        bare = (item_changed(("rooms", room_name), room.info, replace(room.info, tint="")),)
    records = (
        *bare,
        *_loosened(room, room_name, layer_id),
        *_emptied(room, layer_id, layer),
        ItemRecord(("order", room_name), room.order, order),
        ItemRecord(("layers", room_name, layer_id), layer.info, None),
    )
    return Edit(f"Remove layer {layer.info.name}", records)


def _loosened(room: Room, room_name: str, layer_id: str) -> Iterator[Record]:
    """What was attached to a layer stands by itself."""
    for other, layer in room.layers.items():
        if layer.info.attached == layer_id:
            free = replace(layer.info, attached="")
            yield item_changed(("layers", room_name, other), layer.info, free)


def set_room(project: Project, room_name: str, **changes: object) -> Edit:
    """Change cell size, view, backdrop, notes, metres, tags, looks, or whether it grows.

    Raises BadValue for other settings, and for values that they cannot have.
    """
    info = project.room(room_name).info
    for key in changes:
        if key not in _ROOM_SETTINGS:
            wanted = f"one of {', '.join(_ROOM_SETTINGS)}"
            raise BadValue("the setting of a room", key, wanted)
    new = replace(info, **changes)  # type: ignore[arg-type]
    if new == info:
        return Edit(room_name)
    return Edit(f"Set {room_name}", (item_changed(("rooms", room_name), info, new),))


def rename_room(project: Project, old: str, new: str) -> Edit:
    """Give a room another name, in its place among the others.  Raises NameTaken and BadValue."""
    project.room(old)
    if new == old:
        return Edit(old)
    if new in project.rooms:
        raise NameTaken("room", new)
    replace(project.room(old).info, name=new)  # raises BadValue
    names = [("rooms", old, new)]
    uses = (*renamed_everywhere(project, names), *remembered(project, names))
    return Edit(f"Rename {old} to {new}", (*uses, RoomNameRecord(old, new)))


def duplicate_room(project: Project, room_name: str, name: str) -> Edit:
    """The same room once more under another name.  Raises NameTaken."""
    room = project.room(room_name)
    if name in project.rooms:
        raise NameTaken("room", name)
    copy = replace(room, info=replace(room.info, name=name))
    return Edit(f"Duplicate {room_name}", tuple(whole_room(copy)))


def clear_layer(project: Project, room_name: str, layer_id: str) -> Edit:
    """Nothing lies in a layer any more; the layer stays."""
    room = project.room(room_name)
    layer = room.layer(layer_id)
    records = _emptied(room, layer_id, layer)
    return Edit(f"Clear {layer.info.name}", tuple(records))


def clear_room(project: Project, room_name: str) -> Edit:
    """Nothing lies in any layer of a room; the layers stay."""
    room = project.room(room_name)
    records = [record for layer_id, layer in room.bottom_up()
               for record in _emptied(room, layer_id, layer)]  # fmt: skip
    return Edit(f"Clear {room_name}", tuple(records))


def shift_contents(
    project: Project, room_name: str, by: tuple[int, ...], *, wraps: bool = False
) -> Edit:
    """All that lies in a room so many cells on; what leaves it is gone, or comes in again at the
    other edge.  Raises BadValue."""
    room = project.room(room_name)
    if len(by) != room.info.axes:
        raise BadValue("the way of the contents", by, f"{room.info.axes} numbers in {room_name}")
    records = [r for layer_id in room.layers for r in shifted_layer(room, layer_id, by, wraps)]
    return Edit(f"Shift {room_name}", tuple(records))


def shifted_layer(
    room: Room, layer_id: str, by: tuple[int, ...], wraps: bool = False
) -> Iterator[Record]:
    """All that lies in a layer so many cells on; see `shift_contents`."""
    layer = room.layers[layer_id]
    yield from _shifted_planes(room, layer_id, layer, by, wraps)
    for table, entries in layer.tables.items():
        moved = {n: _shifted_entry(room, entry, by, wraps) for n, entry in entries.items()}
        yield from entries_changed(room, layer_id, table, moved)


def _shifted_planes(
    room: Room, layer_id: str, layer: Layer, by: tuple[int, ...], wraps: bool
) -> Iterator[Record]:
    before, after = {}, {}
    for name, plane in layer.planes.items():
        step = by[-plane.ndim :]
        moved = np.roll(plane, step, axis=tuple(range(plane.ndim)))
        if not wraps:
            for axis, (d, side) in enumerate(zip(step, plane.shape, strict=True)):
                gone = slice(0, min(d, side)) if d > 0 else slice(max(0, side + d), side)
                moved[(slice(None),) * axis + (gone if d else slice(0, 0),)] = 0
        before[name], after[name] = plane.reshape(-1), moved.reshape(-1)
    if before:
        shape = next(iter(layer.planes.values())).shape
        flat = np.arange(math.prod(shape), dtype=np.intp)
        yield from cells_changed(room.info.name, layer_id, shape, flat, before, after)


def _shifted_entry(room: Room, entry: Entry, by: tuple[int, ...], wraps: bool) -> Entry | None:
    """None for one that leaves the room."""
    moved = entry.shifted(by)
    if isinstance(moved, Ban):
        return moved
    box = moved.box if isinstance(moved, Piece | Curve) else None
    size = room.info.size
    first = (
        box.lo if box is not None else tuple(math.floor(v + 0.5) for v in moved.at[-len(size) :])
    )
    if wraps:
        back = tuple(-(v // n) * n for v, n in zip(first, size, strict=True))
        return moved.shifted(back) if any(back) else moved
    inside = room.box.meets(box) if box is not None else bool(room.box.holds(np.array([first]))[0])
    return moved if inside else None


def remove_room(project: Project, room_name: str) -> Edit:
    """Take a room away with all its layers, and off the plan."""
    room = project.room(room_name)
    records: list[Record] = [
        taken_away(project, ("placements", name))
        for name, place in reversed(project.shelf("placements").items())
        if place.room == room_name
    ]
    for layer_id, layer in room.bottom_up():
        records += _emptied(room, layer_id, layer)
    records.append(ItemRecord(("order", room_name), room.order, ()))
    for layer_id, layer in room.bottom_up():
        records.append(ItemRecord(("layers", room_name, layer_id), layer.info, None))
    if room.numbers:
        records.append(ItemRecord(("numbers", room_name), room.numbers, 0))
    if room.conflicts:
        records.append(ItemRecord(("room_conflicts", room_name), room.conflicts, ()))
    records.append(taken_away(project, ("rooms", room_name)))
    return Edit(f"Remove room {room_name}", tuple(records))


def resize_room(
    project: Project, room_name: str, size: tuple[int, ...], shift: tuple[int, ...] = ()
) -> Edit:
    """Another size in cells; what does not fit is cut off, and comes back when undone.

    shift : where the old first cell comes to lie; things and pieces move with it.  Raises BadValue.
    """
    room = project.room(room_name)
    shift = shift or (0,) * len(size)
    if len(size) != room.info.axes or len(shift) != room.info.axes:
        raise BadValue("the new size", size, f"{room.info.axes} numbers in {room_name}")
    info = replace(room.info, size=tuple(size))  # raises BadValue
    if info == room.info and not any(shift):
        return Edit(room_name)
    kept = Box(
        tuple(-step for step in shift), tuple(n - s for n, s in zip(size, shift, strict=True))
    )
    records: list[Record] = []
    for layer_id, layer in room.bottom_up():
        records += _emptied(room, layer_id, layer, kept)
    for layer_id, layer in room.bottom_up():
        for table, entries in layer.tables.items():
            moved = {number: entry.shifted(shift) for number, entry in entries.items()}
            records += entries_changed(room, layer_id, table, moved)
    records.append(SizeRecord(room_name, room.info.size, info.size, shift))
    return Edit(f"Resize {room_name}", tuple(records))


def _emptied(room: Room, layer_id: str, layer: Layer, kept: Box | None = None) -> list[Record]:
    """Records that open all cells of a layer outside the box `kept`; without one, they also
    take away its entries."""
    records: list[Record] = []
    if layer.planes:
        shape = next(iter(layer.planes.values())).shape
        filled = np.logical_or.reduce([plane > 0 for plane in layer.planes.values()])
        if kept is not None:
            inner = Box(kept.lo[-len(shape) :], kept.hi[-len(shape) :])
            filled[inner.clipped(Box.of_shape(shape)).slices] = False
        flat = np.flatnonzero(filled)
        before = {name: plane.reshape(-1)[flat] for name, plane in layer.planes.items()}
        after = {name: np.zeros_like(values) for name, values in before.items()}
        records += cells_changed(room.info.name, layer_id, shape, flat, before, after)
    if kept is None:
        for table, entries in layer.tables.items():
            records += entries_changed(room, layer_id, table, dict.fromkeys(entries))
    return records


def change_things(
    project: Project, room_name: str, layer_id: str, after: Mapping[int, Thing | None], label: str
) -> Edit:
    """Replace things by number; None takes one away."""
    return Edit(label, entries_changed(project.room(room_name), layer_id, "things", after))
