"""A whole project as one Edit, for journals of projects that have no folder yet."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from topion.model.edit import Edit, Record
from topion.model.project import Project
from topion.model.records import ItemRecord, cells_changed, entries_changed
from topion.model.room import Room
from topion.model.shelves import TABLES, shelves
from topion.model.sound import check_library, check_room


def whole(project: Project) -> Edit:
    """What makes an empty project hold all that this one does; reads every room."""
    records: list[Record] = []
    for shelf in shelves():
        for name, item in project.shelf(shelf.name).items():
            records.append(ItemRecord((shelf.name, name), None, item))
    empty = Project("")
    for table in TABLES:
        before, after = getattr(empty, table), getattr(project, table)
        if before != after:
            records.append(ItemRecord((table,), before, after))
    for room in project.rooms.each():
        records += whole_room(room)
    return Edit(f"Begin {project.name}", tuple(records)).sealed()


def whole_room(room: Room) -> Iterator[Record]:
    """What makes a project hold a room that it does not have."""
    name = room.info.name
    yield ItemRecord(("rooms", name), None, room.info)
    for layer_id, layer in room.bottom_up():
        yield ItemRecord(("layers", name, layer_id), None, layer.info)
    if room.order:
        yield ItemRecord(("order", name), (), room.order)
    if room.numbers:
        yield ItemRecord(("numbers", name), 0, room.numbers)
    if room.conflicts:
        yield ItemRecord(("room_conflicts", name), (), room.conflicts)
    blank = Room(room.info, numbers=room.numbers)
    for layer_id, layer in room.bottom_up():
        for plane, values in layer.planes.items():
            flat = np.flatnonzero(values)
            after = values.reshape(-1)[flat]
            before = {plane: np.zeros_like(after)}
            yield from cells_changed(name, layer_id, values.shape, flat, before, {plane: after})
        for table in layer.tables:
            blank.layers[layer_id] = type(layer).empty(layer.info, room.info.size)
            yield from entries_changed(blank, layer_id, table, layer.table(table))


def project_of(edit: Edit) -> Project:
    """The project that such an Edit makes.  Raises TopionError for one that is not sound."""
    project = Project("")
    for record in edit.records:
        record.check(project)
        record.write(project)
    check_library(project)
    for room in project.rooms.each():
        check_room(project, room.info.name, room)
    return project
