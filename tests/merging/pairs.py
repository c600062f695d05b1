"""Pairs of projects that grew out of one, and what becomes of them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import Any

from tests.rooms import small_room
from topion.edit.history import History
from topion.formats.room_files import read_room
from topion.formats.store import room_parts
from topion.merging.naming import project_of
from topion.merging.trees import ChangedTree, FilesTree, tree_in_memory
from topion.merging.whole import merged_trees
from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.room import Room
from topion.scripting import ProjectHandle, RoomHandle

Stroke = tuple[str, tuple[int, int, int, int]]
WIDE = 40
SIZE = (14, WIDE)


@dataclass
class Pair:
    """Three rooms of three projects."""

    base: RoomHandle
    ours: RoomHandle
    theirs: RoomHandle


@dataclass
class Found:
    project: Project
    conflicts: tuple[Any, ...]


def painted(strokes: list[Stroke], shift: int = 0) -> RoomHandle:
    """The room with strokes, each a box of cells, so many columns on."""
    room = small_room(SIZE)
    lay_all(room, strokes, shift)
    return room


def lay_all(room: RoomHandle, strokes: list[Stroke], shift: int) -> None:
    """Strokes, each a box of cells, so many columns on."""
    for brush, (y, x, tall, wide) in strokes:
        lo, hi = (y, x + shift), (min(y + tall, SIZE[0] - 1), x + wide + shift)
        room.lay(brush, box=(lo, hi))


def drawn_apart(ours: list[Stroke], theirs: list[Stroke]) -> Pair:
    """Ours in the west, theirs in the east: no weave of one sees what the other laid."""
    return Pair(painted([]), painted(ours), painted(theirs, shift=20))


def merged(pair: Pair) -> Found:
    found = merged_trees(
        *(tree_in_memory(h.project.data) for h in (pair.base, pair.ours, pair.theirs))
    )
    return Found(project_of(found.files), found.conflicts)


def edits_since(base: RoomHandle, later: RoomHandle) -> list[Edit]:
    """What was done there beyond what both did."""
    return later.project.history.edits[len(base.project.history.edits) :]


def onto(pair: Pair) -> Project:
    """Ours, with what was done in theirs."""
    project = pair.ours.project.data
    for edit in edits_since(pair.base, pair.theirs):
        for record in edit.records:
            moved = record.onto(project)
            if moved is not None:
                moved.write(project)
    return project


def without_numbers(project: Project) -> list[str]:
    """All things of a project, whatever numbers they have."""
    layers = (layer for room in project.rooms.values() for layer in room.layers.values())
    return sorted(repr(thing) for layer in layers for thing in layer.things.values())


@cache
def _beginning() -> tuple[Project, FilesTree]:
    project = small_room(SIZE).project.data
    return project, tree_in_memory(project)


@dataclass
class Quick:
    """A copy of the room, and the files of its project, of which only those of the room are made
    anew: a thousand of them take seconds."""

    room: RoomHandle
    tree: ChangedTree
    edits: list[Edit]


def quick(strokes: list[Stroke], shift: int = 0) -> Quick:
    """The same as `painted`."""
    project, files = _beginning()
    handle = ProjectHandle(project.frozen())
    handle.history = History(handle.data)
    room = handle.room("Yard")
    lay_all(room, strokes, shift)
    own = {name: data for part in room_parts(handle.data, room.data) for name, data in part.files()}
    gone = {name: None for name in files.names if name.startswith("rooms/") and name not in own}
    return Quick(room, ChangedTree(files, {**own, **gone}), handle.history.edits)


def merged_room(base: Quick, ours: Quick, theirs: Quick) -> tuple[Room, tuple[Any, ...]]:
    """The room that comes of two, and what both changed."""
    found = merged_trees(base.tree, ours.tree, theirs.tree)
    there = found.files.names.__contains__
    project = ours.room.project.data
    read = read_room(project, "Yard", found.files.read, there, lambda _: None)
    return read.room, found.conflicts


def held(room: Room) -> dict[str, Any]:
    """All that lies in a room, whatever numbers its entries have."""
    found: dict[str, Any] = {"info": room.info, "order": room.order}
    for layer_id, layer in room.layers.items():
        found[layer_id] = layer.info
        for plane in layer.info.traits.planes:
            found[f"{layer_id}.{plane}"] = layer.plane(plane).tolist()
        for table in layer.info.traits.tables:
            found[f"{layer_id}.{table}"] = sorted(map(repr, layer.table(table).values()))
    return found
