"""Taking a part of another version of a room over into this one, as one Edit."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from topion.comparing.rooms import EntryChanged, RoomChanged
from topion.edit.names import copy_item
from topion.errors import BadValue
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.model.edit import Edit, Record, joined, written
from topion.model.layer import Entry, Layer
from topion.model.naming import naming_of, translation
from topion.model.project import Project
from topion.model.records import cells_changed, entries_changed
from topion.model.refs import uses
from topion.model.room import Room

COLOUR = "#23786f"


def take_over(
    project: Project,
    room_name: str,
    other: tuple[Project, Room],
    found: RoomChanged,
    area: Area | None = None,
) -> Edit:
    """What another version has otherwise, in an area of cells, or all over the room.

    found : what differs, with the other version as the earlier one.  Brushes and prefabs that are
    laid there and that this project does not have come along.  Raises BadValue where nothing
    differs there, and for a room of another kind.
    """
    scratch = project.scratch()
    scratch.rooms[room_name] = project.room(room_name).frozen()
    other_project, other_room = other
    if other_room.info.axes != project.room(room_name).info.axes:
        raise BadValue("the other version", other_room.info.name, "a room of the same kind")
    edits = list(_library(scratch, other_project, found, other_room))
    records = tuple(_records(scratch, room_name, other, found, area))
    if not records:
        raise BadValue("what is taken over", "nothing", "something that differs there")
    return joined(f"Take over {room_name}", [*edits, Edit("", records)], COLOUR)


def _library(scratch: Project, other: Project, found: RoomChanged, room: Room) -> Iterator[Edit]:
    """What is used there and lacks here."""
    wanted: list[tuple[str, str]] = []
    for entry in found.entries:
        if entry.before is not None:
            wanted += ((use.kind, use.name) for use in uses(entry.before) if not use.perhaps)
    for layer in room.layers.values():
        for plane in layer.planes:
            naming = naming_of(other, layer, plane)
            if naming is not None and plane in ("material", "inlay"):
                names = naming.used(layer.planes[plane]).values()
                wanted += (("brushes", name[0]) for name in names)
    for shelf, name in dict.fromkeys(wanted):
        known = shelf in other.library and name in other.shelf(shelf)
        if known and name not in scratch.shelf(shelf) and not _is_material(scratch, shelf, name):
            yield from written(scratch, [copy_item(other, scratch, shelf, name)])


def _is_material(project: Project, shelf: str, name: str) -> bool:
    return shelf == "brushes" and name in project.materials


def _records(
    scratch: Project,
    room_name: str,
    other: tuple[Project, Room],
    found: RoomChanged,
    area: Area | None,
) -> Iterator[Record]:
    room, (other_project, other_room) = scratch.room(room_name), other
    none = (0,) * room.info.axes
    origins = zip(other_room.info.origin or none, room.info.origin or none, strict=True)
    shift = tuple(a - b for a, b in origins)
    for layer_id, layer in room.layers.items():
        theirs = other_room.layers.get(layer_id)
        if theirs is None or theirs.info.kind != layer.info.kind:
            continue
        for plane in layer.info.traits.planes:
            yield from _cells(scratch, room, layer_id, (other_project, theirs), plane, shift, area)
        tables = {entry.table for entry in found.entries if entry.layer == layer_id}
        for table in sorted(tables):
            own = [e for e in found.entries if (e.layer, e.table) == (layer_id, table)]
            after = dict(_entries(room, own, area))
            yield from entries_changed(room, layer_id, table, after)


def _entries(
    room: Room, changed: list[EntryChanged], area: Area | None
) -> Iterator[tuple[int, Entry | None]]:
    """What shall stand under which number.  Entries of other prefabs or brushes that share a number
    by chance are two."""
    free = room.next_number()
    for entry in changed:
        old, new = entry.before, entry.after
        if old is not None and new is not None and _what(old) != _what(new):
            if _lies_in(new, area):
                yield entry.number, None
            if _lies_in(old, area):
                yield free, old
                free += 1
        elif _lies_in(old, area) or _lies_in(new, area):
            yield entry.number, old


def _what(entry: Entry) -> object:
    return getattr(entry, "prefab", None) or getattr(entry, "brush", None)


def _lies_in(entry: Entry | None, area: Area | None) -> bool:
    """Whether it lies in the area."""
    if entry is None or area is None:
        return entry is not None
    box = entry.touched
    return bool(area.in_plan(len(box.lo)).within(box).any())


def _cells(
    scratch: Project,
    room: Room,
    layer_id: str,
    other: tuple[Project, Layer],
    plane: str,
    shift: tuple[int, ...],
    area: Area | None,
) -> Iterator[Record]:
    layer, (other_project, theirs) = room.layers[layer_id], other
    shape = layer.shape(plane)
    own = Box.of_shape(shape)
    place = Box.of_shape(theirs.shape(plane)).shifted(shift[-len(shape) :])
    both = own.clipped(place)
    if not both.size:
        return
    before = layer.plane(plane)[both.slices]
    after = theirs.plane(plane)[both.slices_from(place.lo)]
    here, there = naming_of(scratch, layer, plane), naming_of(other_project, theirs, plane)
    if here is not None and there is not None:
        to = translation(there.names, here.numbers(), here.bits)
        after = after if to is None else to[after].astype(before.dtype)
        known = {*here.numbers()}
        lacking = [n for n, name in there.names.items() if name not in known]
        if lacking:
            numbers = theirs.plane(plane)[both.slices_from(place.lo)] >> here.bits
            after = np.where(np.isin(numbers, lacking), before, after)
    differs = before != after
    if area is not None:
        differs &= area.in_plan(len(shape)).within(both)
    cells = np.argwhere(differs)
    if len(cells):
        flat = np.ravel_multi_index(tuple((cells + np.array(both.lo)).T), shape)
        yield from cells_changed(room.info.name, layer_id, shape, flat,
                                 {plane: before[differs]}, {plane: after[differs]})  # fmt: skip
